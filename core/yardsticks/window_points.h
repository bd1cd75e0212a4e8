#pragma once
// Where sun and sky at windows are asked: the reference point of each, on its outer face. The middle of the window; of
// glazing down to the floor 1.6 m above the floor (guidance on site layout). Windows of rooms and of masses, and panes
// of glass as they were brought in.

#include "core/model/project.h"
#include <optional>

namespace noonward {

/// m above floor: glazing from below `fullHeightSill` to above `fullHeightHead` is asked at `fullHeightPoint`.
inline constexpr double fullHeightSill = 0.3, fullHeightHead = 2.0, fullHeightPoint = 1.6;

/// Other points of the same window that a reviewer may ask for.
struct WindowSpots {
  Vec3 middle;                ///< of its outer face, whatever its height
  std::optional<Vec3> inside; ///< the same before its pane, where that stands in a reveal
};

struct WindowPoints {
  std::vector<PointSensor> points; ///< 2 cm before the outer face, looking out; named by room or part, and window
  std::vector<WindowSpots> spots;  ///< along them
  std::size_t windows = 0;         ///< of rooms and masses
  std::size_t panes = 0;           ///< of glass brought in
  std::size_t fullHeight = 0;      ///< of all these, those asked 1.6 m up
  std::size_t bothAlike = 0;       ///< panes left out: which side is outdoors can't be told
  std::string text() const;        ///< "the middle of 24 windows, 6 of them glazed to the floor and asked 1.6 m up"
};
/// Of the selected masses' rooms and panes where some are selected that have windows; else of all.
WindowPoints windowPoints(const Project& project, const std::vector<ElementId>& selected);

} // namespace noonward
