#pragma once
// Monthly changes of a weather year as JSON: {"format": "noonward-weather-shift", "name": "…", "warmer": 2.1,
// "stretch": 1.05, "humidity": -2, "radiation": 1.02, "wind": 1}; each a number for the whole year or a list of twelve,
// January first.

#include "core/base/error.h"
#include "core/sky/weather_shift.h"
#include <string_view>

namespace noonward {

/// `name`: of the file, for errors. Errors: no such file format, a key nobody reads, figures out of range (warmer −30
/// to 30 °C, humidity −100 to 100, factors 0 to 10), lists of other than twelve.
Expected<WeatherShift> weatherShiftFromJson(std::string_view text, const std::string& name);

} // namespace noonward
