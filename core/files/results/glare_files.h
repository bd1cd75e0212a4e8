#pragma once
// Tables of a year of glare.

#include "core/model/project.h"
#include "core/studies/glare.h"
#include "core/studies/light_study.h"

namespace noonward {

/// The middle of a record (0…8759) of the weather year, in the project's year, by the site's clock: "2026-12-21T14:30".
std::string recordMoment(const Project& project, std::size_t record);
/// eye,x,y,z,azimuth_deg,hours,share_above_035,share_above_040,share_above_045,dgp_95,worst_hour and what follows:
/// shares 0…1 of the schedule's `hours`; azimuth true.
std::string glareCsv(const Project& project, const SensorSet& sensors, const LightResult& result);
/// eye,azimuth_deg,moment,dgp: every hour of the schedule with light.
std::string glareSeriesCsv(const Project& project, const SensorSet& sensors, const LightResult& result);

/// Degrees to the right of the line of sight, and above it.
std::pair<double, double> offSight(const EyeFrame& eye, Vec3 direction);
/// luminance_cd_m2,solid_angle_sr,azimuth_deg,altitude_deg from the line of sight,position_index,sun.
std::string glareSourcesCsv(const EyeFrame& eye, const std::vector<GlareSource>& sources);

} // namespace noonward
