#pragma once
// Station and logger files read by a map into means of hours (core/sky/measured/hour_means.h), a row at a time. Rows
// that can't be read are left out, counted and named by line and column; nothing is guessed in silence.

#include "core/base/run_control.h"
#include "core/files/station/station_map.h"
#include "core/sky/measured/hour_means.h"

namespace noonward {

/// What a file says of itself, and what was made of what it does not say.
struct StationGuess {
  TableFacts table;
  StampForm form;
  StationMap map;       ///< the one given, with what was found in its empty places
  std::size_t time = 0; ///< column of the stamp
  std::optional<std::size_t> date;
  std::vector<std::size_t> at;     ///< column in the file of each of map.columns
  double step = 0;                 ///< s
  std::vector<std::string> unused; ///< columns that are nothing known
};
/// Errors: no table, no column of times, a column of the map that the file has not.
Expected<StationGuess> guessStation(const std::filesystem::path& path, const StationMap& map = {});

/// The zone that stamps are told by: the map's, or standard time by longitude.
struct StationClock {
  Zone zone;
  double standardOffset = 0; ///< s, of the hours that are made
};
Expected<StationClock> stationClock(const StationMap& map, const Zone* project, int year);

struct RowFault {
  std::string file;
  std::size_t line = 0;
  std::string column, text; ///< "T_air"; "12,3x is no number"
};

struct StationRead {
  StationMap map; ///< with everything that was found
  std::vector<StationColumn> columns;
  std::vector<Measured> kinds;
  HourMeans means;
  std::size_t rows = 0, used = 0;
  double step = 0;              ///< s, of the first file
  Instant first, last;          ///< begin of the first interval, end of the last
  std::vector<RowFault> faults; ///< the first 200
  Findings findings;
  std::vector<std::string> notes; ///< "station.csv: semicolons between columns, …"
  RunEnd end = RunEnd::Finished;
};
/// Several files are joined, each with the columns it has. `zone`: the project's, where the map names none. Errors as
/// guessStation(), none of the rows has a time and a value, dates that lie too far apart.
Expected<StationRead> readStations(const std::vector<std::filesystem::path>& files, const StationMap& map,
                                   const Zone* zone, RunControl& control, int bin = 3600);
/// What was done with the stamps, in words, for the header of what is made: "Stamps are local clock, end of 600 s".
std::string clockWords(const StationMap& map);

} // namespace noonward
