// The simplified model out of a heavy one: cuts, regions, storeys, rooms, windows.

#include "core/geometry/healing.h"
#include "core/geometry/thinning.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include "core/model/mending/check.h"
#include "core/model/mending/panes.h"
#include "core/model/tracing/tracing.h"
#include <QTest>
#include <random>

using namespace noonward;

namespace {

Element part(const std::string& name, Role role, Mesh mesh) {
  Element e;
  e.id = {derivedId("test/" + name)};
  e.name = e.layer = name;
  e.source = "source.obj";
  e.role = role;
  if (mesh.face.empty())
    for (std::uint32_t t = 0; t < mesh.triangles.size(); ++t) mesh.face.push_back(t);
  auto shared = std::make_shared<Mesh>(std::move(mesh));
  const Digest content = digestOf(*shared);
  e.shape = Imported{std::move(shared), content, {}, 0, 1};
  return e;
}

void append(Mesh& into, const Mesh& m) {
  const auto n = std::uint32_t(into.points.size());
  into.points.insert(into.points.end(), m.points.begin(), m.points.end());
  for (const Triangle& t : m.triangles) into.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
}

Mesh quad(Vec3 a, Vec3 b, Vec3 c, Vec3 d) {
  return {{a, b, c, d}, {{0, 1, 2}, {0, 2, 3}}, {0, 0}, {}};
}

/// Turned about the zero, its faces thrown about, its triangles cut in four `times` over.
Mesh roughened(Mesh m, double turn, int times, std::mt19937& chance) {
  for (int k = 0; k < times; ++k) {
    std::vector<Triangle> out;
    for (const Triangle& t : m.triangles) {
      const auto n = std::uint32_t(m.points.size());
      for (std::size_t i = 0; i < 3; ++i) m.points.push_back((m.points[t[i]] + m.points[t[(i + 1) % 3]]) * 0.5);
      out.insert(out.end(), {{t[0], n, n + 2}, {n, t[1], n + 1}, {n + 2, n + 1, t[2]}, {n, n + 1, n + 2}});
    }
    m.triangles = std::move(out);
  }
  const double c = std::cos(turn), s = std::sin(turn);
  for (Vec3& p : m.points) p = {p.x * c - p.y * s, p.x * s + p.y * c, p.z};
  for (Triangle& t : m.triangles)
    if (chance() % 3 == 0) std::swap(t[1], t[2]);
  std::shuffle(m.triangles.begin(), m.triangles.end(), chance);
  m.face.clear();
  return m;
}

/// A block of three rooms beside each other on each storey: walls of 0.4 m and 0.2 m, slabs of 0.3 m, a window to the
/// south in each.
Project tower(int storeys, double turn = 0.3, int times = 1) {
  std::mt19937 chance(7);
  Mesh walls, slabs, glass;
  const Outline whole = rectangle(0, 0, 16.4, 6.4);
  for (int k = 0; k < storeys; ++k) {
    const double z = 3.3 * k;
    const Outline rooms[] = {rectangle(0.4, 0.4, 5.4, 6), rectangle(5.6, 0.4, 10.8, 6), rectangle(11, 0.4, 16, 6)};
    Outline plan = whole;
    for (const Outline& r : rooms) plan.holes.push_back(r.outer);
    // Under the sills, over the heads, and between the windows, which are 2 m wide, from 0.9 to 2.4 m.
    append(walls, *extrude(tidied(plan), z, 0.9));
    append(walls, *extrude(tidied(plan), z + 2.4, 0.6));
    const auto piers = difference(
        plan, {rectangle(2, -1, 4, 0.5).outer, rectangle(7, -1, 9, 0.5).outer, rectangle(12, -1, 14, 0.5).outer});
    for (const Outline& o : piers) append(walls, *extrude(tidied(o), z + 0.9, 1.5));
    append(slabs, *extrude(whole, z - 0.3, 0.3));
    for (double x : {2.0, 7.0, 12.0})
      for (double y : {0.15, 0.166})
        append(glass, quad({x, y, z + 0.9}, {x + 2, y, z + 0.9}, {x + 2, y, z + 2.4}, {x, y, z + 2.4}));
  }
  append(slabs, *extrude(whole, 3.3 * storeys - 0.3, 0.3));
  Project p;
  p = withElement(std::move(p), part("walls", Role::Wall, roughened(walls, turn, times, chance)));
  p = withElement(std::move(p), part("slabs", Role::Floor, roughened(slabs, turn, times, chance)));
  p = withElement(std::move(p), part("glass", Role::Glazing, roughened(glass, turn, times, chance)));
  return p;
}

double glazed(const Trace& t) {
  double out = 0;
  for (const Opening& o : t.openings) out += o.width * o.height;
  return out;
}

} // namespace

class TestTracing : public QObject {
  Q_OBJECT
private slots:
  void planesCutMeshesToClosedRings() {
    const Mesh box = *extrude(rectangle(0, 0, 4, 2), 1, 3);
    std::vector<std::vector<CutLine>> lines;
    const double levels[] = {0.5, 1, 2.5, 4, 5};
    cutAt(box, levels, lines);
    QCOMPARE(lines.size(), std::size_t(5));
    QVERIFY(lines[0].empty() && lines[3].empty() &&
            lines[4].empty()); // beside it, and on its top: points on the plane count below it
    for (std::size_t k : {1u, 2u}) {
      double round = 0;
      for (const CutLine& l : lines[k]) round += length(l.b - l.a);
      QVERIFY(std::abs(round - 12) < 1e-12);
      const auto ring = regionsBetween(joined(lines[k], 0.005), 0);
      QVERIFY(ring && ring->size() == 1);
      QVERIFY(std::abs(area(ring->front()) - 8) < 1e-9);
    }
  }

  void piecesOfALineBecomeOne() {
    std::mt19937 chance(3);
    std::uniform_real_distribution<double> u(0, 1);
    const Vec2 d{std::cos(1.1), std::sin(1.1)}, n{-d.y, d.x};
    std::vector<CutLine> lines;
    for (int k = 0; k < 1000; ++k) { // a wall of 100 m in pieces that lie up to 3 mm off it
      const double s = 0.1 * k;
      CutLine l{d * s + n * (0.003 * u(chance)), d * (s + 0.1) + n * (0.003 * u(chance))};
      if (chance() % 2) std::swap(l.a, l.b);
      lines.push_back(l);
    }
    lines.push_back({Vec2{} + n * 0.001, d * 100 + n * 0.001});
    lines.push_back({n * 0.02, d * 100 + n * 0.02}); // another skin, 2 cm off
    std::shuffle(lines.begin(), lines.end(), chance);
    const auto one = joined(lines, 0.005);
    QCOMPARE(one.size(), std::size_t(2));
    for (const CutLine& l : one) QVERIFY(std::abs(length(l.b - l.a) - 100) < 0.01);
    QCOMPARE(joined({{{0, 0}, {1, 0}}, {{1.2, 0}, {2, 0}}}, 0.005).size(), std::size_t(2)); // a gap stays
    QCOMPARE(joined({{{0, 0}, {1, 0}}, {{1, 0}, {1, 1}}}, 0.005).size(), std::size_t(2));
    QVERIFY(joined({{{1, 1}, {1, 1}}}, 0.005).empty());
  }

  void regionsCloseOverSmallGapsOnly() {
    // Two rooms side by side; the wall between ends short by 2 cm at one end and reaches beyond at the other.
    const std::vector<CutLine> lines{{{0, 0}, {8, 0}}, {{8, 0.02}, {8, 4}},   {{8, 4}, {0, 4}},
                                     {{0, 4}, {0, 0}}, {{5, 0.02}, {5, 4.3}}, {{1, 1}, {2, 1}}};
    const auto two = regionsBetween(lines, 0.03);
    QVERIFY(two && two->size() == 2);
    QVERIFY(std::abs(area((*two)[0]) + area((*two)[1]) - 32) < 1e-6);
    const auto none = regionsBetween(lines, 0.005);
    QVERIFY(none && none->size() == 0);
    // A ring inside: a region with a hole, and the hole.
    std::vector<CutLine> nested;
    for (const Outline& o : {rectangle(0, 0, 10, 10), rectangle(4, 4, 6, 6)})
      for (std::size_t i = 0; i < 4; ++i) nested.push_back({o.outer[i], o.outer[(i + 1) % 4]});
    const auto ring = regionsBetween(nested, 0.01);
    QVERIFY(ring && ring->size() == 2);
    QCOMPARE(area((*ring)[0]) > 50 ? area((*ring)[0]) : area((*ring)[1]), 96.0);
    QVERIFY(!regionsBetween({{{0, 0}, {1e12, 0}}}, 0.01));
    QVERIFY(!regionsBetween({{{0, 0}, {std::nan(""), 0}}}, 0.01));
    QVERIFY(regionsBetween({}, 0.01)->empty());
  }

  void outlinesAreSimplifiedWithinTheTolerance() {
    Outline round;
    for (int k = 0; k < 720; ++k) round.outer.push_back({10 * std::cos(k * pi / 360), 10 * std::sin(k * pi / 360)});
    const Outline simple = simplified(round, 0.05);
    QVERIFY(simple.outer.size() < 60);
    QVERIFY(farthestFrom({round}, {simple}) <= 0.05 + 1e-9);
    QVERIFY(farthestFrom({round}, {simple}) > 0.01);
    // A square with points along its edges keeps its corners alone, the first one of the ring too.
    Outline square;
    for (int k = 0; k < 40; ++k) {
      const double s = k % 10 / 10.0 + 0.05;
      square.outer.push_back(k < 10 ? Vec2{s, 0} : k < 20 ? Vec2{1, s} : k < 30 ? Vec2{1 - s, 1} : Vec2{0, 1 - s});
    }
    square.outer.insert(square.outer.begin() + 10, {1, 0}), square.outer.insert(square.outer.begin() + 21, {1, 1}),
        square.outer.insert(square.outer.begin() + 32, {0, 1}), square.outer.push_back({0, 0});
    QCOMPARE(simplified(square, 0.001).outer.size(), std::size_t(4));
    const auto both = unionOf({rectangle(0, 0, 2, 2), rectangle(2, 0, 4, 2), rectangle(10, 0, 11, 1)});
    QVERIFY(both && both->size() == 2);
    QVERIFY(!unionOf({Outline{{{0, 0}, {1, 1}, {1, 0}, {0, 1}}, {}}}));
  }

  void aTowerBecomesStoreysRoomsAndWindows() {
    for (const double turn : {0.0, 0.3, 1.9}) {
      Project p = tower(4, turn);
      const auto t = traceModel(p, {});
      QVERIFY2(t, t ? "" : t.error().message.c_str());
      QCOMPARE(t->storeys.size(), std::size_t(4));
      QCOMPARE(t->rooms.size(), std::size_t(12));
      QCOMPARE(t->openings.size(), std::size_t(12)); // doubled panes once
      QVERIFY(std::abs(glazed(*t) - 12 * 3.0) < 1e-3);
      QCOMPARE(t->masses.size(), std::size_t(1)); // one outline, four storeys
      QCOMPARE(t->masses.front().mass()->storeys, 4);
      QVERIFY(std::abs(area(t->masses.front().mass()->outline) - 16.4 * 6.4) < 0.01);
      QVERIFY(std::abs(t->masses.front().mass()->height - 13.2) < 1e-6);
      double rooms = 0;
      for (const Room& r : t->rooms) {
        rooms += area(r.outline);
        QCOMPARE(r.outline.outer.size(), std::size_t(4));
        QVERIFY(std::abs(r.height - 3.0) < 1e-6);
        QVERIFY(std::abs(r.wall - 0.4) < 0.01);
      }
      QVERIFY(std::abs(rooms - 4 * 5.6 * (5 + 5.2 + 5)) < 0.02);
      for (const Opening& o : t->openings)
        QVERIFY(std::abs(o.sill - 0.9) < 1e-6 && std::abs(o.width - 2) < 1e-3 && std::abs(o.height - 1.5) < 1e-6);
      QVERIFY(t->deviation.farthest < 0.001);
      QVERIFY(std::abs(t->deviation.volume - t->deviation.sourceVolume) < 0.1);
      // The simplified model is sound: windows pierce its mass, the engine takes it, and nothing of the source counts.
      const Project traced = withTrace(p, *t);
      for (const PlacedOpening& o : placedOpenings(traced).openings)
        QVERIFY(o.mass == t->masses.front().id.value && std::abs(o.depth - 0.4) < 0.01);
      const auto light = lightModel(traced);
      QVERIFY(light);
      for (const LightPart& part : light->parts) QVERIFY(part.element != derivedId("test/walls"));
      for (const Finding& f : checkProject(traced))
        QVERIFY2(f.code != "room.overlap" && !f.code.starts_with("opening.") && f.code != "element.left-out",
                 f.text.c_str());
      // And it can be taken out again.
      const Project back = withoutTrace(traced);
      QVERIFY(back.rooms.empty() && back.openings.empty());
      QCOMPARE(back.elements.size(), p.elements.size());
      for (const ElementPtr& e : back.elements) QVERIFY(e->counted && !e->ghost);
    }
  }

  void aSecondTraceKeepsWhatWasGiven() {
    Project p = tower(1);
    p = withTrace(std::move(p), *traceModel(p, {}));
    p.rooms[1].name = "Reading room";
    p.rooms[1].use = "reading";
    p.rooms[2].counted = false;
    p.rooms[2].reason = "store";
    Room own;
    own.id = RoomId::fresh();
    own.name = "By hand";
    own.outline = rectangle(100, 100, 104, 104);
    p.rooms.push_back(own);
    const auto again = traceModel(p, {});
    QVERIFY2(again, again ? "" : again.error().message.c_str());
    const Project q = withTrace(p, *again);
    QCOMPARE(q.rooms.size(), p.rooms.size());
    QCOMPARE(q.openings.size(), p.openings.size());
    QVERIFY(q.room(p.rooms[1].id) && q.room(p.rooms[1].id)->name == "Reading room" &&
            q.room(p.rooms[1].id)->use == "reading");
    QCOMPARE(q.room(p.rooms[2].id)->reason, std::string("store"));
    QCOMPARE(q.room(own.id)->name, std::string("By hand"));
  }

  void namesComeFromFlatOutlines() {
    Project p = tower(2, 0);
    for (const auto& [name, x, z] : {std::tuple{"Ward", 1.0, 0.0}, {"Office", 12.0, 3.3}, {"Roof garden", 1.0, 60.0}}) {
      Element e;
      e.id = ElementId::fresh();
      e.name = name;
      e.counted = false;
      e.shape = Plate{{{x, 1, z}, {x + 3, 1, z}, {x + 3, 4, z}, {x, 4, z}}};
      p = withElement(std::move(p), std::move(e));
    }
    const auto t = traceModel(p, {});
    QVERIFY(t);
    QStringList names;
    for (const Room& r : t->rooms) names << QString::fromStdString(r.name);
    QVERIFY2(names.contains("Ward") && names.contains("Office") && !names.contains("Roof garden"),
             qPrintable(names.join(", ")));
    QCOMPARE(names.filter("Room ").size(), 4);
  }

  void courtyardsHallsAndSinglesSkinsAreUnderstood() {
    Project p;
    Mesh walls, slabs;
    // A ring of rooms round a courtyard of 6 × 6 m: the courtyard has no roof.
    Outline plan = rectangle(0, 0, 20, 20);
    plan.holes = {rectangle(7, 7, 13, 13).outer};
    Outline ring = plan;
    const Outline inner[] = {rectangle(0.3, 0.3, 19.7, 6.7), rectangle(0.3, 13.3, 19.7, 19.7),
                             rectangle(0.3, 7, 6.7, 13), rectangle(13.3, 7, 19.7, 13)};
    for (const Outline& o : inner) ring.holes.push_back(o.outer);
    append(walls, *extrude(tidied(ring), 0, 3));
    append(slabs, *extrude(tidied(plan), -0.2, 0.2));
    append(slabs, *extrude(tidied(plan), 3, 0.2));
    p = withElement(std::move(p), part("walls", Role::Wall, walls));
    p = withElement(std::move(p), part("slabs", Role::Floor, slabs));
    auto t = traceModel(p, {});
    QVERIFY2(t, t ? "" : t.error().message.c_str());
    QCOMPARE(t->rooms.size(), std::size_t(4));
    QCOMPARE(t->masses.front().mass()->outline.holes.size(), std::size_t(1));
    QVERIFY(std::abs(area(t->masses.front().mass()->outline) - (400 - 36)) < 0.01);

    // A hall of two storeys beside rooms of one.
    Project hall;
    Mesh w, s;
    Outline both = rectangle(0, 0, 15.9, 6.6);
    both.holes = {rectangle(0.3, 0.3, 9.3, 6.3).outer, rectangle(9.6, 0.3, 15.6, 6.3).outer};
    append(w, *extrude(tidied(both), 0, 6.3));
    append(s, *extrude(rectangle(0, 0, 15.9, 6.6), -0.3, 0.3));
    append(s, *extrude(rectangle(9.6, 0.3, 15.6, 6.3), 3, 0.3));
    append(s, *extrude(rectangle(0, 0, 15.9, 6.6), 6.3, 0.3));
    hall = withElement(std::move(hall), part("walls", Role::Wall, w));
    hall = withElement(std::move(hall), part("slabs", Role::Floor, s));
    t = traceModel(hall, {});
    QVERIFY2(t, t ? "" : t.error().message.c_str());
    QCOMPARE(t->rooms.size(), std::size_t(3));
    QVERIFY(t->masses.size() == 1 && t->masses.front().mass()->storeys == 2 &&
            std::abs(area(t->masses.front().mass()->outline) - 15.9 * 6.6) < 1e-3); // over the hall too
    QCOMPARE(std::count_if(t->rooms.begin(), t->rooms.end(),
                           [](const Room& r) {
                             return std::abs(r.height - 6.3) < 1e-6 && std::abs(area(r.outline) - 54) < 0.01;
                           }),
             std::ptrdiff_t(1));
    QCOMPARE(std::count_if(
                 t->rooms.begin(), t->rooms.end(),
                 [](const Room& r) { return std::abs(r.height - 3) < 1e-6 && std::abs(area(r.outline) - 36) < 0.01; }),
             std::ptrdiff_t(2));

    // Walls without thickness: two rooms, the mass a little outside.
    Project skin;
    Mesh single;
    for (const auto& [a, b] :
         {std::pair{Vec2{0, 0}, Vec2{8, 0}}, {{8, 0}, {8, 4}}, {{8, 4}, {0, 4}}, {{0, 4}, {0, 0}}, {{5, 0}, {5, 4}}})
      append(single, quad({a.x, a.y, 0}, {b.x, b.y, 0}, {b.x, b.y, 3}, {a.x, a.y, 3}));
    append(single, quad({0, 0, 0}, {8, 0, 0}, {8, 4, 0}, {0, 4, 0}));
    append(single, quad({0, 0, 3}, {8, 0, 3}, {8, 4, 3}, {0, 4, 3}));
    skin = withElement(std::move(skin), part("box", Role::Building, single));
    skin = withElement(std::move(skin), part("glass", Role::Glazing, quad({1, 0, 1}, {3, 0, 1}, {3, 0, 2}, {1, 0, 2})));
    t = traceModel(skin, {});
    QVERIFY2(t, t ? "" : t.error().message.c_str());
    QCOMPARE(t->rooms.size(), std::size_t(2));
    QCOMPARE(t->openings.size(), std::size_t(1));
    QVERIFY(std::abs(glazed(*t) - 2) < 1e-6);
    QVERIFY(area(t->masses.front().mass()->outline) > 32.1 && area(t->masses.front().mass()->outline) < 33);
    for (const PlacedOpening& o : placedOpenings(withTrace(skin, *t)).openings) QVERIFY(o.mass != 0 && o.depth < 0.03);
  }

  void glassFrontsColumnsAndAtticsAreUnderstood() {
    // Thick walls on three sides, a front of glass from floor to ceiling, a column in the middle.
    Project p;
    Mesh walls, slabs;
    const Outline u{{{0, 0.4}, {0, 8}, {12, 8}, {12, 0.4}, {11.6, 0.4}, {11.6, 7.6}, {0.4, 7.6}, {0.4, 0.4}}, {}};
    append(walls, *extrude(tidied(u), 0, 3));
    append(walls, *extrude(rectangle(5.8, 3.8, 6.2, 4.2), 0, 3));
    append(slabs, *extrude(rectangle(0, 0, 12, 8), -0.3, 0.3));
    append(slabs, *extrude(rectangle(0, 0, 12, 8), 3, 0.3));
    p = withElement(std::move(p), part("walls", Role::Wall, walls));
    p = withElement(std::move(p), part("slabs", Role::Floor, slabs));
    p = withElement(std::move(p),
                    part("front", Role::Glazing, quad({0.4, 0.4, 0}, {11.6, 0.4, 0}, {11.6, 0.4, 3}, {0.4, 0.4, 3})));
    auto t = traceModel(p, {});
    QVERIFY2(t, t ? "" : t.error().message.c_str());
    QCOMPARE(t->rooms.size(), std::size_t(1));
    QVERIFY(std::abs(area(t->rooms.front().outline) - (11.2 * 7.2 - 0.16)) < 1e-3);
    QCOMPARE(t->rooms.front().outline.holes.size(), std::size_t(1)); // the column
    QCOMPARE(t->openings.size(), std::size_t(1));
    QVERIFY(std::abs(glazed(*t) - 33.6) < 1e-6);
    const auto placed = placedOpenings(withTrace(p, *t));
    QVERIFY(placed.openings.size() == 1 && placed.openings.front().mass != 0 && placed.openings.front().depth > 0.01 &&
            placed.openings.front().depth < 0.05);
    QVERIFY(lightModel(withTrace(p, *t)));

    // An attic under a roof of two slopes: cut where its walls still stand, as high as its roof is on the mean.
    Project house;
    Mesh shell;
    Outline ring = rectangle(0, 0, 10, 8);
    ring.holes = {rectangle(0.3, 0.3, 9.7, 7.7).outer};
    append(shell, *extrude(tidied(ring), 0, 4.5));
    append(shell, *extrude(rectangle(0, 0, 10, 8), -0.3, 0.3));
    append(shell, *extrude(rectangle(0.3, 0.3, 9.7, 7.7), 2.7, 0.3)); // 3 m: the attic's floor
    append(shell, quad({0, 0, 4.5}, {10, 0, 4.5}, {10, 4, 7.5}, {0, 4, 7.5}));
    append(shell, quad({0, 4, 7.5}, {10, 4, 7.5}, {10, 8, 4.5}, {0, 8, 4.5}));
    for (double x : {0.0, 10.0}) {
      const auto n = std::uint32_t(shell.points.size());
      shell.points.insert(shell.points.end(), {{x, 0, 4.5}, {x, 8, 4.5}, {x, 4, 7.5}});
      shell.triangles.push_back({n, n + 1, n + 2});
    }
    house = withElement(std::move(house), part("house", Role::Building, shell));
    t = traceModel(house, {});
    QVERIFY2(t, t ? "" : t.error().message.c_str());
    QCOMPARE(t->rooms.size(), std::size_t(2));
    QVERIFY(std::abs(t->rooms.front().height - 2.7) < 1e-6);
    QVERIFY2(std::abs(t->rooms.back().floor - 3) < 1e-6 && t->rooms.back().height > 2.5 && t->rooms.back().height < 3.5,
             qPrintable(QString::number(t->rooms.back().height))); // the mean is 3
    QVERIFY(std::abs(area(t->rooms.back().outline) - 9.4 * 7.4) < 0.1);
  }

  void panesOfAllKindsFindTheirWall() {
    Project p = tower(1, 0);
    Mesh more;
    append(more, quad({5.45, 2, 1}, {5.45, 4, 1}, {5.45, 4, 2}, {5.45, 2, 2})); // between two rooms
    append(more, quad({30, 0, 1}, {32, 0, 1}, {32, 0, 2}, {30, 0, 2}));         // somewhere else
    append(more, quad({7, 2, 3.3}, {9, 2, 3.3}, {9, 4, 3.3}, {7, 4, 3.3}));     // in the roof
    Mesh arch; // half a disc of 0.6 m over the north wall of the first room
    arch.points.push_back({3, 6.2, 1});
    for (int k = 0; k <= 24; ++k)
      arch.points.push_back({3 + 0.6 * std::cos(pi * k / 24), 6.2, 1 + 0.6 * std::sin(pi * k / 24)});
    for (std::uint32_t k = 1; k <= 24; ++k) arch.triangles.push_back({0, k, k + 1});
    append(more, arch);
    p = withElement(std::move(p), part("more glass", Role::Glazing, more));
    const auto t = traceModel(p, {});
    QVERIFY2(t, t ? "" : t.error().message.c_str());
    QCOMPARE(t->openings.size(), std::size_t(5));
    const auto top = std::find_if(t->openings.begin(), t->openings.end(), [](const Opening& o) { return o.edge < 0; });
    QVERIFY(top != t->openings.end() && std::abs(top->width * top->height - 4) < 1e-6);
    const double half = surfaceArea(arch);
    QVERIFY(std::any_of(t->openings.begin(), t->openings.end(),
                        [&](const Opening& o) { return std::abs(o.width * o.height - half) < 1e-6; }));
    const auto says = [&](const char* words) {
      return std::any_of(t->notes.begin(), t->notes.end(),
                         [&](const std::string& n) { return n.find(words) != std::string::npos; });
    };
    QVERIFY(says("between two rooms") && says("in no wall") && says("same area") && says("close behind another"));
    QVERIFY(std::abs(t->deviation.sourceGlazing[std::size_t(Facing::South)] - 9 - 2) < 1e-6); // with the lost one
    QVERIFY(std::abs(t->deviation.glazing[std::size_t(Facing::South)] - 9) < 1e-6);
    QVERIFY(std::abs(t->deviation.glazing[std::size_t(Facing::North)] - half) < 1e-6);
  }

  void panesAreMadeSingle() {
    // A sheet of 6 mm with both faces and edges, doubled by another 20 mm behind; a true second window 0.3 m behind
    // stays.
    Mesh m = *extrude(rectangle(0, 0, 2, 0.006), 1, 1.5);
    append(m, *extrude(rectangle(0, 0.026, 2, 0.032), 1, 1.5));
    append(m, quad({0, 0.33, 1}, {2, 0.33, 1}, {2, 0.33, 2.5}, {0, 0.33, 2.5}));
    m.face.clear();
    const Element e = part("glass", Role::Glazing, m);
    const auto panes = panesOf(e, *e.imported()->mesh);
    QCOMPARE(panes.size(), std::size_t(5));
    std::size_t doubled = 0;
    QCOMPARE(singlePanes(panes, doubled).size(), std::size_t(2));
    QCOMPARE(doubled, std::size_t(3));
    Project p = withElement({}, e);
    const auto of = [](const Project& q) {
      const Findings f = checkProject(q);
      const auto at = std::find_if(f.begin(), f.end(), [](const Finding& x) { return x.code == "glass.doubled"; });
      return at == f.end() ? std::optional<Finding>() : *at;
    };
    const auto found = of(p);
    QVERIFY(found && found->rank == Rank::BendsResult && found->at);
    const auto mended = mendProject(p, *found);
    QVERIFY(mended && !of(*mended));
    const auto left = panesOf(*mended->elements.front(), *mended->elements.front()->imported()->mesh);
    QCOMPARE(left.size(), std::size_t(2));
    // Two panes beside each other, or an inch apart in their plane, are no doubles.
    Mesh beside = quad({0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1});
    append(beside, quad({1.02, 0, 0}, {2, 0, 0}, {2, 0, 1}, {1.02, 0, 1}));
    QVERIFY(!of(withElement({}, part("row", Role::Glazing, beside))));
  }

  void strayHeavyAndTinyPartsAreFound() {
    Project p = tower(1);
    for (int k = 0; k < 4; ++k)
      p = withElement(std::move(p), part("house " + std::to_string(k), Role::Neighbour,
                                         *extrude(rectangle(30 + 10 * k, 20, 36 + 10 * k, 26), 0, 8)));
    p = withElement(std::move(p), part("mark", Role::Neighbour, *extrude(rectangle(900, 900, 901, 901), 0, 1)));
    p = withElement(std::move(p),
                    part("sill", Role::Floor, quad({2, 0, 0.9}, {4, 0, 0.9}, {4, 0.1, 0.9}, {2, 0.1, 0.9})));
    std::mt19937 chance(1);
    Mesh tree = *extrude(rectangle(50, 50, 51, 51), 0, 4);
    tree = roughened(tree, 0, 6, chance);
    QVERIFY(tree.triangles.size() > 20000);
    const Box3 before = tree.box();
    p = withElement(std::move(p), part("tree", Role::Planting, tree));
    Findings carried;
    const auto mended = mendAll(
        p,
        [](const Finding& f) {
          return f.code.starts_with("element.stray") || f.code == "floor.small" || f.code == "element.heavy";
        },
        carried);
    QVERIFY(mended);
    QCOMPARE(carried.size(), std::size_t(3));
    QVERIFY(!mended->element({derivedId("test/mark")})->counted);
    QVERIFY(mended->element({derivedId("test/sill")})->role == Role::Wall);
    const Mesh& thin = *mended->element({derivedId("test/tree")})->imported()->mesh;
    QVERIFY2(thin.triangles.size() < 2000, qPrintable(QString::number(thin.triangles.size())));
    QVERIFY(length(thin.box().low - before.low) < 0.04 && length(thin.box().high - before.high) < 0.04);
    const Findings left = checkProject(*mended);
    QVERIFY(std::any_of(left.begin(), left.end(),
                        [](const Finding& f) { return f.code == "model.trace" && f.mend == "model.trace"; }));
  }

  void partsInsideSolidsAndRoomsOverOthersAreMended() {
    Project p;
    p = withElement(std::move(p), part("tower", Role::Neighbour, *extrude(rectangle(0, 0, 10, 10), 0, 20)));
    p = withElement(std::move(p), part("stair", Role::Wall, *extrude(rectangle(2, 2, 4, 4), 1, 3)));
    p = withElement(std::move(p), part("porch", Role::Wall, *extrude(rectangle(-1, 2, 4, 4), 1, 3))); // reaches out
    p = withElement(std::move(p), part("yard", Role::Wall, *extrude(rectangle(20, 2, 24, 4), 1, 3)));
    Findings carried;
    auto mended = mendAll(
        p, [](const Finding& f) { return f.code == "element.hidden"; }, carried);
    QVERIFY(mended && carried.size() == 1 &&
            carried.front().elements == std::vector<std::uint64_t>{derivedId("test/stair")});
    QVERIFY(!mended->element({derivedId("test/stair")})->counted &&
            mended->element({derivedId("test/porch")})->counted);

    Project q;
    for (const auto& [id, name, o] :
         {std::tuple{1, "Hall", rectangle(0, 0, 10, 6)}, {2, "Office", rectangle(6, 0, 10, 4)}}) {
      Room r;
      r.id = {std::uint64_t(id)};
      r.name = name;
      r.outline = o;
      q.rooms.push_back(r);
    }
    Opening w; // in the hall's west wall, and in the south wall where it stays
    w.id = {7};
    w.room = {1};
    w.edge = 0;
    w.along = 2;
    w.width = 1;
    q.openings.push_back(w);
    mended = mendAll(
        q, [](const Finding& f) { return f.code == "room.overlap"; }, carried);
    QVERIFY(mended);
    QVERIFY(std::abs(area(mended->rooms[0].outline) - 44) < 1e-6 &&
            std::abs(area(mended->rooms[1].outline) - 16) < 1e-9);
    const Opening& o = mended->openings.front();
    const Ring& ring = mended->rooms[0].outline.outer;
    const Vec2 a = ring[std::size_t(o.edge)], d = ring[(std::size_t(o.edge) + 1) % ring.size()] - a,
               at = a + d * ((o.along + 0.5) / length(d));
    QVERIFY(length(at - Vec2{2.5, 0}) < 1e-6);
  }

  void whatCannotBeTracedIsSaid() {
    QVERIFY(traceModel({}, {}).error().message.find("nothing to trace") != std::string::npos);
    Project small = tower(1);
    small = withEdited(std::move(small), traceSources(small), [](Element& e) { // metres taken for millimetres
      auto m = std::make_shared<Mesh>(*std::get<Imported>(e.shape).mesh);
      for (Vec3& q : m->points) q = q * 0.001;
      e.shape = withMesh(std::get<Imported>(e.shape), std::move(m));
    });
    QVERIFY(traceModel(small, {}).error().message.find("unit") != std::string::npos);
    Project open; // one wall
    open = withElement(std::move(open), part("wall", Role::Wall, *extrude(rectangle(0, 0, 8, 0.3), 0, 3)));
    QVERIFY(traceModel(open, {}).error().message.find("closed") != std::string::npos);
    RunControl stop;
    stop.wish = Wish::Drop;
    QVERIFY(!traceModel(tower(1), {}, &stop));
    // Levels given, a cut given, a gap too small for what is there.
    TraceSettings s;
    s.floors = {3.3};
    s.cutBelow = 0.2;
    const auto upper = traceModel(tower(2), s);
    QVERIFY(upper && upper->storeys.size() == 1 && std::abs(upper->storeys.front().cut - 6.1) < 1e-6 &&
            upper->rooms.size() == 3);
  }
};

QTEST_APPLESS_MAIN(TestTracing)
#include "tst_tracing.moc"
