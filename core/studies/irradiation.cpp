#include "core/studies/irradiation.h"
#include "core/base/hash.h"
#include "core/light/light_paths.h"
#include "core/light/patches.h"
#include "core/model/derived_memory.h"
#include "core/studies/by_sensor.h"
#include "core/studies/light_aims.h"
#include "core/studies/sky_share.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace noonward {

// ---- the sky as energy ----------------------------------------------------------------------------------------------

std::vector<bool> hoursOfSeason(const Project& p, const Season& season) {
  std::vector<bool> out;
  const double offset = p.site.weather ? p.site.weather->utcOffset : p.zone().standardOffset(p.site.year);
  const bool crosses = season.beginMinute > season.endMinute; // over midnight
  constexpr std::array<int, 12> days{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
  const Zone zone = p.zone();
  out.reserve(8760);
  for (int month = 1; month <= 12; ++month)
    for (int day = 1; day <= days[std::size_t(month - 1)]; ++day)
      for (int hour = 0; hour < 24; ++hour) {
        const CivilTime clock = zone.clock(utc({{p.site.year, month, day}, hour * 3600.0 + 1800}) + -offset);
        const double minute = clock.seconds / 60;
        const bool within = crosses ? minute >= season.beginMinute || minute < season.endMinute
                                    : minute >= season.beginMinute && minute < season.endMinute;
        out.push_back(within && holds(season, clock.date));
      }
  return out;
}

namespace {

int daysOf(const Season& season) {
  return int(datesOf(season, 2025).size());
}

bool ofHours(const Study& study) {
  return study.light.sky.kind == SkyKind::Usual;
}

Digest skyDigest(const Project& p, const std::vector<bool>& hours, double farthest) {
  Hasher h;
  h.add("radiant sky 1").add(p.site.weather->digest).add(p.site.northAngle).add(p.site.year).add(farthest);
  for (std::size_t i = 0; i < hours.size(); i += 60) {
    std::uint64_t bits = 0;
    for (std::size_t k = i; k < std::min(hours.size(), i + 60); ++k) bits |= std::uint64_t(hours[k]) << (k - i);
    h.add(bits);
  }
  return h.digest();
}

/// While something is dragged, suns may be moved by twice their diameter.
double farthestOf(const Study& study) {
  return study.light.maxSamples <= 64 ? radians(1) : RadiantSky::farthestMoved;
}

Outcome skyOfMoment(const Project& p, const Study& study, std::optional<Instant> moment, LightInput& in) {
  SkyChoice choice = study.light.sky;
  const bool byIrradiance = choice.kind == SkyKind::Perez || choice.kind == SkyKind::Weather;
  if (!byIrradiance && choice.diffuseIrradiance == 0 && choice.directIrradiance == 0)
    return fail("Irradiation under the sky of a moment needs its irradiances: diffuse-irradiance on the horizontal and "
                "direct-irradiance facing the sun, in W/m².",
                "sky");
  if (choice.diffuseIrradiance < 0 || choice.directIrradiance < 0)
    return fail("Irradiances must not be negative.", "sky");
  if (!byIrradiance) choice.diffuse = 1000; // the shape alone counts
  const auto sky = studySky(p, choice, moment);
  if (!sky) return tl::unexpected(sky.error());
  const double diffuse = byIrradiance ? sky->diffuseIrradiance : choice.diffuseIrradiance,
               direct = byIrradiance ? sky->directIrradiance : choice.directIrradiance;
  std::optional<Vec3> sun;
  if (direct > 0) {
    const auto there = sunOfSky(p, choice, moment);
    if (!there) return tl::unexpected(there.error());
    if (there->first.z > 0) sun = there->first;
  }
  in.radiant = std::make_shared<const RadiantSky>(RadiantSky::ofMoment(sky->sky, diffuse, sun, direct));
  in.unit = "W/m²";
  in.sky.text =
      fmt::format("{}, {:g} W/m² diffuse on the horizontal, {:g} W/m² beam facing the sun{}", skyText(study.light.sky),
                  diffuse, direct, direct > 0 && !sun ? ", which is below the horizon" : "");
  return {};
}

} // namespace

Outcome irradiationHours(const Project& p, const Study& study, std::optional<Instant> moment, LightInput& in,
                         Hasher& h) {
  const LightSettings& s = study.light;
  if (!ofHours(study)) {
    if (Outcome o = skyOfMoment(p, study, moment, in); !o) return o;
    h.add(in.radiant->diffuse()).add(in.radiant->beam());
    for (const RadiantSky::Sun& sun : in.radiant->suns()) h.add(sun.direction);
    for (int k = 0; k < 12; ++k) h.add((*in.radiant)(skyDirection(0.1 + 0.12 * k, 0.7 * k)));
    return {};
  }
  if (!p.site.weather || !p.site.weather->whole())
    return fail("Irradiation needs a weather year, or the sky of a moment with its irradiances; the project has "
                "neither.",
                "weather");
  const std::vector<bool> hours = hoursOfSeason(p, s.season);
  const auto count = std::size_t(std::count(hours.begin(), hours.end(), true));
  if (count == 0) return fail("No hour of the weather year lies in the season.", "season");
  const bool mean = s.amount == EnergyAmount::DailyMean;
  in.days = mean ? daysOf(s.season) : 1;
  in.unit = mean ? "kWh/m² a day" : "kWh/m²";
  in.sky.text = count == hours.size() ? std::string("the whole weather year")
                                      : fmt::format("{} hours of the weather year, {}", count, seasonText(s.season));
  if (mean) in.sky.text += ", mean of a day";
  h.add(skyDigest(p, hours, farthestOf(study))).add(in.days);
  return {};
}

Outcome irradiationSky(const Project& p, const Study& study, std::optional<Instant>, LightInput& in) {
  if (!ofHours(study)) return {}; // made already
  const std::vector<bool> hours = hoursOfSeason(p, study.light.season);
  const Digest key = skyDigest(p, hours, farthestOf(study));
  in.radiant = p.derived->sky(key);
  if (in.radiant) return {};
  auto sky = RadiantSky::ofHours(*p.site.weather, hours, p.site.northAngle, p.site.year, farthestOf(study));
  if (!sky) return tl::unexpected(sky.error());
  if (!(sky->horizontal() > 0) && !(sky->beam() > 0))
    return fail("The season has no hour with sun or sky light: nothing to add up.", "season");
  in.radiant = std::make_shared<const RadiantSky>(std::move(*sky));
  p.derived->keep(key, in.radiant);
  return {};
}

// ---- the run --------------------------------------------------------------------------------------------------------

namespace {

constexpr int sequences = 8;
constexpr double errorFactor = 1.06 * 2.365 / 1.960;

struct EnergySum {
  const RadiantSky& light;
  double seen = 0, reflected = 0;
  std::uint32_t hits = 0;
  void pane(std::uint32_t, double) {}
  void sky(std::uint32_t, Vec3 direction, double weight, bool straight) {
    const double value = weight * light(direction);
    (straight ? seen : reflected) += value;
    hits += value > 0;
  }
  void sun(std::uint32_t, double weight) {
    reflected += weight * light.beam();
    hits += weight > 0;
  }
  bool known(std::uint32_t, std::uint32_t, double) { return false; }
};

/// Directions from which so much comes, in blocks of eight for the packet kernel.
class Directions {
public:
  void add(Vec3 direction, double energy) {
    if (count_ % 8 == 0) blocks_.emplace_back();
    Rays8& b = blocks_.back();
    const auto lane = std::size_t(count_++ % 8);
    b.x[lane] = float(direction.x);
    b.y[lane] = float(direction.y);
    b.z[lane] = float(direction.z);
    directions_.push_back(direction);
    energies_.push_back(energy);
  }
  std::size_t size() const { return count_; }
  /// Calls each(direction, falls, open) for those in front of a plane: what falls on it with nothing in the way, and
  /// the share of it that is open.
  template <class Each> void on(const LightScene& scene, Vec3 at, Vec3 normal, Each&& each) const {
    for (std::size_t b = 0; b < blocks_.size(); ++b) {
      Rays8 rays = blocks_[b];
      std::array<double, 8> falls{};
      bool any = false;
      for (std::size_t i = 0; i < 8; ++i) {
        const std::size_t k = 8 * b + i;
        falls[i] = k < count_ ? energies_[k] * dot(directions_[k], normal) : 0;
        rays.active[i] = falls[i] > 0 ? -1 : 0;
        any = any || falls[i] > 0;
      }
      if (!any) continue;
      const std::array<double, 8> open = scene.open8(at, rays);
      for (std::size_t i = 0; i < 8; ++i)
        if (falls[i] > 0) each(8 * b + i, falls[i], open[i]);
    }
  }

private:
  std::size_t count_ = 0;
  std::vector<Rays8> blocks_;
  std::vector<Vec3> directions_;
  std::vector<double> energies_;
};

Directions sunsOf(const RadiantSky& sky) {
  Directions out;
  for (const RadiantSky::Sun& s : sky.suns()) out.add(s.direction, s.energy);
  return out;
}

class EnergyRun {
public:
  EnergyRun(const LightInput& in, Threads threads)
      : in_(in), suns_(sunsOf(*in.radiant)), sky_([&in](Vec3 d) { return (*in.radiant)(d); }, mixed(in.settings.seed)),
        aims_(*in.scene, {}, in.settings.seed), seed_(mixed(in.settings.seed)),
        floor_(0.0002 * std::max(in.radiant->horizontal(), 0.05 * in.radiant->beam())),
        brightest_(in.radiant->brightest()),
        most_(std::uint32_t(std::max<std::size_t>(4, in.settings.maxSamples / sequences))) {
    if (in.scene->pieces().empty()) return;
    behindGlass_ = shutIn(*in.scene, in.sensors.sensors, in.settings.seed, threads, 0.06);
    for (std::size_t i = 0; i < behindGlass_.size(); ++i)
      if (in.sensors.groups[in.sensors.sensors[i].group].room >= 0) behindGlass_[i] = true;
    aims_.share(in.sensors, threads, &behindGlass_);
  }

  void sensors(LightResult& out, std::size_t from, std::size_t to) {
    LightPaths<EnergySum> paths(*in_.scene, *in_.radiant);
    for (std::size_t i = from; i < to; ++i) sensor(out, i, paths);
  }

private:
  bool dark(std::size_t i) const { // in a room without an opening
    const int room = in_.sensors.groups[in_.sensors.sensors[i].group].room;
    return room >= 0 && std::size_t(room) < in_.windowless.size() && in_.windowless[std::size_t(room)];
  }

  void sensor(LightResult& out, std::size_t i, LightPaths<EnergySum>& paths) {
    out.value[i] = out.direct[i] = out.sky[i] = out.reflected[i] = 0;
    if (dark(i)) return;
    const Sensor& s = in_.sensors.sensors[i];
    const Vec3 n = s.normalVector(), at = s.position + n * rayOffsetAt(s.position);
    double direct = 0;
    suns_.on(*in_.scene, at, n, [&](std::size_t, double falls, double open) { direct += falls * open; });
    const bool behind = i < behindGlass_.size() && behindGlass_[i];
    const std::shared_ptr<const Aim> aim = behind ? aims_.of(in_.sensors, i) : nothing_;
    const bool free = aim->empty(); // no panes to aim at: the sky is looked at patch by patch
    SkyShare::Seen seen;
    if (free)
      seen = sky_.at(
          *in_.scene, at, n, seed_ + i * 1315423911ull, [&](double value) { return 0.5 * wanted(direct + value); },
          in_.settings.maxSamples);
    EnergySum total{*in_.radiant};
    std::array<double, sequences> sums{}, reflected{};
    std::uint32_t done = 0;
    double sky = seen.value, bounced = 0, error = 0;
    for (std::uint32_t upTo = std::min(8u, most_);; upTo = std::min(2 * upTo, most_)) {
      for (std::size_t r = 0; r < sequences; ++r) {
        const std::uint64_t key = mixed(seed_ + i * 1315423911ull + std::uint64_t(r) * 2654435761ull);
        total.seen = total.reflected = 0;
        for (std::uint32_t k = done; k < upTo; ++k) {
          HashStream random(mixed(key ^ (std::uint64_t{k} << 20)));
          paths.sample(s.position, n, *aim, ScrambledPoint(key, k), random, total, false);
        }
        sums[r] += total.reflected + (free ? 0 : total.seen);
        reflected[r] += total.reflected;
      }
      done = upTo;
      const double mean = std::accumulate(sums.begin(), sums.end(), 0.0) / (double(done) * sequences);
      bounced = std::accumulate(reflected.begin(), reflected.end(), 0.0) / (double(done) * sequences);
      if (!free) sky = mean - bounced;
      double square = 0;
      for (double sum : sums) square += std::pow(sum / done - mean, 2);
      error = std::hypot(errorFactor * std::sqrt(square / (sequences - 1) / sequences), seen.error);
      const double paid = double(done) * sequences;
      const bool believed = total.hits >= 24 || paid >= 16384 || seen.value > 0;
      if ((believed && error <= wanted(direct + sky + bounced)) || done >= most_) break;
    }
    const double paid = double(done) * sequences;
    if (total.hits == 0 && !(seen.value > 0)) error = 3 / paid * brightest_ / 2; // at most so much, at 95 %
    out.direct[i] = float(direct / in_.days);
    out.sky[i] = float(sky / in_.days);
    out.reflected[i] = float(bounced / in_.days);
    out.value[i] = float((direct + sky + bounced) / in_.days);
    out.standardError[i] = float(error / in_.days);
    out.samples[i] = std::uint32_t(paid) + seen.rays;
  }
  double wanted(double value) const { return in_.settings.error * std::max(value, floor_); }

  const LightInput& in_;
  Directions suns_;
  std::vector<bool> behindGlass_; ///< sensors in rooms and others that see little sky but through panes
  SkyShare sky_;
  AimShelf aims_;
  std::uint64_t seed_;
  double floor_, brightest_; ///< kWh/m², W/m²
  std::uint32_t most_;
  const std::shared_ptr<const Aim> nothing_ = std::make_shared<const Aim>();
};

} // namespace

LightResult runIrradiation(const LightInput& in, RunControl& control, Threads threads) {
  EnergyRun run(in, threads);
  LightResult out =
      bySensors(in, control, threads, [&](LightResult& r, std::size_t a, std::size_t b) { run.sensors(r, a, b); });
  for (std::size_t i = 0; i < out.value.size(); ++i) {
    const double wanted = in.settings.error * std::max(double(out.value[i]), 1e-9);
    out.unsettled += out.value[i] > 0 && double(out.standardError[i]) > wanted;
  }
  return out;
}

// ---- together -------------------------------------------------------------------------------------------------------

namespace {
void add(EnergyTotal& t, const LightResult& r, std::size_t i, double area, double threshold) {
  if (std::isnan(r.value[i])) return;
  const double value = double(r.value[i]);
  ++t.sensors;
  t.area += area;
  t.energy += value * area;
  t.energyError = std::hypot(t.energyError, double(r.standardError[i]) * area);
  if (r.direct.size() == r.value.size()) {
    t.direct += double(r.direct[i]) * area;
    t.sky += double(r.sky[i]) * area;
    t.reflected += double(r.reflected[i]) * area;
  }
  if (value >= threshold) {
    t.areaAtLeast += area;
    t.energyAtLeast += value * area;
  }
}
} // namespace

EnergyTotal energyTotal(const SensorSet& sensors, const LightResult& r, std::size_t first, std::size_t count,
                        double threshold) {
  EnergyTotal out;
  for (std::size_t i = first; i < first + count && i < r.value.size(); ++i)
    if (sensors.groups[sensors.sensors[i].group].spacing > 0) add(out, r, i, sensors.areaOf(i), threshold);
  return out;
}

std::vector<EnergyBySide> energyBySide(const SensorSet& sensors, const LightResult& r, std::size_t first,
                                       std::size_t count, double threshold, double northAngle) {
  std::vector<EnergyBySide> all{{"facing up", {}}};
  for (const Facing f : allFacings) all.push_back({facingKey(f), {}});
  all.push_back({"facing down", {}});
  for (std::size_t i = first; i < first + count && i < r.value.size(); ++i) {
    if (!(sensors.groups[sensors.sensors[i].group].spacing > 0)) continue;
    const Vec3 n = sensors.sensors[i].normalVector();
    const auto facing = std::abs(n.z) <= std::sqrt(0.5) ? facingOf(n, northAngle) : std::nullopt;
    const std::size_t side = facing ? 1 + std::size_t(*facing) : n.z > 0 ? 0 : all.size() - 1;
    add(all[side].total, r, i, sensors.areaOf(i), threshold);
  }
  std::erase_if(all, [](const EnergyBySide& s) { return s.total.sensors == 0; });
  return all;
}

} // namespace noonward
