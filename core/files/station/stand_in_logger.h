#pragma once
// A stand-in for a logger: what instruments at a project's sensors and on its roof would have written, with the noise,
// drift, wrong clock and gaps that are asked for, so that what reads and judges such files can be tried where the truth
// is known. Within an hour light follows the sun's height, its mean as computed; temperature runs straight between the
// hours.

#include "core/studies/measured_light.h"
#include <functional>

namespace noonward {

struct LoggerWish {
  double step = 600;           ///< s
  double noise = 2, drift = 0; ///< %, of a reading (one standard deviation); % a year
  double gain = 1;             ///< readings over truth
  double slip = 0;             ///< min its clock is late (its stamps too large)
  int gaps = 0;                ///< stretches of 1 h to 3 days without rows
  int year = 2025;
  int firstDay = 0, lastDay = 364;
  std::uint32_t seed = 1;
  std::vector<std::size_t> sensors; ///< of the modelled hours
  bool weather = true;              ///< its roof station besides: temperature, humidity, global and diffuse radiation
};

/// Rows in the order of time, the head first; false from `row` ends it. Stamps are the end of the interval, standard
/// time of the weather. Errors: no weather year, no sensor where none of the weather is wanted.
Outcome standInLogger(const ModelledHours* light, const Weather& weather, const LoggerWish& wish,
                      const std::function<bool(const std::string&)>& row);

} // namespace noonward
