#include "core/sky/measured/quantity.h"
#include <algorithm>
#include <cctype>

namespace noonward {

namespace {
using F = WeatherField;
constexpr std::array<MeasuredFacts, measuredCount> quantities{{
    {"dry-bulb", "dry bulb temperature", F::DryBulb, -70, 60},
    {"dew-point", "dew point temperature", F::DewPoint, -80, 40},
    {"relative-humidity", "relative humidity", F::RelativeHumidity, 0, 105},
    {"pressure", "atmospheric pressure", F::Pressure, 45000, 110000},
    {"global", "global horizontal irradiance", F::GlobalHorizontal, -20, 2000},
    {"beam", "direct normal irradiance", F::DirectNormal, -20, 1500},
    {"diffuse", "diffuse horizontal irradiance", F::DiffuseHorizontal, -20, 1200},
    {"global-illuminance", "global horizontal illuminance", F::GlobalIlluminance, -500, 250000},
    {"diffuse-illuminance", "diffuse horizontal illuminance", F::DiffuseIlluminance, -500, 150000},
    {"wind-direction", "wind direction", F::WindDirection, 0, 360},
    {"wind-speed", "wind speed", F::WindSpeed, 0, 100},
    {"sky-cover", "total sky cover", F::TotalSkyCover, 0, 10},
    {"rain", "precipitation", F::LiquidPrecipitation, 0, 500},
    {"light", "illuminance at a sensor", {}, -1000, 300000},
    {"irradiance", "irradiance at a sensor", {}, -50, 2500},
}};

constexpr MeasuredUnit temperature[] = {{"°C"}, {"°F", 5.0 / 9, -160.0 / 9}, {"K", 1, -273.15}};
constexpr MeasuredUnit share[] = {{"%"}, {"0…1", 100}};
constexpr MeasuredUnit pressure[] = {{"Pa"}, {"hPa", 100}, {"mbar", 100}, {"kPa", 1000}};
constexpr MeasuredUnit irradiance[] = {{"W/m²"},
                                       {"kW/m²", 1000},
                                       {"Wh/m²", 3600, 0, true},
                                       {"kWh/m²", 3.6e6, 0, true},
                                       {"kJ/m²", 1000, 0, true},
                                       {"MJ/m²", 1e6, 0, true},
                                       {"J/cm²", 1e4, 0, true}};
constexpr MeasuredUnit illuminance[] = {{"lx"}, {"klx", 1000}, {"fc", 1 / (0.3048 * 0.3048)}};
constexpr MeasuredUnit speed[] = {{"m/s"}, {"km/h", 1 / 3.6}, {"mph", 0.44704}, {"kn", 1852.0 / 3600}};
constexpr MeasuredUnit direction[] = {{"°"}};
constexpr MeasuredUnit cover[] = {{"tenths"}, {"oktas", 1.25}, {"%", 0.1}, {"0…1", 10}};
constexpr MeasuredUnit rain[] = {{"mm", 3600, 0, true}, {"mm/h"}};

/// Letters and digits alone, small: "W/m²", "W m-2" and "w/m2" are one.
std::string bare(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const auto c = static_cast<unsigned char>(text[i]);
    if (c == 0xC2 && i + 1 < text.size()) { // ° and ², as UTF-8
      if (static_cast<unsigned char>(text[i + 1]) == 0xB2) out += '2';
      if (static_cast<unsigned char>(text[i + 1]) == 0xB0) out += "deg";
      ++i;
    } else if (std::isalnum(c) != 0 || c == '%') {
      out += char(std::tolower(c));
    }
  }
  return out;
}
} // namespace

const MeasuredFacts& facts(Measured q) {
  return quantities[std::size_t(q)];
}

std::optional<Measured> measuredFromKey(std::string_view key) {
  for (std::size_t k = 0; k < quantities.size(); ++k)
    if (key == quantities[k].key) return Measured(k);
  return {};
}

std::span<const MeasuredUnit> unitsOf(Measured q) {
  switch (q) {
  case Measured::DryBulb:
  case Measured::DewPoint:
    return temperature;
  case Measured::RelativeHumidity:
    return share;
  case Measured::Pressure:
    return pressure;
  case Measured::Global:
  case Measured::Beam:
  case Measured::Diffuse:
  case Measured::Radiant:
    return irradiance;
  case Measured::GlobalIlluminance:
  case Measured::DiffuseIlluminance:
  case Measured::Light:
    return illuminance;
  case Measured::WindDirection:
    return direction;
  case Measured::WindSpeed:
    return speed;
  case Measured::SkyCover:
    return cover;
  case Measured::Rain:
    return rain;
  }
  return {};
}

const MeasuredUnit* unitNamed(Measured q, std::string_view text) {
  const std::string asked = bare(text);
  // How people write them besides; the first of each is our name.
  constexpr std::pair<const char*, const char*> others[] = {{"c", "°C"},
                                                            {"celsius", "°C"},
                                                            {"f", "°F"},
                                                            {"fahrenheit", "°F"},
                                                            {"kelvin", "K"},
                                                            {"percent", "%"},
                                                            {"pct", "%"},
                                                            {"1", "0…1"},
                                                            {"share", "0…1"},
                                                            {"fraction", "0…1"},
                                                            {"mb", "mbar"},
                                                            {"millibar", "mbar"},
                                                            {"wm2", "W/m²"},
                                                            {"wqm", "W/m²"},
                                                            {"wattm2", "W/m²"},
                                                            {"whm2", "Wh/m²"},
                                                            {"lux", "lx"},
                                                            {"klux", "klx"},
                                                            {"kilolux", "klx"},
                                                            {"footcandle", "fc"},
                                                            {"footcandles", "fc"},
                                                            {"ms1", "m/s"},
                                                            {"mps", "m/s"},
                                                            {"kmh1", "km/h"},
                                                            {"kph", "km/h"},
                                                            {"kt", "kn"},
                                                            {"kts", "kn"},
                                                            {"knots", "kn"},
                                                            {"deg", "°"},
                                                            {"degrees", "°"},
                                                            {"octas", "oktas"},
                                                            {"okta", "oktas"},
                                                            {"tenth", "tenths"},
                                                            {"mjm2", "MJ/m²"},
                                                            {"kjm2", "kJ/m²"},
                                                            {"jcm2", "J/cm²"},
                                                            {"degreescelsius", "°C"},
                                                            {"degreesf", "°F"},
                                                            {"degreesc", "°C"},
                                                            {"rh", "%"},
                                                            {"degree", "°"}};
  for (const MeasuredUnit& u : unitsOf(q)) {
    if (text == u.name || (!asked.empty() && asked == bare(u.name))) return &u;
    for (const auto& [other, name] : others)
      if (asked == other && std::string_view(u.name) == name) return &u;
  }
  return nullptr;
}

} // namespace noonward
