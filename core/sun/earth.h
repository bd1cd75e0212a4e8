#pragma once
// The figure of the Earth, WGS 84: lengths on it, for laying places on a plane.

#include "core/base/vec.h"
#include <cmath>

namespace noonward::earth {

inline constexpr double major = 6378137;       ///< m, semi-major axis
inline constexpr double e2 = 6.69437999014e-3; ///< first eccentricity squared
/// Metres to the east and to the north for each radian of longitude and latitude, at a latitude in rad.
inline Vec2 metresPerRadian(double latitude) {
  const double s = std::sin(latitude), w = std::sqrt(1 - e2 * s * s);
  return {std::cos(latitude) * major / w, major * (1 - e2) / (w * w * w)};
}

inline constexpr double solarConstant = 1361; ///< W/m², facing the sun outside the atmosphere, at its mean distance

} // namespace noonward::earth
