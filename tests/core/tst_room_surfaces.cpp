// What is met from inside a room is the room's own: its floor and ceiling lie clear of the building's, of the ground,
// and of the room above.

#ifndef Q_MOC_RUN
#include "core/light/light_scene.h"
#include "core/light/sampler.h"
#include "core/model/form/edit.h"
#include "core/studies/light_study.h"
#include "tests/house.h"
#endif
#include <QTest>

using namespace noonward;
using namespace noonward::test;

namespace {

/// A house of `storeys`, a room in each that fills it, far from the origin where asked.
Project stacked(int storeys, Vec2 shift) {
  Project p = house();
  const auto moved = [&](Outline o) {
    for (Vec2& q : o.outer) q = q + shift;
    return o;
  };
  Element block = *p.elements[0];
  Mass mass = *block.mass();
  mass.outline = moved(mass.outline);
  mass.storeys = storeys;
  mass.height = 3.0 * storeys;
  block.shape = mass;
  p.elements = {std::make_shared<const Element>(block)};
  Room first = p.rooms[0];
  p.rooms.clear();
  for (int k = 0; k < storeys; ++k) {
    Room r = first;
    r.id = RoomId::fresh();
    r.outline = mass.outline;
    r.floor = mass.base + 3.0 * k;
    r.height = 3;
    p.rooms.push_back(r);
  }
  return p;
}

} // namespace

class TestRoomSurfaces : public QObject {
  Q_OBJECT
private slots:
  void everyWayFromInsideMeetsTheRoom_data() {
    QTest::addColumn<int>("storeys");
    QTest::addColumn<double>("shift");
    QTest::newRow("one storey") << 1 << 0.0;
    QTest::newRow("three storeys") << 3 << 0.0;
    QTest::newRow("three storeys, 2 km away") << 3 << 2000.0;
  }
  void everyWayFromInsideMeetsTheRoom() {
    QFETCH(int, storeys);
    QFETCH(double, shift);
    const Project p = stacked(storeys, {shift, -shift});
    const auto model = lightModel(p);
    QVERIFY2(model, model ? "" : model.error().text().c_str());
    const LightScene scene(*model);
    for (std::size_t r = 0; r < p.rooms.size(); ++r) {
      const Room& room = p.rooms[r];
      const Vec2 c = centroid(room.outline);
      HashStream random(7 + r);
      int rays = 0, others = 0;
      for (int k = 0; k < 4000; ++k) {
        const double z = 2 * random.next() - 1, turn = 2 * pi * random.next(), s = std::sqrt(1 - z * z);
        const Vec3 d{s * std::cos(turn), s * std::sin(turn), z};
        const auto hit = scene.opaque({c.x, c.y, room.floor + 1.5}, d, 0, 1e30);
        if (std::abs(z) < 0.5 || !hit.any()) continue; // floor and ceiling
        ++rays;
        others += scene.roomOf(hit.triangle) != int(r);
      }
      QVERIFY(rays > 1000);
      QCOMPARE(others, 0);
    }
  }

  void whatTheBuildingIsPaintedWithDoesNotLightItsRooms() {
    // Windows high in the wall, nothing outdoors to reflect: the mass's own finish is nowhere to be seen.
    Project p = stacked(2, {0, 0});
    p.site.groundReflectance = 0;
    WindowRule w;
    w.id = RuleId::fresh();
    w.name = "Windows";
    w.ratio = 0.3;
    w.facings = {Facing::South};
    p.windowRules.push_back(w);
    SensorGroup g;
    g.id = {1};
    g.name = "Grid";
    RoomGrid grid;
    grid.rooms = {p.rooms[1].id};
    grid.spacing = 1.5;
    g.layout = grid;
    p.groups = {g};
    const auto mean = [&](const char* finish) {
      Project q = p;
      Element e = *q.elements[0];
      e.finish = finish;
      q.elements[0] = std::make_shared<const Element>(e);
      Finish black;
      black.name = "Soot";
      black.reflectance = 0;
      Finish white = black;
      white.name = "Chalk";
      white.reflectance = 0.95;
      q.finishes = {black, white};
      Study s;
      s.kind = StudyKind::DaylightFactor;
      s.groups = {g.id};
      s.light.error = 0.01;
      RunControl control;
      const LightResult r = runLight(*lightInput(q, s), control);
      double sum = 0;
      for (float v : r.value) sum += double(v) / double(r.value.size());
      return sum;
    };
    const double soot = mean("Soot"), chalk = mean("Chalk");
    QVERIFY(soot > 0.2);
    QVERIFY2(std::abs(chalk / soot - 1) < 0.02, qPrintable(QString("%1 %2").arg(soot).arg(chalk)));
  }
};

QTEST_GUILESS_MAIN(TestRoomSurfaces)
#include "tst_room_surfaces.moc"
