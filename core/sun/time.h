#pragma once
// Calendar, instants and clocks. An instant is UTC, counted in seconds since 1970-01-01T00:00Z without leap seconds
// (UT1 = UTC: costs at most 0.004° of sun position). Civil times are proleptic Gregorian.

#include "core/base/error.h"
#include <compare>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace noonward {

struct Date {
  int year = 2026, month = 6, day = 21;
  auto operator<=>(const Date&) const = default;
};

std::int64_t dayNumber(Date date); ///< days since 1970-01-01
Date dateOf(std::int64_t dayNumber);
bool exists(Date date);
int daysInMonth(int year, int month);
int dayOfYear(Date date); ///< 1…366
Date plusDays(Date date, int days);
const char* monthName(int month); ///< "Jan" …
/// "21 Jun"; months are never bare numbers.
std::string dayText(Date date);
/// "2026-06-21" or "21 Jun 2026"; nothing if it is no date.
std::optional<Date> dateFromText(std::string_view text);
std::string isoText(Date date);
/// "14:05", "14:05:30", or an hour "14"; minutes of the day up to 1440, or nothing.
std::optional<double> minutesFromText(std::string_view text);
std::string clockText(double minutes); ///< 845.2 -> "14:05"

struct Instant {
  double seconds = 0;
  auto operator<=>(const Instant&) const = default;
};
inline Instant operator+(Instant t, double s) {
  return {t.seconds + s};
}
inline double operator-(Instant a, Instant b) {
  return a.seconds - b.seconds;
}

struct CivilTime {
  Date date;
  double seconds = 0; ///< of the day, 0 ≤ s < 86400
};
Instant utc(CivilTime t);
CivilTime civil(Instant t, double utcOffsetSeconds);

/// "2026-06-21T14:00:00", optionally with "Z" or "+01:00".
struct StampedTime {
  CivilTime time;
  std::optional<double> utcOffset; ///< seconds
};
std::optional<StampedTime> stampFromText(std::string_view text);
/// ISO 8601 with offset: "2026-06-21T14:00:00+02:00".
std::string isoText(Instant t, double utcOffsetSeconds);
std::string offsetText(double utcOffsetSeconds); ///< "+02:00"

/// A time zone of the system's database, or a fixed offset ("UTC+01:00"). A value; cheap to copy.
class Zone {
public:
  Zone(); ///< UTC
  static Expected<Zone> named(std::string_view name);
  static Zone fixed(double utcOffsetSeconds);

  const std::string& name() const { return name_; }
  double offset(Instant t) const;        ///< seconds east of UTC, summer time included
  double standardOffset(int year) const; ///< the offset without summer time, in January and July of that year
  bool summerTime(Instant t) const;
  /// The instant of a clock reading. A reading that the clocks skip is taken as the moment they jump; one that occurs
  /// twice as its first occurrence.
  Instant instant(CivilTime clock) const;
  CivilTime clock(Instant t) const { return civil(t, offset(t)); }

private:
  std::string name_;
  const void* zone_ = nullptr; // date::time_zone of the library's own database; null for a fixed offset
  double fixed_ = 0;
};

/// Version of the time zone data, part of every result that clocks enter.
std::string timeZoneDataVersion();

} // namespace noonward
