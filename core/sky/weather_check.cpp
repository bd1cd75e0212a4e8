#include "core/sky/weather_check.h"
#include "core/sun/earth.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <optional>
#include <set>

namespace noonward {

namespace {

using F = WeatherField;
constexpr std::array<F, 3> radiation{F::GlobalHorizontal, F::DirectNormal, F::DiffuseHorizontal};

bool leapDay(const WeatherHour& h) {
  return h.month == 2 && h.day == 29;
}

/// Tolerance of GHI = DNI·sin(altitude) + DHI: 12 % and 25 W/m², wide where the sun is low, for a half-hour slip in
/// reading the clock shows there first and is no fault of the data.
bool closes(const WeatherHour& h, const HourSun& sun) {
  const double ghi = h[F::GlobalHorizontal], dni = h[F::DirectNormal], dhi = h[F::DiffuseHorizontal];
  if (std::isnan(ghi) || std::isnan(dni) || std::isnan(dhi)) return true;
  const double expected = dni * std::max(0.0, std::sin(sun.position.altitude)) + dhi;
  const double slip = dni * std::sin(radians(4.0)); // a quarter of an hour of sun's climb
  return std::abs(ghi - expected) <= 25 + 0.12 * expected + slip;
}

/// The night begins for this check where the sun stays under -1° the whole hour: twilight light is real. Hour by hour,
/// whatever the neighbours are.
std::vector<bool> nights(const Weather& w, const std::vector<HourSun>& suns) {
  const double limit = radians(-1);
  std::map<int, SunKnots> years;
  std::vector<bool> out(w.hours.size());
  for (std::size_t i = 0; i < out.size(); ++i) {
    if (suns[i].up || suns[i].position.altitude > limit) continue;
    const Instant middle = w.middle(i);
    const int year = civil(middle + -1800, 0).date.year;
    auto knots = years.find(year);
    if (knots == years.end()) knots = years.emplace(year, SunKnots::ofYear(year)).first;
    const auto altitude = [&](double s) { return solarPosition(knots->second.at(middle + s), w.place).altitude; };
    out[i] = altitude(-1800) < limit && altitude(1800) < limit;
  }
  return out;
}

/// What no sky gives: the physical limits used for quality control of measured radiation (Long and Dutton 2002), for
/// the hour's highest sun.
struct Caps {
  double ghi, dni, dhi;
};
Caps capsOf(const HourSun& sun, int day) {
  const double normal = earth::solarConstant * (1 + 0.034 * std::cos(2 * pi * (day - 3) / 365.0));
  const double height = std::max(0.0, std::sin(std::min(pi / 2, sun.position.altitude + radians(8)))),
               lifted = std::pow(height, 1.2);
  return {1.5 * normal * lifted + 100, normal, 0.95 * normal * lifted + 50};
}
bool above(const WeatherHour& h, const HourSun& sun) {
  const Caps caps = capsOf(sun, dayOfYear({2025, h.month, std::min(h.day, 28)}));
  return h[F::GlobalHorizontal] > caps.ghi || h[F::DirectNormal] > caps.dni || h[F::DiffuseHorizontal] > caps.dhi;
}

/// Which of the three is wrong where they don't close: the only one that the two others allow to be. Nothing where that
/// can't be told.
std::optional<F> wrongOf(const WeatherHour& h, const HourSun& sun) {
  const double s = std::sin(sun.position.altitude);
  if (s < 0.05) return {};
  const double ghi = h[F::GlobalHorizontal], dni = h[F::DirectNormal], dhi = h[F::DiffuseHorizontal];
  const Caps caps = capsOf(sun, dayOfYear({2025, h.month, std::min(h.day, 28)}));
  const double outside = earth::solarConstant * s;
  // Two numbers that could stand together: neither beyond what the clearest air gives (83 % of the outside; a beam of
  // 1361 exp(−0.22 m^0.7) W/m²), nor more diffuse than global.
  const double clearest = earth::solarConstant * std::exp(-0.22 * std::pow(1 / s, 0.7));
  const auto possible = [&](double global, double diffuse, double direct) {
    return global >= 0 && diffuse >= 0 && direct >= 0 && global <= 0.83 * outside + 20 &&
           diffuse <= std::min(caps.dhi, 1.02 * global + 10) && direct <= clearest;
  };
  std::optional<F> wrong;
  for (const auto& [field, holds] : {std::pair{F::GlobalHorizontal, possible(dni * s + dhi, dhi, dni)},
                                     {F::DirectNormal, possible(ghi, dhi, (ghi - dhi) / s)},
                                     {F::DiffuseHorizontal, possible(ghi, ghi - dni * s, dni)}}) {
    if (!holds) continue;
    if (wrong) return {}; // either could be it
    wrong = field;
  }
  return wrong;
}

/// Solar noon by the data: hours between the middle of the year's light on the round of the clock and 12:00. What
/// stands against it at night cancels out. Nothing where light is scarce.
std::optional<double> ownNoon(const Weather& w) {
  double x = 0, y = 0, all = 0;
  for (const WeatherHour& h : w.hours)
    if (h[F::GlobalHorizontal] > 0) {
      const double turn = 2 * pi * (h.hour - 0.5 - 12) / 24;
      x += h[F::GlobalHorizontal] * std::cos(turn), y += h[F::GlobalHorizontal] * std::sin(turn),
          all += h[F::GlobalHorizontal];
    }
  if (w.hours.size() < 6000 || all < 1e5 || std::hypot(x, y) < 0.3 * all) return {};
  return std::atan2(y, x) * 24 / (2 * pi);
}

void put(WeatherCheck& check, Rank rank, const char* code, std::string text, const std::vector<std::size_t>& rows,
         const char* mend) {
  Finding f;
  f.rank = rank;
  f.code = code;
  f.text = std::move(text);
  f.count = std::max<int>(1, int(rows.size()));
  if (mend) {
    f.mend = code;
    f.mendText = mend;
  }
  check.findings.push_back(std::move(f));
  for (std::size_t r : rows) check.rows.push_back({code, r});
}

const char* plural(std::size_t n) {
  return n == 1 ? "" : "s";
}

/// "21 Jun 5:00 to 22 Jun 8:00 (28 h), 3 Jul 1:00": stretches of hours that are not there.
std::string gapsText(const Weather& w, const std::set<std::size_t>& there) {
  const auto at = [](std::size_t slot) {
    const Date d = plusDays({2025, 1, 1}, int(slot / 24));
    return fmt::format("{} {} {}:00", d.day, monthName(d.month), slot % 24 + 1);
  };
  std::string out;
  std::size_t told = 0;
  for (std::size_t s = 0; s < 8760;) {
    if (there.contains(s)) {
      ++s;
      continue;
    }
    std::size_t end = s;
    while (end < 8760 && !there.contains(end)) ++end;
    if (told++ == 5) return out + ", and more";
    if (!out.empty()) out += ", ";
    out += end - s == 1 ? at(s) : fmt::format("{} to {} ({} h)", at(s), at(end - 1), end - s);
    for (std::size_t i = 0; i < w.hours.size() && s > 0; ++i) // the row it would follow
      if (slotOf(w.hours[i]) == s - 1 && w.hours[i].row > 0) {
        out += fmt::format(" after row {}", w.hours[i].row);
        break;
      }
    s = end;
  }
  return out;
}

} // namespace

std::string hourText(const Weather& weather, std::size_t i) {
  const WeatherHour& h = weather.hours[i];
  return fmt::format("{} {} {}:00 (row {})", h.day, monthName(h.month), h.hour, rowOf(weather, i));
}

std::size_t rowOf(const Weather& w, std::size_t i) {
  return w.hours[i].row > 0 ? w.hours[i].row : i + 9;
}

WeatherCheck checkWeather(const Weather& w) {
  WeatherCheck out;
  const std::size_t n = w.hours.size();
  std::vector<std::size_t> leap, strange, duplicate, missing, negative, dark, open, capped;
  std::set<std::size_t> seen;
  for (std::size_t i = 0; i < n; ++i) {
    if (leapDay(w.hours[i])) {
      leap.push_back(i);
      continue;
    }
    const auto s = slotOf(w.hours[i]);
    if (!s)
      strange.push_back(i);
    else if (!seen.insert(*s).second)
      duplicate.push_back(i);
  }
  if (!strange.empty())
    put(out, Rank::StopsStudy, "weather.date",
        fmt::format("{} row{} with a date or hour that does not exist, first in row {}.", strange.size(),
                    plural(strange.size()), rowOf(w, strange.front())),
        strange, "Drop these rows");
  if (!leap.empty())
    put(out, Rank::BendsResult, "weather.leap-day", "The file holds 29 February; a weather year has 365 days.", leap,
        "Drop 29 February");
  if (!duplicate.empty())
    put(out, Rank::BendsResult, "weather.duplicate",
        fmt::format("{} hour{} given twice, first {}.", duplicate.size(), plural(duplicate.size()),
                    hourText(w, duplicate.front())),
        duplicate, "Keep the first of each");
  const std::size_t absent = 8760 - seen.size();
  if (absent > 0)
    put(out, absent > 2000 ? Rank::StopsStudy : Rank::BendsResult, "weather.gap",
        fmt::format("{} of 8760 hours {} missing: {}.", absent, absent == 1 ? "is" : "are", gapsText(w, seen)), {},
        absent > 2000 ? nullptr : "Fill from the same hour of the days around");

  // Causes before symptoms: with a wrong sign of latitude or longitude every hour's sun is wrong, and what follows is
  // no fault of the data.
  bool wrongPlace = false;
  if (std::abs(w.place.latitude) > radians(25) && w.hours.size() > 6000) {
    double june = 0, december = 0; // no climate turns them round outside the tropics
    for (const WeatherHour& h : w.hours) {
      const double v = std::isnan(h[F::GlobalHorizontal]) ? 0 : h[F::GlobalHorizontal];
      if (h.month >= 5 && h.month <= 7) june += v;
      if (h.month >= 11 || h.month == 1) december += v;
    }
    if (june + december > 0 && std::abs(june - december) > 0.05 * (june + december) &&
        (june > december) != (w.place.latitude > 0)) {
      put(out, Rank::StopsStudy, "weather.hemisphere",
          "The bright half of this year belongs to the other hemisphere: the latitude in its header has the wrong "
          "sign.",
          {}, "Turn the sign of the latitude");
      wrongPlace = true;
    }
  }
  if (const auto noon = ownNoon(w)) {
    const auto off = [&](double longitude) {
      return *noon - (w.utcOffset / 3600 - degrees(longitude) / 15);
    }; // h, data against header
    if (std::abs(off(w.place.longitude)) > 1.25) {
      wrongPlace = true;
      const std::string told = fmt::format("By its own light noon falls at {} of the file's clock; by the longitude "
                                           "and time zone in its header it would be {}",
                                           clockText(60 * (12 + *noon)),
                                           clockText(60 * (12 + w.utcOffset / 3600 - degrees(w.place.longitude) / 15)));
      if (std::abs(off(-w.place.longitude)) < 0.75)
        put(out, Rank::StopsStudy, "weather.longitude", told + ": the longitude has the wrong sign.", {},
            "Turn the sign of the longitude");
      else
        put(out, Rank::StopsStudy, "weather.noon", told + ": longitude or time zone are wrong.", {}, nullptr);
    }
  }
  if (strange.empty()) {
    const std::vector<HourSun> suns = hourSuns(w);
    const std::vector<bool> night = nights(w, suns);
    for (std::size_t i = 0; i < n; ++i) {
      const WeatherHour& h = w.hours[i];
      bool lacks = false, below = false, lit = false;
      for (F f : radiation) {
        lacks |= std::isnan(h[f]);
        below |= h[f] < 0;
        lit |= h[f] > 2;
      }
      if (lacks) missing.push_back(i);
      if (below) negative.push_back(i);
      if (wrongPlace) continue;
      if (lit && night[i]) dark.push_back(i);
      if (!night[i] && above(h, suns[i]))
        capped.push_back(i);
      else if (suns[i].up && !closes(h, suns[i]))
        open.push_back(i);
    }
  }
  if (!missing.empty())
    put(out, missing.size() > 2000 ? Rank::StopsStudy : Rank::BendsResult, "weather.missing",
        fmt::format("{} hour{} without global, direct or diffuse radiation, first {}.", missing.size(),
                    plural(missing.size()), hourText(w, missing.front())),
        missing, missing.size() > 2000 ? nullptr : "Fill by closure, else from the days around");
  if (!negative.empty())
    put(out, Rank::BendsResult, "weather.negative",
        fmt::format("{} hour{} with radiation below zero, first {}.", negative.size(), plural(negative.size()),
                    hourText(w, negative.front())),
        negative, "Set them to zero");
  if (!dark.empty())
    put(out, Rank::BendsResult, "weather.night",
        fmt::format("{} hour{} with sunlight while the sun is below the horizon, first {}: wrong place, time zone or "
                    "hour shift.",
                    dark.size(), plural(dark.size()), hourText(w, dark.front())),
        dark, "Set radiation at night to zero");
  if (!capped.empty())
    put(out, Rank::BendsResult, "weather.cap",
        fmt::format("{} hour{} with more radiation than any sky gives, first {}.", capped.size(), plural(capped.size()),
                    hourText(w, capped.front())),
        capped, "Take what is too much as missing");
  if (open.size() > 8) {
    std::array<std::size_t, 4> by{}; // global, direct, diffuse, not to be told
    const std::vector<HourSun> suns = hourSuns(w);
    for (std::size_t i : open) {
      const auto wrong = wrongOf(w.hours[i], suns[i]);
      ++by[!wrong ? 3 : *wrong == F::GlobalHorizontal ? 0 : *wrong == F::DirectNormal ? 1 : 2];
    }
    put(out, Rank::BendsResult, "weather.closure",
        fmt::format("In {} hours global radiation is not direct + diffuse, first {}. Only one of the three can be "
                    "wrong in some: global in {}, direct in {}, diffuse in {}; in {} it can't be told.",
                    open.size(), hourText(w, open.front()), by[0], by[1], by[2], by[3]),
        open,
        by[0] + by[1] + by[2] > 0 ? "Compute the wrong one from the two others; leave what can't be told" : nullptr);
  }
  return out;
}

Findings checkWeatherAgainst(const Weather& w, const SiteForWeather& site) {
  Findings out;
  const double km = distanceBetween(w.place, site.place) / 1000;
  const auto where = [](const Place& p) {
    return fmt::format("{:.2f}° {}, {:.2f}° {}", std::abs(degrees(p.latitude)), p.latitude < 0 ? "S" : "N",
                       std::abs(degrees(p.longitude)), p.longitude < 0 ? "W" : "E");
  };
  if (w.place.latitude * site.place.latitude < 0 && km > 500)
    out.push_back({Rank::StopsStudy,
                   "weather.place",
                   fmt::format("The weather ({}) and the project ({}) lie in different hemispheres, {:.0f} km apart.",
                               where(w.place), where(site.place), km),
                   1,
                   {},
                   "weather.place",
                   "Take the place from the weather"});
  else if (km > 20)
    out.push_back({km > 200 ? Rank::BendsResult : Rank::WorthKnowing,
                   "weather.place",
                   fmt::format("The weather was measured {:.0f} km from the project ({} against {}).", km,
                               where(w.place), where(site.place)),
                   1,
                   {},
                   "weather.place",
                   "Take the place from the weather"});
  const double standard = site.zone.standardOffset(site.year);
  if (std::abs(standard - w.utcOffset) > 60)
    out.push_back({Rank::BendsResult,
                   "weather.offset",
                   fmt::format("The weather keeps UTC{}, the project's zone {} has UTC{} as standard time.",
                               offsetText(w.utcOffset), site.zone.name(), offsetText(standard)),
                   1,
                   {},
                   "weather.offset",
                   "Take the time zone from the weather"});
  return out;
}

namespace {

/// The value of the nearest days before and after at the same hour, averaged; up to 14 days away.
double fromDaysAround(const std::vector<WeatherHour>& year, std::size_t slot, F field) {
  for (std::size_t d = 1; d <= 14; ++d) {
    const double a = year[(slot + 8760 - 24 * d) % 8760][field], b = year[(slot + 24 * d) % 8760][field];
    if (!std::isnan(a) && !std::isnan(b)) return 0.5 * (a + b);
    if (!std::isnan(a)) return a;
    if (!std::isnan(b)) return b;
  }
  return std::nan("");
}

void fillGaps(Weather& w) {
  std::vector<WeatherHour> year(8760);
  std::vector<bool> have(8760, false);
  for (WeatherHour& h : year) h.values.fill(std::nan(""));
  for (const WeatherHour& h : w.hours)
    if (const auto s = slotOf(h); s && !have[*s]) {
      year[*s] = h;
      have[*s] = true;
    }
  const std::vector<WeatherHour> given = year;
  for (std::size_t s = 0; s < 8760; ++s) {
    if (have[s]) continue;
    const Date d = plusDays({2025, 1, 1}, int(s / 24));
    WeatherHour& h = year[s];
    h.month = d.month;
    h.day = d.day;
    h.hour = int(s % 24) + 1;
    h.minute = 60;
    h.year = 0;
    for (const WeatherHour& other : w.hours)
      if (other.month == d.month) {
        h.year = other.year;
        h.flags = other.flags;
        break;
      }
    if (h.year == 0) h.year = w.hours.empty() ? 2025 : w.hours.front().year;
    for (std::size_t f = 0; f < weatherFieldCount; ++f) h.values[f] = fromDaysAround(given, s, F(f));
  }
  w.hours = std::move(year);
}

void fillMissing(Weather& w) {
  const std::vector<HourSun> suns = hourSuns(w);
  for (std::size_t i = 0; i < w.hours.size(); ++i) {
    WeatherHour& h = w.hours[i];
    double &ghi = h[F::GlobalHorizontal], &dni = h[F::DirectNormal], &dhi = h[F::DiffuseHorizontal];
    const int unknown = std::isnan(ghi) + std::isnan(dni) + std::isnan(dhi);
    if (unknown == 0) continue;
    const double s = std::sin(suns[i].position.altitude);
    if (!suns[i].up) {
      for (F f : radiation)
        if (std::isnan(h[f])) h[f] = 0;
    } else if (unknown == 1 && (s > 0.05 || !std::isnan(dni))) {
      if (std::isnan(ghi)) ghi = dni * s + dhi;
      if (std::isnan(dni)) dni = std::max(0.0, (ghi - dhi) / s);
      if (std::isnan(dhi)) dhi = std::max(0.0, ghi - dni * s);
    } else if (w.whole()) {
      for (F f : radiation)
        if (std::isnan(h[f])) h[f] = fromDaysAround(w.hours, i, f);
    }
  }
}

} // namespace

Expected<Weather> mendWeather(const Weather& weather, std::string_view code) {
  const WeatherCheck check = checkWeather(weather);
  Weather w = weather;
  std::size_t changed = 0; ///< of the hours concerned, where not all are
  std::vector<bool> concerned(w.hours.size(), false);
  std::size_t count = 0;
  for (const auto& r : check.rows)
    if (r.code == code) {
      concerned[r.hour] = true;
      ++count;
    }
  const auto drop = [&] {
    std::size_t i = 0;
    std::erase_if(w.hours, [&](const WeatherHour&) { return concerned[i++]; });
  };
  if (code == "weather.date" || code == "weather.leap-day" || code == "weather.duplicate") {
    drop();
  } else if (code == "weather.gap") {
    fillGaps(w);
    count = w.hours.size() - std::min(w.hours.size(), weather.hours.size());
  } else if (code == "weather.missing") {
    fillMissing(w);
  } else if (code == "weather.hemisphere") {
    w.place.latitude = -w.place.latitude;
  } else if (code == "weather.longitude") {
    w.place.longitude = -w.place.longitude;
  } else if (code == "weather.cap") {
    const std::vector<HourSun> suns = hourSuns(w);
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      if (!concerned[i]) continue;
      const Caps caps = capsOf(suns[i], dayOfYear({2025, w.hours[i].month, std::min(w.hours[i].day, 28)}));
      for (const auto& [f, most] :
           {std::pair{F::GlobalHorizontal, caps.ghi}, {F::DirectNormal, caps.dni}, {F::DiffuseHorizontal, caps.dhi}})
        if (w.hours[i][f] > most) w.hours[i][f] = std::nan("");
    }
  } else if (code == "weather.negative" || code == "weather.night" || code == "weather.closure") {
    const std::vector<HourSun> suns = hourSuns(w);
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      if (!concerned[i]) continue;
      WeatherHour& h = w.hours[i];
      if (code == "weather.negative")
        for (F f : radiation) h[f] = h[f] < 0 ? 0 : h[f];
      else if (code == "weather.night")
        for (F f : radiation) h[f] = 0;
      else if (const auto wrong = wrongOf(h, suns[i])) {
        const double s = std::sin(suns[i].position.altitude), ghi = h[F::GlobalHorizontal], dni = h[F::DirectNormal],
                     dhi = h[F::DiffuseHorizontal];
        h[*wrong] = *wrong == F::GlobalHorizontal ? dni * s + dhi
                    : *wrong == F::DirectNormal   ? (ghi - dhi) / s
                                                  : ghi - dni * s;
        ++changed;
      }
    }
  } else {
    return fail(fmt::format("There is no mend called \"{}\" for weather.", code));
  }
  if (code == "weather.closure") count = changed;
  w.headers[5] += fmt::format("; Noonward mended {} ({} hours)", code, count); // COMMENTS 2
  finishWeather(w);
  return w;
}

} // namespace noonward
