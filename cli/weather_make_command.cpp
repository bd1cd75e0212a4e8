// A weather year from measured columns.

#include "cli/commands.h"
#include "cli/weather_command.h"
#include "core/files/epw.h"
#include "core/files/fetch.h"
#include "core/files/station/station_weather.h"
#include "core/sky/weather_check.h"
#include <cmath>
#include <memory>

namespace noonward::cli {

namespace {

struct MakeCall {
  std::vector<std::string> files, mends;
  std::string map, project, out, csv, split;
  int year = 0;
  bool json = false, look = false;
};

/// How each file is read, without making anything of it.
int lookAt(const MakeCall& c, const StationMap& map) {
  Json list = Json::array();
  for (const std::string& f : c.files) {
    const auto g = guessStation(f, map);
    if (!g) return complain(g.error().text(), 1);
    if (c.json) {
      list.push_back(Json{{"file", f},
                          {"table", g->table.text()},
                          {"first_row", g->table.firstRow},
                          {"stamps", g->form.text()},
                          {"map", stationMapJson(g->map)},
                          {"not_used", g->unused}});
      continue;
    }
    fmt::print("{}: {}; {}; a row every {:g} s, from line {} on\n", f, g->table.text(), g->form.text(), g->step,
               g->table.firstRow);
    for (const StationColumn& column : g->map.columns)
      fmt::print("  {:<28} {} in {}\n", column.column, facts(column.is).name, column.unit);
    for (const std::string& name : g->unused) fmt::print("  {:<28} not used\n", name);
  }
  if (c.json) fmt::print("{}\n", list.dump(2));
  return 0;
}

int make(const MakeCall& c) {
  StationMap map;
  if (!c.map.empty()) {
    const auto bytes = loadFile(c.map);
    if (!bytes) return complain(bytes.error().text(), 1);
    auto read = stationMapFromJson(*bytes, c.map);
    if (!read) return complain(read.error().text(), 2);
    map = std::move(*read);
    if (!map.otherYear.empty() && std::filesystem::path(map.otherYear).is_relative())
      map.otherYear = (std::filesystem::path(c.map).parent_path() / map.otherYear).string();
  }
  if (c.year > 0) map.year = c.year;
  if (!c.split.empty()) map.split = *splitModelFromKey(c.split);
  if (c.look) return lookAt(c, map);
  if (c.out.empty() && c.csv.empty() && !c.json)
    return complain("weather make: say where the year goes (--out YEAR.epw), or ask for --json or --look", 2);
  std::optional<StationSite> site;
  if (!c.project.empty()) {
    const auto loaded = openProject(c.project);
    if (!loaded) return complain(loaded.error().text(), 1);
    const Project& p = loaded->project;
    site = StationSite{p.site.place, p.site.name.empty() ? p.name : p.site.name, p.zone()};
  }
  RunControl control;
  control.progress = progressLine();
  const std::vector<std::filesystem::path> files(c.files.begin(), c.files.end());
  auto made = stationWeather(files, map, site ? &*site : nullptr, control);
  for (const std::string& mend : c.mends) {
    if (!made) break;
    if (mend != "slip" && mend != "station.slip") return complain("weather make: the mend is called slip", 2);
    if (!made->made.slip) return complain("weather make: no slip of the clock can be told from this", 1);
    map.slip += std::round(made->made.slip->minutes);
    made = stationWeather(files, map, site ? &*site : nullptr, control);
  }
  std::fputs("\r      \r", stderr);
  if (!made) return complain(made.error().text(), 1);
  const MadeWeather& m = made->made;
  if (!c.out.empty())
    if (const Outcome o = saveFile(c.out, epwText(m.weather)); !o) return complain(o.error().text(), 1);
  if (!c.csv.empty())
    if (const Outcome o = saveFile(c.csv, madeCsv(m)); !o) return complain(o.error().text(), 1);
  const Findings told = merged(made->findings);
  if (c.json) {
    Json hours{{"measured", m.hours[0]},
               {"interpolated", m.hours[2]},
               {"days_around", m.hours[3]},
               {"other_year", m.hours[4]},
               {"missing", m.hours[5]}};
    Json j{{"read", made->read.notes},
           {"map", stationMapJson(made->read.map)},
           {"rows", made->read.rows},
           {"rows_used", made->read.used},
           {"step_s", made->read.step},
           {"year", m.year},
           {"hours", hours},
           {"invented", m.invented()},
           {"findings", weatherFindings(told)}};
    if (m.slip)
      j["slip"] = Json{{"minutes", m.slip->minutes},
                       {"standard_error", m.slip->error},
                       {"by", m.slip->byClosure ? "closure" : "clear days"},
                       {"days", m.slip->days}};
    for (const RowFault& f : made->read.faults)
      j["faults"].push_back(Json{{"file", f.file}, {"row", f.line}, {"column", f.column}, {"text", f.text}});
    fmt::print("{}\n", j.dump(2));
  } else {
    for (const std::string& n : made->read.notes) fmt::print("{}\n", n);
    for (const StationColumn& column : made->read.columns)
      fmt::print("  {:<28} {} in {}\n", column.column, facts(column.is).name, column.unit);
    fmt::print("{}: {} of 8760 hours measured, {} invented, {} missing\n", m.year, m.hours[0], m.invented(),
               m.hours[5]);
    for (const Finding& f : told)
      fmt::print("{}: {}{}\n", rankText(f.rank), f.text,
                 f.mend == "station.slip" ? fmt::format(" [--mend slip: {}]", f.mendText) : "");
  }
  return 0;
}

struct FetchCall {
  std::string address, out, project;
  bool json = false;
};

int fetch(const FetchCall& c) {
  RunControl control;
  control.progress = progressLine();
  auto got = fetchWeather(c.address, control);
  std::fputs("\r      \r", stderr);
  if (!got) return complain(got.error().text(), 1);
  const Weather& w = got->weather;
  const WeatherCheck check = checkWeather(w);
  Findings findings = check.findings;
  std::optional<Project> project;
  if (!c.project.empty()) {
    auto loaded = openProject(c.project);
    if (!loaded) return complain(loaded.error().text(), 1);
    project = std::move(loaded->project);
    for (Finding& f : checkWeatherAgainst(w, {project->site.place, project->zone(), project->site.year}))
      findings.push_back(std::move(f));
  }
  if (c.json) {
    fmt::print("{}\n", Json{{"from", got->from},
                            {"name", got->name},
                            {"city", w.name()},
                            {"source", w.source},
                            {"latitude", degrees(w.place.latitude)},
                            {"longitude", degrees(w.place.longitude)},
                            {"hours", w.hours.size()},
                            {"findings", weatherFindings(findings)}}
                           .dump(2));
  } else {
    fmt::print("{}: {} ({}), {} hours, {:.4f}°, {:.4f}°, {:.0f} m, UTC{}\n", got->name, w.name(), w.source,
               w.hours.size(), degrees(w.place.latitude), degrees(w.place.longitude), w.place.elevation,
               offsetText(w.utcOffset));
    for (const Finding& f : findings) fmt::print("{}: {}\n", rankText(f.rank), f.text);
  }
  if (!c.out.empty())
    if (const Outcome o = saveFile(c.out, got->bytes); !o) return complain(o.error().text(), 1);
  if (project) {
    if (anyStops(check.findings))
      return complain("the project keeps its weather: what came can't be used as it is (mend it first)", 1);
    project->site.weather = std::make_shared<const Weather>(std::move(got->weather));
    project->site.weatherFile.clear();
    if (const Outcome o = saveProject(*project, c.project); !o) return complain(o.error().text(), 1);
  }
  return anyStops(check.findings) ? 1 : 0;
}

} // namespace

void addWeatherMake(CLI::App& weather, Session& session) {
  auto c = std::make_shared<MakeCall>();
  auto* m = weather.add_subcommand("make", "A weather year from measured columns of a station or logger");
  m->add_option("files", c->files, "CSV, TSV or XLSX, several are joined")->required()->check(CLI::ExistingFile);
  m->add_option("--map", c->map,
                "JSON file: clock, columns, units, splitting (docs/project-format.md); what it does not say is found");
  m->add_option("--project", c->project, "its place and zone, where the map says none");
  m->add_option("--out", c->out, "EPW file to write");
  m->add_option("--csv", c->csv, "the hours as CSV, with where each came from");
  m->add_option("--year", c->year, "of several in the files (the one with most of it)")->check(CLI::Range(1900, 2199));
  m->add_option("--split", c->split, "brl or erbs, where global alone was measured (brl)")
      ->check(CLI::IsMember({"brl", "erbs"}));
  m->add_option("--mend", c->mends, "slip: move the stamps by what the sun says");
  m->add_flag("--look", c->look, "only tell how the files are read");
  m->add_flag("--json", c->json, "as JSON");
  auto f = std::make_shared<FetchCall>();
  auto* get = weather.add_subcommand("fetch", "A weather file by its address: a file, a zip archive, http or https");
  get->add_option("address", f->address, "what is looked at, and taken where --out or --project say so")->required();
  get->add_option("--out", f->out, "keep it as this file");
  get->add_option("--project", f->project, "take it as the weather of this project");
  get->add_flag("--json", f->json, "as JSON");
  get->callback([f, &session] { session.exit = fetch(*f); });
  m->callback([c, &session] { session.exit = make(*c); });
}

} // namespace noonward::cli
