#pragma once
// Bounds in double against values in float, compared as floats, many at a time.

#include <cmath>
#include <limits>

namespace noonward {

/// The least float that is not below a bound: double(v) >= bound exactly where v >= this.
inline float floatReaching(double bound) {
  const auto f = float(bound);
  return double(f) < bound ? std::nextafter(f, std::numeric_limits<float>::infinity()) : f;
}

} // namespace noonward
