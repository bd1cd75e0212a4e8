#pragma once
// Irradiation: energy of sun and sky on sensors, in kWh/m² of the hours counted of a weather year (their sum, or the
// mean of a day), or in W/m² under the sky of one moment. From the same sky and beam as light, as energy
// (core/sky/radiant_sky.h), in the same scene:
//
//   direct     for every sun of the sum: is it in front and not hidden? No samples, so no error but that of taking
//              suns together that stand within 0.25° of their mean. Glass in the way counts by its straight share.
//   sky        straight from the sky, patch by patch (sky_share.h); behind panes by paths that aim at them;
//   reflected  all that has met a surface, the ground too, by the same paths: complete interreflections.
//
// Those paths go out in eight independent scrambled sequences, whose spread is the standard error (Student's t for
// seven degrees of freedom; and 6 % for stopping where the spread looks small, as in light_study.cpp). Finishes reflect
// and glass transmits energy as they do light: files know no other figure.

#include "core/studies/light_study.h"

namespace noonward {

class Hasher;

/// What the sky as energy depends on, into the hash; and the sky itself, remembered by the project's derived memory.
Outcome irradiationHours(const Project& project, const Study& study, std::optional<Instant> moment, LightInput& input,
                         Hasher& hasher);
Outcome irradiationSky(const Project& project, const Study& study, std::optional<Instant> moment, LightInput& input);
LightResult runIrradiation(const LightInput& input, RunControl& control, Threads threads);

/// The hours of a weather year (8760, by slot) whose middle lies in a season by the site's clock and the project's
/// year.
std::vector<bool> hoursOfSeason(const Project& project, const Season& season);

/// What a run of sensors receives together: each by its area. Nothing where they are single points.
struct EnergyTotal {
  std::size_t sensors = 0;
  double area = 0, energy = 0, energyError = 0; ///< m²; kWh or W, and its standard error
  double direct = 0, sky = 0, reflected = 0;    ///< of it
  double areaAtLeast = 0, energyAtLeast = 0;    ///< where the value reaches a threshold: fit for panels
  double mean() const { return area > 0 ? energy / area : 0; }
};
/// By side of the sensors [first, first + count): facing up (normal within 45° of it), the four facades by true azimuth
/// ± 45°, facing down; those without sensors are left out.
struct EnergyBySide {
  std::string side; ///< "facing up", "north", …
  EnergyTotal total;
};
EnergyTotal energyTotal(const SensorSet& sensors, const LightResult& result, std::size_t first, std::size_t count,
                        double threshold);
std::vector<EnergyBySide> energyBySide(const SensorSet& sensors, const LightResult& result, std::size_t first,
                                       std::size_t count, double threshold, double northAngle);

} // namespace noonward
