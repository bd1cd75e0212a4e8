#pragma once
// Eight rays that leave one point together.

#include "core/base/vec.h"

struct RTCSceneTy;

namespace noonward {

/// Eight rays from one point, for the packet kernel: unused lanes have active = 0.
struct alignas(32) Rays8 {
  float x[8], y[8], z[8]; ///< unit directions
  int active[8];          ///< -1 to trace, 0 to leave
  int hidden[8];          ///< out: 1 where something is in the way
};

/// Marks as hidden the lanes that a scene stops, and those alone: what was hidden before stays so and is not traced.
/// `from`: m, at which the rays begin.
void occlude8(RTCSceneTy* scene, Vec3 origin, float from, Rays8& rays);

} // namespace noonward
