#pragma once
// When sun on glass is not wanted and when it is: painted on the year as seasons (months × hours), taken from the air's
// temperature or the sun's strength, hour by hour from a study (glare, beam on the working plane), or all of these.
// Shading is sized and judged by it.

#include "core/model/settings/sun_hours_settings.h"
#include <optional>
#include <string>

namespace noonward {

enum class SunWish : std::uint8_t { None, KeepOut, LetIn };

struct SunWishes {
  std::vector<Season> keepOut, letIn;    ///< local clock
  std::optional<double> keepOutFrom;     ///< °C of the weather's dry bulb: from here up, sun is not wanted
  std::optional<double> letInUpTo;       ///< °C: up to here it is; keeping out goes before
  std::optional<double> keepOutBeamFrom; ///< W/m² of the weather's direct normal irradiance: from here up, not wanted
  std::vector<std::uint16_t> keepOutHours; ///< records of the weather year, 0…8759, in order: as a study had them
  std::string keepOutHoursOf;              ///< which study, and what it was asked: "glare above 0.40, Seats"
  bool empty() const {
    return keepOut.empty() && letIn.empty() && !keepOutFrom && !letInUpTo && !keepOutBeamFrom && keepOutHours.empty();
  }
  bool operator==(const SunWishes&) const = default;
  /// `record`: the hour of the weather year, 0…8759. °C and W/m² of its weather; NaN where there is none.
  struct Hour {
    int record = -1;
    double temperature = 0, directNormal = 0;
  };
  SunWish at(Date date, double minute, const Hour& hour) const;
};

/// What is proposed where nothing is painted: the summer months kept out, the winter half let in, by hemisphere; whole
/// days.
SunWishes proposedWishes(double latitude);
/// Season by season, for people.
std::string wishesText(const SunWishes& wishes);

} // namespace noonward
