#pragma once
// What a year of energy is read as: several rooms as one, the causes of a month or of the year, why heating or cooling
// is as high as it is, and the hours as a picture of the year.

#include "core/base/units.h"
#include "core/model/project.h"
#include "core/studies/energy/energy_year.h"

namespace noonward {

/// The rooms together, called "All rooms": sums, temperatures weighed by floor area. Nothing without rooms.
std::optional<EnergyRoom> allRooms(const EnergyYear& year);

struct EnergyShare {
  EnergyCauseKind kind = EnergyCauseKind::Sun;
  std::string name;
  double kwh = 0; ///< into the room positive
};
/// Of a month (0…11) or of the year: gains, largest first, then losses, largest first; without those that come to
/// nothing.
std::vector<EnergyShare> energyShares(const EnergyRoom& room, std::optional<std::size_t> month);
/// Of all gains (or losses) the largest few with their shares, and in which hours what they call for is given: the
/// larger of cooling and heating. "Cooling takes 34 kWh in July …"
std::string whyText(const Project& project, const EnergyRoom& room, std::optional<std::size_t> month);
/// "Heating 41, cooling 4, lighting 8 kWh/m² a year"; of a month where one is asked for.
std::string demandText(const EnergyRoom& room, std::optional<std::size_t> month, const DisplayUnits& units);

/// "Left to itself: 4 to 31 °C, above 26 °C in 212 hours of use."
std::string freeText(const EnergyRoom& room);
/// kWh in the hours chosen (records 0…8759).
EnergyParts partsOf(const EnergyRoom& room, const std::vector<bool>& hours);
/// "21 Jun · 8:00–18:00: heating 0 kWh, cooling 12 kWh, …".
std::string stretchText(const EnergyRoom& room, const std::vector<bool>& hours, const std::string& when,
                        const DisplayUnits& units);
/// The year's demand by a weight, in its unit.
double weighed(const EnergyRoom& room, const EnergyWeight& weight);
/// "Price 1240 €, 5.2 €/m²; carbon 310 kg, 1.3 kg/m² a year"; empty without weights.
std::string weighedText(const EnergyRoom& room, const std::vector<EnergyWeight>& weights, const DisplayUnits& units);

enum class EnergySeries { Temperature, Load, Free };
/// By record: °C, operative; W for each m² of floor, heating above 0, cooling below; °C, operative, left to itself.
std::vector<float> energySeries(const EnergyRoom& room, EnergySeries which);

} // namespace noonward
