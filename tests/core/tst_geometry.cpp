// Outlines, solids, and the model readers, each also far from the origin.

#ifndef Q_MOC_RUN
#include "core/files/meshes/mesh_files.h"
#include "core/geometry/prism.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/sensors.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <limits>
#endif

using namespace noonward;

namespace {
Outline moved(Outline o, double by) {
  for (Vec2& p : o.outer) p = p + Vec2{by, by};
  for (Ring& h : o.holes)
    for (Vec2& p : h) p = p + Vec2{by, by};
  return o;
}
Outline courtyard() {
  return {{{0, 0}, {20, 0}, {20, 16}, {0, 16}},
          {{{4, 4}, {8, 4}, {8, 12}, {4, 12}}, {{12, 4}, {16, 4}, {16, 12}, {12, 12}}}};
}
const char* boxObj = "o box\nv 0 0 0\nv 4 0 0\nv 4 3 0\nv 0 3 0\nv 0 0 2\nv 4 0 2\nv 4 3 2\nv 0 3 2\n"
                     "f 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n";
} // namespace

class TestGeometry : public QObject {
  Q_OBJECT
private slots:
  void whatIsAnOutlineRaisedIsKnown() {
    Outline court = rectangle(0, 0, 40, 30);
    court.holes.push_back({{10, 8}, {10, 22}, {30, 22}, {30, 8}});
    const Outline turned{{{500000.2, 6100000.1}, {500011.7, 6100003.4}, {500009.1, 6100012.5}, {499997.6, 6100009.2}},
                         {}};
    for (const auto& [outline, base, height] : {std::tuple{court, 2.0, 14.0}, {turned, 31.4, 7.3}}) {
      const auto back = asPrism(*extrude(outline, base, height));
      QVERIFY(back.has_value());
      QVERIFY(std::abs(area(back->outline) - area(outline)) < 1e-4 * area(outline));
      QCOMPARE(back->outline.holes.size(), outline.holes.size());
      QVERIFY(std::abs(back->base - base) < 1e-9 && std::abs(back->height - height) < 1e-9);
      QVERIFY(checkOutline(tidied(back->outline)).fault == OutlineFault::None);
    }
    const Mesh box = *extrude(rectangle(0, 0, 4, 3), 0, 5);
    Mesh open = box; // a wall is missing: no prism; the floor may be
    std::vector<Triangle> walls, noFloor;
    for (std::size_t t = 0; t < box.triangles.size(); ++t) {
      if (box.faceOf(t) != firstWallFace) walls.push_back(box.triangles[t]);
      if (box.faceOf(t) != baseFace) noFloor.push_back(box.triangles[t]);
    }
    open.triangles = walls;
    open.face.clear();
    QVERIFY(!asPrism(open));
    open.triangles = noFloor;
    QVERIFY(asPrism(open).has_value());
    Mesh ridge = box; // a corner of the roof raised
    for (Vec3& p : ridge.points)
      if (p.z > 4 && p.x > 3 && p.y > 2) p.z += 0.5;
    QVERIFY(!asPrism(ridge));
    Mesh lean = box;
    for (Vec3& p : lean.points)
      if (p.z > 4) p.x += 0.5;
    QVERIFY(!asPrism(lean));
    Mesh two = box; // two boxes of one height beside each other are two outlines
    const auto n = std::uint32_t(two.points.size());
    for (const Vec3 p : box.points) two.points.push_back(p + Vec3{10, 0, 0});
    for (const Triangle& t : box.triangles) two.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
    two.face.clear();
    QVERIFY(!asPrism(two));
    QVERIFY(!asPrism(Mesh{}));
  }

  void areasOfOutlines_data() {
    QTest::addColumn<double>("offset");
    QTest::newRow("at the origin") << 0.0;
    QTest::newRow("a thousand kilometres away") << 1e6;
  }
  void areasOfOutlines() {
    QFETCH(double, offset);
    const Outline o = moved(courtyard(), offset);
    QVERIFY(std::abs(area(o) - (320 - 32 - 32)) < 1e-6);
    QVERIFY(length(centroid(o) - Vec2{10 + offset, 8 + offset}) < 1e-6);
    QVERIFY(contains(o, {offset + 2, offset + 2}) && !contains(o, {offset + 6, offset + 6}) &&
            !contains(o, {offset - 1, offset}));
    const auto t = triangulate(o);
    QVERIFY2(t.has_value(), t ? "" : t.error().text().c_str());
    const auto solid = extrude(o, 0, 10);
    QVERIFY(solid.has_value());
    QVERIFY(std::abs(volume(*solid) - 2560) < 1e-5);
    QCOMPARE(solid->faceCount(), std::size_t(2 + 12));
  }

  void trianglesOfAwkwardOutlines() {
    for (int seed = 1; seed <= 40; ++seed) { // star shapes of many spikes
      Ring r;
      const int n = 5 + seed * 3;
      for (int k = 0; k < n; ++k) {
        const double a = 2 * pi * k / n, l = 10 + 8 * std::sin(k * 12.9898 * seed);
        r.push_back({l * std::cos(a), l * std::sin(a)});
      }
      const auto t = triangulate({r, {}});
      QVERIFY(t.has_value()); // and it checked that they cover the outline
      QCOMPARE(t->size(), std::size_t(n - 2));
    }
  }

  void faultsOfOutlines_data() {
    QTest::addColumn<int>("fault");
    QTest::addColumn<QList<QPointF>>("points");
    using Q = QList<QPointF>;
    const double nan = std::numeric_limits<double>::quiet_NaN();
    QTest::newRow("bow tie") << int(OutlineFault::CrossesItself) << Q{{0, 0}, {10, 10}, {10, 0}, {0, 10}};
    QTest::newRow("two points") << int(OutlineFault::TooFewPoints) << Q{{0, 0}, {1, 0}, {1, 0}};
    QTest::newRow("not a number") << int(OutlineFault::NotFinite) << Q{{0, 0}, {nan, 0}, {1, 1}};
    QTest::newRow("there and back") << int(OutlineFault::CrossesItself) << Q{{0, 0}, {10, 0}, {5, 0}, {5, 5}, {0, 5}};
    QTest::newRow("sound") << int(OutlineFault::None) << Q{{0, 0}, {10, 0}, {10, 5}};
  }
  void faultsOfOutlines() {
    QFETCH(int, fault);
    QFETCH(QList<QPointF>, points);
    Outline o;
    for (const QPointF& p : points) o.outer.push_back({p.x(), p.y()});
    QCOMPARE(int(checkOutline(o).fault), fault);
    QCOMPARE(extrude(o, 0, 3).has_value(), fault == int(OutlineFault::None));
  }

  void holesMustStayInside() {
    Outline o = courtyard();
    o.holes[0][0] = {-3, 4};
    QCOMPARE(checkOutline(o).fault, OutlineFault::HoleOutside);
    o = courtyard();
    o.holes[1] = {{5, 5}, {16, 5}, {16, 12}, {5, 12}};
    QCOMPARE(checkOutline(o).fault, OutlineFault::HolesOverlap);
    QVERIFY(!extrude(courtyard(), 0, 0));
    QVERIFY(!extrude(courtyard(), 0, std::nan("")));
  }

  void offsetsKeepHoles() {
    const auto in = offset(rectangle(0, 0, 10, 10), -1);
    QCOMPARE(in.size(), std::size_t(1));
    QVERIFY(std::abs(area(in[0]) - 64) < 1e-3);
    QVERIFY(offset(rectangle(0, 0, 10, 10), -6).empty());
    QVERIFY(std::abs(area(offset(courtyard(), -0.5)[0]) - (19 * 15 - 2 * 5 * 9)) < 1e-2);
  }

  void edgesOfMassesMoveExactly() {
    Element e;
    e.shape = Mass{courtyard(), 0, 9, 3};
    QVERIFY(moveEdge(e, 1, 2.5)); // the wall at x = 20 goes out
    QVERIFY(std::abs(area(e.mass()->outline) - (256 + 2.5 * 16)) < 1e-9);
    QVERIFY(!moveEdge(e, 1, -15)); // it would run into the second courtyard
    QVERIFY(std::abs(area(e.mass()->outline) - (256 + 2.5 * 16)) < 1e-9);
    QVERIFY(moveEdge(e, 4, -1)); // a wall of a courtyard, towards the courtyard: the solid grows
    QVERIFY(area(e.mass()->outline) != 256 + 2.5 * 16);
    QVERIFY(!moveEdge(e, 99, 1));
  }

  void movesTurnsAndHeights_data() {
    QTest::addColumn<bool>("imported");
    QTest::newRow("drawn") << false;
    QTest::newRow("imported") << true;
  }
  void movesTurnsAndHeights() {
    QFETCH(bool, imported);
    Element e;
    const Outline o = rectangle(0, 0, 10, 4);
    if (imported) {
      auto m = std::make_shared<const Mesh>(*extrude(o, 0, 6));
      e.shape = Imported{m, digestOf(*m), {}, 0, 1};
    } else {
      e.shape = Mass{o, 0, 6, 2};
    }
    moveElement(e, {3, -2, 1.5});
    turnElement(e, middleOf(e), pi / 2);
    setHeight(e, 8.25);
    const Box3 b = boxOf(e);
    QVERIFY(length(b.size() - Vec3{4, 10, 8.25}) < 1e-9);
    QVERIFY(length(b.center() - Vec3{8, 0, 1.5 + 8.25 / 2}) < 1e-9);
    QVERIFY(std::abs(heightOf(e) - 8.25) < 1e-9);
    turnElement(e, {0, 0}, pi);
    QVERIFY(length(boxOf(e).center() - Vec3{-8, 0, 1.5 + 8.25 / 2}) < 1e-9);
  }

  void groundSensorsInsideImportedBuildingsAreLeftOut() {
    // A box with a courtyard, without its bottom face, brought in, moved, turned and stretched: of a 1 m grid of 40 ×
    // 40 the cells inside its walls go, those in the court and under a mere canopy stay.
    auto m = std::make_shared<Mesh>(*extrude({rectangle(0, 0, 12, 12).outer, {rectangle(4, 4, 8, 8).outer}}, 0, 6));
    Mesh open;
    open.points = m->points;
    for (std::size_t t = 0; t < m->triangles.size(); ++t)
      if (m->face[t] != baseFace) open.triangles.push_back(m->triangles[t]);
    findFaces(open);
    for (const bool building : {true, false}) {
      Project p;
      Element e;
      e.id = {7};
      e.role = building ? Role::Neighbour : Role::Shading;
      e.shape = Imported{std::make_shared<const Mesh>(open), digestOf(open), {3, 5, 0}, pi / 2, 2};
      p.elements.push_back(std::make_shared<const Element>(e));
      SensorGroup g;
      g.id = {1};
      GroundArea area;
      area.outline = rectangle(-10, -10, 30, 30);
      g.layout = area;
      p.groups.push_back(g);
      const auto laid = layOutSensors(p);
      QVERIFY(laid.has_value());
      QCOMPARE(laid->sensors.size(), std::size_t(building ? 1600 - (144 - 16) : 1600));
      for (const Sensor& s : laid->sensors) {
        const double x = s.position.x - 3, y = s.position.y - 5; // turned about its middle: the same square again
        const bool inBox = x > 0 && x < 12 && y > 0 && y<12, inCourt = x> 4 && x < 8 && y > 4 && y < 8;
        QVERIFY(!building || !inBox || inCourt);
      }
      area.level = 13; // above the roof of 12 m
      p.groups[0].layout = area;
      QCOMPARE(layOutSensors(p)->sensors.size(), std::size_t(1600));
    }
  }

  void objIsReadWithFacesFound() {
    const auto m = parseObj(boxObj, "box.obj");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QCOMPARE(m->parts.size(), std::size_t(1));
    QCOMPARE(m->parts[0].mesh.triangles.size(), std::size_t(12));
    QCOMPARE(m->parts[0].mesh.faceCount(), std::size_t(6));
    QVERIFY(std::abs(volume(m->parts[0].mesh) - 24) < 1e-9);
    const auto again = parsePly(plyBytes(m->parts[0].mesh), "box.ply");
    QVERIFY(again.has_value());
    QCOMPARE(again->parts[0].mesh.points, m->parts[0].mesh.points);
    QCOMPARE(again->parts[0].mesh.face, m->parts[0].mesh.face);
  }

  void objKeepsDigitsFarAway() {
    QByteArray far = boxObj;
    far.replace("v 0 0 0", "v 6123456.125 1000000.0625 0")
        .replace("v 4 0 0", "v 6123460.125 1000000.0625 0")
        .replace("v 4 3 0", "v 6123460.125 1000003.0625 0");
    const auto m = parseObj(far.toStdString(), "far.obj");
    QVERIFY(m.has_value());
    bool found = false;
    for (Vec3 p : m->parts[0].mesh.points) found |= p == Vec3{6123456.125, 1000000.0625, 0};
    QVERIFY(found);
  }

  void farModelsGetAnOrigin() {
    std::string text =
        "v 6000000 5000000 10\nv 6000100 5000000 10\nv 6000100 5000080 10\nv 6000000 5000080 40\nf 1 2 3 4\n";
    const auto m = parseObj(text, "utm.obj");
    const PlacementGuess g = guessPlacement(*m, std::nullopt);
    QCOMPARE(g.placement.origin.x, 6000100.0);
    const auto e = placedElements(*m, g.placement, Role::Neighbour);
    QVERIFY(length(boxOf(e[0]).center()) < 200);
    const PlacementGuess again = guessPlacement(*m, Vec3{5999000, 5000000, 0});
    QCOMPARE(again.placement.origin.x, 5999000.0); // a project that has an origin keeps it
  }

  void unitsAndAxesAreGuessed() {
    std::string millimetres = "v 0 0 0\nv 24000 0 0\nv 24000 9000 0\nv 0 9000 18000\nf 1 2 3 4\n";
    const auto a = guessPlacement(*parseObj(millimetres, "a.obj"), std::nullopt);
    QCOMPARE(a.placement.unit, LengthUnit::Millimetre);
    QVERIFY(std::abs(std::max({a.size.x, a.size.y, a.size.z}) - 24) < 1e-9);
    std::string lying = "v 0 0 0\nv 60 0 0\nv 60 0 80\nv 0 12 80\nf 1 2 3 4\n";
    QVERIFY(guessPlacement(*parseObj(lying, "b.obj"), std::nullopt).placement.yUp);
    std::string endless = "v 0 0 0\nv 10000000 0 0\nv 10000000 10000000 0\nf 1 2 3\n";
    QVERIFY(guessPlacement(*parseObj(endless, "c.obj"), std::nullopt).suspicious);
  }

  void faultyModelsNameTheirPlace_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("wanted");
    QTest::newRow("not a number") << "v 0 0 0\nv nan 0 0\n"
                                  << "m.obj:2: A vertex has a coordinate that is not a number.";
    QTest::newRow("words") << "v 0 zero 0\n"
                           << "m.obj:1: A vertex needs three numbers.";
    QTest::newRow("no faces") << "v 0 0 0\nv 1 0 0\n"
                              << "m.obj: The model has no faces.";
    QTest::newRow("empty") << ""
                           << "m.obj: This is not an OBJ model: it has no vertices.";
    QTest::newRow("corner out of reach") << "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 9\n"
                                         << "m.obj:4: A face names vertex 9; there are 3 so far.";
    QTest::newRow("only slivers") << "v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n"
                                  << "m.obj: The model has no faces.";
  }
  void faultyModelsNameTheirPlace() {
    QFETCH(QString, text);
    QFETCH(QString, wanted);
    const auto m = parseObj(text.toStdString(), "m.obj");
    QVERIFY(!m);
    QCOMPARE(QString::fromStdString(m.error().text()), wanted);
  }

  void negativeIndicesDecimalCommasAndPolygons() {
    const auto m = parseObj("v 0,0 0 0\nv 2,5 0 0\nv 2,5 2 0\nv 1 1 0\nv 0 2 0\nf -5 -4 -3 -2 -1\n", "n.obj");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QVERIFY(std::abs(surfaceArea(m->parts[0].mesh) - (5 - 1.25)) < 1e-9); // a notch: a fan would cover too much
  }

  void stlAndPlyOfAllKinds() {
    const Mesh box = parseObj(boxObj, "b.obj")->parts[0].mesh;
    std::string
        ascii = "solid box\n",
        binary(80, ' '),
        ply = "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement "
              "face 1\nproperty list uchar int vertex_index\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n";
    const auto count = std::uint32_t(box.triangles.size());
    binary.append(reinterpret_cast<const char*>(&count), 4);
    for (const Triangle& t : box.triangles) {
      ascii += "facet normal 0 0 0\nouter loop\n";
      binary.append(12, '\0');
      for (auto i : t) {
        const Vec3 p = box.points[i];
        ascii += "vertex " + std::to_string(p.x) + " " + std::to_string(p.y) + " " + std::to_string(p.z) + "\n";
        const float f[3] = {float(p.x), float(p.y), float(p.z)};
        binary.append(reinterpret_cast<const char*>(f), 12);
      }
      ascii += "endloop\nendfacet\n";
      binary.append(2, '\0');
    }
    for (const std::string& text : {ascii + "endsolid\n", binary}) {
      const auto m = parseStl(text, "box.stl");
      QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
      QCOMPARE(m->parts[0].mesh.points.size(), std::size_t(8)); // welded
      QVERIFY(std::abs(volume(m->parts[0].mesh) - 24) < 1e-5);
    }
    QVERIFY(!parseStl(binary.substr(0, 300), "cut.stl"));
    QVERIFY(parsePly(ply, "t.ply").has_value());
    QVERIFY(!parsePly(ply.substr(0, ply.size() - 6), "cut.ply"));
    QVERIFY(!parsePly("hello", "x.ply"));
    const std::string bytes = plyBytes(box);
    for (std::size_t cut = 0; cut < bytes.size(); cut += 37)
      QVERIFY(!parsePly(std::string_view(bytes).substr(0, cut), "cut.ply"));
  }

  void foreignFormatsAreReadInAChild() {
    QTemporaryDir d;
    const auto write = [&](const char* name, const QByteArray& bytes) {
      QFile f(d.filePath(name));
      if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
      f.write(bytes);
      return f.fileName().toStdString();
    };
    QFile file(TEST_DATA "/sail.gltf"); // one triangle of 10 m²
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QByteArray gltf = file.readAll();
    const auto m = readModel(write("sail.gltf", gltf));
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QVERIFY(std::abs(surfaceArea(m->parts[0].mesh) - 10) < 1e-6);
    QVERIFY(m->statedYUp && m->statedUnit == LengthUnit::Metre);
    QVERIFY(!readModel(write("broken.gltf", gltf.left(120))));
    QVERIFY(!readModel(write("noise.glb", QByteArray(4000, '\x5a'))));
    QVERIFY(!readModel(write("odd.xyz", "1 2 3")));
    QVERIFY(!readModel(d.filePath("absent.gltf").toStdString()));
  }

  void alignedHolesAreCutIntoTriangles() {
    // Rows and columns of holes whose corners lie on common lines, near and far from the origin.
    for (const Vec2 far : {Vec2{0, 0}, Vec2{1e6, -2e6}})
      for (int n = 1; n <= 7; ++n) {
        Outline o = rectangle(far.x, far.y, far.x + 18.6, far.y + 6);
        for (int i = 0; i < n; ++i)
          for (int k = 0; k < n; ++k) {
            const double x = far.x + 18.6 * (i + 0.5) / n, y = far.y + 6.0 * (k + 0.5) / n, u = 18.6 * 0.14 / n,
                         v = 6.0 * 0.14 / n;
            o.holes.push_back({{x - u, y - v}, {x - u, y + v}, {x + u, y + v}, {x + u, y - v}});
          }
        const auto t = triangulate(o);
        QVERIFY2(t.has_value(), t ? "" : t.error().text().c_str());
        const auto p = points(o);
        double covered = 0;
        for (const auto& k : *t) {
          const double twice = cross(p[k[1]] - p[k[0]], p[k[2]] - p[k[0]]);
          QVERIFY(twice > 0);
          covered += twice / 2;
        }
        QVERIFY(std::abs(covered - area(o)) < 1e-6);
        QCOMPARE(t->size(), p.size() + 2 * std::size_t(n * n) - 2); // Euler: n + 2h − 2
      }
  }

  void cutsGoEitherWayRound() {
    // Rings of opposite directions that overlap take away both, not the difference of the two.
    const Ring room = rectangle(1, 1, 9, 5).outer, window{{3, 5.2}, {5, 5.2}, {5, 4.9}, {3, 4.9}},
               other{{6, 4.9}, {8, 4.9}, {8, 7}, {6, 7}};
    double left = 0;
    for (const Outline& o : difference(rectangle(0, 0, 10, 6), {room, window, other})) {
      QCOMPARE(checkOutline(o).fault, OutlineFault::None);
      left += area(o);
    }
    QVERIFY2(std::abs(left - (60 - 32 - 2 * 0.2 - 2 * 1.0)) < 1e-3, qPrintable(QString::number(left)));
  }
};

QTEST_GUILESS_MAIN(TestGeometry)
#include "tst_geometry.moc"
