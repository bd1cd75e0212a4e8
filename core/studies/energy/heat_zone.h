#pragma once
// Heat of one room by the simple hourly method of ISO 13790:2008, annex C (five resistances, one capacity). Equations
// (C.1) to (C.22) stand at their steps. Temperatures in °C, heat flows in W, positive into the room.
//
// Departure: conduction of gains straight out through the windows, the term Htr,w / (9.1 Atot) of (C.3), is counted
// with the transmission of the windows, so that the balance of an hour closes. With no ventilation at all the limit of
// the equations is taken.

#include "core/model/heat.h"
#include <optional>

namespace noonward {

struct HeatZone {
  double floorArea = 0; ///< m²
  double opaque = 0;    ///< Htr,op, W/K: walls, roofs and floors to the outside and to other rooms
  double windows = 0;   ///< Htr,w, W/K
  ThermalMass mass = ThermalMass::Medium;
  double capacity = 0, massArea = 0; ///< Cm, J/K, and Am, m², of OfLayers
};

struct HeatHour {
  double outdoor = 0;                            ///< °C
  double supply = 0;                             ///< °C, of the air that comes in
  std::optional<double> beyond;                  ///< °C, what the opaque parts face, by W/K; none: outdoor
  double ventilation = 0;                        ///< Hve, W/K
  double internal = 0;                           ///< W, people, equipment and lighting
  double solar = 0;                              ///< W, through glass
  double heatTo = -1e9, coolTo = 1e9;            ///< °C of the air
  double mostHeating = 1e12, mostCooling = 1e12; ///< W
};

/// One hour.
struct HeatStep {
  double air = 0, surface = 0, operative = 0;                      ///< °C, means of the hour
  double massEnd = 0;                                              ///< °C, θm at its end
  double need = 0;                                                 ///< W: heating above 0, cooling below
  double throughWindows = 0, throughOpaque = 0, byVentilation = 0; ///< W
  double stored = 0;                                               ///< W, into the mass
};

/// A room made ready: what does not change with the hour.
class HeatRoom {
public:
  explicit HeatRoom(const HeatZone& zone);
  HeatStep step(const HeatHour& hour, double massBefore) const;
  double capacity() const { return cm_; } ///< Cm, J/K

private:
  HeatStep with(const HeatHour& hour, double massBefore, double need) const;
  double area_, am_, cm_, atot_, hms_, his_, hem_, hw_;
};

} // namespace noonward
