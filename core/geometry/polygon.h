#pragma once
// Outlines with holes in the plane: checks, area, point tests, offsets, triangulation. Metres; outer rings run counter-
// clockwise, holes clockwise once tidied.

#include "core/base/error.h"
#include "core/base/vec.h"
#include <array>
#include <cstdint>
#include <vector>

namespace noonward {

using Ring = std::vector<Vec2>; ///< not closed: the last point is not the first again

struct Outline {
  Ring outer;
  std::vector<Ring> holes;
  bool operator==(const Outline&) const = default;
};

enum class OutlineFault { None, TooFewPoints, NotFinite, NoArea, CrossesItself, HoleOutside, HolesOverlap };
struct OutlineCheck {
  OutlineFault fault = OutlineFault::None;
  Vec2 at; ///< where
};
OutlineCheck checkOutline(const Outline& outline);
const char* faultText(OutlineFault fault);

double signedArea(const Ring& ring); ///< m², positive counter-clockwise
double area(const Outline& outline); ///< m², holes taken off
Vec2 centroid(const Outline& outline);
double perimeter(const Ring& ring);
/// Inside or on the edge of the outer ring and not inside a hole.
bool contains(const Outline& outline, Vec2 p);
bool contains(const Ring& ring, Vec2 p);
double distanceToEdge(const Outline& outline, Vec2 p);
/// Double points dropped, outer counter-clockwise, holes clockwise. No other change.
Outline tidied(Outline outline);
/// Pulled in (negative) or pushed out by a distance, mitred corners; may be empty or several pieces.
std::vector<Outline> offset(const Outline& outline, double distance);
/// What is left of an outline when rings (in either direction) are cut out of it, to 0.1 mm.
std::vector<Outline> difference(const Outline& outline, const std::vector<Ring>& cuts);
/// Whatever lies in any of them, to 0.1 mm; corners on straight edges are taken out.
std::vector<Outline> united(const std::vector<Outline>& outlines);
/// What lies in both, to 0.1 mm.
std::vector<Outline> common(const Outline& one, const Outline& other);
/// What lies to the left of a line from a to b, and to its right.
std::array<std::vector<Outline>, 2> sidesOf(const Outline& outline, Vec2 a, Vec2 b);
/// Without corners at which nothing turns.
Outline straightened(Outline outline);

/// Triangles over the points of `points(outline)`, counter-clockwise. Error where the outline is faulty.
Expected<std::vector<std::array<std::uint32_t, 3>>> triangulate(const Outline& outline);
/// All points, outer first, then holes: the order triangulate() counts in.
std::vector<Vec2> points(const Outline& outline);

Outline rectangle(double x0, double y0, double x1, double y1);

} // namespace noonward
