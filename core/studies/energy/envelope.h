#pragma once
// What parts a room from the outdoors and from the ground, from geometry alone: areas for its balance of heat. Whatever
// lies against another room, or against more of the same building where no room is drawn, is taken as adiabatic.

#include "core/model/project.h"

namespace noonward {

struct RoomEnvelope {
  RoomId room;
  double floorArea = 0, volume = 0; ///< m², m³
  double wall = 0;                  ///< m² of outer wall, openings taken off
  double roof = 0;                  ///< m² of ceiling under the sky, rooflights taken off
  double ground = 0;                ///< m² of floor on the ground
  double exposedFloor = 0;          ///< m² of floor with outdoor air below
  double openings = 0;              ///< m² in walls and ceiling
};
/// Of every room, in order; one whose outline is faulty has none but its id.
std::vector<RoomEnvelope> roomEnvelopes(const Project& project);

} // namespace noonward
