#pragma once
// One column of a weather year by month, and by month and hour of the day (standard time): what its charts and tables
// show. Hours without a value are left out.

#include "core/sky/weather.h"

namespace noonward {

struct MonthSpread {
  double mean = 0, low = 0,
         high = 0; ///< NaN where the month has no value; a tenth of its hours lie below low, above high
  std::size_t hours = 0;
};
std::array<MonthSpread, 12> columnByMonth(const Weather& weather, WeatherField field);

/// Means by month and by record of the day: [month][hour that ends at hour + 1]; NaN where there is none.
std::array<std::array<double, 24>, 12> columnByHour(const Weather& weather, WeatherField field);

} // namespace noonward
