#include "core/runs/record.h"
#include "core/files/project/design_json.h"
#include "core/files/results/tables.h"
#include "core/files/results/workbook.h"
#include "core/model/mending/check.h"
#include "core/model/settings/study_fields.h"
#include "core/studies/hourly_sky.h"
#include <algorithm>
#include <chrono>
#include <fmt/format.h>
#include <map>

namespace noonward {

int provisionAsked(const Project& p, const YardstickShelf& shelf) {
  for (const Judgement& j : p.judgements)
    if (const Yardstick* y = shelf.find(j.yardstick); y && y->measure == Measure::ProvisionHours)
      if (const auto changed = withChanges(*y, j.changed))
        return changed->word("level") == "high" ? 3 : changed->word("level") == "medium" ? 2 : 1;
  return 0;
}

ProvisionRooms provisionRooms(const Reading& r, const YearFacts& f, int level) {
  ProvisionRooms out;
  for (std::size_t k = 0; k < r.provisionLevels.size() && k < f.counted.size(); ++k) {
    if (!f.counted[k] || f.sensors.groups[k].count == 0) continue;
    ++out.all;
    out.same += int(r.provisionLevels[k]) >= level;
    out.own += int(r.provisionOwnLevels[k]) >= level;
  }
  return out;
}

Expected<RecordFacts> gatherRecord(const Project& p, const Study& study, const YardstickShelf& shelf,
                                   StudyRunner& runner, RunControl& control) {
  if (study.kind != StudyKind::Year) return fail("A record is made of a daylight year.");
  RecordFacts out;
  out.project = p;
  out.study = study;
  auto year = runner.year(p, study.groups, study.year, control, study.name);
  if (!year) return tl::unexpected(year.error());
  if (!year->result->everySpace) return fail("The run was stopped before every room had figures.");
  out.year = std::move(*year);
  const YearFacts& f = out.year.facts;
  out.limit = aseLimit(p, shelf);
  out.provision = provisionAsked(p, shelf);
  for (const Judgement& j : p.judgements) {
    const Yardstick* y = shelf.find(j.yardstick);
    if (!y || !besideYear(y->measure)) continue;
    Verdict v;
    const auto changed = withChanges(*y, j.changed);
    if (changed && ofYear(y->measure)) {
      v = judgeYear(p, *changed, f, *out.year.result);
      for (const auto& [key, value] : j.changed) v.notes.push_back(key + " changed to " + value + ".");
    } else {
      v = runner.judgement(p, *y, j, control);
    }
    out.verdicts.emplace_back(j, std::move(v));
    out.yardsticks.push_back(*y);
  }
  const auto input = yearInput(p, study.groups, study.year, &runner.kept());
  if (!input) return tl::unexpected(input.error());
  out.readings = contestedReadings(p, *input, out.year.result->rounds, runner.kept(), control);
  for (std::size_t k = 0; k < f.sensors.groups.size(); ++k) {
    if (!f.counted[k] || f.sensors.groups[k].count == 0 || out.year.result->spaces[k].ase <= out.limit + 1e-9) continue;
    const auto series = spaceSeries(*input, k, 0, runner.kept(), control);
    if (!series) return tl::unexpected(series.error());
    const BeamHours beam = beamHours(*series, study.year, p.zone(), p.site.weather->utcOffset, p.site.year, {});
    const Room* room = f.rooms[k] ? p.room(f.rooms[k]) : nullptr;
    out.bright.push_back({k, out.year.result->spaces[k].ase,
                          "Sensors above the limit have on average " + beamHoursText(beam, *series, f.groups),
                          room ? room->glare : ""});
  }
  out.open = checkProject(p);
  out.open.insert(out.open.end(), f.findings.begin(), f.findings.end());
  for (const Finding& x : input->findings)
    if (std::find(f.findings.begin(), f.findings.end(), x) == f.findings.end()) out.open.push_back(x);
  Project strict = p;
  strict.accepted.clear();
  Findings all = checkProject(strict);
  all.insert(all.end(), input->findings.begin(), input->findings.end());
  for (const Finding& x : merged(std::move(all)))
    if (p.accepted.contains(x.code)) out.accepted.push_back(x);
  std::erase_if(out.open, [&](const Finding& x) { return p.accepted.contains(x.code) && x.rank != Rank::StopsStudy; });
  out.open = merged(std::move(out.open));
  for (const FinishLine& x : finishLines(p))
    if (x.isDefault)
      out.defaults.push_back(
          fmt::format("{} ({}) on {}, by its role alone", x.name, x.value, quantityText(x.area, 0, "m²", p.units)));
  if (p.site.groundReflectance == 0.2) out.defaults.push_back("ground reflectance 0.2");
  for (const auto& g : p.glazings) {
    if (g.frame == 1) out.defaults.push_back(fmt::format("{}: no frame counted in the glazed area", g.name));
    if (g.dirt == 1) out.defaults.push_back(fmt::format("{}: clean glass", g.name));
  }
  if (study.year.seed == 1) out.defaults.push_back("seed 1");
  const Instant now{std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count()};
  out.made = isoText(now, 0);
  return out;
}

std::vector<FinishLine> finishLines(const Project& p) {
  std::vector<FinishLine> out;
  const auto model = lightModel(p);
  if (!model) return out;
  std::map<std::string, FinishLine> lines;
  for (const SurfaceEntry& s : surfaces(p)) {
    const SurfaceAnswer answer = finishFor(p, s.question);
    FinishLine& line = lines[answer.name];
    line.name = answer.name;
    line.area += s.area;
    line.isDefault |= answer.isDefault;
  }
  for (auto& [name, line] : lines) {
    if (const Finish* f = findFinish(model->finishes, name)) {
      line.value = fmt::format("reflectance {:.0f} %{}", 100 * f->reflectance,
                               f->specular > 0 ? fmt::format(", {:.0f} % of it mirrored", 100 * f->specular) : "");
      line.source = f->source;
    } else if (const Glazing* g = findGlazing(model->glazings, name)) {
      line.value =
          fmt::format("transmittance {:.0f} %, {} pane{}, frame {:.0f} %, dirt {:.0f} %", 100 * g->transmittance,
                      g->panes, g->panes == 1 ? "" : "s", 100 * g->frame, 100 * g->dirt);
      line.source = g->source;
    } else {
      continue;
    }
    out.push_back(line);
  }
  std::stable_sort(out.begin(), out.end(), [](const FinishLine& a, const FinishLine& b) { return a.area > b.area; });
  return out;
}

std::vector<SettingLine> settingLines(const RecordFacts& f) {
  const YearSettings& s = f.study.year;
  const YearResult& r = *f.year.result;
  std::vector<SettingLine> out;
  const Yardstick* credit = nullptr;
  for (const Yardstick& y : f.yardsticks)
    if (y.measure == Measure::SdaCredit && !credit) credit = &y;
  std::optional<YearSettings> proposed;
  if (credit) proposed = yearSettingsOf(*credit, s);
  const auto line = [&](std::string name, std::string value, const std::string& wanted) {
    out.push_back({std::move(name), value,
                   !proposed         ? ""
                   : value == wanted ? "as proposed"
                                     : "departs: " + wanted + " proposed"});
  };
  const YearSettings w = proposed.value_or(s);
  const auto hours = [](const YearSettings& y) {
    return fmt::format("{} to {} by the clock{}{}", clockText(y.beginMinute), clockText(y.endMinute),
                       y.weekdaysOnly ? ", Monday to Friday" : ", every day", y.clockChanges ? "" : ", standard time");
  };
  line("Hours", hours(s), hours(w));
  const ShownUnit light = shownUnit("lx", f.project.units);
  const auto lux = [&](double v) { return fmt::format("{:.4g} {}", light.shown(v), light.symbol); };
  const auto enough = [&](const MetricSettings& m) {
    return fmt::format("≥ {} in ≥ {:g} % of the hours", lux(m.threshold), 100 * m.autonomy);
  };
  line("Target illuminance", enough(s.metrics), enough(w.metrics));
  const auto beam = [&](const MetricSettings& m) { return fmt::format("≥ {} in > {:g} h", lux(m.beam), m.beamHours); };
  line("ASE threshold (direct)", beam(s.metrics), beam(w.metrics));
  const auto blinds = [&](const YearSettings& y) {
    return y.blinds != BlindRule::Standard
               ? blindsText(y)
               : fmt::format(
                     "a group of windows closes while > {:g} % of the room's sensors get ≥ {} of beam through it",
                     100 * y.closesAbove, lux(y.closesAt));
  };
  line("Blinds", blinds(s), blinds(w));
  for (const WindowGroup& g : f.year.facts.groups)
    if (const BlindRule own = s.blindsOf(g.key);
        !g.key.empty() &&
        std::any_of(s.groupBlinds.begin(), s.groupBlinds.end(), [&](const GroupBlinds& b) { return b.group == g.key; }))
      line("Blinds of " + g.name, blindsText(s, own), blindsText(w, w.blindsOf(g.key)));
  const auto fabric = [](const YearSettings& y) {
    return fmt::format("{:g} % straight, {:g} % scattered; {}", 100 * y.fabricDirect, 100 * y.fabricDiffuse,
                       fabricText(y));
  };
  line("Shade fabric, closed", fabric(s), fabric(w));
  for (const SensorGroup& g : f.project.groups)
    if (const auto* grid = std::get_if<RoomGrid>(&g.layout);
        grid && (f.study.groups.empty() ||
                 std::find(f.study.groups.begin(), f.study.groups.end(), g.id) != f.study.groups.end())) {
      const bool feet = f.project.units.feet(); // with decimals: a fraction of an inch would hide a departure
      const auto metres = [&](double v) {
        return feet ? fmt::format("{:.4g} ft", v / metresPer(LengthUnit::Foot)) : fmt::format("{:g} m", v);
      };
      const auto text = [&](const RoomGrid& x) {
        return fmt::format("{} above the floor, spacing {} at most, {} from walls: {}", metres(x.height),
                           metres(x.spacing), metres(x.wallDistance), gridLayoutText(x.layout));
      };
      RoomGrid wanted = credit ? gridOf(*credit) : *grid;
      if (grid->spacing <= wanted.spacing) wanted.spacing = grid->spacing; // finer is as proposed
      line("Sensor grid \"" + g.name + "\"", text(*grid), text(wanted));
      double widest = 0, nearest = 1e300; // as it came out
      for (const SensorGridFacts& laid : f.year.facts.sensors.groups)
        if (laid.id == g.id && laid.count > 0) {
          widest = std::max(widest, laid.spacing);
          nearest = std::min(nearest, laid.distance);
        }
      if (widest > 0)
        out.push_back({"Sensor grid \"" + g.name + "\", as laid",
                       fmt::format("widest spacing {:.3f} {}, nearest point {:.3f} {} from a wall, each counted by the "
                                   "true area of its cell",
                                   widest / (feet ? metresPer(LengthUnit::Foot) : 1), feet ? "ft" : "m",
                                   nearest / (feet ? metresPer(LengthUnit::Foot) : 1), feet ? "ft" : "m"),
                       ""});
    }
  if (f.project.site.weather)
    line("Illuminance from", illuminanceText(*f.project.site.weather, s.ownIlluminance), "irradiance × efficacy");
  line("Further loss in frames and dirt", fmt::format("{:g} %", 100 * (1 - s.glassKept)), "0 %");
  // Whatever else there is to set, by its description: a field that is added stands here without a word more.
  static constexpr std::string_view told[] = {"schedule",
                                              "weekdays",
                                              "clock-changes",
                                              "threshold",
                                              "share-of-hours",
                                              "ase-threshold",
                                              "ase-hours",
                                              "blinds",
                                              "closes-at",
                                              "closes-above",
                                              "closes-at-irradiance",
                                              "shut",
                                              "blinds-of",
                                              "fabric-direct",
                                              "fabric-diffuse",
                                              "fabric-reflectance",
                                              "error",
                                              "illuminance",
                                              "glass-kept",
                                              "stop-when-certain",
                                              "confidence"};
  Study asProposed = f.study;
  asProposed.year = w;
  const auto wanted = settingTexts(asProposed, f.project.units);
  for (const SettingText& t : settingTexts(f.study, f.project.units)) {
    if (std::find(std::begin(told), std::end(told), t.key) != std::end(told)) continue;
    const auto like =
        std::find_if(wanted.begin(), wanted.end(), [&](const SettingText& x) { return x.name == t.name; });
    line(t.name, t.value, like == wanted.end() ? t.value : like->value);
  }
  out.push_back({"Sensors", fmt::format("{}", r.sensors.size()), ""});
  out.push_back({"Error asked of a sensor's mean", fmt::format("{:g} %", 100 * s.error),
                 s.error == YearSettings{}.error ? "default" : ""});
  out.push_back({"How the run ended",
                 r.end == RunEnd::Enough ? "stopped early by hand"
                 : r.certain ? fmt::format("stopped by itself: the verdict was {:.2f} % certain ({:g} % asked)",
                                           100 * r.certainty, 100 * s.confidence)
                             : "all paths traced",
                 ""});
  return out;
}

namespace {

Json figures(const SpaceYear& s) {
  return Json{
      {"sda_percent", 100 * s.sda}, {"ase_percent", 100 * s.ase}, {"mean_lux", s.meanLux}, {"median_lux", s.medianLux}};
}

constexpr const char* projectFolder = "project";
constexpr const char* projectName = "project/project.noonward";

} // namespace

/// What a space is told apart by: its room's id; of a grid outdoors its group's.
std::string spaceId(const YearFacts& f, std::size_t space) {
  return f.rooms[space] ? f.rooms[space].text() : f.sensors.groups[space].id.text();
}

Json recordClaims(const RecordFacts& f) {
  const YearResult& r = *f.year.result;
  Json j;
  j["study"] = Json{{"name", f.study.name}, {"id", f.study.id.text()}};
  j["option"] = f.project.options.empty() ? "" : f.project.options[f.project.option].name;
  j["key"] = r.key.hex();
  j["building"] = figures(r.building);
  j["building"]["sda_standard_error"] = 100 * r.buildingSdaError;
  j["rooms"] = Json::array();
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    if (f.year.facts.sensors.groups[k].count == 0) continue;
    Json one{{"name", f.year.facts.sensors.groups[k].name},
             {"id", spaceId(f.year.facts, k)},
             {"area_m2", f.year.facts.areas[k]},
             {"regularly_occupied", bool(f.year.facts.counted[k])}};
    one.update(figures(r.spaces[k]));
    one["sda_standard_error"] = 100 * r.sdaError[k];
    one["mean_lux_standard_error"] = r.meanError[k];
    j["rooms"].push_back(std::move(one));
  }
  j["verdicts"] = Json::array();
  for (const auto& [judgement, v] : f.verdicts) {
    Json one{{"yardstick", judgement.yardstick},
             {"id", judgement.id.text()},
             {"outcome", outcomeText(v.outcome)},
             {"text", v.text}};
    if (!std::isnan(v.points)) one["points"] = v.points;
    j["verdicts"].push_back(std::move(one));
  }
  return j;
}

Outcome writeRecord(const RecordFacts& f, const std::filesystem::path& folder, const std::vector<std::string>& made) {
  std::error_code code;
  std::filesystem::create_directories(folder / projectFolder, code);
  if (code) return fail(fmt::format("The folder can't be made: {}.", code.message()), folder.string());
  std::vector<std::string> files = made;
  const auto put = [&](const std::string& name, const std::string& text) -> Outcome {
    files.push_back(name);
    return saveFile(folder / name, text);
  };
  Project p = f.project;
  p.site.weatherFile.clear(); // written beside the copy
  p.underlays.clear();        // aids to drawing, and names of folders that are nobody's business
  p.sources.clear();
  if (Outcome o = writeProject(p, folder / projectName); !o) return o;
  files.push_back(projectName);
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder / projectFolder, code))
    if (entry.is_regular_file() && entry.path().filename() != "project.noonward")
      files.push_back(std::filesystem::relative(entry.path(), folder, code).string());
  for (const Yardstick& y : f.yardsticks) {
    const auto text = loadFile(y.file);
    if (!text) return tl::unexpected(text.error());
    std::filesystem::create_directories(folder / "yardsticks", code);
    if (Outcome o = put("yardsticks/" + y.key + ".json", *text); !o) return o;
  }
  if (Outcome o = put("rooms.csv", yearSpacesCsv(f.year.facts, *f.year.result)); !o) return o;
  if (Outcome o = put("sensors.csv", yearCsv(f.year.facts, *f.year.result)); !o) return o;
  std::string verdicts;
  for (const auto& [j, v] : f.verdicts) verdicts += verdictCsv(v);
  if (Outcome o = put("verdicts.csv", verdicts); !o) return o;

  // ---- the spreadsheet: the same numbers
  const YearResult& r = *f.year.result;
  const YearFacts& y = f.year.facts;
  std::vector<WorkSheet> sheets;
  WorkSheet facts{"Facts", {"what", "value", "remark"}, {}};
  facts.rows.push_back({"Project", p.name, ""});
  facts.rows.push_back({"Option", p.options.empty() ? std::string("one design alone") : p.options[p.option].name, ""});
  facts.rows.push_back({"Study", f.study.name, ""});
  facts.rows.push_back({"Weather", p.site.weather ? p.site.weather->name() : std::string(),
                        p.site.weather ? p.site.weather->source : std::string()});
  for (const SettingLine& l : settingLines(f)) facts.rows.push_back({l.name, l.value, l.remark});
  facts.rows.push_back(
      {"sDA of regularly occupied floor, %", 100 * r.building.sda, fmt::format("± {:.2f}", 100 * r.buildingSdaError)});
  facts.rows.push_back({"ASE of regularly occupied floor, %", 100 * r.building.ase, ""});
  facts.rows.push_back({"Fingerprint", r.key.fingerprint(), "of the question"});
  sheets.push_back(std::move(facts));
  const ShownUnit area = shownUnit("m²", p.units), light = shownUnit("lx", p.units); // CSV and claims stay SI
  WorkSheet rooms{"Rooms",
                  {"room", "area " + area.symbol, "regularly occupied", "sensors", "sDA %", "± points", "ASE %",
                   "mean " + light.symbol, "± " + light.symbol, "median " + light.symbol, "below %", "supplementary %",
                   "useful %", "above %"},
                  {}};
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    const SpaceYear& s = r.spaces[k];
    if (y.sensors.groups[k].count == 0) continue;
    rooms.rows.push_back({y.sensors.groups[k].name, area.shown(y.areas[k]), std::string(y.counted[k] ? "yes" : "no"),
                          double(y.sensors.groups[k].count), 100 * s.sda, 100 * r.sdaError[k], 100 * s.ase,
                          light.shown(s.meanLux), light.shown(r.meanError[k]), light.shown(s.medianLux),
                          100 * s.useful[0], 100 * s.useful[1], 100 * s.useful[2], 100 * s.useful[3]});
  }
  sheets.push_back(std::move(rooms));
  WorkSheet judged{"Verdicts", {"yardstick", "room", "outcome", "figure", "text"}, {}};
  for (const auto& [j, v] : f.verdicts) {
    judged.rows.push_back({v.title, "", std::string(outcomeText(v.outcome)), v.figure, v.text});
    for (const VerdictRow& row : v.rows)
      judged.rows.push_back({v.title, row.name, std::string(outcomeText(row.outcome)), row.after, row.text});
  }
  sheets.push_back(std::move(judged));
  WorkSheet robust{"Readings", {"reading", "what differs", "sDA %", "± points", "ASE %"}, {}};
  if (f.provision > 0)
    robust.head.insert(robust.head.end(),
                       {"rooms with the provision asked, same hours", "own hours of each point", "rooms judged"});
  for (const Reading& x : f.readings) {
    robust.rows.push_back({x.name, x.changed, 100 * x.building.sda, 100 * x.sdaError, 100 * x.building.ase});
    if (f.provision == 0) continue;
    const ProvisionRooms n = provisionRooms(x, y, f.provision);
    robust.rows.back().insert(robust.rows.back().end(), {double(n.same), double(n.own), double(n.all)});
  }
  sheets.push_back(std::move(robust));
  WorkSheet finishes{"Finishes", {"name", "value", "area " + area.symbol, "source"}, {}};
  for (const FinishLine& l : finishLines(p))
    finishes.rows.push_back(
        {l.name, l.value, area.shown(l.area), l.source + (l.isDefault ? " (default of the role)" : "")});
  sheets.push_back(std::move(finishes));
  WorkSheet sensors{
      "Sensors",
      {"sensor", "x m", "y m", "z m", "autonomy %", "mean " + light.symbol, "± " + light.symbol, "beam h"},
      {}};
  for (std::size_t i = 0; i < r.sensors.size(); ++i) {
    const Sensor& s = y.sensors.sensors[i];
    sensors.rows.push_back({y.sensors.sensorName(i), s.position.x, s.position.y, s.position.z,
                            100 * r.sensors[i].autonomy, light.shown(r.sensors[i].mean),
                            light.shown(r.sensors[i].mean) * double(r.relativeError[i]), double(r.beamHours[i])});
  }
  sheets.push_back(std::move(sensors));
  WorkSheet found{"Findings", {"rank", "finding", "accepted because"}, {}};
  for (const Finding& x : f.open) found.rows.push_back({std::string(rankText(x.rank)), x.text, ""});
  for (const Finding& x : f.accepted)
    found.rows.push_back(
        {std::string(rankText(x.rank)), x.text,
         p.accepted.at(x.code).empty() ? std::string("accepted without words") : p.accepted.at(x.code)});
  sheets.push_back(std::move(found));
  files.push_back("record.xlsx");
  if (Outcome o = writeWorkbook(folder / "record.xlsx", sheets, p.name); !o) return o;

  Json j;
  j["format"] = "noonward-record";
  j["version"] = 1;
  j["program"] = "Noonward " NOONWARD_VERSION;
  j["made"] = f.made;
  j["project"] = projectName;
  j["claims"] = recordClaims(f);
  for (const std::string& name : files) {
    const auto bytes = loadFile(folder / name);
    if (!bytes) return tl::unexpected(bytes.error());
    j["files"][name] = digestOf(*bytes).hex();
  }
  j["fingerprint"] = digestOf(j["claims"].dump() + j["files"].dump()).hex();
  return saveFile(folder / "record.json", j.dump(2) + "\n");
}

bool VerifyReport::holds() const {
  return !lines.empty() && std::all_of(lines.begin(), lines.end(), [](const VerifyLine& l) { return l.holds; });
}

namespace {
Expected<VerifyReport> verified(const std::filesystem::path& given, RunControl& control, Threads threads) {
  const std::filesystem::path folder = std::filesystem::is_directory(given) ? given : given.parent_path();
  const auto text = loadFile(folder / "record.json");
  if (!text) return tl::unexpected(text.error());
  const auto parsed = parseJson(*text, "record.json");
  if (!parsed) return tl::unexpected(parsed.error());
  const Json& j = *parsed;
  if (!j.is_object() || j.value("format", "") != "noonward-record" || !j.contains("claims") ||
      !j["claims"].is_object() || !j.contains("files") || !j["files"].is_object())
    return fail("This is no record of Noonward.", "record.json");
  if (j.value("version", 0) != 1)
    return fail("The record was written by another version of its format.", "record.json");
  VerifyReport out;
  const auto line = [&](std::string what, std::string claimed, std::string found, bool holds) {
    out.lines.push_back({std::move(what), std::move(claimed), std::move(found), holds});
  };
  const std::string print = digestOf(j["claims"].dump() + j["files"].dump()).hex();
  line("fingerprint of the record", j.value("fingerprint", ""), print, j.value("fingerprint", "") == print);
  for (const auto& [name, digest] : j["files"].items()) {
    if (name.find("..") != std::string::npos || name.starts_with('/'))
      return fail("A file of the record lies outside its folder.", name);
    const auto bytes = loadFile(folder / name);
    const std::string found = bytes ? digestOf(*bytes).hex() : "missing";
    line(name, digest.is_string() ? digest.get<std::string>() : "", found, digest == found);
  }
  const Json& claims = j["claims"];
  const auto loaded = readProject(folder / j.value("project", ""));
  if (!loaded) return tl::unexpected(loaded.error());
  Project p = loaded->project;
  const std::string option = claims.value("option", "");
  if (!option.empty()) {
    const auto at = optionNamed(p, option);
    if (!at) return fail(fmt::format("The project carried has no option \"{}\".", option));
    p = withOption(std::move(p), *at);
  }
  const Study* study = nullptr;
  for (const Study& s : p.studies)
    if (claims.contains("study") && s.id.text() == claims["study"].value("id", "")) study = &s;
  if (!study) return fail("The project carried does not hold the study.");
  StudyRunner runner(nullptr, threads);
  const auto year = runner.year(p, study->groups, study->year, control, study->name);
  if (!year) return tl::unexpected(year.error());
  const YearResult& r = *year->result;
  line("key of the question", claims.value("key", ""), r.key.hex(), claims.value("key", "") == r.key.hex());
  const auto figure = [&](const std::string& what, const Json& claimed, const char* key, double found, double allowed) {
    const double c =
        claimed.is_object() && claimed.contains(key) && claimed[key].is_number() ? claimed[key].get<double>() : NAN;
    line(what, fmt::format("{:.2f}", c), fmt::format("{:.2f}", found), std::abs(c - found) <= allowed + 1e-9);
  };
  const Json none;
  const Json& building = claims.contains("building") ? claims["building"] : none;
  // Two runs of the same noise differ by no more than the noise; another build has noise of its own.
  figure("building sDA, %", building, "sda_percent", 100 * r.building.sda, std::max(1.0, 4 * 100 * r.buildingSdaError));
  figure("building ASE, %", building, "ase_percent", 100 * r.building.ase, 0.5);
  std::vector<bool> claimedSpace(r.spaces.size(), false);
  for (const Json& room : claims.contains("rooms") ? claims["rooms"] : Json::array()) {
    const std::string name = room.is_object() ? room.value("name", "") : "",
                      id = room.is_object() ? room.value("id", "") : "";
    bool found = false;
    for (std::size_t k = 0; k < r.spaces.size() && !found; ++k) {
      const SensorGridFacts& g = year->facts.sensors.groups[k];
      // By id: two rooms may share a name. Records of before have names alone.
      if (claimedSpace[k] || g.count == 0 || (id.empty() ? g.name != name : spaceId(year->facts, k) != id)) continue;
      found = claimedSpace[k] = true;
      figure(name + ": sDA, %", room, "sda_percent", 100 * r.spaces[k].sda,
             std::max(100.0 / double(g.count) + 1, 4 * 100 * r.sdaError[k]));
      figure(name + ": ASE, %", room, "ase_percent", 100 * r.spaces[k].ase, 100.0 / double(g.count));
      figure(name + ": mean, lx", room, "mean_lux", r.spaces[k].meanLux,
             std::max(0.03 * r.spaces[k].meanLux, 4 * r.meanError[k]));
    }
    if (!found) line(name, "claimed", "not in the project", false);
  }
  for (std::size_t k = 0; k < r.spaces.size(); ++k)
    if (const SensorGridFacts& g = year->facts.sensors.groups[k]; !claimedSpace[k] && g.count > 0)
      line(g.name, "not claimed", fmt::format("sDA {:.2f} %", 100 * r.spaces[k].sda), false);
  YardstickShelf shelf = readYardsticks({folder / "yardsticks"});
  std::vector<JudgementId> claimedVerdicts;
  for (const Json& claimed : claims.contains("verdicts") ? claims["verdicts"] : Json::array()) {
    const std::string key = claimed.is_object() ? claimed.value("yardstick", "") : "";
    const Yardstick* y = shelf.find(key);
    const std::string id = claimed.is_object() ? claimed.value("id", "") : "";
    const auto judgement = std::find_if(p.judgements.begin(), p.judgements.end(), [&](const Judgement& x) {
      return id.empty() ? x.yardstick == key : x.id.text() == id && x.yardstick == key;
    });
    if (judgement != p.judgements.end()) claimedVerdicts.push_back(judgement->id);
    if (!y || judgement == p.judgements.end()) {
      line("verdict: " + key, claimed.is_object() ? claimed.value("outcome", "") : "",
           "its yardstick is not in the record", false);
      continue;
    }
    const auto changed = withChanges(*y, judgement->changed);
    const Verdict v = changed && ofYear(y->measure) ? judgeYear(p, *changed, year->facts, r)
                                                    : runner.judgement(p, *y, *judgement, control);
    bool same = claimed.value("outcome", "") == outcomeText(v.outcome);
    if (claimed.contains("points"))
      same = same && claimed["points"].is_number() && std::abs(claimed["points"].get<double>() - v.points) < 1e-9;
    line("verdict: " + v.title, claimed.value("text", ""), v.text, same);
  }
  for (const Judgement& x : p.judgements) // a verdict that was left out of the claims
    if (const Yardstick* y = shelf.find(x.yardstick);
        y && std::find(claimedVerdicts.begin(), claimedVerdicts.end(), x.id) == claimedVerdicts.end())
      line("verdict: " + y->title, "not claimed", "the project is judged by it", false);
  return out;
}

} // namespace

Expected<VerifyReport> verifyRecord(const std::filesystem::path& given, RunControl& control, Threads threads) {
  try {
    return verified(given, control, threads);
  } catch (const Json::exception& e) { // a claim of another type than it has
    return fail(fmt::format("The record's claims are not as they should be ({}).", e.what()), "record.json");
  }
}

} // namespace noonward
