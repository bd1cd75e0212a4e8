#pragma once
// Sorted, disjoint stretches of time; seconds from whatever origin the caller keeps.

#include <vector>

namespace noonward {

struct Interval {
  double begin = 0, end = 0;
  double length() const { return end - begin; }
  bool operator==(const Interval&) const = default;
};
using Intervals = std::vector<Interval>;

/// Sorts, joins what overlaps or lies nearer than `seam`.
Intervals joined(Intervals parts, double seam = 0);
Intervals intersection(const Intervals& a, const Intervals& b);
/// What of `a` is not in `b`.
Intervals difference(const Intervals& a, const Intervals& b);
double total(const Intervals& parts);
double longest(const Intervals& parts);

} // namespace noonward
