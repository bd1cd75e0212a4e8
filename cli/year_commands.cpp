// The daylight year on the command line: run it, and metrics of hourly series given as a table.

#include "cli/commands.h"
#include "cli/measured_command.h"
#include "cli/run_command.h"
#include "core/base/json.h"
#include "core/base/words.h"
#include "core/files/csv.h"
#include "core/files/project/project_file.h"
#include "core/files/results/tables.h"
#include "core/files/save_file.h"
#include "core/runs/runner.h"
#include "core/runs/trial.h"
#include <CLI/CLI.hpp>
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

std::string number(double v, int digits = 6) {
  return fmt::format("{:.{}g}", v, digits);
}

Json spaceJson(const SpaceYear& s) {
  return Json{{"sda_percent", 100 * s.sda},
              {"ase_percent", 100 * s.ase},
              {"mean_lux", s.meanLux},
              {"median_lux", s.medianLux},
              {"useful_percent", {100 * s.useful[0], 100 * s.useful[1], 100 * s.useful[2], 100 * s.useful[3]}}};
}

Expected<NumberTable> readSeries(const std::string& file) {
  const auto bytes = loadFile(file);
  return bytes ? parseIlluminances(*bytes, file) : Expected<NumberTable>(tl::unexpected(bytes.error()));
}

struct MetricsCall {
  std::string series, beam, against, zone = "UTC", out;
  double begin = 8, end = 18, offset = 0, year = 2026;
  MetricSettings settings;
  std::vector<double> useful;
  bool weekdays = false, json = false, allHours = false;
};

/// The series against measured ones of the same names.
int runAgainst(const NumberTable& series, const MetricsCall& c) {
  const auto measured = readSeries(c.against);
  if (!measured) return complain(measured.error().text(), 1);
  Json sensors = Json::array();
  std::vector<double> modelled, observed;
  std::vector<std::string> lost;
  for (std::size_t k = 0; k < series.columns.size(); ++k) {
    const auto at = std::find(measured->names.begin(), measured->names.end(), series.names[k]);
    if (at == measured->names.end()) {
      lost.push_back("\"" + series.names[k] + "\"");
      continue;
    }
    const auto& m = series.columns[k];
    const auto& o = measured->columns[std::size_t(at - measured->names.begin())];
    if (m.size() != o.size())
      return complain(fmt::format("metrics: {} has {} rows, {} has {}", c.series, m.size(), c.against, o.size()), 1);
    modelled.insert(modelled.end(), m.begin(), m.end());
    observed.insert(observed.end(), o.begin(), o.end());
    Json one =
        agreementJson(agreement(std::vector<double>(m.begin(), m.end()), std::vector<double>(o.begin(), o.end())));
    one["sensor"] = series.names[k];
    sensors.push_back(std::move(one));
  }
  if (sensors.empty())
    return complain(fmt::format("metrics: no sensor of {} is called as one of {}", c.series, c.against), 1);
  const Agreement all = agreement(modelled, observed);
  if (c.json) {
    Json j = agreementJson(all);
    j["sensors"] = std::move(sensors);
    if (!lost.empty()) j["without_measurement"] = lost.size();
    fmt::print("{}\n", j.dump());
    return 0;
  }
  fmt::print("{}", agreementText(all));
  if (!lost.empty()) fmt::print("without a measurement: {}\n", fmt::join(lost, ", "));
  return 0;
}

int runMetrics(const MetricsCall& c) {
  const auto series = readSeries(c.series);
  if (!series) return complain(series.error().text(), 1);
  if (!c.against.empty()) return runAgainst(*series, c);
  std::optional<NumberTable> beam;
  if (!c.beam.empty()) {
    auto read = readSeries(c.beam);
    if (!read) return complain(read.error().text(), 1);
    if (read->columns.size() != series->columns.size() || read->columns[0].size() != series->columns[0].size())
      return complain("metrics: the table of beam has other sensors or hours", 1);
    beam = std::move(*read);
  }
  const std::size_t rows = series->columns[0].size();
  std::vector<bool> mask(rows, true);
  if (!c.allHours) {
    if (rows != hoursOfYear)
      return complain(
          fmt::format("metrics: {} has {} hours; a clock window needs 8760 (or give --all-hours)", c.series, rows), 1);
    const auto zone = Zone::named(c.zone);
    if (!zone) return complain(zone.error().text(), 1);
    mask = clockMask(*zone, c.offset * 3600, int(c.year), c.begin * 60, c.end * 60, c.weekdays);
  }
  MetricSettings s = c.settings;
  if (!c.useful.empty()) {
    if (c.useful.size() != 3 || !(c.useful[0] <= c.useful[1] && c.useful[1] <= c.useful[2]))
      return complain("metrics: --useful takes three rising bounds", 2);
    std::copy(c.useful.begin(), c.useful.end(), s.useful.begin());
  }
  s.autonomy /= 100;
  std::vector<SensorYear> years;
  std::vector<std::size_t> hours;
  for (std::size_t k = 0; k < series->columns.size(); ++k) {
    years.push_back(sensorYear(series->columns[k], mask, s));
    if (beam) hours.push_back(hoursAtLeast(beam->columns[k], mask, s.beam));
  }
  const SpaceYear all = spaceYear(years, hours, s);
  const auto inMask = std::size_t(std::count(mask.begin(), mask.end(), true));
  if (c.json) {
    Json j{{"hours", inMask}, {"threshold_lux", s.threshold}, {"space", spaceJson(all)}};
    if (!beam) j["space"].erase("ase_percent");
    for (std::size_t k = 0; k < years.size(); ++k) {
      const SensorYear& y = years[k];
      Json one{{"sensor", series->names[k]},
               {"autonomy_percent", 100 * y.autonomy},
               {"continuous_autonomy_percent", 100 * y.continuous},
               {"useful_percent", {100 * y.useful[0], 100 * y.useful[1], 100 * y.useful[2], 100 * y.useful[3]}},
               {"mean_lux", y.mean},
               {"median_lux", y.median},
               {"min_lux", y.least},
               {"max_lux", y.most},
               {"hours_without_value", y.missing}};
      if (beam) one["beam_hours"] = hours[k];
      j["sensors"].push_back(std::move(one));
    }
    fmt::print("{}\n", j.dump());
    return 0;
  }
  fmt::print("sensor,autonomy_percent,continuous_autonomy_percent,useful_below_percent,useful_supplementary_percent,"
             "useful_percent,useful_above_percent,mean_lux,median_lux,least_lux,most_lux,hours_without_value{}\n",
             beam ? ",beam_hours" : "");
  for (std::size_t k = 0; k < years.size(); ++k) {
    const SensorYear& y = years[k];
    fmt::print("{},{},{},{},{},{},{},{},{},{},{},{}{}\n", csvField(series->names[k]), number(100 * y.autonomy),
               number(100 * y.continuous), number(100 * y.useful[0]), number(100 * y.useful[1]),
               number(100 * y.useful[2]), number(100 * y.useful[3]), number(y.mean), number(y.median), number(y.least),
               number(y.most), y.missing, beam ? fmt::format(",{}", hours[k]) : "");
  }
  std::fputs(fmt::format("{} hours: sDA {:.2f} %{}, mean {:.1f} lx\n", inMask, 100 * all.sda,
                         beam ? fmt::format(", ASE {:.2f} %", 100 * all.ase) : "", all.meanLux)
                 .c_str(),
             stderr);
  return 0;
}

} // namespace

int runYearStudy(const RunCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  Study asked;
  asked.kind = StudyKind::Year;
  asked.name = studyName(asked.kind);
  std::vector<GroupId> groups; // the study's, or the rooms' grids, or every group where there is none
  for (const Study& study : p.studies)
    if (study.kind == StudyKind::Year && (c.name.empty() || study.name == c.name || study.id.text() == c.name)) {
      asked = study;
      groups = study.groups;
      break;
    }
  if (const Outcome o = putSettings(asked, c, p.site.year); !o) return complain(o.error().text(), 2);
  if (c.trial) asked = trialOf(asked, p.site.year);
  YearSettings& s = asked.year;
  const std::string& name = asked.name;
  s.keepSeries = c.series;
  if (groups.empty())
    for (const SensorGroup& g : p.groups)
      if (c.name.empty() ? std::holds_alternative<RoomGrid>(g.layout) && !g.eyes : g.name == c.name)
        groups.push_back(g.id);
  if (!c.name.empty() && groups.empty())
    return complain("run: the project has no daylight year and no sensors called \"" + c.name + "\"", 2);
  std::optional<ResultStore> store;
  if (!c.noStore && !c.trial) store.emplace(ResultStore::besideProject(c.project));
  StudyRunner runner(store ? &*store : nullptr, Threads{c.threads});
  RunControl control;
  control.progress = progressLine();
  const auto answered = runner.year(p, groups, s, control, name);
  if (!answered) return complain(answered.error().text(), 1);
  const YearFacts* const in = &answered->facts;
  const YearResult& r = *answered->result;
  std::fputs("\r      \r", stderr);
  for (const Finding& f : merged(in->findings))
    std::fputs(fmt::format("{}: {}\n", rankText(f.rank), f.text).c_str(), stderr);
  if (!c.out.empty()) {
    std::error_code error;
    std::filesystem::create_directories(c.out, error);
    const std::filesystem::path folder(c.out);
    for (const auto& [name, text] : {std::pair{"year", yearCsv(*in, r)}, {"year-spaces", yearSpacesCsv(*in, r)}})
      if (const Outcome o = saveFile(folder / (std::string(name) + trialTail(c) + ".csv"), text); !o)
        return complain(o.error().text(), 1);
    if (s.keepSeries) {
      std::string text = "record";
      for (std::size_t i = 0; i < r.sensors.size(); ++i) text += "," + csvField(in->sensors.sensorName(i));
      for (std::size_t h = 0; h < hoursOfYear; ++h) {
        text += fmt::format("\n{}", h + 1);
        for (std::size_t i = 0; i < r.sensors.size(); ++i)
          text += "," + number(double(r.series[i * hoursOfYear + h]), 5);
      }
      if (const Outcome o = saveFile(folder / "year-series.csv", text + "\n"); !o) return complain(o.error().text(), 1);
    }
  }
  const int points = stepsReached(r.building.sda, s.steps);
  Json blinds = Json::array();
  for (std::size_t k = 1; k < in->groups.size(); ++k)
    blinds.push_back(Json{{"group", in->groups[k].name}, {"closed_h", r.closedHours[k]}});
  if (c.json) {
    Json j{{"study", "year"},
           {"key", r.key.hex()},
           {"seconds", r.seconds},
           {"tracing_seconds", r.tracing},
           {"sensors", r.sensors.size()},
           {"hours", r.scheduleHours},
           {"stopped_when_certain", r.certain},
           {"certainty", r.certainty},
           {"building", spaceJson(r.building)},
           {"building_sda_standard_error", 100 * r.buildingSdaError},
           {"credit_points", points},
           {"blinds", blinds}};
    if (c.trial) j["trial"] = trialText(asked, p.site.year);
    for (std::size_t k = 0; k < r.spaces.size(); ++k) {
      Json one = spaceJson(r.spaces[k]);
      one["name"] = in->sensors.groups[k].name;
      one["area_m2"] = in->areas[k];
      one["regularly_occupied"] = bool(in->counted[k]);
      one["sda_standard_error"] = 100 * r.sdaError[k];
      one["mean_lux_standard_error"] = r.meanError[k];
      one["provision_h"] = r.provision[k];
      j["spaces"].push_back(std::move(one));
    }
    fmt::print("{}\n", j.dump());
    return 0;
  }
  fmt::print("{:<24}{:>9}{:>12}{:>9}{:>12}\n", "space", "m²", "sDA", "ASE", "mean lx");
  for (std::size_t k = 0; k < r.spaces.size(); ++k)
    fmt::print("{:<24}{:>9.1f}{:>6.1f} ± {:<3.1f}{:>9.1f}{:>6.0f} ± {:<3.0f}{}\n", in->sensors.groups[k].name,
               in->areas[k], 100 * r.spaces[k].sda, 100 * r.sdaError[k], 100 * r.spaces[k].ase, r.spaces[k].meanLux,
               r.meanError[k],
               !in->counted[k]          ? "  not regularly occupied"
               : r.spaces[k].ase > 0.10 ? "  ASE above 10 %: say how glare is dealt with"
                                        : "");
  fmt::print("Regularly occupied: sDA {:.1f} ± {:.1f} %, ASE {:.1f} %, {} of 3 points; ± is numerical only\n",
             100 * r.building.sda, 100 * r.buildingSdaError, 100 * r.building.ase, points);
  for (const Json& b : blinds)
    fmt::print("blinds of {}: closed {} h\n", b["group"].get<std::string>(), b["closed_h"].get<std::size_t>());
  fmt::print("{}, {:.1f} s ({:.1f} s of it rays){}, fingerprint {}\n", counted(r.sensors.size(), "sensor", "sensors"),
             r.seconds, r.tracing,
             r.certain ? fmt::format("; stopped when the verdict was {:.2f} % certain", 100 * r.certainty)
             : runner.computed() == 0 ? "; as stored"
                                      : "",
             r.key.fingerprint());
  return 0;
}

void addMetrics(CLI::App& app, Session& session) {
  auto c = std::make_shared<MetricsCall>();
  auto* m = app.add_subcommand("metrics",
                               "Annual daylight metrics of hourly illuminances given as a table, sensors as columns");
  m->add_option("series", c->series,
                "CSV: a head, then 8760 rows, the hours ending at 1:00 … 24:00 in local standard time")
      ->required();
  m->add_option("--against", c->against,
                "CSV alike, as measured: how far the series agrees with it (n, MBE, NMBE, RMSE, CV(RMSE), R², slope)");
  m->add_option("--beam", c->beam, "CSV alike, of direct beam: for ASE");
  m->add_option("--begin", c->begin, "clock hour (8)")->check(CLI::Range(0.0, 24.0));
  m->add_option("--end", c->end, "clock hour (18)")->check(CLI::Range(0.0, 24.0));
  m->add_option("--zone", c->zone, "IANA zone whose summer time counts (UTC: none)");
  m->add_option("--utc-offset", c->offset, "hours, of the standard time of the rows");
  m->add_option("--year", c->year, "whose calendar counts (2026)");
  m->add_option("--threshold", c->settings.threshold, "lx, of daylight autonomy (300)");
  m->add_option("--share-of-hours", c->settings.autonomy, "%, of sDA (50)");
  m->add_option("--beam-lux", c->settings.beam, "lx, of ASE (1000)");
  m->add_option("--beam-hours", c->settings.beamHours, "h, of ASE: more than this (250)");
  m->add_option("--useful", c->useful, "three bounds, lx (100 300 3000)")->expected(3);
  m->add_flag("--weekdays", c->weekdays, "Monday to Friday only");
  m->add_flag("--all-hours", c->allHours, "every row counts");
  m->add_flag("--json", c->json, "as JSON");
  c->settings.autonomy = 50;
  m->callback([c, &session] { session.exit = runMetrics(*c); });
}

} // namespace noonward::cli
