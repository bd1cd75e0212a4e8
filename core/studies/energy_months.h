#pragma once
// The months behind an irradiation: what sun and sky bring to sensors in each month of its season. The same scene and
// rays as the whole (core/studies/irradiation.h); the sky and the suns are those of the month's hours alone.

#include "core/studies/irradiation.h"

namespace noonward {

struct EnergyMonth {
  int month = 1;         ///< 1 … 12
  std::size_t hours = 0; ///< of the weather year, in it and in the season
  LightResult result;    ///< kWh/m² of the month (a sum), sensor by sensor as asked
};

/// `input`: of the study as it stands (lightInput); `sensors`: indices in it, rising; none for all. Months of which no
/// hour lies in the season are left out; a month without light gives zeros. Errors: no irradiation over hours;
/// radiation missing.
Expected<std::vector<EnergyMonth>> irradiationByMonth(const Project& project, const Study& study, LightInput input,
                                                      const std::vector<std::size_t>& sensors, RunControl& control,
                                                      Threads threads = {});

} // namespace noonward
