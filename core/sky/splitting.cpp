#include "core/sky/splitting.h"
#include "core/sky/weather_shift.h"
#include "core/sun/earth.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {
constexpr std::pair<SplitModel, const char*> splitModels[] = {{SplitModel::Erbs, "erbs"}, {SplitModel::Brl, "brl"}};

/// Of each hour: the share of it with the sun up, and what comes from outside the atmosphere, W/m² facing the sun.
struct Above {
  double share = 0, outside = 0;
};
std::vector<Above> above(const Weather& w, const std::vector<HourSun>& suns) {
  std::map<int, SunKnots> years; // months of a typical year come from several years
  std::vector<Above> out(w.hours.size());
  for (std::size_t i = 0; i < out.size(); ++i) {
    if (!suns[i].up) continue;
    const Instant begin = w.middle(i) + -1800;
    const int year = civil(begin, 0).date.year;
    auto knots = years.find(year);
    if (knots == years.end()) knots = years.emplace(year, SunKnots::ofYear(year)).first;
    const double distance = knots->second.at(begin + 1800).distance;
    out[i].outside = earth::solarConstant / (distance * distance);
    out[i].share = 1;
    if (std::abs(suns[i].position.altitude) < radians(9)) // as hourSuns() has it
      out[i].share = total(SunPath(knots->second, w.place, 0, begin, 3600).above(0)) / 3600;
  }
  return out;
}
} // namespace

const char* splitModelKey(SplitModel model) {
  for (const auto& [m, key] : splitModels)
    if (m == model) return key;
  return "";
}
std::optional<SplitModel> splitModelFromKey(std::string_view key) {
  for (const auto& [m, k] : splitModels)
    if (key == k) return m;
  return {};
}
const char* splitModelText(SplitModel model) {
  switch (model) {
  case SplitModel::Erbs:
    return "Erbs, Klein, Duffie (1982)";
  case SplitModel::Brl:
    return "Ridley, Boland, Lauret (2010)";
  }
  return "";
}

double cleanAirShare(double altitude) {
  const double h = std::max(0.0, degrees(altitude));
  const double m = 1 / (std::sin(radians(h)) + 0.50572 * std::pow(h + 6.07995, -1.6364));
  const double thickness =
      m < 20 ? 1 / (6.6296 + m * (1.7513 + m * (-0.1202 + m * (0.0065 - m * 0.00013)))) : 1 / (10.4 + 0.718 * m);
  return std::exp(-0.8662 * m * thickness);
}

double erbsDiffuseShare(double k) {
  if (k <= 0.22) return 1 - 0.09 * std::max(0.0, k);
  if (k > 0.8) return 0.165;
  return 0.9511 + k * (-0.1604 + k * (4.388 + k * (-16.638 + k * 12.336)));
}

double brlDiffuseShare(const BrlPredictors& p) {
  return 1 / (1 + std::exp(-5.38 + 6.63 * p.clearness + 0.006 * p.solarTime - 0.007 * degrees(p.altitude) +
                           1.75 * p.dayClearness + 1.31 * p.persistence));
}

SplitYear splitGlobal(const Weather& w, SplitModel model) {
  SplitYear out;
  const std::vector<HourSun> suns = hourSuns(w);
  const std::size_t n = w.hours.size();
  out.hours.resize(n);
  const std::vector<Above> sky = above(w, suns);
  std::vector<double> global(n, 0), beyond(n, 0),
      upright(n, 0); // W/m² of the hour; outside: horizontal, facing the sun
  for (std::size_t i = 0; i < n; ++i) {
    const WeatherHour& h = w.hours[i];
    SplitHour& s = out.hours[i];
    if (!suns[i].up) continue;
    const double g = h[WeatherField::GlobalHorizontal];
    if (!std::isfinite(g)) {
      ++out.unknown;
      continue;
    }
    s.up = true;
    s.altitude = suns[i].position.altitude;
    upright[i] = sky[i].outside * sky[i].share;
    beyond[i] = upright[i] * std::max(1e-3, std::sin(s.altitude));
    global[i] = std::max(0.0, g);
    s.clearness = std::clamp(global[i] / beyond[i], 0.0, 1.2);
  }
  // Whole days, by 24 records each: what the day had, and what it could have had.
  for (std::size_t day = 0; day < n; day += 24) {
    const std::size_t end = std::min(n, day + 24);
    double had = 0, could = 0;
    for (std::size_t i = day; i < end; ++i) {
      if (!out.hours[i].up) continue;
      had += global[i];
      could += beyond[i];
    }
    for (std::size_t i = day; i < end; ++i) {
      SplitHour& s = out.hours[i];
      if (!s.up) continue;
      const bool earlier = i > 0 && out.hours[i - 1].up, later = i + 1 < n && out.hours[i + 1].up;
      BrlPredictors p;
      p.clearness = s.clearness;
      p.altitude = s.altitude;
      p.solarTime = 12 + degrees(suns[i].position.hourAngle) / 15;
      p.dayClearness = could > 0 ? had / could : 0;
      p.persistence = earlier && later ? (out.hours[i - 1].clearness + out.hours[i + 1].clearness) / 2
                      : later          ? out.hours[i + 1].clearness
                      : earlier        ? out.hours[i - 1].clearness
                                       : s.clearness;
      s.diffuseShare = model == SplitModel::Erbs ? erbsDiffuseShare(s.clearness) : brlDiffuseShare(p);
      s.diffuse = std::clamp(s.diffuseShare, 0.0, 1.0) * global[i];
      s.beam = (global[i] - s.diffuse) / std::max(1e-3, std::sin(s.altitude));
      if (const double most = upright[i] * cleanAirShare(s.altitude); s.beam > most) {
        ++out.held;
        s.beam = most;
        s.diffuse = global[i] - s.beam * std::sin(s.altitude);
      }
    }
  }
  return out;
}

Weather withSplit(Weather w, SplitModel model, const SplitYear& split) {
  for (std::size_t i = 0; i < w.hours.size() && i < split.hours.size(); ++i) {
    const SplitHour& s = split.hours[i];
    w.hours[i][WeatherField::DirectNormal] = s.up ? s.beam : 0;
    w.hours[i][WeatherField::DiffuseHorizontal] = s.up ? s.diffuse : 0;
  }
  addComment(w, fmt::format("Beam and diffuse irradiance split from global by {}", splitModelText(model)));
  finishWeather(w);
  return w;
}

} // namespace noonward
