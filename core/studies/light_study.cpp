#include "core/studies/light_study.h"
#include "core/light/light_paths.h"
#include "core/model/light_model.h"
#include "core/sky/weather.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <mutex>

namespace noonward {

namespace {

constexpr int replicates = 16;
/// Student's t for 15 degrees of freedom over the normal's, so that ± 2 standard errors hold 95 %; and 6 % for the rule that stops
/// where the spread looks small (figures: docs/methods.md; tests/core/tst_light holds the share above 93 %).
constexpr double studentFactor = 1.06 * 2.131 / 1.960;

Vec3 toModel(Vec3 v, double northAngle) {
  const double c = std::cos(northAngle), s = std::sin(northAngle);
  return {v.x * c - v.y * s, v.x * s + v.y * c, v.z};
}

Vec3 directionOf(double altitude, double azimuth, double northAngle) {
  return toModel({std::cos(altitude) * std::sin(azimuth), std::cos(altitude) * std::cos(azimuth), std::sin(altitude)}, northAngle);
}

} // namespace

Expected<StudySky> studySky(const Project& p, const SkyChoice& c, std::optional<Instant> fallback) {
  StudySky out;
  out.text = skyText(c);
  const double usual = 10000;
  if (c.kind == SkyKind::CieOvercast || c.kind == SkyKind::Uniform) {
    const double e = c.diffuse.value_or(usual);
    if (!(e >= 0)) return fail("The horizontal diffuse illuminance must not be negative.", "sky.diffuse");
    out.sky = c.kind == SkyKind::Uniform ? SkyLuminance::uniform(e) : SkyLuminance::cieOvercast(e);
    out.text += fmt::format(", {:.0f} lx on the horizontal", e);
    return out;
  }
  // Where the sun stands.
  std::optional<Instant> moment = fallback;
  if (c.moment) moment = p.zone().instant(*c.moment);
  Vec3 sun;
  if (c.sunAltitude) {
    sun = directionOf(*c.sunAltitude, c.sunAzimuth.value_or(pi), p.site.northAngle);
  } else {
    if (!moment) return fail("This sky needs a moment (\"2026-06-21T14:00\") or the sun's altitude and azimuth.", "sky.moment");
    const SolarPosition s = solarPosition(sunOfDate(*moment), p.site.place);
    sun = toModel(s.direction, p.site.northAngle);
  }
  const double altitude = std::asin(std::clamp(sun.z, -1.0, 1.0));
  if (c.kind == SkyKind::CieGeneral) {
    if (c.type < 1 || c.type > 15) return fail(fmt::format("The CIE general sky has types 1 to 15; {} is none.", c.type), "sky.type");
    if (sun.z <= 0 && !c.diffuse) return fail("The sun is below the horizon at this moment: this sky has no light of its own then.", "sky.moment");
    const SkyCondition condition = c.type <= 5 ? SkyCondition::Overcast : c.type <= 10 ? SkyCondition::PartlyCloudy : SkyCondition::Clear;
    const double e = c.diffuse.value_or(typicalDiffuseIlluminance(condition, altitude));
    auto sky = SkyLuminance::cieGeneral(c.type, sun, e);
    if (!sky) return tl::unexpected(sky.error());
    out.sky = *sky;
    out.beam = sun.z > 0 ? c.direct.value_or(typicalDirectIlluminance(condition, altitude)) : 0;
  } else {
    PerezInput in;
    in.sun = sun;
    in.directNormal = c.directIrradiance;
    in.diffuseHorizontal = c.diffuseIrradiance;
    in.dewPoint = c.dewPoint;
    in.dayOfYear = moment ? dayOfYear(p.zone().clock(*moment).date) : 172;
    if (c.kind == SkyKind::Weather) {
      if (!p.site.weather || !p.site.weather->whole()) return fail("This sky needs a weather year; the project has none.", "sky.kind");
      if (!moment) return fail("The sky of the weather file needs a moment.", "sky.moment");
      const Weather& w = *p.site.weather;
      const CivilTime standard = civil(*moment, w.utcOffset);
      const std::size_t i = weatherHourIndex(standard);
      const WeatherHour& h = w.hours[i];
      in.directNormal = h[WeatherField::DirectNormal];
      in.diffuseHorizontal = h[WeatherField::DiffuseHorizontal];
      if (std::isnan(in.directNormal) || std::isnan(in.diffuseHorizontal))
        return fail(fmt::format("The weather file has no radiation for {} {}:00.", dayText(standard.date), h.hour), "weather");
      if (!std::isnan(h[WeatherField::DewPoint])) in.dewPoint = h[WeatherField::DewPoint];
      out.text = fmt::format("sky of the weather file, {} {}, {:.0f} W/m² beam and {:.0f} W/m² diffuse", dayText(standard.date),
                             clockText(standard.seconds / 60), in.directNormal, in.diffuseHorizontal);
    }
    if (!(in.directNormal >= 0) || !(in.diffuseHorizontal >= 0)) return fail("Irradiances must not be negative.", "sky");
    out.sky = SkyLuminance::perez(in);
    out.beam = sun.z > 0 ? in.directNormal * perezState(in).directEfficacy : 0;
  }
  if (out.beam > 0) out.sun = sun;
  out.text += fmt::format(", {:.0f} lx diffuse on the horizontal, {:.0f} lx beam facing the sun", out.sky.horizontal(), out.beam);
  return out;
}

namespace {

/// All of an input but the scene, and the model that the scene is made of.
Expected<std::pair<LightInput, LightModel>> preparedInput(const Project& p, const Study& study, bool before, std::optional<Instant> moment) {
  require(study.kind != StudyKind::SunHours, "lightInput: sun hours are a study of their own");
  const LightSettings& s = study.light;
  if (!(s.error > 0.0001 && s.error < 1)) return fail("The error wanted at the sensors must lie between 0.0001 and 1.", "error");
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  LightInput in;
  in.kind = study.kind;
  in.settings = s;
  auto model = lightModel(p, !before);
  if (!model) return tl::unexpected(model.error());
  in.findings = model->findings;
  for (const WindowGroup& g : model->groups) in.groups.push_back(g.name);
  auto sensors = layOutSensors(p, study.groups);
  if (!sensors) return tl::unexpected(sensors.error());
  if (sensors->sensors.empty()) return fail("There are no sensors: choose rooms, an area, a facade or points first.", "groups");
  in.sensors = std::move(*sensors);
  in.findings.insert(in.findings.end(), in.sensors.findings.begin(), in.sensors.findings.end());
  const bool inside = study.kind == StudyKind::DaylightFactor || study.kind == StudyKind::Illuminance;
  if (!inside) // sky exposure is that of the outer plane: glazing hides nothing, as for sun hours
    std::erase_if(model->parts, [](const LightPart& part) { return part.glazed; });
  if (study.kind == StudyKind::Illuminance) {
    auto sky = studySky(p, s.sky, moment);
    if (!sky) return tl::unexpected(sky.error());
    in.sky = std::move(*sky);
  } else if (study.kind == StudyKind::SkyView) {
    in.sky.sky = SkyLuminance::uniform(100);
    in.sky.text = "uniform sky, share of the surface's own hemisphere";
  } else {
    in.sky.sky = SkyLuminance::cieOvercast(100);
    in.sky.text = "CIE overcast sky, share of the unobstructed horizontal outdoors";
  }
  Hasher h;
  const bool bySun = study.kind == StudyKind::SunlightYear || study.kind == StudyKind::SunlightWinter;
  h.add("light 1").add(int(study.kind));
  if (inside) h.add(s.error); // sky exposure is always wanted to 0.05 points
  if (!bySun) h.add(std::uint64_t(s.mostSamples)).add(s.seed);
  hashLightModel(h, *model, inside);
  if (bySun) {
    if (!p.site.weather || !p.site.weather->whole()) return fail("Probable sunlight hours need a weather year; the project has none.", "weather");
    const Weather& w = *p.site.weather;
    const std::vector<HourSun> suns = hourSuns(w);
    const bool north = p.site.place.latitude >= 0;
    Season winter; // 21 September to 21 March, and the other half in the south
    winter.fromMonth = north ? 9 : 3, winter.fromDay = 21, winter.toMonth = north ? 3 : 9, winter.toDay = 21;
    for (std::size_t i = 0; i < suns.size(); ++i) {
      if (!suns[i].up || !(w.hours[i][WeatherField::DirectNormal] >= 120)) continue; // WMO: bright sunshine
      in.sunHours.push_back(toModel(suns[i].position.direction, p.site.northAngle));
      in.sunHourInWinter.push_back(holds(winter, {2025, w.hours[i].month, w.hours[i].day}));
    }
    if (in.sunHours.empty()) return fail("The weather year has no hour with 120 W/m² of beam.", "weather");
    h.add(w.digest).add(p.site.northAngle).add(p.site.place.latitude);
  }
  if (study.kind == StudyKind::Illuminance) {
    // The sky enters as it is: a dozen luminances tell it from any other.
    h.add(in.sky.sky.horizontal()).add(in.sky.beam).add(in.sky.sun.value_or(Vec3{}));
    for (int k = 0; k < 12; ++k) h.add(in.sky.sky(directionOf(0.1 + 0.12 * k, 0.7 * k, 0)));
  }
  h.add(std::uint64_t(in.sensors.sensors.size()));
  h.add(std::string_view(reinterpret_cast<const char*>(in.sensors.sensors.data()), in.sensors.sensors.size() * sizeof(Sensor)));
  in.key = h.digest();
  return std::pair{std::move(in), std::move(*model)};
}

} // namespace

namespace {

/// Panes that light would pass twice, and panes that stand against a wall: found by short rays from their pieces.
void checkGlazing(const Project& p, const LightScene& scene, const LightModel& model, Findings& out) {
  constexpr double together = 0.15, against = 0.03; // m
  struct Count {
    int pieces = 0, doubled = 0, blind = 0;
  };
  std::map<std::uint64_t, Count> of;
  for (const LightScene::Piece& piece : scene.pieces()) {
    Count& c = of[model.parts[piece.part].element];
    if (++c.pieces > 2000) continue; // enough to tell
    const Vec3 m = piece.center();
    const auto parallel = [&](const LightScene::Hit& h) { return h.any() && std::abs(dot(scene.pieces()[h.triangle].normal, piece.normal)) > 0.98; };
    c.doubled += parallel(scene.glass(m, piece.normal, 5e-4, together)) || parallel(scene.glass(m, -piece.normal, 5e-4, together));
    c.blind += scene.blocked(m, piece.normal, 5e-4, against) || scene.blocked(m, -piece.normal, 5e-4, against);
  }
  for (const auto& [id, c] : of) {
    const ElementPtr e = p.element({id});
    const std::string name = e && !e->name.empty() ? "\"" + e->name + "\"" : std::string("A window");
    if (2 * c.doubled > c.pieces)
      out.push_back({Rank::BendsResult, "glazing.doubled", name + fmt::format(" has two panes within {:.0f} cm of each other: light is taken twice. Keep one surface.", 100 * together), 1, {id}, "", ""});
    if (2 * c.blind > c.pieces)
      out.push_back({Rank::BendsResult, "glazing.nowhere", name + " stands against a surface: it lets no light through. Cut the wall behind it.", 1, {id}, "", ""});
  }
}

} // namespace

Expected<LightInput> lightInput(const Project& p, const Study& study, bool before, std::optional<Instant> moment) {
  auto prepared = preparedInput(p, study, before, moment);
  if (!prepared) return tl::unexpected(prepared.error());
  LightInput in = std::move(prepared->first);
  in.scene = std::make_shared<const LightScene>(prepared->second);
  checkGlazing(p, *in.scene, prepared->second, in.findings);
  return in;
}

Digest hashLight(const Project& p, const Study& study, bool before, std::optional<Instant> moment) {
  const auto prepared = preparedInput(p, study, before, moment);
  return prepared ? prepared->first.key : Hasher().add("light fault").add(prepared.error().text()).digest();
}

namespace {

/// Sums light of one sky.
struct SkySum {
  const StudySky& light;
  double sum = 0;
  void sky(std::uint32_t, Vec3 direction, double weight) { sum += weight * light.sky(direction); }
  void sun(std::uint32_t, double weight) { sum += weight * light.beam; }
};

constexpr std::size_t mostAims = 128;

/// The pieces of glazing worth aiming at from a sensor: those of its room where that is known, else what short walks and
/// a look at the likeliest find. Any choice is unbiased; a poor one only costs samples.
std::vector<std::uint32_t> aimOf(const LightInput& in, std::size_t sensor) {
  const auto& pieces = in.scene->pieces();
  if (pieces.empty()) return {};
  const Sensor& s = in.sensors.sensors[sensor];
  const Vec3 n = s.normalVector(), x = s.position + n * 1e-3;
  std::vector<std::uint32_t> aim;
  const int room = in.sensors.groups[s.group].room;
  if (room >= 0)
    for (std::uint32_t k = 0; k < pieces.size(); ++k)
      if (pieces[k].room == room) aim.push_back(k);
  if (!aim.empty() && aim.size() <= mostAims) return aim;
  aim.clear();
  const LightPaths<SkySum> paths(*in.scene, {}, true);
  HashStream random(mixed(in.settings.seed * 77 + sensor));
  std::vector<std::uint32_t> seen;
  const double open = paths.pilot(s.position, n, random, 96, [&](std::uint32_t k) { seen.push_back(k); });
  if (open > 0.3) return {}; // outdoors: the sky itself is found easily
  std::vector<std::pair<double, std::uint32_t>> likely;
  for (std::uint32_t k = 0; k < pieces.size(); ++k)
    if (const double w = paths.weightOf(x, n, pieces[k]); w > 0) likely.emplace_back(-w, k);
  const std::size_t top = std::min<std::size_t>(likely.size(), 96);
  std::partial_sort(likely.begin(), likely.begin() + std::ptrdiff_t(top), likely.end());
  for (std::size_t i = 0; i < top; ++i) {
    const LightScene::Piece& p = pieces[likely[i].second];
    for (const Vec3& y : {p.center(), p.a * 0.8 + p.center() * 0.2, p.b * 0.8 + p.center() * 0.2, p.c * 0.8 + p.center() * 0.2}) {
      const Vec3 d = y - x;
      if (dot(d, n) > 0 && !in.scene->blocked(x, normalized(d), 0, length(d) * (1 - 1e-6))) {
        seen.push_back(likely[i].second);
        break;
      }
    }
  }
  std::sort(seen.begin(), seen.end());
  seen.erase(std::unique(seen.begin(), seen.end()), seen.end());
  // Neighbours of what was seen belong to it: pieces of the same pane.
  std::vector<std::uint32_t> parts;
  for (std::uint32_t k : seen) parts.push_back(pieces[k].part);
  std::sort(parts.begin(), parts.end());
  parts.erase(std::unique(parts.begin(), parts.end()), parts.end());
  if (parts.size() <= 24)
    for (std::uint32_t k = 0; k < pieces.size() && aim.size() <= mostAims; ++k)
      if (std::binary_search(parts.begin(), parts.end(), pieces[k].part)) aim.push_back(k);
  if (aim.empty() || aim.size() > mostAims) aim = seen;
  if (aim.size() > mostAims) aim.resize(mostAims);
  return aim;
}

struct Progress {
  std::array<double, replicates> sums{};
  std::uint32_t perReplicate = 0;
  bool settled = false, aimed = false;
  std::shared_ptr<const Aim> aim;
};

/// Aims made once and shared by the sensors that have the same panes in sight.
class AimShelf {
public:
  explicit AimShelf(const LightInput& in) : in_(in) {}
  std::shared_ptr<const Aim> of(std::size_t sensor) {
    std::vector<std::uint32_t> pieces = aimOf(in_, sensor);
    std::sort(pieces.begin(), pieces.end());
    {
      const std::lock_guard lock(mutex_);
      if (const auto at = known_.find(pieces); at != known_.end()) return at->second;
    }
    auto made = std::make_shared<const Aim>(makeAim(*in_.scene, pieces, in_.sky.sun));
    const std::lock_guard lock(mutex_);
    return known_.emplace(std::move(pieces), std::move(made)).first->second;
  }

private:
  const LightInput& in_;
  std::mutex mutex_;
  std::map<std::vector<std::uint32_t>, std::shared_ptr<const Aim>> known_;
};

LightResult sunlightHours(const LightInput& in, RunControl& control, Threads threads) {
  const auto start = std::chrono::steady_clock::now();
  LightResult out;
  out.kind = in.kind;
  out.key = in.key;
  const std::size_t n = in.sensors.sensors.size();
  out.value.assign(n, std::nanf(""));
  out.standardError.assign(n, 0);
  out.samples.assign(n, std::uint32_t(in.sunHours.size()));
  const bool winterOnly = in.kind == StudyKind::SunlightWinter;
  std::mutex lock;
  std::size_t done = 0;
  const std::size_t chunks = (n + 31) / 32;
  const std::size_t finished = forChunks(n, 32, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      const Sensor& s = in.sensors.sensors[i];
      const Vec3 normal = s.normalVector(), o = s.position + normal * 1e-3;
      std::size_t lit = 0;
      for (std::size_t k = 0; k < in.sunHours.size(); ++k) {
        if (winterOnly && !in.sunHourInWinter[k]) continue;
        if (dot(normal, in.sunHours[k]) > 0 && !in.scene->blocked(o, in.sunHours[k], 0, 1e30)) ++lit;
      }
      out.value[i] = float(100.0 * double(lit) / double(in.sunHours.size()));
    }
    if (control.progress) {
      const std::lock_guard guard(lock);
      done += b - a;
      control.progress(double(done) / double(n));
    }
  }, [&] { return control.goesOn(); });
  out.end = finished == chunks ? RunEnd::Finished : control.wish.load() == Wish::Enough ? RunEnd::Enough : RunEnd::Dropped;
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return out;
}

} // namespace

LightResult runLight(const LightInput& in, RunControl& control, Threads threads, const std::function<void(const LightResult&)>& partial) {
  if (!in.sunHours.empty()) return sunlightHours(in, control, threads);
  const auto start = std::chrono::steady_clock::now();
  LightResult out;
  out.kind = in.kind;
  out.key = in.key;
  const std::size_t n = in.sensors.sensors.size();
  out.value.assign(n, std::nanf(""));
  out.standardError.assign(n, std::nanf(""));
  out.samples.assign(n, 0);
  const bool reflections = in.kind == StudyKind::DaylightFactor || in.kind == StudyKind::Illuminance;
  // Values are in % of the horizontal, but for illuminance; a sky view factor is of the surface's own hemisphere, whose
  // uniform luminance 100/π gives 100.
  const double horizontal = in.sky.sky.horizontal() + (in.sky.sun ? in.sky.beam * std::max(0.0, in.sky.sun->z) : 0);
  // Below this a relative error means nothing: 0.02 % of the horizontal. Sky exposure is wanted to 0.05 points.
  const double floor = in.kind == StudyKind::Illuminance ? 0.0002 * horizontal : 0.02;
  std::vector<Progress> state(n);
  AimShelf shelf(in);
  const auto nothing = std::make_shared<const Aim>();
  const std::uint64_t seed = mixed(in.settings.seed);
  const auto most = std::uint32_t(std::max<std::size_t>(1, in.settings.mostSamples / replicates));
  const std::size_t chunk = n < 256 ? 1 : 8, chunks = (n + chunk - 1) / chunk;
  bool stopped = false;
  for (std::uint32_t upTo = 4; !stopped; upTo *= 2) {
    std::mutex lock;
    std::size_t left = 0, passed = 0;
    for (const Progress& p : state) left += !p.settled;
    if (left == 0) break;
    const std::size_t done = forChunks(n, chunk, threads, [&](std::size_t a, std::size_t b) {
      SkySum total{in.sky};
      LightPaths<SkySum> paths(*in.scene, in.sky.sun, reflections);
      for (std::size_t i = a; i < b; ++i) {
        Progress& p = state[i];
        if (p.settled) continue;
        if (!p.aimed) {
          p.aimed = true;
          p.aim = reflections ? shelf.of(i) : nothing;
        }
        const Sensor& s = in.sensors.sensors[i];
        const Vec3 normal = s.normalVector();
        for (int r = 0; r < replicates; ++r) {
          const std::uint64_t key = mixed(seed + i * 1315423911ull + std::uint64_t(r) * 2654435761ull);
          total.sum = 0;
          for (std::uint32_t k = p.perReplicate; k < upTo; ++k) {
            HashStream random(mixed(key ^ (std::uint64_t{k} << 20)));
            paths.sample(s.position, normal, *p.aim, ScrambledPoint(key, k), random, total);
          }
          p.sums[std::size_t(r)] += total.sum;
        }
        p.perReplicate = upTo;
        double mean = 0, square = 0;
        for (double sum : p.sums) mean += sum / upTo / replicates;
        for (double sum : p.sums) square += std::pow(sum / upTo - mean, 2);
        const double error = studentFactor * std::sqrt(square / (replicates - 1) / replicates);
        out.value[i] = float(mean);
        out.standardError[i] = float(error);
        out.samples[i] = upTo * replicates;
        // 32 samples a replicate before the spread is believed.
        const double wanted = reflections ? in.settings.error * std::max(mean, floor) : 0.05;
        p.settled = (upTo >= 32 && error <= wanted) || upTo >= most;
      }
      if (control.progress) {
        const std::lock_guard guard(lock);
        passed += b - a;
        control.progress(std::min(0.999, (double(n - left) + double(left) * 0.5 * double(passed) / double(n)) / double(n)));
      }
    }, [&] { return control.goesOn(); });
    stopped = done != chunks;
    if (partial && !stopped) {
      out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
      partial(out);
    }
  }
  for (std::size_t i = 0; i < n; ++i) {
    const double wanted = reflections ? in.settings.error * std::max(double(out.value[i]), floor) : 0.05;
    out.unsettled += !(double(out.standardError[i]) <= wanted);
  }
  out.end = !stopped ? RunEnd::Finished : control.wish.load() == Wish::Enough ? RunEnd::Enough : RunEnd::Dropped;
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  if (control.progress) control.progress(1);
  return out;
}

Explanation explain(const LightInput& in, const LightResult* result, std::size_t sensor) {
  Explanation out;
  const Sensor& s = in.sensors.sensors[sensor];
  const Vec3 n = s.normalVector(), o = s.position + n * 1e-3;
  const int rays = 1024;
  std::vector<double> distances;
  int sky = 0, glass = 0, ground = 0, near = 0;
  std::vector<std::pair<std::string, int>> through;
  for (int k = 0; k < rays; ++k) {
    const ScrambledPoint q(mixed(sensor + 5), std::uint32_t(k));
    const Vec3 d = cosineDirection(n, q[0], q[1]);
    const LightScene::Hit wall = in.scene->opaque(o, d, 0, 1e30), pane = in.scene->glass(o, d, 0, wall.distance);
    if (pane.any()) {
      ++glass;
      const std::string& name = in.groups[in.scene->pieces()[pane.triangle].group];
      const auto at = std::find_if(through.begin(), through.end(), [&](const auto& t) { return t.first == name; });
      at == through.end() ? (void)through.emplace_back(name, 1) : (void)++at->second;
    }
    const bool toGround = d.z < 0 && o.z > in.scene->groundLevel() && !(wall.distance < (in.scene->groundLevel() - o.z) / d.z);
    if (!wall.any() && d.z > 0) ++sky;
    if (toGround) ++ground;
    if (wall.any()) {
      distances.push_back(wall.distance);
      near += wall.distance < 0.01;
    }
  }
  std::sort(distances.begin(), distances.end());
  out.nearest = distances.empty() ? 0 : distances[distances.size() / 2];
  out.skyShare = double(sky) / rays;
  out.glassShare = double(glass) / rays;
  out.buried = near > rays / 2;
  if (result && sensor < result->value.size()) {
    if (std::isnan(result->value[sensor])) {
      out.sentences.push_back("It was not computed: the run was stopped before.");
      return out;
    }
    out.sentences.push_back(fmt::format("{:.4g} ± {:.2g} {} from {} samples.", result->value[sensor], result->standardError[sensor], studyUnit(in.kind), result->samples[sensor]));
  }
  if (out.buried) out.sentences.push_back("It lies buried: most of what it sees is less than 1 cm away. Is it inside a floor, a wall or a table, or does it face one?");
  if (n.z < -0.7) out.sentences.push_back("It looks down.");
  if (in.kind != StudyKind::DaylightFactor && in.kind != StudyKind::Illuminance) {
    out.sentences.push_back(fmt::format("It sees sky in {:.1f} % of its hemisphere by cosine, ground in {:.1f} %.", 100 * out.skyShare, 100.0 * ground / rays));
    return out;
  }
  if (glass == 0 && sky == 0)
    out.sentences.push_back("No glazing and no sky is in sight: all its light has been reflected first.");
  else
    out.sentences.push_back(fmt::format("It sees sky straight in {:.1f} % of its hemisphere (by cosine), glazing in {:.1f} %.", 100 * out.skyShare, 100 * out.glassShare));
  std::sort(through.begin(), through.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
  for (std::size_t k = 0; k < through.size() && k < 3; ++k) out.sentences.push_back(fmt::format("Through {}: {:.1f} %.", through[k].first, 100.0 * through[k].second / rays));
  if (in.kind == StudyKind::Illuminance) {
    if (!in.sky.sun)
      out.sentences.push_back("There is no beam at this moment.");
    else if (in.sky.sun->z <= 0)
      out.sentences.push_back("The sun is below the horizon.");
    else if (dot(n, *in.sky.sun) <= 0)
      out.sentences.push_back("It faces away from the sun.");
    else
      out.sentences.push_back(in.scene->blocked(o, *in.sky.sun, 0, 1e30) ? "The sun is hidden from it." : "It stands in the sun, through glass or free.");
  }
  return out;
}

LightStatistics lightStatistics(const LightResult& r, std::size_t first, std::size_t count, double low, double high) {
  LightStatistics s;
  std::vector<double> v;
  double variance = 0;
  for (std::size_t i = first; i < first + count && i < r.value.size(); ++i) {
    if (std::isnan(r.value[i])) continue;
    v.push_back(double(r.value[i]));
    variance += double(r.standardError[i]) * double(r.standardError[i]);
  }
  s.count = v.size();
  if (v.empty()) return s;
  std::sort(v.begin(), v.end());
  double sum = 0;
  std::size_t below = 0, above = 0;
  for (double x : v) {
    sum += x;
    below += x < low;
    above += x > high;
  }
  const double n = double(v.size());
  s.mean = sum / n;
  s.meanError = std::sqrt(variance) / n; // sensors are independent
  s.median = v.size() % 2 ? v[v.size() / 2] : 0.5 * (v[v.size() / 2 - 1] + v[v.size() / 2]);
  s.least = v.front();
  s.most = v.back();
  s.uniformity = s.mean > 0 ? s.least / s.mean : 0;
  s.shareBelow = double(below) / n;
  s.shareAtLeast = 1 - s.shareBelow;
  s.shareAbove = double(above) / n;
  return s;
}

} // namespace noonward
