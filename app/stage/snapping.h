#pragma once
// Where a drawn point lands: on a corner, the middle of an edge, a guide, an edge, in line with the last edge or square
// to it, along the axes, else on a grid.

#include "core/model/form/outline_edit.h"
#include "core/model/rooms/walls.h"

namespace noonward {

enum class SnapKind { Grid, Corner, Middle, Edge, Start, Axis, Square, Source, Guide };
struct Snap {
  Vec2 at;
  SnapKind kind = SnapKind::Grid;
};
const char* snapText(SnapKind kind);

/// `reach`: how near counts, m. `draft`: the points drawn so far.
Snap snapPoint(const Project& project, const Ring& draft, Vec2 pointer, double reach);
/// The edge of a mass or the guide within `reach` of a point, and which way from it the point lies, a unit vector.
struct LineNear {
  Guide line;
  Vec2 side;
};
std::optional<LineNear> lineNear(const Project& project, Vec2 at, double reach);
/// The point at a typed length from the last one, in the direction of the pointer.
Vec2 atLength(const Ring& draft, Vec2 towards, double length);

/// A corner between two neighbours: on ends and crossings of guides and on other corners, on a guide, in line with a
/// neighbour's other edge or square to it, else to 5 cm.
Snap snapCorner(const std::vector<CutLine>& guides, const std::vector<Vec2>& corners, const Ring& ring,
                std::size_t corner, Vec2 pointer, double reach);

/// A move of elements in the plan, changed so that a corner of theirs comes to lie on a corner of another mass, or in
/// line with one, where it is within `reach`; else to 10 cm. `alongX`, `alongY`: only that way.
struct MoveSnap {
  Vec2 by;
  SnapKind kind = SnapKind::Grid;
};
MoveSnap snapMove(const Project& project, const std::vector<ElementId>& moving, Vec2 by, double reach, bool alongX,
                  bool alongY);

/// A window between two spots of a wall (m along, m above the floor), to 5 cm, kept 5 cm off the wall's ends; sill and
/// head snap to those of windows in the same room within `reach`. Nothing where it would have no size.
std::optional<Opening> windowBetween(const Project& project, const WallSpot& wall, Vec2 from, Vec2 to, double reach);
/// "1.8x1.5": a width and a height.
std::optional<Vec2> sizeFromText(const std::string& text, LengthUnit unit);

} // namespace noonward
