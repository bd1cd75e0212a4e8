#pragma once
// How far a file's clock stands from the sun's: what has to be added to its stamps so that its light agrees with where
// the sun was.
//
// Where global, beam and diffuse are all measured, by closure: the slip at which GHI − DHI − DNI · sin h is least in
// the mean square over hours with the sun above 5°. Its error is from the same for twelve parts of the year. Otherwise
// by the middle of each clear day's global radiation, which lies at solar noon: the median over the clearest days, its
// error 1.25 σ/√n with σ by the median deviation. A site that is cloudier in the afternoon all year, or behind a hill,
// moves the second by some minutes: it is told, never applied by itself.

#include "core/sky/weather.h"
#include <cmath>

namespace noonward {

struct ClockSlip {
  double minutes = 0; ///< to add to the stamps
  double error = 0;   ///< standard error, minutes
  bool byClosure = false;
  std::size_t days = 0; ///< that tell it
  /// Worth telling: more than its noise could be, and more than reading a clock costs.
  bool counts() const { return std::abs(minutes) >= 5 && std::abs(minutes) > 4 * error; }
};
/// Nothing where fewer than ten days tell it. `asMeasured`: beam and diffuse were measured beside global.
std::optional<ClockSlip> clockSlip(const Weather& weather, bool asMeasured);

} // namespace noonward
