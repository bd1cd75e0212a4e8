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

Expected<Weather> mixed(Weather year, const Weather& other, int from, int to) {
  if (!year.whole() || !other.whole()) return fail("Only whole years can be mixed: 8760 hours each.");
  if (const double km = distanceBetween(year.place, other.place) / 1000; km > 50)
    return fail(fmt::format("The two years are of places {:.0f} km apart.", km));
  if (std::abs(year.utcOffset - other.utcOffset) > 1) return fail("The two years keep different standard times.");
  const auto within = [&](int m) { return from <= to ? m >= from && m <= to : m >= from || m <= to; };
  for (std::size_t i = 0; i < year.hours.size(); ++i)
    if (within(year.hours[i].month)) year.hours[i] = other.hours[i];
  addComment(year, fmt::format("{} to {} from {} ({})", monthName(from), monthName(to), other.name(), other.source));
  finishWeather(year);
  return year;
}

Weather movedInTime(Weather w, int hours) {
  const std::vector<WeatherHour> given = w.hours;
  const auto n = std::ptrdiff_t(given.size());
  for (std::ptrdiff_t i = 0; i < n; ++i) {
    const WeatherHour& from = given[std::size_t(((i - hours) % n + n) % n)];
    w.hours[std::size_t(i)].values = from.values;
    w.hours[std::size_t(i)].flags = from.flags;
  }
  addComment(w, fmt::format("Every hour moved by {:+} h", hours));
  finishWeather(w);
  return w;
}

std::array<WeatherMonth, 13> monthsOf(const Weather& w) {
  std::array<WeatherMonth, 13> out{};
  std::array<double, 13> warm{}, known{};
  for (const WeatherHour& h : w.hours)
    for (const std::size_t m : {std::size_t(std::clamp(h.month, 1, 12) - 1), std::size_t(12)}) {
      const auto sum = [&](double& into, WeatherField f) {
        if (std::isfinite(h[f])) into += h[f] / 1000;
      };
      sum(out[m].global, WeatherField::GlobalHorizontal);
      sum(out[m].beam, WeatherField::DirectNormal);
      sum(out[m].diffuse, WeatherField::DiffuseHorizontal);
      if (std::isfinite(h[WeatherField::DryBulb])) {
        warm[m] += h[WeatherField::DryBulb];
        known[m] += 1;
      }
      ++out[m].hours;
    }
  for (std::size_t m = 0; m < 13; ++m) out[m].temperature = known[m] > 0 ? warm[m] / known[m] : std::nan("");
  return out;
}

} // namespace noonward
