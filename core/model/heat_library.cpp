#include "core/model/heat_library.h"
#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace noonward {

namespace {
constexpr std::array<const char*, 5> massKeys{"very-light", "light", "medium", "heavy", "very-heavy"};
constexpr std::array<const char*, 3> controlKeys{"dimmed", "switched", "always"};

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

const char* thermalMassKey(ThermalMass mass) {
  return massKeys[std::size_t(mass)];
}
std::optional<ThermalMass> thermalMassFromKey(std::string_view key) {
  for (std::size_t k = 0; k < massKeys.size(); ++k)
    if (key == massKeys[k]) return ThermalMass(k);
  return {};
}
const char* lightingControlKey(LightingControl control) {
  return controlKeys[std::size_t(control)];
}
std::optional<LightingControl> lightingControlFromKey(std::string_view key) {
  for (std::size_t k = 0; k < controlKeys.size(); ++k)
    if (key == controlKeys[k]) return LightingControl(k);
  return {};
}

std::vector<Construction> libraryConstructions() {
  const char* typical = "typical value of the trade";
  return {{"Wall, insulated", 0.20, typical, true},        {"Wall, solid brick", 1.5, typical, true},
          {"Wall, cavity", 0.60, typical, true},           {"Roof, insulated", 0.15, typical, true},
          {"Roof, uninsulated", 1.2, typical, true},       {"Ground floor, insulated", 0.20, typical, true},
          {"Ground floor, bare slab", 0.8, typical, true}, {"Floor over outdoor air", 0.20, typical, true}};
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

std::string faultOf(const RoomUse& u) {
  if (u.heatTo > u.coolTo)
    return fmt::format("“{}” heats to {:g} °C and cools to {:g} °C: the set-points cross.", u.name, u.heatTo, u.coolTo);
  if (u.heatBack > u.coolBack)
    return fmt::format("“{}” heats to {:g} °C and cools to {:g} °C out of use: the set-points cross.", u.name,
                       u.heatBack, u.coolBack);
  return {};
}

} // namespace noonward
