#pragma once
// What is wrong with a weather year, and the mends. A mend returns a new year with a note of what it changed; the file
// it came from is never touched.

#include "core/base/finding.h"
#include "core/sky/weather.h"

namespace noonward {

struct WeatherCheck {
  Findings findings;
  struct Row {
    std::string code;
    std::size_t hour; ///< index into hours
  };
  std::vector<Row> rows; ///< every hour concerned, so that a list can name them
};

/// Checks the year by itself: count, order, gaps, missing values, hemisphere and noon by its own light, then sun at
/// night, physical limits and closure, which mean nothing where the place is wrong.
WeatherCheck checkWeather(const Weather& weather);

/// Against the project: distance of the places and offset of the zone.
struct SiteForWeather {
  Place place;
  Zone zone;
  int year = 2026;
};
Findings checkWeatherAgainst(const Weather& weather, const SiteForWeather& site);

/// Carries out the mend of one finding code of checkWeather(); an error where that code has none.
Expected<Weather> mendWeather(const Weather& weather, std::string_view code);

/// The line of the file an hour came from.
std::size_t rowOf(const Weather& weather, std::size_t hour);
/// Hours as text, "21 Jun 14:00 (row 4123)"; rows count the file's header lines.
std::string hourText(const Weather& weather, std::size_t hour);

} // namespace noonward
