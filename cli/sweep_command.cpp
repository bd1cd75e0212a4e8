// Many designs on the command line: a sweep, its parts put together, the least change that passes.

#include "cli/commands.h"
#include "core/base/words.h"
#include "core/files/project/asked_json.h"
#include "core/files/results/tables.h"
#include "core/files/save_file.h"
#include "core/runs/sweep/least_change.h"
#include "picture/picture_export.h"
#include "picture/sweep_picture.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <memory>

namespace noonward::cli {

namespace {

struct SweepCall {
  std::string project, option, name, file, part, out, csv, xlsx, picture, as;
  std::vector<std::string> folders, yardstickFolders;
  std::vector<double> edge;
  double confidence = 95, coarser = 4;
  std::size_t take = 0;
  int runs = 80, threads = 0;
  bool json = false, cost = false, noStore = false, keep = false;
};

Expected<Sweep> sweepAsked(const SweepCall& c, const Project& p) {
  if (!c.file.empty()) {
    const auto bytes = loadFile(c.file);
    if (!bytes) return tl::unexpected(bytes.error());
    const auto json = parseJson(*bytes, c.file);
    if (!json) return tl::unexpected(json.error());
    if (!json->is_object()) return fail("A sweep { \"name\": …, \"vary\": [ … ] } is expected.", c.file);
    JsonFault fault;
    Sweep sweep;
    {
      JsonObject o(*json, "", fault);
      sweep = sweepFromJson(o);
    }
    if (fault.error) return fail(fault.error->message, c.file + ": " + fault.error->place);
    if (!fault.unknown.empty())
      return fail(
          fmt::format("Nobody reads \"{}\" there{}.", fault.unknown.front().first,
                      fault.unknown.front().second.empty() ? "" : "; \"" + fault.unknown.front().second + "\" is"),
          c.file);
    return sweep;
  }
  std::string all;
  for (const Sweep& s : p.sweeps) {
    if (s.name == c.name || s.id.text() == c.name || (c.name.empty() && p.sweeps.size() == 1)) return s;
    all += (all.empty() ? "\"" : ", \"") + s.name + "\"";
  }
  if (all.empty()) return fail("The project has no sweep: give one with --file, or write \"sweeps\" into the project.");
  return fail(c.name.empty() ? fmt::format("Which sweep? --name {}", all)
                             : fmt::format("The project has no sweep \"{}\"; it has {}.", c.name, all));
}

Expected<SweepPart> partOf(const std::string& text) {
  if (text.empty()) return SweepPart{};
  unsigned part = 0, of = 0;
  char end = 0;
  if (std::sscanf(text.c_str(), "%u/%u%c", &part, &of, &end) != 2 || part < 1 || of < 1 || part > of)
    return fail("--part: 2/4 is the second of four parts; \"" + text + "\" is none");
  return SweepPart{part, of};
}

Json figuresJson(const SweepTable& t, const std::vector<SweepFigure>& figures) {
  Json j = Json::object();
  for (std::size_t o = 0; o < figures.size(); ++o) {
    const SweepFigure& f = figures[o];
    j[t.sweep.outcomes[o].name] =
        std::isnan(f.value) ? Json{{"fault", f.fault}}
                            : Json{{"value", f.value}, {"standard_error", f.error}, {"unit", t.outcomeUnits[o]}};
  }
  return j;
}
Json valuesJson(const SweepTable& t, const VaryPoint& values) {
  Json j = Json::object();
  for (std::size_t k = 0; k < values.size(); ++k)
    std::visit([&](const auto& x) { j[t.sweep.variables[k].name] = x; }, values[k]);
  return j;
}

Json readingJson(const SweepTable& t) {
  Json j{{"sweep", t.sweep.name}, {"rows", t.rows.size()}, {"all", t.all},        {"left_out", t.leftOut},
         {"batches", t.traced},   {"key", t.key.hex()},    {"seconds", t.seconds}};
  for (std::size_t o = 0; o < t.sweep.outcomes.size(); ++o) {
    const OutcomeEffects e = effectsOn(t, o);
    Json one{{"outcome", t.sweep.outcomes[o].name}, {"unit", t.outcomeUnits[o]}, {"together", e.together}};
    for (const VariableEffect& v : e.variables) {
      Json x{{"variable", t.sweep.variables[v.variable].name},
             {"range", v.range},
             {"standard_error", v.rangeError},
             {"share", v.share},
             {"matters", v.matters}};
      for (const LevelEffect& l : v.levels) {
        Json level{{"figure", l.figure}, {"standard_error", l.error}, {"rows", l.rows}};
        std::visit([&](const auto& value) { level["value"] = value; }, l.value);
        x["levels"].push_back(std::move(level));
      }
      one["effects"].push_back(std::move(x));
    }
    j["outcomes"].push_back(std::move(one));
  }
  const auto best = bestOf(t);
  for (const SweepBest& b : best) {
    Json alike = Json::array();
    for (const std::size_t k : b.alike) alike.push_back(t.rows[k].number + 1);
    j["best"].push_back(Json{{"run", t.rows[b.row].number + 1},
                             {"goal", b.goal ? Json(t.sweep.goals[*b.goal].outcome) : Json()},
                             {"meets", b.meets},
                             {"alike", alike},
                             {"values", valuesJson(t, t.rows[b.row].values)},
                             {"figures", figuresJson(t, t.rows[b.row].figures)},
                             {"text", b.text}});
  }
  if (best.size() > 1)
    if (const std::string why = whyPart(t, best[0], best[1]); !why.empty()) j["why_they_part"] = why;
  return j;
}

void printReading(const SweepTable& t) {
  fmt::print("{}: {} of {} runs{}, in {}\n", t.sweep.name, t.rows.size(), t.all,
             t.leftOut > 0 ? fmt::format(" ({} more left out by conditions)", t.leftOut) : "",
             counted(std::size_t(t.traced), "batch", "batches"));
  std::size_t faulty = 0;
  for (const SweepRow& r : t.rows) {
    std::string fault = r.fault;
    for (std::size_t o = 0; o < r.figures.size() && fault.empty(); ++o)
      if (std::isnan(r.figures[o].value)) fault = t.sweep.outcomes[o].name + ": " + r.figures[o].fault;
    if (fault.empty()) continue;
    if (faulty++ < 8) fmt::print("  run {} ({}): {}\n", r.number + 1, pointText(t, r.values), fault);
  }
  if (faulty > 8) fmt::print("  {} more have no figures\n", faulty - 8);
  for (std::size_t o = 0; o < t.sweep.outcomes.size(); ++o) {
    const OutcomeEffects e = effectsOn(t, o);
    if (e.rows < 2) continue;
    fmt::print("\n{}{}: what moves it, the others in the mean\n", t.sweep.outcomes[o].name,
               t.outcomeUnits[o].empty() ? "" : ", " + t.outcomeUnits[o]);
    for (const VariableEffect& v : e.variables) {
      fmt::print("  {:<20}{:>9.4g} ± {:<8.2g}{:>4.0f} %{}  ", t.sweep.variables[v.variable].name, v.range, v.rangeError,
                 100 * v.share, v.matters ? "" : "  within its error");
      if (v.levels.size() <= 8)
        for (const LevelEffect& l : v.levels) fmt::print("  {}: {:.4g}", valueText(l.value), l.figure);
      else
        fmt::print("  {}: {:.4g} … {}: {:.4g}", valueText(v.levels.front().value), v.levels.front().figure,
                   valueText(v.levels.back().value), v.levels.back().figure);
      fmt::print("\n");
    }
    fmt::print("  {:<41}{:>4.0f} %\n", "together and not apart", 100 * e.together);
  }
  const auto best = bestOf(t);
  if (!best.empty()) fmt::print("\n");
  for (const SweepBest& b : best) fmt::print("{}\n", b.text);
  if (best.size() > 1)
    if (const std::string why = whyPart(t, best[0], best[1]); !why.empty()) fmt::print("{}\n", why);
}

/// Writes the table whole or says why not; `stem` without ending.
Outcome keepTable(const SweepTable& t, const std::filesystem::path& stem) {
  if (Outcome o = saveFile(stem.string() + ".json", sweepTableText(t)); !o) return o;
  return saveFile(stem.string() + ".csv", sweepCsv(t));
}

int tell(const SweepTable& t, const SweepCall& c) {
  if (!c.csv.empty())
    if (const Outcome o = saveFile(c.csv, sweepCsv(t)); !o) return complain(o.error().text(), 1);
  if (!c.xlsx.empty())
    if (const Outcome o = writeWorkbook(c.xlsx, sweepSheets(t), t.sweep.name); !o) return complain(o.error().text(), 1);
  if (!c.picture.empty()) {
    const PaintingWithoutWindow painting;
    if (const Outcome o = saveSweepPage(t, c.picture); !o) return complain(o.error().text(), 1);
  }
  if (c.json)
    fmt::print("{}\n", readingJson(t).dump(2));
  else
    printReading(t);
  return 0;
}

int runASweep(const SweepCall& c, const Session& session) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  const auto sweep = sweepAsked(c, p);
  if (!sweep) return complain("sweep: " + sweep.error().text(), 2);
  const auto part = partOf(c.part);
  if (!part) return complain(part.error().text(), 2);
  const YardstickShelf shelf = shelfFor(session, c.project, c.yardstickFolders);
  if (c.cost) {
    const auto cost = sweepCost(p, *sweep, shelf);
    if (!cost) return complain("sweep: " + cost.error().text(), 2);
    fmt::print("{} of {:.0f} combinations{}, in {} (the runs of one share the rays of their years)\n",
               counted(cost->rows, "run", "runs"), cost->combinations,
               cost->leftOut > 0 ? fmt::format(", {} left out by conditions", cost->leftOut) : "",
               counted(cost->batches, "batch", "batches"));
    return 0;
  }
  if (c.take > 0) {
    const auto variation = Variation::of(p, *sweep);
    if (!variation) return complain("sweep: " + variation.error().text(), 2);
    const auto points = sweepPoints(*variation);
    if (!points) return complain("sweep: " + points.error().text(), 2);
    if (c.take > points->points.size())
      return complain(fmt::format("sweep: there is no run {}; there are {}", c.take, points->points.size()), 2);
    auto made = withPointAsOption(p, *sweep, points->values(*variation, c.take - 1),
                                  c.as.empty() ? fmt::format("{} {}", sweep->name, c.take) : c.as);
    if (!made) return complain("sweep: " + made.error().text(), 1);
    const Outcome o = saveProject(*made, c.project);
    return o ? 0 : complain(o.error().text(), 1);
  }
  const bool parts = part->of > 1;
  const std::filesystem::path stem =
      c.out.empty() ? std::filesystem::path()
                    : std::filesystem::path(c.out) /
                          (parts ? fmt::format("part-{}-of-{}", part->part, part->of) : std::string("table"));
  if (!c.out.empty()) {
    std::error_code code;
    std::filesystem::create_directories(c.out, code);
    if (code) return complain(c.out + ": the folder can't be made: " + code.message(), 1);
  }
  // Parts run anywhere at once: each keeps its answers to itself.
  ResultStore store(c.noStore || parts ? std::filesystem::path() : ResultStore::besideProject(c.project));
  StudyRunner runner(&store, {c.threads});
  RunControl control;
  control.progress = progressLine();
  auto last = std::chrono::steady_clock::now();
  const auto table = runSweep(p, *sweep, shelf, runner, control, *part, [&](const SweepTable& soFar) {
    const auto now = std::chrono::steady_clock::now();
    if (stem.empty() || now - last < std::chrono::seconds(2)) return;
    last = now;
    (void)keepTable(soFar, stem); // told at the end where it fails
  });
  std::fputs("\r      \r", stderr);
  if (!table) return complain("sweep: " + table.error().text(), 2);
  if (!stem.empty())
    if (const Outcome o = keepTable(*table, stem); !o) return complain(o.error().text(), 1);
  return tell(*table, c);
}

int mergeParts(const SweepCall& c) {
  std::vector<SweepTable> tables;
  std::string told;
  for (const std::string& folder : c.folders) {
    std::error_code code;
    std::vector<std::filesystem::path> files;
    if (std::filesystem::is_directory(folder, code)) {
      for (const auto& entry : std::filesystem::directory_iterator(folder, code))
        if (entry.path().extension() == ".json" && entry.path().filename().string().starts_with("part-"))
          files.push_back(entry.path());
      std::sort(files.begin(), files.end());
      if (files.empty()) return complain("merge: " + folder + " holds no part-….json", 1);
    } else {
      files.push_back(folder);
    }
    for (const auto& file : files) {
      const auto bytes = loadFile(file, 1u << 30);
      if (!bytes) return complain("merge: " + bytes.error().text(), 1);
      auto table = sweepTableFromText(*bytes, file.string());
      if (!table) return complain("merge: " + table.error().text(), 1);
      tables.push_back(std::move(*table));
    }
  }
  std::vector<std::size_t> missing;
  const auto whole = mergedSweep(tables, &missing);
  if (!whole) return complain("merge: " + whole.error().text(), 2);
  if (!c.out.empty()) {
    std::error_code code;
    std::filesystem::create_directories(c.out, code);
    if (const Outcome o = keepTable(*whole, std::filesystem::path(c.out) / "table"); !o)
      return complain(o.error().text(), 1);
  }
  const int code = tell(*whole, c);
  if (code != 0 || missing.empty()) return code;
  std::string list;
  for (std::size_t k = 0; k < std::min<std::size_t>(missing.size(), 20); ++k)
    list += fmt::format("{}{}", k ? ", " : "", missing[k] + 1);
  return complain(fmt::format("merge: {} of {} runs are in no part: {}{}; run the part that is missing and merge again",
                              missing.size(), whole->all, list, missing.size() > 20 ? ", …" : ""),
                  1);
}

int least(const SweepCall& c, const Session& session) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  const auto sweep = sweepAsked(c, p);
  if (!sweep) return complain("least-change: " + sweep.error().text(), 2);
  ResultStore store(c.noStore ? std::filesystem::path() : ResultStore::besideProject(c.project));
  StudyRunner runner(&store, {c.threads});
  RunControl control;
  control.progress = progressLine();
  const LeastChangeWish wish{c.confidence / 100, c.runs, c.coarser};
  const auto found = leastChange(p, *sweep, shelfFor(session, c.project, c.yardstickFolders), runner, control, wish);
  std::fputs("\r      \r", stderr);
  if (!found) return complain("least-change: " + found.error().text(), 2);
  if (found->found && !c.as.empty()) {
    auto made = withPointAsOption(p, *sweep, found->tried[*found->found].values, c.as);
    if (!made) return complain("least-change: " + made.error().text(), 1);
    if (const Outcome o = saveProject(*made, c.project); !o) return complain(o.error().text(), 1);
  }
  SweepTable names; // for names and units
  names.sweep = *sweep;
  names.units = found->units;
  names.outcomeUnits = found->outcomeUnits;
  const auto triedJson = [&](const TriedDesign& t) {
    Json j{{"values", valuesJson(names, t.values)}, {"change", t.change}, {"passes", t.passes}, {"full", t.full}};
    if (!t.fault.empty()) j["fault"] = t.fault;
    j["figures"] = figuresJson(names, t.figures);
    return j;
  };
  if (c.json) {
    Json j{{"sweep", sweep->name},    {"text", found->text}, {"already", found->already},
           {"coarse", found->coarse}, {"full", found->full}, {"seconds", found->seconds}};
    j["found"] = found->found ? triedJson(found->tried[*found->found]) : Json();
    j["nearest"] = triedJson(found->tried[found->nearest]);
    for (const SingleChange& s : found->single) {
      Json one{{"variable", sweep->variables[s.variable].name}, {"gain", s.gain}, {"passes", s.passes}};
      std::visit([&](const auto& x) { one["value"] = x; }, s.value);
      j["single"].push_back(std::move(one));
    }
    for (const std::size_t k : found->edge) j["edge"].push_back(triedJson(found->tried[k]));
    for (const TriedDesign& t : found->tried) j["tried"].push_back(triedJson(t));
    fmt::print("{}\n", j.dump(2));
  } else {
    fmt::print("{}\n\nTried, in order:\n", found->text);
    for (const TriedDesign& t : found->tried) {
      std::string figures;
      for (std::size_t o = 0; o < t.figures.size(); ++o)
        figures += fmt::format("  {} {:.4g}{}", sweep->outcomes[o].name, t.figures[o].value,
                               t.figures[o].error > 0 ? fmt::format(" ± {:.2g}", t.figures[o].error) : "");
      fmt::print("  {} {} change {:.3f}  {}{}{}\n", t.passes ? "passes" : "fails ", t.full ? "full  " : "coarse",
                 t.change, pointText(names, t.values), figures, t.fault.empty() ? "" : "  " + t.fault);
    }
  }
  return found->found ? 0 : 1;
}

} // namespace

void addSweep(CLI::App& app, Session& session) {
  auto c = std::make_shared<SweepCall>();
  const auto common = [&](CLI::App* s) {
    s->add_option("project", c->project, "project file")->required();
    s->add_option("--name", c->name, "of the project's sweep");
    s->add_option("--file", c->file, "in place of one of the project's: a sweep as JSON (docs/project-format.md)");
    s->add_option("--option", c->option, "design to begin with");
    s->add_option("--yardsticks", c->yardstickFolders, "further folders of rules");
    s->add_option("--threads", c->threads, "0: all");
    s->add_flag("--no-store", c->noStore, "neither reads nor writes results beside the project");
    s->add_flag("--json", c->json, "as JSON");
  };
  auto* s = app.add_subcommand("sweep", "Runs many designs: what matters, what doesn't, which is best");
  common(s);
  s->add_option("--part", c->part, "2/4: the second of four parts, to be merged afterwards");
  s->add_option("--out", c->out, "folder for the table (JSON and CSV), kept up while it runs");
  s->add_option("--csv", c->csv, "the table as CSV");
  s->add_option("--xlsx", c->xlsx, "runs, what moves each figure, and the best as a workbook");
  s->add_option("--picture", c->picture, "the charts: .png, .svg or .pdf");
  s->add_flag("--cost", c->cost, "tells how many runs it would be, and ends");
  s->add_option("--take", c->take, "makes an option of this run instead of running anything")
      ->check(CLI::PositiveNumber);
  s->add_option("--as", c->as, "name of that option");
  s->callback([c, &session] { session.exit = runASweep(*c, session); });

  auto* m = app.add_subcommand("merge", "Puts the parts of a sweep together");
  m->add_option("parts", c->folders, "folders with part-….json, or such files")->required();
  m->add_option("--out", c->out, "folder for the whole table");
  m->add_option("--csv", c->csv, "the table as CSV");
  m->add_option("--xlsx", c->xlsx, "runs, what moves each figure, and the best as a workbook");
  m->add_option("--picture", c->picture, "the charts: .png, .svg or .pdf");
  m->add_flag("--json", c->json, "as JSON");
  m->callback([c, &session] { session.exit = mergeParts(*c); });

  auto* l =
      app.add_subcommand("least-change", "Finds the least change with which all bounds of a sweep's goals are kept");
  common(l);
  l->add_option("--confidence", c->confidence, "% of each bound, in the run that confirms (95)")
      ->check(CLI::Range(50.0, 99.99));
  l->add_option("--runs", c->runs, "at most so many (80)")->check(CLI::Range(1, 10'000));
  l->add_option("--coarser", c->coarser, "error wanted of years while it searches, times this (4)")
      ->check(CLI::Range(1.0, 20.0));
  l->add_option("--as", c->as, "makes an option of what it finds");
  l->callback([c, &session] { session.exit = least(*c, session); });
}

} // namespace noonward::cli
