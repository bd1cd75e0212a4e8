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
template <class S> Fields<S> describedHeat() {
  FieldsOf<S> d;
  S::describe(d);
  return d.list;
}
} // namespace

template <> const Fields<RoomUse>& fieldsOf<RoomUse>() {
  static const auto described = describedHeat<RoomUse>();
  return described;
}
template <> const Fields<HeatDesign>& fieldsOf<HeatDesign>() {
  static const auto described = describedHeat<HeatDesign>();
  return described;
}

std::vector<Construction> libraryConstructions() {
  const char* typical = "typical value of the trade";
  return {{"Wall, insulated", 0.20, {}, typical, true},        {"Wall, solid brick", 1.5, {}, typical, true},
          {"Wall, cavity", 0.60, {}, typical, true},           {"Roof, insulated", 0.15, {}, typical, true},
          {"Roof, uninsulated", 1.2, {}, typical, true},       {"Ground floor, insulated", 0.20, {}, typical, true},
          {"Ground floor, bare slab", 0.8, {}, typical, true}, {"Floor over outdoor air", 0.20, {}, typical, true}};
}

std::vector<RoomUse> libraryUses() {
  std::vector<RoomUse> out{shipped("office", 5, 7, 6, 500, 0.8), shipped("classroom", 14, 4, 7, 500, 2.5),
                           shipped("reading room", 8, 3, 6, 500, 1.2), shipped("flat", 2, 2, 3, 150, 0.4)};
  RoomUse& flat = out.back();
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
  constexpr std::array usual{"Wall, insulated", "Roof, insulated", "Ground floor, insulated", "Floor over outdoor air"};
  return usual[std::size_t(flow)];
}

double uValueOf(const Construction& c, HeatFlow flow) {
  if (c.layers.empty()) return c.uValue;
  double r = flow == HeatFlow::Roof ? 0.10 : flow == HeatFlow::Wall ? 0.13 : 0.17; // inside
  if (flow != HeatFlow::Ground) r += 0.04;                                         // outside
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

std::string faultOf(const RoomUse& u) {
  if (u.heatTo > u.coolTo)
    return fmt::format("“{}” heats to {:g} °C and cools to {:g} °C: the set-points cross.", u.name, u.heatTo, u.coolTo);
  if (u.heatBack > u.coolBack)
    return fmt::format("“{}” heats to {:g} °C and cools to {:g} °C out of use: the set-points cross.", u.name,
                       u.heatBack, u.coolBack);
  return {};
}

} // namespace noonward
