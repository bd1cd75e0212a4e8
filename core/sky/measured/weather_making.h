#pragma once
// A weather year made of measured hours, and what was invented in it.
//
// Radiation: two of global, beam and diffuse give the third by closure; global alone is split (core/sky/splitting.h);
// where only illuminance was measured, irradiance follows by the luminous efficacies of 1990, found by turns. What no
// sky gives, and light at night, is taken as not measured; small negative readings (a sensor's zero) are 0. All of it
// is counted.
//
// Gaps, by their length: up to `interpolate` hours on the straight line between the hours beside them; up to `days`
// days by the mean of the same hour on the nearest days that have it, as many on each side; longer ones from another
// year's file, where there is one. Radiation is filled as its share of what comes from outside the atmosphere, so that
// a gap in the morning has the sun's climb. What is left stays missing: a part of a year is a weather too.
//
// Every hour says where it came from: column 6 of the file has a letter and a figure for each of its 29 columns, which
// a comment in the header spells out, and the header says how many hours were invented.

#include "core/base/finding.h"
#include "core/sky/measured/clock_slip.h"
#include "core/sky/measured/hour_means.h"
#include "core/sky/measured/quantity.h"
#include "core/sky/splitting.h"

namespace noonward {

struct GapRules {
  int interpolate = 3; ///< h
  int days = 3;        ///< d: longest gap that days around fill
  bool operator==(const GapRules&) const = default;
};

struct MakingRules {
  Place place;
  std::string name;   ///< of the place
  std::string source; ///< "roof-station.csv"
  std::string clock;  ///< what was done with the stamps, for the header
  int year = 0;       ///< 0: the one with most hours of radiation
  SplitModel split = SplitModel::Brl;
  GapRules gaps;
  const Weather* other = nullptr; ///< another year's file, for long gaps
};

/// Where an hour's figure came from.
enum class HourOrigin : std::uint8_t { Measured, Derived, Interpolated, Days, Other, Missing };
const char* originText(HourOrigin origin); ///< "interpolated"

struct MadeWeather {
  Weather weather;
  Findings findings;
  int year = 0;
  std::vector<HourOrigin> origin;     ///< of each of 8760 hours: the worst of what was measured at all
  std::array<std::size_t, 6> hours{}; ///< how many of each
  std::size_t invented() const { return hours[2] + hours[3] + hours[4]; }
  std::optional<ClockSlip> slip;                       ///< before anything was filled
  std::size_t impossible = 0, night = 0, negative = 0; ///< hours whose radiation was not taken, or set to 0
  std::size_t held = 0; ///< hours whose beam was held at what the cleanest air lets through
};
/// `columns`: what each column of the means is. Errors: no hours, a year that has none, no radiation in any column, no
/// whole day.
Expected<MadeWeather> makeWeather(const HourMeans& means, const std::vector<Measured>& columns,
                                  const MakingRules& rules);

/// How many hours the header says were invented; nothing where it says nothing.
std::optional<std::size_t> inventedHours(const Weather& weather);
/// Was it made of a part of a year? Then studies are of its hours alone.
bool partOfYear(const Weather& weather);

} // namespace noonward
