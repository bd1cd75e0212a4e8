// The folder: project, rules, tables, spreadsheet, and record.json over all of them.

#include "core/files/project/design_json.h"
#include "core/files/results/glare_files.h"
#include "core/files/results/shadow_files.h"
#include "core/files/results/tables.h"
#include "core/files/results/workbook.h"
#include "core/runs/record/record.h"
#include "core/studies/energy/energy_year.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

constexpr const char* projectFolder = "project";
constexpr const char* projectName = "project/project.noonward";
/// Receivers above which no GeoJSON is written: 10 MB.
constexpr std::size_t geoLimit = 30'000;

/// Names of sheets: at most 31 letters, none of those that spreadsheets forbid, each once.
class SheetNames {
public:
  std::string operator()(const std::string& name) {
    std::string plain;
    for (const char c : name) plain += std::string_view("[]:*?/\\'").find(c) == std::string_view::npos ? c : ' ';
    const auto cut = [&](std::size_t most) {
      std::size_t end = std::min(plain.size(), most);
      while (end > 0 && end < plain.size() && (static_cast<unsigned char>(plain[end]) & 0xC0) == 0x80) --end;
      return plain.substr(0, end);
    };
    const int n = ++taken_[cut(27)];
    return n == 1 ? cut(27) : fmt::format("{} {}", cut(24), n);
  }

private:
  std::map<std::string, int> taken_;
};

void addYear(std::vector<WorkSheet>& sheets, SheetNames& names, const Project& p, const YearChapter& f) {
  const YearResult& r = *f.year.result;
  const YearFacts& y = f.year.facts;
  const ShownUnit area = shownUnit("m²", p.units), light = shownUnit("lx", p.units); // CSV and claims stay SI
  WorkSheet rooms{names("Rooms"),
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
  WorkSheet robust{names("Readings"), {"reading", "what differs", "sDA %", "± points", "ASE %"}, {}};
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
  WorkSheet sensors{
      names("Sensors"),
      {"sensor", "x m", "y m", "z m", "autonomy %", "mean " + light.symbol, "± " + light.symbol, "beam h"},
      {}};
  for (std::size_t i = 0; i < r.sensors.size(); ++i) {
    const Sensor& s = y.sensors.sensors[i];
    sensors.rows.push_back({y.sensors.sensorName(i), s.position.x, s.position.y, s.position.z,
                            100 * r.sensors[i].autonomy, light.shown(r.sensors[i].mean),
                            light.shown(r.sensors[i].mean) * double(r.relativeError[i]), double(r.beamHours[i])});
  }
  sheets.push_back(std::move(sensors));
}

WorkSheet groupSheet(SheetNames& names, const Project& p, const FieldChapter& f) {
  const ShownUnit unit = shownUnit(f.now->scale.unit, p.units), area = shownUnit("m²", p.units);
  const std::string share = fmt::format("% with {:.4g} {}", unit.shown(usualThreshold(f.study.kind)), unit.symbol);
  WorkSheet out{names(f.study.name),
                {"group", "receivers", area.symbol, "mean " + unit.symbol, "± " + unit.symbol, "min " + unit.symbol,
                 "max " + unit.symbol, share, "mean before", share + " before"},
                {}};
  for (const GroupFigures& g : f.groups)
    out.rows.push_back({g.name, double(g.sensors), g.area > 0 ? area.shown(g.area) : NAN, unit.shown(g.mean),
                        unit.shown(g.error), unit.shown(g.min), unit.shown(g.max), 100 * g.share,
                        unit.shown(g.beforeMean), 100 * g.beforeShare});
  return out;
}

/// The lines of sight that fare worst.
WorkSheet seatSheet(SheetNames& names, const FieldChapter& f) {
  WorkSheet out{
      names(f.study.name + ", worst"),
      {"line of sight", "% above 0.35", "% above 0.40", "% above 0.45", "DGP exceeded in 5 %", "worst DGP", "at", "by"},
      {}};
  for (const SeatLine& s : f.glare->seats)
    out.rows.push_back({s.name, 100 * s.seat.above[0], 100 * s.seat.above[1], 100 * s.seat.above[2], s.seat.dgp95,
                        s.seat.worst, s.moment, s.cause});
  return out;
}

/// Gains and losses by cause and month, kWh.
WorkSheet energySheet(SheetNames& names, const FieldChapter& f) {
  WorkSheet out{names(f.study.name + ", kWh"), {"room", "used as", "floor m²", "cause"}, {}};
  for (int m = 1; m <= 12; ++m) out.head.push_back(monthName(m));
  out.head.push_back("year");
  for (const EnergyRoom& r : f.now->light->energy->rooms)
    for (const EnergyCause& c : r.causes) {
      double sum = 0;
      for (double m : c.months) sum += m;
      if (sum == 0) continue;
      out.rows.push_back({r.name, r.use, r.floorArea, c.name});
      for (double m : c.months) out.rows.back().push_back(m);
      out.rows.back().push_back(sum);
    }
  return out;
}

/// What was measured beside what was computed, by sensor.
WorkSheet measuredSheet(SheetNames& names, const MeasuredChapter& c) {
  const std::string unit = c.found->unit;
  WorkSheet out{names(c.series.name),
                {"sensor", "hours", "measured " + unit, "computed " + unit, "MBE " + unit, "NMBE %", "RMSE " + unit,
                 "CV(RMSE) %", "R²"},
                {}};
  const auto put = [&](const std::string& name, const Agreement& a) {
    out.rows.push_back(
        {name, double(a.n), a.meanObserved, a.meanModelled, a.mbe, 100 * a.nmbe, a.rmse, 100 * a.cvRmse, a.r2});
  };
  for (const ComparedSensor& s : c.found->comparison.sensors) put(s.sensor, s.hours);
  put("all, by hour", c.found->comparison.hours);
  put("all, by day", c.found->comparison.days);
  put("all, by month", c.found->comparison.months);
  return out;
}

std::vector<WorkSheet> sheetsOf(const RecordFacts& f) {
  const Project& p = f.project;
  SheetNames names;
  std::vector<WorkSheet> sheets;
  WorkSheet facts{names("Facts"), {"what", "value", "remark"}, {}};
  facts.rows.push_back({"Project", p.name, ""});
  facts.rows.push_back({"Option", p.options.empty() ? std::string("one design alone") : p.options[p.option].name, ""});
  facts.rows.push_back({"Weather", p.site.weather ? p.site.weather->name() : std::string(),
                        p.site.weather ? p.site.weather->source : std::string()});
  for (const FieldChapter& x : f.fields)
    facts.rows.push_back({"Study", x.study.name, x.fault.empty() ? x.asked : x.fault});
  for (const YearChapter& y : f.years) {
    const YearResult& r = *y.year.result;
    facts.rows.push_back({"Study", y.study.name, askedText(y.study)});
    for (const SettingLine& l : settingLines(p, y)) facts.rows.push_back({l.name, l.value, l.remark});
    facts.rows.push_back({"sDA of regularly occupied floor, %", 100 * r.building.sda,
                          fmt::format("± {:.2f}", 100 * r.buildingSdaError)});
    facts.rows.push_back({"ASE of regularly occupied floor, %", 100 * r.building.ase, ""});
    facts.rows.push_back({"Fingerprint", r.key.fingerprint(), "of the question"});
  }
  sheets.push_back(std::move(facts));
  WorkSheet judged{names("Verdicts"), {"yardstick", "receiver", "outcome", "figure", "before", "unit", "text"}, {}};
  WorkSheet robust{names("How robust"), {"yardstick", "reading", "what differs", "outcome", "text"}, {}};
  for (const VerdictChapter& c : f.verdicts) {
    const Verdict& v = c.verdict;
    judged.rows.push_back({v.title, "", std::string(outcomeText(v.outcome)), v.figure, v.before, v.unit, v.text});
    for (const VerdictRow& row : v.rows)
      judged.rows.push_back(
          {v.title, row.name, std::string(outcomeText(row.outcome)), row.after, row.before, "", row.text});
    for (const RuleReading& r : c.readings)
      robust.rows.push_back({v.title, r.name, r.changed, std::string(outcomeText(r.verdict.outcome)), r.verdict.text});
  }
  sheets.push_back(std::move(judged));
  if (!robust.rows.empty()) sheets.push_back(std::move(robust));
  for (const YearChapter& y : f.years) addYear(sheets, names, p, y);
  for (const FieldChapter& x : f.fields)
    if (x.now) {
      sheets.push_back(groupSheet(names, p, x));
      if (x.glare) sheets.push_back(seatSheet(names, x));
      if (x.now->light && x.now->light->energy) sheets.push_back(energySheet(names, x));
    }
  for (const MeasuredChapter& c : f.measured)
    if (c.found) sheets.push_back(measuredSheet(names, c));
  for (const SweepChapter& c : f.sweeps)
    if (c.table)
      for (WorkSheet& sheet : sweepSheets(*c.table)) {
        sheet.name = names(c.sweep.name + ", " + sheet.name);
        sheets.push_back(std::move(sheet));
      }
  if (f.beside && f.beside->found) sheets.push_back(besideSheet(*f.beside->found, names("Beside each other")));
  const ShownUnit area = shownUnit("m²", p.units);
  WorkSheet finishes{names("Finishes"), {"name", "value", "area " + area.symbol, "source"}, {}};
  for (const FinishLine& l : finishLines(p))
    finishes.rows.push_back(
        {l.name, l.value, area.shown(l.area), l.source + (l.isDefault ? " (default of the role)" : "")});
  sheets.push_back(std::move(finishes));
  WorkSheet found{names("Findings"), {"rank", "finding", "accepted because"}, {}};
  for (const Finding& x : f.open) found.rows.push_back({std::string(rankText(x.rank)), x.text, ""});
  for (const Finding& x : f.accepted)
    found.rows.push_back(
        {std::string(rankText(x.rank)), x.text,
         p.accepted.at(x.code).empty() ? std::string("accepted without words") : p.accepted.at(x.code)});
  sheets.push_back(std::move(found));
  if (!p.record.remarks.empty()) {
    WorkSheet remarks{names("Remarks"), {"by", "remark", "answer"}, {}};
    for (const Remark& r : p.record.remarks) remarks.rows.push_back({r.by, r.text, r.answer});
    sheets.push_back(std::move(remarks));
  }
  if (f.changes) {
    WorkSheet changes{names("Changes"), {"what", "was", "is"}, {}};
    for (const RecordChange& c : f.changes->verdicts) changes.rows.push_back({c.what, c.was, c.is});
    for (const RecordChange& c : f.changes->figures) changes.rows.push_back({c.what, c.was, c.is});
    for (const std::string& c : f.changes->receivers) changes.rows.push_back({c, "", ""});
    for (const std::string& c : f.changes->inputs) changes.rows.push_back({c, "", ""});
    sheets.push_back(std::move(changes));
  }
  return sheets;
}

} // namespace

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
  // Files of loggers go along: what was measured can be laid beside it anew.
  std::map<std::string, std::string> carried;
  for (MeasuredSeries& s : p.measured)
    for (std::string& file : s.files) {
      const auto [at, fresh] = carried.try_emplace(
          file, fmt::format("measured/{}-{}", carried.size() + 1, std::filesystem::path(file).filename().string()));
      const std::filesystem::path target = folder / projectFolder / at->second;
      if (fresh) {
        std::filesystem::create_directories(target.parent_path(), code);
        std::filesystem::copy_file(file, target, std::filesystem::copy_options::overwrite_existing, code);
        if (code && std::any_of(f.measured.begin(), f.measured.end(),
                                [&](const MeasuredChapter& c) { return c.found && c.series.id == s.id; }))
          return fail(fmt::format("The measured file can't be copied: {}.", code.message()), file);
      }
      file = std::filesystem::absolute(target).lexically_normal().string();
    }
  if (Outcome o = writeProject(p, folder / projectName); !o) return o;
  files.push_back(projectName);
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder / projectFolder, code))
    if (entry.is_regular_file() && entry.path().filename() != "project.noonward")
      files.push_back(std::filesystem::relative(entry.path(), folder, code).string());
  for (const VerdictChapter& c : f.verdicts) {
    const std::string name = "yardsticks/" + c.yardstick.key + ".json";
    if (std::find(files.begin(), files.end(), name) != files.end()) continue;
    const auto text = loadFile(c.yardstick.file);
    if (!text) return tl::unexpected(text.error());
    std::filesystem::create_directories(folder / "yardsticks", code);
    if (Outcome o = put(name, *text); !o) return o;
  }
  FileNames named;
  for (std::size_t k = 0; k < f.years.size(); ++k) {
    const YearAnswered& y = f.years[k].year;
    const std::string tail = k == 0 ? "" : fmt::format("-{}", k + 1);
    if (Outcome o = put("rooms" + tail + ".csv", yearSpacesCsv(y.facts, *y.result)); !o) return o;
    if (Outcome o = put("sensors" + tail + ".csv", yearCsv(y.facts, *y.result)); !o) return o;
  }
  for (const FieldChapter& x : f.fields) {
    if (!x.now) continue;
    const std::string stem = "values-" + named(x.study.name);
    if (Outcome o = put(stem + ".csv", fieldCsv(*x.now, p.zone(), x.before.get())); !o) return o;
    if (x.glare && x.glare->worst)
      if (Outcome o =
              put(stem + "-worst-sources.csv", glareSourcesCsv(x.glare->worst->map.eye, x.glare->worst->glare.sources));
          !o)
        return o;
    if (x.now->values().size() <= geoLimit && !x.now->inRooms())
      if (Outcome o = put(stem + ".geojson", fieldGeoJson(p, *x.now, x.before.get())); !o) return o;
  }
  for (const ShadowChapter& c : f.shadows) {
    if (!c.fault.empty()) continue;
    const std::string stem = named("shadows " + dayText({2026, c.asked.month, c.asked.day}));
    if (Outcome o = put(stem + ".csv", shadowCsv(p, c.plan)); !o) return o;
    if (Outcome o = put(stem + ".geojson", shadowGeoJson(p, c.plan, false)); !o) return o;
  }
  for (const MeasuredChapter& c : f.measured)
    if (c.found)
      if (Outcome o = put("measured-" + named(c.series.name) + ".csv", measuringCsv(*c.found)); !o) return o;
  for (const SweepChapter& c : f.sweeps) {
    if (!c.table) continue;
    const std::string stem = "sweep-" + named(c.sweep.name);
    if (Outcome o = put(stem + ".csv", sweepCsv(*c.table)); !o) return o;
    if (Outcome o = put(stem + ".json", sweepTableText(*c.table)); !o) return o;
  }
  if (f.beside && f.beside->found)
    if (Outcome o = put("beside.csv", besideCsv(*f.beside->found)); !o) return o;
  std::string verdicts;
  for (const VerdictChapter& c : f.verdicts) verdicts += verdictCsv(c.verdict);
  if (!f.verdicts.empty())
    if (Outcome o = put("verdicts.csv", verdicts); !o) return o;
  files.push_back("record.xlsx");
  if (Outcome o = writeWorkbook(folder / "record.xlsx", sheetsOf(f), p.name); !o) return o;

  Json j;
  j["format"] = "noonward-record";
  j["version"] = 2;
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

} // namespace noonward
