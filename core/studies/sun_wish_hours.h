#pragma once
// Hours in which a study finds too much sun, for shading to keep out (SunWishes::keepOutHours).

#include "core/studies/glare_year.h"
#include "core/studies/year_study.h"

namespace noonward {

/// Hours of the schedule in which any line of sight has a DGP above `limit`, records 0…8759.
std::vector<std::uint16_t> hoursOfGlare(const GlareYear& year, double limit = 0.4);

/// Hours of the schedule in which the beam, blinds open and no reflections, brings the settings' closing illuminance
/// (1000 lx) to more than their share (2 %) of the sensors of any of these spaces. Errors: no such question, stopped.
Expected<std::vector<std::uint16_t>> hoursOfBeam(const Project& project, const std::vector<GroupId>& groups,
                                                 const YearSettings& settings, RunControl& control,
                                                 Threads threads = {});

} // namespace noonward
