#pragma once
// Plans out of models: what a horizontal plane cuts of meshes, and the regions that the cut closes off. Metres
// throughout.

#include "core/geometry/mesh.h"

namespace noonward {

/// A straight piece of a cut, seen from above.
struct CutLine {
  Vec2 a, b;
  bool operator==(const CutLine&) const = default;
};

/// Where a mesh meets each level (ascending): added to `into[level]`. Points on the plane count as below it, so that a
/// closed mesh gives closed rings. Linear in triangles and in the lines that come out.
void cutAt(const Mesh& mesh, std::span<const double> levels, std::vector<std::vector<CutLine>>& into);

/// Pieces that lie within `tolerance` of one straight line and touch or overlap there become one; doubled skins nearer
/// than the tolerance become one as well. The longest piece says where the line lies.
std::vector<CutLine> joined(std::vector<CutLine> lines, double tolerance);

/// The bounded regions between lines, holes told. Ends that miss each other by up to `gap` are taken to meet: lines are
/// lengthened by it. Ends that close nothing off are dropped. Points lie on a grid of 0.1 mm.
Expected<std::vector<Outline>> regionsBetween(const std::vector<CutLine>& lines, double gap);

/// Everything that any of the outlines covers, as few outlines as can be.
Expected<std::vector<Outline>> unionOf(const std::vector<Outline>& outlines);
/// An outline whose edges cross or touch, as sound ones that cover the same (by the odd-even rule); empty where nothing
/// has area.
std::vector<Outline> repaired(const Outline& outline);
/// With fewer corners: none of those left out lies farther than `tolerance` from what is left, and no ring crosses
/// another.
Outline simplified(const Outline& outline, double tolerance);
/// The greatest distance of a corner of `from` to the edges of `to`.
double farthestFrom(const std::vector<Outline>& from, const std::vector<Outline>& to);
/// A point well inside; the middle where that lies inside.
Vec2 pointInside(const Outline& outline);

} // namespace noonward
