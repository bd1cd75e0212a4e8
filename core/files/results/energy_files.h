#pragma once
// Tables of a year of energy: by room and month in kWh, by room and hour in °C and W. Into the room is positive.

#include "core/studies/energy/energy_year.h"

namespace noonward {

/// room,month,heating_kwh,cooling_kwh,lighting_kwh,solar_gain_kwh,internal_gain_kwh,transmission_kwh,ventilation_kwh;
/// months 1 to 12 and "year".
std::string energyCsv(const EnergyYear& year);
/// room,hour,air_c,operative_c,heating_w,cooling_w,lighting_w,solar_w; hours 1 to 8760 of the weather year.
std::string energyHoursCsv(const EnergyYear& year);

/// room,weight,unit,heating,cooling,lighting,all,all_per_m2: the year's demand by each weight.
std::string energyWeightsCsv(const EnergyYear& year, const std::vector<EnergyWeight>& weights);

} // namespace noonward
