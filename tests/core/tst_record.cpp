// Yardsticks of rooms by hand-made years; sun at openings against the geometry of a hole; runs kept; the record made,
// checked, and not believed once something in it was changed.

#include "core/base/hash.h"
#include "core/files/project/design_json.h"
#include "core/files/results/result_store.h"
#include "core/runs/record/record.h"
#include "core/studies/opening_sun.h"
#include "core/sun/sun_path.h"
#include "picture/record_pages.h"
#include "picture/theme.h"
#include "tests/house.h"
#include <QFile>
#include <QImage>
#include <QProcess>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>

using namespace noonward;

namespace {

const YardstickShelf& shelf() {
  static const YardstickShelf s = readYardsticks({SOURCE_TREE "/resources/yardsticks"});
  return s;
}

/// A year by hand: two rooms that count, one that does not.
struct ByHand {
  Project project;
  YearFacts facts;
  YearResult result;
  ByHand(double a, double b, double aseA = 0, double aseB = 0) {
    for (const char* name : {"A", "B", "C"}) {
      Room r;
      r.id = RoomId::fresh();
      r.name = name;
      project.rooms.push_back(r);
      SensorGridFacts g;
      g.name = name;
      g.first = facts.sensors.sensors.size();
      g.count = 100;
      facts.sensors.sensors.resize(facts.sensors.sensors.size() + 100);
      facts.sensors.groups.push_back(g);
      facts.rooms.push_back(r.id);
      facts.rooflit.push_back(false);
    }
    facts.counted = {true, true, false};
    facts.areas = {30, 10, 1000};
    result.spaces.resize(3);
    result.spaces[0].sda = a;
    result.spaces[1].sda = b;
    result.spaces[2].sda = 1;
    result.spaces[0].ase = aseA;
    result.spaces[1].ase = aseB;
    result.spaces[2].ase = 1;
    result.sdaError = {0.01, 0.01, 0.01};
    result.meanError = {1, 1, 1};
    result.relativeError.assign(300, 0.01f);
    result.provision.resize(3);
    result.provisionError.resize(3);
    result.provisionOwn.resize(3);
    result.provisionOwnError.resize(3);
    result.building.sda = 0.75 * a + 0.25 * b;
    result.buildingSdaError = 0.01;
    result.everySpace = true;
    result.rounds = 2;
  }
  Verdict by(const char* key) const { return judgeYear(project, *shelf().find(key), facts, result); }
};

} // namespace

class TestRecord : public QObject {
  Q_OBJECT
private slots:
  void initTestCase() { loadFonts(SOURCE_TREE "/resources"); }

  void stepsAndTheirCertainty() {
    const std::array<double, 3> steps{0.4, 0.55, 0.75};
    QCOMPARE(stepsReached(0.40, steps), 1);
    QCOMPARE(stepsReached(0.7499, steps), 2);
    QCOMPARE(stepsReached(0.9, steps), 3);
    // Two standard errors from one step, seven from the other: the table of the normal distribution.
    QVERIFY(std::abs(certaintyOfStep(0.42, 0.01, steps) - 0.97725) < 1e-4);
    QVERIFY(std::abs(certaintyOfStep(0.40, 0.01, steps) - 0.5) < 1e-9);
    QCOMPARE(certaintyOfStep(0.42, 0, steps), 1.0);
    QVERIFY(std::abs(certaintyOfStep(0.77, 0.01, steps) - 0.97725) < 1e-4); // nothing above the last
  }

  void creditGivesItsPoints_data() {
    QTest::addColumn<double>("a");
    QTest::addColumn<double>("b");
    QTest::addColumn<double>("newer");
    QTest::addColumn<double>("older");
    QTest::newRow("below") << 0.3 << 0.3 << 0.0 << 0.0;
    QTest::newRow("first step") << 0.4 << 0.4 << 1.0 << 0.0;
    QTest::newRow("weighed by area") << 0.6 << 0.4 << 2.0 << 2.0; // 55 %
    QTest::newRow("all") << 0.8 << 0.7 << 3.0 << 3.0;
  }
  void creditGivesItsPoints() {
    QFETCH(double, a);
    QFETCH(double, b);
    const ByHand y(a, b);
    QTEST(y.by("daylight-credit").points, "newer");
    QTEST(y.by("daylight-credit-older").points, "older");
    QCOMPARE(y.by("daylight-credit").outcome == Outcome3::Meets, y.by("daylight-credit").points > 0);
    QVERIFY(y.by("daylight-credit").departures.empty());
  }

  void roomsThatAreTooBrightAreNamed() {
    ByHand y(0.6, 0.6, 0.04, 0.12);
    Verdict v = y.by("daylight-credit");
    QCOMPARE(v.outcome, Outcome3::Meets);
    QCOMPARE(v.rows.size(), std::size_t(2)); // what does not count is not judged
    QCOMPARE(v.rows[0].outcome, Outcome3::Meets);
    QCOMPARE(v.rows[1].outcome, Outcome3::NotJudged);
    QVERIFY(QString::fromStdString(v.rows[1].text).contains("remark on glare is owed"));
    y.project.rooms[1].glare = "roller blinds at the desks";
    v = y.by("daylight-credit");
    QCOMPARE(v.rows[1].outcome, Outcome3::Meets);
    QVERIFY(QString::fromStdString(v.rows[1].text).contains("roller blinds"));
    const Verdict strict = y.by("daylight-credit-older");
    QCOMPARE(strict.outcome, Outcome3::FallsShort);
    QCOMPARE(strict.points, 0.0);
    // Exactly the limit is no excess; a year that is not whole is not judged.
    QCOMPARE(ByHand(0.6, 0.6, 0.10, 0.10).by("daylight-credit-older").outcome, Outcome3::Meets);
    y.result.everySpace = false;
    QCOMPARE(y.by("daylight-credit").outcome, Outcome3::NotJudged);
  }

  void provisionNeedsBothShares() {
    ByHand y(0.5, 0.5);
    y.result.provision[0] = {2190, 1000, 500, 2190, 900, 100, 0};
    y.result.provision[1] = {3000, 2500, 100, 2400, 2189, 0, 0};
    Verdict v = y.by("european-provision");
    QCOMPARE(v.outcome, Outcome3::Meets);
    QCOMPARE(v.rows[0].after, 1.0);
    QCOMPARE(v.rows[1].after, 1.0); // 300 lx on 95 % misses by an hour
    y.result.provision[1][4] = 2190;
    QCOMPARE(y.by("european-provision").rows[1].after, 2.0);
    y.result.provision[0][3] = 2189;
    v = y.by("european-provision");
    QCOMPARE(v.outcome, Outcome3::FallsShort);
    QCOMPARE(v.figure, 50.0);
    // Under rooflights alone the first value must reach 95 %: 300 lx here does in 900 h.
    y.result.provision[0] = {4000, 4000, 4000, 4000, 900, 100, 0};
    y.facts.rooflit[0] = true;
    QCOMPARE(y.by("european-provision").rows[0].outcome, Outcome3::FallsShort);
    y.result.provision[0][4] = 2190;
    QCOMPARE(y.by("european-provision").rows[0].outcome, Outcome3::Meets);
    // The other reading is told beside it, and judges where the yardstick asks for it.
    y.result.provisionOwn[0] = {2190, 2190, 2190, 2190, 2190, 2190, 0};
    v = y.by("european-provision");
    QCOMPARE(v.outcome, Outcome3::Meets);
    QVERIFY(std::any_of(v.notes.begin(), v.notes.end(), [](const std::string& n) {
      return n.find("each point by its own hours) 1 of 2 rooms") != std::string::npos;
    }));
    QCOMPARE(provisionLevel({2190, 0, 0, 2190, 0, 0, 0}, {}).level, 1);
    QVERIFY(std::abs(provisionLevel({2190 + 20, 0, 0, 4000, 0, 0, 0}, {10, 1, 1, 1, 1, 1, 1}).certainty - 0.97725) <
            1e-4);
  }

  void departuresAreTold() {
    ByHand y(0.5, 0.5);
    y.facts.settings.metrics.threshold = 250;
    y.facts.settings.blinds = BlindRule::Never;
    y.facts.settings.glassKept = 0.9;
    SensorGroup g;
    g.id = {5};
    g.name = "Coarse";
    g.layout = RoomGrid{{}, 0.85, 1.0, 0.3};
    y.project.groups.push_back(g);
    for (auto& x : y.facts.sensors.groups) x.id = g.id;
    const auto told = y.by("daylight-credit").departures;
    const QString all = QString::fromStdString([&] {
      std::string s;
      for (const auto& t : told) s += t + "\n";
      return s;
    }());
    for (const char* part : {"250 lx, 300 lx", "blinds never closed, blinds by the standard", "10 % lost",
                             "0.85 m above the floor, 0.76", "spacing 1 m, 0.6"})
      QVERIFY2(all.contains(part), qPrintable(all));
    QCOMPARE(told.size(), std::size_t(5));
    // Set up by the yardstick there are none left, and doing it twice adds nothing.
    Project p = withSetUp(test::houseOfTheYear(), *shelf().find("daylight-credit"));
    QCOMPARE(p.judgements.size(), std::size_t(1));
    const std::size_t groups = p.groups.size(), studies = p.studies.size();
    p = withSetUp(std::move(p), *shelf().find("daylight-credit"));
    QCOMPARE(p.groups.size(), groups);
    QCOMPARE(p.studies.size(), studies);
    const auto facts = yearFacts(p, p.studies[0].groups, p.studies[0].year);
    QVERIFY(facts.has_value());
    ByHand set(0.5, 0.5);
    set.facts.settings = p.studies[0].year;
    QVERIFY(set.by("daylight-credit").departures.empty());
  }

  void yardsticksOfRoomsAreCheckedWhenRead() {
    const auto text = loadFile(SOURCE_TREE "/resources/yardsticks/daylight-credit.json");
    QVERIFY(readYardstick(*text, "x").has_value());
    std::string without = *text;
    without.replace(without.find("\"first-step\""), 12, "\"first-stop\"");
    const auto bad = readYardstick(without, "x");
    QVERIFY(!bad.has_value() && QString::fromStdString(bad.error().text()).contains("first-step"));
    for (const char* key : {"daylight-credit", "daylight-credit-older", "european-provision",
                            "european-provision-factor", "european-sunlight"})
      QVERIFY2(shelf().find(key), key);
  }

  /// A hole w wide and h high in a wall d thick, seen from the middle of its inner face: lit while the sun passes both.
  void sunAtAnOpeningIsThatOfAHole() {
    Project p = test::house({.width = 8, .depth = 6, .wall = 0.4});
    p.site.place = {radians(48), radians(10), 300};
    p.site.zone = "UTC+01:00";
    Opening o;
    o.id = {3};
    o.name = "Window";
    o.room = {1};
    o.edge = 0; // the south wall of the rectangle
    o.along = 2;
    o.width = 1.5;
    o.sill = 0.8;
    o.height = 1.6;
    p.openings.push_back(o);
    const Date date{2026, 3, 21};
    const auto rooms = openingSun(p, {date, radians(5), 1.2, 0.3});
    QVERIFY2(rooms.has_value(), rooms ? "" : rooms.error().text().c_str());
    QCOMPARE((*rooms)[0].openings, std::size_t(1));
    const OpeningSun& got = (*rooms)[0].each[0];
    QVERIFY(std::abs(got.position.z - 1.2) < 1e-9 && std::abs(got.position.y - 0.4) < 1e-9);
    const Instant midnight = p.zone().instant({date, 0});
    const SunPath path(SunKnots(midnight + -86400, midnight + 2 * 86400), p.site.place, 0, midnight, 86400);
    double lit = 0;
    const double d = 0.4;
    for (double t = 0.5; t < 86400; t += 1) {
      const Vec3 s = path.direction(t);
      if (s.z <= std::sin(radians(5)) || s.y >= 0) continue; // above 5°, from the south
      const double across = d * s.x / -s.y, up = d * s.z / -s.y;
      lit += std::abs(across) < 0.75 && 1.2 + up < 2.4;
    }
    QVERIFY2(std::abs(got.hours * 3600 - lit) < 12,
             qPrintable(QString("%1 s against %2 s").arg(got.hours * 3600).arg(lit)));
    QVERIFY(got.hours > 4);
    // A tall block in front takes all of it; the point stands 0.3 m above a high sill.
    Project hidden = p;
    Element block;
    block.id = {11};
    block.shape = Mass{rectangle(-60, -12, 60, -8), 0, 60, 1};
    hidden.elements.push_back(std::make_shared<const Element>(block));
    QCOMPARE((*openingSun(hidden, {date, 0, 1.2, 0.3}))[0].hours, 0.0);
    p.openings[0].sill = 1.3;
    p.openings[0].height = 1.2;
    QVERIFY(std::abs((*openingSun(p, {date, 0, 1.2, 0.3}))[0].each[0].position.z - 1.6) < 1e-9);
  }

  void runsAreKeptRenamedToldAndForgotten() {
    QTemporaryDir d;
    const std::filesystem::path file = d.filePath("r.sqlite").toStdString();
    Project p = withNewOption(test::houseOfTheYear(1.5), "Taller");
    p.rooms[0].height = 2.5;
    Study s;
    s.kind = StudyKind::Year;
    s.name = "Year";
    s.year.error = 0.2;
    Digest key;
    {
      ResultStore store(file);
      StudyRunner runner(&store);
      RunControl control;
      const auto first = runner.year(p, {}, s.year, control, "Year");
      QVERIFY2(first.has_value(), first ? "" : first.error().text().c_str());
      key = first->result->key;
      QCOMPARE(runner.computed(), 1);
      QVERIFY(runner.year(p, {}, s.year, control, "Year").has_value());
      QCOMPARE(runner.computed(), 1); // the same question is not computed twice
      QVERIFY(runner.year(withOption(p, 0), {}, s.year, control, "Year").has_value());
      QCOMPARE(runner.computed(), 2);
    }
    ResultStore store(file); // after a restart
    const auto runs = store.runs();
    QCOMPARE(runs.size(), std::size_t(2));
    QCOMPARE(runs[1].option, std::string("Taller"));
    QCOMPARE(runs[0].option, std::string("As drawn"));
    QCOMPARE(runs[0].kind, StudyKind::Year);
    QVERIFY(runs[0].seconds > 0 && !runs[0].state.empty() && !runs[0].asked.empty());
    const auto year = store.findYear(key);
    QVERIFY(year && year->everySpace && year->sensors.size() == year->relativeError.size() &&
            year->scheduleHours == 3650);
    const auto told = wentInDifferences(store.wentIn(runs[0].number), store.wentIn(runs[1].number));
    QCOMPARE(told.size(), std::size_t(1));
    QCOMPARE(QString::fromStdString(told[0]), QString("rooms · Hall · height: 3 → 2.5"));
    QVERIFY(store.rename(runs[0].number, "As it was").has_value());
    QCOMPARE(store.runs()[0].name, std::string("As it was"));
    store.removeRun(runs[1].number);
    QCOMPARE(store.runs().size(), std::size_t(1));
    QVERIFY(!store.findYear(key));
    QVERIFY(store.wentIn(runs[1].number).empty());
    QCOMPARE(wentInDifferences("{", "}"), std::vector<std::string>{"What went in is not known."});
  }

  void aRecordHoldsUntilItIsChanged() {
    QTemporaryDir d;
    const std::filesystem::path folder = d.filePath("hall.record").toStdString();
    Project p = withSetUp(test::houseOfTheYear(1.5), *shelf().find("daylight-credit"));
    p.id = ProjectId::fresh();
    p.name = "Hall & garden";
    p.units = {LengthUnit::FeetInches, LightUnit::FootCandle}; // its pages are in them, its claims are not
    p.accepted["finish.default"] = "agreed with the owner";
    p.rooms[0].glare = "louvres inside";
    p.studies[0].year.error = 0.08;
    p.sources.push_back({"house.obj", "/home/somebody/house.obj"}); // nobody else's business
    StudyRunner runner(nullptr);
    RunControl control;
    const auto facts = gatherRecord(p, shelf(), runner, control);
    QVERIFY2(facts.has_value(), facts ? "" : facts.error().text().c_str());
    QCOMPARE(facts->verdicts.size(), std::size_t(1));
    QCOMPARE(facts->years.size(), std::size_t(1));
    const YearChapter& chapter = facts->years[0];
    const YearResult& year = *chapter.year.result;
    QVERIFY(chapter.readings.size() >= 6);
    QCOMPARE(chapter.readings[0].building.sda, year.building.sda);
    QVERIFY(year.spaces[0].ase > 0.1);
    QCOMPARE(chapter.bright.size(), std::size_t(1));
    QCOMPARE(chapter.bright[0].remark, std::string("louvres inside"));
    QVERIFY2(QString::fromStdString(chapter.bright[0].when).contains("through Hall, south"),
             chapter.bright[0].when.c_str());
    const Outcome made = makeRecordFolder(*facts, folder, control);
    QVERIFY2(made.has_value(), made ? "" : made.error().text().c_str());
    for (const char* name : {"record.json", "record.pdf", "record.xlsx", "rooms.csv", "sensors.csv", "verdicts.csv",
                             "project/project.noonward", "yardsticks/daylight-credit.json", "pictures/model.png",
                             "pictures/autonomy-floor-0.0.svg"})
      QVERIFY2(std::filesystem::file_size(folder / name) > 100, name);
    { // The plan fills the page's width.
      const QImage plan(QString::fromStdString((folder / "pictures/autonomy-floor-0.0.png").string()));
      QCOMPARE(plan.width(), 1500);
      const int y = plan.height() / 2;
      const QRgb ground = plan.pixel(2, 80);
      int first = 0, last = plan.width() - 1;
      while (first < last && plan.pixel(first, y) == ground) ++first;
      while (last > first && plan.pixel(last, y) == ground) --last;
      QVERIFY2(last - first > 0.88 * plan.width(), qPrintable(QString("%1 to %2").arg(first).arg(last)));
    }
    QVERIFY(loadFile(folder / "project/project.noonward")->find("somebody") == std::string::npos);
    const auto report = verifyRecord(folder, control);
    QVERIFY2(report.has_value(), report ? "" : report.error().text().c_str());
    for (const VerifyLine& l : report->lines)
      QVERIFY2(l.holds, qPrintable(QString::fromStdString(l.what + ": " + l.claimed + " / " + l.found)));
    const Json claims = Json::parse(*loadFile(folder / "record.json"))["claims"];
    QVERIFY(std::abs(claims["studies"][0]["rooms"][0]["mean_lux"].get<double>() - year.spaces[0].meanLux) < 0.1);
    // The pages tell it, words and all.
    QProcess text;
    text.start("pdftotext", {"-layout", QString::fromStdString((folder / "record.pdf").string()), "-"});
    QVERIFY(text.waitForFinished(20000));
    const QString pages = QString::fromUtf8(text.readAllStandardOutput());
    for (const char* part : {"Hall & garden", "Daylight credit, 2019", "Settings", "as proposed",
                             "Rooms above 10 % ASE", "louvres inside", "How robust is it?", "agreed with the owner",
                             "Versions", "mean fc", "ft²", "27.87 fc in", "278.7 fc", "ft above the floor"})
      QVERIFY2(pages.contains(part), part);
    // The page font draws a hyphen between digits by a glyph of its own, which is no hyphen when copied: the rest must
    // be there.
    const auto plain = [](QString s) { return s.remove(QRegularExpression("[^0-9a-z]")); };
    QVERIFY(plain(pages).contains(plain(QString::fromStdString(year.key.fingerprint()))));
    // A number bettered, a file changed, a file gone, half a file: none is believed.
    const auto original = *loadFile(folder / "record.json");
    Json j = Json::parse(original);
    j["claims"]["studies"][0]["building"]["sda_percent"] = 99.0;
    QVERIFY(saveFile(folder / "record.json", j.dump()).has_value());
    QVERIFY(!verifyRecord(folder, control)->holds());
    // What isn't claimed at all is no proof: a room or a verdict left out, or a room told under another's name.
    // The seal is made anew, so that nothing but the claims themselves can tell.
    const auto sealed = [&](Json record) {
      record["fingerprint"] = digestOf(record["claims"].dump() + record["files"].dump()).hex();
      return saveFile(folder / "record.json", record.dump()).has_value();
    };
    for (const char* list : {"rooms", "verdicts", "studies"}) {
      Json less = Json::parse(original);
      Json& from = std::string_view(list) == "rooms" ? less["claims"]["studies"][0] : less["claims"];
      QVERIFY(from[list].size() >= 1);
      from[list].erase(0);
      QVERIFY(sealed(less));
      const auto told = verifyRecord(folder, control);
      QVERIFY2(told && !told->holds() && told->lines[0].holds, list);
    }
    Json under = Json::parse(original);
    under["claims"]["studies"][0]["rooms"][0]["id"] = "0000000000000999";
    QVERIFY(sealed(under));
    const auto other = verifyRecord(folder, control);
    QVERIFY(!other || !other->holds());
    QVERIFY(saveFile(folder / "record.json", original.substr(0, original.size() / 2)).has_value());
    QVERIFY(!verifyRecord(folder, control).has_value());
    QVERIFY(saveFile(folder / "record.json", original).has_value());
    const auto rooms = *loadFile(folder / "rooms.csv");
    QVERIFY(saveFile(folder / "rooms.csv", rooms + "x").has_value());
    QVERIFY(!verifyRecord(folder, control)->holds());
    std::filesystem::remove(folder / "rooms.csv");
    QVERIFY(!verifyRecord(folder, control)->holds());
    j = Json::parse(original);
    j["files"]["../outside"] = "0";
    QVERIFY(saveFile(folder / "record.json", j.dump()).has_value());
    QVERIFY(!verifyRecord(folder, control).has_value());
    for (const auto& [from, to] : {std::pair{"\"version\": 2", "\"version\": \"one\""},
                                   {"\"outcome\": \"", "\"outcome\": [], \"was\": \""},
                                   {"\"studies\": [", "\"studies\": 5, \"was\": ["}}) { // other types than they have
      std::string odd = original;
      odd.replace(odd.find(from), std::string_view(from).size(), to);
      QVERIFY(saveFile(folder / "record.json", odd).has_value());
      const auto told = verifyRecord(folder, control);
      QVERIFY(!told.has_value() || !told->holds());
    }
    QVERIFY(!verifyRecord(folder / "nowhere", control).has_value());
    QVERIFY(!gatherRecord(test::house(), shelf(), runner, control).has_value()); // nothing asked, nothing laid
  }
};

QTEST_MAIN(TestRecord)
#include "tst_record.moc"
