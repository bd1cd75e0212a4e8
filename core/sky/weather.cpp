#include "core/sky/weather.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <map>

namespace noonward {

const WeatherFieldFacts& facts(WeatherField field) {
  static const std::array<WeatherFieldFacts, weatherFieldCount> table{{
      {"dry bulb temperature", "°C", 99.9, "99.9"},
      {"dew point temperature", "°C", 99.9, "99.9"},
      {"relative humidity", "%", 999, "999"},
      {"atmospheric pressure", "Pa", 999999, "999999"},
      {"extraterrestrial horizontal irradiance", "Wh/m²", 9999, "9999"},
      {"extraterrestrial normal irradiance", "Wh/m²", 9999, "9999"},
      {"horizontal infrared irradiance", "Wh/m²", 9999, "9999"},
      {"global horizontal irradiance", "Wh/m²", 9999, "9999"},
      {"direct normal irradiance", "Wh/m²", 9999, "9999"},
      {"diffuse horizontal irradiance", "Wh/m²", 9999, "9999"},
      {"global horizontal illuminance", "lx", 999900, "999999"},
      {"direct normal illuminance", "lx", 999900, "999999"},
      {"diffuse horizontal illuminance", "lx", 999900, "999999"},
      {"zenith luminance", "cd/m²", 9999, "9999"},
      {"wind direction", "°", 999, "999"},
      {"wind speed", "m/s", 999, "999"},
      {"total sky cover", "tenths", 99, "99"},
      {"opaque sky cover", "tenths", 99, "99"},
      {"visibility", "km", 9999, "9999"},
      {"ceiling height", "m", 99999, "99999"},
      {"present weather observation", "", 9, "9"},
      {"present weather codes", "", 999999999, "999999999"},
      {"precipitable water", "mm", 999, "999"},
      {"aerosol optical depth", "thousandths", 999, "999"},
      {"snow depth", "cm", 999, "999"},
      {"days since last snow", "d", 99, "99"},
      {"albedo", "", 999, "999"},
      {"liquid precipitation depth", "mm", 999, "999"},
      {"liquid precipitation quantity", "h", 99, "99"},
  }};
  return table[std::size_t(field)];
}

std::optional<std::size_t> slotOf(const WeatherHour& h) {
  if ((h.month == 2 && h.day == 29) || !exists({2025, h.month, h.day}) || h.hour < 1 || h.hour > 24) return {};
  return std::size_t(dayOfYear({2025, h.month, h.day}) - 1) * 24 + std::size_t(h.hour - 1);
}

bool sortHours(Weather& w) {
  const auto before = [](const WeatherHour& a, const WeatherHour& b) {
    return slotOf(a).value_or(9999) < slotOf(b).value_or(9999);
  };
  if (std::is_sorted(w.hours.begin(), w.hours.end(), before)) return false;
  std::stable_sort(w.hours.begin(), w.hours.end(), before);
  return true;
}

bool Weather::whole() const {
  if (hours.size() != 8760) return false;
  for (std::size_t i = 0; i < hours.size(); ++i)
    if (slotOf(hours[i]) != i) return false;
  return true;
}

Instant Weather::middle(std::size_t i, int missingYear) const {
  const WeatherHour& h = hours[i];
  return utc({{h.year > 0 ? h.year : missingYear, h.month, h.day}, (h.hour - 0.5) * 3600}) + -utcOffset;
}

void finishWeather(Weather& weather) {
  Hasher hash;
  hash.add("weather 1").add(weather.place.latitude).add(weather.place.longitude).add(weather.place.elevation);
  hash.add(weather.utcOffset);
  for (const WeatherHour& h : weather.hours) {
    hash.add(h.year).add(h.month).add(h.day).add(h.hour).add(h.minute).add(h.flags);
    for (double v : h.values) hash.add(std::isnan(v) ? -1e300 : v);
  }
  weather.digest = hash.digest();
}

std::size_t weatherHourIndex(CivilTime t) {
  Date d = t.date;
  if (d.month == 2 && d.day == 29) d.day = 28;
  d.year = 2025; // any year of 365 days
  const auto hour = std::size_t(std::clamp(t.seconds / 3600, 0.0, 23.0));
  return std::size_t(dayOfYear(d) - 1) * 24 + hour;
}

std::vector<HourSun> hourSuns(const Weather& weather, int missingYear) {
  std::map<int, SunKnots> years; // months of a typical year come from several years
  std::vector<HourSun> out(weather.hours.size());
  for (std::size_t i = 0; i < out.size(); ++i) {
    const Instant begin = weather.middle(i, missingYear) + -1800;
    const int year = civil(begin, 0).date.year;
    auto knots = years.find(year);
    if (knots == years.end()) knots = years.emplace(year, SunKnots::ofYear(year)).first;
    const SolarPosition middle = solarPosition(knots->second.at(begin + 1800), weather.place);
    // Only hours near the horizon need the exact part with the sun up.
    if (std::abs(middle.altitude) > radians(9)) {
      out[i] = {middle.altitude > 0, middle};
      continue;
    }
    const Intervals up = SunPath(knots->second, weather.place, 0, begin, 3600).above(0);
    if (up.empty()) {
      out[i] = {false, middle};
      continue;
    }
    const double t = 0.5 * (up.front().begin + up.front().end);
    out[i] = {true, solarPosition(knots->second.at(begin + t), weather.place)};
  }
  return out;
}

} // namespace noonward
