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

HourMeans::HourMeans(std::size_t columns, double utcOffset, std::vector<bool> directions)
    : columns_(columns), utcOffset_(utcOffset), directions_(std::move(directions)) {
  directions_.resize(columns, false);
  anyDirection_ = std::find(directions_.begin(), directions_.end(), true) != directions_.end();
}

HourMeans::Day& HourMeans::day(std::int64_t number) {
  if (number == lately_) return *latest_;
  Day& d = days_[number];
  if (d.seconds.empty()) {
    d.seconds.assign(24 * columns_, 0);
    d.sum.assign((anyDirection_ ? 48 : 24) * columns_, 0);
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
    const std::int64_t hour = floorOf(from / 3600), number = floorOf(from / 86400);
    const double end = std::min(to, 3600.0 * double(hour + 1)), seconds = end - from;
    Day& d = day(number);
    const std::size_t at = std::size_t(hour - 24 * number) * columns_;
    for (std::size_t k = 0; k < columns_; ++k) {
      const double v = values[k];
      if (!std::isfinite(v)) continue;
      d.seconds[at + k] += seconds;
      if (directions_[k]) {
        d.sum[at + k] += seconds * std::sin(radians(v));
        d.sum[24 * columns_ + at + k] += seconds * std::cos(radians(v));
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
      if (d.seconds[k] > 0) return 24 * number + std::int64_t(k / columns_);
  return 0;
}

std::int64_t HourMeans::last() const {
  for (auto at = days_.rbegin(); at != days_.rend(); ++at)
    for (std::size_t k = at->second.seconds.size(); k-- > 0;)
      if (at->second.seconds[k] > 0) return 24 * at->first + std::int64_t(k / columns_);
  return -1;
}

double HourMeans::covered(std::int64_t hour, std::size_t column) const {
  const std::int64_t number = floorOf(double(hour) / 24);
  const auto at = days_.find(number);
  return at == days_.end() ? 0 : at->second.seconds[std::size_t(hour - 24 * number) * columns_ + column];
}

double HourMeans::mean(std::int64_t hour, std::size_t column) const {
  const double seconds = covered(hour, column);
  if (seconds < 3600 * leastShare) return std::nan("");
  const std::int64_t number = floorOf(double(hour) / 24);
  const Day& d = days_.at(number);
  const std::size_t at = std::size_t(hour - 24 * number) * columns_ + column;
  if (!directions_[column]) return d.sum[at] / seconds;
  const double turn = degrees(std::atan2(d.sum[at], d.sum[24 * columns_ + at]));
  return turn < 0 ? turn + 360 : turn;
}

} // namespace noonward
