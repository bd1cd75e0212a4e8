#include "core/sky/measured/clock_slip.h"
#include "core/sun/earth.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace noonward {

namespace {
using F = WeatherField;

/// Suns of a file's years, quickly.
class Suns {
public:
  explicit Suns(const Place& place) : place_(place) {}
  SolarPosition at(Instant t) { return solarPosition(knots(t).at(t), place_); }
  double distance(Instant t) { return knots(t).at(t).distance; }

private:
  const SunKnots& knots(Instant t) {
    const int year = civil(t, 0).date.year;
    auto found = years_.find(year);
    if (found == years_.end()) found = years_.emplace(year, SunKnots::ofYear(year)).first;
    return found->second;
  }
  Place place_;
  std::map<int, SunKnots> years_;
};

double median(std::vector<double> v) {
  const auto middle = v.begin() + std::ptrdiff_t(v.size() / 2);
  std::nth_element(v.begin(), middle, v.end());
  return *middle;
}

/// Minutes after solar noon at which the middle of each clear day's light lies.
std::vector<double> middles(const Weather& w, Suns& suns) {
  struct Day {
    double clearness, minutes;
  };
  std::vector<Day> days;
  for (std::size_t first = 0; first + 24 <= w.hours.size(); first += 24) {
    double sum = 0, moment = 0, could = 0;
    bool whole = true;
    const double distance = suns.distance(w.middle(first + 12));
    for (std::size_t i = first; i < first + 24 && whole; ++i) {
      const double g = w.hours[i][F::GlobalHorizontal];
      const SolarPosition sun = suns.at(w.middle(i));
      could += std::max(0.0, std::sin(sun.altitude)) * earth::solarConstant / (distance * distance);
      if (!std::isfinite(g)) {
        whole = sun.altitude < radians(-1);
        continue;
      }
      const double hour = degrees(sun.hourAngle) / 15;
      sum += std::max(0.0, g);
      moment += std::max(0.0, g) * hour;
    }
    if (whole && sum > 0 && could > 500) days.push_back({sum / could, 60 * moment / sum});
  }
  std::sort(days.begin(), days.end(), [](const Day& a, const Day& b) { return a.clearness > b.clearness; });
  std::size_t clear = 0;
  while (clear < days.size() && days[clear].clearness > 0.55) ++clear;
  clear = std::min(days.size(), std::max<std::size_t>(clear, std::max<std::size_t>(10, days.size() / 6)));
  std::vector<double> out;
  for (std::size_t k = 0; k < clear; ++k) out.push_back(days[k].minutes);
  return out;
}

/// The mean square of what does not close with stamps moved by so many minutes.
double misclosure(const Weather& w, const std::vector<std::size_t>& hours, double minutes, Suns& suns) {
  double sum = 0;
  for (const std::size_t i : hours) {
    const WeatherHour& h = w.hours[i];
    const double s = std::max(0.0, std::sin(suns.at(w.middle(i) + 60 * minutes).altitude));
    const double off = h[F::GlobalHorizontal] - h[F::DiffuseHorizontal] - h[F::DirectNormal] * s;
    sum += off * off;
  }
  return hours.empty() ? 0 : sum / double(hours.size());
}

/// Where it is least, within two hours, by steps of 5 minutes and a parabola through the lowest three.
double leastAt(const Weather& w, const std::vector<std::size_t>& hours, Suns& suns) {
  constexpr int reach = 24;
  std::array<double, 2 * reach + 1> of{};
  for (int k = -reach; k <= reach; ++k) of[std::size_t(k + reach)] = misclosure(w, hours, 5.0 * k, suns);
  const auto at = std::size_t(std::min_element(of.begin() + 1, of.end() - 1) - of.begin());
  const double a = of[at - 1], b = of[at], c = of[at + 1], bend = a - 2 * b + c;
  return 5 * (double(at) - reach + (bend > 0 ? 0.5 * (a - c) / bend : 0));
}
} // namespace

std::optional<ClockSlip> clockSlip(const Weather& w, bool asMeasured) {
  Suns suns(w.place);
  ClockSlip out;
  if (asMeasured) {
    std::vector<std::size_t> hours;
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      const WeatherHour& h = w.hours[i];
      if (h[F::DirectNormal] > 100 && std::isfinite(h[F::GlobalHorizontal] + h[F::DiffuseHorizontal]) &&
          suns.at(w.middle(i)).altitude > radians(5))
        hours.push_back(i);
    }
    if (hours.size() >= 60) {
      out.byClosure = true;
      out.minutes = leastAt(w, hours, suns);
      out.days = hours.size() / 8;
      std::vector<double> parts; // every twelfth hour that tells it
      for (std::size_t part = 0; part < 12 && hours.size() >= 120; ++part) {
        std::vector<std::size_t> some;
        for (std::size_t k = part; k < hours.size(); k += 12) some.push_back(hours[k]);
        parts.push_back(leastAt(w, some, suns));
      }
      double square = 0;
      for (double p : parts) square += (p - out.minutes) * (p - out.minutes);
      out.error = parts.empty() ? 2 : std::sqrt(square / 11 / 12);
      return out;
    }
  }
  const std::vector<double> after = middles(w, suns);
  if (after.size() < 10) return {};
  const double middle = median(after);
  std::vector<double> off;
  for (double m : after) off.push_back(std::abs(m - middle));
  out.minutes = -middle;
  out.error = 1.25 * 1.4826 * median(off) / std::sqrt(double(after.size()));
  out.days = after.size();
  return out;
}

} // namespace noonward
