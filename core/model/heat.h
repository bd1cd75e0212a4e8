#pragma once
// What heat depends on besides geometry and glass; what ships of it: heat_library.h. SI; °C.

#include <string>
#include <vector>

namespace noonward {

enum class ThermalMass { VeryLight, Light, Medium, Heavy, VeryHeavy }; ///< of rooms, ISO 13790:2008, table 12
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
struct RoomUse { ///< what happens in a room: W/m² of its floor in the hours of use
  std::string name, source;
  std::string copyOf; ///< the shipped use it began as, so that what was changed can be told
  double people = 5, equipment = 5, lighting = 6, target = 300; ///< target: lx of daylight and lighting together
  LightingControl control = LightingControl::Dimmed;
  double heatTo = 20, coolTo = 26, heatBack = 16, coolBack = 35; ///< °C of the air, in the hours of use and out of them
  double ventilation = 0.8, infiltration = 0.15;    ///< l/s for each m² of outdoor air in use; 1/h, always
  double beginMinute = 8 * 60, endMinute = 18 * 60; ///< by the site's clock; an end before the begin is past midnight
  bool weekdaysOnly = true, locked = false;
  bool operator==(const RoomUse&) const = default;

  template <class D> static void describe(D& d) {
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
  }
};
struct HeatDesign {
  ThermalMass mass = ThermalMass::Medium;
  /// Names; empty: "office", for rooms whose own `use` names none, and the library's usual constructions.
  std::string use, wall, roof, ground, exposedFloor;
  double closedBlinds = 0.6; ///< 0…1, of the sun's gains through glass, that closed blinds leave
  std::vector<Construction> constructions;
  std::vector<RoomUse> uses;
  bool operator==(const HeatDesign&) const = default;
  void clear() { *this = {}; }

  template <class D> static void describe(D& d) {
    using S = HeatDesign;
    using M = ThermalMass;
    d.choice("mass", "Thermal mass",
             {{M::VeryLight, {"very-light", "very light"}},
              {M::Light, {"light", "light"}},
              {M::Medium, {"medium", "medium"}},
              {M::Heavy, {"heavy", "heavy"}},
              {M::VeryHeavy, {"very-heavy", "very heavy"}}},
             &S::mass, "How much heat walls, floors and ceilings hold: light is timber, heavy bare concrete")
        .unlessDefault();
    d.part("closed-blinds", "Sun past blinds", 0, 100, &S::closedBlinds,
           "Of the sun's heat that the glass lets in, what closed blinds leave in the room")
        .unlessDefault();
  }
};

} // namespace noonward
