#pragma once
// A weather year shifted by stated monthly changes, as to a warmer climate: each hour's temperature about the month's
// mean, t' = mean + add + stretch · (t − mean); relative humidity by percentage points; radiation and illuminance, and
// wind, by factors. The dew point follows from temperature and humidity (Magnus form, WMO 2008: 17.62, 243.12 °C).

#include "core/base/error.h"
#include "core/sky/weather.h"

namespace noonward {

using ByMonth = std::array<double, 12>;
constexpr ByMonth everyMonth(double v) {
  return {v, v, v, v, v, v, v, v, v, v, v, v};
}

struct WeatherShift {
  std::string name;                                        ///< "warmer, as in the 2050s"
  ByMonth warmer = everyMonth(0), stretch = everyMonth(1); ///< °C; of the differences from the month's mean
  ByMonth humidity = everyMonth(0);                        ///< percentage points
  ByMonth radiation = everyMonth(1), wind = everyMonth(1); ///< factors
};
struct ShiftedWeather {
  Weather weather;         ///< its header says what was done
  std::size_t bounded = 0; ///< hours whose humidity was held within 0 and 100 %
  std::size_t bright = 0;  ///< hours whose beam is now above what comes from outside the atmosphere
};
ShiftedWeather shifted(Weather weather, const WeatherShift& shift);

/// A year whose months from `from` to `to` (1…12, over the turn of the year where from > to) are those of another; the
/// header says so. Both are whole and lie at one place.
Expected<Weather> mixed(Weather year, const Weather& other, int from, int to);
/// Every hour's figures so many hours later in the year (earlier where negative), its ends joined: a file whose rows
/// are an hour off.
Weather movedInTime(Weather year, int hours);

/// Months of two years side by side: sums of radiation, kWh/m², mean temperature.
struct WeatherMonth {
  double global = 0, beam = 0, diffuse = 0; ///< kWh/m²
  double temperature = 0;                   ///< °C; NaN where none is known
  std::size_t hours = 0;
};
/// January to December, then the year.
std::array<WeatherMonth, 13> monthsOf(const Weather& weather);

/// Appends a sentence to the first comment of the file's header; commas, which end a field there, become semicolons.
void addComment(Weather& weather, std::string text);

} // namespace noonward
