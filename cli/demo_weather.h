#pragma once
// A synthetic weather year, so that the demo needs nobody's measurements. Model: a day's clearness wanders as a first-
// order autoregression round a seasonal mean; within the day it wanders a little more. Beam: 1361 W/m² · 0.7^(m^0.678)
// (m: relative air mass, Kasten and Young 1989) times the clear share; diffuse: a clear part plus what clouds scatter;
// global closes exactly. Temperature: a year's and a day's wave, dampened by cloud. Illuminances by constant
// efficacies. Seeded; the same place and seed give the same file. Its header says that it is synthetic.

#include "core/sky/weather.h"

namespace noonward::cli {

struct ClimateWish {
  std::string city, country;
  Place place;
  double utcOffset = 0;                         ///< s
  double clearWinter = 0.25, clearSummer = 0.5; ///< mean share of clear sky
  double meanTemperature = 8, swing = 8.5;      ///< °C
  unsigned seed = 1;
};
Weather syntheticWeather(const ClimateWish& wish);

} // namespace noonward::cli
