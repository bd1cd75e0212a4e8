#include "core/sun/sun_day.h"
#include "core/sun/sun_path.h"

namespace noonward {

namespace {
struct Span {
  Instant begin;
  double length;
};
Span daySpan(const Zone& zone, Date date) {
  const Instant a = zone.instant({date, 0}), b = zone.instant({plusDays(date, 1), 0});
  return {a, b - a};
}
} // namespace

SunDay sunDay(const SunKnots& knots, const Place& place, const Zone& zone, Date date) {
  const Span day = daySpan(zone, date);
  const SunPath path(knots, place, 0, day.begin, day.length);
  SunDay out;
  const Intervals up = path.above(sunriseAltitude);
  for (const Interval& i : up) {
    if (i.begin > 0) out.sunrises.push_back(day.begin + i.begin);
    if (i.end < day.length) out.sunsets.push_back(day.begin + i.end);
  }
  if (up.empty()) out.kind = DayKind::PolarNight;
  if (up.size() == 1 && out.sunrises.empty() && out.sunsets.empty()) out.kind = DayKind::PolarDay;

  double t = day.length / 2;
  for (int i = 0; i < 4; ++i) {
    const double h = wrapPi(knots.at(day.begin + t).greenwichHourAngle + place.longitude);
    t -= h / (2 * pi) * 86400;
  }
  out.noon = day.begin + t;
  out.noonAltitude = solarPosition(knots.at(out.noon), place).altitude;
  return out;
}

std::vector<std::vector<TrackPoint>> dayTrack(const SunKnots& knots, const Place& place, const Zone& zone, Date date,
                                              double step) {
  const Span day = daySpan(zone, date);
  const SunPath path(knots, place, 0, day.begin, day.length);
  std::vector<std::vector<TrackPoint>> out;
  for (const Interval& i : path.above(0)) {
    std::vector<TrackPoint> piece;
    const auto put = [&](double t) { piece.push_back({day.begin + t, solarPosition(knots.at(day.begin + t), place)}); };
    put(i.begin);
    for (double t = (std::floor(i.begin / step) + 1) * step; t < i.end - 1; t += step) put(t);
    put(i.end);
    out.push_back(std::move(piece));
  }
  return out;
}

} // namespace noonward
