#include "core/sun/intervals.h"
#include <algorithm>

namespace noonward {

Intervals joined(Intervals parts, double seam) {
  std::erase_if(parts, [](Interval p) { return !(p.end > p.begin); });
  std::sort(parts.begin(), parts.end(), [](Interval a, Interval b) { return a.begin < b.begin; });
  Intervals out;
  for (const Interval& p : parts) {
    if (!out.empty() && p.begin <= out.back().end + seam)
      out.back().end = std::max(out.back().end, p.end);
    else
      out.push_back(p);
  }
  return out;
}

Intervals intersection(const Intervals& a, const Intervals& b) {
  Intervals out;
  for (std::size_t i = 0, j = 0; i < a.size() && j < b.size();) {
    const double begin = std::max(a[i].begin, b[j].begin), end = std::min(a[i].end, b[j].end);
    if (end > begin) out.push_back({begin, end});
    a[i].end < b[j].end ? ++i : ++j;
  }
  return out;
}

Intervals difference(const Intervals& a, const Intervals& b) {
  Intervals out;
  std::size_t j = 0;
  for (Interval rest : a) {
    while (j < b.size() && b[j].end <= rest.begin) ++j;
    for (std::size_t k = j; k < b.size() && b[k].begin < rest.end; ++k) {
      if (b[k].begin > rest.begin) out.push_back({rest.begin, b[k].begin});
      rest.begin = std::max(rest.begin, b[k].end);
    }
    if (rest.end > rest.begin) out.push_back(rest);
  }
  return out;
}

double total(const Intervals& parts) {
  double sum = 0;
  for (const Interval& p : parts) sum += p.length();
  return sum;
}

double longest(const Intervals& parts) {
  double most = 0;
  for (const Interval& p : parts) most = std::max(most, p.length());
  return most;
}

} // namespace noonward
