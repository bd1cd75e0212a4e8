// Faces under edits: what stands on a mass stays on its face, at any distance from the origin, whatever is done to it
// and in whatever order; and what is measured far off is what is measured at home.

#ifndef Q_MOC_RUN
#include "core/base/tolerances.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/form/outline_edit.h"
#include "core/model/light_model.h"
#include "core/model/rooms/sensors.h"
#include "tests/house.h"
#include <QtTest>
#include <random>
#endif

using namespace noonward;

namespace {

constexpr double farOff[] = {0, 1e3, 1e5, 1e6};

/// A mass of five walls with a grid on one of them, and a finish for that wall alone.
Project fiveWalls(double at, std::uint32_t face) {
  Project p;
  Element e;
  e.id = {1};
  e.name = "Five";
  e.shape = Mass{{{{at, at}, {at + 10, at}, {at + 12, at + 6}, {at + 5, at + 9}, {at - 2, at + 6}}, {}}, 0, 6, 2};
  p.elements.push_back(std::make_shared<const Element>(e));
  SensorGroup g;
  g.id = {2};
  g.name = "On the wall";
  FaceGrid grid;
  grid.faces = {{{1}, face}};
  grid.spacing = 1;
  g.layout = grid;
  p.groups.push_back(g);
  return p;
}
Vec2 unit(Vec2 v) {
  return v * (1 / length(v));
}
const Mass& mass(const Project& p) {
  return *p.element({1})->mass();
}

/// The wall that a face of an extruded outline is: its two corners.
std::pair<Vec2, Vec2> wallOf(const Mass& m, std::uint32_t face) {
  const Ring& r = m.outline.outer;
  const std::size_t i = face - firstWallFace;
  return {r[i], r[(i + 1) % r.size()]};
}
double fromLine(Vec2 p, const std::pair<Vec2, Vec2>& wall) {
  const Vec2 along = unit(wall.second - wall.first);
  return std::abs(cross(along, p - wall.first));
}

} // namespace

class TestFaces : public QObject {
  Q_OBJECT
private slots:
  void sensorsStandOnTheirWallWhereverItIs_data() {
    QTest::addColumn<double>("at");
    QTest::addColumn<unsigned>("face");
    for (double at : farOff)
      for (unsigned f = 0; f < 5; ++f) QTest::addRow("%g m, wall %u", at, f) << at << firstWallFace + f;
  }
  void sensorsStandOnTheirWallWhereverItIs() {
    QFETCH(double, at);
    QFETCH(unsigned, face);
    const Project p = fiveWalls(at, face), home = fiveWalls(0, face);
    const auto sensors = layOutSensors(p), wanted = layOutSensors(home);
    QVERIFY2(sensors.has_value(), sensors ? "" : sensors.error().text().c_str());
    QCOMPARE(sensors->sensors.size(), wanted->sensors.size());
    QVERIFY(sensors->sensors.size() > 10);
    for (std::size_t i = 0; i < sensors->sensors.size(); ++i) {
      const Vec3 here = sensors->sensors[i].position - Vec3{at, at, 0};
      QVERIFY2(length(here - wanted->sensors[i].position) < 1e-6,
               qPrintable(QString::number(length(here - wanted->sensors[i].position))));
      const double before = fromLine(xy(sensors->sensors[i].position), wallOf(mass(p), face));
      QVERIFY2(std::abs(before - tolerance::sensorOffset) < 1e-6, qPrintable(QString::number(before)));
      QVERIFY(length(sensors->sensors[i].normalVector() - wanted->sensors[i].normalVector()) < 1e-6);
    }
  }

  void meshesMeasureTheSameFarOff_data() {
    QTest::addColumn<double>("at");
    for (double at : farOff) QTest::addRow("%g m", at) << at;
  }
  void meshesMeasureTheSameFarOff() {
    QFETCH(double, at);
    const auto here = extrude(mass(fiveWalls(0, firstWallFace)).outline, 0, 6);
    const auto there = extrude(mass(fiveWalls(at, firstWallFace)).outline, 0, 6);
    QVERIFY(here && there);
    QCOMPARE(there->faceCount(), here->faceCount());
    QVERIFY(std::abs(surfaceArea(*there) - surfaceArea(*here)) < 1e-6);
    QVERIFY(std::abs(volume(*there) - volume(*here)) < 1e-4 * std::max(1.0, at / 1e5));
    QVERIFY(std::abs(area(mass(fiveWalls(at, firstWallFace)).outline) -
                     area(mass(fiveWalls(0, firstWallFace)).outline)) < 1e-4);
  }

  void randomEditsKeepWhatStandsOnAWall_data() {
    QTest::addColumn<unsigned>("seed");
    for (unsigned s = 1; s <= 40; ++s) QTest::addRow("seed %u", s) << s;
  }
  void randomEditsKeepWhatStandsOnAWall() {
    QFETCH(unsigned, seed);
    std::mt19937 random(seed);
    const auto real = [&](double low, double high) { return low + (high - low) * double(random()) / 4294967296.0; };
    Project p = fiveWalls(seed % 4 == 0 ? 1e5 : 0, firstWallFace + seed % 5);
    Vec2 normal; // which way the wall looks, followed through what is done to the mass
    {
      const auto [a, b] = wallOf(mass(p), std::get<FaceGrid>(p.groups[0].layout).faces[0].face.value());
      normal = {(b - a).y, -(b - a).x};
      normal = unit(normal);
    }
    for (int step = 0; step < 12; ++step) {
      const Project before = p;
      double turned = 0;
      switch (random() % 5) {
      case 0: {
        const Vec3 way{real(-5, 5), real(-5, 5), 0};
        p = carried(before, withEdited(before, {{1}}, [&](Element& e) { moveElement(e, way); }), {{1}});
        break;
      }
      case 1: {
        turned = real(-1.5, 1.5);
        p = carried(before, withEdited(before, {{1}}, [&](Element& e) { turnElement(e, middleOf(e), turned); }), {{1}});
        break;
      }
      case 2: {
        const double height = real(3, 15);
        p = carried(before, withEdited(before, {{1}}, [&](Element& e) { setHeight(e, height); }), {{1}});
        break;
      }
      case 3: { // a wall pulled out
        const std::size_t edge = random() % mass(before).outline.outer.size();
        const double by = real(0, 0.5);
        p = carried(before, withEdited(before, {{1}}, [&](Element& e) { (void)moveEdge(e, edge, by); }), {{1}});
        break;
      }
      default: { // a corner put into another wall, a little out of it, so that faces are counted anew
        const std::size_t edge = random() % mass(before).outline.outer.size();
        const FaceRef own = std::get<FaceGrid>(before.groups[0].layout).faces[0];
        if (firstWallFace + edge == *own.face) break;
        const auto [a, b] = wallOf(mass(before), std::uint32_t(firstWallFace + edge));
        const Vec2 out = unit(Vec2{(b - a).y, -(b - a).x});
        if (auto next = withCornerAdded(before, {1, false, 0, edge}, a + (b - a) * real(0.3, 0.7) + out * 0.05))
          p = std::move(*next);
      }
      }
      const double c = std::cos(turned), s = std::sin(turned);
      normal = {normal.x * c - normal.y * s, normal.x * s + normal.y * c};
      const FaceRef ref = std::get<FaceGrid>(p.groups[0].layout).faces[0];
      QVERIFY(ref.element == ElementId{1});
      QVERIFY(ref.face.has_value());
      const auto sensors = layOutSensors(p);
      QVERIFY2(sensors.has_value(), sensors ? "" : sensors.error().text().c_str());
      QVERIFY(!sensors->sensors.empty());
      const auto wall = wallOf(mass(p), *ref.face);
      for (const Sensor& one : sensors->sensors) {
        QVERIFY(std::abs(fromLine(xy(one.position), wall) - tolerance::sensorOffset) < 1e-5);
        QVERIFY(one.position.z > mass(p).base && one.position.z < mass(p).base + mass(p).height);
        QVERIFY2(dot(xy(one.normalVector()), normal) > 1 - 1e-5, "another wall than the one it stood on");
      }
    }
  }

  void theBuildingIsTheSameFarOff() {
    const auto areas = [](double at) {
      Project p = test::house({.ratio = 0.3});
      p = withEdited(p, {{10}}, [&](Element& e) { moveElement(e, {at, at, 0}); });
      for (Vec2& v : p.rooms[0].outline.outer) v = v + Vec2{at, at};
      std::map<std::pair<int, bool>, double> out;
      for (const LightPart& part : derivedModel(p).parts) out[{int(part.role), part.glazed}] += surfaceArea(*part.mesh);
      return out;
    };
    const auto here = areas(0);
    QVERIFY(here.size() >= 4);
    for (double at : {1e3, 4e3}) { // up to where float32 rays still hold
      const auto there = areas(at);
      QCOMPARE(there.size(), here.size());
      for (const auto& [what, area] : here) QVERIFY(std::abs(there.at(what) - area) < 1e-5);
    }
  }
};

QTEST_GUILESS_MAIN(TestFaces)
#include "tst_faces.moc"
