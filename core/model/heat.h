#pragma once
// What heat depends on besides geometry and glass; what ships of it: heat_library.h. SI; °C.

#include "core/base/id.h"
#include <string>
#include <vector>

namespace noonward {

using RoomId = Id<struct RoomTag>;

/// Of rooms, ISO 13790:2008, table 12; or as their layers hold it (12.3.1.1).
enum class ThermalMass { VeryLight, Light, Medium, Heavy, VeryHeavy, OfLayers };
enum class LightingControl { Dimmed, Switched, Always }; ///< by the daylight of each sensor; by the room's mean; not
struct ConstructionLayer {
  std::string name;
  double thickness = 0.1, conductivity = 1;   ///< m, W/(mK)
  double density = 1000, heatCapacity = 1000; ///< kg/m³, J/(kgK)
  bool operator==(const ConstructionLayer&) const = default;
};
struct Construction {
  std::string name;
  double uValue = 0.3;                   ///< W/(m²K), surfaces' resistances included; of layers where there are some
  std::vector<ConstructionLayer> layers; ///< from outdoors to indoors
  std::string source;
  bool locked = false;
  bool operator==(const Construction&) const = default;
};
/// Its fields, as those of HeatDesign, are described in heat_library.cpp: half of the program includes this.
struct RoomUse { ///< what happens in a room: W/m² of its floor in the hours of use
  std::string name, source;
  std::string copyOf; ///< the shipped use it began as, so that what was changed can be told
  double people = 5, equipment = 5, lighting = 6, target = 300; ///< target: lx of daylight and lighting together
  LightingControl control = LightingControl::Dimmed;
  double heatTo = 20, coolTo = 26, heatBack = 16, coolBack = 35; ///< °C of the air, in the hours of use and out of them
  double ventilation = 0.8, infiltration = 0.15;    ///< l/s for each m² of outdoor air in use; 1/h, always
  double beginMinute = 8 * 60, endMinute = 18 * 60; ///< by the site's clock; an end before the begin is past midnight
  bool weekdaysOnly = true, locked = false, conditioned = true; ///< not: left to itself, neither heated nor cooled
  bool operator==(const RoomUse&) const = default;
};
/// What lies behind a surface of a room. Alike: something as warm as the room, to which it loses nothing.
enum class Beyond { AsDrawn, Outdoors, Ground, Unheated, Alike };
struct HeatSurface { ///< what is said of one surface, against what is drawn and usual
  RoomId room;
  int edge = 0; ///< side of the room's outline, from 0; ceiling and floor: below
  Beyond beyond = Beyond::AsDrawn;
  std::string construction; ///< empty: the usual one
  bool operator==(const HeatSurface&) const = default;
};
inline constexpr int ceilingEdge = -1, floorEdge = -2;
struct EnergyWeight {                            ///< what a kWh is weighed by: a price, carbon, primary energy
  std::string name, unit, source;                ///< "Price", "€"
  double heating = 1, cooling = 1, lighting = 1; ///< of the unit, for each kWh of the demand
  bool operator==(const EnergyWeight&) const = default;
};
struct HeatDesign {
  ThermalMass mass = ThermalMass::Medium;
  /// Names; empty: "office", for rooms whose own `use` names none, and the library's usual constructions.
  std::string use, wall, roof, ground, exposedFloor, partition;
  double closedBlinds = 0.6;  ///< 0…1, of the sun's gains through glass, that closed blinds leave
  double warmAbove = 26;      ///< °C, operative: hours of use above it are counted
  double unheatedShare = 0.5; ///< 0…1, of the loss to outdoor air, of what borders on an unheated space (b, ISO 13789)
  std::vector<Construction> constructions;
  std::vector<RoomUse> uses;
  std::vector<HeatSurface> surfaces; ///< each room and edge once
  std::vector<EnergyWeight> weights;
  bool operator==(const HeatDesign&) const = default;
  void clear() { *this = {}; }
};

} // namespace noonward
