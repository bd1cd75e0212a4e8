#pragma once
// What heat depends on besides geometry and glass: constructions by kind of surface, thermal mass, and what happens in
// rooms by their use. The names of the library that ships are locked; a project keeps copies of what it uses, and its
// own. SI; temperatures in °C.

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace noonward {

/// Thermal mass of rooms, ISO 13790:2008, table 12.
enum class ThermalMass { VeryLight, Light, Medium, Heavy, VeryHeavy };
inline constexpr std::array allThermalMasses{ThermalMass::VeryLight, ThermalMass::Light, ThermalMass::Medium,
                                             ThermalMass::Heavy, ThermalMass::VeryHeavy};
const char* thermalMassKey(ThermalMass mass); ///< "very-light"
std::optional<ThermalMass> thermalMassFromKey(std::string_view key);

struct Construction {
  std::string name;
  double uValue = 0.3; ///< W/(m²K), surfaces' resistances included
  std::string source;
  bool locked = false;
  bool operator==(const Construction&) const = default;
};

enum class LightingControl { Dimmed, Switched, Always }; ///< by the daylight of each sensor; by the room's mean; not
const char* lightingControlKey(LightingControl control); ///< "dimmed"
std::optional<LightingControl> lightingControlFromKey(std::string_view key);

/// What happens in a room of a use, W/m² of its floor in the hours of use.
struct RoomUse {
  std::string name;
  double people = 5, equipment = 5, lighting = 6;
  double target = 300; ///< lx, that daylight and lighting give together
  LightingControl control = LightingControl::Dimmed;
  double heatTo = 20, coolTo = 26;                  ///< °C of the air in the hours of use
  double heatBack = 16, coolBack = 35;              ///< and in all others
  double ventilation = 0.8;                         ///< l/s for each m², outdoor air, in the hours of use
  double infiltration = 0.15;                       ///< 1/h, always
  double beginMinute = 8 * 60, endMinute = 18 * 60; ///< by the site's clock; an end before the begin is past midnight
  bool weekdaysOnly = true;
  std::string source;
  bool locked = false;
  bool operator==(const RoomUse&) const = default;
};

struct HeatDesign {
  ThermalMass mass = ThermalMass::Medium;
  /// Names of constructions; empty: the library's usual one of the kind.
  std::string wall, roof, ground, exposedFloor;
  double closedBlinds = 0.6; ///< 0…1, of the sun's gains through glass, that closed blinds leave
  std::string use;           ///< of rooms whose own `use` names none; empty: "office"
  std::vector<Construction> constructions;
  std::vector<RoomUse> uses;
  void clear() { *this = {}; }
  bool operator==(const HeatDesign&) const = default;
};

/// What ships: generic values of the trade, no maker's.
std::vector<Construction> libraryConstructions();
std::vector<RoomUse> libraryUses();
/// Of the design, else of the library; null where neither has it (case does not matter for uses). Valid as long as the
/// design.
std::optional<Construction> findConstruction(const HeatDesign& design, const std::string& name);
std::optional<RoomUse> findUse(const HeatDesign& design, const std::string& name);
/// The use of a room by its name for it, else the design's, else "office"; `own`: it was the room's.
struct UseOfRoom {
  RoomUse use;
  bool own = false;
};
UseOfRoom useOfRoom(const HeatDesign& design, const std::string& roomUse);

/// A fault of a use, as a sentence; empty where it is sound.
std::string faultOf(const RoomUse& use);

} // namespace noonward
