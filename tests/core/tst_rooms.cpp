// Rooms, openings one by one and in rows, plates, finishes of some surfaces, leaks: the model side of light.

#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include "core/model/mending/check.h"
#include "core/model/rooms/walls.h"
#include "core/studies/light_check.h"
#include "core/studies/light_study.h"
#include "tests/house.h"
#include <QtTest>

using namespace noonward;
using test::house;

namespace {

Element plate(std::vector<Vec3> corners, Role role = Role::Shading) {
  Element e;
  e.id = ElementId::fresh();
  e.name = "Plate";
  e.role = role;
  e.shape = Plate{std::move(corners)};
  return e;
}

bool finds(const Findings& list, const char* code) {
  return std::any_of(list.begin(), list.end(), [&](const Finding& f) { return f.code == code; });
}

/// A box of plates, 4 × 4 × 3 m, with a hole in one wall where asked for, and a pane in the south.
Project shell(bool holed) {
  Project p;
  const auto add = [&](std::vector<Vec3> c, Role role) { p = withElement(std::move(p), plate(std::move(c), role)); };
  add({{0, 0, 0}, {4, 0, 0}, {4, 4, 0}, {0, 4, 0}}, Role::Floor);
  add({{0, 0, 3}, {4, 0, 3}, {4, 4, 3}, {0, 4, 3}}, Role::Ceiling);
  add({{0, 0, 0}, {0, 4, 0}, {0, 4, 3}, {0, 0, 3}}, Role::Wall);
  add({{0, 4, 0}, {4, 4, 0}, {4, 4, 3}, {0, 4, 3}}, Role::Wall);
  add({{0, 0, 0}, {4, 0, 0}, {4, 0, 1}, {0, 0, 1}}, Role::Wall); // below the pane
  add({{0, 0, 1}, {4, 0, 1}, {4, 0, 3}, {0, 0, 3}}, Role::Glazing);
  add({{4, 0, 0}, {4, 4, 0}, {4, 4, holed ? 2.6 : 3.0}, {4, 0, holed ? 2.6 : 3.0}}, Role::Wall);
  SensorGroup g;
  g.id = {5};
  g.name = "Points";
  std::vector<PointSensor> points;
  for (int i = 0; i < 9; ++i) points.push_back({{0.7 + 1.3 * (i % 3), 0.7 + 1.3 * (i / 3), 0.85}, {0, 0, 1}, ""});
  g.layout = points;
  p.groups.push_back(g);
  return p;
}

} // namespace

class TestRooms : public QObject {
  Q_OBJECT
private slots:
  void aFacadeKnowsTheRoomBehindIt() {
    const Project p = house();
    const auto south = wallBehind(p, {3, 0, 1.2}, {0, -1, 0});
    QVERIFY(south.has_value());
    QCOMPARE(south->room, std::size_t(0));
    QVERIFY(std::abs(south->length - 7.3) < 1e-9 && std::abs(south->height - 1.2) < 1e-9 &&
            std::abs(south->along - 2.65) < 1e-9);
    QVERIFY(length(pointOnWall(p, *south, south->along, south->height) - Vec3{3, 0.35, 1.2}) < 1e-9);
    QVERIFY(!wallBehind(p, {3, 0, 3.2}, {0, -1, 0})); // above the ceiling
    QVERIFY(!wallBehind(p, {0.1, 0, 1}, {0, -1, 0})); // beside the room
    QVERIFY(!wallBehind(p, {3, -3, 1}, {0, -1, 0}));  // too far before it
    const auto east = wallBehind(p, {8, 3, 1}, {1, 0, 0});
    QVERIFY(east.has_value() && east->edge != south->edge);
    Project two = p; // another room right behind the east wall: it is a partition now
    Room r = p.rooms[0];
    r.id = {2};
    r.outline = rectangle(7.8, 0.35, 12, 5.65);
    two.rooms.push_back(r);
    QVERIFY(!wallBehind(two, {8, 3, 1}, {1, 0, 0}));
  }

  void oneWindowCanStandInARow() {
    Project p = house();
    Opening o;
    o.id = {20};
    o.name = "Window";
    o.room = {1};
    o.edge = wallBehind(p, {3, 0, 1}, {0, -1, 0})->edge;
    o.along = 0.5;
    o.width = 1;
    o.height = 1.2;
    o.repeat = 4;
    o.gap = 0.5;
    p.openings.push_back(o);
    auto laid = placedOpenings(p);
    QCOMPARE(laid.openings.size(), std::size_t(4));
    for (int k = 0; k < 4; ++k)
      QVERIFY(std::abs(laid.openings[std::size_t(k)].opening.along - (0.5 + 1.5 * k)) < 1e-12);
    QCOMPARE(laid.openings[0].opening.id, o.id);
    QVERIFY(laid.openings[1].opening.id != laid.openings[2].opening.id);
    QVERIFY(std::abs(roomFacts(p)[0].windowArea[std::size_t(Facing::South)] - 4.8) < 1e-9);
    p.openings[0].repeat = 6; // the last two reach beyond the wall: found, the others stay
    laid = placedOpenings(p);
    QCOMPARE(laid.openings.size(), std::size_t(4));
    QVERIFY(finds(laid.findings, "opening.outside"));
  }

  void platesAreFlatOrFound() {
    Element e = plate({{0, 0, 3}, {4, 0, 3}, {4, 2, 3}, {0, 2, 3}});
    auto mesh = elementMesh(e);
    QVERIFY(mesh.has_value());
    QVERIFY(std::abs(surfaceArea(**mesh) - 8) < 1e-9);
    tiltPlate(e, radians(30));
    QVERIFY(std::abs(boxOf(e).high.z - (3 + 2 * std::sin(radians(30)))) < 1e-9);
    QVERIFY(std::abs(surfaceArea(**elementMesh(e)) - 8) < 1e-9);
    moveElement(e, {1e6, -1e6, 0}); // far out it is as flat
    QVERIFY(elementMesh(e).has_value());
    turnElement(e, middleOf(e), radians(37));
    QVERIFY(elementMesh(e).has_value());
    Element drawn =
        plate({{0, 2, 3}, {4, 2, 3}, {4, 0, 3}, {0, 0, 3}}); // the other way round: the far side goes up alike
    tiltPlate(drawn, radians(30));
    QVERIFY(std::abs(boxOf(drawn).high.z - (3 + 2 * std::sin(radians(30)))) < 1e-9);
    for (const auto& bad : {std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}},
                            {{0, 0, 0}, {1, 0, 0}, {1, 1, 0.5}, {0, 1, 0}},
                            {{0, 0, 0}, {1, 0, 0}, {2, 0, 0}},
                            {{0, 0, 0}, {1, 0, NAN}, {1, 1, 0}}}) {
      Project p;
      p = withElement(std::move(p), plate(bad));
      QVERIFY(!elementMesh(*p.elements[0]).has_value());
      QVERIFY(finds(checkProject(p), "element.plate"));
    }
  }

  void platesComeBackFromAFile() {
    Project p = house();
    p.id = ProjectId::fresh();
    p = withElement(std::move(p), plate({{0, -1, 3}, {4, -1, 3}, {4, -3, 3.25}, {0, -3, 3.25}}));
    const auto back = parseProject(projectText(p, "x.files"), "x", ".");
    QVERIFY2(back.has_value(), back ? "" : back.error().text().c_str());
    QVERIFY(back->project.elements[1]->plate() != nullptr);
    QVERIFY(*back->project.elements[1]->plate() == *p.elements[1]->plate());
    const auto bad = parseProject(
        R"({"format":"noonward-project","version":1,"site":{"latitude":0,"longitude":0},"elements":[{"name":"S","plate":{"corners":[[0,0,0],[1,0]]}}]})",
        "x", ".");
    QVERIFY(!bad.has_value());
    QVERIFY2(bad.error().text().find("corners") != std::string::npos, bad.error().text().c_str());
  }

  void shadeOfAPlateIsFelt() {
    // A wide plate right above a point takes what a mass of the same outline takes of the sky.
    Project p;
    SensorGroup g;
    g.id = {5};
    g.name = "Point";
    g.layout = std::vector<PointSensor>{{{0, 0, 0}, {0, 0, 1}, ""}};
    p.groups.push_back(g);
    Study s;
    s.kind = StudyKind::SkyView;
    const auto value = [&](const Project& q) {
      RunControl control;
      return double(runLight(*lightInput(q, s), control).value[0]);
    };
    QVERIFY(std::abs(value(p) - 100) < 0.2);
    const Project shaded = withElement(p, plate({{-2, -2, 2}, {2, -2, 2}, {2, 2, 2}, {-2, 2, 2}}));
    // View factor of a square of half width 2 at height 2 over its middle: 4 × the corner formula with a = b = 1.
    const double f = 4 * (1 / (2 * pi)) * (2 * (1 / std::sqrt(2.0)) * std::atan(1 / std::sqrt(2.0)));
    QVERIFY2(std::abs(value(shaded) - 100 * (1 - f)) < 0.3,
             qPrintable(QString("%1 against %2").arg(value(shaded)).arg(100 * (1 - f))));
  }

  void aRoomWithoutAGridIsToldAndMended() {
    Project p = house();
    QVERIFY(finds(checkRooms(p), "room.no-grid"));
    for (const Finding& f : checkRooms(p))
      if (f.code == "room.no-grid") p = *mendProject(p, f);
    QVERIFY(!finds(checkRooms(p), "room.no-grid"));
    QCOMPARE(p.groups.size(), std::size_t(1));
    QVERIFY(!layOutSensors(p)->sensors.empty());
    Room r = p.rooms[0];
    r.id = {2};
    r.outline = rectangle(20, 0, 24, 4);
    p.rooms.push_back(r); // goes into the grid that is there
    for (const Finding& f : checkRooms(p))
      if (f.code == "room.no-grid") p = *mendProject(p, f);
    QCOMPARE(p.groups.size(), std::size_t(1));
    QCOMPARE(std::get<RoomGrid>(p.groups[0].layout).rooms.size(), std::size_t(2));
    p.rooms[1].counted = false;
    std::get<RoomGrid>(p.groups[0].layout).rooms = {{1}};
    QVERIFY(!finds(checkRooms(p), "room.no-grid")); // what does not count needs none
  }

  void leaksAreFoundWhereTheyAre() {
    for (const bool holed : {false, true}) {
      const Project p = shell(holed);
      Study s;
      s.kind = StudyKind::DaylightFactor;
      const auto in = lightInput(p, s);
      QVERIFY2(in.has_value(), in ? "" : in.error().text().c_str());
      QCOMPARE(finds(in->findings, "room.leak"), holed);
      if (!holed) continue;
      for (const Finding& f : in->findings)
        if (f.code == "room.leak") {
          QVERIFY(f.at.has_value());
          // The slit runs along x = 4 from z = 2.6 to 3.
          QVERIFY2(std::abs(f.at->x - 4) < 0.5 && f.at->z > 2.2 && f.at->z < 3.3,
                   qPrintable(QString("%1 %2 %3").arg(f.at->x).arg(f.at->y).arg(f.at->z)));
        }
    }
  }

  void outdoorsIsNoLeakAndMixedGridsAreTold() {
    Project p = shell(false);
    auto& points = std::get<std::vector<PointSensor>>(p.groups[0].layout);
    Study s;
    s.kind = StudyKind::DaylightFactor;
    for (PointSensor& q : points) q.position.y -= 20;
    QVERIFY(!finds(lightInput(p, s)->findings, "room.leak") && !finds(lightInput(p, s)->findings, "sensors.outside"));
    for (std::size_t i = 0; i < 4; ++i) points[i].position.y += 20;
    QVERIFY(finds(lightInput(p, s)->findings, "sensors.outside"));
  }

  void finishesOfSomeSurfacesSayWhoDoesNotFollow() {
    Project p = house();
    WindowRule w;
    w.id = {30};
    w.name = "Window";
    w.type = "A";
    w.ratio = 0.2;
    p.windowRules.push_back(w);
    w.id = {31};
    w.type = "B";
    w.rooms = {{99}}; // nowhere
    p.windowRules.push_back(w);
    p.glazings.push_back({"Grey", 0.4, 2, 0, 0.15, 1, 1, 0, 0, "", false});
    p.finishes.push_back({"Brick", 0.2, 0, 0, "", false});
    Assignment byType{"Grey", {}, {}, "", "A", {}, Role::Glazing},
        toSouth{"Brick", {}, {}, "", "", Facing::South, Role::Wall}, byLayer{"Brick", {}, {}, "walls", "", {}, {}};
    p.assignments = {byType, toSouth, byLayer};
    std::size_t grey = 0, brick = 0;
    for (const SurfaceEntry& s : surfaces(p)) {
      const std::string name = finishFor(p, s.question).name;
      grey += name == "Grey";
      brick += name == "Brick";
      if (s.name == "House") QCOMPARE(name, std::string("Brick"));
      if (s.name == "Hall: south wall") QCOMPARE(name, std::string("Brick"));
      if (s.name == "Hall: ceiling") QVERIFY(name != "Brick");
    }
    QCOMPARE(grey, std::size_t(4)); // a window in each wall
    QCOMPARE(brick, std::size_t(2));
    QVERIFY(notFollowing(p, byType).empty());
    p.windowRules[0].glazing = "Clear single"; // a name of its own goes before the type
    QCOMPARE(notFollowing(p, byType).size(), std::size_t(4));
    QCOMPARE(notFollowing(p, byType)[0].second, std::string("Clear single"));
    const auto model = lightModel(p);
    QVERIFY2(model.has_value(), model ? "" : model.error().text().c_str());
  }

  void oneFinishTakesThePlaceOfAnother() {
    Project p = house();
    WindowRule w;
    w.id = {30};
    w.glazing = "Low-emissivity double";
    p.windowRules.push_back(w);
    w.id = {31};
    w.glazing = ""; // by default the same
    w.facings = {Facing::North};
    p.windowRules.push_back(w);
    p.glazings.push_back({"Mine", 0.5, 2, 0, 0.15, 1, 1, 0, 0, "", false});
    p = withFinishReplaced(std::move(p), "Low-emissivity double", "Mine");
    QCOMPARE(p.windowRules[0].glazing, std::string("Mine"));
    SurfaceQuestion q;
    q.role = Role::Glazing;
    QCOMPARE(finishFor(p, q).name, std::string("Mine"));
    p.finishes.push_back({"Lime", 0.7, 0, 0, "", false});
    p = withFinishReplaced(std::move(p), "Ceiling, standard", "Lime");
    q.role = Role::Ceiling;
    QCOMPARE(finishFor(p, q).name, std::string("Lime"));
    q.role = Role::Wall;
    QVERIFY(finishFor(p, q).name != "Lime");
    q.role = Role::Glazing;
    QCOMPARE(finishFor(p, q).name, std::string("Mine"));
  }
};

QTEST_APPLESS_MAIN(TestRooms)
#include "tst_rooms.moc"
