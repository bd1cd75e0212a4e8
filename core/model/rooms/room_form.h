#pragma once
// The form of a room. Most have a level ceiling. One that reaches above the eaves of the mass it stands in follows the
// roof there: its ceiling is the lower of its own height and the roof's underside, and its walls end at it. The
// underside lies below the slopes by the thickness of the room's outer walls, measured square to them. Metres, local.

#include "core/model/rooms/placing.h"

namespace noonward {

struct CeilingPiece {
  Outline outline;
  SlopePlane plane;
  std::uint32_t face = 0; ///< of the mass: the slope it lies under; 0 where it is level
  double over = 0;        ///< m, upright from it to the roof's outside; of a slope
};
struct RoomForm {
  bool level = true;
  std::uint64_t mass = 0;            ///< element whose roof it follows; 0 where level
  double floor = 0, top = 0;         ///< m: its floor, its highest point
  std::vector<CeilingPiece> ceiling; ///< together the room's outline; one where level

  double ceilingAt(Vec2 p) const; ///< m
  double ceilingArea() const;     ///< m², along its slopes
  double volume() const;          ///< m³
  /// The upper end of a wall that runs from a to b with the room at its left: (m from a, z), from 0 to its length.
  std::vector<Vec2> wallTop(Vec2 a, Vec2 b) const;
  /// Where its ceiling is so high above its floor, m, or higher.
  std::vector<Outline> standing(double clear) const;
  double wallArea(Vec2 a, Vec2 b) const; ///< m²
  /// m above the floor: the least height of that wall between two distances from a.
  double clearHeight(Vec2 a, Vec2 b, double from, double to) const;
};
/// Of a sound outline; a faulty one's is level.
RoomForm roomForm(const Project& project, const Room& room);

/// Where a room under a sloping roof of the mass could stand, from where the roof's underside is `least` m above the
/// eaves, its walls so thick. Nothing where it is nowhere `headroom` m high.
std::vector<Outline> underRoof(const Project& project, std::uint64_t mass, double wall, double least, double headroom);

} // namespace noonward
