#pragma once
// How a station's table is to be read: which clock its stamps keep, which column is what in which unit, and what is to
// be made of it. As JSON {"format": "noonward-station-map", …} (docs/project-format.md); everything that is not said is
// found in the file, and told.

#include "core/base/json.h"
#include "core/files/station/stamps.h"
#include "core/files/station/table_stream.h"
#include "core/sky/measured/quantity.h"
#include "core/sky/measured/weather_making.h"
#include <string>

namespace noonward {

enum class StampAt { Begin, Middle, End }; ///< of the interval that a row speaks for
const char* stampAtKey(StampAt at);        ///< "begin"
std::optional<StampAt> stampAtFromKey(std::string_view key);

struct StationColumn {
  std::string column; ///< its name in the file, or its number from 1 on
  Measured is = Measured::Light;
  std::string unit;   ///< as in the file; empty: by the file's own words or its numbers
  std::string sensor; ///< of the project, for light and irradiance at sensors; empty: the column's name
  bool operator==(const StationColumn&) const = default;
};

struct StationMap {
  std::optional<Place> place;
  std::string name; ///< of the place
  /// Which clock the stamps keep: "standard" time of the zone all year, the "local" clock with its summer time, "utc",
  /// or an offset such as "+01:00". Stamps that carry their own offset need none.
  std::string clock = "standard";
  std::string zone;              ///< IANA name; empty: the project's, or standard time by longitude
  std::optional<StampAt> stamps; ///< none said: the end for steps of a minute and more
  double step = 0;               ///< s that a row speaks for; 0: found
  double slip = 0;               ///< min, added to every stamp
  int year = 0;                  ///< 0: that with most of it
  TableHints table;
  std::optional<DateOrder> dates;
  std::string time, date;             ///< columns of the stamp; date where it stands apart
  std::vector<StationColumn> columns; ///< empty: found
  SplitModel split = SplitModel::Brl;
  GapRules gaps;
  std::string otherYear; ///< EPW file for long gaps
};

/// `name`: of the file, for errors.
Expected<StationMap> stationMapFromJson(std::string_view text, const std::string& name);
Json stationMapJson(const StationMap& map);

} // namespace noonward
