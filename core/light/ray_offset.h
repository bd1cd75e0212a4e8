#pragma once
// Where rays of single precision begin.

#include "core/base/tolerances.h"
#include "core/base/vec.h"
#include <algorithm>
#include <cmath>

namespace noonward {

/// m, in front of a point, so that the surface it may lie on is not met.
inline double rayOffsetAt(Vec3 p) {
  return tolerance::rayOffset +
         tolerance::rayOffsetOfCoordinate * std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)});
}

} // namespace noonward
