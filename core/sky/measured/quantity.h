#pragma once
// What stations and loggers measure, and the units they write it in. Everything inside is in the units of a weather
// file: °C, %, Pa, W/m² (the mean of an hour is its Wh/m²), lx, m/s, degrees, tenths, mm.

#include "core/sky/weather.h"
#include <span>
#include <string_view>

namespace noonward {

enum class Measured {
  DryBulb,
  DewPoint,
  RelativeHumidity,
  Pressure,
  Global,
  Beam, ///< facing the sun
  Diffuse,
  GlobalIlluminance,
  DiffuseIlluminance,
  WindDirection,
  WindSpeed,
  SkyCover,
  Rain,
  Light,   ///< lx at a sensor
  Radiant, ///< W/m² at a sensor
};
inline constexpr std::size_t measuredCount = 15;

struct MeasuredFacts {
  const char* key;  ///< of map files: "dry-bulb"
  const char* name; ///< "dry bulb temperature"
  std::optional<WeatherField> field;
  double low, high; ///< what an instrument at the ground can show, in the units above
};
const MeasuredFacts& facts(Measured quantity);
std::optional<Measured> measuredFromKey(std::string_view key);

/// value in our unit = written × factor + offset. Of sums (J, Wh, mm of an interval) the factor is for one second of
/// it: the value is divided by the interval's seconds.
struct MeasuredUnit {
  const char* name;
  double factor = 1, offset = 0;
  bool sum = false;
};
/// The first is the one everything inside is in.
std::span<const MeasuredUnit> unitsOf(Measured quantity);
/// "C", "degC", "°C", "W/m2", "W m-2", "kLux": whatever a header makes of a unit's name; null where it is none of
/// these.
const MeasuredUnit* unitNamed(Measured quantity, std::string_view text);

} // namespace noonward
