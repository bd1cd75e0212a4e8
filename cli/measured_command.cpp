// Computed light beside measured light, and the stand-in for what measures.

#include "cli/measured_command.h"
#include "cli/commands.h"
#include "cli/weather_command.h"
#include "core/files/station/guideline.h"
#include "core/files/station/stand_in_logger.h"
#include "core/runs/measuring.h"
#include <chrono>
#include <cmath>
#include <fstream>
#include <memory>
#include <thread>

namespace noonward::cli {

Json agreementJson(const Agreement& a) {
  const auto figure = [](double v) { return std::isfinite(v) ? Json(v) : Json(); };
  return Json{{"n", a.n},
              {"mbe", figure(a.mbe)},
              {"nmbe", figure(a.nmbe)},
              {"rmse", figure(a.rmse)},
              {"cv_rmse", figure(a.cvRmse)},
              {"r2", figure(a.r2)},
              {"slope", figure(a.slope)},
              {"left_out", a.leftOut}};
}

std::string agreementText(const Agreement& a) {
  return fmt::format("n {}, left out {}\nMBE {:.6g} ({:.1f} %), RMSE {:.6g} ({:.1f} %), R² {:.6g}, slope {:.6g}\n", a.n,
                     a.leftOut, a.mbe, 100 * a.nmbe, a.rmse, 100 * a.cvRmse, a.r2, a.slope);
}

namespace {

struct MeasuredCall {
  std::string project, option, study, map, from, to, csv, guideline, kept, keep;
  std::vector<std::string> files;
  std::vector<double> hours, altitude;
  int year = 0, threads = 0;
  bool json = false, night = false, reflectances = false;
};

std::optional<int> dayOfWish(const std::string& text) {
  auto date = dateFromText(text);
  if (!date) date = dateFromText(text + " 2025"); // "21 Jun"
  if (!date || (date->month == 2 && date->day == 29)) return {};
  return dayOfYear({2025, date->month, date->day}) - 1;
}

const char* kindKey(Suggestion::Kind kind) {
  switch (kind) {
  case Suggestion::Kind::Slip:
    return "slip";
  case Suggestion::Kind::Gain:
    return "gain";
  case Suggestion::Kind::Drift:
    return "drift";
  case Suggestion::Kind::SlipAndDrift:
    return "slip-and-drift";
  case Suggestion::Kind::Reflectance:
    return "reflectance";
  }
  return "";
}

Json suggestionJson(const Suggestion& s) {
  Json j{{"what", kindKey(s.kind)}, {"text", s.text}, {"more_than_noise", s.counts}};
  if (s.kind == Suggestion::Kind::Slip || s.kind == Suggestion::Kind::SlipAndDrift) {
    j["slip_min"] = s.slip;
    if (s.slipError > 0) j["slip_standard_error_min"] = s.slipError;
  }
  if (s.kind != Suggestion::Kind::Slip && s.kind != Suggestion::Kind::Reflectance) {
    j["gain"] = s.gain;
    j["gain_standard_error"] = s.gainError;
  }
  if (s.kind == Suggestion::Kind::Drift || s.kind == Suggestion::Kind::SlipAndDrift) {
    j["drift_percent_a_year"] = 100 * s.drift;
    j["drift_standard_error"] = 100 * s.driftError;
  }
  if (s.kind == Suggestion::Kind::Reflectance) {
    j["reflectances_times"] = s.reflectance;
    j["standard_error"] = s.reflectanceError;
  }
  j["reached"] = agreementJson(s.reached);
  return j;
}

/// By key among those that ship, or a file.
Expected<AgreementGuideline> guidelineNamed(const Session& session, const std::string& name) {
  std::string known;
  for (AgreementGuideline& g : readGuidelines(resourcesFolder(session.program) / "guidelines")) {
    if (g.key == name) return std::move(g);
    known += (known.empty() ? "" : ", ") + g.key;
  }
  const auto bytes = loadFile(name);
  if (!bytes) return fail(fmt::format("There is no guideline \"{}\": a file, or one of {}.", name, known));
  return guidelineFromJson(*bytes, name);
}

int measured(const MeasuredCall& c, const Session& session) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  MeasuringWish wish;
  std::string against = c.study, judgedBy = c.guideline;
  if (!c.kept.empty()) {
    if (!c.files.empty()) return complain("measured: files, or --kept with a series of the project", 2);
    const auto& all = loaded->project.measured;
    const auto at = std::find_if(all.begin(), all.end(), [&](const MeasuredSeries& s) { return s.name == c.kept; });
    if (at == all.end()) return complain(fmt::format("measured: the project keeps no series \"{}\"", c.kept), 2);
    auto asked = wishOf(*at);
    if (!asked) return complain(asked.error().text(), 1);
    wish = std::move(*asked);
    if (against.empty()) against = at->study;
    if (judgedBy.empty()) judgedBy = at->guideline;
  } else if (c.files.empty()) {
    return complain("measured: name a logger's file, or --kept with a series of the project", 2);
  } else {
    wish.files.assign(c.files.begin(), c.files.end());
  }
  std::optional<AgreementGuideline> guideline;
  if (!judgedBy.empty()) {
    auto read = guidelineNamed(session, judgedBy);
    if (!read) return complain(read.error().text(), 2);
    guideline = std::move(*read);
  }
  const auto study = studyForMeasuring(loaded->project, against);
  if (!study) return complain(study.error().text(), 2);
  if (!c.map.empty()) {
    const auto bytes = loadFile(c.map);
    if (!bytes) return complain(bytes.error().text(), 1);
    auto map = stationMapFromJson(*bytes, c.map);
    if (!map) return complain(map.error().text(), 2);
    wish.map = std::move(*map);
  }
  for (const auto& [text, to] : {std::pair{&c.from, &wish.stretch.firstDay}, {&c.to, &wish.stretch.lastDay}}) {
    if (text->empty()) continue;
    const auto day = dayOfWish(*text);
    if (!day) return complain("measured: \"" + *text + "\" is no date such as 21 Jun", 2);
    *to = *day;
  }
  if (c.hours.size() == 2) {
    wish.stretch.firstHour = c.hours[0];
    wish.stretch.lastHour = c.hours[1];
  }
  wish.stretch.night |= c.night;
  if (c.altitude.size() == 2) {
    wish.stretch.leastAltitude = radians(c.altitude[0]);
    wish.stretch.mostAltitude = radians(c.altitude[1]);
  }
  if (c.year > 0) wish.year = c.year;
  wish.reflectances = c.reflectances;
  RunControl control;
  control.progress = progressLine();
  const auto m = measureAgainst(loaded->project, *study, wish, control, Threads{c.threads});
  std::fputs("\r      \r", stderr);
  if (!m) return complain(m.error().text(), 1);
  if (!c.csv.empty())
    if (const Outcome o = saveFile(c.csv, measuringCsv(*m)); !o) return complain(o.error().text(), 1);
  if (!c.keep.empty()) {
    const auto plain = openProject(c.project); // with its own option in hand
    if (!plain) return complain(plain.error().text(), 1);
    Project kept = withSeries(plain->project, seriesOf(wish, c.keep, study->id, guideline ? guideline->key : ""));
    if (const Outcome o = saveProject(kept, c.project); !o) return complain(o.error().text(), 1);
  }
  const Comparison& all = m->comparison;
  // Sensor hours of the stretch without a pair; night and what lies outside it are told apart.
  Agreement hours = all.hours;
  hours.leftOut = all.leftOut.notMeasured + all.leftOut.noWeather;
  const auto verdict = guideline ? std::optional(judgeAgreement(all, *guideline)) : std::nullopt;
  const int code = verdict && !verdict->meets ? 1 : 0; // a rule not met
  if (c.json) {
    Json j = agreementJson(hours);
    j["unit"] = m->unit;
    j["study"] = study->name;
    j["key"] = m->key.hex();
    j["year"] = all.year;
    j["left_out_because"] = Json{{"not_measured", all.leftOut.notMeasured},
                                 {"no_weather", all.leftOut.noWeather},
                                 {"sun_down", all.leftOut.night},
                                 {"outside_stretch", all.leftOut.outside}};
    j["days"] = agreementJson(all.days);
    j["months"] = agreementJson(all.months);
    for (const ComparedSensor& s : all.sensors) {
      Json one = agreementJson(s.hours);
      one["sensor"] = s.sensor;
      one["column"] = s.column;
      one.erase("left_out");
      j["sensors"].push_back(std::move(one));
    }
    for (const SunBin& b : all.bySun) {
      Json one = agreementJson(b.agreement);
      one.erase("left_out");
      one["altitude_deg"] = Json::array({std::lround(degrees(b.from)), std::lround(degrees(b.from)) + 10});
      j["by_sun"].push_back(std::move(one));
    }
    for (const Suggestion& s : all.suggestions) j["suggestions"].push_back(suggestionJson(s));
    j["map"] = stationMapJson(m->map);
    j["findings"] = weatherFindings(m->findings);
    if (verdict) j["guideline"] = Json{{"name", guideline->name}, {"meets", verdict->meets}, {"text", verdict->text}};
    fmt::print("{}\n", j.dump());
    return code;
  }
  for (const std::string& n : m->notes) fmt::print("{}\n", n);
  printFindings(m->findings);
  fmt::print("{} against {}, {}, {}\n{}", wish.files.front().string(), study->name, all.year, m->unit,
             agreementText(hours));
  fmt::print("left out: {} not measured, {} without weather, {} with the sun down, {} outside the stretch\n",
             all.leftOut.notMeasured, all.leftOut.noWeather, all.leftOut.night, all.leftOut.outside);
  fmt::print("by day: CV(RMSE) {:.1f} %, R² {:.3f}; by month: CV(RMSE) {:.1f} %\n\n", 100 * all.days.cvRmse,
             all.days.r2, 100 * all.months.cvRmse);
  fmt::print("{:<28}{:>8}{:>12}{:>12}{:>10}{:>10}{:>8}\n", "sensor", "n", "measured", "computed", "NMBE %", "CV %",
             "R²");
  for (const ComparedSensor& s : all.sensors)
    fmt::print("{:<28}{:>8}{:>12.1f}{:>12.1f}{:>10.1f}{:>10.1f}{:>8.3f}\n", s.sensor, s.hours.n, s.hours.meanObserved,
               s.hours.meanModelled, 100 * s.hours.nmbe, 100 * s.hours.cvRmse, s.hours.r2);
  fmt::print("\n{:<28}{:>8}{:>34}{:>10}\n", "sun's altitude", "n", "NMBE %", "CV %");
  for (const SunBin& b : all.bySun)
    fmt::print("{:<28}{:>8}{:>34.1f}{:>10.1f}\n",
               fmt::format("{:.0f}° to {:.0f}°", degrees(b.from), degrees(b.from) + 10), b.agreement.n,
               100 * b.agreement.nmbe, 100 * b.agreement.cvRmse);
  fmt::print("\nWhat would bring them nearer (nothing is applied):\n");
  for (const Suggestion& s : all.suggestions) fmt::print("{} {}\n", s.counts ? "·" : " ", s.text);
  if (verdict) fmt::print("\n{}\n{}\n", verdict->text, guideline->source);
  return code;
}

struct LoggerCall {
  std::string project, option, study, out, from, to;
  std::vector<std::string> sensors;
  LoggerWish wish;
  double live = 0;
  int threads = 0;
  bool noWeather = false, irradiance = false;
};

int logger(const LoggerCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  if (!p.site.weather) return complain("stand-in logger: the project has no weather", 1);
  LoggerWish wish = c.wish;
  wish.weather = !c.noWeather;
  for (const auto& [text, to] : {std::pair{&c.from, &wish.firstDay}, {&c.to, &wish.lastDay}}) {
    if (text->empty()) continue;
    const auto day = dayOfWish(*text);
    if (!day) return complain("stand-in logger: \"" + *text + "\" is no date such as 21 Jun", 2);
    *to = *day;
  }
  if (wish.firstDay > wish.lastDay) return complain("stand-in logger: --to lies before --from", 2);
  std::optional<ModelledHours> light;
  if (!c.sensors.empty()) {
    const auto study = studyForMeasuring(p, c.study);
    if (!study) return complain(study.error().text(), 2);
    const auto all = layOutSensors(p, groupsTaken(p, study->groups));
    if (!all) return complain(all.error().text(), 1);
    std::vector<std::pair<std::string, std::size_t>> names;
    for (std::size_t k = 0; k < c.sensors.size(); ++k) names.emplace_back(c.sensors[k], k);
    std::vector<std::string> lost;
    std::vector<GroupId> groups;
    for (const MeasuredAt& m : matchSensors(names, *all, lost))
      if (const GroupId g = all->groups[all->sensors[m.sensor].group].id;
          std::find(groups.begin(), groups.end(), g) == groups.end())
        groups.push_back(g);
    if (!lost.empty())
      return complain(fmt::format("stand-in logger: no sensor is called {}", fmt::join(lost, ", ")), 2);
    RunControl control;
    control.progress = progressLine();
    auto computed = modelledHours(p, groups, study->year, c.irradiance, control, Threads{c.threads});
    std::fputs("\r      \r", stderr);
    if (!computed) return complain(computed.error().text(), 1);
    light = std::move(*computed);
    for (const MeasuredAt& m : matchSensors(names, light->sensors, lost)) wish.sensors.push_back(m.sensor);
  }
  std::ofstream out(c.out, std::ios::binary | std::ios::trunc);
  if (!out) return complain(c.out + ": can't be written");
  std::size_t rows = 0;
  const Outcome done = standInLogger(light ? &*light : nullptr, *p.site.weather, wish, [&](const std::string& row) {
    out << row << "\n";
    if (c.live > 0) { // a row at a time, as a logger does
      out.flush();
      std::this_thread::sleep_for(std::chrono::duration<double>(wish.step / c.live));
    }
    ++rows;
    return bool(out);
  });
  if (!done) return complain(done.error().text(), 1);
  out.close();
  if (!out) return complain(c.out + ": not all of it could be written; is the disc full?");
  fmt::print("{} rows\n", rows > 0 ? rows - 1 : 0);
  return 0;
}

} // namespace

void addMeasured(CLI::App& app, Session& session) {
  auto c = std::make_shared<MeasuredCall>();
  auto* m =
      app.add_subcommand("measured", "Computed light beside measured light: how far they agree, and what parts them");
  m->add_option("project", c->project, "project file")->required();
  m->add_option("files", c->files, "CSV, TSV or XLSX of a logger, columns called as sensors")->check(CLI::ExistingFile);
  m->add_option("--kept", c->kept, "in place of files: a series that the project keeps");
  m->add_option("--keep", c->keep, "the project keeps what is asked, under this name; the record tells it");
  m->add_option("--study", c->study, "daylight year to lay it against (the first)");
  m->add_option("--option", c->option, "of the project");
  m->add_option("--map", c->map, "JSON file: clock, columns, sensors, units (docs/project-format.md)");
  m->add_option("--from", c->from, "first day, such as 21 Mar");
  m->add_option("--to", c->to, "last day");
  m->add_option("--hours", c->hours, "hours of the day, standard time (0 24)")
      ->expected(2)
      ->check(CLI::Range(0.0, 24.0));
  m->add_option("--altitude", c->altitude, "of the sun, degrees: from, to")
      ->expected(2)
      ->check(CLI::Range(-90.0, 90.0));
  m->add_flag("--night", c->night, "hours with the sun down count too");
  m->add_option("--year", c->year, "of the measurement (the one with most of it)")->check(CLI::Range(1900, 2199));
  m->add_flag("--try-reflectances", c->reflectances, "also with darker surfaces, which takes a second year of rays");
  m->add_option("--csv", c->csv, "the hours, measured and computed");
  m->add_option("--guideline", c->guideline, "judge by it: agreement-guideline-14, or a file of one's own");
  m->add_option("--threads", c->threads, "0: all");
  m->add_flag("--json", c->json, "as JSON");
  m->callback([c, &session] { session.exit = measured(*c, session); });

  auto* stand = app.add_subcommand("stand-in", "Simulated stand-ins for devices and services, on this machine alone");
  stand->require_subcommand(1);
  addStandInWeather(*stand, session);
  auto l = std::make_shared<LoggerCall>();
  auto* g = stand->add_subcommand("logger", "Writes what instruments in a project would have measured");
  g->add_option("project", l->project, "project file")->required();
  g->add_option("--out", l->out, "CSV file to write")->required();
  g->add_option("--sensors", l->sensors, "called as in tables, such as \"Reading room 3\"");
  g->add_option("--study", l->study, "daylight year whose blinds and error count");
  g->add_option("--option", l->option, "of the project");
  g->add_flag("--irradiance", l->irradiance, "W/m² in place of lx");
  g->add_flag("--no-weather", l->noWeather, "without the station on the roof");
  g->add_option("--step", l->wish.step, "s (600)")->check(CLI::Range(1.0, 3600.0));
  g->add_option("--noise", l->wish.noise, "% of a reading (2)")->check(CLI::Range(0.0, 50.0));
  g->add_option("--drift", l->wish.drift, "% a year (0)")->check(CLI::Range(-90.0, 90.0));
  g->add_option("--gain", l->wish.gain, "readings over truth (1)")->check(CLI::Range(0.1, 10.0));
  g->add_option("--slip", l->wish.slip, "minutes that its clock is late (0)")->check(CLI::Range(-720.0, 720.0));
  g->add_option("--gaps", l->wish.gaps, "stretches without rows (0)")->check(CLI::Range(0, 1000));
  g->add_option("--year", l->wish.year, "of the stamps (2025)")->check(CLI::Range(1950, 2150));
  g->add_option("--from", l->from, "first day, such as 1 May");
  g->add_option("--to", l->to, "last day");
  g->add_option("--seed", l->wish.seed, "of the noise (1)");
  g->add_option("--live", l->live, "so many seconds of it in a second, until stopped or done (0: at once)")
      ->check(CLI::Range(0.0, 1e7));
  g->add_option("--threads", l->threads, "0: all");
  g->callback([l, &session] { session.exit = logger(*l); });
}

} // namespace noonward::cli
