#include "core/sky/weather_check.h"
#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace noonward {

namespace {

using F = WeatherField;
constexpr std::array<F, 3> radiation{F::GlobalHorizontal, F::DirectNormal, F::DiffuseHorizontal};

bool leapDay(const WeatherHour& h) { return h.month == 2 && h.day == 29; }

/// 0…8759 for an hour of the 365-day year; nothing for dates that are none.
std::optional<std::size_t> slot(const WeatherHour& h) {
  if (leapDay(h) || !exists({2025, h.month, h.day}) || h.hour < 1 || h.hour > 24) return {};
  return std::size_t(dayOfYear({2025, h.month, h.day}) - 1) * 24 + std::size_t(h.hour - 1);
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

/// The night begins for this check where the sun stays under -1° the whole hour: twilight light is real.
bool night(const HourSun& sun, double altitudeBefore, double altitudeAfter) {
  const double limit = radians(-1);
  return !sun.up && sun.position.altitude < limit && altitudeBefore < limit && altitudeAfter < limit;
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

const char* plural(std::size_t n) { return n == 1 ? "" : "s"; }

} // namespace

std::string hourText(const Weather& weather, std::size_t i) {
  const WeatherHour& h = weather.hours[i];
  return fmt::format("{} {} {}:00 (row {})", h.day, monthName(h.month), h.hour, i + 9);
}

WeatherCheck checkWeather(const Weather& w) {
  WeatherCheck out;
  const std::size_t n = w.hours.size();
  std::vector<std::size_t> leap, strange, duplicate, missing, negative, dark, open;
  std::set<std::size_t> seen;
  for (std::size_t i = 0; i < n; ++i) {
    if (leapDay(w.hours[i])) {
      leap.push_back(i);
      continue;
    }
    const auto s = slot(w.hours[i]);
    if (!s)
      strange.push_back(i);
    else if (!seen.insert(*s).second)
      duplicate.push_back(i);
  }
  if (!strange.empty())
    put(out, Rank::StopsStudy, "weather.date",
        fmt::format("{} row{} with a date or hour that does not exist, first in row {}.", strange.size(),
                    plural(strange.size()), strange.front() + 9),
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
        fmt::format("{} of 8760 hours {} missing.", absent, absent == 1 ? "is" : "are"), {},
        absent > 2000 ? nullptr : "Fill from the same hour of the days around");

  if (strange.empty()) {
    const std::vector<HourSun> suns = hourSuns(w);
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
      const double before = i > 0 ? suns[i - 1].position.altitude : suns[i].position.altitude;
      const double after = i + 1 < n ? suns[i + 1].position.altitude : suns[i].position.altitude;
      if (lit && night(suns[i], before, after)) dark.push_back(i);
      if (suns[i].up && !closes(h, suns[i])) open.push_back(i);
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
  if (open.size() > 8)
    put(out, Rank::BendsResult, "weather.closure",
        fmt::format("In {} hours global radiation is not direct + diffuse, first {}.", open.size(),
                    hourText(w, open.front())),
        open, "Compute global from direct and diffuse");

  // The hemisphere: winter and summer half compared by light, which no climate turns round outside the tropics.
  if (std::abs(w.place.latitude) > radians(25) && w.whole()) {
    double june = 0, december = 0;
    for (const WeatherHour& h : w.hours) {
      const double v = std::isnan(h[F::GlobalHorizontal]) ? 0 : h[F::GlobalHorizontal];
      if (h.month >= 5 && h.month <= 7) june += v;
      if (h.month >= 11 || h.month == 1) december += v;
    }
    if (june + december > 0 && (june > december) != (w.place.latitude > 0))
      put(out, Rank::StopsStudy, "weather.hemisphere",
          "The bright half of this year belongs to the other hemisphere: the latitude in its header has the wrong sign.",
          {}, "Turn the sign of the latitude");
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
    out.push_back({Rank::StopsStudy, "weather.place",
                   fmt::format("The weather ({}) and the project ({}) lie in different hemispheres, {:.0f} km apart.",
                               where(w.place), where(site.place), km),
                   1, {}, "weather.place", "Take the place from the weather"});
  else if (km > 20)
    out.push_back({km > 200 ? Rank::BendsResult : Rank::WorthKnowing, "weather.place",
                   fmt::format("The weather was measured {:.0f} km from the project ({} against {}).", km,
                               where(w.place), where(site.place)),
                   1, {}, "weather.place", "Take the place from the weather"});
  const double standard = site.zone.standardOffset(site.year);
  if (std::abs(standard - w.utcOffset) > 60)
    out.push_back({Rank::BendsResult, "weather.offset",
                   fmt::format("The weather keeps UTC{}, the project's zone {} has UTC{} as standard time.",
                               offsetText(w.utcOffset), site.zone.name(), offsetText(standard)),
                   1, {}, "weather.offset", "Take the time zone from the weather"});
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
    if (const auto s = slot(h); s && !have[*s]) {
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
  } else if (code == "weather.negative" || code == "weather.night" || code == "weather.closure") {
    const std::vector<HourSun> suns = hourSuns(w);
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      if (!concerned[i]) continue;
      WeatherHour& h = w.hours[i];
      if (code == "weather.negative")
        for (F f : radiation) h[f] = h[f] < 0 ? 0 : h[f];
      else if (code == "weather.night")
        for (F f : radiation) h[f] = 0;
      else
        h[F::GlobalHorizontal] =
            h[F::DirectNormal] * std::sin(suns[i].position.altitude) + h[F::DiffuseHorizontal];
    }
  } else {
    return fail(fmt::format("There is no mend called \"{}\" for weather.", code));
  }
  w.headers[5] += fmt::format("; Noonward mended {} ({} hours)", code, count); // COMMENTS 2
  finishWeather(w);
  return w;
}

} // namespace noonward
