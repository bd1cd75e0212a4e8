#pragma once
// A logger's files laid beside a daylight year of the project, as it is asked again: which files, how they are read,
// against which study, on which stretch of hours. The readings themselves stay in their files.

#include "core/base/id.h"
#include "core/base/vec.h"
#include <string>
#include <vector>

namespace noonward {

using SeriesId = Id<struct SeriesTag>;

struct MeasuredSeries {
  SeriesId id;
  std::string name;
  std::vector<std::string> files;      ///< in hand absolute; in a project file from its folder where they lie below it
  std::string map;                     ///< JSON text of how they are read (station_map.h); empty: as it is found
  std::string study;                   ///< id of the daylight year; empty: the first
  int firstDay = 0, lastDay = 364;     ///< of 365, both within
  double firstHour = 0, lastHour = 24; ///< standard time of the weather
  bool night = false;                  ///< hours with the sun down count too
  double leastAltitude = -pi / 2, mostAltitude = pi / 2; ///< rad, of the sun
  int year = 0;                                          ///< of the measurement; 0: that with most of it
  std::string guideline;                                 ///< key of the thresholds it is judged by; empty: none
  bool operator==(const MeasuredSeries&) const = default;
};

} // namespace noonward
