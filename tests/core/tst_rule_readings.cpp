// How robust is a verdict: each reading against the same rule or model changed by hand; which readings a project has.

#ifndef Q_MOC_RUN
#include "core/model/form/edit.h"
#include "core/runs/runner.h"
#include "core/sun/sun_day.h"
#include "core/yardsticks/window_points.h"
#include "tests/green.h"
#include "tests/house.h"
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

Judgement laid(const char* key, GroupId group, std::map<std::string, std::string> changed = {}) {
  Judgement j;
  j.id = {1};
  j.yardstick = key;
  j.groups = {group};
  j.changed = std::move(changed);
  return j;
}
std::vector<RuleReading> readings(const Project& p, const Judgement& j) {
  StudyRunner runner(nullptr);
  RunControl control;
  return runner.readings(p, *shippedRules().find(j.yardstick), j, control);
}
Verdict judged(const Project& p, const Judgement& j) {
  StudyRunner runner(nullptr);
  RunControl control;
  return runner.judgement(p, *shippedRules().find(j.yardstick), j, control);
}
const RuleReading* named(const std::vector<RuleReading>& all, const char* name) {
  for (const RuleReading& r : all)
    if (r.name == name) return &r;
  return nullptr;
}

/// A tree between the sun and the green, and a hill of terrain to its south.
void plant(Project& p) {
  Element tree;
  tree.id = {50};
  tree.name = "Lime";
  tree.role = Role::Planting;
  tree.shape = Mass{rectangle(-4, -7, 4, -6), 0, 12, 1};
  p.elements.push_back(std::make_shared<const Element>(tree));
}
void raise(Project& p) {
  Element hill;
  hill.id = {51};
  hill.name = "Hill";
  hill.role = Role::Ground;
  hill.shape = Mass{rectangle(-60, -90, 60, -60), 0, 60, 1};
  p.elements.push_back(std::make_shared<const Element>(hill));
}
Project leftOut(Project p, std::uint64_t id) {
  std::erase_if(p.elements, [&](const ElementPtr& e) { return e->id.value == id; });
  return p;
}

class TestRuleReadings : public QObject {
  Q_OBJECT
private slots:
  void theFirstIsTheVerdictItself() {
    const Judgement j = laid("amenity-ground", {10});
    const auto all = readings(greenPlace(), j);
    QCOMPARE(all[0].name, std::string("As laid"));
    QCOMPARE(all[0].verdict.text, judged(greenPlace(), j).text);
    QVERIFY(all[0].changed.empty());
  }

  void readingsThatChangeNothingAreLeftOut() {
    const auto all = readings(greenPlace(), laid("amenity-ground", {10}));
    QVERIFY(!named(all, "Trees left out") && !named(all, "Terrain left out"));
    QVERIFY(named(all, "The bound alone"));
    Project alone = leftOut(greenPlace(), 2); // nothing proposed
    QVERIFY(!named(readings(alone, laid("amenity-ground", {10})), "The bound alone"));
    // Trees that count for nothing in any study are no reading either.
    Project p = greenPlace();
    plant(p);
    Element out = *p.elements.back();
    out.counted = false;
    p.elements.back() = std::make_shared<const Element>(out);
    QVERIFY(!named(readings(p, laid("amenity-ground", {10})), "Trees left out"));
  }

  void treesAndTerrainAreLeftOutOneAtATime() {
    Project p = greenPlace(5);
    plant(p);
    raise(p);
    const Judgement j = laid("amenity-ground", {10}, {{"hours", "5"}});
    const auto all = readings(p, j);
    QVERIFY(named(all, "Trees left out") && named(all, "Terrain left out"));
    const double bare = named(all, "Trees left out")->verdict.figure,
                 flat = named(all, "Terrain left out")->verdict.figure;
    QVERIFY(std::abs(bare - judged(leftOut(p, 50), j).figure) < 1e-9);
    QVERIFY(std::abs(flat - judged(leftOut(p, 51), j).figure) < 1e-9);
    QVERIFY2(bare > all[0].verdict.figure && flat > all[0].verdict.figure,
             qPrintable(QString("%1 %2 %3").arg(all[0].verdict.figure).arg(bare).arg(flat)));
    QCOMPARE(p.elements.size(), std::size_t(4)); // the project itself is as it was
    QVERIFY(p.elements[2]->counted);
  }

  void windowsAreReadAtOtherSpotsOfTheirs() {
    // A house with a window glazed to the floor and one that is not, across from what is proposed.
    Project p = house();
    p.id = ProjectId{78};
    p.site.place = {radians(52), 0, 0};
    p.site.zone = "UTC";
    for (int k = 0; k < 2; ++k) {
      Opening o;
      o.id = {901 + std::uint64_t(k)};
      o.name = k == 0 ? "Door" : "Window";
      o.room = p.rooms[0].id;
      o.edge = 0; // south
      o.along = 0.5 + 2 * k;
      o.width = 1.2;
      o.sill = k == 0 ? 0 : 1;
      o.height = k == 0 ? 2.4 : 1.2;
      p.openings.push_back(o);
    }
    const Box3 box = boxOf(*p.elements[0]);
    putMass(p, 2, rectangle(box.low.x - 10, box.low.y - 18, box.high.x + 10, box.low.y - 8), 9, true);
    const WindowPoints at = windowPoints(p, {});
    QCOMPARE(at.points.size(), std::size_t(2));
    SensorGroup g;
    g.id = {12};
    g.name = "Windows";
    g.layout = at.points;
    p.groups = {g};
    const Judgement j = laid("window-sky", {12});
    const auto all = readings(p, j);
    const auto moved = [&](const std::function<Vec3(std::size_t)>& spot) {
      Project by = p;
      auto& points = std::get<std::vector<PointSensor>>(by.groups[0].layout);
      for (std::size_t k = 0; k < points.size(); ++k) points[k].position = spot(k);
      return judged(by, j);
    };
    const RuleReading *middle = named(all, "Middle of the window"), *reveal = named(all, "In the reveal");
    QVERIFY(middle && reveal);
    const Verdict low = moved([&](std::size_t k) { return at.spots[k].middle; }),
                  in = moved([&](std::size_t k) { return *at.spots[k].inside; });
    for (std::size_t k = 0; k < 2; ++k) {
      QVERIFY(std::abs(middle->verdict.rows[k].after - low.rows[k].after) < 1e-9);
      QVERIFY(std::abs(reveal->verdict.rows[k].after - in.rows[k].after) < 1e-9);
      QVERIFY(reveal->verdict.rows[k].after < all[0].verdict.rows[k].after - 0.5); // 12 cm of wall around it
    }
    // 0.4 m lower sees less sky over the same roof; the other window stays where it was.
    QVERIFY(middle->verdict.rows[0].after < all[0].verdict.rows[0].after - 0.3);
    QVERIFY(std::abs(middle->verdict.rows[1].after - all[0].verdict.rows[1].after) < 1e-9);
    // Points of one's own are no windows: nothing is moved.
    for (PointSensor& s : std::get<std::vector<PointSensor>>(p.groups[0].layout)) s.position.z += 0.05;
    const auto own = readings(p, j);
    QVERIFY(!named(own, "Middle of the window") && !named(own, "In the reveal"));
  }

  void lowestSunAndStepsAreThoseOfARuleChangedByHand() {
    const Project p = greenPlace(8);
    const auto all = readings(p, laid("amenity-ground", {10}));
    const RuleReading* low = named(all, "Lowest sun");
    QVERIFY(low);
    // The rule as shipped counts from some altitude on; the reading takes the other.
    const double is = shippedRules().find("amenity-ground")->number("min-altitude");
    const Verdict byHand =
        judged(p, laid("amenity-ground", {10}, {{"min-altitude", is > 0 ? std::string("0") : std::string("5")}}));
    QVERIFY(std::abs(low->verdict.figure - byHand.figure) < 1e-9);
    const RuleReading* steps = named(all, "By steps");
    QVERIFY(steps);
    SunHoursSettings s = *settingsOf(*shippedRules().find("amenity-ground"), p.site);
    s.counting = Counting::Stepped;
    s.stepMinutes = 10;
    const auto in = sunHoursInput(p, {{10}}, s);
    RunControl control;
    const SunHoursResult r = runSunHours(*in, control);
    double share = 0;
    for (const float h : r.hours) share += double(h) >= 2 - 1e-6 ? 100.0 / double(r.hours.size()) : 0;
    QVERIFY2(std::abs(steps->verdict.figure - share) < 1e-6,
             qPrintable(QString("%1 %2").arg(steps->verdict.figure).arg(share)));
  }

  void theSunsTimeIsThatOfItsNoon() {
    // At 15° W by the clock of Greenwich the sun is an hour late, by its own unevenness some minutes more.
    Project p = greenPlace();
    p.site.place.longitude = radians(-15);
    SensorGroup home = *p.group({12});
    home.id = {13};
    home.dwelling = "Home";
    home.subject = Subject::LivingRoom;
    p.groups.push_back(home);
    const Judgement j = laid("midwinter", {13});
    const RuleReading* late = nullptr;
    const auto all = readings(p, j);
    late = named(all, "By the sun's time");
    QVERIFY(late);
    const Date day{p.site.year, 12, 21};
    const Instant midnight = p.zone().instant({day, 0});
    const SunDay sun = sunDay(SunKnots(midnight + -86400, midnight + 2 * 86400), p.site.place, p.zone(), day);
    const double minutes = (sun.noon - midnight) / 60 - 720;
    QVERIFY(minutes > 50 && minutes < 65); // the equation of time is +2 min on the shortest day
    const auto shifted = [&](double minute) { return clockText(std::round(minute + minutes)); };
    QVERIFY2(QString::fromStdString(late->changed)
                 .startsWith(QString::fromStdString(shifted(9 * 60) + " to " + shifted(15 * 60))),
             late->changed.c_str());
    const Verdict byHand =
        judged(p, laid("midwinter", {13}, {{"window-from", shifted(9 * 60)}, {"window-to", shifted(15 * 60)}}));
    QCOMPARE(late->verdict.text, byHand.text);
    QCOMPARE(late->verdict.rows[0].after, byHand.rows[0].after);
  }

  void theBoundAloneForgetsWhatWas() {
    // Windows at 27 % of nothing: with a proposal so low that they keep nearly all, the clause on before saves them.
    Project p = greenPlace(3);
    putMass(p, 3, rectangle(-15, -40, 40, -22), 30, false); // stands there already
    const Judgement j = laid("window-sky", {12});
    const auto all = readings(p, j);
    QCOMPARE(all[0].verdict.outcome, Outcome3::Meets);
    const RuleReading* alone = named(all, "The bound alone");
    QVERIFY(alone);
    QCOMPARE(alone->verdict.outcome, Outcome3::FallsShort);
    QVERIFY(!robust(all));
    QVERIFY(robust({all[0], all[0]}));
  }

  void shadowIsReadMoreFinely() {
    const auto all = readings(greenPlace(), laid("new-shadow", {10}));
    const RuleReading* fine = named(all, "Finer steps");
    QVERIFY(fine);
    QVERIFY(std::abs(fine->verdict.figure -
                     judged(greenPlace(), laid("new-shadow", {10}, {{"moment-step", "5"}})).figure) < 1e-9);
    QVERIFY(std::abs(fine->verdict.figure / all[0].verdict.figure - 1) < 0.01);
    QVERIFY(!named(readings(greenPlace(), laid("new-shadow", {10}, {{"moment-step", "5"}})), "Finer steps"));
  }

  void aYearHasReadingsOfItsOwn() {
    QCOMPARE(readings(greenPlace(), laid("daylight-credit", {10})).size(), std::size_t(1));
  }

  void droppedReadingsEndAtOnce() {
    StudyRunner runner(nullptr);
    RunControl control;
    control.wish = Wish::Drop;
    const Judgement j = laid("amenity-ground", {10});
    for (const RuleReading& r : runner.readings(greenPlace(), *shippedRules().find(j.yardstick), j, control))
      QCOMPARE(r.verdict.outcome, Outcome3::NotJudged);
  }

  // ---- the runner behind them
  void aRunnerAsksNothingTwice() {
    StudyRunner runner(nullptr);
    RunControl control;
    const Project p = greenPlace();
    Study s;
    s.kind = StudyKind::Vsc;
    s.groups = {{12}};
    QVERIFY(runner.field(p, s, false, {}, control).has_value());
    QCOMPARE(runner.computed(), 1);
    (void)runner.judgement(p, *shippedRules().find("window-sky"), laid("window-sky", {12}), control);
    QCOMPARE(runner.computed(), 2); // the state before alone
    QVERIFY(runner.field(p, s, true, {}, control).has_value());
    QCOMPARE(runner.computed(), 2);
    Study year;
    year.kind = StudyKind::Year;
    QVERIFY(!runner.field(p, year, false, {}, control).has_value());
  }
};

} // namespace

QTEST_MAIN(TestRuleReadings)
#include "tst_rule_readings.moc"
