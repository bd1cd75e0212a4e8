// Rules on irradiation and on net new shadow: met, missed, not judged, and why; receivers as a table.

#ifndef Q_MOC_RUN
#include "core/files/results/tables.h"
#include "core/model/form/edit.h"
#include "core/runs/runner.h"
#include "core/studies/shadow_plan.h"
#include "core/yardsticks/questions.h"
#include "tests/green.h"
#include <QtTest>
#include <cmath>
#include <set>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

using Changes = std::map<std::string, std::string>;

Verdict judged(const Project& p, const char* key, std::vector<GroupId> groups, Changes changed = {}) {
  const Yardstick* y = shippedRules().find(key);
  if (!y) throw std::runtime_error(key);
  StudyRunner runner(nullptr);
  RunControl control;
  Judgement j;
  j.yardstick = key;
  j.groups = std::move(groups);
  j.changed = std::move(changed);
  return runner.judgement(p, *y, j, control);
}

Project place(double height = 14, double latitude = 52) {
  return greenPlace(height, latitude);
}

class TestAccessVerdicts : public QObject {
  Q_OBJECT
private slots:
  // ---- net new shadow
  void newShadowIsMeasuredAsThePlanDoes() {
    const Project p = place();
    const Verdict v = judged(p, "new-shadow", {{10}});
    QVERIFY2(v.outcome == Outcome3::FallsShort, v.text.c_str());
    RunControl control;
    const auto plan =
        shadowPlan(p, {stepMoments(p, {p.site.year, 3, 21}, 9 * 60, 16 * 60, 15), 0.25, false, {{10}}}, control);
    QVERIFY(plan.has_value());
    QVERIFY(std::abs(v.figure - plan->freshAreaHours({10})) < 1e-6 * v.figure);
    QCOMPARE(v.rows.size(), std::size_t(1));
    QVERIFY(v.atMost);
    QCOMPARE(v.needed, 500.0);
    QVERIFY2(QString::fromStdString(v.text).startsWith("exceeds by"), v.text.c_str());
  }

  void aLowProposalMeetsIt() {
    const Verdict v = judged(place(1.5), "new-shadow", {{10}});
    QVERIFY2(v.outcome == Outcome3::Meets, v.text.c_str());
    QCOMPARE(v.figure, 0.0); // its shadow ends before the green
    QCOMPARE(v.rows[0].text, std::string("no new shadow"));
  }

  void theLargestMomentCountsToo() {
    const Changes many{{"max-area-hours", "100000"}};
    const Verdict v = judged(place(), "new-shadow", {{10}}, many);
    QVERIFY2(v.outcome == Outcome3::FallsShort, v.text.c_str());
    QVERIFY2(QString::fromStdString(v.text).contains("of the area at once"), v.text.c_str());
    Changes off = many;
    off["max-share"] = "100";
    QCOMPARE(judged(place(), "new-shadow", {{10}}, off).outcome, Outcome3::Meets);
  }

  void everyDayIsARowOfItsOwn() {
    const Verdict v = judged(place(6), "new-shadow", {{10}}, {{"date-north", "21 Mar, 21 Jun , 21 Dec"}});
    QCOMPARE(v.rows.size(), std::size_t(3));
    QVERIFY(v.rows[0].name.ends_with("21 Mar") && v.rows[2].name.ends_with("21 Dec"));
    QVERIFY(v.rows[2].after > v.rows[0].after && v.rows[0].after >= v.rows[1].after); // the lower the sun the more
    QCOMPARE(v.figure, v.rows[2].after);
  }

  void inTheSouthTheOtherDaysCount() {
    Project p = place(14, -34);
    p.elements.erase(p.elements.begin() + 1);
    putMass(p, 2, rectangle(-15, 30, 40, 42), 14, true); // to its north
    const Verdict v = judged(p, "new-shadow", {{10}}, {{"date-north", "nonsense"}, {"date-south", "21 Jun"}});
    QVERIFY2(v.outcome == Outcome3::FallsShort, v.text.c_str());
  }

  void newShadowNotJudged_data() {
    QTest::addColumn<int>("wish");
    QTest::addColumn<QString>("says");
    QTest::newRow("nothing proposed") << 0 << "nothing is marked as proposed";
    QTest::newRow("no area") << 1 << "no area is chosen";
    QTest::newRow("a roof is no ground") << 2 << "is no area on the ground";
    QTest::newRow("days that are none") << 3 << "are no days such as";
    QTest::newRow("a window that is none") << 4 << "is no clock window";
    QTest::newRow("the sun never up") << 5 << "the sun is never up";
    QTest::newRow("no step") << 6 << "step of 1 to 240";
  }
  void newShadowNotJudged() {
    QFETCH(int, wish);
    QFETCH(QString, says);
    Project p = place(14, wish == 5 ? 75 : 52);
    Changes changed;
    std::vector<GroupId> groups{{10}};
    if (wish == 0) {
      Element e = *p.elements[1];
      e.proposed = false;
      p.elements[1] = std::make_shared<const Element>(e);
    }
    if (wish == 1) groups.clear();
    if (wish == 2) groups = {{11}};
    if (wish == 3) changed["date-north"] = "21 Mar, someday";
    if (wish == 4) changed["window-to"] = "8:00";
    if (wish == 5) changed["date-north"] = "21 Dec";
    if (wish == 6) changed["moment-step"] = "0";
    const Verdict v = judged(p, "new-shadow", groups, changed);
    QCOMPARE(v.outcome, Outcome3::NotJudged);
    QVERIFY2(QString::fromStdString(v.text).contains(says), v.text.c_str());
  }

  // ---- irradiation
  void aFreeRoofMeetsItsIrradiation() {
    Project p = place();
    p.elements.pop_back();
    const Verdict v = judged(p, "roof-irradiation", {{11}});
    QVERIFY2(v.outcome == Outcome3::Meets, v.text.c_str());
    QVERIFY(v.figure > 99.9);
    QVERIFY(std::isnan(v.before)); // nothing is proposed
    QVERIFY2(QString::fromStdString(v.rows[0].text).contains("kWh on 120 m²"), v.rows[0].text.c_str());
  }

  void whatAProposalTakesOfARoof() {
    const Project p = place(40);
    const Verdict v = judged(p, "roof-irradiation", {{11}});
    QVERIFY2(v.outcome == Outcome3::FallsShort, v.text.c_str());
    QVERIFY(v.figure < 50 && v.before > 99.9);
    QVERIFY(QString::fromStdString(v.rows[0].text).contains("% before"));
    const Verdict lenient = judged(p, "roof-irradiation", {{11}}, {{"min", "200"}});
    QVERIFY2(lenient.outcome == Outcome3::Meets, lenient.text.c_str());
  }

  void keepingAShareOfBeforeIsEnough() {
    const Project p = place(40);
    // Of a bound that only part of the roof reached before, little is asked.
    const Verdict strict = judged(p, "roof-irradiation", {{11}}, {{"min", "1110"}, {"kept-share", "0"}});
    QVERIFY2(strict.outcome == Outcome3::FallsShort, strict.text.c_str());
    Project low = place(3);
    const Verdict kept = judged(low, "roof-irradiation", {{11}}, {{"min", "1500"}, {"kept-share", "80"}});
    QVERIFY2(kept.outcome == Outcome3::Meets, kept.text.c_str()); // nothing had it before: nothing is lost
  }

  void theSeasonOfTheStudyCounts() {
    Project p = place();
    p.elements.pop_back();
    Study s;
    s.id = {20};
    s.kind = StudyKind::Irradiation;
    s.groups = {{11}};
    s.light.season.fromMonth = 12;
    s.light.season.fromDay = 1;
    s.light.season.toMonth = 2;
    s.light.season.toDay = 28;
    p.studies.push_back(s);
    const Verdict v = judged(p, "roof-irradiation", {{11}});
    QVERIFY2(v.outcome == Outcome3::FallsShort, v.text.c_str());
    QVERIFY(QString::fromStdString(v.notes.front()).contains("1 Dec"));
    p.studies[0].light.sky.kind = SkyKind::Weather;
    p.studies[0].light.sky.moment = CivilTime{{2026, 6, 21}, 43200};
    const Verdict moment = judged(p, "roof-irradiation", {{11}});
    QCOMPARE(moment.outcome, Outcome3::NotJudged);
    QVERIFY2(QString::fromStdString(moment.text).contains("one moment"), moment.text.c_str());
  }

  void withoutWeatherItIsNotJudged() {
    Project p = place();
    p.site.weather.reset();
    const Verdict v = judged(p, "roof-irradiation", {{11}});
    QCOMPARE(v.outcome, Outcome3::NotJudged);
    QVERIFY2(QString::fromStdString(v.text).contains("weather year"), v.text.c_str());
    QCOMPARE(judged(place(), "roof-irradiation", {}).outcome, Outcome3::NotJudged);
  }

  // ---- asked for
  void questionsLayThem() {
    Project p = place();
    p.groups.clear();
    const auto energy = ask(p, "sun-energy", {}, shippedRules());
    QVERIFY(energy.has_value());
    QCOMPARE(energy->project.studies.back().kind, StudyKind::Irradiation);
    QVERIFY(std::get<FaceGrid>(energy->project.groups.back().layout).roofs);
    QCOMPARE(energy->project.judgements.back().yardstick, std::string("roof-irradiation"));
    const auto again = ask(energy->project, "sun-energy", {}, shippedRules());
    QCOMPARE(again->project.studies.size(), energy->project.studies.size()); // not laid twice
    p = place();
    const auto shadow = askRule(p, *shippedRules().find("new-shadow"), {}, shippedRules());
    QVERIFY2(shadow.has_value(), shadow ? "" : shadow.error().text().c_str());
    QCOMPARE(shadow->project.judgements.back().yardstick, std::string("new-shadow"));
    p.site.weather.reset();
    QVERIFY(!ask(p, "sun-energy", {}, shippedRules()));
  }

  // ---- receivers by bay and storey
  void everyBayAndStoreyHasItsReceiver() {
    Project p;
    p.site.place = {radians(52), 0, 0};
    putMass(p, 1, rectangle(0, 0, 12, 9), 6, false); // two storeys
    SensorGroup g;
    g.id = {5};
    g.name = "Bays";
    FaceGrid f;
    f.faces.push_back({{1}, {}});
    f.bay = 3;
    g.layout = f;
    p.groups.push_back(g);
    const auto sensors = layOutSensors(p);
    QVERIFY(sensors.has_value());
    QCOMPARE(sensors->sensors.size(), std::size_t(2 * (4 + 3) * 2));
    double area = 0;
    std::set<std::string> names;
    for (std::size_t i = 0; i < sensors->sensors.size(); ++i) {
      const Sensor& s = sensors->sensors[i];
      area += sensors->areaOf(i);
      names.insert(sensors->sensorName(i));
      QVERIFY(std::abs(s.position.z - 1.6) < 1e-6 || std::abs(s.position.z - 4.6) < 1e-6);
      QVERIFY(std::abs(s.normal[2]) < 1e-6f);
      const auto c = sensors->cell(i); // about the receiver, counter-clockwise seen from the front
      QVERIFY(dot(cross(c[1] - c[0], c[2] - c[0]), s.normalVector()) > 0);
    }
    QVERIFY(std::abs(area - 42 * 6) < 1e-3); // the walls, no more
    QCOMPARE(names.size(), sensors->sensors.size());
    QVERIFY(names.contains("E1, south, storey 2, bay 4"));
    // Taller: another storey's receivers come by themselves.
    Element e = *p.elements[0];
    e.shape = Mass{rectangle(0, 0, 12, 9), 0, 9, 3};
    p.elements[0] = std::make_shared<const Element>(e);
    QCOMPARE(layOutSensors(p)->sensors.size(), std::size_t(3 * 14));
    std::get<FaceGrid>(p.groups[0].layout).bay = -1;
    QVERIFY(layOutSensors(p).has_value()); // no bays: a grid
    std::get<FaceGrid>(p.groups[0].layout).bay = 0.001;
    QVERIFY(!layOutSensors(p));
  }

  void importedWallsHaveStoreysOfThreeMetres() {
    Project p;
    auto mesh = std::make_shared<Mesh>(*extrude(rectangle(0, 0, 6, 6), 2, 9));
    Element e;
    e.id = {1};
    e.name = "Tower";
    Imported in;
    in.mesh = mesh;
    e.shape = in;
    p.elements.push_back(std::make_shared<const Element>(e));
    SensorGroup g;
    g.id = {5};
    FaceGrid f;
    f.faces.push_back({{1}, {}});
    f.bay = 3;
    g.layout = f;
    p.groups.push_back(g);
    const auto sensors = layOutSensors(p);
    QCOMPARE(sensors->sensors.size(), std::size_t(4 * 2 * 3));
    for (const Sensor& s : sensors->sensors) {
      const double above = std::fmod(s.position.z - 2, 3);
      QVERIFY(std::abs(above - 1.6) < 1e-6);
    }
  }

  void aRuleOnWindowsFindsBareMasses() {
    Project p = place();
    p.groups.clear();
    const auto asked = askRule(p, *shippedRules().find("window-sky"), {}, shippedRules());
    QVERIFY2(asked.has_value(), asked ? "" : asked.error().text().c_str());
    const auto& f = std::get<FaceGrid>(asked->project.groups.back().layout);
    QCOMPARE(f.bay, 3.0);
    QCOMPARE(f.faces.size(), std::size_t(1)); // the neighbour, not the proposal
    QVERIFY(QString::fromStdString(asked->told).contains("every 3 m of facade"));
    const Verdict v = judged(asked->project, "window-sky", {asked->project.groups.back().id});
    QCOMPARE(v.rows.size(), std::size_t(2 * 2 * (4 + 3)));
    QVERIFY(!std::isnan(v.rows[0].before));
  }

  void receiversAreListed() {
    Project p = place();
    p.groups[0].dwelling = "Flat 1";
    p.groups[0].subject = Subject::OpenSpace;
    SensorGroup wall;
    wall.id = {12};
    wall.name = "Wall, \"east\"";
    wall.layout = std::vector<PointSensor>{{{0, 0, 2}, {1, 0, 0}, "W1"}};
    p.groups.push_back(wall);
    p.site.northAngle = radians(10);
    const auto sensors = layOutSensors(p);
    const QStringList rows = QString::fromStdString(receiversCsv(p, *sensors)).split('\n', Qt::SkipEmptyParts);
    QCOMPARE(std::size_t(rows.size()), sensors->sensors.size() + 1);
    QVERIFY(rows[1].contains(",Green,Flat 1,open-space,"));
    QVERIFY2(rows.last().contains("\"Wall, \"\"east\"\"\"") && rows.last().endsWith(",100.00,,"),
             qPrintable(rows.last()));
    double area = 0;
    for (const QString& r : rows)
      if (r.contains(",Green,")) area += r.section(',', -2, -2).toDouble();
    QVERIFY(std::abs(area - 900) < 1);
  }
};

} // namespace

QTEST_GUILESS_MAIN(TestAccessVerdicts)
#include "tst_access_verdicts.moc"
