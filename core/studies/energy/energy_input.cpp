#include "core/studies/energy/energy_input.h"
#include "core/base/words.h"
#include "core/model/light_model.h"
#include "core/studies/energy/energy_kept.h"
#include "core/studies/hourly_sky.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

namespace {

/// g of glass that states none, by its panes: typical values of the trade.
double usualSolarFactor(const Glazing& g) {
  constexpr std::array<double, 4> byPanes{0.90, 0.85, 0.75, 0.65};
  return byPanes[std::size_t(std::clamp(g.panes, 0, 3))] *
         std::min(1.0, g.transmittance / std::max(0.05, mostTransmittance(std::max(1, g.panes))));
}

std::vector<bool> hoursOfUse(const Zone& zone, double offset, int year, const RoomUse& u) {
  if (u.endMinute > u.beginMinute) return clockMask(zone, offset, year, u.beginMinute, u.endMinute, u.weekdaysOnly);
  std::vector<bool> late = clockMask(zone, offset, year, u.beginMinute, 24 * 60, u.weekdaysOnly);
  const std::vector<bool> early = clockMask(zone, offset, year, 0, u.endMinute, u.weekdaysOnly);
  for (std::size_t h = 0; h < late.size(); ++h) late[h] = late[h] || early[h];
  return late;
}

/// Constructions by name, each looked up once; the library's usual one where none is known.
class Constructions {
public:
  Constructions(const HeatDesign& design, std::set<std::string>& unknown) : design_(design), unknown_(unknown) {}
  const Construction& of(const EnvelopeSurface& s) {
    const auto at = known_.find(s.construction);
    if (at != known_.end()) return at->second;
    auto found = findConstruction(design_, s.construction);
    if (found) return known_.emplace(s.construction, std::move(*found)).first->second;
    unknown_.insert(s.construction);
    const std::string usual = usualConstruction(s.flow);
    return known_.try_emplace(usual, *findConstruction({}, usual)).first->second;
  }

private:
  const HeatDesign& design_;
  std::set<std::string>& unknown_;
  std::map<std::string, Construction> known_;
};

EnergyCauseKind kindOf(const EnvelopeSurface& s) {
  if (s.neighbour) return EnergyCauseKind::Rooms;
  return s.edge >= 0                  ? EnergyCauseKind::Walls
         : s.edge == ceilingEdge      ? EnergyCauseKind::Roof
         : s.beyond == Beyond::Ground ? EnergyCauseKind::Ground
                                      : EnergyCauseKind::ExposedFloor;
}

/// What the layers of a room's surfaces hold: Cm and Am of ISO 13790:2008, 12.3.1.1 and 12.2.2. Surfaces without layers
/// hold what they would in a room of medium mass.
void holdByLayers(HeatZone& z, const RoomEnvelope& e, Constructions& constructions) {
  constexpr double medium = 165e3 / 4.5; // J/(m²K)
  double sum = 0, squares = 0;
  for (const EnvelopeSurface& s : e.surfaces) {
    const double held = heldHeat(constructions.of(s)).value_or(medium);
    sum += s.area * held;
    squares += s.area * held * held;
  }
  z.capacity = sum;
  z.massArea = squares > 0 ? sum * sum / squares : 0;
}

/// The year behind it: that of the question before, sky and scene, where only heat differs.
Expected<YearInput> baseOf(const Project& p, const Study& study, const YearSettings& settings, const LightInput& in) {
  const std::vector<GroupId> groups = groupsTaken(p, study.groups);
  if (in.energyKept && in.energyKept->base && !in.before) {
    auto facts = yearFacts(p, groups, settings);
    if (!facts) return tl::unexpected(facts.error());
    const YearInput& was = *in.energyKept->base;
    const bool same = facts->key == was.key, byGlare = settings.anyBlinds(BlindRule::Glare);
    if (same || (!byGlare && facts->rays == was.rays && facts->sunKey == was.sunKey)) {
      YearInput out = was;
      static_cast<YearFacts&>(out) = std::move(*facts);
      if (!same) {
        out.eyes.reset();
        setHours(p, out);
        in.energyKept->base = std::make_shared<const YearInput>(out);
      }
      return out;
    }
  }
  auto out = yearInput(p, groups, settings, nullptr, in.before);
  if (out && in.energyKept && !in.before) in.energyKept->base = std::make_shared<const YearInput>(*out);
  return out;
}

} // namespace

Outcome energyQuestion(const Project& p, const Study& study, std::optional<Instant>, LightInput& in, Hasher& h) {
  if (!p.site.weather || !p.site.weather->whole())
    return fail("Heating and cooling need a weather year; the project has none.", "weather");
  std::size_t missing = 0;
  for (const WeatherHour& w : p.site.weather->hours) missing += std::isnan(w[WeatherField::DryBulb]);
  if (missing > 0)
    return fail(fmt::format("The weather year has no temperature in {}.", counted(missing, "hour", "hours")),
                "weather");
  for (const RoomUse& u : p.heat.uses)
    if (const std::string fault = faultOf(u); !fault.empty()) return fail(fault, "heat");
  in.sky.text = "the weather year, " + blindsText(study.year);
  in.unit = "kWh/m²";
  h.add("energy 4")
      .add(p.site.weather->digest)
      .add(p.site.northAngle)
      .add(p.site.place.latitude)
      .add(p.site.place.longitude)
      .add(p.site.zone)
      .add(p.site.year)
      .add(p.site.groundLevel)
      .add(timeZoneDataVersion());
  const HeatDesign& d = p.heat;
  hashFields(h, d);
  h.add(d.wall).add(d.roof).add(d.ground).add(d.exposedFloor).add(d.partition).add(d.use);
  for (const HeatSurface& s : d.surfaces) h.add(s.room.value).add(s.edge).add(int(s.beyond)).add(s.construction);
  for (const Construction& c : d.constructions) {
    h.add(c.name).add(c.uValue);
    for (const ConstructionLayer& l : c.layers)
      h.add(l.thickness).add(l.conductivity).add(l.density).add(l.heatCapacity);
  }
  for (const RoomUse& u : d.uses) hashFields(h.add(u.name), u);
  for (const Room& r : p.rooms) h.add(r.id.value).add(r.use).add(r.floor).add(r.height);
  for (const Glazing& g : p.glazings) h.add(g.name).add(g.solarFactor).add(g.uValue);
  return {};
}

Outcome energyInput(const Project& p, const Study& study, std::optional<Instant>, LightInput& in) {
  auto out = std::make_shared<EnergyInput>();
  YearSettings settings = study.year;
  settings.stopFor = StopFor::Nothing;
  auto base = baseOf(p, study, settings, in);
  if (!base) return tl::unexpected(base.error());
  out->base = std::move(*base);
  const auto model = lightModel(p, !in.before);
  if (!model) return tl::unexpected(model.error());
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  out->closedBlinds = p.heat.closedBlinds;
  out->warmAbove = p.heat.warmAbove;

  std::set<std::string> unknown, guessed;
  out->glass.resize(model->groups.size());
  std::vector<double> g(model->groups.size(), 0), tau(g);
  for (const LightPart& part : model->parts) {
    if (!part.glazed || !part.mesh) continue;
    const Glazing& glass = model->glazings[part.material];
    double area = 0;
    for (std::size_t t = 0; t < part.mesh->triangles.size(); ++t) area += length(part.mesh->areaVector(t));
    if (glass.solarFactor <= 0 || glass.uValue <= 0) guessed.insert(glass.name);
    EnergyInput::Glass& sum = out->glass[part.group];
    sum.area += area;
    sum.heat += area * (uValueOf(glass));
    g[part.group] += area * (glass.solarFactor > 0 ? glass.solarFactor : usualSolarFactor(glass));
    tau[part.group] += area * glass.transmittance;
  }
  for (std::size_t k = 0; k < out->glass.size();
       ++k) { // meshes of panes have two sides: they weigh, and do not measure
    EnergyInput::Glass& sum = out->glass[k];
    sum.heat *= sum.area > 0 ? model->groups[k].area / sum.area : 0;
    sum.area = model->groups[k].area;
    sum.ratio = tau[k] > 0 ? g[k] / tau[k] : 0;
  }

  Constructions constructions(p.heat, unknown);
  const std::vector<RoomEnvelope> envelopes = roomEnvelopes(p);
  const Weather& w = *p.site.weather;
  std::set<int> byDefault, inside;
  std::map<int, std::size_t> spaceOf; ///< room → its first space
  for (std::size_t k = 0; k < out->base.sensors.groups.size(); ++k)
    if (const SensorGridFacts& g = out->base.sensors.groups[k]; g.room >= 0 && g.count > 0)
      spaceOf.try_emplace(g.room, k);
  for (std::size_t k = 0; k < out->base.sensors.groups.size(); ++k) {
    EnergyInput::Zone z;
    const int r = out->base.sensors.groups[k].room;
    if (r >= 0) {
      const Room& room = p.rooms[std::size_t(r)];
      const RoomEnvelope& e = envelopes[std::size_t(r)];
      const UseOfRoom use = useOfRoom(p.heat, room.use);
      if (!use.own) byDefault.insert(r);
      z.use = use.use;
      z.inUse = hoursOfUse(*zone, w.utcOffset, p.site.year, z.use);
      z.volume = e.volume;
      z.heat.floorArea = e.floorArea;
      z.heat.mass = p.heat.mass;
      if (p.heat.mass == ThermalMass::OfLayers) holdByLayers(z.heat, e, constructions);
      double bordering = e.openings;
      for (const EnvelopeSurface& q : e.surfaces) {
        EnergyInput::Part part{kindOf(q), q.area * uValueOf(constructions.of(q), q.flow), {}};
        if (q.neighbour) {
          const auto at = spaceOf.find(int(*q.neighbour));
          const bool free = !useOfRoom(p.heat, p.rooms[*q.neighbour].use).use.conditioned;
          if (at != spaceOf.end())
            part.space = at->second;
          else if (free)
            part.heat *= p.heat.unheatedShare;
          else
            continue;
        } else if (q.beyond == Beyond::Alike) {
          continue;
        } else {
          bordering += q.area;
          part.heat *= lossShare(p.heat, q.beyond);
        }
        z.heat.opaque += part.heat;
        z.parts.push_back(part);
      }
      if (bordering <= 0) inside.insert(r);
      for (std::size_t group = 1; group < model->groups.size(); ++group)
        if (model->groups[group].room == r) z.heat.windows += out->glass[group].heat;
    }
    out->zones.push_back(std::move(z));
  }
  for (const WeatherHour& hour : w.hours) {
    out->outdoor.push_back(hour[WeatherField::DryBulb]);
    out->month.push_back(std::clamp(hour.month, 1, 12) - 1);
  }
  in.scene = out->base.scene;
  const auto tell = [&](Rank rank, const char* code, std::string text, std::size_t count) {
    in.findings.push_back({rank, code, std::move(text), int(count), {}, "", ""});
  };
  for (const std::string& name : unknown)
    tell(Rank::BendsResult, "energy.construction",
         fmt::format("No construction is called “{}”: the library's usual one is taken.", name), 1);
  const auto leaky = std::count_if(out->zones.begin(), out->zones.end(), [](const EnergyInput::Zone& z) {
    return z.heat.opaque > 0.9 * 9.1 * 2.5 * z.heat.floorArea; // Htr,ms of the lighter masses: (63) comes to its end
  });
  if (leaky > 0)
    tell(Rank::BendsResult, "energy.leaky",
         fmt::format("{} more through walls, roof and floor than the simple method can follow: losses come out too "
                     "small.",
                     counted(std::size_t(leaky), "room loses", "rooms lose")),
         std::size_t(leaky));
  if (!guessed.empty())
    tell(Rank::BendsResult, "energy.glass",
         fmt::format("{} no g or U: typical values by the number of panes are taken.",
                     counted(guessed.size(), "glazing states", "glazings state")),
         guessed.size());
  if (!byDefault.empty())
    tell(Rank::WorthKnowing, "energy.use",
         fmt::format("{} “{}”: no use of that name is known.",
                     counted(byDefault.size(), "room is taken as", "rooms are taken as"),
                     useOfRoom(p.heat, "").use.name),
         byDefault.size());
  if (!inside.empty())
    tell(Rank::WorthKnowing, "energy.inside",
         fmt::format("{} nowhere on the outdoors: no heat is lost but by air.",
                     counted(inside.size(), "room borders", "rooms border")),
         inside.size());
  in.energy = std::move(out);
  return {};
}

} // namespace noonward
