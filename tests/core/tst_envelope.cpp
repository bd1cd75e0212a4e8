// What parts rooms from the outdoors, by hand-made houses.

#ifndef Q_MOC_RUN
#include "core/studies/energy/envelope.h"
#include "tests/house.h"
#include <cmath>
#endif
#include <QTest>

using namespace noonward;
using namespace noonward::test;

namespace {
bool near(double a, double b) {
  return std::abs(a - b) < 1e-6 * std::max(1.0, std::abs(b));
}
Project withMass(Project p, double base, double height) {
  Element e = *p.elements[0];
  Mass m = *e.mass();
  m.base = base;
  m.height = height;
  e.shape = m;
  p.elements = {std::make_shared<const Element>(e)};
  return p;
}
Room roomAt(std::uint64_t id, Outline outline, double floor) {
  Room r;
  r.id = {id};
  r.name = "Room";
  r.outline = std::move(outline);
  r.floor = floor;
  r.height = 3;
  return r;
}
} // namespace

class TestEnvelope : public QObject {
  Q_OBJECT
private slots:
  void aHouseStandsFree() {
    const Project p = house({.ratio = 0.3});
    const double w = 8 - 0.7, d = 6 - 0.7;
    const auto e = roomEnvelopes(p).at(0);
    QVERIFY(near(e.floorArea, w * d) && near(e.volume, 3 * w * d));
    QVERIFY(near(e.roof, w * d) && near(e.ground, w * d) && e.exposedFloor == 0);
    QVERIFY(e.openings > 1);
    QVERIFY(near(e.wall, 2 * (w + d) * 3 - e.openings));
  }

  void roomsShareTheirWalls() {
    Project p = house();
    p.rooms = {roomAt(1, rectangle(0.3, 0.3, 4, 5.7), 0), roomAt(2, rectangle(4.1, 0.3, 7.7, 5.7), 0)};
    const auto e = roomEnvelopes(p);
    QVERIFY(near(e[0].wall, (3.7 * 2 + 5.4) * 3));
    QVERIFY(near(e[1].wall, (3.6 * 2 + 5.4) * 3));
  }

  void storeysShareCeilingAndFloor() {
    Project p = withMass(house(), 0, 6.8);
    const Outline whole = rectangle(0.3, 0.3, 7.7, 5.7);
    p.rooms = {roomAt(1, whole, 0), roomAt(2, rectangle(0.3, 0.3, 4, 5.7), 3.4)};
    const auto e = roomEnvelopes(p);
    QVERIFY(e[0].roof == 0); // the building goes on above what no room covers
    QVERIFY(near(e[0].ground, 7.4 * 5.4));
    QVERIFY(near(e[1].roof, 3.7 * 5.4) && e[1].ground == 0 && e[1].exposedFloor == 0);
    // A low building with a room half as wide on its roof, drawn without a mass of its own.
    p = withMass(p, 0, 3.4);
    QVERIFY(near(roomEnvelopes(p)[0].roof, (7.4 - 3.7) * 5.4));
  }

  void aRoomOnStiltsHasAirBelow() {
    Project p = withMass(house(), 3, 3.4);
    p.rooms = {roomAt(1, rectangle(0.3, 0.3, 7.7, 5.7), 3.1)};
    const auto e = roomEnvelopes(p).at(0);
    QVERIFY(e.ground == 0 && near(e.exposedFloor, 7.4 * 5.4) && near(e.roof, 7.4 * 5.4));
    p.site.groundLevel = 2.9;
    QVERIFY(roomEnvelopes(p).at(0).exposedFloor == 0 && near(roomEnvelopes(p).at(0).ground, 7.4 * 5.4));
  }

  void aFaultyRoomHasNone() {
    Project p = house();
    p.rooms[0].outline.outer = {{0, 0}, {4, 4}, {4, 0}, {0, 4}}; // crosses itself
    const auto e = roomEnvelopes(p);
    QVERIFY(e.size() == 1 && e[0].floorArea == 0 && e[0].wall == 0);
    QVERIFY(roomEnvelopes(Project{}).empty());
  }
};

QTEST_APPLESS_MAIN(TestEnvelope)
#include "tst_envelope.moc"
