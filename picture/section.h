#pragma once
// A vertical section: what a plane cuts of the model, and the values of horizontal grids along it as a curve over their
// plane. The line runs from a to b in the plan; the eye stands at its right hand and looks to its left.

#include "picture/cells.h"

namespace noonward {

struct SectionLine {
  Vec2 a, b; ///< m, local
  bool operator==(const SectionLine&) const = default;
  double length() const { return std::hypot(b.x - a.x, b.y - a.y); }
  Vec2 along() const { return (b - a) * (1 / length()); }
  Vec2 towardEye() const { return {along().y, -along().x}; }
  Vec3 at(double u, double z) const { return {a.x + along().x * u, a.y + along().y * u, z}; }
};

/// Points are (u, z): metres along the line from a, and height. The cut runs on beyond a and b.
struct SectionCut {
  std::vector<Outline> solid;               ///< walls, floors, roofs of drawn masses, rooms and openings taken out
  std::vector<std::pair<Vec2, Vec2>> lines; ///< of meshes, plates, shades, and of rooms without a mass around them
  std::vector<std::pair<Vec2, Vec2>> panes;
};
SectionCut cutAt(const Project& project, const SectionLine& line);

/// Sensors of horizontal grids nearest the plane, in order along it, a row for each group that it meets.
struct SectionRow {
  double level = 0;                                    ///< m
  std::vector<std::pair<double, std::size_t>> sensors; ///< u, index
};
std::vector<SectionRow> rowsAt(const SensorSet& sensors, const SectionLine& line);

Camera sectionCamera(const Project& project, const SectionLine& line, double width, double height);
void paintSection(QPainter& painter, QRectF area, const Camera& camera, const Project& project, const SectionLine& line,
                  const SensorField* painted, const FieldScale& scale, const Theme& theme, double k = 1);

} // namespace noonward
