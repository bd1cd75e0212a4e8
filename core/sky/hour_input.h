#pragma once
// What an hour of a weather file says of its sky.

#include "core/sky/sky_luminance.h"
#include "core/sky/weather.h"

namespace noonward {

/// In the model's axes (`northAngle`: rad, true azimuth of +y). The beam counts only with the sun up; what is negative
/// counts as nothing. An error names the hour where it has no radiation.
Expected<PerezInput> perezOf(const WeatherHour& hour, const HourSun& sun, double northAngle);

} // namespace noonward
