// Rooms, windows, grids and assignments go with their building, whatever is done to it; walls keep who they are.

#ifndef Q_MOC_RUN
#include "core/model/form/arrange.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/form/outline_edit.h"
#include "core/model/light_model.h"
#include "core/model/mending/check.h"
#include "core/model/rooms/sensors.h"
#include "tests/house.h"
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

constexpr ElementId house{10};

Project furnished() {
  Project p = test::house({.width = 8, .depth = 6, .wall = 0.35, .ratio = 0.3, .spacing = 0.6});
  Opening o;
  o.id = {31};
  o.name = "Drawn";
  o.room = {1};
  o.edge = 2; // the north wall
  o.along = 1.5;
  o.width = 1.2;
  p.openings.push_back(o);
  Opening top = o;
  top.id = {32};
  top.edge = -1;
  top.along = 3;
  top.sill = 2;
  top.width = 1;
  top.height = 2;
  p.openings.push_back(top);
  SensorGroup g;
  g.id = {41};
  g.name = "facade point";
  g.layout = std::vector<PointSensor>{{{4, -0.02, 1.5}, {0, -1, 0}, "p"}, {{40, 40, 0}, {0, 0, 1}, "far"}};
  p.groups.push_back(g);
  SensorGroup f;
  f.id = {42};
  f.name = "south";
  f.layout = FaceGrid{{{house, firstWallFace}}, true, false, 1};
  p.groups.push_back(f);
  Assignment a;
  a.finish = "Facade, standard";
  a.element = house;
  a.face = firstWallFace;
  p.assignments.push_back(a);
  return p;
}
Project edited(const Project& p, const std::function<void(Element&)>& edit) {
  return carried(p, withEdited(p, {house}, edit), {house});
}
/// Every opening's middle, and how deep its reveal is.
std::vector<std::pair<Vec3, double>> windows(const Project& p) {
  std::vector<std::pair<Vec3, double>> out;
  for (const PlacedOpening& o : placedOpenings(p).openings) {
    const Room& r = p.rooms[o.room];
    const auto c = o.corners(r.floor, r.floor + r.height, 0);
    out.emplace_back((c[0] + c[1] + c[2] + c[3]) * 0.25, o.depth);
  }
  return out;
}
/// Area of the panes: what a study would see of the windows.
double glass(const Project& p) {
  double a = 0;
  for (const LightPart& part : derivedModel(p).parts)
    if (part.glazed) a += surfaceArea(*part.mesh);
  return a;
}
bool found(const Project& p, const char* code) {
  const Findings f = checkRooms(p);
  return std::any_of(f.begin(), f.end(), [&](const Finding& x) { return x.code == code; });
}

} // namespace

class TestCarry : public QObject {
  Q_OBJECT
private slots:
  void movedAsAWholeEverythingGoesAlong() {
    const Project p = furnished(), q = edited(p, [](Element&e) { moveElement(e, {13, -7, 2}); });
    const auto a = windows(p), b = windows(q);
    QCOMPARE(a.size(), std::size_t(3));
    QCOMPARE(b.size(), a.size());
    for (std::size_t i = 0; i < a.size(); ++i) {
      QVERIFY(length(b[i].first - a[i].first - Vec3{13, -7, 2}) < 1e-9);
      QVERIFY(std::abs(b[i].second - a[i].second) < 1e-9); // it still pierces its wall
    }
    const auto& points = std::get<std::vector<PointSensor>>(q.groups[1].layout);
    QVERIFY(length(points[0].position - Vec3{17, -7.02, 3.5}) < 1e-9);
    QVERIFY(points[1].position == Vec3(40, 40, 0)); // what stands elsewhere stays
    const auto was = layOutSensors(p), is = layOutSensors(q);
    QCOMPARE(is->sensors.size(), was->sensors.size());
    for (std::size_t i = 0; i < was->sensors.size(); ++i)
      if (was->sensors[i].position.x < 30)
        QVERIFY2(length(is->sensors[i].position - was->sensors[i].position - Vec3{13, -7, 2}) < 1e-6,
                 qPrintable(QString("sensor %1").arg(i)));
    QVERIFY(checkRooms(q).size() == checkRooms(p).size());
  }

  void turnedByAQuarterWindowsStayOnTheirWalls() {
    const Project p = furnished();
    for (int quarters = 1; quarters <= 3; ++quarters) {
      const Project q = edited(p, [&](Element& e) { turnElement(e, {4, 3}, quarters * pi / 2); });
      const auto a = windows(p), b = windows(q);
      QCOMPARE(b.size(), a.size());
      const double c = std::cos(quarters * pi / 2), s = std::sin(quarters * pi / 2);
      for (const auto& [at, depth] : a) {
        const Vec3 to{4 + (at.x - 4) * c - (at.y - 3) * s, 3 + (at.x - 4) * s + (at.y - 3) * c, at.z};
        QVERIFY2(std::any_of(
                     b.begin(), b.end(),
                     [&](const auto& w) { return length(w.first - to) < 1e-6 && std::abs(w.second - depth) < 1e-6; }),
                 qPrintable(QString("%1 quarters").arg(quarters)));
      }
      QVERIFY(std::abs(glass(q) - glass(p)) < 1e-9);
    }
  }

  void turnedByAnyAngleTheRoomStaysInItsWalls() {
    const Project p = furnished();
    for (const double angle : {0.1, 0.7, 2.0, -1.1}) {
      const Project q = edited(p, [&](Element& e) { turnElement(e, {4, 3}, angle); });
      QVERIFY(!found(q, "room.outside"));
      QVERIFY(std::abs(area(q.rooms[0].outline) - area(p.rooms[0].outline)) < 1e-9);
      QVERIFY(hostOf(q, q.rooms[0]) == q.element(house));
    }
  }

  void aPulledWallTakesItsRoomAndWindowsAlong() {
    const Project p = furnished();
    for (std::size_t edge = 0; edge < 4; ++edge)
      for (const double by : {1.5, -0.8}) {
        const Project q = edited(p, [&](Element& e) { QVERIFY(moveEdge(e, edge, by)); });
        const double grown = area(q.rooms[0].outline) - area(p.rooms[0].outline), side = edge % 2 == 0 ? 7.3 : 5.3;
        QVERIFY2(std::abs(grown - side * by) < 1e-6,
                 qPrintable(QString("edge %1 by %2: %3").arg(edge).arg(by).arg(grown)));
        for (const auto& [at, depth] : windows(q))
          QVERIFY(depth < 0.41 && depth > 0.3); // every reveal is as deep as the wall
        QVERIFY(!found(q, "room.outside"));
        if (edge == 2) { // the drawn window went with the north wall
          const auto drawn = [](const Project& x) {
            for (const PlacedOpening& o : placedOpenings(x).openings)
              if (o.opening.id.value == 31) return o.corners(0, 3, 0)[0];
            return Vec3{};
          };
          QVERIFY(length(drawn(q) - drawn(p) - Vec3{0, by, 0}) < 1e-9);
        }
      }
  }

  void raisedFloorsFollowTheStoreys() {
    Project p = test::house();
    p = withEdited(p, {house}, [](Element& e) { e.shape = Mass{rectangle(0, 0, 8, 6), 0, 9.6, 3}; });
    p.rooms = roomsOfMass(p, house.value, 0.3, 0.4);
    QCOMPARE(p.rooms.size(), std::size_t(3));
    for (Room& r : p.rooms) r.id = RoomId::fresh();
    const Project q = edited(p, [](Element& e) { setHeight(e, 12.0); });
    for (int k = 0; k < 3; ++k) {
      QVERIFY(std::abs(q.rooms[std::size_t(k)].floor - 4.0 * k) < 1e-9);
      QVERIFY(std::abs(q.rooms[std::size_t(k)].height - 3.6) < 1e-9); // the slab is as thick as before
    }
    QVERIFY(!found(q, "room.outside"));
    // Set on another foot they go along; lowered until none could stand in a storey, they keep their height and say so.
    const Project down = edited(p, [](Element& e) { std::get<Mass>(e.shape).base = -1; });
    for (int k = 0; k < 3; ++k)
      QVERIFY(std::abs(down.rooms[std::size_t(k)].floor - (3.2 * k - 1)) < 1e-9 &&
              std::abs(down.rooms[std::size_t(k)].height - p.rooms[std::size_t(k)].height) < 1e-9);
    const Project low = edited(p, [](Element& e) { setHeight(e, 3.8); });
    QVERIFY(low.rooms[0] == p.rooms[0]);
    QVERIFY(found(edited(p, [](Element& e) { setHeight(e, 2.4); }), "room.outside"));
  }

  void whatCantFollowIsFoundAndMended() {
    // Pulled in to almost nothing: the room can't follow, says so, and is cut.
    const Project p = furnished();
    const Project q = edited(p, [](Element& e) { QVERIFY(moveEdge(e, 2, -5.25)); });
    QVERIFY(found(q, "room.outside"));
    for (const Finding& f : checkRooms(q))
      if (f.code == "room.outside") {
        QCOMPARE(f.mend, std::string("room.fit"));
        const auto mended = mendProject(q, f);
        QVERIFY2(mended.has_value(), mended ? "" : mended.error().text().c_str());
        QVERIFY(!found(*mended, "room.outside"));
      }
    // A window beyond its wall.
    Project w = p;
    w.openings[0].along = 6.8;
    QVERIFY(found(w, "opening.outside"));
    for (const Finding& f : checkRooms(w))
      if (f.code == "opening.outside") w = *mendProject(w, f);
    QVERIFY(!found(w, "opening.outside") && w.openings[0].width == 1.2);
  }

  void aRoomInTwoGridsIsTakenOutOfTheLater() {
    Project p = furnished();
    SensorGroup again = p.groups[0];
    again.id = {55};
    again.name = "Again";
    p.groups.push_back(again);
    Finding f{Rank::BendsResult, "room.two-grids", "", 1, {1, 55}, "room.one-grid", ""};
    const auto one = mendProject(p, f);
    QVERIFY(one.has_value());
    QCOMPARE(one->groups.size(),
             p.groups.size() - 1); // its only room gone, the grid goes: an empty list would mean all rooms
    QVERIFY(!one->group({55}) && one->groups[0].id == p.groups[0].id);
    f.elements = {1};
    QVERIFY(!mendProject(p, f).has_value());
  }

  void theGroundGoesToTheLowestFoot() {
    Project p = furnished();
    p.site.groundLevel = 4;
    const Finding f{Rank::BendsResult, "ground.above", "", 1, {}, "ground.level", ""};
    const auto level = mendProject(p, f);
    QVERIFY(level.has_value());
    QCOMPARE(level->site.groundLevel, 0.0);
    QVERIFY(neverOfAll(f)); // it changes every reflected light: asked about alone
  }

  void copiesHaveEverythingThatTheFirstHas() {
    const Project p = furnished();
    std::vector<ElementId> made;
    const Project q = withCopies(p, {house}, {20, 0, 0}, &made);
    QCOMPARE(made.size(), std::size_t(1));
    QCOMPARE(q.rooms.size(), std::size_t(2));
    QVERIFY(hostOf(q, q.rooms[1]) == q.element(made[0]));
    const auto a = windows(p), b = windows(q);
    QCOMPARE(b.size(), 2 * a.size());
    for (const auto& [at, depth] : a)
      QVERIFY(std::any_of(b.begin(), b.end(), [&](const auto& w) {
        return length(w.first - at - Vec3{20, 0, 0}) < 1e-9;
      }));
    QCOMPARE(std::get<FaceGrid>(q.groups[2].layout).faces.size(), std::size_t(2));
    QCOMPARE(q.assignments.size(), std::size_t(2));
    QVERIFY(q.assignments[1].element == made[0] && q.assignments[1].face == firstWallFace);
    QVERIFY(std::abs(glass(q) - 2 * glass(p)) < 1e-9);
    // Nothing of the first has changed.
    QVERIFY(q.rooms[0] == p.rooms[0] && q.element(house) == p.element(house));
  }

  void wallsKeepWhoTheyAreWhenCornersComeAndGo() {
    // Random corners put in and taken out: what was given to a wall stays on the wall that lies where it was.
    std::mt19937 random(7);
    for (int round = 0; round < 60; ++round) {
      Project p = test::house();
      const auto outline = [&](const Project& x) { return x.element(house)->mass()->outline.outer; };
      const std::uint32_t marked = random() % 4;
      Assignment a;
      a.finish = "Facade, standard";
      a.element = house;
      a.face = firstWallFace + marked;
      p.assignments.push_back(a);
      const Ring first = outline(p);
      const Vec2 from = first[marked], to = first[(marked + 1) % 4], along = (to - from) * (1 / length(to - from));
      for (int step = 0; step < 6; ++step) {
        const Ring now = outline(p);
        const std::size_t k = random() % now.size();
        const Vec2 c = now[k], d = now[(k + 1) % now.size()];
        auto next = random() % 2 || now.size() <= 4 ? withCornerAdded(p, {house.value, false, 0, k}, c + (d - c) * 0.4)
                                                    : withCornerTaken(p, {house.value, false, 0, k});
        if (next) {
          const Ring then = outline(*next);
          // Only corners that lie on the first outline are ever taken out, so that walls stay where they were.
          bool bends = false;
          for (const Vec2 corner : first)
            bends |= std::none_of(then.begin(), then.end(), [&](Vec2 q) { return length(q - corner) < 1e-9; });
          if (!bends) p = std::move(*next);
        }
        const Ring is = outline(p);
        double covered = 0;
        for (const Assignment& x : p.assignments) {
          const std::size_t wall = *x.face - firstWallFace;
          QVERIFY(wall < is.size());
          const Vec2 u = is[wall], v = is[(wall + 1) % is.size()];
          QVERIFY2(std::abs(cross(u - from, along)) < 1e-6 && std::abs(cross(v - from, along)) < 1e-6,
                   qPrintable(QString("round %1 step %2 marked %3 wall %4 of %5: %6 %7 to %8 %9")
                                  .arg(round)
                                  .arg(step)
                                  .arg(marked)
                                  .arg(wall)
                                  .arg(is.size())
                                  .arg(u.x)
                                  .arg(u.y)
                                  .arg(v.x)
                                  .arg(v.y)));
          covered += length(v - u);
        }
        QVERIFY(std::abs(covered - length(to - from)) < 1e-6); // all of the wall, and nothing else
      }
    }
  }
};

QTEST_GUILESS_MAIN(TestCarry)
#include "tst_carry.moc"
