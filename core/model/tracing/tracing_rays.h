#pragma once
// Small questions in the plane that tracing asks of outlines and panes.

#include "core/geometry/polygon.h"
#include "core/model/mending/panes.h"
#include <array>

namespace noonward {

/// m to the first edge of any ring, from a point along a direction; infinite where there is none.
double toEdge(Vec2 from, Vec2 along, const Outline& o);
/// From and to along a wall, from and to in height, of a pane's corners; m.
std::array<double, 4> spanOn(const Pane& pane, Vec2 origin, Vec2 along);

} // namespace noonward
