// Rules read from files, and verdicts on made cases whose answers are known.

#ifndef Q_MOC_RUN
#include "core/base/json.h"
#include "core/files/library.h"
#include "core/model/form/edit.h"
#include "core/runs/runner.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {
const YardstickShelf& shelf() {
  static const YardstickShelf s = readYardsticks({SOURCE_TREE "/resources/yardsticks"});
  return s;
}
/// A square with a wide wall south of it that can be proposed or not.
Project square(double wallHeight, bool proposed) {
  Project p;
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "UTC+01:00";
  if (wallHeight > 0) {
    Element e;
    e.id = {1};
    e.name = "wall";
    e.proposed = proposed;
    e.shape = Mass{rectangle(-200, -12, 200, -10.5), 0, wallHeight, 1};
    p = withElement(std::move(p), e);
  }
  SensorGroup g;
  g.id = {2};
  g.name = "square";
  GroundArea a;
  a.outline = rectangle(-10, -10, 10, 10);
  g.layout = a;
  p.groups.push_back(g);
  return p;
}
Verdict judged(const Project& p, const char* rule, std::map<std::string, std::string> changed = {},
               std::vector<GroupId> groups = {}) {
  if (groups.empty())
    for (const SensorGroup& g : p.groups) groups.push_back(g.id);
  StudyRunner runner(nullptr);
  RunControl control;
  return runner.judgement(p, *shelf().find(rule), {{}, rule, groups, std::move(changed), ""}, control);
}
SensorGroup window(const std::string& flat, Subject subject, Vec3 at, Vec3 normal) {
  SensorGroup g;
  g.id = GroupId::fresh();
  g.name = flat + (subject == Subject::LivingRoom ? " living" : " open");
  g.layout = std::vector<PointSensor>{{at, normal, ""}};
  g.dwelling = flat;
  g.subject = subject;
  return g;
}
} // namespace

class TestYardsticks : public QObject {
  Q_OBJECT
private slots:
  void shippedRulesAreSound() {
    for (const Error& e : shelf().faults) QFAIL(e.text().c_str());
    QVERIFY(shelf().find("amenity-ground") && shelf().find("midwinter"));
    for (const Yardstick& y : shelf().yardsticks)
      for (const Parameter& p : y.parameters) QVERIFY2(!p.label.empty() && !p.help.empty(), p.key.c_str());
  }

  void openSquareMeets() {
    const Verdict v = judged(square(0, false), "amenity-ground");
    QCOMPARE(v.outcome, Outcome3::Meets);
    QCOMPARE(v.figure, 100.0);
    QVERIFY(std::isnan(v.before)); // nothing is proposed
  }

  void equinoxShadowOfALongWallIsAStraightBand() {
    // At the equinox the shadow's end is a line: h·tan(latitude) north of the wall. With 12.33 m of wall that is 18 m,
    // so rows up to y = -12 + 18 = 6 are dark all day (within a quarter of a degree of declination) and 4 of 20 are
    // lit.
    const Verdict v = judged(square(18 / std::tan(radians(55.6)), true), "amenity-ground");
    QCOMPARE(v.outcome, Outcome3::FallsShort);
    QVERIFY2(std::abs(v.figure - 20) <= 5.01, qPrintable(QString::number(v.figure)));
    QCOMPARE(v.before, 100.0);
    QVERIFY(v.text.starts_with("falls short by"));
    QCOMPARE(v.rows.size(), std::size_t(1));
  }

  void keptShareMeetsWhereTheSquareWasDarkBefore() {
    // The same wall was there before; what is proposed is harmless: most of what had sun keeps it.
    Project p = square(18 / std::tan(radians(55.6)), false);
    Element e;
    e.id = {5};
    e.name = "kiosk";
    e.proposed = true;
    e.shape = Mass{rectangle(30, 30, 33, 33), 0, 3, 1};
    p = withElement(std::move(p), e);
    const Verdict v = judged(p, "amenity-ground");
    QCOMPARE(v.outcome, Outcome3::Meets);
    QVERIFY(v.text.find("keeps") != std::string::npos);
    const Verdict strict = judged(p, "amenity-ground", {{"kept-share", "0"}});
    QCOMPARE(strict.outcome, Outcome3::FallsShort);
  }

  void dwellingsWithoutOpenSpaceAreJudgedAsTheRuleSays() {
    Project p;
    p.site.place = {radians(55.6), radians(0), 0};
    p.groups.push_back(window("A", Subject::LivingRoom, {0, 0, 2}, {0, -1, 0}));
    p.groups.push_back(window("B", Subject::LivingRoom, {5, 0, 2}, {0, -1, 0}));
    p.groups.push_back(window("B", Subject::OpenSpace, {5, -5, 0}, {0, 0, 1}));
    QCOMPARE(judged(p, "midwinter").figure, 50.0);
    QCOMPARE(judged(p, "midwinter", {{"without-open-space", "its living room alone"}}).figure, 100.0);
    const Verdict v = judged(p, "midwinter");
    QVERIFY(std::any_of(v.notes.begin(), v.notes.end(),
                        [](const std::string& n) { return n.find("no open space (A)") != std::string::npos; }));
    QVERIFY(std::any_of(v.notes.begin(), v.notes.end(), [](const std::string& n) { return n.starts_with("Exact"); }));
  }

  void severalWindowsCountAloneOrTogether() {
    // One window to the east, one to the west: the morning and the afternoon.
    Project p;
    p.site.place = {radians(45), radians(0), 0};
    p.groups.push_back(window("A", Subject::LivingRoom, {0, 0, 2}, {1, 0, 0}));
    Element screen; // takes a while of both
    screen.id = {1};
    screen.shape = Mass{rectangle(-0.5, -3, 0.5, -2), 0, 20, 1};
    p = withElement(std::move(p), screen);
    p.groups.push_back(window("A", Subject::LivingRoom, {0.01, 0, 2}, {-1, 0, 0}));
    const double best = judged(p, "midwinter", {{"subject", "living room"}}).rows[0].after;
    const double both = judged(p, "midwinter", {{"subject", "living room"}, {"windows", "union"}}).rows[0].after;
    QVERIFY2(both > best + 0.5 && both < 6, qPrintable(QString("%1 h, %2 h").arg(best).arg(both)));
    // The union is never more than the sum, and the hours in which either has sun by a minute's count.
    SunHoursSettings s = *settingsOf(*shelf().find("midwinter"), p.site);
    const auto in = sunHoursInput(p, {}, s);
    const auto windows = sunWindows(*in);
    double counted = 0;
    for (double t = 30; t < 86400; t += 60) {
      bool lit = false, inWindow = false;
      for (const Interval& i : windows[0].counts) inWindow |= t >= i.begin && t <= i.end;
      for (const Sensor& x : in->sensors.sensors)
        lit |= dot(x.normalVector(), windows[0].path.direction(t)) > 0 &&
               !in->scene.hidden(x.position, windows[0].path.direction(t));
      counted += inWindow && lit;
    }
    QVERIFY(std::abs(both - counted / 60) < 0.05);
  }

  void groundThatIsBuiltOverIsLost() {
    // Half of the square is built over; the rest keeps its sun but for a shadow.
    Project p = square(0, false);
    Element hall;
    hall.id = {9};
    hall.proposed = true;
    hall.shape = Mass{rectangle(-10, 0, 10, 10), 0, 4, 1};
    p = withElement(std::move(p), hall);
    const Verdict v = judged(p, "amenity-ground");
    QVERIFY2(v.figure <= 50.1, v.text.c_str()); // what is left is all in the sun, and half of what there was
    QCOMPARE(v.before, 100.0);
    QVERIFY(std::any_of(v.notes.begin(), v.notes.end(), [](const std::string& n) {
      return n.find("builds over 200 m² of 400 m²") != std::string::npos;
    }));
    Element more = hall;
    more.shape = Mass{rectangle(-10, -4, 10, 10), 0, 4, 1};
    const Verdict worse = judged(withElement(p, more), "amenity-ground");
    QCOMPARE(worse.outcome, Outcome3::FallsShort);
    QVERIFY(worse.figure < 31);
  }

  void sunlightWaitsForAnAltitude() {
    Project p;
    Room r;
    r.id = {1};
    r.name = "Hall";
    r.outline = rectangle(0, 0, 6, 5);
    p.rooms.push_back(r);
    WindowRule w;
    w.id = {2};
    p.windowRules.push_back(w);
    p.site.place = {radians(55.6), radians(12.5), 0};
    p.site.zone = "UTC+01:00";
    const Verdict none = judged(p, "european-sunlight");
    QCOMPARE(none.outcome, Outcome3::NotJudged);
    QVERIFY(none.text.find("no least altitude") != std::string::npos);
    const Verdict typed = judged(p, "european-sunlight", {{"min-altitude", "9"}}),
                  named = judged(p, "european-sunlight", {{"min-altitude", "Denmark"}}),
                  low = judged(p, "european-sunlight", {{"min-altitude", "0"}});
    QVERIFY(typed.outcome != Outcome3::NotJudged && typed.figure == named.figure);
    QVERIFY(named.detail.find("from memory") != std::string::npos);
    QVERIFY(low.figure > typed.figure + 0.5);
    QCOMPARE(judged(p, "european-sunlight", {{"min-altitude", "Atlantis"}}).outcome, Outcome3::NotJudged);
  }

  void changedParametersCount() {
    Project p = square(6, false);
    QCOMPARE(judged(p, "amenity-ground", {{"hours", "0"}}).outcome, Outcome3::Meets);
    QCOMPARE(judged(p, "amenity-ground", {{"hours", "13"}}).outcome, Outcome3::FallsShort);
    const Verdict bad = judged(p, "amenity-ground", {{"hours", "many"}});
    QCOMPARE(bad.outcome, Outcome3::NotJudged);
    QVERIFY(bad.text.find("many") != std::string::npos);
    QCOMPARE(judged(p, "amenity-ground", {{"colour", "1"}}).outcome, Outcome3::NotJudged);
  }

  void dwellingsAreCountedByHemisphere() {
    for (const double latitude : {55.6, -36.9}) {
      Project p;
      p.site.place = {radians(latitude), radians(0), 0};
      p.site.zone = "UTC";
      const double sunny = latitude > 0 ? -1 : 1;
      for (int i = 0; i < 10; ++i) { // seven look to the sun, three away from it
        const Vec3 n{0, i < 7 ? sunny : -sunny, 0};
        const std::string flat = "Flat " + std::to_string(i);
        p.groups.push_back(window(flat, Subject::LivingRoom, {double(i), 0, 2}, n));
        // Open spaces in the sun, but for one flat that has none; its living room looks away.
        if (i < 9) p.groups.push_back(window(flat, Subject::OpenSpace, {double(i), 5, 0}, {0, 0, 1}));
      }
      const Verdict v = judged(p, "midwinter", {{"subject", "living room"}, {"none-share", "30"}});
      QCOMPARE(v.rows.size(), std::size_t(10));
      QCOMPARE(v.figure, 70.0);
      QCOMPARE(v.outcome, Outcome3::Meets); // 70 of 70
      // Dark is who has sun in neither living room nor open space: one of ten.
      QCOMPARE(judged(p, "midwinter", {{"subject", "living room"}}).outcome, Outcome3::Meets);
      QCOMPARE(judged(p, "midwinter", {{"subject", "living room"}, {"none-share", "9"}}).outcome, Outcome3::FallsShort);
      QVERIFY(judged(p, "midwinter").detail.find("1 have none at all") != std::string::npos);
      QCOMPARE(judged(p, "midwinter", {{"subject", "either"}}).figure, 90.0);
      QCOMPARE(judged(p, "midwinter", {{"subject", "both"}}).figure, 70.0);
      QCOMPARE(judged(p, "midwinter", {{"subject", "living room"}, {"share", "71"}, {"none-share", "30"}}).outcome,
               Outcome3::FallsShort);
    }
  }

  void unbrokenStretchesAndLeastIntervals() {
    Project p;
    p.site.place = {radians(40), 0, 0};
    p.site.zone = "UTC";
    Element e; // a post south of the window cuts the day in two
    e.id = {1};
    e.shape = Mass{rectangle(-1.2, -8, 1.2, -7), 0, 30, 1};
    p = withElement(std::move(p), e);
    p.groups.push_back(window("A", Subject::LivingRoom, {0, 0, 1}, {0, -1, 0}));
    const auto rule = [&](const char* hours, const char* counted, const char* least) {
      return judged(p, "midwinter",
                    {{"subject", "living room"}, {"hours", hours}, {"counted", counted}, {"min-interval", least}})
          .rows[0]
          .after;
    };
    const double all = rule("2", "cumulative", "0"), one = rule("2", "longest unbroken", "0");
    QVERIFY(all > 4 && one < all - 1.5);
    QCOMPARE(rule("2", "cumulative", "200"), 0.0); // no stretch is that long
    QVERIFY(std::abs(rule("2", "cumulative", "60") - all) < 1e-6);
  }

  void whatCannotBeJudgedSaysWhy() {
    Project p = square(0, false);
    const Verdict v = judged(p, "midwinter");
    QCOMPARE(v.outcome, Outcome3::NotJudged);
    QCOMPARE(QString::fromStdString(v.text),
             QString("not judged because no group is marked as a living room or open space of a dwelling"));
    p.site.zone = "Nowhere";
    QVERIFY(judged(p, "amenity-ground").text.find("Nowhere") != std::string::npos);
  }

  void copiesOfRulesWinAndFaultyOnesAreNamed() {
    QTemporaryDir d;
    const std::filesystem::path folder = d.path().toStdString();
    std::string own = *loadFile(SOURCE_TREE "/resources/yardsticks/amenity-ground.json");
    own.replace(own.find("\"value\": 2,"), 11, "\"value\": 3,");
    QVERIFY(saveFile(folder / "own.json", own));
    QVERIFY(saveFile(folder / "broken.json", "{\"format\": \"noonward-yardstick\", \"key\": \"x\", \"title\": \"X\", "
                                             "\"measure\": \"sun-hours-area\", \"parameters\": {}}"));
    const YardstickShelf s = readYardsticks({SOURCE_TREE "/resources/yardsticks", folder});
    QCOMPARE(s.find("amenity-ground")->number("hours"), 3.0);
    QCOMPARE(s.faults.size(), std::size_t(1));
    QVERIFY2(s.faults[0].text().find("parameters.date-north: This parameter is missing.") != std::string::npos,
             s.faults[0].text().c_str());
  }

  void sameQuestionIsNeverComputedTwice() {
    const Project p = square(6, true);
    ResultStore store{std::filesystem::path()};
    StudyRunner runner(&store);
    RunControl control;
    const Judgement j{{}, "amenity-ground", {p.groups[0].id}, {}, ""};
    const Verdict a = runner.judgement(p, *shelf().find("amenity-ground"), j, control);
    QCOMPARE(runner.computed(), 2); // after and before
    const Verdict b = runner.judgement(p, *shelf().find("amenity-ground"), j, control);
    QCOMPARE(runner.computed(), 2);
    QCOMPARE(a.figure, b.figure);
    const Project lower = square(5, true);
    runner.judgement(lower, *shelf().find("amenity-ground"), j, control);
    QVERIFY(runner.computed() >= 3);
  }

  void citiesAreFound() {
    const auto cities = readCities(SOURCE_TREE "/resources/cities/cities.tsv");
    QVERIFY(cities && cities->size() > 26000);
    const auto found = searchCities(*cities, "copenhag");
    QVERIFY(!found.empty());
    QCOMPARE(found[0]->zone, std::string("Europe/Copenhagen"));
    QVERIFY(std::abs(found[0]->latitude - 55.68) < 0.1);
    QVERIFY(searchCities(*cities, "zzzzzz").empty());
    for (const City& c : *cities) QVERIFY2(std::abs(c.latitude) <= 90 && !c.zone.empty(), c.name.c_str());
  }
};

QTEST_GUILESS_MAIN(TestYardsticks)
#include "tst_yardsticks.moc"
