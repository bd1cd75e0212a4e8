#include "core/files/station/stand_in_logger.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <random>

namespace noonward {

namespace {
/// Normal numbers that are the same on every machine.
class Noise {
public:
  explicit Noise(std::uint32_t seed) : random_(seed) {}
  double normal() {
    const double u = (random_() + 1.0) / 4294967297.0, v = random_() / 4294967296.0;
    return std::sqrt(-2 * std::log(u)) * std::cos(2 * pi * v);
  }
  double even() { return random_() / 4294967296.0; }

private:
  std::mt19937 random_;
};
} // namespace

Outcome standInLogger(const ModelledHours* light, const Weather& w, const LoggerWish& wish,
                      const std::function<bool(const std::string&)>& row) {
  if (!w.whole()) return fail("A logger's stand-in needs a whole weather year.", "weather");
  if (wish.sensors.empty() && !wish.weather) return fail("There is nothing to be written.");
  if (!(wish.step >= 1 && wish.step <= 3600)) return fail("A logger's step is 1 s to 1 h.", "step");
  Noise noise(wish.seed);
  const double offset = w.utcOffset;
  const SunKnots knots = SunKnots::ofYear(wish.year);
  // Within each hour: the sun's height in the middle of each step, its mean for the hour.
  const auto height = [&](Instant t) { return std::max(0.0, std::sin(solarPosition(knots.at(t), w.place).altitude)); };
  const Instant first = utc({{wish.year, 1, 1}, 0}) + -offset;
  std::vector<std::pair<double, double>> gaps; // s of the year
  for (int k = 0; k < wish.gaps; ++k) {
    const double from = 86400 * (wish.firstDay + noise.even() * (wish.lastDay - wish.firstDay + 1));
    gaps.emplace_back(from, from + 3600 * std::pow(72.0, noise.even()));
  }
  std::string head = "Time";
  if (wish.weather) head += ",Air temperature [°C],Relative humidity [%],Global [W/m²],Diffuse [W/m²]";
  for (std::size_t s : wish.sensors)
    head += "," + light->sensors.sensorName(s) + (light->radiant ? " [W/m²]" : " [lx]");
  if (!row(head)) return {};
  const bool leap = daysInMonth(wish.year, 2) == 29;
  const int parts = std::max(1, int(std::lround(3600 / wish.step)));
  const double each = 3600.0 / parts;
  for (std::size_t h = std::size_t(24 * wish.firstDay);
       h < std::min<std::size_t>(hoursOfYear, std::size_t(24 * (wish.lastDay + 1))); ++h) {
    const double begin = 3600.0 * double(h) + (leap && h >= 59 * 24 ? 86400 : 0); // 29 February has no row
    std::vector<double> heights;
    double mean = 0;
    for (int k = 0; k < parts; ++k) {
      heights.push_back(height(first + (begin + (k + 0.5) * each)));
      mean += heights.back() / parts;
    }
    for (int k = 0; k < parts; ++k) {
      const double end = begin + (k + 1) * each;
      const bool gone =
          std::any_of(gaps.begin(), gaps.end(), [&](const auto& g) { return end > g.first && end <= g.second; });
      const double shape = mean > 0 ? heights[std::size_t(k)] / mean : 1;
      const double years = (begin - 86400.0 * wish.firstDay) / (86400 * 365.25);
      const double gain = wish.gain * (1 + wish.drift / 100 * years);
      const CivilTime t = civil(first + (end + 60 * wish.slip), offset);
      std::string text = fmt::format("{} {:02d}:{:02d}:{:02d}", isoText(t.date), int(t.seconds) / 3600,
                                     int(t.seconds) / 60 % 60, int(t.seconds) % 60);
      if (wish.weather) {
        const WeatherHour &now = w.hours[h], &next = w.hours[std::min(h + 1, w.hours.size() - 1)],
                          &before = w.hours[h > 0 ? h - 1 : 0];
        const double at = (k + 0.5) / parts - 0.5; // of an hour from its middle
        const WeatherHour& other = at < 0 ? before : next;
        const auto straight = [&](WeatherField f) { return now[f] + std::abs(at) * (other[f] - now[f]); };
        text += fmt::format(",{:.2f},{:.1f},{:.1f},{:.1f}", straight(WeatherField::DryBulb) + 0.05 * noise.normal(),
                            straight(WeatherField::RelativeHumidity),
                            now[WeatherField::GlobalHorizontal] * shape * (1 + wish.noise / 400 * noise.normal()),
                            now[WeatherField::DiffuseHorizontal] * shape);
      }
      for (std::size_t s : wish.sensors) {
        const double truth = double(light->values[s * hoursOfYear + h]) * shape;
        text += fmt::format(",{:.1f}", std::max(0.0, truth * gain * (1 + wish.noise / 100 * noise.normal())));
      }
      if (!gone && !row(text)) return {};
    }
  }
  return {};
}

} // namespace noonward
