#pragma once
// A weather year: 8760 hours in local standard time as an EPW file keeps them, all columns. Record h (1…24) is the hour
// ending at h:00; missing values are NaN. W/m², lux, °C, Pa, m/s in the units of the file format.

#include "core/base/hash.h"
#include "core/sun/solar_position.h"
#include <array>
#include <string>

namespace noonward {

/// The 29 numeric columns of an hour, in file order (columns 7 to 35).
enum class WeatherField {
  DryBulb, DewPoint, RelativeHumidity, Pressure, ExtraterrestrialHorizontal, ExtraterrestrialNormal, HorizontalInfrared,
  GlobalHorizontal, DirectNormal, DiffuseHorizontal, GlobalIlluminance, DirectIlluminance, DiffuseIlluminance,
  ZenithLuminance, WindDirection, WindSpeed, TotalSkyCover, OpaqueSkyCover, Visibility, CeilingHeight,
  PresentWeatherObservation, PresentWeatherCodes, PrecipitableWater, AerosolOpticalDepth, SnowDepth, DaysSinceSnow,
  Albedo, LiquidPrecipitation, LiquidPrecipitationHours
};
inline constexpr std::size_t weatherFieldCount = 29;

struct WeatherFieldFacts {
  const char* name;     ///< "direct normal irradiance"
  const char* unit;     ///< "W/m²"
  double missingFrom;   ///< a value at or above this is the file format's marker for "missing"
  const char* missing;  ///< the marker as written
};
const WeatherFieldFacts& facts(WeatherField field);

struct WeatherHour {
  int year = 0, month = 0, day = 0, hour = 0, minute = 0; ///< as in the file; hour 1…24
  std::string flags;                                      ///< column 6: data source and uncertainty
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

  bool whole() const { return hours.size() == 8760; }
  /// Middle of hour i, in the row's own year.
  Instant middle(std::size_t i) const;
  std::string name() const { return city.empty() ? "unnamed weather" : city; }
};

/// Computes the digest. Call after any change of hours or place.
void finishWeather(Weather& weather);

/// Index 0…8759 of the record that holds a standard-time moment of a 365-day year (29 February falls on the 28th).
std::size_t weatherHourIndex(CivilTime standard);

/// The sun for an hour of weather: the middle of the hour, or of the part with the sun up (science: weather years).
struct HourSun {
  bool up = false;
  SolarPosition position;
};
std::vector<HourSun> hourSuns(const Weather& weather);

} // namespace noonward
