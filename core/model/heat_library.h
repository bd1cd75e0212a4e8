#pragma once
// The constructions and uses of rooms that ship, found by name among a design's own.

#include "core/model/heat.h"
#include "core/model/settings/fields.h"
#include <optional>

namespace noonward {

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

/// What was changed from the shipped use that it is a copy of: "equipment 7 → 4 W/m², heat to 20 → 21 °C"; empty where
/// nothing was, or nothing is known of it.
std::string changedText(const RoomUse& use);

/// Where a construction parts a room from the outdoors, the ground or another room: which way heat flows through it.
enum class HeatFlow { Wall, Roof, Ground, ExposedFloor, Inside };
inline constexpr std::size_t heatFlows = 5;
const char* usualConstruction(HeatFlow flow); ///< of the library, where a design names none
/// The design's name for it; empty: the usual one.
std::string HeatDesign::*constructionOf(HeatFlow flow);
const char* beyondName(Beyond beyond); ///< "outdoors"
/// What the design says of a surface of a room; nothing where it says nothing.
const HeatSurface* heatSurface(const HeatDesign& design, RoomId room, int edge);
/// Says it: one that says nothing any more is taken out.
void setHeatSurface(HeatDesign& design, const HeatSurface& surface);
/// W/(m²K): as stated, or of its layers with the resistances of surfaces of ISO 6946:2017, table 7.
double uValueOf(const Construction& construction, HeatFlow flow);
/// J/(m²K) that its layers hold within 0.1 m of the room, up to the first that insulates (below 0.1 W/(mK)): ISO
/// 13790:2008, 12.3.1.1, simplified. Nothing without layers.
std::optional<double> heldHeat(const Construction& construction);

/// Constructions and uses of `stated` that the design lacks, and its usual ones where the design names none.
void takeStated(HeatDesign& design, const HeatDesign& stated);

/// A fault of a use, as a sentence; empty where it is sound.
std::string faultOf(const RoomUse& use);

} // namespace noonward
