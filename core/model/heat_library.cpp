#include "core/model/heat_library.h"
#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace noonward {

namespace {
std::string lower(std::string text) {
  for (char& c : text) c = char(std::tolower(static_cast<unsigned char>(c)));
  return text;
}
RoomUse shipped(const char* name, double people, double equipment, double lighting, double target, double ventilation) {
  RoomUse u;
  u.name = name;
  u.people = people;
  u.equipment = equipment;
  u.lighting = lighting;
  u.target = target;
  u.ventilation = ventilation;
  u.source = "typical value of the trade";
  u.locked = true;
  return u;
}
} // namespace

namespace {
Fields<RoomUse> describedRoomUse() {
  FieldsOf<RoomUse> d;
  using S = RoomUse;
  using L = LightingControl;
  d.number("people", "People", "W/m²", 0, 500, &S::people, "Heat of those in the room, over its floor, in use")
      .spoken("Heat of people");
  d.number("equipment", "Equipment", "W/m²", 0, 2000, &S::equipment, "Heat of what is plugged in, in use")
      .spoken("Heat of equipment");
  d.number("lighting", "Lighting", "W/m²", 0, 500, &S::lighting, "Power of all lamps when they burn fully")
      .spoken("Power of lighting");
  d.number("target", "Light wanted", "lx", 0, 1e5, &S::target, "That daylight and lighting give together")
      .spoken("Light wanted in use");
  d.choice("control", "Lamps are",
           {{L::Dimmed, {"dimmed", "dimmed by daylight"}},
            {L::Switched, {"switched", "switched by daylight"}},
            {L::Always, {"always", "on while in use"}}},
           &S::control, "Dimmed by the daylight of each sensor, switched by the mean of the room, or neither")
      .spoken("Control of lighting");
  d.number("heat-to", "Heat to", "°C", -50, 60, &S::heatTo, "Temperature of the air below which it heats, in use");
  d.number("cool-to", "Cool to", "°C", -50, 200, &S::coolTo, "Temperature of the air above which it cools, in use");
  d.number("heat-back", "Else heat to", "°C", -50, 60, &S::heatBack, "Out of the hours of use");
  d.number("cool-back", "Else cool to", "°C", -50, 200, &S::coolBack, "Out of the hours of use; 100 °C: never");
  d.number("ventilation", "Fresh air", "l/s·m²", 0, 100, &S::ventilation, "Outdoor air for each m² of floor, in use");
  d.number("infiltration", "Leakage", "1/h", 0, 50, &S::infiltration, "Changes of air by cracks, at all hours");
  d.clock("from", "In use from", &S::beginMinute, "By the site's clock").spoken("In use from");
  d.clock("to", "In use to", &S::endMinute, "An end before the beginning is past midnight").spoken("In use to");
  d.flag("weekdays", "Days", "every day", "Mon to Fri", &S::weekdaysOnly, "The days on which it is in use")
      .spoken("Days in use");
  d.flag("conditioned", "Climate", "left to itself", "heated and cooled", &S::conditioned,
         "Left to itself a room has the temperature that comes of what is around it")
      .spoken("Climate of the room")
      .unlessDefault();
  return d.list;
}

Fields<HeatDesign> describedHeatDesign() {
  FieldsOf<HeatDesign> d;
  using S = HeatDesign;
  using M = ThermalMass;
  d.choice("mass", "Thermal mass",
           {{M::VeryLight, {"very-light", "very light"}},
            {M::Light, {"light", "light"}},
            {M::Medium, {"medium", "medium"}},
            {M::Heavy, {"heavy", "heavy"}},
            {M::VeryHeavy, {"very-heavy", "very heavy"}},
            {M::OfLayers, {"of-layers", "of the layers"}}},
           &S::mass,
           "How much heat walls, floors and ceilings hold: light is timber, heavy bare concrete; or as the layers of "
           "the constructions hold it")
      .unlessDefault();
  d.part("closed-blinds", "Sun past blinds", 0, 100, &S::closedBlinds,
         "Of the sun's heat that the glass lets in, what closed blinds leave in the room")
      .unlessDefault();
  d.number("warm-above", "Too warm above", "°C", 10, 60, &S::warmAbove,
           "Hours of use with an operative temperature above it are counted")
      .unlessDefault();
  d.part("unheated", "Loss to unheated", 0, 100, &S::unheatedShare,
         "Of the loss to outdoor air, what a surface loses that borders on an unheated space")
      .unlessDefault();
  return d.list;
}
} // namespace

template <> const Fields<RoomUse>& fieldsOf<RoomUse>() {
  static const auto described = describedRoomUse();
  return described;
}
template <> const Fields<HeatDesign>& fieldsOf<HeatDesign>() {
  static const auto described = describedHeatDesign();
  return described;
}

std::vector<Construction> libraryConstructions() {
  const char* typical = "typical value of the trade";
  return {{"Wall, insulated", 0.20, {}, typical, true},
          {"Wall, solid brick", 1.5, {}, typical, true},
          {"Wall, cavity", 0.60, {}, typical, true},
          {"Roof, insulated", 0.15, {}, typical, true},
          {"Roof, uninsulated", 1.2, {}, typical, true},
          {"Ground floor, insulated", 0.20, {}, typical, true},
          {"Ground floor, bare slab", 0.8, {}, typical, true},
          {"Floor over outdoor air", 0.20, {}, typical, true},
          {"Partition", 1.8, {}, typical, true}};
}

std::vector<RoomUse> libraryUses() {
  std::vector<RoomUse> out{shipped("office", 5, 7, 6, 500, 0.8), shipped("classroom", 14, 4, 7, 500, 2.5),
                           shipped("reading room", 8, 3, 6, 500, 1.2), shipped("flat", 2, 2, 3, 150, 0.4),
                           shipped("unheated", 0, 0, 0, 0, 0)};
  out.back().conditioned = false;
  out.back().infiltration = 0.5;
  RoomUse& flat = out[3];
  flat.beginMinute = 0;
  flat.endMinute = 24 * 60;
  flat.weekdaysOnly = false;
  flat.control = LightingControl::Switched;
  flat.heatBack = 18;
  return out;
}

std::optional<Construction> findConstruction(const HeatDesign& d, const std::string& name) {
  for (const auto& list : {d.constructions, libraryConstructions()})
    for (const Construction& c : list)
      if (c.name == name) return c;
  return {};
}

std::optional<RoomUse> findUse(const HeatDesign& d, const std::string& name) {
  for (const auto& list : {d.uses, libraryUses()})
    for (const RoomUse& u : list)
      if (lower(u.name) == lower(name)) return u;
  return {};
}

UseOfRoom useOfRoom(const HeatDesign& d, const std::string& roomUse) {
  if (const auto own = findUse(d, roomUse); own && !roomUse.empty()) return {*own, true};
  if (const auto all = findUse(d, d.use)) return {*all, false};
  return {libraryUses().front(), false};
}

std::string changedText(const RoomUse& u) {
  std::string out;
  for (const RoomUse& base : libraryUses()) {
    if (base.name != u.copyOf) continue;
    for (const Field<RoomUse>& f : fieldsOf<RoomUse>())
      for (const FieldRow<RoomUse>& row : f.rows)
        if (const std::string was = row.text(base), now = row.text(u); was != now)
          out += fmt::format("{}{} {} → {}", out.empty() ? "" : ", ", lower(row.name), was, now);
  }
  return out;
}

const char* usualConstruction(HeatFlow flow) {
  constexpr std::array usual{"Wall, insulated", "Roof, insulated", "Ground floor, insulated", "Floor over outdoor air",
                             "Partition"};
  return usual[std::size_t(flow)];
}

std::string HeatDesign::*constructionOf(HeatFlow flow) {
  constexpr std::array names{&HeatDesign::wall, &HeatDesign::roof, &HeatDesign::ground, &HeatDesign::exposedFloor,
                             &HeatDesign::partition};
  return names[std::size_t(flow)];
}

const char* beyondName(Beyond beyond) {
  constexpr std::array names{"as drawn", "outdoors", "ground", "unheated", "as warm"};
  return names[std::size_t(beyond)];
}

const HeatSurface* heatSurface(const HeatDesign& d, RoomId room, int edge) {
  const auto at = std::find_if(d.surfaces.begin(), d.surfaces.end(),
                               [&](const HeatSurface& s) { return s.room == room && s.edge == edge; });
  return at == d.surfaces.end() ? nullptr : &*at;
}

void setHeatSurface(HeatDesign& d, const HeatSurface& surface) {
  std::erase_if(d.surfaces, [&](const HeatSurface& s) { return s.room == surface.room && s.edge == surface.edge; });
  if (surface.beyond != Beyond::AsDrawn || !surface.construction.empty()) d.surfaces.push_back(surface);
}

double uValueOf(const Construction& c, HeatFlow flow) {
  if (c.layers.empty()) return c.uValue;
  using F = HeatFlow;
  double r = flow == F::Roof ? 0.10 : flow == F::Wall || flow == F::Inside ? 0.13 : 0.17; // inside
  r += flow == F::Inside ? 0.13 : flow == F::Ground ? 0 : 0.04;                           // on the other side
  for (const ConstructionLayer& l : c.layers) r += l.thickness / l.conductivity;
  return 1 / r;
}

std::optional<double> heldHeat(const Construction& c) {
  if (c.layers.empty()) return {};
  double left = 0.1, sum = 0;
  for (auto l = c.layers.rbegin(); l != c.layers.rend() && left > 0 && l->conductivity >= 0.1; ++l) {
    const double taken = std::min(left, l->thickness);
    sum += taken * l->density * l->heatCapacity;
    left -= taken;
  }
  return sum;
}

void takeStated(HeatDesign& d, const HeatDesign& stated) {
  for (const Construction& c : stated.constructions)
    if (!findConstruction(d, c.name)) d.constructions.push_back(c);
  for (const RoomUse& u : stated.uses)
    if (std::none_of(d.uses.begin(), d.uses.end(), [&](const RoomUse& o) { return o.name == u.name; }))
      d.uses.push_back(u);
  for (std::size_t f = 0; f < heatFlows; ++f)
    if (std::string& name = d.*constructionOf(HeatFlow(f)); name.empty()) name = stated.*constructionOf(HeatFlow(f));
}

std::string faultOf(const RoomUse& u) {
  if (u.heatTo > u.coolTo)
    return fmt::format("“{}” heats to {:g} °C and cools to {:g} °C: the set-points cross.", u.name, u.heatTo, u.coolTo);
  if (u.heatBack > u.coolBack)
    return fmt::format("“{}” heats to {:g} °C and cools to {:g} °C out of use: the set-points cross.", u.name,
                       u.heatBack, u.coolBack);
  return {};
}

} // namespace noonward
