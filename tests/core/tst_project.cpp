// The project on disc and in memory: round trip, errors with their path, atomic saves, undo, findings and mends.

#ifndef Q_MOC_RUN
#include "core/files/epw.h"
#include "core/files/project/light_json.h"
#include "core/files/project/project_file.h"
#include "core/files/results/result_store.h"
#include "core/model/form/edit.h"
#include "core/model/history.h"
#include "core/model/mending/check.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cerrno>
#include <csignal>
#include <sys/wait.h>
#include <unistd.h>
#endif

using namespace noonward;
namespace fs = std::filesystem;

namespace {
const fs::path demo = SOURCE_TREE "/demo/ropewalk-quay.noonward";

std::string handWritten(const std::string& more = {}) {
  return "{ // by hand\n \"format\": \"noonward-project\", \"version\": 1,\n \"site\": {\"latitude\": 55.6, "
         "\"longitude\": 12.5, \"zone\": \"Europe/Copenhagen\", \"climate\": \"coastal\"},\n"
         " \"elements\": [{\"name\": \"Block\", \"colour\": \"blue\", \"mass\": {\"outline\": "
         "[[0,0],[10,0],[10,8],[0,8]], \"height\": 12}}],\n"
         " \"groups\": [{\"name\": \"Yard\", \"ground\": {\"outline\": [[20,0],[40,0],[40,20],[20,20]], \"spacing\": "
         "2}}],\n"
         " \"studies\": [{\"name\": \"S\", \"groups\": [\"Yard\"], \"dates\": [\"21 Mar\"], \"window\": "
         "\"sunrise-sunset\"}],\n"
         " \"judgements\": [{\"yardstick\": \"amenity-ground\", \"groups\": [\"Yard\"], \"parameters\": {\"hours\": "
         "3}}]" +
         more + "\n}\n";
}
Project parsed(const std::string& text) {
  const auto p = parseProject(text, "x.noonward", TEST_DATA);
  if (!p) qFatal("%s", p.error().text().c_str());
  return p->project;
}
std::string with(std::string text, const std::string& from, const std::string& to) {
  const auto at = text.find(from);
  if (at == std::string::npos) qFatal("no %s", from.c_str());
  return text.replace(at, from.size(), to);
}
} // namespace

class TestProject : public QObject {
  Q_OBJECT
private slots:
  void demoSurvivesARoundTrip() {
    for (const char* name : {"ropewalk-quay.noonward", "tarrow-green.noonward"}) {
      const auto a = readProject(fs::path(SOURCE_TREE "/demo") / name);
      QVERIFY2(a.has_value(), a ? "" : a.error().text().c_str());
      const std::string text = projectText(a->project, "x.files");
      const auto b = parseProject(text, "x", SOURCE_TREE "/demo");
      QVERIFY2(b.has_value(), b ? "" : b.error().text().c_str());
      QCOMPARE(projectText(b->project, "x.files"), text);
      QVERIFY(checkProject(b->project).empty());
    }
  }

  void handWrittenProjectsGetIdsAndKeepUnknownKeys() {
    const Project p = parsed(handWritten(",\n \"office\": {\"job\": 1234}"));
    QVERIFY(p.elements[0]->id && p.groups[0].id && p.studies[0].id);
    QCOMPARE(p.studies[0].groups.front(), p.groups[0].id);
    QCOMPARE(p.judgements[0].changed.at("hours"), std::string("3"));
    QCOMPARE(parsed(handWritten()).elements[0]->id, p.elements[0]->id); // the same file gives the same ids
    const std::string saved = projectText(p, "f");
    for (const char* kept : {"\"office\"", "1234", "\"colour\"", "\"climate\""})
      QVERIFY2(saved.find(kept) != std::string::npos, kept);
  }

  void everyFieldSurvives() { // each with a value that is not its default
    Project p = parsed(handWritten());
    p.units.length = LengthUnit::Foot;
    p.preparedBy = "A. Assessor";
    p.client = "Client";
    p.accepted = {{"weather.place", ""}, {"site.no-weather", "sun hours only"}};
    p.site.northAngle = radians(-7.5);
    p.site.origin = {500000, 6000000, 12};
    p.site.referenceSystem = "EPSG:25832";
    p.site.year = 2027;
    p.site.place.elevation = 33;
    Element e = *p.elements[0];
    e.role = Role::Neighbour;
    e.proposed = e.hidden = true;
    e.counted = false;
    e.layer = "L";
    auto& m = std::get<Mass>(e.shape);
    m.outline.holes = {{{2, 2}, {2, 4}, {4, 4}, {4, 2}}};
    m.base = 1.5;
    m.storeys = 5;
    p = withElement(std::move(p), e);
    SensorGroup walls{
        GroupId::fresh(),    "Walls", FaceGrid{{{e.id, 3u}, {e.id, {}}}, false, true, 0.7, 4.5, 2.2}, "Flat 1",
        Subject::LivingRoom, ""};
    SensorGroup spots{GroupId::fresh(),   "Spots", std::vector<PointSensor>{{{1, 2, 3}, {0, 1, 0}, "w"}}, "Flat 1",
                      Subject::OpenSpace, ""};
    SensorGroup around{GroupId::fresh(), "Round", GroundAround{{e.id}, 7, 0.5, 2.5}, "", Subject::None, ""};
    p.groups.insert(p.groups.end(), {walls, spots, around});
    Study s = p.studies[0];
    s.id = StudyId::fresh();
    s.sunHours.dates.clear();
    s.sunHours.season = {{}, "w", 11, 5, 2, 3, 495, 930};
    s.sunHours.sunriseToSunset = false;
    s.sunHours.counting = Counting::Stepped;
    s.sunHours.stepMinutes = 15;
    s.sunHours.sample = StepSample::Ends;
    s.sunHours.minAltitude = radians(5);
    s.sunHours.altitudeKind = AltitudeKind::Apparent;
    p.studies.push_back(s);
    p.seasons.push_back({{}, "mine", 3, 1, 5, 31, 600, 720});
    p.views.push_back({ViewId::fresh(), "v", "{\"a\":1}", "", "", ""});
    p.site.groundLevel = -1.25;
    p.site.groundReflectance = 0.31;
    p.finishes = {{"Own", 0.44, 0.1, 0.2, "me", false}};
    p.glazings = {{"Pane", 0.66, 3, 0.25, 0.2, 0.9, 0.95, 0.5, 0.7, "me", false}};
    p.rooms = {{RoomId::fresh(),
                "Room",
                "office",
                {rectangle(0, 0, 6, 5).outer, {{{2, 2}, {2, 3}, {3, 3}, {3, 2}}}},
                1.1,
                2.9,
                0.35,
                false,
                "dark by intent",
                ""}};
    p.openings = {
        {OpeningId::fresh(), "W", "t", p.rooms[0].id, 2, 0.5, 0.8, 1.3, 1.4, 3, 0.45, "Pane", 0.25, 0.8, {}, ""},
        {OpeningId::fresh(),
         "R",
         "",
         p.rooms[0].id,
         -1,
         4,
         4,
         0.5,
         0.6,
         1,
         0.6,
         "",
         0,
         0.125,
         {Raised::Kind::Sawtooth, 1.5, Facing::East},
         ""}};
    p.windowRules = {{.id = RuleId::fresh(),
                      .name = "Rule",
                      .type = "t",
                      .kind = WindowRule::Kind::Ratio,
                      .rooms = {p.rooms[0].id},
                      .facings = {Facing::East, Facing::West},
                      .ceiling = true,
                      .ratio = 0.33,
                      .count = 3,
                      .width = 1.1,
                      .sill = 0.7,
                      .head = 2.2,
                      .frame = 0.35,
                      .glazing = "Pane"},
                     {.id = RuleId::fresh(),
                      .name = "Row",
                      .kind = WindowRule::Kind::Row,
                      .count = 4,
                      .width = 0.9,
                      .sill = 0.6,
                      .head = 2.1},
                     {.id = RuleId::fresh(),
                      .name = "Glass",
                      .kind = WindowRule::Kind::Curtain,
                      .module = 1.45,
                      .ends = 0.55,
                      .mullion = 0.08,
                      .paneAt = 0.75}};
    p.shadeRules = {{.id = RuleId::fresh(),
                     .name = "Fins",
                     .kind = ShadeRule::Kind::Fins,
                     .facings = {Facing::North},
                     .type = "t",
                     .depth = 0.7,
                     .offset = 0.1,
                     .beyond = 0.2,
                     .count = 5,
                     .angle = radians(12),
                     .finish = "Own"}};
    p.assignments = {{"Own", e.id, 4u, "L", "t", Facing::South, Role::Wall},
                     {"Pane", {}, {}, "", "", {}, Role::Glazing}};
    p.groups.push_back({GroupId::fresh(), "Plane", RoomGrid{{p.rooms[0].id}, 0.76, 0.6, 0.3}, "", Subject::None, ""});
    Study light;
    light.id = StudyId::fresh();
    light.kind = StudyKind::Illuminance;
    light.name = "Noon";
    light.light.sky = {SkyKind::Perez, 12,          9000.0, 50000.0, 120, 450, 7.5, CivilTime{{2026, 5, 4}, 45300},
                       radians(33),    radians(140)};
    light.light.error = 0.015;
    light.light.seed = 7;
    light.light.maxSamples = 4096;
    p.studies.push_back(light);
    const Project q = parsed(projectText(p, "f"));
    QVERIFY(q.rooms == p.rooms && q.openings == p.openings && q.shadeRules.size() == 1 &&
            q.assignments == p.assignments);
    QVERIFY(q.finishes == p.finishes && q.glazings == p.glazings);
    QCOMPARE(q.windowRules[0].ratio, 0.33);
    QVERIFY(q.windowRules[0].kind == WindowRule::Kind::Ratio && q.windowRules[1].kind == WindowRule::Kind::Row &&
            q.windowRules[0].facings == p.windowRules[0].facings);
    QVERIFY(q.groups.back().layout == p.groups.back().layout);
    QVERIFY(q.studies.back().kind == StudyKind::Illuminance && q.studies.back().light.seed == 7 &&
            std::abs(q.studies.back().light.error - 0.015) < 1e-12);
    QVERIFY(q.studies.back().light.sky.moment->seconds == 45300 &&
            std::abs(*q.studies.back().light.sky.sunAltitude - radians(33)) < 1e-9);
    Project r = q;
    for (std::size_t i = 0; i < r.seasons.size(); ++i) r.seasons[i].id = p.seasons[i].id;
    QCOMPARE(projectText(r, "f"), projectText(p, "f"));
    QVERIFY(q.groups[1].layout == p.groups[1].layout && q.groups[2].layout == p.groups[2].layout &&
            q.groups[3].layout == p.groups[3].layout);
    QVERIFY(q.studies[1].sunHours == p.studies[1].sunHours);
    QVERIFY(q.elements[0]->shape == p.elements[0]->shape);
    QVERIFY(std::abs(q.site.northAngle - p.site.northAngle) < 1e-12);
  }

  void finishesAreKeptBetweenProjects() {
    QTemporaryDir d;
    const std::filesystem::path file = d.filePath("deep/finishes.json").toStdString();
    QVERIFY(readFinishShelf(file)->finishes.empty());
    const FinishShelf shelf{{{"Mine", 0.33, 0.2, 0.1, "measured", false}},
                            {{"Pane", 0.7, 3, 0.5, 0.3, 0.8, 0.9, 0.5, 0.8, "me", false}}};
    QVERIFY(writeFinishShelf(shelf, file));
    const auto again = readFinishShelf(file);
    QVERIFY(again.has_value());
    QVERIFY(again->finishes == shelf.finishes && again->glazings == shelf.glazings);
    QVERIFY(saveFile(file, "{\"finishes\": [{\"name\": \"x\", \"reflectance\": 3}]}"));
    QCOMPARE(QString::fromStdString(readFinishShelf(file).error().text()),
             QString("finishes.json: finishes[0].reflectance: 3 lies outside 0 to 1."));
  }

  void faultsNameThePathOfTheKey_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("wanted");
    const auto row = [](const char* name, const std::string& text, const char* wanted) {
      QTest::newRow(name) << QString::fromStdString(text) << wanted;
    };
    const std::string t = handWritten();
    row("newer version", with(t, "\"version\": 1", "\"version\": 9"),
        "x.noonward: version: The project was written by a newer Noonward (format 9; this one reads 1).");
    row("no latitude", with(t, "\"latitude\": 55.6, ", ""), "x.noonward: site.latitude: This key is missing.");
    row("latitude out of range", with(t, "55.6", "95.6"), "x.noonward: site.latitude: 95.6 lies outside -90 to 90.");
    row("no height", with(t, ", \"height\": 12", ""), "x.noonward: elements[0].mass.height: This key is missing.");
    row("height as words", with(t, "\"height\": 12", "\"height\": \"12 m\""),
        "x.noonward: elements[0].mass.height: A number is expected here.");
    row("point of three", with(t, "[10,8]", "[10,8,1]"),
        "x.noonward: elements[0].mass.outline[2]: A point [x, y] is expected here.");
    row("unknown group", with(t, "\"groups\": [\"Yard\"], \"dates\"", "\"groups\": [\"Field\"], \"dates\""),
        "x.noonward: studies[0].groups[0]: There is no group called \"Field\".");
    row("no date", with(t, "\"21 Mar\"", "\"31 Feb\""),
        "x.noonward: studies[0].dates[0]: A date such as \"2026-03-21\" or \"21 Mar\" is expected here.");
    row("comma missing", with(t, "\"version\": 1,", "\"version\": 1"),
        "x.noonward:3:7: This is not valid JSON here: a comma, quote or bracket is missing or stands too many.");
    row("not a project", "{\"format\": \"other\", \"version\": 1}",
        "x.noonward: format: This is no Noonward project: \"noonward-project\" is expected here.");
    row("a list", "[1,2]", "x.noonward: This is no Noonward project.");
    row("unknown role", with(t, "\"colour\": \"blue\"", "\"role\": \"tower\""),
        "x.noonward: elements[0].role: \"tower\" is no role.");
    row("unknown sky", with(t, "\"dates\": [\"21 Mar\"]", "\"kind\": \"illuminance\", \"sky\": {\"kind\": \"cie-16\"}"),
        "x.noonward: studies[0].sky.kind: \"cie-16\" is no sky: usual, cie-overcast, uniform, cie-1 … cie-15, clear, "
        "intermediate, perez or weather.");
    row("unknown kind", with(t, "\"dates\"", "\"kind\": \"moonlight\", \"dates\""),
        "x.noonward: studies[0].kind: \"moonlight\" is no kind of study: sun-hours, daylight-factor, illuminance, "
        "sky-view, vsc, no-sky-line, sunlight-year, sunlight-winter, irradiation, glare, view, energy, year.");
    row("room without outline", with(t, "\"groups\": [{", "\"rooms\": [{\"name\": \"R\"}], \"groups\": [{"),
        "x.noonward: rooms[0].outline: This key is missing.");
    row("opening in no room",
        with(t, "\"groups\": [{", "\"openings\": [{\"room\": \"R\", \"edge\": 0}], \"groups\": [{"),
        "x.noonward: openings[0].room: There is no room called \"R\".");
    row("bright finish",
        with(t, "\"groups\": [{", "\"finishes\": [{\"name\": \"F\", \"reflectance\": 80}], \"groups\": [{"),
        "x.noonward: finishes[0].reflectance: 80 lies outside 0 to 1.");
    row("weather gone", with(t, "\"climate\"", "\"weather\": \"gone.epw\", \"climate\""),
        "x.noonward: site.weather: There is no such file. (" TEST_DATA "/gone.epw)");
  }
  void faultsNameThePathOfTheKey() {
    QFETCH(QString, text);
    QFETCH(QString, wanted);
    const auto p = parseProject(text.toStdString(), "x.noonward", TEST_DATA);
    QVERIFY(!p);
    QCOMPARE(QString::fromStdString(p.error().text()), wanted);
  }

  void truncatedProjectsNeverCrash() {
    const std::string text = *loadFile(demo);
    for (std::size_t cut = 0; cut + 2 < text.size(); cut += 97)
      QVERIFY(!parseProject(std::string_view(text).substr(0, cut), "cut", SOURCE_TREE "/demo"));
  }

  void importsBesideTheProject() {
    QTemporaryDir d;
    const fs::path folder = d.path().toStdString();
    QVERIFY(saveFile(folder / "town.obj", "g low\nv 0 0 0\nv 9000 0 0\nv 9000 9000 3000\nf 1 2 3\ng tall\nv 0 0 0\nv 0 "
                                          "9000 9000\nv 9000 9000 0\nf 4 5 6\n"));
    const std::string text = handWritten(", \"imports\": [{\"file\": \"town.obj\", \"unit\": \"mm\", \"up\": \"z\", "
                                         "\"roles\": {\"tall\": \"ground\"}, \"proposed\": [\"low\"]}]");
    QVERIFY(saveFile(folder / "p.noonward", text));
    auto p = readProject(folder / "p.noonward");
    QVERIFY2(p.has_value(), p ? "" : p.error().text().c_str());
    QCOMPARE(p->project.elements.size(), std::size_t(3));
    QCOMPARE(p->project.elements[1]->role, Role::Ground);
    QVERIFY(p->project.elements[0]->proposed && !p->project.elements[1]->proposed);
    QVERIFY(std::abs(boxOf(*p->project.elements[0]).size().x - 9) < 1e-9);
    // Saved, the meshes stand beside it by their content, and nothing else changes.
    QVERIFY(writeProject(p->project, folder / "q.noonward"));
    const auto q = readProject(folder / "q.noonward");
    QVERIFY2(q.has_value(), q ? "" : q.error().text().c_str());
    for (std::size_t i = 0; i < 3; ++i) QVERIFY(q->project.elements[i]->shape == p->project.elements[i]->shape);
    QVERIFY(sameProject(q->project, [&] {
      Project x = p->project;
      x.extra = q->project.extra;
      return x;
    }()));
  }

  void failingDiscsLeaveTheOldFile_data() {
    QTest::addColumn<int>("step");
    QTest::addColumn<int>("error");
    QTest::addColumn<QString>("words");
    QTest::newRow("full while writing") << 0 << ENOSPC << "the disc is full";
    QTest::newRow("full at the sync") << 1 << ENOSPC << "the disc is full";
    QTest::newRow("rename refused") << 2 << EROFS << "the disc is read-only";
    QTest::newRow("written short") << 3 << 0 << "the disc is full";
  }
  void failingDiscsLeaveTheOldFile() {
    QFETCH(int, step);
    QFETCH(int, error);
    QFETCH(QString, words);
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.noonward";
    Project p = parsed(handWritten());
    QVERIFY(writeProject(p, file));
    const std::string old = *loadFile(file);
    DiscCalls disc = DiscCalls::real();
    const auto refuse = [error] {
      errno = error;
      return -1;
    };
    if (step == 0) disc.write = [refuse](int, const void*, std::size_t) { return long(refuse()); };
    if (step == 1) disc.sync = [refuse](int) { return refuse(); };
    if (step == 2) disc.rename = [refuse](const char*, const char*) { return refuse(); };
    if (step == 3)
      disc.write = [n = 0](int f, const void* b, std::size_t) mutable { return n++ ? 0 : long(::write(f, b, 10)); };
    p.name = "changed";
    const Outcome o = writeProject(p, file, disc);
    QVERIFY(!o);
    QVERIFY2(QString::fromStdString(o.error().message).contains(words), o.error().message.c_str());
    QCOMPARE(*loadFile(file), old);
    QCOMPARE(QDir(d.path()).entryList(QDir::Files).size(), 1); // and no scraps
  }

  void readOnlyFilesAreNotReplaced() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.noonward";
    Project p = parsed(handWritten());
    QVERIFY(writeProject(p, file));
    fs::permissions(file, fs::perms::owner_read);
    const Outcome o = writeProject(p, file);
    QVERIFY(!o && o.error().message.find("not allowed") != std::string::npos);
    QVERIFY(!saveFile("/nowhere/at/all/x", "y"));
  }

  void killedWhileSavingLeavesAWholeFile() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.noonward";
    Project p = parsed(handWritten());
    QVERIFY(writeProject(p, file));
    for (int step = 0; step < 3; ++step) { // in the middle of writing, before the sync, before the rename
      const pid_t child = fork();
      if (child == 0) {
        DiscCalls disc = DiscCalls::real();
        const auto die = [] { ::kill(::getpid(), SIGKILL); };
        if (step == 0)
          disc.write = [&](int f, const void* b, std::size_t) {
            (void)!::write(f, b, 20);
            die();
            return 20L;
          };
        if (step == 1)
          disc.sync = [&](int) {
            die();
            return 0;
          };
        if (step == 2)
          disc.rename = [&](const char*, const char*) {
            die();
            return 0;
          };
        Project q = p;
        q.name = "never seen";
        (void)writeProject(q, file, disc);
        _exit(0);
      }
      int status = 0;
      QCOMPARE(waitpid(child, &status, 0), child);
      QVERIFY(WIFSIGNALED(status));
      const auto again = readProject(file);
      QVERIFY(again.has_value());
      QCOMPARE(again->project.name, p.name);
    }
  }

  void damagedResultStoresAreBegunAnew() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.results.sqlite";
    SunHoursResult r;
    r.hours = {1, 2, 3};
    r.longest = {1, 1, 1};
    r.first = r.last = {0, 0, 0};
    r.dates = {{2026, 3, 21}};
    r.key = digestOf("question");
    {
      ResultStore store(file);
      QVERIFY(store.notes().empty());
      QVERIFY(store.keep(r, {r.key, "run", "asked", "2026-01-01", 0.1}));
      QVERIFY(!store.find(digestOf("another")));
    }
    {
      ResultStore store(file);
      const auto found = store.find(r.key);
      QVERIFY(found && found->hours == r.hours && found->dates == r.dates);
      QCOMPARE(store.runs().size(), std::size_t(1));
      r.end = RunEnd::Enough;
      r.key = digestOf("stopped");
      QVERIFY(store.keep(r, {}));
      QVERIFY(!store.find(r.key)); // half an answer is not kept as one
    }
    QVERIFY(saveFile(file, "this is no database, not at all, and long enough to be looked at"));
    {
      ResultStore store(file);
      QCOMPARE(store.notes().size(), std::size_t(1));
      QVERIFY(store.runs().empty());
      r.end = RunEnd::Finished;
      QVERIFY(store.keep(r, {r.key, "", "", "", 0}));
    }
    ResultStore nowhere("/nowhere/at/all/x.sqlite");
    QCOMPARE(nowhere.notes().size(), std::size_t(1));
    QVERIFY(nowhere.keep(r, {r.key, "", "", "", 0}) && nowhere.find(r.key));
  }

  void undoKeepsItsManners() {
    const Project start = parsed(handWritten());
    History h(start);
    h.change(start, "nothing");
    QVERIFY(!h.canUndo()); // a step that changes nothing vanishes
    const ElementId id = start.elements[0]->id;
    const auto raised = [&](double by) {
      return withEdited(h.now(), {id}, [&](Element& e) { setHeight(e, heightOf(e) + by); });
    };
    h.change(raised(1), "Pull", "drag");
    h.change(raised(1), "Pull", "drag");
    h.change(raised(1), "Pull", "drag");
    QCOMPARE(h.steps(), std::size_t(1)); // one gesture, one step
    h.change(raised(-3), "Pull", "drag");
    QCOMPARE(h.steps(), std::size_t(0)); // and back where it began: none
    h.change(raised(2), "Pull", "a");
    h.change(raised(2), "Pull", "b");
    QCOMPARE(h.steps(), std::size_t(2));
    h.undo();
    QCOMPARE(heightOf(*h.now().elements[0]), 14.0);
    QCOMPARE(h.redoName(), std::string("Pull"));
    h.redo();
    QCOMPARE(heightOf(*h.now().elements[0]), 16.0);
    h.undo();
    h.undo();
    QVERIFY(sameProject(h.now(), start));
    QVERIFY(!h.canUndo());
    h.change(raised(5), "Pull");
    QVERIFY(!h.canRedo());
    History small(start, 1); // memory is limited: old steps go first
    for (int i = 0; i < 20; ++i)
      small.change(withEdited(small.now(), {id}, [&](Element& e) { setHeight(e, 20 + i); }), "Pull");
    QVERIFY(small.steps() < 20);
  }

  void findingsAreFoundAndMended_data() {
    QTest::addColumn<QString>("code");
    for (const char* c : {"element.height", "element.outline", "element.size", "element.far", "element.left-out",
                          "site.zone", "weather.place", "weather.offset"})
      QTest::newRow(c) << c;
  }
  void findingsAreFoundAndMended() {
    QFETCH(QString, code);
    Project p = readProject(demo)->project;
    const ElementId id = p.elements[3]->id;
    const auto edit = [&](auto&& f) { p = withEdited(p, {id}, [&](Element& e) { f(e, std::get<Mass>(e.shape)); }); };
    if (code == "element.height") edit([](Element&, Mass& m) { m.height = 0; });
    if (code == "element.outline")
      edit([](Element&, Mass& m) {
        m.outline.outer = {{0, 0}, {10, 10}, {10, 0}, {0, 10}};
        m.outline.holes.clear();
      });
    if (code == "element.size")
      edit([](Element&, Mass& m) {
        for (Vec2& q : m.outline.outer) q = q * 1000;
        for (Ring& h : m.outline.holes)
          for (Vec2& q : h) q = q * 1000;
        m.height *= 1000;
      });
    if (code == "element.far") edit([](Element& e, Mass&) { moveElement(e, {1e6, 0, 0}); });
    if (code == "element.left-out") edit([](Element& e, Mass&) { e.counted = false; });
    if (code == "site.zone") p.site.zone = "Mars/Olympus";
    if (code == "weather.place") p.site.place = {radians(48), radians(11), 500};
    if (code == "weather.offset") p.site.zone = "Asia/Tokyo";
    const auto find = [&](const Project& x) -> std::optional<Finding> {
      for (const Finding& f : checkProject(x))
        if (f.code == code.toStdString()) return f;
      return {};
    };
    const auto f = find(p);
    QVERIFY(f.has_value());
    QVERIFY(!f->text.empty());
    const auto mended = mendProject(p, *f);
    QVERIFY2(mended.has_value(), mended ? "" : mended.error().text().c_str());
    QVERIFY(!find(*mended));
    if (f->rank != Rank::StopsStudy) QVERIFY(!find(accepted(p, f->code))); // the other way: keep it as it is
  }

  void typedLengths() {
    QCOMPARE(lengthFromText("12.5", LengthUnit::Metre).value(), 12.5);
    QCOMPARE(lengthFromText(" 12,5 m", LengthUnit::Foot).value(), 12.5);
    QVERIFY(std::abs(lengthFromText("40 ft", LengthUnit::Metre).value() - 12.192) < 1e-12);
    QVERIFY(!lengthFromText("twelve", LengthUnit::Metre) && !lengthFromText("", LengthUnit::Metre) &&
            !lengthFromText("1 nm", LengthUnit::Metre) && !lengthFromText("nan", LengthUnit::Metre));
    QCOMPARE(lengthText(12.345, LengthUnit::Metre), std::string("12.35 m"));
    QCOMPARE(lengthText(12.345, LengthUnit::Millimetre), std::string("12345 mm"));
  }
};

QTEST_GUILESS_MAIN(TestProject)
#include "tst_project.moc"
