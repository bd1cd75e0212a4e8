#pragma once
// Where a drawn point lands: on a corner, in line with the last edge or square to it, along the axes, else on a grid.

#include "core/model/project.h"

namespace noonward {

enum class SnapKind { Grid, Corner, Start, Axis, Square };
struct Snap {
  Vec2 at;
  SnapKind kind = SnapKind::Grid;
};
const char* snapText(SnapKind kind);

/// `reach`: how near counts, m. `draft`: the points drawn so far.
Snap snapPoint(const Project& project, const Ring& draft, Vec2 pointer, double reach);
/// The point at a typed length from the last one, in the direction of the pointer.
Vec2 atLength(const Ring& draft, Vec2 towards, double length);

/// A window between two spots of a wall (m along, m above the floor), to 5 cm, kept 5 cm off the wall's ends; sill and head
/// snap to those of windows in the same room within `reach`. Nothing where it would have no size.
std::optional<Opening> windowBetween(const Project& project, const WallSpot& wall, Vec2 from, Vec2 to, double reach);
/// "1.8x1.5": a width and a height.
std::optional<Vec2> sizeFromText(const std::string& text, LengthUnit unit);

} // namespace noonward
