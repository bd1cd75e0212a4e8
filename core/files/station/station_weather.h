#pragma once
// From the files of a station to a weather year: read, made, told. Window and command line call this.

#include "core/files/station/station_reader.h"

namespace noonward {

struct StationWeather {
  StationRead read;
  MadeWeather made;
  Findings findings; ///< of reading, making, and of the year that came out
};
/// `site`: the project's place, its name and zone, where the map says none. Errors: as readStations() and
/// makeWeather(), no place, no such other year's file; stopped.
struct StationSite {
  Place place;
  std::string name;
  Zone zone;
};
Expected<StationWeather> stationWeather(const std::vector<std::filesystem::path>& files, const StationMap& map,
                                        const StationSite* site, RunControl& control);

/// Hours as CSV: month, day, hour, the columns measured and those derived, and where each hour came from.
std::string madeCsv(const MadeWeather& made);

} // namespace noonward
