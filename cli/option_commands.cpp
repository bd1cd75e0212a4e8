// Options and runs on the command line: what differs, results side by side, the list of runs, a study as a yardstick
// proposes.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/files/project/design_json.h"
#include "core/files/results/tables.h"
#include "core/runs/compare.h"
#include "core/yardsticks/questions.h"
#include <cstdio>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

struct OptionCall {
  std::string project, study, from, to, yardstick, save, name;
  std::vector<std::string> of;
  bool json = false;
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

int compareOptions(const OptionCall& c) {
  const auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  const auto a = optionNamed(p, c.from), b = optionNamed(p, c.to);
  if (!a || !b) return complain(fmt::format("compare: the project has no option \"{}\"", a ? c.to : c.from), 2);
  const Study* study = nullptr;
  for (const Study& s : p.studies)
    if (s.name == c.study && !study) study = &s;
  if (!c.study.empty() && !study) return complain("compare: the project has no study of that name", 2);
  ResultStore store(ResultStore::besideProject(c.project));
  StudyRunner runner(&store, {c.threads});
  RunControl control;
  control.progress = progressLine();
  const auto figures = figuresOfOptions(p, *a, *b, study, runner, control);
  if (!figures) return complain(figures.error().text(), 1);
  std::fputs("\r      \r", stderr);
  const YearComparison& d = figures->moves;
  const std::vector<std::string> inputs = optionDifferences(p, *a, *b);
  if (c.json) {
    Json j{{"from", p.options[*a].name}, {"to", p.options[*b].name}, {"inputs", inputs}};
    for (const FigureMove& m : d.moves)
      j["moves"].push_back(Json{{"space", m.space},
                                {"figure", m.figure},
                                {"unit", m.unit},
                                {"from", m.from},
                                {"to", m.to},
                                {"error", m.error},
                                {"sure", m.sure()}});
    fmt::print("{}\n", j.dump(2));
    return 0;
  }
  fmt::print("{} → {}\n", p.options[*a].name, p.options[*b].name);
  for (const std::string& t : inputs) fmt::print("  {}\n", t);
  for (const FigureMove& m : d.moves)
    fmt::print("{:<24}{:<14}{:>9.1f} → {:<9.1f}{:+9.1f} ± {:.1f} {}{}\n", m.space, m.figure, m.from, m.to,
               m.to - m.from, m.error, m.unit, m.sure() ? "" : "  within the error");
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

  auto* compare = app.add_subcommand(
      "compare", "Two options: inputs that differ, and how far each figure of daylight, glare and energy moved");
  project(compare);
  compare->add_option("from", c->from, "an option, by its name or letter")->required();
  compare->add_option("to", c->to, "another")->required();
  compare->add_option("--study", c->study, "one study, by its name; of a daylight year glare and energy too");
  compare->add_option("--threads", c->threads, "0: all");
  compare->add_flag("--json", c->json, "as JSON");
  compare->callback([c, &session] { session.exit = compareOptions(*c); });

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
