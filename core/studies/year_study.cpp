#include "core/studies/year_study.h"
#include "core/model/settings/fields.h"
#include "core/sky/measured/weather_making.h"
#include "core/studies/coefficients.h"
#include "core/studies/float_bound.h"
#include "core/studies/glare_sight.h"
#include "core/studies/glare_year.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/light_check.h"
#include "core/studies/space_sums.h"
#include "core/studies/year_space.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <numeric>
#include <set>

namespace noonward {

namespace {

/// Of what the rays depend on; weather, schedule and blinds come after them.
Digest raysDigest(const LightModel& model, const SensorSet& sensors, const YearSettings& s) {
  Hasher h;
  h.add("year rays 2");
  hashLightModel(h, model);
  h.add(s.error).add(s.seed).add(std::uint64_t(sensors.sensors.size()));
  h.add(
      std::string_view(reinterpret_cast<const char*>(sensors.sensors.data()), sensors.sensors.size() * sizeof(Sensor)));
  return h.digest();
}

Digest wholeDigest(const Digest& rays, const Project& p, const YearSettings& s) {
  Hasher h;
  h.add("year 4")
      .add(rays)
      .add(p.site.northAngle)
      .add(p.site.place.latitude)
      .add(p.site.place.longitude)
      .add(p.site.zone)
      .add(p.site.year)
      .add(timeZoneDataVersion());
  if (p.site.weather) h.add(p.site.weather->digest);
  hashFields(h, s);
  for (const Room& r : p.rooms) h.add(r.counted);
  return h.digest();
}

} // namespace

namespace {
/// A room in two of the grids of one study, with the later grid to take it out of.
Finding roomTwiceFinding(const Project& p, const Room& room, GroupId later) {
  const SensorGroup* group = p.group(later);
  return {Rank::BendsResult,
          "room.two-grids",
          fmt::format("\"{}\" lies in two grids of one study: it would count twice.", room.name),
          1,
          {room.id.value, later.value},
          "room.one-grid",
          fmt::format("Take it out of \"{}\"", group ? group->name : std::string("the second"))};
}

Expected<YearFacts> factsOf(const Project& p, const LightModel& model, const std::vector<GroupId>& groups,
                            const YearSettings& settings) {
  if (!(settings.error > 0.001 && settings.error < 1))
    return fail("The error wanted must lie between 0.1 and 100 %.", "error");
  if (!(settings.endMinute > settings.beginMinute)) return fail("The schedule ends before it begins.", "schedule");
  auto sensors = layOutSensors(p, groupsTaken(p, groups));
  if (!sensors) return tl::unexpected(sensors.error());
  if (sensors->sensors.empty()) return fail("There are no sensors: lay a grid in the rooms first.", "groups");
  YearFacts out;
  out.findings = model.findings;
  out.findings.insert(out.findings.end(), sensors->findings.begin(), sensors->findings.end());
  out.sensors = std::move(*sensors);
  out.groups = model.groups;
  out.settings = settings;
  for (const SensorGridFacts& g : out.sensors.groups) {
    const auto own = std::count_if(out.groups.begin() + 1, out.groups.end(),
                                   [&](const WindowGroup& w) { return g.room >= 0 ? w.room == g.room : w.room < 0; });
    if (own > 250)
      return fail(fmt::format("\"{}\" has {} window groups; 250 can be told apart. Join glazing elements into "
                              "fewer, or draw rooms: a room's windows are grouped by orientation and type.",
                              g.name, own),
                  "groups");
  }
  for (const GroupBlinds& own : settings.groupBlinds)
    if (std::none_of(out.groups.begin(), out.groups.end(), [&](const WindowGroup& g) { return g.key == own.group; }))
      out.findings.push_back(
          {Rank::BendsResult, "year.blinds-of",
           fmt::format("A rule for blinds names a group of windows \"{}\" that there is not.", own.group)});
  Hasher eyes;
  if (settings.anyBlinds(BlindRule::Glare)) {
    const auto all = layOutSensors(p, groupsTaken(p, {}, true));
    if (!all) return tl::unexpected(all.error());
    std::set<int> seated;
    for (const Sensor& s : all->sensors) {
      eyes.add(s.position.x).add(s.position.y).add(s.position.z);
      for (float v : s.normal) eyes.add(double(v));
    }
    for (const GlareEye& e : eyesOf(*all, p.rooms)) seated.insert(e.room);
    for (const WindowGroup& g : out.groups)
      if (g.room >= 0 && settings.blindsOf(g.key) == BlindRule::Glare && !seated.contains(g.room))
        out.findings.push_back(
            {Rank::BendsResult,
             "blinds.no-eyes",
             fmt::format("Blinds of \"{}\" close by glare, but no eye is set there: they stay open.", g.name),
             1,
             {p.rooms[std::size_t(g.room)].id.value},
             "",
             ""});
  }
  const bool anyRoom = std::any_of(out.sensors.groups.begin(), out.sensors.groups.end(),
                                   [](const SensorGridFacts& g) { return g.room >= 0; });
  for (const SensorGridFacts& g : out.sensors.groups) {
    const Room* room = g.room >= 0 ? &p.rooms[std::size_t(g.room)] : nullptr;
    out.areas.push_back(room ? area(room->outline) : g.cellArea * double(g.count));
    // A building is its rooms, each once; points outdoors are one only where there is nothing else.
    const bool again = room && std::find(out.rooms.begin(), out.rooms.end(), room->id) != out.rooms.end();
    out.counted.push_back(room ? room->counted && !again : !anyRoom);
    out.rooms.push_back(room ? room->id : RoomId{});
    if (again && room->counted) out.findings.push_back(roomTwiceFinding(p, *room, g.id));
    if (!room && anyRoom)
      out.findings.push_back({Rank::WorthKnowing,
                              "year.outdoors",
                              fmt::format("\"{}\" lies in no room: it counts for no figure of the building.", g.name),
                              1,
                              {},
                              "",
                              ""});
    bool walls = false, top = false;
    for (const WindowGroup& w : out.groups)
      if (room && w.room == g.room) (w.facing ? walls : top) = true;
    out.rooflit.push_back(top && !walls);
  }
  if (settings.ownIlluminance && p.site.weather)
    out.findings.push_back({illuminanceColumns(*p.site.weather).usable() ? Rank::WorthKnowing : Rank::BendsResult,
                            "year.illuminance",
                            "Light from " + illuminanceText(*p.site.weather, true) + ".",
                            1,
                            {},
                            "",
                            ""});
  if (p.site.weather && partOfYear(*p.site.weather))
    out.findings.push_back({Rank::BendsResult,
                            "year.part",
                            "The weather is of a part of a year: every figure is of its hours alone, and no verdict on "
                            "a year can stand on it.",
                            1,
                            {},
                            "",
                            ""});
  out.rays = raysDigest(model, out.sensors, settings);
  Hasher sun;
  sun.add("year sun 1")
      .add(out.rays)
      .add(p.site.northAngle)
      .add(p.site.place.latitude)
      .add(p.site.place.longitude)
      .add(p.site.year);
  if (p.site.weather) sun.add(p.site.weather->digest);
  if (settings.ownIlluminance) sun.add("own illuminance");
  out.sunKey = sun.digest();
  out.key = wholeDigest(out.rays, p, settings);
  if (settings.anyBlinds(BlindRule::Glare)) out.key = Hasher().add(out.key).add(eyes.digest()).digest();
  return out;
}
} // namespace

Expected<YearFacts> yearFacts(const Project& p, const std::vector<GroupId>& groups, const YearSettings& settings) {
  auto model = lightModel(p);
  if (!model) return tl::unexpected(model.error());
  return factsOf(p, *model, groups, settings);
}

void setHours(const Project& p, YearInput& in) {
  const YearSettings& s = in.settings;
  const Zone zone = p.zone();
  const double offset = p.site.weather->utcOffset;
  in.mask = clockMask(s.clockChanges ? zone : Zone::fixed(offset), offset, p.site.year, s.beginMinute, s.endMinute,
                      s.weekdaysOnly);
  in.daylight = daylightHours(in.sky->diffuse);
  in.shut = clockMask(zone, offset, p.site.year, s.shutFrom, s.shutTo);
  for (std::size_t i = 0; i < in.sky->unknown.size(); ++i) // a study of the hours that there are
    if (in.sky->unknown[i]) in.mask[i] = in.daylight[i] = false;
}

Expected<YearInput> yearInput(const Project& p, const std::vector<GroupId>& groups, const YearSettings& settings,
                              KeptCoefficients* kept, bool before) {
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  Hasher skyKey;
  skyKey.add("hourly sky 2").add(p.site.northAngle).add(p.site.year);
  if (p.site.weather) skyKey.add(p.site.weather->digest);
  if (settings.ownIlluminance) skyKey.add("own illuminance");
  const bool knownSky = kept && kept->sky && kept->skyKey == skyKey.digest();
  auto sky = knownSky ? Expected<std::shared_ptr<const HourlySky>>(kept->sky) : hourlySky(p, settings.ownIlluminance);
  if (!sky) return tl::unexpected(sky.error());
  if (kept) {
    kept->sky = *sky;
    kept->skyKey = skyKey.digest();
  }
  auto model = lightModel(p, !before);
  if (!model) return tl::unexpected(model.error());
  auto facts = factsOf(p, *model, groups, settings);
  if (!facts) return tl::unexpected(facts.error());
  YearInput in;
  static_cast<YearFacts&>(in) = std::move(*facts);
  in.sky = std::move(*sky);
  setHours(p, in);
  in.scene = std::make_shared<const LightScene>(*model);
  if (settings.anyBlinds(BlindRule::Glare)) {
    Study study;
    study.kind = StudyKind::Glare;
    study.year = settings;
    if (auto eyes = lightInput(p, study, before)) in.eyes = std::make_shared<const LightInput>(std::move(*eyes));
  }
  for (auto& list : {checkGlazing(p, *in.scene, *model), checkLeaks(*in.scene, in.sensors)})
    in.findings.insert(in.findings.end(), list.begin(), list.end());
  return in;
}

Digest hashYear(const Project& p, const std::vector<GroupId>& groups, const YearSettings& settings) {
  const auto facts = yearFacts(p, groups, settings);
  return facts ? facts->key : Hasher().add("year fault").add(facts.error().text()).digest();
}

BeamShare beamAt(const LightScene& scene, Vec3 position, Vec3 n, Vec3 sun) {
  const double c = dot(n, sun);
  if (c <= 0 || sun.z <= 0) return {};
  const Vec3 o = position + n * LightPaths<int>::offset(position);
  BeamShare out{c, 0};
  double from = 0;
  for (int guard = 0; guard < 64 && out.share > 0; ++guard) {
    const LightScene::Hit g = scene.glass(o, sun, from, 1e30);
    if (!g.any()) break;
    const LightScene::Piece& p = scene.pieces()[g.triangle];
    out.share *= scene.optics(p.optics).straight(std::abs(dot(p.normal, sun)));
    out.group = scene.charged(out.group, p);
    from = g.distance + LightPaths<int>::offset(o + sun * g.distance);
  }
  if (!(out.share > 0) || scene.blocked(o, sun, 0, 1e30)) return {};
  return out;
}

int stepsReached(double figure, std::span<const double> steps) {
  return int(std::count_if(steps.begin(), steps.end(), [&](double s) { return figure >= s - 1e-12; }));
}

double probabilityAbove(double figure, double error, double bound) {
  return error > 0 ? 0.5 * std::erfc((bound - figure) / error / std::numbers::sqrt2) : figure >= bound - 1e-12;
}

double certaintyOfStep(double figure, double error, std::span<const double> steps) {
  const int at = stepsReached(figure, steps);
  const double low = at > 0 ? probabilityAbove(figure, error, steps[std::size_t(at - 1)]) : 1,
               high = at < int(steps.size()) && steps[std::size_t(at)] < noStep
                          ? probabilityAbove(figure, error, steps[std::size_t(at)])
                          : 0;
  return low - high;
}

namespace {
/// Which of the hours a level wants.
std::vector<std::size_t> hoursOfLevel(int level, bool rooflit) {
  return rooflit ? std::vector<std::size_t>{std::size_t(level + 3)}
                 : std::vector<std::size_t>{std::size_t(level - 1), std::size_t(level + 2)};
}
} // namespace

double certaintyOfLevel(const ProvisionHours& hours, const ProvisionHours& errors, int level, bool rooflit) {
  double p = 1;
  for (std::size_t k : hoursOfLevel(level, rooflit)) p *= probabilityAbove(hours[k], errors[k], provisionNeeded);
  return p;
}

ProvisionLevel provisionLevel(const ProvisionHours& hours, const ProvisionHours& errors, bool rooflit) {
  ProvisionLevel out;
  const auto reached = [&](int level) {
    const auto list = hoursOfLevel(level, rooflit);
    return std::all_of(list.begin(), list.end(), [&](std::size_t k) { return hours[k] >= provisionNeeded; });
  };
  while (out.level < 3 && reached(out.level + 1)) ++out.level;
  out.certainty = (out.level > 0 ? certaintyOfLevel(hours, errors, out.level, rooflit) : 1) *
                  (out.level < 3 ? 1 - certaintyOfLevel(hours, errors, out.level + 1, rooflit) : 1);
  return out;
}

/// What a space came to, and all that it depends on beside the rays.
struct SpaceAnswered {
  int rounds;
  std::shared_ptr<const HourlySky> sky;
  std::vector<bool> mask, daylight;
  MetricSettings metrics;
  double glassKept, fabricDirect;
  std::vector<std::uint8_t> closed;
  std::vector<std::vector<float>> fabrics;
  std::vector<SensorYear> sensors;
  std::vector<std::size_t> beamHours;
  std::vector<float> relativeError;
  SpaceYear space;
  double sdaError, meanError;
  std::array<ProvisionHours, 4> provision; ///< hours, their error; by own hours, their error
};

namespace {

constexpr std::size_t batches = KeptCoefficients::batches;
constexpr std::size_t skip = 8; ///< of the hours with light, for the uncertainty
constexpr const auto& levels = provisionLevels;
constexpr std::array<float, 4> targets{100, 300, 500, 750}; ///< of the levels, each once
constexpr std::size_t targetOf(std::size_t level) {
  std::size_t k = 0;
  while (double(targets[k]) != levels[level].target) ++k;
  return k;
}

/// A run on its way.
class YearRun {
public:
  YearRun(const YearInput& in, Threads threads, KeptCoefficients& kept) : in_(in), threads_(threads), kept_(kept) {
    const std::size_t n = in.sensors.sensors.size(), spaces = in.sensors.groups.size();
    out.key = in.key;
    out.end = RunEnd::Enough; // until every space is done: what is told on the way is not the whole
    out.sensors.resize(n);
    out.beamHours.assign(n, 0);
    out.relativeError.assign(n, std::nanf(""));
    out.spaces.resize(spaces);
    out.sdaError.assign(spaces, 0);
    out.meanError.assign(spaces, 0);
    out.provision.resize(spaces);
    out.provisionError.resize(spaces);
    out.provisionOwn.resize(spaces);
    out.provisionOwnError.resize(spaces);
    out.closedHours.assign(in.groups.size(), 0);
    if (in.settings.keepSeries) out.series.assign(n * hoursOfYear, 0);
    kept.startFor(in);
    for (bool m : in.mask) out.scheduleHours += m;
    inMask_ = double(out.scheduleHours);
  }

  /// The figures of a space from the rays of `rounds` rounds. False where it was stopped.
  bool space(std::size_t space, int rounds, AimShelf& aims, RunControl& control) {
    YearSpace s(in_, space, threads_);
    const auto before = std::chrono::steady_clock::now();
    const bool known = kept_.spaces[space].batches.size() >= batches * std::size_t(rounds);
    if (!s.trace(kept_, rounds, aims, control)) return false;
    if (!known) out.tracing += std::chrono::duration<double>(std::chrono::steady_clock::now() - before).count();
    if (!s.takeBeam(kept_, control)) return false;
    s.workBlinds(kept_);
    if (!s.lightBehind(kept_, aims, control)) return false;
    for (std::size_t k = 0; k < s.groups().size(); ++k) out.closedHours[s.groups()[k]] = s.closedHours(k);
    if (takenAsItWas(space, s, rounds)) return true;
    sumUp(space, s, s.illuminance(kept_, rounds, 1));
    spreadOf(space, s, rounds);
    keepAnswer(space, s, rounds);
    return true;
  }

  /// The building's figures from the spaces that have any.
  void building() {
    std::vector<SpaceYear> counting;
    std::vector<double> areas;
    double variance = 0, all = 0, unsure = 0;
    out.everySpace = true;
    for (std::size_t k = 0; k < out.spaces.size(); ++k) {
      const SensorGridFacts& g = in_.sensors.groups[k];
      if (g.count == 0) continue;
      if (std::isnan(out.relativeError[g.first])) {
        out.everySpace = false;
        continue;
      }
      if (!in_.counted[k]) continue;
      counting.push_back(out.spaces[k]);
      areas.push_back(in_.areas[k]);
      all += in_.areas[k];
      // A share of so many sensors is never finer than one of them.
      variance += std::pow(in_.areas[k], 2) * (std::pow(out.sdaError[k], 2) + 1 / (12.0 * double(g.count * g.count)));
      const bool own = in_.settings.provisionReading == ProvisionReading::OwnHours;
      unsure += 1 - provisionLevel(own ? out.provisionOwn[k] : out.provision[k],
                                   own ? out.provisionOwnError[k] : out.provisionError[k], in_.rooflit[k])
                        .certainty; // all rooms must stay where they are
    }
    out.building = buildingYear(counting, areas);
    // Noise within single hours takes a little from sDA: against converged runs 1 point with a quarter of the paths,
    // less than half a point with all (docs/methods.md). It is owned to.
    out.buildingSdaError = all > 0 ? std::sqrt(variance) / all : 0;
    out.buildingSdaError = std::hypot(out.buildingSdaError, out.rounds < 2 ? 0.010 : 0.004);
    out.certainty = in_.settings.stopFor == StopFor::Provision
                        ? std::max(0.0, 1 - unsure)
                        : certaintyOfStep(out.building.sda, out.buildingSdaError, in_.settings.steps);
  }
  YearResult out;

private:
  /// Blinds that stand as they did give what they gave: another rule often changes a few rooms alone.
  bool takenAsItWas(std::size_t space, const YearSpace& s, int rounds) {
    const auto& was = kept_.spaces[space].answered;
    if (!was || in_.settings.keepSeries || was->rounds != rounds || was->sky != in_.sky || was->mask != in_.mask ||
        was->daylight != in_.daylight || was->metrics != in_.settings.metrics ||
        was->glassKept != in_.settings.glassKept || was->fabricDirect != in_.settings.fabricDirect ||
        was->closed != s.closedHoursOfGroups() || was->fabrics != s.fabrics())
      return false;
    const SensorGridFacts& g = in_.sensors.groups[space];
    const auto at = std::ptrdiff_t(g.first);
    std::copy(was->sensors.begin(), was->sensors.end(), out.sensors.begin() + at);
    std::copy(was->beamHours.begin(), was->beamHours.end(), out.beamHours.begin() + at);
    std::copy(was->relativeError.begin(), was->relativeError.end(), out.relativeError.begin() + at);
    out.spaces[space] = was->space;
    out.sdaError[space] = was->sdaError;
    out.meanError[space] = was->meanError;
    out.provision[space] = was->provision[0];
    out.provisionError[space] = was->provision[1];
    out.provisionOwn[space] = was->provision[2];
    out.provisionOwnError[space] = was->provision[3];
    return true;
  }
  void keepAnswer(std::size_t space, const YearSpace& s, int rounds) {
    const SensorGridFacts& g = in_.sensors.groups[space];
    const auto of = [&](const auto& list) {
      const auto first = list.begin() + std::ptrdiff_t(g.first);
      return std::decay_t<decltype(list)>(first, first + std::ptrdiff_t(g.count));
    };
    kept_.spaces[space].answered = std::make_shared<const SpaceAnswered>(SpaceAnswered{
        rounds,
        in_.sky,
        in_.mask,
        in_.daylight,
        in_.settings.metrics,
        in_.settings.glassKept,
        in_.settings.fabricDirect,
        s.closedHoursOfGroups(),
        s.fabrics(),
        of(out.sensors),
        of(out.beamHours),
        of(out.relativeError),
        out.spaces[space],
        out.sdaError[space],
        out.meanError[space],
        {out.provision[space], out.provisionError[space], out.provisionOwn[space], out.provisionOwnError[space]}});
  }

  void sumUp(std::size_t space, const YearSpace& s, const Eigen::MatrixXf& e) {
    const SensorGridFacts& g = in_.sensors.groups[space];
    const std::vector<double> areas = in_.sensors.areasOf(g.first, g.count);
    SpaceSums sums = spaceSums({e.data(), std::size_t(e.size())}, {in_.sky->hours, in_.mask, in_.daylight},
                               in_.settings.metrics, areas, threads_);
    const std::vector<std::size_t> beam = s.beamHours();
    std::copy(sums.sensors.begin(), sums.sensors.end(), out.sensors.begin() + std::ptrdiff_t(g.first));
    std::copy(beam.begin(), beam.end(), out.beamHours.begin() + std::ptrdiff_t(g.first));
    out.spaces[space] = spaceYear({out.sensors.data() + g.first, g.count}, {out.beamHours.data() + g.first, g.count},
                                  in_.settings.metrics, areas);
    out.provision[space] = sums.provision;
    out.provisionOwn[space] = sums.provisionOwn;
    if (!in_.settings.keepSeries) return;
    for (std::size_t i = 0; i < g.count; ++i)
      for (std::size_t h = 0; h < s.hours(); ++h)
        out.series[(g.first + i) * hoursOfYear + in_.sky->hours[h]] = e(Eigen::Index(i), Eigen::Index(h));
  }

  /// How far apart the batches are, over every eighth hour.
  void spreadOf(std::size_t space, const YearSpace& s, int rounds) {
    const SensorGridFacts& g = in_.sensors.groups[space];
    std::vector<bool> mask, daylight;
    for (std::size_t h = 0; h < s.hours(); h += skip) {
      mask.push_back(in_.mask[in_.sky->hours[h]]);
      daylight.push_back(in_.daylight[in_.sky->hours[h]]);
    }
    const std::vector<double> weight = weightsOf(in_.sensors.areasOf(g.first, g.count), g.count);
    const Eigen::VectorXf weights =
        Eigen::Map<const Eigen::VectorXd>(weight.data(), Eigen::Index(g.count)).cast<float>();
    const std::vector<double> none(batches);
    std::vector<double> sda = none, mean = none;
    std::vector<std::vector<double>> each(g.count, none), autonomy(g.count, none);
    std::array<std::vector<double>, levels.size()> provided, own;
    provided.fill(none);
    own.fill(none);
    std::vector<Eigen::MatrixXf> drawn;
    for (std::size_t batch = 0; batch < batches; ++batch)
      drawn.push_back(s.illuminance(kept_, rounds, skip, batch)); // in threads of its own
    const auto sumBatch = [&](std::size_t batch) {
      const Eigen::MatrixXf& b = drawn[batch];
      // Hour by hour, as they lie in memory.
      const auto n = std::size_t(b.rows());
      const float threshold = floatReaching(in_.settings.metrics.threshold);
      std::vector<double> sums(n, 0);
      std::vector<std::int32_t> counts(n, 0);
      std::array<std::vector<std::int32_t>, targets.size()> owned;
      owned.fill(counts);
      for (std::size_t h = 0; h < mask.size(); ++h) {
        const float* at = b.data() + h * n;
        if (mask[h])
          for (std::size_t i = 0; i < n; ++i) {
            sums[i] += double(at[i]);
            counts[i] += at[i] >= threshold;
          }
        if (daylight[h])
          for (std::size_t k = 0; k < targets.size(); ++k) {
            std::int32_t* own = owned[k].data();
            for (std::size_t i = 0; i < n; ++i) own[i] += at[i] >= targets[k];
          }
      }
      double reached = 0, lux = 0;
      for (std::size_t i = 0; i < n; ++i) {
        const double sum = sums[i], hours = counts[i];
        each[i][batch] = sum;
        autonomy[i][batch] = hours * skip / inMask_;
        lux += sum * skip / inMask_ * weight[i];
        // Hours without light count in the schedule too.
        reached += (hours * skip >= in_.settings.metrics.autonomy * inMask_) * weight[i];
      }
      ProvisionHours hours{};
      for (std::size_t h = 0; h < daylight.size(); ++h) {
        if (!daylight[h]) continue;
        std::array<double, targets.size()> share;
        for (std::size_t k = 0; k < targets.size(); ++k)
          share[k] = double((b.col(Eigen::Index(h)).array() >= targets[k]).select(weights.array(), 0.0f).sum());
        for (std::size_t k = 0; k < levels.size(); ++k) hours[k] += share[targetOf(k)] >= levels[k].share - 1e-6;
      }
      for (std::size_t k = 0; k < levels.size(); ++k) {
        std::vector<std::pair<double, double>> single;
        for (std::size_t i = 0; i < n; ++i) single.emplace_back(owned[targetOf(k)][i], weight[i]);
        own[k][batch] = skip * reachedByShare(std::move(single), levels[k].share);
      }
      sda[batch] = reached;
      mean[batch] = lux;
      for (std::size_t k = 0; k < levels.size(); ++k) provided[k][batch] = hours[k] * skip;
    };
    forChunks(batches, 1, threads_, [&](std::size_t from, std::size_t to) {
      for (std::size_t batch = from; batch < to; ++batch) sumBatch(batch);
    });
    for (std::size_t i = 0; i < g.count; ++i) {
      const double m = std::accumulate(each[i].begin(), each[i].end(), 0.0) / double(batches);
      out.relativeError[g.first + i] = float(m > 0 ? batchError(each[i]) / m : 0);
    }
    // A sensor near the share asked for may fall either way, though all batches count alike.
    double either = 0;
    for (std::size_t i = 0; i < g.count; ++i) {
      const double p =
          probabilityAbove(out.sensors[g.first + i].autonomy, batchError(autonomy[i]), in_.settings.metrics.autonomy);
      either += p * (1 - p) * weight[i] * weight[i];
    }
    out.sdaError[space] = std::max(batchError(sda), std::sqrt(either));
    out.meanError[space] = batchError(mean);
    for (std::size_t k = 0; k < levels.size(); ++k) {
      out.provisionError[space][k] = batchError(provided[k]);
      out.provisionOwnError[space][k] = batchError(own[k]);
    }
  }

  const YearInput& in_;
  Threads threads_;
  KeptCoefficients& kept_;
  double inMask_ = 0;
};

} // namespace

YearResult runYear(const YearInput& in, RunControl& control, Threads threads, KeptCoefficients* kept,
                   const std::function<void(const YearResult&)>& partial) {
  const auto start = std::chrono::steady_clock::now();
  KeptCoefficients own;
  YearRun run(in, threads, kept ? *kept : own);
  YearResult& out = run.out;
  AimShelf aims(*in.scene, {}, in.settings.seed);
  aims.share(in.sensors, threads);
  const double n = double(in.sensors.sensors.size());
  bool all = workGlare(in, kept ? *kept : own, control, threads);
  for (int round = 1; round <= 2 && all && !out.certain; ++round) {
    double done = 0;
    for (std::size_t space = 0; space < in.sensors.groups.size() && all; ++space) {
      const std::size_t count = in.sensors.groups[space].count;
      if (count == 0) continue;
      all = control.goesOn() &&
            run.space(space, round, aims, control); // every space has figures of this round or the one before
      if (!all) break;
      done += double(count);
      run.building();
      out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
      if (control.progress)
        control.progress(std::min(0.999, (round == 1 ? 0.3 : 0.7) * done / n + (round == 1 ? 0 : 0.3)));
      if (partial) partial(out);
    }
    if (all) out.rounds = round;
    if (all && round == 1)
      out.certain = in.settings.stopFor != StopFor::Nothing && out.certainty >= in.settings.confidence;
  }
  run.building();
  out.end = control.end(all);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  if (control.progress) control.progress(1);
  return std::move(run.out);
}

} // namespace noonward
