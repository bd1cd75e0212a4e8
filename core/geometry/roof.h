#pragma once
// Roofs over outlines: one slope, a gable along a ridge, or hips of one slope from every edge (the straight skeleton).
// Metres, radians.

#include "core/geometry/mesh.h"
#include <optional>
#include <string_view>

namespace noonward {

struct Roof {
  enum class Kind { Flat, Mono, Gable, Hip };
  Kind kind = Kind::Flat;
  double rise = 2; ///< m, of its highest point above the eaves
  double along =
      0; ///< rad, counter-clockwise from the drawing's +x: which way a ridge runs; a mono roof rises to its left
  bool operator==(const Roof&) const = default;
  bool flat() const { return kind == Kind::Flat || !(rise > 0); }
  double top() const { return flat() ? 0 : rise; } ///< m above the eaves
};
const char* roofKey(Roof::Kind kind); ///< "gable"
std::optional<Roof::Kind> roofFromKey(std::string_view key);

/// How far the roof stands above the eaves at a point of the plan; under hips by the distance to the nearest edge,
/// which is exact for outlines without inner corners.
double roofHeight(const Roof& roof, const Outline& outline, Vec2 p);

/// Solid from `base` over walls of `height` to the roof. Faces as of extrude(): 0 the base, 1 the first slope, 2… a
/// wall for each edge, gable ends their upper part; then the other slopes. Errors: a faulty outline, no height, a roof
/// steeper than 80°.
Expected<Mesh> extrudeRoofed(const Outline& outline, double base, double height, const Roof& roof);

} // namespace noonward
