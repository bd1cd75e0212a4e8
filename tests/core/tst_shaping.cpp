// Masses cut, set back, joined, mirrored, aligned, laid out in rows, brought over to another option: what they enclose
// is held against points asked one by one, and what is in them goes along.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/model/form/arrange.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/form/shaping.h"
#include "core/model/light_model.h"
#include "core/model/mending/check.h"
#include "core/model/options.h"
#include "core/studies/shade.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

constexpr ElementId house{10};
using Ids = std::vector<ElementId>;

Element block(std::uint64_t id, const Outline& o, double base, double height, int storeys = 1) {
  Element e;
  e.id = {id};
  e.name = "Block " + std::to_string(id);
  e.shape = Mass{o, base, height, storeys};
  return e;
}
Project blocks(std::initializer_list<Element> list) {
  Project p;
  for (const Element& e : list) p = withElement(std::move(p), e);
  return p;
}
bool enclosed(const Project& p, Vec3 q) {
  return std::any_of(p.elements.begin(), p.elements.end(),
                     [&](const ElementPtr& e) { return encloses(*e->mass(), q); });
}
double volume(const Project& p) {
  double v = 0;
  for (const ElementPtr& e : p.elements) v += area(e->mass()->outline) * e->mass()->height;
  return v;
}
bool allSound(const Project& p) {
  std::vector<ElementId> ids;
  for (const ElementPtr& e : p.elements) {
    if (faultOf(*e->mass(), e->name) || !elementMesh(*e)) return false;
    if (std::find(ids.begin(), ids.end(), e->id) != ids.end()) return false;
    ids.push_back(e->id);
  }
  return true;
}
/// Middles of windows on the inner face, in order of place.
std::vector<Vec3> windows(const Project& p) {
  std::vector<Vec3> out;
  for (const PlacedOpening& o : placedOpenings(p).openings) {
    const Room& r = p.rooms[o.room];
    const auto c = o.corners(r.floor, r.floor + r.height, 0);
    out.push_back((c[0] + c[2]) * 0.5);
  }
  std::sort(out.begin(), out.end(), [](Vec3 a, Vec3 b) {
    const auto key = [](Vec3 v) { return std::array{std::round(v.z * 1e3), std::round(v.x * 1e3), v.y}; };
    return key(a) < key(b);
  });
  return out;
}
bool found(const Project& p, const std::string& code) {
  const Findings f = checkProject(p);
  return std::any_of(f.begin(), f.end(), [&](const Finding& x) { return x.code == code; });
}
Outline turned(const Outline& o, double angle, Vec2 shift) {
  Mass m{o, 0, 1, 1};
  turnShape(m, {0, 0}, angle);
  moveShape(m, {shift.x, shift.y, 0});
  return m.outline;
}
/// Two storeys of one room each, a window by rule to the south and one drawn to the east.
Project twoStoreys() {
  Project p = test::house({.width = 10, .depth = 8, .wall = 0.3, .ratio = 0.3, .spacing = 0.5});
  p = withEdited(std::move(p), {house}, [](Element& e) { e.shape = Mass{rectangle(0, 0, 10, 8), 0, 6.4, 2}; });
  p.rooms[0].height = 2.8;
  Room up = p.rooms[0];
  up.id = {2};
  up.name = "Loft";
  up.floor = 3.2;
  p.rooms.push_back(up);
  for (const auto& [id, room] : {std::pair{51, 1}, {52, 2}}) {
    Opening o;
    o.id = {std::uint64_t(id)};
    o.name = "East";
    o.room = {std::uint64_t(room)};
    o.edge = 1;
    o.along = 3;
    p.openings.push_back(o);
  }
  return p;
}

} // namespace

class TestShaping : public QObject {
  Q_OBJECT
private slots:
  // ---- solids ---------------------------------------------------------------------------------------------------

  void whatPiecesEncloseIsWhatThePointsSay_data() {
    QTest::addColumn<double>("far");
    QTest::newRow("near") << 0.0;
    QTest::newRow("a thousand kilometres away") << 1e6;
  }
  void whatPiecesEncloseIsWhatThePointsSay() {
    QFETCH(double, far);
    std::mt19937 rng(7);
    std::uniform_real_distribution<double> u(0, 1);
    int joined = 0, out = 0, cut = 0;
    for (int trial = 0; trial < 60; ++trial) {
      const Vec2 at{far + 4 * u(rng), far - 4 * u(rng)};
      Outline first = rectangle(-8, -5, 8, 5);
      if (trial % 2) first.holes.push_back({{-3, -2}, {-3, 2}, {3, 2}, {3, -2}}); // with a courtyard
      const Project p =
          blocks({block(1, turned(first, u(rng) * 3, at), 0, 9, 3),
                  block(2, turned(rectangle(-4, -3, 5, 6), u(rng) * 3, at), 3 * std::floor(3 * u(rng)), 6, 2)});
      const auto agrees = [&](const Project& q, const std::function<bool(bool, bool)>& rule) {
        for (int k = 0; k < 400; ++k) {
          const Vec3 x{at.x - 12 + 24 * u(rng), at.y - 12 + 24 * u(rng), -1 + 14 * u(rng)};
          const Mass &a = *p.elements[0]->mass(), &b = *p.elements[1]->mass();
          if (distanceToEdge(a.outline, xy(x)) < 0.01 || distanceToEdge(b.outline, xy(x)) < 0.01) continue;
          if (enclosed(q, x) != rule(encloses(a, x), encloses(b, x))) return false;
        }
        return true;
      };
      Ids made;
      if (const auto q = withMassesJoined(p, {{1}, {2}}, &made)) {
        ++joined;
        QVERIFY(allSound(*q));
        QCOMPARE(made.size(), q->elements.size());
        QVERIFY(agrees(*q, [](bool a, bool b) { return a || b; }));
      }
      if (const auto q = withMassCutOut(p, {1}, {{2}}, true, &made)) {
        ++out;
        QVERIFY(allSound(*q));
        QVERIFY(agrees(*q, [](bool a, bool b) { return a && !b; }));
      }
      const double angle = 3 * u(rng);
      if (const auto q = withMassesCut(p, {{1}, {2}}, at, at + Vec2{std::cos(angle), std::sin(angle)}, &made)) {
        ++cut;
        QVERIFY(allSound(*q));
        QVERIFY(q->elements.size() >= 4);
        QVERIFY(std::abs(volume(*q) - volume(p)) < 0.02); // a tenth of a millimetre along the cut
        QVERIFY(agrees(*q, [](bool a, bool b) { return a || b; }));
      }
    }
    QVERIFY2(joined == 60 && out > 40 && cut > 50, qPrintable(QString("%1 %2 %3").arg(joined).arg(out).arg(cut)));
  }

  void wingsOfOneHeightBecomeOneMass() {
    const Project p = blocks({block(1, rectangle(0, 0, 10, 6), 0, 9, 3), block(2, rectangle(10, 0, 14, 12), 0, 9, 3)});
    Ids made;
    const auto q = withMassesJoined(p, {{2}, {1}}, &made);
    QVERIFY(q);
    QCOMPARE(q->elements.size(), std::size_t(1));
    QVERIFY(made == Ids{{1}}); // the larger of the two goes on
    const Mass& m = *q->elements[0]->mass();
    QCOMPARE(m.outline.outer.size(), std::size_t(6)); // no corner where the two met in line
    QCOMPARE(m.storeys, 3);
    QVERIFY(q->elements[0]->group.empty());
    QVERIFY(std::abs(volume(*q) - (60 + 48) * 9) < 1e-6);
  }

  void aTowerOnAPlinthIsTwoMassesHeldTogether() {
    const Project p =
        blocks({block(1, rectangle(0, 0, 20, 20), 0, 6, 2), block(2, rectangle(5, 5, 12, 12), 0, 30, 10)});
    Ids made;
    const auto q = withMassesJoined(p, {{1}, {2}}, &made);
    QVERIFY(q);
    QCOMPARE(made.size(), std::size_t(2));
    QVERIFY(!q->elements[0]->group.empty() && q->elements[0]->group == q->elements[1]->group);
    QVERIFY(std::abs(volume(*q) - (400 * 6 + 49 * 24)) < 1e-6);
    for (const ElementPtr& e : q->elements)
      QCOMPARE(e->mass()->storeys, e->mass()->base == 0 ? 2 : 8); // of 3 m each, as they were
    QCOMPARE(withTheirGroups(*q, {made[0]}).size(), std::size_t(2));
  }

  void whatCannotBeIsSaidAndNothingChanges_data() {
    QTest::addColumn<int>("what");
    QTest::addColumn<QString>("words");
    QTest::newRow("one mass alone is not joined") << 0 << "two masses";
    QTest::newRow("a roof is not cut") << 1 << "sloping roof";
    QTest::newRow("a line that misses") << 2 << "meets no mass";
    QTest::newRow("a sliver") << 3 << "sliver";
    QTest::newRow("set back to nothing") << 4 << "nothing of";
    QTest::newRow("no such storey") << 5 << "storey";
    QTest::newRow("a level outside") << 6 << "between foot and top";
    QTest::newRow("cut by one that is elsewhere") << 7 << "meets";
    QTest::newRow("cut away whole") << 8 << "Nothing would be left";
    QTest::newRow("a corner cut too far") << 9 << "half of the shorter wall";
    QTest::newRow("a line without length") << 10 << "apart";
    QTest::newRow("no length") << 11 << "above 1 cm";
    QTest::newRow("an import") << 12 << "drawn masses";
    QTest::newRow("a mirror without length") << 13 << "apart";
    QTest::newRow("too many copies") << 14 << "holds 1 to";
    QTest::newRow("copies in one place") << 15 << "same place";
  }
  void whatCannotBeIsSaidAndNothingChanges() {
    QFETCH(int, what);
    QFETCH(QString, words);
    Element roofed = block(2, rectangle(20, 0, 30, 8), 0, 6, 2);
    std::get<Mass>(roofed.shape).roof = {Roof::Kind::Gable, 2, 0};
    Element mesh = block(4, {}, 0, 1);
    mesh.shape = Imported{*elementMesh(block(9, rectangle(60, 0, 66, 6), 0, 5)), {}, {}, 0, 1};
    const Project p =
        blocks({block(1, rectangle(0, 0, 10, 8), 0, 6, 2), roofed, block(3, rectangle(-1, -1, 11, 9), 0, 9, 3), mesh,
                block(5, rectangle(100, 0, 104, 4), 0, 9, 3)});
    const auto result = [&]() -> Expected<Project> {
      switch (what) {
      case 0:
        return withMassesJoined(p, {{1}});
      case 1:
        return withMassesCut(p, {{2}}, {25, 0}, {25, 1});
      case 2:
        return withMassesCut(p, {{1}}, {15, 0}, {15, 1});
      case 3:
        return withMassesCut(p, {{1}}, {9.95, 0}, {9.95, 1});
      case 4:
        return withSetBack(p, {1}, {2, 4.5, {}});
      case 5:
        return withSetBack(p, {1}, {3, 1, {}});
      case 6:
        return withCutAtLevel(p, {1}, 6);
      case 7:
        return withMassCutOut(p, {1}, {{5}}, false);
      case 8:
        return withMassCutOut(p, {1}, {{3}}, false);
      case 9:
        return withCornerCut(p, {1, false, 0, 0}, 4.2);
      case 10:
        return withMassesCut(p, {{1}}, {5, 5}, {5, 5});
      case 11:
        return withSetBack(p, {1}, {2, 0, {}});
      case 12:
        return withMassesJoined(p, {{1}, {4}});
      case 13:
        return withMirrored(p, {{1}}, {5, 5}, {5, 5}, false);
      case 14:
        return withRow(p, {{1}}, {300, 1, {12, 0}, {}});
      default:
        return withRow(p, {{1}}, {3, 1, {0, 0}, {}});
      }
    }();
    QVERIFY(!result);
    QVERIFY2(QString::fromStdString(result.error().text()).contains(words), result.error().text().c_str());
  }

  // ---- what is in them ------------------------------------------------------------------------------------------

  void aSetBackTakesTheUpperRoomInAndLeavesTheLower() {
    const Project p = twoStoreys();
    QCOMPARE(windows(p).size(), std::size_t(4));
    Ids made;
    const auto q = withSetBack(p, house, {2, 1.5, {}}, &made);
    QVERIFY(q);
    QCOMPARE(made.size(), std::size_t(2));
    QVERIFY(std::abs(volume(*q) - (80 * 3.2 + 7 * 5 * 3.2)) < 1e-6);
    QVERIFY(q->rooms[0] == p.rooms[0]);
    QVERIFY(std::abs(area(q->rooms[1].outline) - 6.4 * 4.4) < 1e-3); // 1.5 m and the wall's own 0.3
    QCOMPARE(windows(*q).size(), std::size_t(4));
    for (const PlacedOpening& o : placedOpenings(*q).openings) {
      QVERIFY(std::abs(o.depth - 0.3) < 1e-3);
      QVERIFY(o.mass != 0); // each has its wall, below and above
    }
    QVERIFY(!found(*q, "room.outside") && !found(*q, "opening.buried") && !found(*q, "opening.outside"));
    // On one side alone: the others stay in line.
    const auto one = withSetBack(p, house, {2, 2, {0}});
    QVERIFY(one);
    QVERIFY(std::abs(volume(*one) - (80 * 3.2 + 10 * 6 * 3.2)) < 1e-6);
  }

  void aRoomThatIsCutBecomesTwoWithTheirWindowsWhereTheyWere() {
    Project p = twoStoreys();
    p.windowRules.clear();
    Opening west = p.openings[0];
    west.id = {53};
    west.edge = 3;
    west.along = 2;
    p.openings.push_back(west);
    const std::vector<Vec3> before = windows(p);
    QCOMPARE(before.size(), std::size_t(3));
    Ids made;
    const auto q = withMassesCut(p, {house}, {4, 0}, {4, 1}, &made);
    QVERIFY(q);
    QCOMPARE(made.size(), std::size_t(2));
    QVERIFY(made[0] == house); // the larger part goes on
    QCOMPARE(q->rooms.size(), std::size_t(4));
    double floor = 0;
    for (const Room& r : q->rooms) floor += area(r.outline);
    // The new wall is as thick as the rooms' own, half of it on each side of the cut, and nobody looks through it.
    QVERIFY2(std::abs(floor - 2 * (9.4 - 0.3) * 7.4) < 0.01, qPrintable(QString::number(floor)));
    for (std::size_t r = 0; r < q->rooms.size(); ++r) {
      const auto outer = outerEdges(*q, r);
      QCOMPARE(std::count(outer.begin(), outer.end(), false), std::ptrdiff_t(1));
    }
    QCOMPARE(windows(*q).size(), before.size());
    for (std::size_t k = 0; k < before.size(); ++k) QVERIFY(length(windows(*q)[k] - before[k]) < 1e-3);
    QVERIFY(!found(*q, "room.outside"));
    // Another line, slanted: again nothing is lost or stands outside.
    const auto slanted = withMassesCut(p, {house}, {3, 0}, {6, 8});
    QVERIFY(slanted);
    QCOMPARE(windows(*slanted).size(), before.size());
    QVERIFY(!found(*slanted, "room.outside"));
  }

  void shadingOfSingleWindowsIsStillThereAfterACut() {
    Project p = twoStoreys();
    ShadeRule s;
    s.id = {60};
    s.depth = 0.8;
    for (const PlacedOpening& o : placedOpenings(p).openings)
      if (o.facing == Facing::East) s.windows.push_back(o.opening.id);
    p.windowRules[0].kind = WindowRule::Kind::Row;
    p.windowRules[0].count = 2;
    for (const PlacedOpening& o : placedOpenings(p).openings)
      if (o.facing == Facing::South && o.opening.along > 5)
        s.windows.push_back(o.opening.id); // by the rule, at the right
    QCOMPARE(s.windows.size(), std::size_t(4));
    p.shadeRules = {s};
    const auto shaded = [](const Project& of) {
      std::size_t n = 0;
      for (const PlacedOpening& o : placedOpenings(of).openings)
        n += standsAt(of.shadeRules[0], o, of.rooms[o.room].id);
      return n;
    };
    QCOMPARE(shaded(p), std::size_t(4));
    const auto q = withMassesCut(p, {house}, {0, 6.5}, {1, 6.5}); // the south wall and the windows in it stay
    QVERIFY(q && q->rooms.size() == 4);
    QCOMPARE(shaded(*q), std::size_t(4));
  }

  void facesKeepWhatWasGivenToThem() {
    Project p = twoStoreys();
    Assignment south, roof;
    south.finish = roof.finish = "Facade, standard";
    south.element = roof.element = house;
    south.face = firstWallFace;
    roof.face = roofFace;
    p.assignments = {south, roof};
    SensorGroup g;
    g.id = {44};
    g.layout = FaceGrid{{{house, firstWallFace}}, true, false, 1};
    p.groups.push_back(g);
    const auto q = withMassesCut(p, {house}, {4, 0}, {4, 1});
    QVERIFY(q);
    QCOMPARE(q->assignments.size(), std::size_t(4));
    for (const Assignment& a : q->assignments) {
      const ElementPtr e = q->element(*a.element);
      QVERIFY(e);
      const MeshPtr m = *elementMesh(*e);
      for (std::size_t t = 0; t < m->triangles.size(); ++t)
        if (m->faceOf(t) == *a.face) {
          const Vec3 n = normalized(m->areaVector(t));
          QVERIFY(*a.face == roofFace ? n.z > 0.99 : n.y < -0.99);
        }
    }
    QCOMPARE(std::get<FaceGrid>(q->groups.back().layout).faces.size(), std::size_t(2));
  }

  void aCornerCutOffTakesTheRoomBehindIt() {
    const Project p = twoStoreys();
    const auto q = withCornerCut(p, {house.value, false, 0, 2}, 2);
    QVERIFY(q);
    const Mass& m = *q->element(house)->mass();
    QCOMPARE(m.outline.outer.size(), std::size_t(5));
    QVERIFY(std::abs(area(m.outline) - (80 - 2)) < 1e-6);
    QVERIFY(!found(*q, "room.outside"));
    QVERIFY(area(q->rooms[0].outline) < area(p.rooms[0].outline));
  }

  // ---- mirrored ---------------------------------------------------------------------------------------------------

  void aMirrorImageHasEverythingOnTheOtherHand() {
    Project p = twoStoreys();
    p = withEdited(std::move(p), {house}, [](Element& e) {
      std::get<Mass>(e.shape).roof = {Roof::Kind::Mono, 1.5, 0.5};
      e.shape = std::get<Mass>(e.shape);
    });
    ShadeRule fins;
    fins.id = {60};
    fins.kind = ShadeRule::Kind::Fins;
    fins.sides = ShadeRule::Sides::Left;
    fins.facings = {Facing::East};
    fins.angle = 0.3;
    ShadeRule one = fins;
    one.id = {61};
    one.facings.clear();
    for (const PlacedOpening& o : placedOpenings(p).openings)
      if (o.rule && o.room == 0) one.windows = {o.opening.id};
    p.shadeRules = {fins, one};
    const Vec2 a{12, 0}, b{13, 5};
    const auto image = [&](Vec3 v) {
      const Vec2 d = (b - a) * (1 / length(b - a)), w = xy(v) - a, m = a + d * (2 * dot(w, d)) - w;
      return Vec3{m.x, m.y, v.z};
    };
    const auto q = withMirrored(p, {house}, a, b, false);
    QVERIFY(q);
    // Every window stands where its image does, and the roof as high over each image.
    std::vector<Vec3> expected;
    for (Vec3 v : windows(p)) expected.push_back(image(v));
    for (Vec3 v : windows(*q))
      QVERIFY(std::any_of(expected.begin(), expected.end(), [&](Vec3 e) { return length(e - v) < 1e-6; }));
    QCOMPARE(windows(*q).size(), windows(p).size());
    const Mass &m = *p.element(house)->mass(), &n = *q->element(house)->mass();
    std::mt19937 rng(3);
    std::uniform_real_distribution<double> u(0, 1);
    for (int k = 0; k < 300; ++k) {
      const Vec3 x{10 * u(rng), 8 * u(rng), 9 * u(rng)};
      QCOMPARE(encloses(n, image(x)), encloses(m, x));
    }
    // Shading leaves as much of the sky to the images, in the same order of windows.
    const auto was = shadeReport(p), is = shadeReport(*q);
    QVERIFY(was && is && was->windows.size() == is->windows.size());
    std::vector<double> one1, other;
    for (const auto& w : was->windows) one1.push_back(w.sky);
    for (const auto& w : is->windows) other.push_back(w.sky);
    std::sort(one1.begin(), one1.end());
    std::sort(other.begin(), other.end());
    QVERIFY(one1.front() < 0.97);
    for (std::size_t k = 0; k < one1.size(); ++k)
      QVERIFY2(std::abs(one1[k] - other[k]) < 0.01, qPrintable(QString("%1 %2").arg(one1[k]).arg(other[k])));
    for (const ShadeRule& s : q->shadeRules) {
      QVERIFY(s.sides == ShadeRule::Sides::Right);
      QCOMPARE(s.angle, -0.3);
    }
    // Once more, and it is what it was.
    const auto back = withMirrored(*q, {house}, a, b, false);
    QVERIFY(back);
    const std::vector<Vec3> again = windows(*back), first = windows(p);
    for (std::size_t k = 0; k < first.size(); ++k) QVERIFY(length(again[k] - first[k]) < 1e-9);
  }

  void aMirroredCopyStandsBesideAndIsPartOfTheRules() {
    const Project p = twoStoreys();
    Ids made;
    const auto q = withMirrored(p, {house}, {12, 0}, {12, 1}, true, &made);
    QVERIFY(q);
    QCOMPARE(q->elements.size(), std::size_t(2));
    QCOMPARE(q->rooms.size(), std::size_t(4));
    QCOMPARE(windows(*q).size(), std::size_t(8));
    QVERIFY(q->element(house)->shape == p.element(house)->shape);
    double east = 0, west = 0;
    for (const PlacedOpening& o : placedOpenings(*q).openings) {
      east += o.facing == Facing::East;
      west += o.facing == Facing::West;
    }
    QCOMPARE(east, 2.0);
    QCOMPARE(west, 2.0);
  }

  void whatIsGivenToAWallIsOnItsImage() {
    Project p = twoStoreys();
    Assignment a;
    a.finish = "Facade, standard";
    a.element = house;
    a.face = firstWallFace + 1; // east
    p.assignments = {a};
    const auto q = withMirrored(p, {house}, {0, 0}, {0, 1}, false);
    QVERIFY(q);
    const MeshPtr m = *elementMesh(*q->element(house));
    for (std::size_t t = 0; t < m->triangles.size(); ++t)
      if (m->faceOf(t) == *q->assignments[0].face) QVERIFY(normalized(m->areaVector(t)).x < -0.99);
  }

  void noOrderOfEditsBreaksABuilding_data() {
    QTest::addColumn<int>("seed");
    for (int seed = 1; seed <= 12; ++seed) QTest::addRow("seed %d", seed) << seed;
  }
  void noOrderOfEditsBreaksABuilding() {
    QFETCH(int, seed);
    std::mt19937 rng{unsigned(seed)};
    std::uniform_real_distribution<double> u(0, 1);
    Project p = twoStoreys();
    std::vector<std::pair<Project, std::string>> history;
    int done = 0;
    for (int step = 0; step < 40; ++step) {
      const ElementId id = p.elements[std::size_t(u(rng) * double(p.elements.size()))]->id;
      const ElementId other = p.elements[std::size_t(u(rng) * double(p.elements.size()))]->id;
      const Vec2 a{20 * u(rng) - 5, 20 * u(rng) - 5}, b{20 * u(rng) - 5, 20 * u(rng) - 5};
      const auto next = [&]() -> Expected<Project> {
        switch (int(u(rng) * 10)) {
        case 0:
          return withMassesCut(p, {id}, a, b);
        case 1:
          return withSetBack(p, id, {1 + int(3 * u(rng)), 3 * u(rng), {}});
        case 2:
          return id == other ? Expected<Project>(fail("one")) : withMassesJoined(p, {id, other});
        case 3:
          return id == other ? Expected<Project>(fail("one")) : withMassCutOut(p, id, {other}, u(rng) < 0.5);
        case 4:
          return withMirrored(p, {id}, a, b, u(rng) < 0.3);
        case 5:
          return withRow(p, {id}, {1 + int(3 * u(rng)), 1, {16 * u(rng), 3}, {0, 9}});
        case 6:
          return withCutAtLevel(p, id, 7 * u(rng));
        case 7:
          return withCornerCut(p, {id.value, false, 0, std::size_t(4 * u(rng))}, 2 * u(rng));
        case 8:
          return withAligned(p, {id, other}, Align(int(8 * u(rng))));
        default:
          return carried(p, withEdited(p, {id}, [&](Element& e) { turnElement(e, a, u(rng)); }), {id});
        }
      }();
      if (!next) continue;
      if (next->elements.empty() || next->elements.size() > 30) continue;
      ++done;
      history.emplace_back(p, projectText(p, "f"));
      p = *next;
      QVERIFY(allSound(p));
      // The derived model can be made, and no room or window lost its number.
      for (const Opening& o : p.openings) QVERIFY(std::isfinite(o.along) && std::isfinite(o.sill) && o.width > 0);
      for (const Room& r : p.rooms) {
        QVERIFY(checkOutline(r.outline).fault == OutlineFault::None);
        QVERIFY(r.height > 0.3);
      }
      QVERIFY(derivedModel(p).geometryFaults.empty());
    }
    QVERIFY2(done > 10, qPrintable(QString::number(done)));
    for (const auto& [was, text] : history)
      QCOMPARE(projectText(was, "f"), text); // what was kept for undo is as it was
  }

  // ---- in order ---------------------------------------------------------------------------------------------------

  void aGridCanBeLaidAnewAndKeepsWhatWasChangedOnACopy() {
    const Project p = twoStoreys();
    auto q = withRow(p, {house}, {3, 2, {14, 0}, {0, 11}});
    QVERIFY(q);
    QCOMPARE(q->elements.size(), std::size_t(6));
    QCOMPARE(q->rooms.size(), std::size_t(12));
    QCOMPARE(windows(*q).size(), std::size_t(24));
    // One of them is made higher, by hand.
    ElementId raised;
    for (const ElementPtr& e : q->elements)
      if (e->row && e->row->right == 1 && e->row->up == 1) raised = e->id;
    *q = carried(*q, withEdited(*q, {raised}, [](Element& e) { std::get<Mass>(e.shape).height = 9; }), {raised});
    // Asked again for any of them: closer together, one fewer to the right.
    auto r = withRow(*q, {raised}, {2, 2, {12, 1}, {0, 10}});
    QVERIFY(r);
    QCOMPARE(r->elements.size(), std::size_t(4));
    QCOMPARE(r->rooms.size(), std::size_t(8));
    QCOMPARE(r->element(raised)->mass()->height, 9.0);
    QVERIFY(length(middleOf(*r->element(raised)) - Vec2{5 + 12, 4 + 1 + 10}) < 1e-9);
    QCOMPARE(windows(*r).size(), std::size_t(16));
    const auto row = rowOf(*r, raised);
    QVERIFY(row && row->first == house && row->layout.right == 2 && row->layout.up == 2);
    // And down to the one there was.
    const auto one = withRow(*r, {house}, {1, 1, {}, {}});
    QVERIFY(one);
    QCOMPARE(one->elements.size(), std::size_t(1));
    QCOMPARE(one->rooms.size(), std::size_t(2));
    QVERIFY(one->openings == p.openings);
  }

  void alignedWithTheFirst_data() {
    QTest::addColumn<int>("how");
    QTest::addColumn<double>("x");
    QTest::addColumn<double>("y");
    QTest::addColumn<double>("z"); // of the second's low corner afterwards
    QTest::newRow("left") << int(Align::Left) << 0.0 << 20.0 << 1.0;
    QTest::newRow("middle x") << int(Align::MiddleX) << 3.0 << 20.0 << 1.0;
    QTest::newRow("right") << int(Align::Right) << 6.0 << 20.0 << 1.0;
    QTest::newRow("lower") << int(Align::Lower) << 30.0 << 0.0 << 1.0;
    QTest::newRow("middle y") << int(Align::MiddleY) << 30.0 << 2.0 << 1.0;
    QTest::newRow("upper") << int(Align::Upper) << 30.0 << 4.0 << 1.0;
    QTest::newRow("base") << int(Align::Base) << 30.0 << 20.0 << 0.0;
    QTest::newRow("top") << int(Align::Top) << 30.0 << 20.0 << 4.0;
  }
  void alignedWithTheFirst() {
    QFETCH(int, how);
    QFETCH(double, x);
    QFETCH(double, y);
    QFETCH(double, z);
    const Project p = blocks({block(1, rectangle(0, 0, 10, 8), 0, 9), block(2, rectangle(30, 20, 34, 24), 1, 5)});
    const Project q = withAligned(p, {{1}, {2}}, Align(how));
    const Vec3 low = boxOf(*q.element({2})).low;
    QVERIFY(length(low - Vec3{x, y, z}) < 1e-9);
    QVERIFY(q.element({1})->shape == p.element({1})->shape);
  }

  void whatIsTakenAlongToAnotherOptionIsThereTheSame() {
    Project p = twoStoreys();
    p = withNewOption(std::move(p), "B");
    const Project taken = p;
    Project a = withoutHosts(p, {house});
    QVERIFY(a.elements.empty() && a.rooms.empty() && a.openings.empty());
    Ids made;
    const Project back = withPasted(a, taken, {house}, &made);
    QVERIFY(made == Ids{house}); // nothing of it was there: it is the same one
    QCOMPARE(windows(back).size(), windows(p).size());
    QVERIFY(back.rooms == p.rooms);
    QVERIFY(back.openings == p.openings);
    // Where it still stands it becomes a copy.
    const Project twice = withPasted(back, taken, {house}, &made);
    QCOMPARE(twice.elements.size(), std::size_t(2));
    QCOMPARE(windows(twice).size(), 2 * windows(p).size());
    QVERIFY(!(made == Ids{house}));
  }

  void groupsAndRowsSurviveASave() {
    Project p = *withRow(twoStoreys(), {house}, {2, 1, {14, 0.5}, {0, 3}});
    p = withGroupNamed(std::move(p), {house}, "Court");
    QTemporaryDir dir;
    const std::filesystem::path file = dir.filePath("p.noonward").toStdString();
    QVERIFY(writeProject(p, file));
    const auto q = readProject(file);
    QVERIFY(q);
    for (std::size_t k = 0; k < 2; ++k) {
      QCOMPARE(q->project.elements[k]->group, p.elements[k]->group);
      QVERIFY(q->project.elements[k]->row == p.elements[k]->row);
    }
    QCOMPARE(p.elements[0]->group, std::string("Court"));
    QVERIFY(p.elements[1]->row);
  }

  void copiesOfAGroupAreAGroupOfTheirOwn() {
    Project p = blocks({block(1, rectangle(0, 0, 4, 4), 0, 3), block(2, rectangle(5, 0, 9, 4), 0, 3)});
    p = withGroupNamed(std::move(p), {{1}, {2}}, "Pair");
    Ids made;
    const Project q = withCopies(p, {{1}, {2}}, {0, 10, 0}, &made);
    QVERIFY(q.element(made[0])->group == q.element(made[1])->group);
    QVERIFY(q.element(made[0])->group != "Pair");
    QCOMPARE(withTheirGroups(q, {{2}}).size(), std::size_t(2));
  }
};

QTEST_APPLESS_MAIN(TestShaping)
#include "tst_shaping.moc"
