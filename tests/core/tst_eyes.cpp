// Eyes set by hand: where they stand, which way they look, rows of them, and what goes with a group.

#ifndef Q_MOC_RUN
#include "core/model/form/edit.h"
#include "core/model/rooms/eyes.h"
#include "core/model/rooms/sensors.h"
#include "tests/house.h"
#endif
#include <QTest>
#include <limits>

using namespace noonward;
using namespace noonward::test;

namespace {
QString words(Vec3 v) {
  return QString("%1 %2 %3").arg(v.x, 0, 'f', 3).arg(v.y, 0, 'f', 3).arg(v.z, 0, 'f', 3);
}
} // namespace

class TestEyes : public QObject {
  Q_OBJECT
private slots:
  void anEyeSitsInARoomAndStandsOutdoors() {
    Project p = house();
    QCOMPARE(eyeLevel(p, {3, 3}, {}), 1.2);
    p.site.groundLevel = 0.4;
    QCOMPARE(eyeLevel(p, {-5, 3}, {}), 2.1);
    Room above = p.rooms[0];
    above.id = {2};
    above.floor = 3.4;
    p.rooms.push_back(above);
    QCOMPARE(eyeLevel(p, {3, 3}, {}), 1.2);  // of several the lowest,
    QCOMPARE(eyeLevel(p, {3, 3}, 3.4), 4.6); // or that looked into
    p.rooms[0].height = 1;                   // a loft to lie in
    QCOMPARE(eyeLevel(p, {3, 3}, {}), 0.8);
  }

  void itLooksTowardTheBiggestWindow() {
    const Project blind = house();
    QCOMPARE(towardTheWindow(blind, {3, 3, 1.2}), pi); // south where there is none
    for (const auto& [facing, azimuth] : {std::pair{Facing::North, 0.0}, {Facing::East, 90.0}, {Facing::West, 270.0}}) {
      Project p = house({.ratio = 0.3, .facing = facing});
      QVERIFY(std::abs(degrees(towardTheWindow(p, {3, 3, 1.2})) - azimuth) < 1e-9);
      p.site.northAngle = radians(7.5); // the drawing turned: the same wall looks elsewhere
      QVERIFY(std::abs(degrees(towardTheWindow(p, {3, 3, 1.2})) - azimuth - 7.5) < 1e-9);
      QCOMPARE(towardTheWindow(p, {3, 30, 1.2}), pi); // outdoors
    }
  }

  void aLineOfSightComesBackAsItWasGiven() {
    Project p = house();
    for (double north : {0.0, 0.3, -2.0})
      for (double azimuth : {0.0, 1.0, 3.5, 6.2})
        for (double altitude : {-1.2, 0.0, 0.7}) {
          p.site.northAngle = north;
          EyeRef made;
          const Project q = withEye(p, {1, 2, 1.2}, {azimuth, altitude}, {}, &made);
          const LineOfSight back = lineOfSight(q, *eyeAt(q, made));
          QVERIFY(std::abs(std::remainder(back.azimuth - azimuth, 2 * pi)) < 1e-12);
          QVERIFY(std::abs(back.altitude - altitude) < 1e-12);
          const Project turned = withEyeTurned(q, made, {azimuth + 1, -altitude});
          QVERIFY(std::abs(std::remainder(lineOfSight(turned, *eyeAt(turned, made)).azimuth - azimuth - 1, 2 * pi)) <
                  1e-12);
          QCOMPARE(words(eyeAt(turned, made)->position), words({1, 2, 1.2}));
        }
  }

  void theyAreGatheredInOneGroupWithNamesOfTheirOwn() {
    Project p = house({.ratio = 0.3, .spacing = 1});
    EyeRef first, second;
    p = withEye(p, {2, 2, 1.2}, {}, {}, &first);
    p = withEye(p, {3, 2, 1.2}, {}, {}, &second);
    QCOMPARE(p.groups.size(), std::size_t(2));
    QVERIFY(p.groups[1].eyes && first.group == p.groups[1].id && second == (EyeRef{first.group, 1}));
    QCOMPARE(eyesSet(p).size(), std::size_t(2));
    p = withoutEye(p, first);
    QCOMPARE(eyeAt(p, first)->name, std::string("Eye 2"));
    EyeRef third;
    p = withEye(p, {4, 2, 1.2}, {}, {}, &third);
    QCOMPARE(eyeAt(p, third)->name, std::string("Eye 1")); // free again
    QVERIFY(!eyeAt(p, {first.group, 9}) && !eyeAt(p, {{77}, 0}));
    // A study of light takes none of them, one of glare nothing else.
    QCOMPARE(groupsTaken(p, {}, false), std::vector{p.groups[0].id});
    QCOMPARE(groupsTaken(p, {}, true), std::vector{p.groups[1].id});
  }

  void aRowGoesToTheRightOfWhatIsSeen() {
    Project p = house();
    EyeRef eye;
    p = withEye(p, {2, 2, 1.2}, {0, radians(-20)}, {}, &eye); // north: the right is east
    const auto row = withRowOfEyes(p, eye, 4, 1.5);
    QVERIFY(row);
    const auto& points = std::get<std::vector<PointSensor>>(row->groups.back().layout);
    QCOMPARE(points.size(), std::size_t(4));
    for (std::size_t k = 0; k < 4; ++k) {
      QCOMPARE(words(points[k].position), words({2 + 1.5 * double(k), 2, 1.2}));
      QCOMPARE(words(points[k].normal), words(points[0].normal));
    }
    const auto left = withRowOfEyes(p, eye, 2, -0.8);
    QCOMPARE(words(std::get<std::vector<PointSensor>>(left->groups.back().layout)[1].position), words({1.2, 2, 1.2}));
    for (const auto& [count, apart, place] : {std::tuple{1, 1.0, "count"},
                                              {201, 1.0, "count"},
                                              {3, 0.0, "distance"},
                                              {3, 1e9, "distance"},
                                              {3, std::numeric_limits<double>::quiet_NaN(), "distance"}}) {
      const auto none = withRowOfEyes(p, eye, count, apart);
      QVERIFY(!none && none.error().place == place);
    }
    QVERIFY(!withRowOfEyes(p, {{99}, 0}, 3, 1));
  }

  void theLastOneTakesItsGroupAlong() {
    Project p = house({.ratio = 0.3, .spacing = 1});
    EyeRef eye;
    p = withEye(p, {2, 2, 1.2}, {}, {}, &eye);
    Study own, both;
    own.id = {1};
    own.groups = {eye.group};
    both.id = {2};
    both.groups = {p.groups[0].id, eye.group};
    p.studies = {own, both};
    Judgement rule;
    rule.id = {3};
    rule.groups = {eye.group};
    p.judgements = {rule};
    const Project q = withoutEye(p, eye);
    QCOMPARE(q.groups.size(), std::size_t(1));
    // What looked from it alone would look from everything: it is gone.
    QCOMPARE(q.studies.size(), std::size_t(1));
    QCOMPARE(q.studies[0].groups, std::vector{p.groups[0].id});
    QVERIFY(q.judgements.empty());
    QCOMPARE(withoutEye(q, eye).groups.size(), std::size_t(1)); // none: nothing happens
    QCOMPARE(withoutGroup(q, {555}).studies.size(), std::size_t(1));
  }
};

QTEST_MAIN(TestEyes)
#include "tst_eyes.moc"
