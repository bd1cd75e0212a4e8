#pragma once
// Panes stuck on walls that nobody cut an opening into: found, and the openings cut. Metres.

#include "core/model/mending/panes.h"

namespace noonward {

/// Farther behind a pane, a surface is another thing than its wall.
inline constexpr double deepestWall = 0.6; ///< m

struct ClosedPane {
  Pane pane;
  std::vector<ElementId> walls; ///< that close it off
  double from = 0, to = 0;      ///< m along the pane's normal, of the surfaces met: the outer and the inner skin
};
/// Panes whose middle meets an opaque surface within deepestWall, straight before or behind: of every element that
/// counts and is no glazing, shading, planting or ground. Linear in triangles for each direction that panes face; at
/// most `directions` of them.
std::vector<ClosedPane> closedPanes(const Project& project, int directions = 24);

/// Their rectangles cut out of what was brought in, with reveals between the skins. Blocks that were drawn, and panes
/// that are no rectangles, stay as they are and are counted in `left`.
Project withOpeningsCut(const Project& project, std::size_t& cut, std::size_t& left);

} // namespace noonward
