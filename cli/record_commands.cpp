// The record on the command line: made, and checked.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/runs/record/record.h"
#include "picture/record_pages.h"
#include <algorithm>
#include <cstdio>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

struct RecordCall {
  std::string project, out = "record", study, option, page, since;
  std::vector<std::string> yardstickFolders;
  bool json = false, noStore = false;
  int threads = 0;
};

/// The parts asked for on the command line in place of those the project lists: one study, with the rules laid.
Outcome narrowed(Project& p, const RecordCall& c) {
  if (c.study.empty()) return {};
  const auto study = std::find_if(p.studies.begin(), p.studies.end(),
                                  [&](const Study& s) { return s.name == c.study || s.id.text() == c.study; });
  if (study == p.studies.end()) return fail(fmt::format("record: the project has no study \"{}\"", c.study));
  p.record.parts.clear();
  std::vector<RecordPart> parts;
  for (RecordPart& part : recordParts(p))
    if (part.kind == RecordPartKind::Verdict || part.of == study->id.text()) parts.push_back(std::move(part));
  p.record.parts = std::move(parts);
  return {};
}

int makeRecord(const RecordCall& c, const Session& session) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  Project p = loaded->project;
  if (const Outcome o = narrowed(p, c); !o) return complain(o.error().text(), 2);
  if (!c.page.empty()) p.record.paper = paperFromKey(c.page).value_or(Paper::A4);
  ResultStore store(c.noStore ? std::filesystem::path() : ResultStore::besideProject(c.project));
  StudyRunner runner(&store, {c.threads});
  RunControl control;
  control.progress = progressLine();
  const auto facts = gatherRecord(p, shelfFor(session, c.project, c.yardstickFolders), runner, control, c.since,
                                  readGuidelines(resourcesFolder(session.program) / "guidelines"));
  std::fputs("\r      \r", stderr);
  if (!facts) return complain(facts.error().text(), 1);
  const Outcome o = makeRecordFolder(*facts, c.out, control);
  if (!o) return complain(o.error().text(), 1);
  for (const VerdictChapter& v : facts->verdicts) fmt::print("{}: {}\n", v.verdict.title, v.verdict.text);
  for (const FieldChapter& x : facts->fields)
    if (!x.fault.empty()) fmt::print("{}: not run: {}\n", x.study.name, x.fault);
  for (const MeasuredChapter& x : facts->measured)
    fmt::print("{}: {}\n", x.series.name, x.found ? measuredText(*x.found) : "not compared: " + x.fault);
  for (const SweepChapter& x : facts->sweeps) {
    if (!x.table) fmt::print("{}: not run: {}\n", x.sweep.name, x.fault);
    if (x.table)
      for (const SweepBest& b : bestOf(*x.table)) fmt::print("{}: {}\n", x.sweep.name, b.text);
  }
  if (facts->beside && !facts->beside->found) fmt::print("not laid beside each other: {}\n", facts->beside->fault);
  fmt::print("record in {}, claims {}\n", c.out, facts->fingerprint());
  return 0;
}

/// What changed between two records.
int changes(const RecordCall& c) {
  const auto told = recordChanges(c.project, c.out);
  if (!told) return complain(told.error().text(), 1);
  if (c.json) {
    Json j{{"earlier", told->earlier}, {"inputs", told->inputs}, {"receivers", told->receivers}};
    for (const auto& [key, list] : {std::pair{"verdicts", &told->verdicts}, {"figures", &told->figures}}) {
      j[key] = Json::array();
      for (const RecordChange& x : *list) j[key].push_back(Json{{"what", x.what}, {"was", x.was}, {"is", x.is}});
    }
    fmt::print("{}\n", j.dump(2));
    return 0;
  }
  if (told->none()) fmt::print("Nothing changed: inputs, figures and verdicts are the same.\n");
  for (const RecordChange& x : told->verdicts) fmt::print("{}: {} → {}\n", x.what, x.was, x.is);
  for (const std::string& x : told->receivers) fmt::print("{}\n", x);
  for (const RecordChange& x : told->figures) fmt::print("{}: {} → {}\n", x.what, x.was, x.is);
  for (const std::string& x : told->inputs) fmt::print("input: {}\n", x);
  return 0;
}

int verify(const RecordCall& c) {
  RunControl control;
  control.progress = progressLine();
  const auto report = verifyRecord(c.project, control, {c.threads});
  std::fputs("\r      \r", stderr);
  if (!report) return complain(report.error().text(), 1);
  Json all = Json::array();
  for (const VerifyLine& l : report->lines) {
    if (c.json)
      all.push_back(Json{{"what", l.what}, {"claimed", l.claimed}, {"found", l.found}, {"holds", l.holds}});
    else if (!l.holds)
      fmt::print("DIFFERS  {}: claimed {}, found {}\n", l.what, l.claimed, l.found);
  }
  if (c.json)
    fmt::print("{}\n", Json{{"holds", report->holds()}, {"lines", all}}.dump(2));
  else
    fmt::print("{}: {} of {} lines agree\n", report->holds() ? "The record holds" : "The record does not hold",
               std::count_if(report->lines.begin(), report->lines.end(), [](const VerifyLine& l) { return l.holds; }),
               report->lines.size());
  return report->holds() ? 0 : 1;
}

} // namespace

void addRecord(CLI::App& app, Session& session) {
  auto c = std::make_shared<RecordCall>();
  auto* record = app.add_subcommand(
      "record", "The record to hand in: pages, spreadsheet, tables and pictures of what the project lists");
  record->add_option("project", c->project, "project file")->required();
  record->add_option("--out", c->out, "folder (record)");
  record->add_option("--study", c->study, "one study alone, by its name, with the rules laid (what the project lists)");
  record->add_option("--option", c->option, "of this option, by its name");
  record->add_option("--page", c->page, "a4, a3 or letter (the project's)")
      ->check(CLI::IsMember({"a4", "a3", "letter"}));
  record->add_option("--since", c->since, "earlier record: what changed since it stands in this one");
  record->add_option("--yardsticks", c->yardstickFolders, "more folders with rule files");
  record->add_option("--threads", c->threads, "0: all");
  record->add_flag("--no-store", c->noStore, "neither read nor keep stored results");
  record->callback([c, &session] { session.exit = makeRecord(*c, session); });
  auto* since = app.add_subcommand("record-changes", "What changed between two records: inputs, figures, verdicts");
  since->add_option("earlier", c->project, "folder of the earlier record")->required();
  since->add_option("later", c->out, "folder of the later record")->required();
  since->add_flag("--json", c->json, "as JSON");
  since->callback([c, &session] { session.exit = changes(*c); });
  auto* check = app.add_subcommand("verify", "Recompute a record from what it carries and say whether it holds");
  check->add_option("record", c->project, "folder of a record, or its record.json")->required();
  check->add_option("--threads", c->threads, "0: all");
  check->add_flag("--json", c->json, "every line as JSON");
  check->callback([c, &session] { session.exit = verify(*c); });
}

} // namespace noonward::cli
