#pragma once
// Walls of rooms from both sides: the one behind a spot on a facade, and the rooms behind one.

#include "core/model/rooms/placing.h"
#include <map>

namespace noonward {

inline constexpr double deepestWall = 2.0; ///< m, of a mass's face behind a room's wall for the two to be one wall

/// A side of a room, seen from inside: its outline runs counter-clockwise.
struct RoomEdge {
  Vec2 a, b, along, outward; ///< ends; unit vectors
  double length = 0;         ///< m
};
RoomEdge edgeOf(const Room& room, std::size_t edge);
/// Do two rooms share some height, so that one may stand behind a wall of the other?
bool standBeside(const Room& a, const Room& b);

/// The wall of a room that a point on a facade, or on its inner face, belongs to.
struct WallSpot {
  std::size_t room = 0; ///< index in the project
  int edge = 0;
  double along = 0, height = 0;      ///< m: from the edge's first corner; above the floor
  double length = 0, roomHeight = 0; ///< m, of the wall
};
/// `outward`: the facade's normal, either way round. Only walls that stand outdoors, no more than 2 m behind the point.
std::optional<WallSpot> wallBehind(const Project& project, Vec3 point, Vec3 outward);
/// On the inner face of that wall.
Vec3 pointOnWall(const Project& project, const WallSpot& wall, double along, double height);

/// By side of a room: the rooms behind its wall (index in the project), and the share of its length each has, to 1/40.
std::vector<std::map<std::size_t, double>> roomsBehind(const Project& project, std::size_t room);

} // namespace noonward
