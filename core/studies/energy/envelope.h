#pragma once
// What parts a room from the outdoors, the ground and other rooms, from geometry, and as the design corrects it
// (HeatSurface): areas for its balance of heat. Whatever lies against more of the same building where no room is drawn
// is taken as warm as the room.
//
// A wall is outer as for windows (outerEdges): more than half of its length has no room behind it. One that is not
// belongs to the rooms behind it by their shares of its length.

#include "core/model/heat_library.h"
#include "core/model/project.h"

namespace noonward {

struct EnvelopeSurface {
  int edge = 0;                         ///< as HeatSurface
  double area = 0;                      ///< m², openings taken off
  Beyond drawn = Beyond::Alike;         ///< by geometry; never AsDrawn
  Beyond beyond = Beyond::Alike;        ///< as corrected
  std::optional<std::size_t> neighbour; ///< the room behind it, where beyond is Alike
  HeatFlow flow = HeatFlow::Inside;     ///< by what is beyond
  std::string construction;             ///< named for it; the usual one where nothing is
  double azimuth = 0;                   ///< rad, true, of a wall's outward normal
};
struct RoomEnvelope {
  RoomId room;
  double floorArea = 0, volume = 0; ///< m², m³
  double openings = 0;              ///< m² in walls and ceiling
  std::vector<EnvelopeSurface> surfaces;
  double wall = 0;         ///< m² of outer wall, openings taken off
  double roof = 0;         ///< m² of ceiling under the sky, rooflights taken off
  double ground = 0;       ///< m² of floor on the ground
  double exposedFloor = 0; ///< m² of floor with outdoor air below
  double inside = 0;       ///< m² towards other rooms
  double windows = 0;      ///< W/K through the openings
};
/// Of every room, in order; one whose outline is faulty has none but its id.
std::vector<RoomEnvelope> roomEnvelopes(const Project& project);

/// Of the loss to outdoor air, the share that is lost to what is beyond.
double lossShare(const HeatDesign& design, Beyond beyond);
/// W/(m²K) of a glazing: stated, or typical by its number of panes.
double uValueOf(const Glazing& glazing);
/// W/K through walls, roof, floor and windows to what is colder: the ground and unheated spaces by their shares; other
/// rooms not.
double heatLoss(const Project& project, const RoomEnvelope& envelope);

/// "South wall 2", "Ceiling", "Floor".
std::string surfaceName(const Project& project, const EnvelopeSurface& surface);
/// "the outdoors", "Study room 2", "the ground", "an unheated space", "as warm a building".
std::string beyondText(const Project& project, const EnvelopeSurface& surface);

} // namespace noonward
