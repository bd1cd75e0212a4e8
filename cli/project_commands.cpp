#include "cli/commands.h"
#include "cli/run_command.h"
#include "core/base/json.h"
#include "core/base/words.h"
#include "core/files/library.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/project/project_file.h"
#include "core/files/results/tables.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/model/settings/study_fields.h"
#include "core/runs/runner.h"
#include "core/runs/trial.h"
#include "core/studies/cost.h"
#include "core/studies/model_parts.h"
#include "picture/picture_export.h"
#include <cstdio>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

struct ProjectCall {
  std::string project, study = "sun-hours", name, out = ".", yardstick, point, normal = "0,0,1", threads;
  std::string view = "solid", moment, size = "1600x1000", range, section, side, role, state;
  bool values = false;
  double storey = -1e9;
  std::vector<std::string> yardstickFolders;
  bool estimate = false, studyGiven = false, json = false, csv = false, before = false, difference = false,
       noStore = false, allStretches = false, trial = false, robust = false, months = false;
  std::string sky, at, blinds, option, illuminance, sunshine, error, seed;
  std::vector<std::string> set;
  std::string weights;
  bool series = false, settings = false;
  int threadCount = 0;
};

std::optional<Vec3> vectorFromText(const std::string& text) {
  std::array<double, 3> v{};
  std::size_t k = 0, at = 0;
  for (; k < 3; ++k) {
    const auto comma = k < 2 ? text.find(',', at) : text.size();
    if (comma == std::string::npos) return {};
    const auto x = numberFromText(std::string_view(text).substr(at, comma - at));
    if (!x) return {};
    v[k] = *x;
    at = comma + 1;
  }
  return Vec3{v[0], v[1], v[2]};
}

std::string fileStem(std::string name) {
  for (char& c : name)
    if (!std::isalnum(static_cast<unsigned char>(c))) c = '-';
  return name;
}

int runStudies(const ProjectCall& c) {
  const auto kind = studyFromKey(c.study);
  if (!kind) {
    std::string known;
    for (const StudyKindFacts& k : studyKinds) known += (known.empty() ? "" : ", ") + std::string(k.key);
    return complain(fmt::format("run: --study is one of {}", known), 2);
  }
  if (c.settings) {
    fmt::print("{}", fieldsAsText(*kind));
    return 0;
  }
  const RunCall call{c.project,
                     c.name,
                     c.out,
                     c.option,
                     c.study,
                     c.set,
                     {{"sky", c.sky},
                      {"error", c.error},
                      {"seed", c.seed},
                      {"blinds", c.blinds},
                      {"illuminance", c.illuminance},
                      {"sunshine", c.sunshine}},
                     c.at,
                     c.threadCount,
                     c.before,
                     c.noStore,
                     c.json,
                     c.series,
                     c.allStretches,
                     c.difference,
                     c.trial,
                     c.months,
                     c.weights};
  if (c.months && *kind != StudyKind::Irradiation) return complain("run: --months goes with --study irradiation", 2);
  if (!c.weights.empty() && *kind != StudyKind::Energy) return complain("run: --weights goes with --study energy", 2);
  if (c.before && c.difference) return complain("run: --before or --difference, not both", 2);
  if (factsOf(*kind).answer == AnswerOf::Year) return runYearStudy(call);
  if (factsOf(*kind).answer == AnswerOf::Light) return runLightStudies(call, *kind);
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  std::vector<Study> studies = p.studies;
  std::erase_if(studies, [](const Study& s) { return s.kind != StudyKind::SunHours; });
  if (!c.name.empty())
    std::erase_if(studies, [&](const Study& s) { return s.name != c.name && s.id.text() != c.name; });
  if (!c.name.empty() && studies.empty())
    return complain(fmt::format("run: the project has no study \"{}\"", c.name), 2);
  if (studies.empty())
    return complain("run: the project has no study; add one to \"studies\" (docs/project-format.md)", 1);
  for (Study& s : studies)
    if (const Outcome o = putSettings(s, call, p.site.year); !o) return complain(o.error().text(), 2);
  const std::vector<Study> whole = studies;
  if (c.trial)
    for (Study& s : studies) s = trialOf(s, p.site.year);
  std::error_code error;
  std::filesystem::create_directories(c.out, error);
  if (error) return complain(fmt::format("{}: {}", c.out, error.message()), 1);
  std::optional<ResultStore> store;
  if (!c.noStore && !c.trial) store.emplace(ResultStore::besideProject(c.project));
  StudyRunner runner(store ? &*store : nullptr, {c.threadCount});
  for (std::size_t i = 0; i < studies.size(); ++i) {
    const Study& s = studies[i];
    RunControl control;
    control.progress = progressLine();
    const auto input = sunHoursInput(p, s.groups, s.sunHours, c.before);
    if (!input) return complain(fmt::format("study \"{}\": {}", s.name, input.error().text()), 1);
    auto result = runner.sunHours(p, s.groups, s.sunHours, c.before, 0, control, s.name);
    std::fputs("\r     \r", stderr);
    if (!result) return complain(fmt::format("study \"{}\": {}", s.name, result.error().text()), 1);
    std::shared_ptr<const SunHoursResult> earlier; // without the proposal
    if (c.difference) {
      auto without = runner.sunHours(p, s.groups, s.sunHours, true, 0, control, s.name + " (before)");
      if (!without) return complain(fmt::format("study \"{}\": {}", s.name, without.error().text()), 1);
      earlier = *without;
    }
    if (c.trial) {
      const double scale = trialScale(whole[i], p.site.year);
      result = std::make_shared<const SunHoursResult>(raised(**result, scale));
      if (earlier) earlier = std::make_shared<const SunHoursResult>(raised(*earlier, scale));
    }
    // One study writes the fixed name; further ones add their own.
    const std::string tail = (i == 0 ? "" : "-" + fileStem(s.name)) + trialTail(call);
    const auto path = std::filesystem::path(c.out) / ("sun-hours" + tail + ".csv");
    if (const Outcome o = saveFile(path, sunHoursCsv(input->sensors, input->zone, **result, earlier.get())); !o)
      return complain(o.error().text(), 1);
    Json facts{{"study", s.name},
               {"asked", settingsText(s.sunHours)},
               {"fingerprint", (*result)->key.fingerprint()},
               {"key", (*result)->key.hex()},
               {"sensors", input->sensors.sensors.size()},
               {"triangles", input->scene.triangleCount()},
               {"seconds", (*result)->seconds},
               {"possible_hours", (*result)->possible},
               {"csv", path.filename().string()}};
    if (c.trial) facts["trial"] = trialText(whole[i], p.site.year);
    for (const SensorGridFacts& g : input->sensors.groups) {
      const HourStatistics st = statistics(**result, g.first, g.count, 2, input->sensors.areasOf(g.first, g.count));
      facts["groups"].push_back(Json{{"name", g.name},
                                     {"sensors", g.count},
                                     {"mean_hours", st.mean},
                                     {"median_hours", st.median},
                                     {"min_hours", st.least},
                                     {"max_hours", st.most},
                                     {"share_2h", st.shareAtLeast}});
    }
    const auto factsPath = std::filesystem::path(c.out) / ("sun-hours" + tail + ".json");
    if (const Outcome o = saveFile(factsPath, facts.dump(2) + "\n"); !o) return complain(o.error().text(), 1);
    if (c.allStretches) {
      std::string text;
      for (std::size_t k = 0; k < input->sensors.sensors.size(); ++k) {
        const std::string part = stretchesCsv(*input, k);
        text += k == 0 ? part : part.substr(part.find('\n') + 1);
      }
      if (const Outcome o = saveFile(std::filesystem::path(c.out) / ("sun-hours" + tail + "-stretches.csv"), text); !o)
        return complain(o.error().text(), 1);
    }
    if (c.json)
      fmt::print("{}\n", facts.dump());
    else
      fmt::print("{}: {}, {}, {:.2f} s, fingerprint {} -> {}\n", s.name,
                 counted(input->sensors.sensors.size(), "sensor", "sensors"), settingsText(s.sunHours),
                 (*result)->seconds, (*result)->key.fingerprint(), path.string());
  }
  return 0;
}

/// Every sensor as a receiver: where it stands, which way it looks, whose it is.
int runProbe(const ProjectCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  const auto at = vectorFromText(c.point), normal = vectorFromText(c.normal);
  if (!at || !normal || length(*normal) == 0) return complain("probe: points are written x,y,z", 2);
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return complain(zone.error().text(), 1);
  const Scene scene = buildScene(p, {!c.before, {}});
  if (anyStops(scene.findings)) return complain(scene.findings.front().text, 1);
  const ProbeResult r = probeProject(p, {*at, *normal, p.site.place, *zone, p.site.northAngle, p.site.year}, scene);
  if (c.csv) {
    fmt::print("{}", skylineCsv(p, r));
    return 0;
  }
  Json j{{"seconds", r.seconds},
         {"sun_hours_of_year", r.sunHours},
         {"step_seconds", probeStep},
         {"year_start", isoText(r.yearStart, zone->offset(r.yearStart))}};
  std::string year;
  for (ProbeState s : r.year)
    year += s == ProbeState::Night ? '.' : s == ProbeState::Behind ? 'b' : s == ProbeState::Shade ? 's' : 'S';
  j["year"] = year;
  for (const SkylineStep& s : r.skyline) {
    j["skyline"].push_back(Json{{"azimuth_deg", degrees(s.azimuth)},
                                {"altitude_deg", degrees(s.altitude)},
                                {"element", s.element ? surfaceName(p, s.element) : ""}});
  }
  if (c.json)
    fmt::print("{}\n", j.dump());
  else
    fmt::print("{:.1f} h of sun in {}, by 5-minute samples; {:.3f} s. --csv gives the skyline, --json everything.\n",
               r.sunHours, p.site.year, r.seconds);
  return 0;
}

int runCheck(const ProjectCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  Findings findings = checkProject(loaded->project);
  SourceWatch watch;
  for (Finding& f : checkSourceFiles(loaded->project, watch)) findings.push_back(std::move(f));
  if (const auto sensors = layOutSensors(loaded->project)) {
    findings.insert(findings.end(), sensors->findings.begin(), sensors->findings.end());
  } else {
    findings.push_back({Rank::StopsStudy, "sensors.fault", sensors.error().text(), 1, {}, "", ""});
  }
  findings = merged(std::move(findings));
  if (c.json) {
    Json j = Json::array();
    for (const Finding& f : findings) {
      Json ids = Json::array();
      for (std::uint64_t id : f.elements) ids.push_back(idText(id));
      j.push_back(Json{{"rank", rankText(f.rank)},
                       {"code", f.code},
                       {"text", f.text},
                       {"count", f.count},
                       {"elements", ids},
                       {"mend", f.mendText}});
    }
    fmt::print("{}\n", j.dump(2));
  } else {
    for (const Finding& f : findings) fmt::print("{}: {}\n", rankText(f.rank), f.text);
    if (findings.empty()) fmt::print("nothing found\n");
  }
  return anyStops(findings) ? 1 : 0;
}

int runJudge(const ProjectCall& c, const Session& session) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  YardstickShelf shelf = shelfFor(session, c.project, c.yardstickFolders);
  std::vector<Judgement> todo;
  if (std::filesystem::exists(c.yardstick)) {
    const auto text = loadFile(c.yardstick);
    const auto y = text ? readYardstick(asUtf8(*text), c.yardstick) : Expected<Yardstick>(tl::unexpected(text.error()));
    if (!y) return complain(y.error().text(), 1);
    shelf.yardsticks.insert(shelf.yardsticks.begin(), *y);
    Judgement j;
    j.yardstick = y->key;
    todo.push_back(j);
  }
  if (todo.empty())
    for (const Judgement& j : p.judgements)
      if (c.yardstick.empty() || j.yardstick == c.yardstick) todo.push_back(j);
  if (todo.empty() && !c.yardstick.empty()) {
    Judgement j;
    j.yardstick = c.yardstick;
    todo.push_back(j);
  }
  if (todo.empty()) return complain("judge: the project has no judgement; name one with --yardstick", 2);
  ResultStore store(c.noStore ? std::filesystem::path() : ResultStore::besideProject(c.project));
  StudyRunner runner(&store, {c.threadCount});
  Json all = Json::array();
  bool short_ = false;
  for (Judgement& j : todo) {
    const Yardstick* y = shelf.find(j.yardstick);
    if (!y) return complain(fmt::format("judge: there is no yardstick \"{}\"", j.yardstick), 2);
    if (j.groups.empty() && ofSunHours(y->measure))
      for (const SensorGroup& g : p.groups) j.groups.push_back(g.id);
    RunControl control;
    if (y->measure != Measure::OpeningSun) control.progress = progressLine();
    const Verdict v = runner.judgement(p, *y, j, control);
    short_ |= v.outcome != Outcome3::Meets;
    std::vector<RuleReading> readings;
    if (c.robust && !ofYear(y->measure)) readings = runner.readings(p, *y, j, control);
    if (c.csv) {
      fmt::print("{}", verdictCsv(v));
    } else if (c.json) {
      Json o{{"yardstick", y->key}, {"title", v.title},   {"outcome", outcomeText(v.outcome)},
             {"text", v.text},      {"detail", v.detail}, {"figure", v.figure},
             {"needed", v.needed},  {"unit", v.unit},     {"fingerprint", v.key.fingerprint()},
             {"notes", v.notes}};
      if (!std::isnan(v.before)) o["before"] = v.before;
      if (!std::isnan(v.points)) o["points"] = v.points;
      if (!std::isnan(v.certainty)) o["certainty"] = v.certainty;
      o["departures"] = v.departures;
      for (const VerdictRow& r : v.rows) {
        Json row{{"name", r.name}, {"outcome", outcomeText(r.outcome)}, {"after", r.after}, {"text", r.text}};
        if (!std::isnan(r.before)) row["before"] = r.before;
        o["rows"].push_back(std::move(row));
      }
      for (const RuleReading& r : readings)
        o["readings"].push_back(Json{{"name", r.name},
                                     {"changed", r.changed},
                                     {"outcome", outcomeText(r.verdict.outcome)},
                                     {"text", r.verdict.text}});
      all.push_back(std::move(o));
    } else {
      fmt::print("{}: {}\n", v.title, v.text);
      if (!v.detail.empty()) fmt::print("  {}\n", v.detail);
      for (const VerdictRow& r : v.rows)
        fmt::print("  {:<24} {:<12} {:.2f} {}\n", r.name, outcomeText(r.outcome), r.after, r.text);
      for (const std::string& n : v.notes) fmt::print("  {}\n", n);
      for (const RuleReading& r : readings)
        fmt::print("  {:<20} {} {}\n", r.name, r.verdict.text, r.changed.empty() ? "" : "(" + r.changed + ")");
    }
  }
  if (c.json) fmt::print("{}\n", all.dump(2));
  return short_ ? 1 : 0;
}

/// What the studies would take; nothing is run.
int runEstimate(const ProjectCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  for (const Study& s : loaded->project.studies) {
    if ((c.studyGiven && studyKey(s.kind) != c.study) || (!c.name.empty() && s.name != c.name && s.id.text() != c.name))
      continue;
    const auto sensors = layOutSensors(loaded->project, s.groups);
    if (!sensors) return complain(sensors.error().text(), 1);
    std::size_t inRooms = 0;
    for (const SensorGridFacts& g : sensors->groups) inRooms += g.room >= 0 ? g.count : 0;
    const Cost cost = costOf(loaded->project, s, sensors->sensors.size(), inRooms);
    if (c.json)
      fmt::print("{}\n", Json{{"study", s.name},
                              {"kind", studyKey(s.kind)},
                              {"sensors", cost.sensors},
                              {"triangles", cost.triangles},
                              {"seconds", cost.seconds},
                              {"megabytes", cost.megabytes}}
                             .dump());
    else
      fmt::print("{}: {}\n", s.name, costText(cost));
  }
  return 0;
}

int runPicture(const ProjectCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  PictureRequest request;
  if (std::sscanf(c.size.c_str(), "%dx%d", &request.width, &request.height) != 2 || request.width < 200 ||
      request.height < 150 || request.width > 20000 || request.height > 20000)
    return complain("picture: --size 1600x1000", 2);
  const auto view = viewFromKey(c.view);
  if (!view) return complain("picture: --view solid, plan, facade or sun", 2);
  request.view = *view;
  if (!c.side.empty()) {
    request.side = facingFromKey(c.side);
    if (!request.side) return complain("picture: --side north, east, south or west", 2);
    request.view = ViewKind::Facade;
  }
  if (!c.role.empty()) {
    request.onlyRole = roleFromKey(c.role);
    if (!request.onlyRole) return complain(fmt::format("picture: \"{}\" is no role", c.role), 2);
  }
  request.values = c.values;
  if (c.storey > -1e8) request.storey = c.storey;
  if (!c.range.empty()) {
    double low = 0, high = 0;
    if (std::sscanf(c.range.c_str(), "%lf,%lf", &low, &high) != 2 || !(high > low))
      return complain("picture: --range takes two numbers, such as 0,5", 2);
    request.range = std::pair{low, high};
  }
  if (!c.section.empty()) {
    SectionLine line;
    if (std::sscanf(c.section.c_str(), "%lf,%lf,%lf,%lf", &line.a.x, &line.a.y, &line.b.x, &line.b.y) != 4 ||
        !(line.length() > 0.1))
      return complain("picture: --section takes x1,y1,x2,y2 in metres", 2);
    request.section = line;
  }
  if (!c.state.empty()) {
    const auto state = designStateFromKey(c.state);
    if (!state) return complain("picture: --state proposed, before, difference or ratio", 2);
    request.state = *state;
  }
  request.study = c.name;
  if (!c.moment.empty()) {
    const auto s = stampFromText(c.moment);
    if (!s) return complain("picture: --moment 2026-03-21T11:30:00", 2);
    request.moment = loaded->project.zone().instant(s->time);
  }
  RunControl control;
  const Outcome o = exportPicture(loaded->project, request, c.out, control);
  return o ? 0 : complain(o.error().text(), 1);
}

} // namespace

void addProjectCommands(CLI::App& app, Session& session) {
  auto c = std::make_shared<ProjectCall>();
  const auto project = [&](CLI::App* s) {
    s->add_option("project", c->project, "project file")->required();
    s->add_option("--option", c->option, "with this option in hand, by its name (the one the file was saved with)");
  };
  std::string kinds;
  for (const StudyKindFacts& k : studyKinds) kinds += (kinds.empty() ? "" : ", ") + std::string(k.key);
  auto* run = app.add_subcommand("run", "Run the studies of a project and write their tables");
  project(run);
  run->add_option("--study", c->study, "kind of study: " + kinds);
  run->add_option("--set", c->set, "KEY=VALUE: another setting of the study for this run; may be repeated");
  run->add_flag("--settings", c->settings, "list the settings of the kind of study, and run nothing");
  run->add_option("--blinds", c->blinds,
                  "year: standard (> 2 % of a space with ≥ 1000 lx of beam), never, always, irradiance, schedule");
  run->add_flag("--estimate", c->estimate, "tell about how long it would take and how much memory, and run nothing");
  run->add_flag("--series", c->series, "year, glare: also write every hour of every sensor or line of sight");
  run->add_option("--weights", c->weights, "energy: a file of prices or carbon by the kWh; writes energy-weights.csv");
  run->add_option("--illuminance", c->illuminance,
                  "year: irradiance (× efficacy), or weather for the file's own illuminances where they are plausible");
  run->add_option("--sunshine", c->sunshine,
                  "sunlight-year, sunlight-winter: weather, or twelve shares in % with commas, January first");
  run->add_option("--sky", c->sky, "light: cie-overcast, uniform, cie-1 … cie-15, clear, intermediate, weather");
  run->add_option("--at", c->at, "light: moment of the sky by the site's clock, 2026-06-21T14:00:00");
  run->add_option("--error", c->error, "light: standard error wanted at every sensor, %; year: of its mean");
  run->add_option("--seed", c->seed, "light: another seed gives independent noise");
  run->add_option("--name", c->name, "only the study of this name or id");
  run->add_option("--out", c->out, "folder for the tables");
  run->add_option("--threads", c->threadCount, "0: all");
  run->add_flag("--before", c->before, "without the elements marked proposed");
  run->add_flag("--difference", c->difference,
                "beside each value what it is without the elements marked proposed, and the difference");
  run->add_flag("--months", c->months, "irradiation: also a table month by month, irradiation-months.csv");
  run->add_flag("--stretches", c->allStretches, "also write every stretch of sun of every sensor");
  run->add_flag(
      "--trial", c->trial,
      "a part of the work, in seconds: every eighth day of a season, light with four times the error; files are "
      "called so, nothing is kept");
  run->add_flag("--no-store", c->noStore, "neither read nor keep stored results");
  run->add_flag("--json", c->json, "facts of each run as a line of JSON");
  run->callback([c, &session, run] {
    c->studyGiven = run->count("--study") > 0;
    session.exit = c->estimate ? runEstimate(*c) : runStudies(*c);
  });

  auto* probeCommand = app.add_subcommand("probe", "Skyline and year of one point");
  project(probeCommand);
  probeCommand->add_option("--point", c->point, "x,y,z in metres")->required();
  probeCommand->add_option("--normal", c->normal, "direction of the surface (0,0,1)");
  probeCommand->add_flag("--before", c->before, "without the elements marked proposed");
  probeCommand->add_flag("--csv", c->csv, "the skyline as CSV");
  probeCommand->add_flag("--json", c->json, "everything as JSON");
  probeCommand->callback([c, &session] { session.exit = runProbe(*c); });

  auto* check = app.add_subcommand("check", "Findings of a project");
  project(check);
  check->add_flag("--json", c->json, "as JSON");
  check->callback([c, &session] { session.exit = runCheck(*c); });

  auto* judgeCommand = app.add_subcommand("judge", "Lay yardsticks against a project");
  project(judgeCommand);
  judgeCommand->add_option("--yardstick", c->yardstick, "key of a rule, or a rule file");
  judgeCommand->add_option("--yardsticks", c->yardstickFolders, "more folders with rule files");
  judgeCommand->add_option("--threads", c->threadCount, "0: all");
  judgeCommand->add_flag("--no-store", c->noStore, "neither read nor keep stored results");
  judgeCommand->add_flag("--robust", c->robust, "beside it the verdict under readings that may be contested");
  judgeCommand->add_flag("--json", c->json, "as JSON");
  judgeCommand->add_flag("--csv", c->csv, "as CSV");
  judgeCommand->callback([c, &session] { session.exit = runJudge(*c, session); });

  auto* picture = app.add_subcommand("picture", "A picture or page of a project, with legend, north and scale");
  project(picture);
  picture
      ->add_option("--out", c->out,
                   "file: .png, .svg, .pdf (a page with verdicts), .ply or .glb (the result as a coloured mesh)")
      ->required();
  picture->add_option("--study", c->name, "study to paint, by name (the first)");
  picture->add_option("--view", c->view, "solid, plan, facade or sun");
  picture->add_option("--side", c->side,
                      "a facade picture of what faces north, east, south or west; the sunny side where none is given");
  picture->add_option("--role", c->role, "this role alone: wall, roof, glazing, shading, …");
  picture->add_option("--moment", c->moment, "for shadows: 2026-03-21T11:30:00");
  picture->add_option("--size", c->size, "pixels, 1600x1000");
  picture->add_option("--range", c->range, "range of the colour scale, 0,5");
  picture->add_option("--state", c->state,
                      "proposed, before, difference (now less before) or ratio (in % of before): of what is painted");
  picture->add_option("--section", c->section, "x1,y1,x2,y2 in metres: a vertical section, seen toward its left");
  picture->add_option("--storey", c->storey, "m: floor of the rooms looked into (the lowest)");
  picture->add_flag("--values", c->values, "figures at the sensors");
  picture->callback([c, &session] { session.exit = runPicture(*c); });
}

} // namespace noonward::cli
