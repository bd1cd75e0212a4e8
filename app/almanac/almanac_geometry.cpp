#include "app/almanac/almanac_geometry.h"

namespace noonward {

double AlmanacGeometry::x(Date d) const {
  return left + (dayOfYear(d) - 1) * dayWidth();
}
double AlmanacGeometry::y(double minutes) const {
  return top + height * (1 - minutes / 1440);
}

Date AlmanacGeometry::dateAt(double px) const {
  const int day = std::clamp(int(std::floor((px - left) / dayWidth())), 0, days() - 1);
  return plusDays({year, 1, 1}, day);
}

double AlmanacGeometry::minutesAt(double py) const {
  return std::clamp((1 - (py - top) / height) * 1440, 0.0, 1440.0);
}

namespace {
/// Equation of time in seconds after Spencer (1971), good to half a minute: enough to lay out a picture of the year.
double equationOfTime(Date d) {
  const double b = 2 * pi * (dayOfYear(d) - 1) / 365;
  return 60 * 229.18 *
         (0.000075 + 0.001868 * std::cos(b) - 0.032077 * std::sin(b) - 0.014615 * std::cos(2 * b) -
          0.04089 * std::sin(2 * b));
}
} // namespace

Instant AlmanacGeometry::instant(Date date, double minutes) const {
  switch (clock) {
  case ClockKind::Clock:
    return zone.instant({date, minutes * 60});
  case ClockKind::Standard:
    return utc({date, minutes * 60}) + -zone.standardOffset(date.year);
  case ClockKind::Solar:
    return utc({date, minutes * 60}) + (-degrees(place.longitude) * 240 - equationOfTime(date));
  }
  return {};
}

AlmanacGeometry::Reading AlmanacGeometry::reading(Instant t) const {
  CivilTime c;
  switch (clock) {
  case ClockKind::Clock:
    c = zone.clock(t);
    break;
  case ClockKind::Standard:
    c = civil(t, zone.standardOffset(year));
    break;
  case ClockKind::Solar: {
    c = civil(t, degrees(place.longitude) * 240);
    for (int pass = 0; pass < 2; ++pass)
      c = civil(t, degrees(place.longitude) * 240 + equationOfTime(c.date)); // near midnight the day may change
    break;
  }
  }
  return {c.date, c.seconds / 60};
}

std::optional<Season> seasonOf(const AlmanacGeometry& g, double x0, double y0, double x1, double y1) {
  const double right = g.left + g.width;
  if (std::abs(y1 - y0) < 2 && std::abs(x1 - x0) < 2) return {};
  Season s;
  s.name = "marked";
  const bool wraps = x1 > right + 3 || x0 > right + 3;
  const double a = std::min(x0, x1), b = std::max(x0, x1);
  const Date from = g.dateAt(a), to = wraps ? g.dateAt(b - g.width) : g.dateAt(b);
  s.fromMonth = from.month;
  s.fromDay = from.day;
  s.toMonth = to.month;
  s.toDay = to.day;
  const auto quarter = [](double m) { return std::round(m / 15) * 15; };
  s.beginMinute = quarter(g.minutesAt(std::max(y0, y1)));
  s.endMinute = quarter(g.minutesAt(std::min(y0, y1)));
  if (s.endMinute <= s.beginMinute) s.endMinute = std::min(1440.0, s.beginMinute + 15);
  return s;
}

std::vector<SeasonBox> boxesOf(const AlmanacGeometry& g, const Season& s) {
  const auto box = [&](int m0, int d0, int m1, int d1) {
    const auto real = [&](int m, int d) { return Date{g.year, m, std::min(d, daysInMonth(g.year, m))}; };
    const double a = g.x(real(m0, d0)), b = g.x(real(m1, d1)) + g.dayWidth();
    return SeasonBox{a, g.y(s.endMinute), b - a, g.y(s.beginMinute) - g.y(s.endMinute)};
  };
  if (s.fromMonth * 100 + s.fromDay <= s.toMonth * 100 + s.toDay)
    return {box(s.fromMonth, s.fromDay, s.toMonth, s.toDay)};
  return {box(1, 1, s.toMonth, s.toDay), box(s.fromMonth, s.fromDay, 12, 31)};
}

Instant moved(const AlmanacGeometry& g, Instant t, int days, double minutes) {
  if (days != 0) {
    const auto r = g.reading(t);
    Date d = plusDays(r.date, days);
    if (d.year < g.year) d = {g.year, 12, 31};
    if (d.year > g.year) d = {g.year, 1, 1};
    t = g.instant(d, r.minutes);
  }
  t = t + minutes * 60;
  const Instant first = g.instant({g.year, 1, 1}, 0), last = g.instant({g.year, 12, 31}, 1439);
  return std::clamp(t, first, last);
}

} // namespace noonward
