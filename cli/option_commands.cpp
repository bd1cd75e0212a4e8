// Options and runs on the command line: what differs, results side by side, the list of runs, a study as a yardstick
// proposes.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/files/project/design_json.h"
#include "core/files/save_file.h"
#include "core/yardsticks/questions.h"
#include "picture/beside_picture.h"
#include "picture/picture_export.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

struct OptionCall {
  std::string project, study, csv, xlsx, picture, yardstick, save, name;
  std::vector<std::string> of;
  bool json = false, keep = false;
  std::int64_t run = 0, against = 0;
  bool wentIn = false, remove = false;
  int threads = 0;
};

int listOptions(const OptionCall& c) {
  const auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  Json all = Json::array();
  for (std::size_t k = 0; k < p.options.size(); ++k) {
    const std::vector<std::string> changes = k == 0 ? std::vector<std::string>{} : optionDifferences(p, 0, k);
    if (c.json) {
      all.push_back(Json{{"name", p.options[k].name},
                         {"in_hand", k == p.option},
                         {"changes", changes},
                         {"lost", p.options[k].orphans}});
      continue;
    }
    fmt::print("{} {}{}\n", char('A' + char(k)), p.options[k].name, k == p.option ? "  (in hand)" : "");
    for (const std::string& t : changes) fmt::print("    {}\n", t);
    for (const std::string& t : p.options[k].orphans) fmt::print("    no longer finds its place: {}\n", t);
  }
  if (c.json)
    fmt::print("{}\n", all.dump(2));
  else if (p.options.empty())
    fmt::print("one design alone\n");
  return 0;
}

Json figureJson(const BesideFigure& f, std::size_t k) {
  if (!std::isfinite(f.of[k].value)) return Json{{"fault", f.of[k].fault}};
  Json j{{"value", f.of[k].value}, {"standard_error", f.of[k].error}};
  if (k == 0 || !std::isfinite(f.moved(k))) return j;
  j["moved"] = f.moved(k);
  j["moved_error"] = f.error(k);
  j["sure"] = f.sure(k);
  return j;
}

Json besideJson(const Beside& b) {
  Json j;
  for (const BesideDesign& d : b.designs) {
    Json one{{"name", d.name}, {"inputs", d.inputs}};
    if (!d.fault.empty()) one["fault"] = d.fault;
    j["designs"].push_back(std::move(one));
  }
  for (const BesideFigure& f : b.figures) {
    Json one{{"study", f.study}, {"space", f.space}, {"figure", f.figure}, {"unit", f.unit}};
    for (std::size_t k = 0; k < f.of.size(); ++k) one["of"].push_back(figureJson(f, k));
    j["figures"].push_back(std::move(one));
  }
  if (b.designs.size() != 2) return j;
  j["from"] = b.designs[0].name;
  j["to"] = b.designs[1].name;
  j["inputs"] = b.designs[1].inputs;
  for (const BesideFigure& f : b.figures)
    if (std::isfinite(f.moved(1)))
      j["moves"].push_back(Json{{"study", f.study},
                                {"space", f.space.empty() ? "all" : f.space},
                                {"figure", f.figure},
                                {"unit", f.unit},
                                {"from", f.of[0].value},
                                {"to", f.of[1].value},
                                {"error", f.error(1)},
                                {"sure", f.sure(1)}});
  return j;
}

void printBeside(const Beside& b) {
  for (std::size_t k = 0; k < b.designs.size(); ++k) {
    const BesideDesign& d = b.designs[k];
    fmt::print("{} {}{}\n", k + 1, d.name, d.fault.empty() ? "" : ": " + d.fault);
    for (std::size_t i = 0; i < std::min<std::size_t>(d.inputs.size(), 20); ++i) fmt::print("    {}\n", d.inputs[i]);
    if (d.inputs.size() > 20) fmt::print("    and {} more\n", d.inputs.size() - 20);
  }
  std::string study, space;
  for (const BesideFigure& f : b.figures) {
    if (f.study != study || f.space != space) fmt::print("\n{}{}\n", f.study, f.space.empty() ? "" : " · " + f.space);
    study = f.study;
    space = f.space;
    fmt::print("  {:<28}{:<8}", f.figure, f.unit);
    for (std::size_t k = 0; k < f.of.size(); ++k) {
      const bool known = std::isfinite(f.of[k].value);
      fmt::print("{:>10}", known ? fmt::format("{:.4g}", f.of[k].value) : "–");
      if (k == 0) continue;
      const std::string moved = !std::isfinite(f.moved(k)) ? ""
                                : f.sure(k)                ? fmt::format("{:+.3g}", f.moved(k))
                                : f.moved(k) == 0          ? "0"
                                                           : "≈";
      fmt::print("{:>9}{:<8}", moved, f.error(k) > 0 && !moved.empty() ? fmt::format(" ± {:.2g}", f.error(k)) : "");
    }
    fmt::print("\n");
  }
}

int compareDesigns(const OptionCall& c, const Session& session) {
  const auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  Project p = loaded->project;
  std::vector<DesignRef> refs;
  for (const std::string& text : c.of) {
    auto ref = designRefFromText(p, text);
    if (!ref) return complain("compare: " + ref.error().text(), 2);
    refs.push_back(std::move(*ref));
  }
  if (refs.empty()) refs = designsBeside(p);
  if (refs.size() < 2) return complain("compare: two designs or more are expected; there is one", 2);
  if (c.keep) {
    p.beside = refs;
    if (const Outcome o = saveProject(p, c.project); !o) return complain(o.error().text(), 1);
  }
  ResultStore store(ResultStore::besideProject(c.project));
  StudyRunner runner(&store, {c.threads});
  RunControl control;
  control.progress = progressLine();
  const auto beside = laidBeside(p, refs, c.study, shelfFor(session, c.project), runner, control);
  std::fputs("\r      \r", stderr);
  if (!beside) return complain("compare: " + beside.error().text(), 1);
  if (!c.csv.empty())
    if (const Outcome o = saveFile(c.csv, besideCsv(*beside)); !o) return complain(o.error().text(), 1);
  if (!c.xlsx.empty())
    if (const Outcome o = besideWorkbook(*beside, c.xlsx); !o) return complain(o.error().text(), 1);
  if (!c.picture.empty()) {
    const PaintingWithoutWindow painting;
    BesideView view;
    view.units = p.units;
    view.project = p.name;
    view.place = p.site.name + ", " + placeText(p.site.place);
    if (const Outcome o = saveBesidePage(*beside, view, c.picture); !o) return complain(o.error().text(), 1);
  }
  if (c.json)
    fmt::print("{}\n", besideJson(*beside).dump(2));
  else
    printBeside(*beside);
  return 0;
}

int listRuns(const OptionCall& c) {
  ResultStore store(ResultStore::besideProject(c.project));
  if (c.run > 0) {
    const std::string text = store.wentIn(c.run);
    if (!c.name.empty()) {
      const Outcome o = store.rename(c.run, c.name);
      return o ? 0 : complain(o.error().text(), 1);
    }
    if (c.remove) {
      const Outcome gone = store.removeRun(c.run);
      return gone ? 0 : complain(gone.error().text(), 1);
    }
    if (text.empty()) return complain(fmt::format("runs: there is no run {}, or what went in is not known", c.run), 2);
    if (c.against > 0) {
      for (const std::string& t : wentInDifferences(store.wentIn(c.against), text)) fmt::print("{}\n", t);
      return 0;
    }
    fmt::print("{}", text);
    return 0;
  }
  Json all = Json::array();
  for (const StoredRun& r : store.runs()) {
    if (c.json)
      all.push_back(Json{{"number", r.number},
                         {"name", r.name},
                         {"study", studyKey(r.kind)},
                         {"option", r.option},
                         {"when", r.when},
                         {"asked", r.asked},
                         {"state", r.state},
                         {"seconds", r.seconds},
                         {"key", r.key.hex()}});
    else
      fmt::print("{:>5}  {}  {:<24} {:<14} {:<14} {:>7.2f} s  {}  {}\n", r.number, r.when, r.name, r.option, r.state,
                 r.seconds, r.key.fingerprint(), r.asked);
  }
  if (c.json) fmt::print("{}\n", all.dump(2));
  return 0;
}

int setUp(const OptionCall& c, const Session& session) {
  auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  const YardstickShelf shelf = shelfFor(session, c.project);
  const Yardstick* y = shelf.find(c.yardstick);
  if (!y) return complain(fmt::format("set-up: there is no yardstick \"{}\"", c.yardstick), 2);
  Project p = withSetUp(std::move(loaded->project), *y);
  const Outcome o = saveProject(p, c.save.empty() ? c.project : c.save);
  return o ? 0 : complain(o.error().text(), 1);
}

int askQuestion(const OptionCall& c, const Session& session) {
  if (c.name.empty() && c.yardstick.empty()) {
    for (const Question& q : questions) fmt::print("{:<16}{}: {}\n", q.key, q.words, q.help);
    return 0;
  }
  auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  std::vector<ElementId> selected;
  for (const std::string& name : c.of) {
    const std::size_t before = selected.size();
    for (const ElementPtr& e : loaded->project.elements)
      if (e->name == name || e->layer == name) selected.push_back(e->id);
    if (selected.size() == before) return complain(fmt::format("ask: no element or layer is called \"{}\"", name), 2);
  }
  const YardstickShelf shelf = shelfFor(session, c.project);
  const Yardstick* rule = c.yardstick.empty() ? nullptr : shelf.find(c.yardstick);
  if (!c.yardstick.empty() && !rule) return complain(fmt::format("ask: there is no yardstick \"{}\"", c.yardstick), 2);
  auto asked = rule ? askRule(std::move(loaded->project), *rule, selected, shelf)
                    : ask(std::move(loaded->project), c.name, selected, shelf);
  if (!asked) return complain(asked.error().text(), 1);
  fmt::print("{}\n", asked->told);
  const Outcome o = saveProject(asked->project, c.save.empty() ? c.project : c.save);
  return o ? 0 : complain(o.error().text(), 1);
}

} // namespace

void addOptions(CLI::App& app, Session& session) {
  auto c = std::make_shared<OptionCall>();
  const auto project = [&](CLI::App* s) { s->add_option("project", c->project, "project file")->required(); };
  auto* options = app.add_subcommand("options", "The options of a project and what each changes");
  project(options);
  options->add_flag("--json", c->json, "as JSON");
  options->callback([c, &session] { session.exit = listOptions(*c); });

  auto* compare = app.add_subcommand("compare", "Designs beside each other: inputs that differ, figures with their "
                                                "errors, how far each moved from the first");
  project(compare);
  compare->add_option("designs", c->of,
                      "options by name or letter, runs of a sweep as NAME:12, in the order wanted; "
                      "none: those that the project keeps, else all options");
  compare->add_option("--study", c->study,
                      "one study, by its name; \"*\": all, with all rules laid; else daylight years, glare and energy");
  compare->add_option("--csv", c->csv, "the table as CSV");
  compare->add_option("--xlsx", c->xlsx, "the table and the inputs that differ as a workbook");
  compare->add_option("--picture", c->picture, "plans at one scale and bars: .png, .svg or .pdf");
  compare->add_flag("--keep", c->keep, "keeps the designs in the project, in this order");
  compare->add_option("--threads", c->threads, "0: all");
  compare->add_flag("--json", c->json, "as JSON");
  compare->callback([c, &session] { session.exit = compareDesigns(*c, session); });

  auto* runs =
      app.add_subcommand("runs", "The runs kept beside a project; what went into one, and what differs from another");
  project(runs);
  runs->add_option("--run", c->run, "number of a run: prints what went in");
  runs->add_option("--against", c->against, "number of another: prints what differs from it");
  runs->add_option("--rename", c->name, "a new name for the run");
  runs->add_flag("--delete", c->remove, "forget the run and its result");
  runs->add_flag("--json", c->json, "the list as JSON");
  runs->callback([c, &session] { session.exit = listRuns(*c); });

  auto* question = app.add_subcommand(
      "ask", "Lays what the answer to a question needs: sensors, a study and the rule; without a question lists them");
  question->add_option("project", c->project, "project file");
  question->add_option("question", c->name, "its key, such as sun-ground or room-glare; `ask` alone lists them");
  question->add_option("--rule", c->yardstick, "a yardstick to meet instead of a question");
  question->add_option("--of", c->of, "elements or layers meant (all that count)");
  question->add_option("--save", c->save, "where the project is written (in place)");
  question->callback([c, &session] {
    session.exit =
        c->project.empty() == (c->name.empty() && c->yardstick.empty())
            ? askQuestion(*c, session)
            : complain("ask: a project and a question or --rule are expected; alone it lists the questions", 2);
  });

  auto* set = app.add_subcommand("set-up", "Grid, study and judgement as a yardstick proposes them");
  project(set);
  set->add_option("--yardstick", c->yardstick, "key of a rule")->required();
  set->add_option("--save", c->save, "write the project here instead");
  set->callback([c, &session] { session.exit = setUp(*c, session); });
}

} // namespace noonward::cli
