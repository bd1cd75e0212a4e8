#include "core/base/weighted.h"
#include <algorithm>
#include <numeric>

namespace noonward {

std::vector<double> weightsOf(std::span<const double> areas, std::size_t values) {
  const double whole = areas.size() == values ? std::accumulate(areas.begin(), areas.end(), 0.0) : 0;
  std::vector<double> out(values, 1 / double(std::max<std::size_t>(values, 1)));
  if (whole > 0)
    for (std::size_t i = 0; i < values; ++i) out[i] = areas[i] / whole;
  return out;
}

double weightedMedian(std::vector<std::pair<double, double>> v) {
  if (v.empty()) return 0;
  std::sort(v.begin(), v.end());
  double whole = 0, below = 0;
  for (const auto& [value, weight] : v) whole += weight;
  for (std::size_t i = 0; i + 1 < v.size(); ++i) {
    below += v[i].second;
    if (below > (0.5 + 1e-9) * whole) return v[i].first;
    if (below >= (0.5 - 1e-9) * whole) return 0.5 * (v[i].first + v[i + 1].first);
  }
  return v.back().first;
}

double reachedByShare(std::vector<std::pair<double, double>> v, double share) {
  if (v.empty()) return 0;
  std::sort(v.begin(), v.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  double whole = 0, above = 0;
  for (const auto& [value, weight] : v) whole += weight;
  for (const auto& [value, weight] : v) {
    above += weight;
    if (above >= share * whole - 1e-9 * whole) return value;
  }
  return v.back().first;
}

} // namespace noonward
