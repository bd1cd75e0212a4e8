#pragma once
// What a year of energy is made from besides the scene: glass, rooms, their surfaces and uses, the weather's
// temperature. Of core/studies/energy alone.

#include "core/model/heat_library.h"
#include "core/studies/energy/energy_year.h"
#include "core/studies/energy/heat_zone.h"
#include "core/studies/year_study.h"

namespace noonward {

/// What a year of energy is made from besides the scene.
struct EnergyInput {
  struct Glass {      ///< by window group of the model
    double area = 0;  ///< m²
    double heat = 0;  ///< W/K
    double ratio = 0; ///< g over visible transmittance
  };
  struct Part { ///< of what is opaque, by what it is told as
    EnergyCauseKind kind = EnergyCauseKind::Walls;
    double heat = 0;                  ///< W/K
    std::optional<std::size_t> space; ///< another room behind it, which is not as warm as the outdoors
  };
  struct Zone { ///< by space of `base`
    HeatZone heat;
    std::vector<Part> parts;
    double volume = 0;
    RoomUse use;
    std::vector<bool> inUse; ///< 8760
  };
  YearInput base;
  std::vector<Glass> glass;
  std::vector<Zone> zones;
  std::vector<double> outdoor; ///< °C, 8760
  std::vector<int> month;      ///< 0…11, 8760
  double closedBlinds = 0.6, warmAbove = 26;
};

} // namespace noonward
