#pragma once
// CSV out. Points as decimal marks, commas between, quotes where a text needs them, UTF-8.

#include "core/studies/energy_months.h"
#include "core/studies/light_study.h"
#include "core/studies/probe.h"
#include "core/studies/sensor_field.h"
#include "core/studies/shade.h"
#include "core/studies/sun_hours.h"
#include "core/studies/year_study.h"
#include "core/yardsticks/yardstick.h"

namespace noonward {

std::string csvField(std::string_view text);
/// window,facing,glass_m2,… — hours of the whole glass in sun, shares in %, kWh/m² of direct sun.
std::string shadeCsv(const ShadeReport& report);
/// sensor,x,y,z,nx,ny,nz,hours,longest_hours,first,last — first and last ISO with offset, empty for several dates.
/// `before`: of the same sensors without the proposal; two columns more, `before` and `difference` (now less before).
std::string sunHoursCsv(const SensorSet& sensors, const Zone& zone, const SunHoursResult& result,
                        const SunHoursResult* before = nullptr);
/// sensor,x,y,z,nx,ny,nz,value,standard_error — in the result's unit; of irradiation also direct,sky,reflected.
/// `before`: as for sun hours.
std::string lightCsv(const SensorSet& sensors, const LightResult& result, const LightResult* before = nullptr);
/// sensor,month,value,standard_error,direct,sky,reflected — kWh/m² of each month, 1 to 12.
std::string energyMonthsCsv(const SensorSet& sensors, const std::vector<EnergyMonth>& months);
/// Either, of what a study gave in SI; fields are of the same study and not of a year.
std::string fieldCsv(const SensorField& now, const Zone& zone, const SensorField* before = nullptr);
/// Receivers as points of GeoJSON, longitude and latitude: name, group, unit, value, standard_error, azimuth_deg, and
/// `before` and `difference` where given.
std::string fieldGeoJson(const Project& project, const SensorField& now, const SensorField* before = nullptr);
/// receiver,group,dwelling,subject,x,y,z,nx,ny,nz,azimuth_deg,area_m2,building: azimuth true, empty for what looks up
/// or down.
std::string receiversCsv(const Project& project, const SensorSet& sensors);
/// room,use,area_m2,volume_m3,exposed_m2,window_north_m2,…,counted,reason
std::string roomsCsv(const std::vector<RoomFacts>& rooms);
/// sensor,date,begin,end,minutes — the stretches behind one sensor.
std::string stretchesCsv(const SunHoursInput& input, std::size_t sensor);
/// azimuth_deg,altitude_deg,element
std::string skylineCsv(const Project& project, const ProbeResult& probe);
std::string verdictCsv(const Verdict& verdict);

/// A line for each sensor, and for each space, of a daylight year.
std::string yearCsv(const YearFacts& facts, const YearResult& result);
std::string yearSpacesCsv(const YearFacts& facts, const YearResult& result);

} // namespace noonward
