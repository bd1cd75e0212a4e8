#pragma once
// A civil day's sunrise, noon and sunset, and the sun's tracks for the sky.

#include "core/sun/solar_position.h"

namespace noonward {

enum class DayKind { Ordinary, PolarDay, PolarNight };

struct SunDay {
  DayKind kind = DayKind::Ordinary;
  std::vector<Instant> sunrises, sunsets; ///< upper limb with refraction (centre at -0.833°); 0, 1, rarely 2 each
  Instant noon;                           ///< the sun crosses the meridian (hour angle 0)
  double noonAltitude = 0;                ///< rad, true
};
/// Altitude of the centre (rad) at which sunrise and sunset are shown.
inline constexpr double sunriseAltitude = -0.833 * radiansPerDegree;

/// The sun over the civil day of `date` by that zone's clock (23 to 25 hours where clocks change).
SunDay sunDay(const SunKnots& knots, const Place& place, const Zone& zone, Date date);

struct TrackPoint {
  Instant time;
  SolarPosition sun;
};
/// The sun above the horizon from one civil midnight to the next, every `step` seconds, ends at altitude 0 included.
/// More than one piece where the sun sets within the day (high latitudes).
std::vector<std::vector<TrackPoint>> dayTrack(const SunKnots& knots, const Place& place, const Zone& zone, Date date,
                                              double step = 600);

} // namespace noonward
