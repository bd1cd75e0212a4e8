#include "core/sky/hour_input.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

Expected<PerezInput> perezOf(const WeatherHour& h, const HourSun& sun, double northAngle) {
  const double direct = h[WeatherField::DirectNormal], diffuse = h[WeatherField::DiffuseHorizontal];
  if (std::isnan(direct) || std::isnan(diffuse))
    return fail(
        fmt::format("The weather file has no radiation for hour {} of {}. Fill its gaps first (Findings, Mend).",
                    h.hour, dayText({2025, h.month, h.day})),
        "weather");
  PerezInput in;
  in.sun = toModel(sun.position.direction, northAngle);
  in.directNormal = sun.up ? std::max(0.0, direct) : 0;
  in.diffuseHorizontal = std::max(0.0, diffuse);
  if (!std::isnan(h[WeatherField::DewPoint])) in.dewPoint = h[WeatherField::DewPoint];
  in.dayOfYear = dayOfYear({2025, h.month, h.day});
  return in;
}

} // namespace noonward
