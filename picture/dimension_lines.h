#pragma once
// Dimension lines of what is looked at: sides and heights of masses, size and sill of a window, depth and spacing of
// the shading at it. They are read off the model each time, so that they follow it.

#include "core/model/project.h"
#include "picture/theme.h"
#include <QPainter>
#include <functional>

namespace noonward {

struct DimensionLine {
  std::string what; ///< "depth", "sill"; empty: a side
  Vec3 a, b;        ///< m
  Vec3 away;        ///< which way it is set off from what it measures
  double metres() const { return length(b - a); }
};

/// Of selected elements, of a window, and of the shading at it; without a window of the shading at the first window of
/// the selected masses that each rule stands at.
std::vector<DimensionLine> dimensionsOf(const Project& project, const std::vector<ElementId>& selected,
                                        OpeningId window = {});

/// Those too short to be told, or behind the eye, are left out, and sides of what is looked at from behind. `looking`:
/// which way the eye looks.
void paintDimensions(QPainter& painter, const std::vector<DimensionLine>& lines,
                     const std::function<std::optional<QPointF>(Vec3)>& pixelOf, Vec3 looking, LengthUnit unit,
                     const Theme& theme);

} // namespace noonward
