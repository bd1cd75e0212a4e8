#include "core/sky/weather_means.h"
#include <algorithm>
#include <cmath>
#include <vector>

namespace noonward {

std::array<MonthSpread, 12> columnByMonth(const Weather& w, WeatherField field) {
  std::array<std::vector<double>, 12> values;
  for (const WeatherHour& h : w.hours)
    if (h.month >= 1 && h.month <= 12 && std::isfinite(h[field])) values[std::size_t(h.month - 1)].push_back(h[field]);
  std::array<MonthSpread, 12> out;
  for (std::size_t m = 0; m < 12; ++m) {
    std::vector<double>& v = values[m];
    MonthSpread& s = out[m];
    s.hours = v.size();
    if (v.empty()) {
      s.mean = s.low = s.high = std::nan("");
      continue;
    }
    std::sort(v.begin(), v.end());
    for (double x : v) s.mean += x / double(v.size());
    const auto at = [&](double share) { return v[std::size_t(std::lround(share * double(v.size() - 1)))]; };
    s.low = at(0.1);
    s.high = at(0.9);
  }
  return out;
}

std::array<std::array<double, 24>, 12> columnByHour(const Weather& w, WeatherField field) {
  std::array<std::array<double, 24>, 12> sum{}, n{};
  for (const WeatherHour& h : w.hours)
    if (h.month >= 1 && h.month <= 12 && h.hour >= 1 && h.hour <= 24 && std::isfinite(h[field])) {
      sum[std::size_t(h.month - 1)][std::size_t(h.hour - 1)] += h[field];
      n[std::size_t(h.month - 1)][std::size_t(h.hour - 1)] += 1;
    }
  for (std::size_t m = 0; m < 12; ++m)
    for (std::size_t h = 0; h < 24; ++h) sum[m][h] = n[m][h] > 0 ? sum[m][h] / n[m][h] : std::nan("");
  return sum;
}

} // namespace noonward
