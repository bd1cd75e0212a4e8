#include "core/studies/annual_metrics.h"
#include "core/studies/float_bound.h"
#include <algorithm>
#include <cmath>
#include <numeric>

namespace noonward {

namespace {
/// Monday to Friday (Sakamoto's rule).
bool isWeekday(Date d) {
  constexpr std::array<int, 12> t{0, 3, 2, 5, 0, 3, 5, 1, 4, 6, 2, 4};
  const int y = d.month < 3 ? d.year - 1 : d.year,
            w = (y + y / 4 - y / 100 + y / 400 + t[std::size_t(d.month - 1)] + d.day) % 7;
  return w != 0 && w != 6;
}
} // namespace

std::vector<bool> clockMask(const Zone& zone, double standardOffset, int year, double beginMinute, double endMinute,
                            bool weekdaysOnly) {
  std::vector<bool> out(hoursOfYear);
  constexpr std::array<int, 12> days{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
  std::size_t i = 0;
  for (int month = 1; month <= 12; ++month)
    for (int day = 1; day <= days[std::size_t(month - 1)]; ++day)
      for (int hour = 0; hour < 24; ++hour, ++i) {
        const Instant middle = utc({{year, month, day}, hour * 3600.0 + 1800}) + -standardOffset;
        const CivilTime clock = zone.clock(middle);
        const double minute = clock.seconds / 60;
        out[i] = minute >= beginMinute && minute < endMinute && (!weekdaysOnly || isWeekday(clock.date));
      }
  return out;
}

SensorYear sensorYear(std::span<const float> series, const std::vector<bool>& mask, const MetricSettings& s) {
  SensorYear out;
  std::vector<float> values;
  values.reserve(mask.size());
  for (std::size_t i = 0; i < series.size() && i < mask.size(); ++i) {
    if (!mask[i]) continue;
    if (std::isnan(series[i]))
      ++out.missing;
    else
      values.push_back(series[i]);
  }
  out.hours = values.size();
  if (values.empty()) return out;
  std::array<std::size_t, 4> useful{};
  std::size_t reached = 0;
  double sum = 0, continuous = 0;
  for (const float v : values) {
    const double e = double(v);
    sum += e;
    reached += e >= s.threshold;
    continuous += s.threshold > 0 && e < s.threshold ? e / s.threshold : 1;
    ++useful[e < s.useful[0] ? 0 : e < s.useful[1] ? 1 : e <= s.useful[2] ? 2 : 3];
  }
  const double n = double(values.size());
  out.autonomy = double(reached) / n;
  out.continuous = continuous / n;
  for (std::size_t k = 0; k < 4; ++k) out.useful[k] = double(useful[k]) / n;
  out.mean = sum / n;
  const auto middle = values.begin() + std::ptrdiff_t(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  out.median =
      values.size() % 2 ? double(*middle) : 0.5 * (double(*std::max_element(values.begin(), middle)) + double(*middle));
  const auto [least, most] = std::minmax_element(values.begin(), values.end());
  out.least = double(*least);
  out.most = double(*most);
  return out;
}

std::size_t hoursAtLeast(std::span<const float> series, const std::vector<bool>& mask, double beam) {
  std::size_t n = 0;
  for (std::size_t i = 0; i < series.size() && i < mask.size(); ++i) n += mask[i] && double(series[i]) >= beam;
  return n;
}

SpaceYear spaceYear(std::span<const SensorYear> sensors, std::span<const std::size_t> beamHours,
                    const MetricSettings& s, std::span<const double> areas) {
  SpaceYear out;
  if (sensors.empty()) return out;
  const std::vector<double> weight = weightsOf(areas, sensors.size());
  std::vector<std::pair<double, double>> means;
  for (std::size_t i = 0; i < sensors.size(); ++i) {
    const SensorYear& y = sensors[i];
    const double w = weight[i];
    out.sda += (y.autonomy >= s.autonomy) * w;
    if (i < beamHours.size()) out.ase += (double(beamHours[i]) > s.beamHours) * w;
    out.meanLux += y.mean * w;
    for (std::size_t k = 0; k < 4; ++k) out.useful[k] += y.useful[k] * w;
    means.emplace_back(y.mean, w);
  }
  out.medianLux = weightedMedian(std::move(means));
  return out;
}

SpaceYear buildingYear(std::span<const SpaceYear> spaces, std::span<const double> areas) {
  SpaceYear out;
  const double all = std::accumulate(areas.begin(), areas.end(), 0.0);
  if (!(all > 0)) return out;
  for (std::size_t i = 0; i < spaces.size() && i < areas.size(); ++i) {
    const double w = areas[i] / all;
    out.sda += w * spaces[i].sda;
    out.ase += w * spaces[i].ase;
    out.meanLux += w * spaces[i].meanLux;
    out.medianLux += w * spaces[i].medianLux;
    for (std::size_t k = 0; k < 4; ++k) out.useful[k] += w * spaces[i].useful[k];
  }
  return out;
}

double provisionHours(std::span<const float> series, std::size_t sensors, const std::vector<bool>& daylight,
                      const Provision& p, std::span<const double> areas) {
  const std::vector<double> weight = weightsOf(areas, sensors);
  const float target = floatReaching(p.target);
  std::vector<double> reached(daylight.size(), 0); // of each hour
  for (std::size_t i = 0; i < sensors; ++i) {
    const float* own = series.data() + i * hoursOfYear;
    const double w = weight[i];
    for (std::size_t h = 0; h < reached.size(); ++h) reached[h] += own[h] >= target ? w : 0.0;
  }
  double hours = 0;
  for (std::size_t h = 0; h < reached.size(); ++h) hours += daylight[h] && reached[h] >= p.share - 1e-9;
  return hours;
}

double provisionOwnHours(std::span<const float> series, std::size_t sensors, const std::vector<bool>& daylight,
                         const Provision& p, std::span<const double> areas) {
  const std::vector<double> weight = weightsOf(areas, sensors);
  const float target = floatReaching(p.target);
  const std::vector<std::int32_t> counts(daylight.begin(), daylight.end());
  std::vector<std::pair<double, double>> own;
  for (std::size_t i = 0; i < sensors; ++i) {
    const float* values = series.data() + i * hoursOfYear;
    std::int32_t hours = 0;
    for (std::size_t h = 0; h < counts.size(); ++h) hours += counts[h] & std::int32_t(values[h] >= target);
    own.emplace_back(hours, weight[i]);
  }
  return reachedByShare(std::move(own), p.share);
}

std::vector<bool> daylightHours(std::span<const double> diffuse, std::size_t count) {
  std::vector<std::size_t> order(diffuse.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return diffuse[a] > diffuse[b]; });
  std::vector<bool> out(diffuse.size());
  for (std::size_t k = 0; k < std::min(count, order.size()); ++k) out[order[k]] = true;
  return out;
}

} // namespace noonward
