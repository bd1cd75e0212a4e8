#pragma once
// Which runs a sweep is made of: every combination of values, or a sample of a stated number, spread by a Sobol
// sequence (Bratley and Fox 1988, by Boost.Random) over the grid of values; in an order in which early runs lie far
// apart.

#include "core/runs/sweep/variation.h"

namespace noonward {

struct SweepPoints {
  std::vector<std::vector<std::size_t>> points; ///< index of each variable's value
  double combinations = 0;                      ///< of all values
  std::size_t leftOut = 0;                      ///< by conditions, of those looked at
  VaryPoint values(const Variation& variation, std::size_t point) const;
};
/// More combinations than these are refused, with the sample offered.
inline constexpr std::size_t mostSweepPoints = 20'000;
/// Errors: too many, none that the conditions allow.
Expected<SweepPoints> sweepPoints(const Variation& variation);

} // namespace noonward
