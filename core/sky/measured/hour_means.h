#pragma once
// Means of whole hours from samples that each speak for an interval: 10-minute means of a station, readings of a logger
// every second. A sample is shared among the hours its interval lies in by the seconds it covers of each, so that a
// clock that is put right by half an hour needs no hourly values in between.
//
// Hours are counted from 1970 in a fixed offset from UTC. The mean of an hour is that of the seconds covered; less than
// `leastShare` of them and the hour has none. What is covered twice (a clock set back) counts with both readings.
// Directions (wind) are averaged as unit vectors.

#include "core/sun/time.h"
#include <array>
#include <cstdint>
#include <map>
#include <span>
#include <vector>

namespace noonward {

class HourMeans {
public:
  static constexpr double leastShare = 0.5;
  static constexpr std::size_t mostDays = 15000; ///< a file whose dates lie further apart has a fault in them

  /// `bin`: s, a part of an hour: kept finer, so that hours can be moved afterwards.
  explicit HourMeans(std::size_t columns = 0, double utcOffset = 0, std::vector<bool> directions = {}, int bin = 3600);
  HourMeans(HourMeans&&) = default;
  HourMeans& operator=(HourMeans&&) = default;
  HourMeans(const HourMeans&) = delete; // `latest_` points into its own days
  HourMeans& operator=(const HourMeans&) = delete;
  std::size_t columns() const { return columns_; }
  double utcOffset() const { return utcOffset_; }
  bool empty() const { return days_.empty(); }

  /// A reading for `length` seconds from `begin`; NaN is no value. False where the file would span more than mostDays:
  /// nothing of it is taken.
  bool add(Instant begin, double length, std::span<const double> values);

  std::int64_t first() const; ///< hour in which the first sample begins; not where it is empty
  std::int64_t last() const;  ///< likewise
  double mean(std::int64_t hour, std::size_t column) const; ///< NaN where too little is covered
  /// Of the hour's length from so many s later on: what the hour would have, were every stamp so many s earlier. To the
  /// next bin.
  double meanMoved(std::int64_t hour, double later, std::size_t column) const;
  double covered(std::int64_t hour, std::size_t column) const; ///< s of it
  Instant begin(std::int64_t hour) const { return {3600.0 * double(hour) - utcOffset_}; }
  std::int64_t hourOf(Instant t) const;

private:
  struct Day {
    std::vector<double> sum, seconds; ///< bins × columns, of directions as many more for the second axis
  };
  struct Sum {
    double seconds = 0, x = 0, y = 0;
  };
  Day& day(std::int64_t number);
  Sum of(std::int64_t firstBin, std::size_t column) const; ///< of an hour's bins
  std::size_t perDay() const { return std::size_t(86400 / bin_); }
  std::size_t columns_;
  double utcOffset_;
  int bin_;
  std::vector<bool> directions_;
  bool anyDirection_ = false;
  std::map<std::int64_t, Day> days_;
  std::int64_t lately_ = INT64_MIN;
  Day* latest_ = nullptr;
};

} // namespace noonward
