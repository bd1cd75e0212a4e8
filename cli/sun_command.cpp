#include "cli/commands.h"
#include "core/base/json.h"
#include "core/sun/sun_day.h"
#include <cstdio>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

struct SunCall {
  double latitude = 0, longitude = 0, elevation = 0, utcOffset = 0, step = 60;
  std::string zone, at, to;
  double pressure = -1, temperature = -1000, deltaT = -1;
  bool csv = false, json = false;
};

int run(const SunCall& c, bool offsetGiven) {
  if (c.zone.empty() && !offsetGiven) return complain("sun: give --utc-offset or --zone", 2);
  Zone zone = Zone::fixed(c.utcOffset * 3600);
  if (!c.zone.empty()) {
    const auto named = Zone::named(c.zone);
    if (!named) return complain(named.error().text(), 2);
    zone = *named;
  }
  const auto read = [&](const std::string& text) -> std::optional<Instant> {
    const auto s = stampFromText(text);
    if (!s) return {};
    return s->utcOffset ? utc(s->time) + -*s->utcOffset : zone.instant(s->time);
  };
  const auto first = read(c.at), last = c.to.empty() ? first : read(c.to);
  if (!first || !last) return complain("sun: times are written 2026-06-21T14:00:00", 2);
  if (*last < *first) return complain("sun: --to lies before --at", 2);
  if (!(c.step > 0) || (*last - *first) / (c.step * 60) > 2e6) return complain("sun: --step asks for too many rows", 2);

  const Place place{radians(c.latitude), radians(c.longitude), c.elevation};
  Air air = standardAir(c.elevation);
  if (c.pressure >= 0) air.pressure = c.pressure;
  if (c.temperature > -274) air.temperature = c.temperature;
  const std::optional<double> deltaT = c.deltaT >= 0 ? std::optional(c.deltaT) : std::nullopt;

  Json rows = Json::array();
  if (c.csv) fmt::print("time,azimuth_deg,altitude_deg,apparent_altitude_deg,equation_of_time_min\n");
  if (!c.csv && !c.json)
    fmt::print(
        "Refraction after Saemundsson (1986) for {:.1f} hPa and {:.1f} °C; equation of time: apparent minus mean.\n"
        "{:<26}{:>12}{:>12}{:>12}{:>12}\n",
        air.pressure, air.temperature, "time", "azimuth °", "altitude °", "apparent °", "eq. min");
  const auto count = std::size_t(std::floor((*last - *first) / (c.step * 60) + 1e-9));
  std::optional<SunKnots> knots;
  if (count > 400 && !deltaT) knots.emplace(*first, *last);
  for (std::size_t i = 0; i <= count; ++i) {
    const Instant t = *first + double(i) * c.step * 60;
    const SolarPosition p = solarPosition(knots ? knots->at(t) : sunOfDate(t, deltaT), place);
    const double altitude = degrees(p.altitude), apparent = degrees(p.altitude + refraction(p.altitude, air)),
                 equation = degrees(p.equationOfTime) * 4;
    const std::string time = isoText(t, zone.offset(t));
    if (c.csv)
      fmt::print("{},{:.6f},{:.6f},{:.6f},{:.5f}\n", time, degrees(p.azimuth), altitude, apparent, equation);
    else if (c.json)
      rows.push_back(Json{{"time", time},
                          {"azimuth_deg", degrees(p.azimuth)},
                          {"altitude_deg", altitude},
                          {"apparent_altitude_deg", apparent},
                          {"equation_of_time_min", equation}});
    else
      fmt::print("{:<26}{:>12.4f}{:>12.4f}{:>12.4f}{:>12.3f}\n", time, degrees(p.azimuth), altitude, apparent,
                 equation);
  }
  if (c.csv) return 0;

  Json days = Json::array();
  const Date from = zone.clock(*first).date, until = zone.clock(*last).date;
  const SunKnots around(*first + -2 * 86400.0, *last + 2 * 86400.0);
  for (Date d = from; d <= until; d = plusDays(d, 1)) {
    const SunDay day = sunDay(around, place, zone, d);
    const auto stamp = [&](Instant t) { return isoText(t, zone.offset(t)); };
    Json j{{"date", isoText(d)}, {"noon", stamp(day.noon)}, {"noon_altitude_deg", degrees(day.noonAltitude)}};
    j["kind"] = day.kind == DayKind::PolarDay     ? "polar day"
                : day.kind == DayKind::PolarNight ? "polar night"
                                                  : "ordinary";
    for (Instant t : day.sunrises) j["sunrise"].push_back(stamp(t));
    for (Instant t : day.sunsets) j["sunset"].push_back(stamp(t));
    if (c.json) {
      days.push_back(std::move(j));
      continue;
    }
    std::string text = isoText(d) + ": ";
    if (day.kind == DayKind::PolarDay) text += "the sun does not set; ";
    if (day.kind == DayKind::PolarNight) text += "the sun does not rise; ";
    for (Instant t : day.sunrises) text += "sunrise " + stamp(t) + ", ";
    text += fmt::format("noon {} at {:.2f}°", stamp(day.noon), degrees(day.noonAltitude));
    for (Instant t : day.sunsets) text += ", sunset " + stamp(t);
    fmt::print("{}\n", text);
  }
  if (c.json)
    fmt::print("{}\n", Json{{"pressure_hpa", air.pressure},
                            {"temperature_c", air.temperature},
                            {"refraction", "Saemundsson 1986, as Reda and Andreas 2008 eq. 42"},
                            {"equation_of_time", "apparent minus mean"},
                            {"positions", rows},
                            {"days", days}}
                           .dump(2));
  return 0;
}

} // namespace

void addSun(CLI::App& app, Session& session) {
  auto* s = app.add_subcommand("sun", "Where the sun stands; sunrise, noon and sunset");
  auto c = std::make_shared<SunCall>();
  s->add_option("--latitude", c->latitude, "degrees, north positive")->required()->check(CLI::Range(-90.0, 90.0));
  s->add_option("--longitude", c->longitude, "degrees, east positive")->required()->check(CLI::Range(-180.0, 180.0));
  s->add_option("--elevation", c->elevation, "metres");
  auto* offset = s->add_option("--utc-offset", c->utcOffset, "hours east of UTC")->check(CLI::Range(-15.0, 15.0));
  s->add_option("--zone", c->zone, "time zone instead of an offset, e.g. Europe/Copenhagen")->excludes(offset);
  s->add_option("--at", c->at, "2026-06-21T14:00:00")->required();
  s->add_option("--to", c->to, "last moment");
  s->add_option("--step", c->step, "minutes between rows (60)");
  s->add_option("--pressure", c->pressure, "hPa; standard atmosphere at the elevation if absent");
  s->add_option("--temperature", c->temperature, "°C; standard atmosphere at the elevation if absent");
  s->add_option("--delta-t", c->deltaT, "TT - UT in seconds; by formula if absent");
  auto* csv = s->add_flag("--csv", c->csv, "positions as CSV");
  s->add_flag("--json", c->json, "everything as JSON")->excludes(csv);
  s->callback([c, offset, &session] { session.exit = run(*c, offset->count() > 0); });
}

} // namespace noonward::cli
