#pragma once
// A ray from a spot to the sun, with its two angles as arcs: azimuth on the level through the spot, clockwise from true
// north; altitude upright, from that level. Metres, local; radians.

#include "core/model/project.h"
#include "core/sun/time.h"
#include <optional>
#include <vector>

namespace noonward {

struct SunRay {
  Vec3 spot, toward;                   ///< unit, to the sun
  Vec3 north;                          ///< unit, level
  std::vector<Vec3> azimuth, altitude; ///< arcs round the spot, of the radius asked for
  double azimuthAngle = 0, altitudeAngle = 0;
};
/// Nothing while the sun is down. `radius`: m, of the arcs.
std::optional<SunRay> sunRay(const Project& project, Instant moment, Vec3 spot, double radius);

} // namespace noonward
