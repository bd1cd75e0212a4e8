#include "core/base/words.h"
#include "core/model/heat_library.h"
#include "core/model/light_model.h"
#include "core/studies/energy/energy_input.h"
#include "core/studies/energy/energy_kept.h"
#include "core/studies/energy/heat_zone.h"
#include "core/studies/glare_year.h"
#include "core/studies/light_aims.h"
#include "core/studies/year_space.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

EnergyParts EnergyRoom::year() const {
  EnergyParts sum;
  for (const EnergyParts& m : months)
    for (double EnergyParts::*part :
         {&EnergyParts::heating, &EnergyParts::cooling, &EnergyParts::lighting, &EnergyParts::solar,
          &EnergyParts::internal, &EnergyParts::transmission, &EnergyParts::ventilation})
      sum.*part += m.*part;
  return sum;
}

std::string energyText(const EnergyRoom& r) {
  const EnergyParts y = r.year();
  const auto each = [&](double kwh) { return kwh / std::max(1e-9, r.floorArea); };
  return fmt::format("heating {:.0f}, cooling {:.0f}, lighting {:.0f} kWh/m²; sun {:+.0f}, people and equipment "
                     "{:+.0f}, transmission {:+.0f}, ventilation {:+.0f}",
                     each(y.heating), std::abs(each(y.cooling)), each(y.lighting), each(y.solar), each(y.internal),
                     each(y.transmission), each(y.ventilation));
}

namespace {

constexpr double airHeat = 1200; ///< J/(m³K)
constexpr std::size_t skip = 8;  ///< hours, for the uncertainty of lighting
using NamedCause = std::pair<EnergyCauseKind, const char*>;
using CK = EnergyCauseKind;
/// In the order of their kinds; the sun's place is kept by groups of windows, which follow.
constexpr std::array<NamedCause, 14> namesOfCauses{{{CK::Heating, "heating"},
                                                    {CK::Cooling, "cooling"},
                                                    {CK::Lighting, "lighting"},
                                                    {CK::People, "people"},
                                                    {CK::Equipment, "equipment"},
                                                    {CK::Sun, "sun"},
                                                    {CK::Windows, "windows"},
                                                    {CK::Walls, "walls"},
                                                    {CK::Roof, "roof"},
                                                    {CK::Ground, "floor on the ground"},
                                                    {CK::ExposedFloor, "floor over outdoor air"},
                                                    {CK::Rooms, "other rooms"},
                                                    {CK::Ventilation, "fresh air"},
                                                    {CK::Leakage, "leakage"}}};

/// A room, hour by hour.
class EnergyOfRoom {
public:
  EnergyOfRoom(const EnergyInput& in, std::size_t space)
      : in_(in), z_(in.zones[space]), space_(space), room_(in.zones[space].heat) {
    for (const EnergyInput::Part& part : z_.parts) bordersOnRooms_ |= part.space.has_value();
  }
  std::size_t space() const { return space_; }

  /// Gains of the sun and what lighting must give, W by hour.
  void gains(const EnergyKept::Gains& g, const std::string& room) {
    const HourlySky& sky = *in_.base.sky;
    solar_.assign(g.groups.size(), std::vector<double>(hoursOfYear, 0));
    for (std::size_t k = 0; k < g.groups.size(); ++k) {
      const EnergyInput::Glass& glass = in_.glass[g.groups[k]];
      const double each = glass.area * glass.ratio * in_.base.settings.glassKept;
      std::string name = in_.base.groups[g.groups[k]].name; // within its room the room needs no saying
      if (name.starts_with(room + ", ")) name.erase(0, room.size() + 2);
      names_.push_back("sun, " + name);
      solarVariance_ += std::pow(each * g.behindError[k] / 1000, 2);
      for (std::size_t h = 0; h < g.behind[k].size(); ++h)
        solar_[k][sky.hours[h]] += each * double(g.behind[k][h]) * (g.closed[k][h] ? in_.closedBlinds : 1);
    }
    lighting_.assign(hoursOfYear, 0);
    const double whole = z_.use.lighting * z_.heat.floorArea;
    for (std::size_t h = 0; h < hoursOfYear; ++h)
      if (z_.inUse[h]) lighting_[h] = whole; // dark, until daylight says otherwise
    if (g.lux.size() == 0 || z_.use.control == LightingControl::Always) return;
    if (!(z_.use.target > 0)) return lighting_.assign(hoursOfYear, 0); // nothing is asked, nothing is owing
    for (std::size_t h = 0; h < sky.hours.size(); ++h)
      if (z_.inUse[sky.hours[h]]) lighting_[sky.hours[h]] = whole * owing(g.lux, h);
    std::vector<double> each;
    for (const Eigen::MatrixXf& lux : g.luxOf) {
      double sum = 0;
      for (Eigen::Index k = 0; k < lux.cols(); ++k)
        if (z_.inUse[sky.hours[std::size_t(k) * skip]]) sum += whole * owing(lux, std::size_t(k)) * double(skip) / 1000;
      each.push_back(sum);
    }
    lightingError_ = batchError(each);
  }

  /// Before each pass over the year.
  void begin() {
    EnergyRoom& out = made;
    out.solarError = std::sqrt(solarVariance_);
    out.lightingError = lightingError_;
    out.months = {};
    out.causes.clear();
    for (const auto& [kind, name] : namesOfCauses) out.causes.push_back({kind, name, {}});
    for (const std::string& name : names_) out.causes.push_back({EnergyCauseKind::Sun, name, {}});
    out.hours.assign(hoursOfYear, {});
    out.peakHeating = out.peakCooling = out.hoursAbove = 0;
  }
  /// One hour; `around`: °C of every space the hour before, of the node that its surfaces share (θs), so that what one
  /// loses the other gains. Returns its own.
  double hour(std::size_t h, const std::vector<double>& around);
  /// With nothing heated or cooled: the temperature alone.
  double freeHour(std::size_t h, const std::vector<double>& around) {
    HeatHour in = inputOf(h, around);
    in.heatTo = -1e9;
    in.coolTo = 1e9;
    const HeatStep s = room_.step(in, mass_);
    mass_ = s.massEnd;
    made.free[h] = float(s.operative);
    made.freeAbove += z_.inUse[h] && s.operative > in_.warmAbove;
    return s.surface;
  }
  void beginFree() {
    made.free.assign(hoursOfYear, 0);
    made.freeAbove = 0;
  }
  EnergyRoom made;

private:
  /// The share of the lamps that an hour's daylight leaves owing.
  double owing(const Eigen::MatrixXf& lux, std::size_t h) const {
    const auto column = lux.col(Eigen::Index(h));
    double left = 0, mean = 0;
    for (Eigen::Index i = 0; i < column.size(); ++i) {
      left += std::max(0.0, 1 - double(column[i]) / z_.use.target) / double(column.size());
      mean += double(column[i]) / double(column.size());
    }
    return z_.use.control == LightingControl::Dimmed ? left : mean < z_.use.target ? 1.0 : 0.0;
  }
  HeatHour inputOf(std::size_t h, const std::vector<double>& around) const {
    const bool used = z_.inUse[h];
    const RoomUse& u = z_.use;
    HeatHour in;
    in.outdoor = in.supply = in_.outdoor[h];
    in.ventilation =
        airHeat * (u.infiltration * z_.volume / 3600 + (used ? u.ventilation * z_.heat.floorArea / 1000 : 0));
    in.internal = (used ? (u.people + u.equipment) * z_.heat.floorArea : 0) + lighting_[h];
    for (const auto& group : solar_) in.solar += group[h];
    if (u.conditioned) {
      in.heatTo = used ? u.heatTo : u.heatBack;
      in.coolTo = used ? u.coolTo : u.coolBack;
    }
    if (bordersOnRooms_) {
      double sum = 0;
      for (const EnergyInput::Part& part : z_.parts) sum += part.heat * facing(part, h, around);
      in.beyond = sum / z_.heat.opaque;
    }
    return in;
  }
  double facing(const EnergyInput::Part& part, std::size_t h, const std::vector<double>& around) const {
    return part.space ? around[*part.space] : in_.outdoor[h];
  }

  const EnergyInput& in_;
  const EnergyInput::Zone& z_;
  std::size_t space_;
  std::vector<std::vector<double>> solar_; ///< by group of windows
  std::vector<std::string> names_;         ///< of those groups' sun
  std::vector<double> lighting_;
  double solarVariance_ = 0, lightingError_ = 0; ///< kWh², kWh
  HeatRoom room_;
  double mass_ = 20; ///< °C
  bool bordersOnRooms_ = false;
};

double EnergyOfRoom::hour(std::size_t h, const std::vector<double>& around) {
  EnergyRoom& out = made;
  const bool used = z_.inUse[h];
  const RoomUse& u = z_.use;
  const double area = z_.heat.floorArea;
  const HeatHour in = inputOf(h, around);
  const HeatStep s = room_.step(in, mass_);
  mass_ = s.massEnd;
  const double heating = std::max(0.0, s.need), cooling = std::min(0.0, s.need);
  const auto month = std::size_t(in_.month[h]);
  EnergyParts& m = out.months[month];
  m.heating += heating / 1000;
  m.cooling += cooling / 1000;
  m.lighting += lighting_[h] / 1000;
  m.solar += in.solar / 1000;
  m.internal += (in.internal - lighting_[h]) / 1000;
  m.transmission += (s.throughWindows + s.throughOpaque) / 1000;
  m.ventilation += s.byVentilation / 1000;
  const double fresh = used ? airHeat * u.ventilation * area / 1000 : 0;
  const auto charge = [&](EnergyCauseKind kind, double watts) {
    out.causes[std::size_t(kind)].months[month] += watts / 1000; // they stand in the order of their kinds
  };
  using K = EnergyCauseKind;
  charge(K::Heating, heating);
  charge(K::Cooling, cooling);
  charge(K::Lighting, lighting_[h]);
  charge(K::People, used ? u.people * area : 0);
  charge(K::Equipment, used ? u.equipment * area : 0);
  charge(K::Windows, s.throughWindows);
  const double beyond = in.beyond.value_or(in.outdoor);
  // Each part its share of the whole and what it faces beyond the mean: what one room loses to another that one gains.
  for (const EnergyInput::Part& part : z_.parts)
    charge(part.kind, s.throughOpaque * part.heat / z_.heat.opaque + part.heat * (facing(part, h, around) - beyond));
  if (in.ventilation > 0) {
    charge(K::Ventilation, s.byVentilation * fresh / in.ventilation);
    charge(K::Leakage, s.byVentilation * (1 - fresh / in.ventilation));
  }
  for (std::size_t k = 0; k < solar_.size(); ++k)
    out.causes[namesOfCauses.size() + k].months[month] += solar_[k][h] / 1000;
  if (heating > out.peakHeating) {
    out.peakHeating = heating;
    out.peakHeatingHour = std::uint32_t(h);
  }
  if (-cooling > out.peakCooling) {
    out.peakCooling = -cooling;
    out.peakCoolingHour = std::uint32_t(h);
  }
  out.hoursAbove += used && s.operative > in_.warmAbove;
  out.hours[h] = {float(s.air),
                  float(s.operative),
                  float(heating),
                  float(cooling),
                  float(lighting_[h]),
                  float(in.solar),
                  float(in.internal - lighting_[h]),
                  float(s.throughWindows + s.throughOpaque),
                  float(s.byVentilation)};
  return s.surface;
}

/// Hour by hour, all rooms together, until the year begins as it ends.
void runRooms(std::vector<EnergyOfRoom>& rooms, std::size_t spaces) {
  std::vector<double> around(spaces, 20), now = around;
  for (int pass = 0; pass < 3; ++pass) {
    for (EnergyOfRoom& r : rooms) r.begin();
    for (std::size_t h = 0; h < hoursOfYear; ++h) {
      for (EnergyOfRoom& r : rooms) now[r.space()] = r.hour(h, around);
      around = now;
    }
  }
  for (int pass = 0; pass < 3; ++pass) {
    for (EnergyOfRoom& r : rooms) r.beginFree();
    for (std::size_t h = 0; h < hoursOfYear; ++h) {
      for (EnergyOfRoom& r : rooms) now[r.space()] = r.freeHour(h, around);
      around = now;
    }
  }
}

/// What falls behind the glass of a space and on its sensors; false where it was stopped.
bool learn(const EnergyInput& e, std::size_t space, bool daylit, KeptCoefficients& kept, AimShelf& aims,
           RunControl& control, Threads threads, bool retained, EnergyKept::Gains& out) {
  YearSpace s(e.base, space, threads);
  if (!control.goesOn() || (daylit && !s.trace(kept, 2, aims, control)) || !s.takeBeam(kept, control)) return false;
  s.workBlinds(kept);
  if (daylit && !s.lightBehind(kept, aims, control)) return false;
  out.groups = s.groups();
  for (std::size_t k = 0; k < s.groups().size(); ++k) {
    PaneLight& pane = kept.panes[s.groups()[k]];
    if (pane.all.size() == 0)
      pane = paneCoefficients(*e.base.scene, s.groups()[k], e.base.settings.seed, 1 << 14, threads);
    out.behind.push_back(s.energyBehind(k, pane));
    out.behindError.push_back(s.energyError(pane));
    std::vector<std::uint8_t> closed(out.behind.back().size());
    for (std::size_t h = 0; h < closed.size(); ++h) closed[h] = s.closed(h, k);
    out.closed.push_back(std::move(closed));
  }
  if (daylit) out.lux = s.illuminance(kept, 2, 1);
  for (std::size_t b = 0; daylit && b < out.luxOf.size(); ++b) out.luxOf[b] = s.illuminance(kept, 2, skip, b);
  if (!retained) {
    kept.spaces[space] = {};
    kept.openBytes = 0;
  }
  out.whole = true;
  return true;
}

} // namespace

/// Of the coefficients of all spaces, and of the light behind each part of their windows, about.
std::size_t rayBytes(const YearInput& in) {
  std::size_t sum = 0;
  for (const SensorGridFacts& g : in.sensors.groups) {
    std::size_t parts = 1;
    for (const WindowGroup& w : in.groups) parts += g.room >= 0 && w.room == g.room;
    sum += g.count * parts * sizeof(float) *
           (2 * KeptCoefficients::batches * SkyBins::count + 3 * in.sky->hours.size() / 2);
  }
  return sum;
}

bool answeredByKept(const LightInput& in) {
  if (!in.energy || !in.energyKept) return false;
  const EnergyInput& e = *in.energy;
  const EnergyKept& kept = *in.energyKept;
  if (kept.before != in.before || kept.spaces.size() != e.zones.size()) return false;
  // Other blinds: from the rays, as long as nothing has to be traced for them.
  const YearSettings& set = e.base.settings;
  const bool byRays = kept.rays && kept.rays->key == e.base.rays && kept.rays->sun == e.base.sunKey &&
                      !set.anyBlinds(BlindRule::Glare) && !set.fabricReflectance;
  if (kept.key != e.base.key && !byRays) return false;
  for (std::size_t k = 0; k < e.zones.size(); ++k) {
    const SensorGridFacts& g = e.base.sensors.groups[k];
    if (g.room < 0 || g.count == 0 || !(e.zones[k].heat.floorArea > 0)) continue;
    const EnergyKept::Gains& gains = kept.spaces[k];
    const bool daylit = e.zones[k].use.lighting > 0 && e.zones[k].use.control != LightingControl::Always;
    if (!gains.whole || (daylit && gains.lux.size() == 0)) return false;
  }
  return true;
}

LightResult runEnergy(const LightInput& in, RunControl& control, Threads threads) {
  const auto start = std::chrono::steady_clock::now();
  require(in.energy != nullptr, "runEnergy: an input of lightInput()");
  const EnergyInput& e = *in.energy;
  LightResult out;
  out.kind = in.kind;
  out.unit = in.unit;
  out.key = in.key;
  const std::size_t n = in.sensors.sensors.size();
  out.value.assign(n, std::nanf(""));
  out.standardError.assign(n, 0);
  out.samples.assign(n, 0);
  auto year = std::make_shared<EnergyYear>();
  const bool retained = in.energyKept && rayBytes(e.base) <= EnergyKept::mostRayBytes;
  std::shared_ptr<KeptCoefficients> rays = retained ? in.energyKept->rays : nullptr;
  if (!rays) rays = std::make_shared<KeptCoefficients>();
  if (in.energyKept) in.energyKept->rays = retained ? rays : nullptr;
  KeptCoefficients& kept = *rays;
  kept.startFor(e.base);
  AimShelf aims(*e.base.scene, {}, e.base.settings.seed);
  EnergyKept own;
  EnergyKept& learnt = in.energyKept ? *in.energyKept : own;
  if (learnt.key != e.base.key || learnt.before != in.before || learnt.spaces.size() != e.zones.size()) {
    learnt.key = e.base.key;
    learnt.before = in.before;
    learnt.spaces.clear();
  }
  learnt.spaces.resize(e.zones.size());
  bool all = control.goesOn(), worked = false;
  double done = 0;
  year->ofGroup.assign(e.zones.size(), -1);
  std::map<int, std::int32_t> known; // in two grids it is one room
  std::vector<EnergyOfRoom> rooms;
  for (std::size_t k = 0; k < e.zones.size() && all; ++k) {
    const SensorGridFacts& g = e.base.sensors.groups[k];
    done += double(g.count);
    if (g.room < 0 || g.count == 0 || !(e.zones[k].heat.floorArea > 0)) continue;
    if (const auto at = known.find(g.room); at != known.end()) {
      year->ofGroup[k] = at->second;
      continue;
    }
    const bool daylit = e.zones[k].use.lighting > 0 && e.zones[k].use.control != LightingControl::Always;
    EnergyKept::Gains& gains = learnt.spaces[k];
    if (!gains.whole || (daylit && gains.lux.size() == 0)) {
      gains = {};
      all = (worked || workGlare(e.base, kept, control, threads)) &&
            learn(e, k, daylit, kept, aims, control, threads, retained, gains);
      worked = true;
      if (!all) break;
    }
    all = control.goesOn();
    if (!all) break;
    EnergyOfRoom& room = rooms.emplace_back(e, k);
    room.gains(gains, g.name);
    room.made.room = e.base.rooms[k].value;
    room.made.name = g.name;
    room.made.use = e.zones[k].use.name;
    room.made.floorArea = e.zones[k].heat.floorArea;
    room.made.warmAbove = e.warmAbove;
    known[g.room] = year->ofGroup[k] = std::int32_t(rooms.size()) - 1;
    if (control.progress) control.progress(std::min(0.999, done / double(std::max<std::size_t>(1, n))));
  }
  runRooms(rooms, e.zones.size());
  for (EnergyOfRoom& room : rooms) year->rooms.push_back(std::move(room.made));
  for (std::size_t k = 0; k < e.zones.size(); ++k) {
    const EnergyRoom* r = year->room(k);
    if (!r) continue;
    const EnergyParts y = r->year();
    const float each = float((y.heating - y.cooling + y.lighting) / r->floorArea);
    // A kWh more of the lamps is one more of cooling too, at most.
    const float error = float(std::hypot(r->solarError, 2 * r->lightingError) / r->floorArea);
    const SensorGridFacts& g = e.base.sensors.groups[k];
    for (std::size_t i = g.first; i < g.first + g.count; ++i) {
      out.value[i] = each;
      out.standardError[i] = error;
      out.samples[i] = 1;
    }
  }
  out.energy = std::move(year);
  out.end = control.end(all);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  if (control.progress) control.progress(1);
  return out;
}

} // namespace noonward
