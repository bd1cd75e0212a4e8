// Rooms under sloping roofs: their form against hand geometry, closed all round, with windows in gables and rooflights
// in slopes, carried along when the roof changes; monitors and sawtooths; windows in imported buildings.

#ifndef Q_MOC_RUN
#include "core/light/light_scene.h"
#include "core/light/sampler.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/form/facades.h"
#include "core/model/mending/check.h"
#include "core/model/rooms/opening_edit.h"
#include "core/model/rooms/room_form.h"
#include "core/studies/energy/envelope.h"
#include "core/studies/shade.h"
#include "core/studies/year_study.h"
#include "tests/house.h"
#endif
#include <QTest>
#include <cmath>

using namespace noonward;
using namespace noonward::test;

namespace {

using RK = Roof::Kind;
const double thick = 0.3 * std::sqrt(2.0); // of a roof of 45°, upright

/// 10 × 6 m, walls of 3 m, a roof of 45° along x, with the rooms the mass makes: one, and an attic.
Project gabled(Roof roof = {RK::Gable, 3, 0}, Vec2 shift = {}) {
  Project p;
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  Element e;
  e.id = {10};
  e.name = "House";
  Outline o = rectangle(0, 0, 10, 6);
  for (Vec2& q : o.outer) q = q + shift;
  e.shape = Mass{o, 0, 3, 1, roof};
  p.elements.push_back(std::make_shared<const Element>(e));
  p.rooms = roomsOfMass(p, 10, 0.3, 0.3);
  return p;
}
const Room& attic(const Project& p) {
  return p.rooms.back();
}
WindowRule rule(RoomId room, bool ceiling, double ratio) {
  WindowRule w;
  w.id = {31};
  w.name = ceiling ? "Rooflight" : "Window";
  w.ceiling = ceiling;
  w.rooms = {room};
  w.ratio = ratio;
  return w;
}
double near(double a, double b) {
  return std::abs(a - b);
}
bool found(const Project& p, const char* code) {
  const Findings all = checkRooms(p);
  return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
}
/// Of rays from inside in all directions, those that meet something else than the room first.
std::pair<int, int> strays(const Project& p, std::size_t room, Vec3 from) {
  const auto model = lightModel(p);
  if (!model) qFatal("%s", model.error().text().c_str());
  const LightScene scene(*model);
  HashStream random(7);
  int rays = 0, others = 0;
  for (int k = 0; k < 20000; ++k) {
    const double z = 2 * random.next() - 1, turn = 2 * pi * random.next(), s = std::sqrt(1 - z * z);
    const auto hit = scene.opaque(from, {s * std::cos(turn), s * std::sin(turn), z}, 0, 1e30);
    ++rays;
    others += !hit.any() || scene.roomOf(hit.triangle) != int(room);
  }
  return {rays, others};
}

} // namespace

class TestAttics : public QObject {
  Q_OBJECT
private slots:
  void anAtticHasTheFormOfItsRoof() {
    const Project p = gabled();
    QCOMPARE(p.rooms.size(), std::size_t(2));
    QCOMPARE(attic(p).name, std::string("House, attic"));
    const RoomForm f = roomForm(p, attic(p));
    QVERIFY(!f.level && roomForm(p, p.rooms[0]).level);
    const double w = 3 - thick - 1, l = 9.4; // from the knee to the ridge; its length
    QVERIFY2(near(area(attic(p).outline), 2 * w * l) < 2e-3, qPrintable(QString::number(area(attic(p).outline))));
    QVERIFY2(near(f.volume(), l * 2 * (w + w * w / 2)) < 1e-2, qPrintable(QString::number(f.volume())));
    QVERIFY2(near(f.ceilingArea(), l * 2 * w * std::sqrt(2.0)) < 1e-2, qPrintable(QString::number(f.ceilingArea())));
    QVERIFY(near(f.top, 6 - thick) < 1e-3);
    QVERIFY(near(f.ceilingAt({5, 3}), 6 - thick) < 1e-3 && near(f.ceilingAt({5, 2}), 5 - thick) < 1e-3);
    const Ring& r = attic(p).outline.outer;
    int gables = 0, knees = 0;
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 a = r[i], b = r[(i + 1) % r.size()];
      const bool gable = near(a.x, b.x) < 1e-3;
      (gable ? gables : knees) += 1;
      QVERIFY2(near(f.wallArea(a, b), gable ? 2 * (w + w * w / 2) : l) < 5e-3,
               qPrintable(QString::number(f.wallArea(a, b))));
      if (gable) QCOMPARE(f.wallTop(a, b).size(), std::size_t(3));
      if (gable) QVERIFY(near(f.clearHeight(a, b, w - 0.2, w + 0.2), 6 - thick - 3 - 0.2) < 2e-3);
    }
    QVERIFY(gables == 2 && knees == 2);
    // Facts, envelope and findings say the same.
    const RoomFacts facts = roomFacts(p).back();
    QVERIFY(near(facts.volume, f.volume()) < 1e-9 && near(facts.height, 3 - thick) < 1e-3);
    QVERIFY(near(facts.exposedArea, 2 * l + 4 * (w + w * w / 2)) < 2e-2);
    const RoomEnvelope e = roomEnvelopes(p).back();
    QVERIFY(near(e.roof, f.ceilingArea()) < 1e-6 && near(e.wall, facts.exposedArea) < 1e-6);
    QVERIFY(!found(p, "room.outside") && !found(p, "room.under-roof"));
  }

  void everyRoofIsFollowed_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<double>("along");
    QTest::addColumn<double>("cap"); // m, the room's own height
    for (const auto& [name, kind] : {std::pair{"mono", RK::Mono}, {"gable", RK::Gable}, {"hip", RK::Hip}})
      for (const double along : {0.0, pi / 2, 0.3})
        for (const double cap : {4.0, 1.6})
          QTest::addRow("%s, %g, up to %g m", name, along, cap) << int(kind) << along << cap;
  }
  void everyRoofIsFollowed() {
    // Over a fine grid, by another route: the height over the eaves by closed form, lowered by the slope there.
    QFETCH(int, kind);
    QFETCH(double, along);
    QFETCH(double, cap);
    const Roof roof{RK(kind), 2.5, along};
    Project p = gabled(roof);
    p.rooms = {p.rooms[0]};
    p.rooms[0].floor = 2.2; // reaches from under the eaves into the roof
    p.rooms[0].height = cap;
    const RoomForm f = roomForm(p, p.rooms[0]);
    QVERIFY(!f.level);
    double sum = 0, whole = 0;
    const Outline o = rectangle(0, 0, 10, 6);
    constexpr double step = 0.1, small = 1e-4;
    const auto over = [&](double x, double y) {
      return roof.kind == RK::Hip ? roof.rise * distanceToEdge(o, {x, y}) / 3 : roofHeight(roof, o, {x, y});
    };
    for (double x = 0.3 + step / 2; x < 9.7; x += step)
      for (double y = 0.3 + step / 2; y < 5.7; y += step) {
        const double h = over(x, y), dx = (over(x + small, y) - h) / small, dy = (over(x, y + small) - h) / small;
        const double z = 3 + h - 0.3 * std::sqrt(1 + dx * dx + dy * dy);
        const double expected = std::min(2.2 + cap, z);
        sum += step * step * (expected - 2.2);
        whole += step * step;
        const double got = f.ceilingAt({x, y});
        // On a ridge the difference quotient looks over it.
        if (near(got, expected) > 2e-3)
          QVERIFY2(near(got, expected) < 0.25, qPrintable(QString("%1 %2: %3").arg(x).arg(y).arg(got)));
      }
    QVERIFY2(near(f.volume(), sum) < 0.01 * sum, qPrintable(QString("%1 and %2").arg(f.volume()).arg(sum)));
    double plan = 0;
    for (const CeilingPiece& c : f.ceiling) plan += area(c.outline);
    QVERIFY2(near(plan, area(p.rooms[0].outline)) < 0.01, qPrintable(QString::number(plan - whole)));
  }

  void noLightComesThroughItsSeams_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<double>("shift");
    QTest::newRow("gable") << int(RK::Gable) << 0.0;
    QTest::newRow("mono") << int(RK::Mono) << 0.0;
    QTest::newRow("hip") << int(RK::Hip) << 0.0;
    QTest::newRow("gable, 2 km away") << int(RK::Gable) << 2000.0;
  }
  void noLightComesThroughItsSeams() {
    QFETCH(int, kind);
    QFETCH(double, shift);
    const Project p = gabled({RK(kind), 3, 0}, {shift, -shift});
    QVERIFY(p.rooms.size() == 2);
    const Vec2 c = centroid(attic(p).outline);
    const auto [rays, others] = strays(p, 1, {c.x, c.y, attic(p).floor + 0.7});
    QCOMPARE(rays, 20000);
    QVERIFY2(others <= 2, qPrintable(QString::number(others))); // seams are 0.1 mm wide
  }

  void rooflightsOpenTheSlopeTheyLieIn() {
    Project p = gabled();
    WindowRule w = rule(attic(p).id, true, 0.1);
    w.count = 2; // a field in each quarter: two on either slope
    p.windowRules = {w};
    const OpeningLayout laid = placedOpenings(p);
    QCOMPARE(laid.openings.size(), std::size_t(4));
    double glass = 0, plan = 0;
    for (const PlacedOpening& o : laid.openings) {
      QVERIFY(o.slope && o.mass == 10 && near(o.depth, thick) < 1e-6);
      glass += o.area();
      plan += o.opening.width * o.opening.height;
      const Vec3 n = o.facingOutward();
      QVERIFY(near(n.z, std::sqrt(0.5)) < 1e-6 && near(std::abs(n.y), std::sqrt(0.5)) < 1e-6);
    }
    QVERIFY(near(plan, 0.1 * area(attic(p).outline)) < 1e-3 && near(glass, plan * std::sqrt(2.0)) < 1e-6);
    // The roof and the ceiling are open there, as far as the panes go, and nowhere else.
    const auto opaqueArea = [](const Project& of, std::uint64_t id, Role role) {
      const auto model = lightModel(of);
      double sum = 0;
      for (const LightPart& part : model->parts)
        if (part.element == id && part.role == role) sum += surfaceArea(*part.mesh);
      return sum;
    };
    Project closed = p;
    closed.windowRules.clear();
    QVERIFY(near(opaqueArea(closed, 10, Role::Building) - opaqueArea(p, 10, Role::Building), glass) < 1e-2);
    const std::uint64_t room = attic(p).id.value;
    QVERIFY(near(opaqueArea(closed, room, Role::Ceiling) - opaqueArea(p, room, Role::Ceiling), glass) < 1e-2);
    // A ray from the room through the middle of a pane meets glass and nothing else.
    const auto model = lightModel(p);
    const LightScene scene(*model);
    for (const PlacedOpening& o : laid.openings) {
      const auto pane = paneOf(o, attic(p));
      const Vec3 middle = (pane[0] + pane[1] + pane[2] + pane[3]) * 0.25, from = middle - o.facingOutward() * 0.8;
      QVERIFY(scene.glass(from, o.facingOutward(), 0, 10).any());
      QVERIFY(!scene.blocked(from, o.facingOutward(), 0, 1e30));
    }
    const auto [rays, others] = strays(p, 1, {5, 3, attic(p).floor + 0.7});
    QVERIFY2(others > 20 && others < rays / 4, qPrintable(QString::number(others))); // the sky through them
    // Across the ridge none is laid: said.
    Project across = p;
    across.windowRules[0].count = 1;
    QVERIFY(placedOpenings(across).openings.empty() && found(across, "opening.outside"));
    // A box above needs a flat roof.
    Project box = p;
    box.windowRules[0].raised.kind = Raised::Kind::Monitor;
    QVERIFY(placedOpenings(box).openings.empty() && found(box, "opening.sloped"));
  }

  void windowsKeepUnderTheSlopeOfTheirWall() {
    Project p = gabled();
    WindowRule w = rule(attic(p).id, false, 0.2);
    w.count = 1;
    p.windowRules = {w};
    const OpeningLayout laid = placedOpenings(p);
    QCOMPARE(laid.openings.size(), std::size_t(2)); // the gables; under the knees none has a place
    const RoomForm f = roomForm(p, attic(p));
    for (const PlacedOpening& o : laid.openings) {
      QVERIFY(o.facing == Facing::East || o.facing == Facing::West);
      QVERIFY(o.mass == 10 && near(o.depth, 0.3) < 1e-6);
      const double l = length(attic(p).outline.outer[std::size_t(o.opening.edge)] -
                              attic(p).outline.outer[(std::size_t(o.opening.edge) + 1) % 4]);
      const Vec2 a = o.a, b = o.a + o.along * l;
      QVERIFY(o.opening.sill + o.opening.height <
              f.clearHeight(a, b, o.opening.along, o.opening.along + o.opening.width) - 0.04);
      QVERIFY2(near(o.area(), 0.2 * f.wallArea(a, b)) < 1e-3 * f.wallArea(a, b), qPrintable(QString::number(o.area())));
    }
    const auto model = lightModel(p);
    const LightScene scene(*model);
    for (const PlacedOpening& o : laid.openings) { // through room wall, pane and gable into the open
      const auto pane = paneOf(o, attic(p));
      const Vec3 middle = (pane[0] + pane[1] + pane[2] + pane[3]) * 0.25, out = o.facingOutward();
      QVERIFY(!scene.blocked(middle - out * 1.0, out, 0, 1e30));
      QVERIFY(scene.blocked(middle - out * 1.0 + Vec3{0, 0, o.opening.height / 2 + 0.05}, out, 0, 1e30));
    }
    // A window drawn too high for the slope is left out, and said to be.
    Opening high;
    high.id = {77};
    high.room = attic(p).id;
    high.edge = laid.openings[0].opening.edge;
    high.along = 0.1;
    high.sill = 0.5;
    high.width = 0.8;
    high.height = 1.2;
    p.openings = {high};
    p.windowRules.clear();
    QVERIFY(placedOpenings(p).openings.empty() && found(p, "opening.outside"));
  }

  void atticsFollowTheirRoof() {
    const Project p = gabled();
    const auto with = [&](auto change) {
      Project after = withEdited(p, {{10}}, [&](Element& e) { change(std::get<Mass>(e.shape)); });
      return carried(p, std::move(after), {{10}});
    };
    const auto knee = [](const Project& of) {
      const RoomForm f = roomForm(of, attic(of));
      double least = 1e300;
      const Ring& r = attic(of).outline.outer;
      for (std::size_t i = 0; i < r.size(); ++i)
        least = std::min(least, f.clearHeight(r[i], r[(i + 1) % r.size()], 0, 1e9));
      return least;
    };
    const Project raised = with([](Mass& m) { m.height = 4.5; });
    QVERIFY(near(attic(raised).floor, 4.5) < 1e-9 && near(knee(raised), 1) < 2e-3);
    const Project steeper = with([](Mass& m) { m.roof.rise = 4; });
    QVERIFY(near(attic(steeper).height, 4) < 1e-9 && near(knee(steeper), 1) < 2e-3);
    QVERIFY(area(attic(steeper).outline) > area(attic(p).outline) + 1);
    const Project wider = with([](Mass& m) { m.outline = rectangle(0, 0, 10, 7); });
    QVERIFY2(near(knee(wider), 1) < 2e-3, qPrintable(QString::number(knee(wider))));
    const Vec2 c = centroid(attic(wider).outline);
    QVERIFY(near(c.y, 3.5) < 1e-3); // about the ridge, which went
    const Project moved = with([](Mass& m) {
      for (Vec2& q : m.outline.outer) q = q + Vec2{3, 4};
    });
    QVERIFY(near(centroid(attic(moved).outline).x, 8) < 1e-6 && near(knee(moved), 1) < 2e-3);
    // Its windows stay in its gables.
    Project open = p;
    Opening o;
    o.id = {78};
    o.room = attic(p).id;
    for (std::size_t i = 0; i < 4; ++i)
      if (near(attic(p).outline.outer[i].x, attic(p).outline.outer[(i + 1) % 4].x) < 1e-3 &&
          attic(p).outline.outer[i].x > 5)
        o.edge = int(i);
    o.along = 1;
    o.sill = 0.6;
    o.width = 1;
    o.height = 0.8;
    open.openings = {o};
    QCOMPARE(placedOpenings(open).openings.size(), std::size_t(1));
    const Project after =
        carried(open, withEdited(open, {{10}}, [](Element& e) { std::get<Mass>(e.shape).roof.rise = 4; }), {{10}});
    const auto now = placedOpenings(after).openings;
    QVERIFY(now.size() == 1 && now[0].facing == Facing::East);
    const auto middle = [](const PlacedOpening& q) { return q.a + q.along * (q.opening.along + q.opening.width / 2); };
    QVERIFY(near(middle(now[0]).y, middle(placedOpenings(open).openings[0]).y) < 1e-6);
  }

  void whereTheRoofComesDownIsSaidAndMended() {
    Project p = gabled();
    p.rooms[1].outline = rectangle(0.3, 0.3, 9.7, 5.7); // to the eaves: 0.124 m of it has no height
    QVERIFY(found(p, "room.under-roof"));
    for (const Finding& f : checkRooms(p))
      if (f.code == "room.under-roof") {
        const auto mended = mendProject(p, f);
        QVERIFY2(mended, mended ? "" : mended.error().text().c_str());
        QVERIFY(near(area(attic(*mended).outline), area(attic(gabled()).outline)) < 0.01);
        QVERIFY(!found(*mended, "room.under-roof"));
      }
    // Sensors keep under the ceiling, and those that stand speak for all of the floor.
    SensorGroup g;
    g.id = {40};
    RoomGrid grid;
    grid.rooms = {attic(p).id};
    grid.spacing = 0.5;
    grid.wallDistance = 0.1;
    g.layout = grid;
    p.groups = {g};
    const auto set = layOutSensors(p);
    QVERIFY(set && set->groups.size() == 1);
    const RoomForm f = roomForm(p, attic(p));
    double speaksFor = 0;
    for (const GridCell& c : set->groups[0].cells) {
      QVERIFY(f.ceilingAt(c.at) > attic(p).floor + grid.height);
      speaksFor += c.area;
    }
    QVERIFY(near(speaksFor, area(attic(p).outline)) < 1e-6 * speaksFor);
    QVERIFY(std::any_of(set->findings.begin(), set->findings.end(),
                        [](const Finding& x) { return x.code == "sensors.under-roof"; }));
  }

  void boxesAboveTheRoofAreClosedButForTheirGlass_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("toward");
    for (const Facing f : allFacings) {
      QTest::addRow("monitor, %s", facingKey(f)) << int(Raised::Kind::Monitor) << int(f);
      QTest::addRow("sawtooth, %s", facingKey(f)) << int(Raised::Kind::Sawtooth) << int(f);
    }
  }
  void boxesAboveTheRoofAreClosedButForTheirGlass() {
    QFETCH(int, kind);
    QFETCH(int, toward);
    Project p = house({.width = 12, .depth = 9, .wall = 0.3});
    p.site.northAngle = radians(12);
    WindowRule w = rule(p.rooms[0].id, true, 0);
    w.kind = WindowRule::Kind::Row;
    w.width = 2;
    w.raised = {Raised::Kind(kind), 1.2, Facing(toward)};
    p.windowRules = {w};
    const OpeningLayout laid = placedOpenings(p);
    const bool monitor = kind == int(Raised::Kind::Monitor);
    QCOMPARE(laid.openings.size(), std::size_t(monitor ? 2 : 1));
    QCOMPARE(laid.lanterns.size(), std::size_t(1));
    for (const PlacedOpening& o : laid.openings) {
      QVERIFY(o.raised && o.upright() && near(o.area(), 2 * 1.2) < 1e-9);
      QVERIFY(near(o.level, 3.4) < 1e-9); // on the roof
    }
    QCOMPARE(int(*laid.openings[0].facing), toward);
    if (monitor) QCOMPARE(int(*laid.openings[1].facing), (toward + 2) % 4);
    QVERIFY(near(roomFacts(p)[0].rooflightArea, (monitor ? 2 : 1) * 2.4) < 1e-9);
    QVERIFY(roomFacts(p)[0].windowArea == (std::array<double, 4>{}));
    // From under the box: whatever comes past the opaque surfaces has met glass, and looks the side it must.
    const auto model = lightModel(p);
    const LightScene scene(*model);
    HashStream random(3);
    int out = 0, wrong = 0;
    for (int k = 0; k < 40000; ++k) {
      const double z = random.next(), turn = 2 * pi * random.next(), s = std::sqrt(1 - z * z);
      const Vec3 from{6, 4.5, 2.9}, d{s * std::cos(turn), s * std::sin(turn), z};
      if (scene.opaque(from, d, 0, 1e30).any()) continue;
      ++out;
      const bool side = std::any_of(laid.openings.begin(), laid.openings.end(),
                                    [&](const PlacedOpening& o) { return dot(xy(d), o.outward) > 0; });
      wrong += !side || !scene.glass(from, d, 0, 1e30).any();
    }
    QVERIFY2(out > 500, qPrintable(QString::number(out)));
    QCOMPARE(wrong, 0);
    // The sun comes in by the side it stands on alone.
    const auto beam = [&](double azimuth) {
      const Vec3 sun = skyDirection(radians(50), radians(azimuth), p.site.northAngle);
      double sum = 0;
      for (double x = 1; x < 11; x += 0.25)
        for (double y = 1; y < 8; y += 0.25) sum += beamAt(scene, {x, y, 0.8}, {0, 0, 1}, sun).share;
      return sum;
    };
    QVERIFY(beam(90.0 * toward) > 0);
    QVERIFY(monitor ? beam(90.0 * toward + 180) > 0 : beam(90.0 * toward + 180) == 0);
  }

  void raisedGlassIsCarriedAndRefused() {
    Project p = house({.width = 12, .depth = 9, .wall = 0.3});
    Opening o;
    o.id = {50};
    o.name = "Lantern";
    o.room = p.rooms[0].id;
    o.along = 4;
    o.sill = 3;
    o.width = 3;
    o.height = 2;
    o.raised = {Raised::Kind::Sawtooth, 1, Facing::North};
    p.openings = {o};
    QCOMPARE(placedOpenings(p).openings.size(), std::size_t(1));
    // Turned by a quarter with its house, counter-clockwise: what looked north looks west, and is as long as before.
    Project turned = withEdited(p, {{10}}, [](Element& e) { turnElement(e, {6, 4.5}, pi / 2); });
    turned = carried(p, std::move(turned), {{10}});
    const auto now = placedOpenings(turned).openings;
    QCOMPARE(now.size(), std::size_t(1));
    QVERIFY(now[0].facing == Facing::West && near(now[0].area(), 3) < 1e-6);
    // Two over each other: the second is left out.
    Opening other = o;
    other.id = {51};
    other.along = 5;
    p.openings.push_back(other);
    QVERIFY(placedOpenings(p).openings.size() == 1 && found(p, "opening.overlap"));
    p.openings = {o};
    p.openings[0].raised.rise = 0;
    QVERIFY(placedOpenings(p).openings.empty() && found(p, "opening.size"));
  }

  void importedBuildingsTakeWindows() {
    Project p;
    p.site.place = {radians(55.6), radians(12.5), 0};
    p.site.zone = "Europe/Copenhagen";
    Mesh m = *extrude(rectangle(0, 0, 8, 6), 0, 6);
    Element e;
    e.id = {10};
    e.name = "Shed";
    const Digest content = digestOf(m);
    e.shape = Imported{std::make_shared<const Mesh>(std::move(m)), content, {20, 5, 0}, radians(30), 1};
    p.elements.push_back(std::make_shared<const Element>(e));
    const auto with = withRoomsForWindows(p, {10});
    QVERIFY2(with, with ? "" : with.error().text().c_str());
    QCOMPARE(with->rooms.size(), std::size_t(2)); // storeys of 3 m
    Project open = *with;
    QVERIFY(near(area(open.rooms[0].outline), 7.3 * 5.3) < 0.01);
    QVERIFY(!withRoomsForWindows(open, {10})); // it has rooms now
    WindowRule w;
    w.id = {31};
    w.ratio = 0.3;
    open.windowRules = {w};
    const OpeningLayout laid = placedOpenings(open);
    QCOMPARE(laid.openings.size(), std::size_t(8));
    double glass = 0;
    for (const PlacedOpening& o : laid.openings) {
      QVERIFY2(o.mass == 10 && near(o.depth, 0.35) < 1e-3, qPrintable(QString::number(o.depth)));
      glass += o.area();
    }
    const auto partArea = [](const Project& of) {
      const auto model = lightModel(of);
      double sum = 0;
      for (const LightPart& part : model->parts)
        if (part.element == 10) sum += surfaceArea(*part.mesh);
      return sum;
    };
    QVERIFY(near(partArea(p) - partArea(open), glass) < 1e-2);
    const auto days = glassInSun(open, {2026, 6, 21});
    QVERIFY(days && days->windows.size() == 8);
    int sunny = 0;
    for (const GlassDay& d : days->windows) sunny += total(d.sun) > 3600;
    QVERIFY2(sunny >= 6, qPrintable(QString::number(sunny))); // all but the north side's, at least
    const auto facades = facadeFacts(open);
    double area = 0, panes = 0;
    for (const FacadeFacts& f : facades) area += f.area, panes += f.glass;
    QVERIFY(near(area, 2 * (8 + 6) * 6) < 1e-6 && near(panes, glass) < 1e-9);
  }
};

QTEST_APPLESS_MAIN(TestAttics)
#include "tst_attics.moc"
