#pragma once
// Where the sensors of a room stand, and how much of the floor each speaks for.
//
// From the walls: the first points stand at the stated distance from the walls, the others are spread evenly between
// them, no farther apart than asked; cells reach half-way to the next point and to the walls, so that together they are
// the floor. Band left out: a band of the stated width along the walls belongs to no cell; what is left is divided
// evenly into cells no wider than asked, with a point in the middle of each. Rows and columns follow the walls that
// most of the outline's length runs along; walls of some length start rows of their own, so that they too have their
// first points at the stated distance. Cells whose middle can't stand (columns, oblique walls) hand their floor to the
// nearest that can.

#include "core/geometry/polygon.h"

namespace noonward {

enum class GridLayout { FromWalls, BandLeftOut };

/// One sensor's part of the floor.
struct GridCell {
  Vec2 at;                     ///< m
  std::array<Vec2, 4> corners; ///< of its rectangle, counter-clockwise, for pictures; it may reach into walls
  double area = 0;             ///< m², true: what of the floor it speaks for
  int column = 0, row = 0;
};
struct LaidGrid {
  std::vector<GridCell> cells;
  double spacing = 0;    ///< m, the widest between neighbouring rows or columns as they came out
  double distance = 0;   ///< m, of the point nearest to a wall
  bool narrowed = false; ///< the room is too narrow for the distance asked: its points stand nearer to the walls
};
/// Of a sound outline. `most`: no more than about so many cells are laid out (an empty grid otherwise).
LaidGrid layGrid(const Outline& room, double spacing, double wallDistance, GridLayout layout,
                 std::size_t most = 5'000'000);

} // namespace noonward
