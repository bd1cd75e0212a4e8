#include "core/sky/weather_shift.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
constexpr double magnusA = 17.62, magnusB = 243.12; // °C, over water
double dewPoint(double celsius, double humidity) {
  const double g = std::log(std::max(0.1, humidity) / 100) + magnusA * celsius / (magnusB + celsius);
  return magnusB * g / (magnusA - g);
}
std::string monthsText(const ByMonth& v, const char* format) {
  if (std::all_of(v.begin(), v.end(), [&](double x) { return x == v[0]; }))
    return fmt::format(fmt::runtime(format), v[0]);
  std::string out;
  for (double x : v) out += (out.empty() ? "" : " ") + fmt::format(fmt::runtime(format), x);
  return out + " from January on";
}
} // namespace

void addComment(Weather& w, std::string text) {
  std::replace(text.begin(), text.end(), ',', ';');
  std::string& line = w.headers[4];
  if (line.empty() || line.rfind("COMMENTS 1", 0) != 0) line = "COMMENTS 1,";
  if (line.back() != ',') line += line.back() == '.' ? " " : ". ";
  line += text;
}

ShiftedWeather shifted(Weather w, const WeatherShift& s) {
  ShiftedWeather out;
  ByMonth sum{}, count{};
  for (const WeatherHour& h : w.hours)
    if (h.month >= 1 && h.month <= 12 && std::isfinite(h[WeatherField::DryBulb])) {
      sum[std::size_t(h.month - 1)] += h[WeatherField::DryBulb];
      ++count[std::size_t(h.month - 1)];
    }
  for (WeatherHour& h : w.hours) {
    if (h.month < 1 || h.month > 12) continue;
    const auto m = std::size_t(h.month - 1);
    const double mean = count[m] > 0 ? sum[m] / count[m] : 0;
    double &air = h[WeatherField::DryBulb], &humidity = h[WeatherField::RelativeHumidity];
    const bool moist = s.humidity[m] != 0 && std::isfinite(humidity), warm = s.warmer[m] != 0 || s.stretch[m] != 1;
    if (warm) air = mean + s.warmer[m] + s.stretch[m] * (air - mean);
    if (moist) {
      const double wanted = humidity + s.humidity[m];
      humidity = std::clamp(wanted, 0.0, 100.0);
      out.bounded += humidity != wanted;
    }
    if ((warm || moist) && std::isfinite(air) && std::isfinite(humidity))
      h[WeatherField::DewPoint] = std::min(air, dewPoint(air, humidity));
    if (s.radiation[m] != 1)
      for (const WeatherField f :
           {WeatherField::GlobalHorizontal, WeatherField::DirectNormal, WeatherField::DiffuseHorizontal,
            WeatherField::GlobalIlluminance, WeatherField::DirectIlluminance, WeatherField::DiffuseIlluminance,
            WeatherField::ZenithLuminance})
        h[f] *= s.radiation[m];
    out.bright += h[WeatherField::DirectNormal] > h[WeatherField::ExtraterrestrialNormal] &&
                  h[WeatherField::ExtraterrestrialNormal] > 0;
    if (s.wind[m] != 1) h[WeatherField::WindSpeed] *= s.wind[m];
  }
  std::string told = "Shifted" + (s.name.empty() ? std::string() : " (" + s.name + ")") + ": ";
  std::string what;
  const auto say = [&](const ByMonth& v, double usual, const char* name, const char* format) {
    if (std::any_of(v.begin(), v.end(), [&](double x) { return x != usual; }))
      what += fmt::format("{}{} {}", what.empty() ? "" : "; ", name, monthsText(v, format));
  };
  say(s.warmer, 0, "air warmer by", "{:g} C");
  say(s.stretch, 1, "its differences from the month's mean times", "{:g}");
  say(s.humidity, 0, "relative humidity by", "{:+g} points");
  say(s.radiation, 1, "radiation times", "{:g}");
  say(s.wind, 1, "wind times", "{:g}");
  addComment(w, told + (what.empty() ? "nothing changed" : what));
  finishWeather(w);
  out.weather = std::move(w);
  return out;
}

} // namespace noonward
