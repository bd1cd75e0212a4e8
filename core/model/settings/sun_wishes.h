#pragma once
// When sun on glass is not wanted and when it is: painted on the year as seasons (months × hours), taken from the air's
// temperature or the sun's strength, or all of these. Shading is sized and judged by it.

#include "core/model/settings/sun_hours_settings.h"
#include <optional>

namespace noonward {

enum class SunWish : std::uint8_t { None, KeepOut, LetIn };

struct SunWishes {
  std::vector<Season> keepOut, letIn;    ///< local clock
  std::optional<double> keepOutFrom;     ///< °C of the weather's dry bulb: from here up, sun is not wanted
  std::optional<double> letInUpTo;       ///< °C: up to here it is; keeping out goes before
  std::optional<double> keepOutBeamFrom; ///< W/m² of the weather's direct normal irradiance: from here up, not wanted
  bool empty() const { return keepOut.empty() && letIn.empty() && !keepOutFrom && !letInUpTo && !keepOutBeamFrom; }
  bool operator==(const SunWishes&) const = default;
  /// °C and W/m² of the hour's weather; NaN where there is none.
  SunWish at(Date date, double minute, double temperature, double directNormal) const;
};

/// What is proposed where nothing is painted: the summer months kept out, the winter half let in, by hemisphere; whole
/// days.
SunWishes proposedWishes(double latitude);
/// Season by season, for people.
std::string wishesText(const SunWishes& wishes);

} // namespace noonward
