#include "core/sky/measured/hour_means.h"
#include "core/base/units.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
std::int64_t floorOf(double v) {
  return std::int64_t(std::floor(v));
}
} // namespace

HourMeans::HourMeans(std::size_t columns, double utcOffset, std::vector<bool> directions, int bin)
    : columns_(columns), utcOffset_(utcOffset), bin_(bin), directions_(std::move(directions)) {
  require(bin > 0 && 3600 % bin == 0, "HourMeans: bins are parts of an hour");
  directions_.resize(columns, false);
  anyDirection_ = std::find(directions_.begin(), directions_.end(), true) != directions_.end();
}

HourMeans::Day& HourMeans::day(std::int64_t number) {
  if (number == lately_) return *latest_;
  Day& d = days_[number];
  if (d.seconds.empty()) {
    d.seconds.assign(perDay() * columns_, 0);
    d.sum.assign((anyDirection_ ? 2 : 1) * perDay() * columns_, 0);
  }
  lately_ = number;
  latest_ = &d; // a map's elements stay where they are
  return d;
}

std::int64_t HourMeans::hourOf(Instant t) const {
  return floorOf((t.seconds + utcOffset_) / 3600);
}

bool HourMeans::add(Instant begin, double length, std::span<const double> values) {
  require(values.size() == columns_, "HourMeans: a value for each column");
  double from = begin.seconds + utcOffset_;
  const double to = from + length;
  const std::int64_t firstDay = floorOf(from / 86400);
  if (!days_.empty() &&
      std::uint64_t(std::max(firstDay, days_.rbegin()->first) - std::min(firstDay, days_.begin()->first)) > mostDays)
    return false;
  while (from < to) {
    const std::int64_t bin = floorOf(from / bin_), number = floorOf(from / 86400);
    const double end = std::min(to, double(bin_) * double(bin + 1)), seconds = end - from;
    Day& d = day(number);
    const std::size_t at = std::size_t(bin - std::int64_t(perDay()) * number) * columns_;
    for (std::size_t k = 0; k < columns_; ++k) {
      const double v = values[k];
      if (!std::isfinite(v)) continue;
      d.seconds[at + k] += seconds;
      if (directions_[k]) {
        d.sum[at + k] += seconds * std::sin(radians(v));
        d.sum[perDay() * columns_ + at + k] += seconds * std::cos(radians(v));
      } else {
        d.sum[at + k] += seconds * v;
      }
    }
    from = end;
  }
  return true;
}

std::int64_t HourMeans::first() const {
  for (const auto& [number, d] : days_)
    for (std::size_t k = 0; k < d.seconds.size(); ++k)
      if (d.seconds[k] > 0) return 24 * number + std::int64_t(k / columns_ * std::size_t(bin_) / 3600);
  return 0;
}

std::int64_t HourMeans::last() const {
  for (auto at = days_.rbegin(); at != days_.rend(); ++at)
    for (std::size_t k = at->second.seconds.size(); k-- > 0;)
      if (at->second.seconds[k] > 0) return 24 * at->first + std::int64_t(k / columns_ * std::size_t(bin_) / 3600);
  return -1;
}

HourMeans::Sum HourMeans::of(std::int64_t firstBin, std::size_t column) const {
  Sum out;
  const auto each = std::int64_t(perDay());
  std::int64_t number = INT64_MIN;
  auto day = days_.end();
  for (std::int64_t b = firstBin; b < firstBin + 3600 / bin_; ++b) {
    if (const std::int64_t n = floorOf(double(b) / double(each)); n != number) {
      number = n;
      day = days_.find(n);
    }
    if (day == days_.end()) continue;
    const std::size_t at = std::size_t(b - each * number) * columns_ + column;
    out.seconds += day->second.seconds[at];
    out.x += day->second.sum[at];
    if (directions_[column]) out.y += day->second.sum[perDay() * columns_ + at];
  }
  return out;
}

double HourMeans::covered(std::int64_t hour, std::size_t column) const {
  return of(hour * (3600 / bin_), column).seconds;
}

double HourMeans::mean(std::int64_t hour, std::size_t column) const {
  return meanMoved(hour, 0, column);
}

double HourMeans::meanMoved(std::int64_t hour, double later, std::size_t column) const {
  const Sum s = of(hour * (3600 / bin_) + std::llround(later / bin_), column);
  if (s.seconds < 3600 * leastShare) return std::nan("");
  if (!directions_[column]) return s.x / s.seconds;
  const double turn = degrees(std::atan2(s.x, s.y));
  return turn < 0 ? turn + 360 : turn;
}

} // namespace noonward
