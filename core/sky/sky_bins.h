#pragma once
// The sky's hemisphere in 577 patches: the 145 of Tregenza (Solar Energy 39 (1987) 333-337), rows of 12° from the
// horizon with 30, 30, 24, 24, 18, 12, 6 and a cap, each but the cap cut in 2 × 2. Azimuth runs clockwise from +y of
// the axes in use.

#include "core/base/vec.h"
#include <array>
#include <cstddef>
#include <functional>

namespace noonward {

class SkyBins {
public:
  static constexpr std::size_t count = 577;
  static std::size_t of(Vec3 direction);     ///< z ≥ 0; what looks below the horizon goes to the lowest row
  static double solidAngle(std::size_t bin); ///< sr; all together 2π
  static Vec3 middle(std::size_t bin);
  /// A point of a bin, even over its solid angle for u, v in [0, 1).
  static Vec3 at(std::size_t bin, double u, double v);
  /// Is the next bin beside this one in the same row?
  static bool nextIsBeside(std::size_t bin);
  /// Mean of a function of direction over a bin: `cuts` × `cuts` points of equal solid angle.
  static double mean(std::size_t bin, const std::function<double(Vec3)>& f, int cuts = 2);
};

} // namespace noonward
