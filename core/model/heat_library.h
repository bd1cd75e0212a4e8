#pragma once
// The constructions and uses of rooms that ship, found by name among a design's own; names of what heat knows in files.

#include "core/model/heat.h"
#include <array>
#include <optional>
#include <string_view>

namespace noonward {

inline constexpr std::array allThermalMasses{ThermalMass::VeryLight, ThermalMass::Light, ThermalMass::Medium,
                                             ThermalMass::Heavy, ThermalMass::VeryHeavy};
const char* thermalMassKey(ThermalMass mass); ///< "very-light"
std::optional<ThermalMass> thermalMassFromKey(std::string_view key);
const char* lightingControlKey(LightingControl control); ///< "dimmed"
std::optional<LightingControl> lightingControlFromKey(std::string_view key);

/// What ships: generic values of the trade, no maker's.
std::vector<Construction> libraryConstructions();
std::vector<RoomUse> libraryUses();
/// Of the design, else of the library; nothing where neither has it (case does not matter for uses).
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
