// The record on the command line: made, and checked.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/runs/record.h"
#include "picture/record_pages.h"
#include <cstdio>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

struct RecordCall {
  std::string project, out = "record", study, option, page = "a4";
  std::vector<std::string> yardstickFolders;
  bool json = false, noStore = false;
  int threads = 0;
};

int makeRecord(const RecordCall& c, const Session& session) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Study* study = nullptr;
  for (const Study& s : loaded->project.studies)
    if (s.kind == StudyKind::Year && (c.study.empty() || s.name == c.study || s.id.text() == c.study) && !study)
      study = &s;
  if (!study)
    return complain("record: the project has no daylight year" +
                        (c.study.empty() ? std::string() : " called \"" + c.study + "\"") +
                        "; set-up --yardstick daylight-credit makes one",
                    2);
  ResultStore store(c.noStore ? std::filesystem::path() : ResultStore::besideProject(c.project));
  StudyRunner runner(&store, {c.threads});
  RunControl control;
  control.progress = progressLine();
  const auto facts =
      gatherRecord(loaded->project, *study, shelfFor(session, c.project, c.yardstickFolders), runner, control);
  std::fputs("\r      \r", stderr);
  if (!facts) return complain(facts.error().text(), 1);
  const Outcome o = makeRecordFolder(*facts, c.out, c.page == "letter" ? PageKind::Letter : PageKind::A4, control);
  if (!o) return complain(o.error().text(), 1);
  for (const auto& [j, v] : facts->verdicts) fmt::print("{}: {}\n", v.title, v.text);
  fmt::print("record in {}, run {}\n", c.out, facts->year.result->key.fingerprint());
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
  auto* record =
      app.add_subcommand("record", "The record to hand in: pages, spreadsheet, tables and pictures of a daylight year");
  record->add_option("project", c->project, "project file")->required();
  record->add_option("--out", c->out, "folder (record)");
  record->add_option("--study", c->study, "daylight year, by its name (the first)");
  record->add_option("--option", c->option, "of this option, by its name");
  record->add_option("--page", c->page, "a4 or letter")->check(CLI::IsMember({"a4", "letter"}));
  record->add_option("--yardsticks", c->yardstickFolders, "more folders with rule files");
  record->add_option("--threads", c->threads, "0: all");
  record->add_flag("--no-store", c->noStore, "neither read nor keep stored results");
  record->callback([c, &session] { session.exit = makeRecord(*c, session); });
  auto* check = app.add_subcommand("verify", "Recompute a record from what it carries and say whether it holds");
  check->add_option("record", c->project, "folder of a record, or its record.json")->required();
  check->add_option("--threads", c->threads, "0: all");
  check->add_flag("--json", c->json, "every line as JSON");
  check->callback([c, &session] { session.exit = verify(*c); });
}

} // namespace noonward::cli
