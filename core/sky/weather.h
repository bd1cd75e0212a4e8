#pragma once
// A weather year: 8760 hours in local standard time as an EPW file keeps them, all columns. Record h (1…24) is the hour
// ending at h:00; missing values are NaN. W/m², lux, °C, Pa, m/s in the units of the file format.

#include "core/base/hash.h"
#include "core/sun/solar_position.h"
#include <array>
#include <optional>
#include <string>

namespace noonward {

/// The 29 numeric columns of an hour, in file order (columns 7 to 35).
enum class WeatherField {
  DryBulb,
  DewPoint,
  RelativeHumidity,
  Pressure,
  ExtraterrestrialHorizontal,
  ExtraterrestrialNormal,
  HorizontalInfrared,
  GlobalHorizontal,
  DirectNormal,
  DiffuseHorizontal,
  GlobalIlluminance,
  DirectIlluminance,
  DiffuseIlluminance,
  ZenithLuminance,
  WindDirection,
  WindSpeed,
  TotalSkyCover,
  OpaqueSkyCover,
  Visibility,
  CeilingHeight,
  PresentWeatherObservation,
  PresentWeatherCodes,
  PrecipitableWater,
  AerosolOpticalDepth,
  SnowDepth,
  DaysSinceSnow,
  Albedo,
  LiquidPrecipitation,
  LiquidPrecipitationHours
};
inline constexpr std::size_t weatherFieldCount = 29;

struct WeatherFieldFacts {
  const char* name;    ///< "direct normal irradiance"
  const char* unit;    ///< "W/m²"
  double missingFrom;  ///< a value at or above this is the file format's marker for "missing"
  const char* missing; ///< the marker as written
};
const WeatherFieldFacts& facts(WeatherField field);

struct WeatherHour {
  int year = 0, month = 0, day = 0, hour = 0, minute = 0; ///< as in the file; hour 1…24
  std::string flags;                                      ///< column 6: data source and uncertainty
  std::size_t row = 0;                                    ///< line of the file it came from; 0 where it came from none
  std::array<double, weatherFieldCount> values{};
  double operator[](WeatherField f) const { return values[std::size_t(f)]; }
  double& operator[](WeatherField f) { return values[std::size_t(f)]; }
};

struct Weather {
  std::string city, region, country, source, station;
  Place place;
  double utcOffset = 0;                 ///< s, standard time of the file
  std::array<std::string, 7> headers{}; ///< header lines 2 to 8 as they stand
  std::vector<WeatherHour> hours;       ///< 8760 where the file is whole
  std::vector<std::string> notes;       ///< what the reader had to do: separators, byte order mark, empty fields
  Digest digest;                        ///< of place, offset and hours: set by finishWeather()

  /// Every hour of the year is there once, in order.
  bool whole() const;
  /// Middle of hour i, in the row's own year; in `missingYear` where the row has none.
  Instant middle(std::size_t i, int missingYear = 2025) const;
  std::string name() const { return city.empty() ? "unnamed weather" : city; }
};

/// 0…8759: the place of an hour in a year of 365 days; nothing for 29 February and for dates and hours that are none.
std::optional<std::size_t> slotOf(const WeatherHour& hour);
/// Hours into the order of their slots; those that have none last. True where any moved.
bool sortHours(Weather& weather);

/// Computes the digest. Call after any change of hours or place.
void finishWeather(Weather& weather);

/// Index 0…8759 of the record that holds a standard-time moment of a 365-day year (29 February falls on the 28th).
std::size_t weatherHourIndex(CivilTime standard);

/// The sun for an hour of weather: the middle of the hour, or of the part with the sun up (science: weather years).
struct HourSun {
  bool up = false;
  SolarPosition position;
};
/// `missingYear`: of rows without a year, the project's.
std::vector<HourSun> hourSuns(const Weather& weather, int missingYear = 2025);

} // namespace noonward
