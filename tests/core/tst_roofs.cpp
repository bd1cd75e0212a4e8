// Roofs on masses: closed solids of the volume they must have, carried along with their building, met by the sun alike,
// kept by files; windows in gable ends; what can't be is said and mended.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/model/form/arrange.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include "core/model/mending/check.h"
#include "core/studies/sun_hours.h"
#include "picture/section.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <map>
#include <random>
#include <set>
#endif

using namespace noonward;

namespace {

using RK = Roof::Kind;
constexpr double half = pi / 2;

/// Every edge is met once in each direction: closed, and facing outward all round.
bool closed(const Mesh& m) {
  std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
  for (const Triangle& t : m.triangles)
    for (std::size_t k = 0; k < 3; ++k) ++edges[{t[k], t[(k + 1) % 3]}];
  return std::all_of(edges.begin(), edges.end(), [&](const auto& e) {
    return e.second == 1 && edges.contains({e.first.second, e.first.first});
  });
}
Outline shapeL() {
  return {{{0, 0}, {10, 0}, {10, 4}, {4, 4}, {4, 9}, {0, 9}}, {}};
}
Outline court() {
  Outline o = rectangle(0, 0, 20, 14);
  o.holes.push_back({{6, 5}, {6, 9}, {14, 9}, {14, 5}});
  return o;
}
Project roofedHouse(Roof roof) {
  Project p = test::house({.ratio = 0.3, .facing = Facing::East});
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "UTC+01:00";
  Element e = *p.elements[0];
  std::get<Mass>(e.shape).roof = roof;
  p.elements[0] = std::make_shared<const Element>(e);
  return p;
}

} // namespace

class TestRoofs : public QObject {
  Q_OBJECT
private slots:
  void solidsHaveTheVolumeTheyMust_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<double>("along");
    QTest::addColumn<double>("expected"); // 10 × 6 m, walls 3 m, 2 m of rise
    QTest::newRow("mono") << int(RK::Mono) << 0.0 << 180.0 + 60;
    QTest::newRow("mono the other way") << int(RK::Mono) << -half << 180.0 + 60;
    QTest::newRow("gable") << int(RK::Gable) << 0.0 << 180.0 + 60;
    QTest::newRow("gable across") << int(RK::Gable) << half << 180.0 + 60;
    QTest::newRow("hip") << int(RK::Hip) << 0.0 << 180.0 + 4 * 6 * 2 / 2.0 + 6 * 6 * 2 / 3.0;
    QTest::newRow("flat") << int(RK::Flat) << 0.0 << 180.0;
  }
  void solidsHaveTheVolumeTheyMust() {
    QFETCH(int, kind);
    QFETCH(double, along);
    QFETCH(double, expected);
    const auto m = extrudeRoofed(rectangle(0, 0, 10, 6), 1, 3, {RK(kind), 2, along});
    QVERIFY2(m, m ? "" : m.error().message.c_str());
    QVERIFY(closed(*m));
    QVERIFY2(std::abs(volume(*m) - expected) < 1e-9, qPrintable(QString::number(volume(*m), 'g', 12)));
    QVERIFY(std::abs(m->box().high.z - (kind == int(RK::Flat) ? 4 : 6)) < 1e-9);
  }

  void anyOutlineGivesAClosedSolid() {
    // Turned ridges, inner corners, courtyards; by brute force the volume is that of the height over a fine grid.
    std::mt19937 random(7);
    std::uniform_real_distribution<double> angle(-pi, pi), rise(0.3, 3);
    for (const Outline& o : {rectangle(0, 0, 10, 6), shapeL(), court()})
      for (int k = 0; k < 24; ++k) {
        const Roof roof{k % 3 == 0 ? RK::Mono : k % 3 == 1 ? RK::Gable : RK::Hip, rise(random), angle(random)};
        const auto m = extrudeRoofed(o, 0, 2.5, roof);
        QVERIFY2(m, m ? "" : m.error().message.c_str());
        QVERIFY2(closed(*m), roofKey(roof.kind));
        const Box3 b = m->box();
        QVERIFY(std::abs(b.high.z - 2.5 - roof.rise) < 1e-6 && b.low.z == 0);
        if (roof.kind == RK::Hip) continue; // its height is told closely alone
        double sum = 0;
        constexpr double step = 0.05;
        for (double x = b.low.x + step / 2; x < b.high.x; x += step)
          for (double y = b.low.y + step / 2; y < b.high.y; y += step)
            if (contains(o, {x, y})) sum += step * step * (2.5 + roofHeight(roof, o, {x, y}));
        QVERIFY2(std::abs(volume(*m) / sum - 1) < 2e-3, qPrintable(QString("%1 and %2").arg(volume(*m)).arg(sum)));
      }
  }

  void hipsSlopeAlikeFromEveryEdge() {
    const auto m = extrudeRoofed(shapeL(), 0, 3, {RK::Hip, 1.5, 0});
    QVERIFY(m);
    double least = 1, most = 0;
    for (std::size_t t = 0; t < m->triangles.size(); ++t) {
      const Vec3 n = normalized(m->areaVector(t));
      if (n.z < 0.05) continue;
      least = std::min(least, n.z);
      most = std::max(most, n.z);
    }
    QVERIFY2(most - least < 1e-9, qPrintable(QString("%1 to %2").arg(least).arg(most)));
  }

  void whatIsUnderTheRoofIsInside() {
    Mass m{rectangle(0, 0, 10, 6), 0, 3, 1, {RK::Gable, 2, 0}};
    QVERIFY(encloses(m, {5, 3, 4.9}) && !encloses(m, {5, 3, 5.1}));
    QVERIFY(encloses(m, {5, 0.5, 3.2}) && !encloses(m, {5, 0.5, 3.5}));
    QVERIFY(encloses(m, {5, 0.5, 2.9}) && !encloses(m, {5, 6.5, 2.9}));
    QCOMPARE(heightOf(m), 5.0);
    QCOMPARE(m.top(), 5.0);
    const Shape higher = withTop(m, 7);
    QCOMPARE(std::get<Mass>(higher).height, 5.0); // the walls grow, the roof stays
    turnShape(m, {0, 0}, half);
    QVERIFY(std::abs(m.roof.along - half) < 1e-12);
    const auto solid = meshOf(m);
    QVERIFY(solid && std::abs(volume(**solid) - 240) < 1e-9);
    scaleShape(m, 2);
    QVERIFY(std::abs(volume(**meshOf(m)) - 8 * 240) < 1e-6);
  }

  void aWindowPiercesAGableEnd() {
    // The east wall is a gable end: its window is open, and the end above the eaves stands.
    const Project flat = roofedHouse({}), gable = roofedHouse({RK::Gable, 2, 0});
    const auto partArea = [](const Project& p) {
      const auto model = lightModel(p);
      double sum = 0;
      for (const LightPart& part : model->parts)
        if (part.element == 10) sum += surfaceArea(*part.mesh);
      return sum;
    };
    const auto whole = extrudeRoofed(rectangle(0, 0, 8, 6), 0, 3.4, {RK::Gable, 2, 0});
    const double glass = placedOpenings(gable).openings.at(0).area();
    QVERIFY(glass > 1);
    QVERIFY2(std::abs(partArea(gable) - (surfaceArea(*whole) - glass)) < 1e-6,
             qPrintable(QString("%1, %2 less %3").arg(partArea(gable)).arg(surfaceArea(*whole)).arg(glass)));
    QVERIFY(partArea(gable) > partArea(flat) + 5);
    // A rooflight can't open a slope: said, not drawn into nothing.
    Project top = gable;
    WindowRule w;
    w.id = {31};
    w.ceiling = true;
    w.ratio = 0.1;
    top.windowRules = {w};
    bool told = false;
    for (const Finding& f : checkProject(top)) told = told || f.code == "opening.sloped";
    QVERIFY(told);
  }

  void theRoofTakesTheSunThatASlopeMust() {
    // A point north of a gable: in shade while the sun stands lower than the ridge, by the closed form, second by
    // second.
    const Project p0 = roofedHouse({RK::Gable, 2, 0});
    Project p = p0;
    Element e = *p.elements[0];
    std::get<Mass>(e.shape).outline = rectangle(-500, 0, 500, 6);
    p.elements = {std::make_shared<const Element>(e)};
    p.rooms.clear();
    p.windowRules.clear();
    SensorGroup g;
    g.id = {40};
    g.layout = std::vector<PointSensor>{{{0, 9, 0}, {0, 0, 1}, ""}};
    p.groups = {g};
    SunHoursSettings s;
    s.dates = {{2026, 3, 21}};
    s.sunriseToSunset = true;
    const auto in = sunHoursInput(p, {}, s);
    QVERIFY(in);
    RunControl control;
    const double got = double(runSunHours(*in, control).hours[0]);
    const auto windows = sunWindows(*in);
    double expected = 0;
    for (double t = 0.5; t < 86400; t += 1) {
      const Vec3 d = windows[0].path.direction(t);
      if (d.z <= 0) continue;
      // Eaves 3.4 m at 3 m off, ridge 5.4 m at 6 m off, to the south.
      const bool hidden = d.y < 0 && (d.z / -d.y < 3.4 / 3 || d.z / -d.y < 5.4 / 6);
      expected += hidden ? 0 : 1.0 / 3600;
    }
    QVERIFY2(std::abs(got - expected) < 3.0 / 3600, qPrintable(QString("%1 and %2 h").arg(got).arg(expected)));
  }

  void filesKeepRoofsAndNameFaults() {
    QTemporaryDir d;
    const auto file = d.filePath("a.noonward").toStdString();
    for (const RK kind : {RK::Flat, RK::Mono, RK::Gable, RK::Hip}) {
      Project p = roofedHouse({kind, 2.25, kind == RK::Hip ? 0 : radians(30.0)});
      QVERIFY(writeProject(p, file));
      const auto back = readProject(file);
      QVERIFY2(back, back ? "" : back.error().text().c_str());
      const Roof a = back->project.elements[0]->mass()->roof, b = p.elements[0]->mass()->roof;
      QVERIFY(a.kind == b.kind && (b.flat() || (a.rise == b.rise && std::abs(a.along - b.along) < 1e-12)));
      QVERIFY(back->project.unknownKeys.empty());
    }
    const auto read = [&](const char* roof) {
      QFile f(QString::fromStdString(file));
      if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
      f.write(
          QString(
              R"({"format": "noonward-project", "version": 1, "name": "A", "site": {"latitude": 50, "longitude": 10},
        "elements": [{"mass": {"outline": [[0,0],[8,0],[8,6],[0,6]], "height": 3, "roof": %1}}]})")
              .arg(roof)
              .toUtf8());
      f.close();
      return readProject(file);
    };
    QVERIFY(read(R"({"kind": "gable", "rise": 2, "along": 90})"));
    for (const char* bad : {R"({"kind": "dome"})", R"({"rise": 2})", R"({"kind": "gable", "rise": -1})",
                            R"({"kind": "gable", "along": 720})", R"({"kind": 3})"})
      QVERIFY2(!read(bad), bad);
  }

  void tooSteepIsFoundAndMended() {
    Project p = roofedHouse({RK::Gable, 60, 0});
    Findings found = checkProject(p);
    const auto at = std::find_if(found.begin(), found.end(), [](const Finding& f) { return f.code == "element.roof"; });
    QVERIFY(at != found.end() && at->mend == "element.roof");
    const auto mended = mendProject(p, *at);
    QVERIFY(mended && mended->elements[0]->mass()->roof.flat());
    QVERIFY(std::abs(std::atan2(60, 3)) > radians(80.0));
    QVERIFY(!extrudeRoofed(rectangle(0, 0, 8, 6), 0, 3, {RK::Mono, 60, 0}));
    QVERIFY(!extrudeRoofed(rectangle(0, 0, 8, 6), 0, 3, {RK::Hip, 60, 0}));
    QVERIFY(!extrudeRoofed(rectangle(0, 0, 8, 6), 0, 3, {RK::Gable, 1, NAN}));
    QVERIFY(!extrudeRoofed({{{0, 0}, {4, 4}, {4, 0}, {0, 4}}, {}}, 0, 3, {RK::Gable, 1, 0})); // crosses itself
  }

  void studiesAskAnewOnlyWhereARoofIsNew() {
    const auto digest = [](const Project& p) {
      Hasher h;
      hashGeometry(h, p);
      return h.digest();
    };
    QVERIFY(digest(roofedHouse({})) == digest(roofedHouse({RK::Flat, 5, 1}))); // flat is flat
    QVERIFY(digest(roofedHouse({})) != digest(roofedHouse({RK::Gable, 2, 0})));
    QVERIFY(digest(roofedHouse({RK::Gable, 2, 0})) != digest(roofedHouse({RK::Gable, 2, 0.1})));
  }

  void aRowOfHousesHasItsRoofsAndWindows() {
    const Project p = roofedHouse({RK::Gable, 2, 0});
    std::vector<ElementId> made;
    const auto laid = withRow(p, {p.elements[0]->id}, {4, 1, {12, 0}, {}}, &made);
    QVERIFY(laid);
    const Project& row = *laid;
    QCOMPARE(made.size(), std::size_t(3));
    QCOMPARE(row.elements.size(), std::size_t(4));
    QCOMPARE(row.rooms.size(), std::size_t(4));
    QCOMPARE(placedOpenings(row).openings.size(), std::size_t(4));
    for (std::size_t k = 0; k < 4; ++k) {
      const Mass& m = *row.elements[k]->mass();
      QVERIFY(m.roof == p.elements[0]->mass()->roof);
      QVERIFY(std::abs(m.outline.outer[0].x - 12.0 * double(k)) < 1e-9);
    }
    std::set<std::string> names;
    for (const ElementPtr& e : row.elements) names.insert(e->name);
    QCOMPARE(names.size(), std::size_t(4));
  }

  void aSectionShowsTheSlope() {
    const Project p = roofedHouse({RK::Gable, 2, 0});
    const auto cut = cutAt(p, {{4, -10}, {4, 20}});
    double top = 0;
    for (const Outline& o : cut.solid)
      for (Vec2 q : o.outer) top = std::max(top, q.y);
    QVERIFY2(std::abs(top - 5.4) < 0.02, qPrintable(QString::number(top)));
  }
};

QTEST_APPLESS_MAIN(TestRoofs)
#include "tst_roofs.moc"
