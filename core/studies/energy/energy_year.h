#pragma once
// What light costs: heating, cooling and lighting of rooms, hour by hour, by the simple hourly method of ISO 13790
// (heat_zone.h). A design aid, not a certificate.
//
// Sun: what falls behind each group of windows, from the same sky, beam and shade as light (hourly_sky.h), through the
// same angular curve of the glass, times g over the visible transmittance; closed blinds leave a share of it. Blinds by
// the rules of the year. Lighting: what daylight leaves owing to the target, sensor by sensor (dimmed), or the whole
// where the room's mean is below it (switched), in the hours of use. Rooms of one study exchange heat through what
// parts them, each with what its neighbours had the hour before; a room that is not in the study is as warm as its
// neighbour. Floors on the ground lose half of what they would to outdoor air. The year begins as it ends.
//
// Signs: into the room positive. ± is that of the light's paths alone, and far below what else is uncertain.

#include "core/studies/energy/envelope.h"
#include "core/studies/light_study.h"
#include <array>
#include <cmath>

namespace noonward {

class Hasher;

struct EnergyParts { ///< kWh
  double heating = 0, cooling = 0, lighting = 0, solar = 0, internal = 0, transmission = 0, ventilation = 0;
};
enum class EnergyCauseKind {
  Heating,
  Cooling,
  Lighting,
  People,
  Equipment,
  Sun,
  Windows,
  Walls,
  Roof,
  Ground,
  ExposedFloor,
  Rooms,
  Ventilation,
  Leakage
};
/// One cause of gains or losses, kWh by month; into the room positive. Together they close the balance of the year.
struct EnergyCause {
  EnergyCauseKind kind = EnergyCauseKind::Sun;
  std::string name; ///< "sun, South", "walls"
  std::array<double, 12> months{};
};
struct EnergyHour {                                        ///< of a room
  float air = 0, operative = 0;                            ///< °C
  float heating = 0, cooling = 0, lighting = 0, solar = 0; ///< W
  float internal = 0, transmission = 0, ventilation = 0;   ///< W: people and equipment; walls and windows; air
};
struct EnergyRoom {
  std::uint64_t room = 0; ///< id
  std::string name, use;
  double floorArea = 0;
  std::array<EnergyParts, 12> months;
  std::vector<EnergyCause> causes;
  double peakHeating = 0, peakCooling = 0;                ///< W, both above 0
  std::uint32_t peakHeatingHour = 0, peakCoolingHour = 0; ///< records 0…8759
  double solarError = 0, lightingError = 0; ///< standard errors of the year's sums, kWh: of the light's paths alone
  /// How far heating or cooling can be off for it, kWh: no more than the gains are.
  double demandError() const { return std::hypot(solarError, lightingError); }
  double hoursAbove = 0;         ///< of use with an operative temperature above `warmAbove`
  std::vector<EnergyHour> hours; ///< 8760
  std::vector<float> free;       ///< °C, operative, 8760: with nothing heated or cooled in any room
  double freeAbove = 0;          ///< hours of use above `warmAbove` then
  double warmAbove = 26;         ///< °C
  EnergyParts year() const;
};
struct EnergyYear {
  std::vector<EnergyRoom> rooms;
  std::vector<std::int32_t>
      ofGroup; ///< by group of sensors its room in `rooms`; −1: it lies in none, or is not reached
  const EnergyRoom* room(std::size_t group) const {
    return group < ofGroup.size() && ofGroup[group] >= 0 ? &rooms[std::size_t(ofGroup[group])] : nullptr;
  }
};
/// "Heating 41, cooling 3, lighting 12 kWh/m²; sun 55, people and equipment 31, transmission −80, ventilation −50".
std::string energyText(const EnergyRoom& room);

struct EnergyInput;
/// Does what `input.energyKept` holds answer it without tracing, in a blink?
bool answeredByKept(const LightInput& input);
/// Of LightKind: what is asked, what it is made from, the run.
Outcome energyQuestion(const Project& project, const Study& study, std::optional<Instant> moment, LightInput& input,
                       Hasher& hash);
Outcome energyInput(const Project& project, const Study& study, std::optional<Instant> moment, LightInput& input);
LightResult runEnergy(const LightInput& input, RunControl& control, Threads threads);

} // namespace noonward
