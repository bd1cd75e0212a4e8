// The light engine: optics, paths, honest errors, same bits, rooms as geometry.

#include "core/light/light_paths.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include "core/model/rooms/room_grid.h"
#include "core/proof/brute_force.h"
#include "core/proof/light_cases.h"
#include "picture/contours.h"
#include "picture/section.h"
#include "tests/house.h"
#include <QtTest>
#include <random>
#include <set>

using namespace noonward;

namespace {

struct Sum {
  const StudySky& light;
  double total = 0;
  void pane(std::uint32_t, double) {}
  void sky(std::uint32_t, Vec3 d, double w, bool) { total += w * light.sky(d); }
  void sun(std::uint32_t, double w) { total += w * light.beam; }
  bool known(std::uint32_t, std::uint32_t, double) { return false; }
};

BoxRoom deepRoom() {
  BoxRoom b;
  b.size = {5, 6, 3};
  b.windowX0 = 1;
  b.windowX1 = 4;
  b.windowZ0 = 0.9;
  b.windowZ1 = 2.6;
  b.floor = 0.3;
  b.walls = 0.6;
  b.ceiling = 0.8;
  b.glazed = true;
  return b;
}

Project onGround(Project p) {
  p.site.groundLevel = 0;
  p.site.groundReflectance = 0.2;
  return p;
}

} // namespace

class TestLight : public QObject {
  Q_OBJECT
private slots:
  void glassLetsThroughWhatItSays() {
    for (int panes = 1; panes <= 3; ++panes)
      for (double t : {0.2, 0.5, 0.75}) {
        const GlazingOptics o(Glazing{"g", t, panes});
        QVERIFY(std::abs(o.straight(1) - t) < 1e-5);
        for (double c = 0.02; c <= 1; c += 0.02) {
          QVERIFY(o.straight(c) + o.mirrored(c) <= 1 + 1e-6);
          QVERIFY(o.straight(c) <= o.straight(std::min(1.0, c + 0.02)) + 1e-3); // less and less toward grazing
        }
        QVERIFY(o.straight(0) < 1e-6);
      }
    // One clear pane, straight from Fresnel: both faces, all reflections between them.
    const double r = std::pow(0.52 / 2.52, 2);
    QVERIFY(std::abs(mostTransmittance(1) - (1 - r) / (1 + r)) < 1e-12);
    const GlazingOptics clear(Glazing{"g", mostTransmittance(1) - 1e-12, 1});
    const double in = 0.5, sine = std::sqrt(0.75) / 1.52, inside = std::sqrt(1 - sine * sine);
    const double s = std::pow((in - 1.52 * inside) / (in + 1.52 * inside), 2),
                 p = std::pow((1.52 * in - inside) / (1.52 * in + inside), 2);
    QVERIFY(std::abs(clear.straight(0.5) - 0.5 * ((1 - s) / (1 + s) + (1 - p) / (1 + p))) < 1e-4);
    const GlazingOptics nothing(Glazing{"o", 1, 0}), opal(Glazing{"m", 0.5, 2, 0.8, 0.25, 0.9, 0.95});
    QVERIFY(nothing.straight(0.01) == 1 && nothing.mirrored(0.01) == 0);
    QVERIFY(std::abs(opal.straight(1) + opal.scattered(1) - 0.5 * 0.9 * 0.95) < 1e-5);
    QVERIFY(std::abs(opal.scattered(1) / opal.straight(1) - 4) < 1e-4);
  }

  void sequencesAreStratifiedHoweverScrambled() {
    for (const std::uint64_t key : {1ull, 99ull, 123456789ull})
      for (int d = 0; d < sobol::dimensions; ++d)
        for (std::uint32_t block : {0u, 64u}) {
          std::array<int, 64> bins{};
          for (std::uint32_t i = 0; i < 64; ++i) ++bins[std::size_t(ScrambledPoint(key, block + i)[d] * 64)];
          for (int n : bins) QCOMPARE(n, 1);
        }
    QVERIFY(ScrambledPoint(1, 3)[0] != ScrambledPoint(2, 3)[0]);
  }

  void openGroundSeesTheSkyAndGivesItsShareBack() {
    Project p = onGround({});
    p.groups.push_back(
        {{1},
         "S",
         std::vector<PointSensor>{{{0, 0, 1}, {0, 0, 1}, ""}, {{0, 0, 1}, {0, 0, -1}, ""}, {{0, 0, 1}, {0, 1, 0}, ""}},
         "",
         Subject::None,
         ""});
    const auto r = lightOf(p, StudyKind::DaylightFactor, 0.002);
    QVERIFY(r.has_value());
    QVERIFY(std::abs(r->value[0] - 100) < 0.3);
    QVERIFY(std::abs(r->value[1] - 20) < 0.2);
    QVERIFY(std::abs(r->value[2] - (100 * vscBehindEndless(0) + 10)) < 0.3); // sky, and half a hemisphere of ground
  }

  void aimingChangesNoAverage() {
    // Diffuse sky and beam through glass: aimed paths against plain cosine ones.
    const Project p = onGround(
        boxProject(deepRoom(),
                   {{{1, 5, 0.85}, {0, 0, 1}, ""}, {{4.9, 3, 1.2}, {-1, 0, 0}, ""}, {{2.5, 3, 2.99}, {0, 0, -1}, ""}}));
    Study s;
    s.kind = StudyKind::Illuminance;
    s.light.error = 0.005;
    s.light.sky = *skyFromKey("cie-12");
    s.light.sky.sunAltitude = radians(35);
    s.light.sky.sunAzimuth = radians(200);
    const auto in = lightInput(p, s);
    QVERIFY(in.has_value());
    QVERIFY(in->sky.sun.has_value());
    RunControl control;
    const LightResult r = runLight(*in, control);
    for (std::size_t i = 0; i < 3; ++i) {
      const Aim none;
      LightPaths<Sum> paths(*in->scene, in->sky.sun, true);
      double mean = 0, square = 0;
      for (int k = 0; k < 16; ++k) {
        Sum t{in->sky};
        const std::uint64_t key = mixed(777 + i * 31 + std::uint64_t(k));
        for (std::uint32_t n = 0; n < 8000; ++n) {
          HashStream h(mixed(key ^ (std::uint64_t{n} << 20)));
          paths.sample(in->sensors.sensors[i].position, in->sensors.sensors[i].normalVector(), none,
                       ScrambledPoint(key, n), h, t);
        }
        mean += t.total / 8000 / 16;
        square += std::pow(t.total / 8000, 2) / 16;
      }
      const double error = std::sqrt((square - mean * mean) / 15), off = r.value[i] - mean;
      QVERIFY2(std::abs(off) < 4 * std::hypot(error, double(r.standardError[i])),
               qPrintable(QString("%1 against %2 ± %3").arg(r.value[i]).arg(mean).arg(error)));
      QVERIFY(error < 0.02 * mean); // or the comparison would say nothing
    }
  }

  void agreesWithABruteForceTracer() {
    BoxRoom b = deepRoom();
    b.size.y = 4;
    const Vec3 at{2.5, 2.2, 0.85};
    const Project p = onGround(boxProject(b, {{at, {0, 0, 1}, ""}}));
    const auto model = lightModel(p);
    QVERIFY(model.has_value());
    const auto [mean, error] = bruteForce(*model, at, {0, 0, 1}, 120'000);
    const auto r = lightOf(p, StudyKind::DaylightFactor, 0.003);
    QVERIFY(r.has_value());
    QVERIFY2(std::abs(r->value[0] - mean) < 3.5 * std::hypot(error, double(r->standardError[0])),
             qPrintable(QString("%1 against %2 ± %3").arg(r->value[0]).arg(mean).arg(error)));
    QVERIFY(error < 0.02 * mean);
  }

  void statedErrorsAreHonest() {
    std::vector<PointSensor> sensors;
    for (int i = 0; i < 10; ++i)
      for (int j = 0; j < 8; ++j) sensors.push_back({{0.25 + 0.5 * i, 0.5 + 0.7 * j, 0.85}, {0, 0, 1}, ""});
    const Project p = onGround(boxProject(deepRoom(), sensors));
    Study s;
    s.kind = StudyKind::DaylightFactor;
    s.light.error = 0.006;
    s.light.seed = 99;
    RunControl control;
    const LightResult truth = runLight(*lightInput(p, s), control);
    int inside = 0, all = 0;
    double square = 0;
    for (std::uint64_t seed = 1; seed <= 5; ++seed) {
      s.light.error = 0.03;
      s.light.seed = seed;
      const LightResult r = runLight(*lightInput(p, s), control);
      for (std::size_t i = 0; i < sensors.size(); ++i) {
        QVERIFY(r.standardError[i] <= 0.03 * r.value[i] + 1e-6);
        inside += std::abs(r.value[i] - truth.value[i]) <= 2 * std::hypot(r.standardError[i], truth.standardError[i]);
        square += std::pow(r.value[i] / truth.value[i] - 1, 2);
        ++all;
      }
    }
    QVERIFY2(inside > 0.93 * all, qPrintable(QString("%1 of %2 within two standard errors").arg(inside).arg(all)));
    QVERIFY(std::sqrt(square / all) < 0.035);
  }

  void sameBitsOnAnyNumberOfThreads() {
    std::vector<PointSensor> sensors;
    for (int i = 0; i < 40; ++i) sensors.push_back({{0.3 + 0.11 * i, 3, 0.85}, {0, 0, 1}, ""});
    Study s;
    s.kind = StudyKind::DaylightFactor;
    s.light.error = 0.05;
    const auto in = lightInput(onGround(boxProject(deepRoom(), sensors)), s);
    QVERIFY(in.has_value());
    RunControl control;
    const LightResult one = runLight(*in, control, {1});
    for (int threads : {2, 7}) {
      const LightResult r = runLight(*in, control, {threads});
      QCOMPARE(r.value, one.value);
      QCOMPARE(r.standardError, one.standardError);
    }
    // Stopped after the second round: kept, with its larger error; then run again for the same bits.
    RunControl stop;
    int rounds = 0;
    const LightResult part = runLight(*in, stop, {2}, [&](const LightResult&) {
      if (++rounds == 2) stop.wish = Wish::Enough;
    });
    QCOMPARE(part.end, RunEnd::Enough);
    QVERIFY(!std::isnan(part.value[0]) && part.samples[0] < one.samples[0]);
    QVERIFY(part.unsettled > 0);
    QCOMPARE(runLight(*in, control, {2}).value, one.value);
    RunControl drop;
    drop.wish = Wish::Drop;
    QCOMPARE(runLight(*in, drop).end, RunEnd::Dropped);
  }

  void finishesGoFromTheParticularToTheGeneral() {
    Project p;
    p.finishes = {{"a", 0.1}, {"b", 0.2}, {"c", 0.3}, {"d", 0.4}, {"e", 0.6}};
    const auto name = [&](SurfaceQuestion q) { return finishFor(p, q).name; };
    SurfaceQuestion q{Role::Wall, 7, 3, "L", "", "", Facing::South};
    QVERIFY(finishFor(p, q).isDefault);
    p.assignments.push_back({"a", {}, {}, "", "", {}, Role::Wall});
    QCOMPARE(name(q), std::string("a"));
    p.assignments.push_back({"b", {}, {}, "", "", Facing::South, {}});
    QCOMPARE(name(q), std::string("b"));
    p.assignments.push_back({"c", {}, {}, "L", "", {}, {}});
    QCOMPARE(name(q), std::string("c"));
    p.assignments.push_back({"d", ElementId{7}, {}, "", "", {}, {}});
    QCOMPARE(name(q), std::string("d"));
    p.assignments.push_back({"e", ElementId{7}, 3u, "", "", {}, {}});
    QCOMPARE(name(q), std::string("e"));
    q.face = 4;
    QCOMPARE(name(q), std::string("d"));
    q.element = 8;
    q.layer = "M";
    QCOMPARE(name(q), std::string("b"));
    q.facing = Facing::North;
    QCOMPARE(name(q), std::string("a"));
  }

  void unknownFinishesAreNamed() {
    Project p = boxProject(deepRoom(), {{{1, 1, 1}, {0, 0, 1}, ""}});
    Element e = *p.elements[1];
    e.finish = "velvet";
    p.elements[1] = std::make_shared<const Element>(e);
    const auto m = lightModel(p);
    QVERIFY(!m.has_value());
    QVERIFY(QString::fromStdString(m.error().text()).contains("velvet") &&
            QString::fromStdString(m.error().text()).contains("Wall"));
    p = boxProject(deepRoom(), {{{1, 1, 1}, {0, 0, 1}, ""}});
    p.finishes[1].reflectance = 0.97;
    const auto bright = lightModel(p);
    QVERIFY(bright.has_value());
    QVERIFY(std::any_of(bright->findings.begin(), bright->findings.end(),
                        [](const Finding& f) { return f.code == "finish.bright"; }));
  }

  void farAwayModelsAreRefusedAndTakenBackAreTheSame() {
    const PointSensor at{{2.5, 2, 0.85}, {0, 0, 1}, ""};
    Project p = onGround(boxProject(deepRoom(), {at}));
    const auto moved = [&](double by) {
      Project q = p;
      for (ElementPtr& e : q.elements) {
        Element copy = *e;
        moveElement(copy, {by, 0, 0});
        e = std::make_shared<const Element>(std::move(copy));
      }
      q.groups[0].layout = std::vector<PointSensor>{{{2.5 + by, 2, 0.85}, {0, 0, 1}, ""}};
      return q;
    };
    const auto far = lightModel(moved(1e6));
    QVERIFY(!far.has_value());
    QVERIFY2(QString::fromStdString(far.error().text()).contains("1000.0 km"), far.error().text().c_str());
    const auto here = lightOf(p, StudyKind::DaylightFactor, 0.01),
               there = lightOf(moved(4000), StudyKind::DaylightFactor, 0.01);
    QVERIFY(here.has_value() && there.has_value());
    QVERIFY2(std::abs(here->value[0] - there->value[0]) <
                 4 * std::hypot(here->standardError[0], there->standardError[0]),
             qPrintable(QString("%1 and %2").arg(here->value[0]).arg(there->value[0])));
  }

  void beamFallsOnOpenGroundAsItMust() {
    Project p = onGround({});
    p.groups.push_back({{1},
                        "S",
                        std::vector<PointSensor>{{{0, 0, 1}, {0, 0, 1}, ""}, {{0, 0, 1}, {0, -1, 0}, ""}},
                        "",
                        Subject::None,
                        ""});
    SkyChoice sky = *skyFromKey("cie-12");
    sky.sunAltitude = radians(30);
    sky.sunAzimuth = pi;
    sky.diffuse = 12000;
    sky.direct = 80000;
    const auto r = lightOf(p, StudyKind::Illuminance, 0.003, sky);
    QVERIFY(r.has_value());
    const double flat = 12000 + 80000 * 0.5;
    QVERIFY(std::abs(r->value[0] - flat) < 0.005 * flat);
    const auto diffuse = SkyLuminance::cieGeneral(12, {0, -std::cos(pi / 6), 0.5}, 12000);
    const double upright = diffuse->illuminance({0, -1, 0}) + 80000 * std::cos(pi / 6) + 0.5 * 0.2 * flat;
    QVERIFY2(std::abs(r->value[1] - upright) < 0.006 * upright,
             qPrintable(QString("%1 against %2").arg(r->value[1]).arg(upright)));
    sky.sunAltitude = radians(-5);
    QVERIFY(lightOf(p, StudyKind::Illuminance, 0.01, sky)->value[0] > 0); // diffuse is stated; no beam from below
  }

  void roomsInAMassAreDarkButForTheirWindows() {
    Project p = onGround({});
    Element e;
    e.id = {5};
    e.name = "House";
    e.shape = Mass{rectangle(0, 0, 10, 8), 0, 3.4, 1};
    p.elements.push_back(std::make_shared<const Element>(e));
    p.rooms = roomsOfMass(p, 5, 0.4, 0.4);
    QCOMPARE(p.rooms.size(), std::size_t(1));
    p.rooms[0].name = "Hall";
    RoomGrid grid;
    grid.spacing = 1;
    p.groups.push_back({{1}, "Plane", grid, "", Subject::None, ""});
    const auto dark = lightOf(p, StudyKind::DaylightFactor, 0.05);
    QVERIFY(dark.has_value());
    for (float v : dark->value) QCOMPARE(v, 0.0f); // no leak through any seam
    WindowRule w;
    w.id = {3};
    w.facings = {Facing::South};
    w.ratio = 0.3;
    w.count = 3;
    p.windowRules.push_back(w);
    const auto facts = roomFacts(p);
    const double wall = 9.2 * p.rooms[0].height;
    QVERIFY(std::abs(facts[0].windowArea[std::size_t(Facing::South)] - 0.3 * wall) < 1e-9);
    QCOMPARE(facts[0].windowArea[std::size_t(Facing::North)], 0.0);
    QVERIFY(std::abs(facts[0].exposedArea - 2 * (9.2 + 7.2) * p.rooms[0].height) < 1e-9);
    const OpeningLayout laid = placedOpenings(p);
    QCOMPARE(laid.openings.size(), std::size_t(3));
    for (const PlacedOpening& o : laid.openings) {
      QVERIFY(std::abs(o.depth - 0.4) < 1e-9); // the reveal goes to the face of the mass
      QCOMPARE(o.mass, std::uint64_t(5));
    }
    const auto lit = lightOf(p, StudyKind::DaylightFactor, 0.05);
    QVERIFY(lit.has_value());
    QVERIFY(lit->value.front() > 0.5f);
    // Turned round, the same rule finds the other wall.
    p.site.northAngle = pi;
    QVERIFY(roomFacts(p)[0].windowArea[std::size_t(Facing::South)] > 1);
    QCOMPARE(placedOpenings(p).openings[0].outward.y, 1.0);
    // An overhang takes light.
    p.site.northAngle = 0;
    p.shadeRules.push_back({.id = {4}, .name = "Overhang", .depth = 1.5, .beyond = 0.3});
    const auto shaded = lightOf(p, StudyKind::DaylightFactor, 0.05);
    QVERIFY(shaded.has_value());
    double before = 0, after = 0;
    for (std::size_t i = 0; i < lit->value.size(); ++i) {
      before += lit->value[i];
      after += shaded->value[i];
    }
    QVERIFY(after < 0.95 * before);
  }

  void rooflightsPierceRoofAndCeiling() {
    Project p = onGround({});
    Element e;
    e.id = {5};
    e.shape = Mass{rectangle(0, 0, 10, 8), 0, 3.4, 1};
    p.elements.push_back(std::make_shared<const Element>(e));
    p.rooms = roomsOfMass(p, 5, 0.3, 0.4);
    WindowRule w;
    w.id = {3};
    w.ceiling = true;
    w.ratio = 0.1;
    w.count = 2;
    w.glazing = "Open";
    p.windowRules.push_back(w);
    QVERIFY(std::abs(roomFacts(p)[0].rooflightArea - 0.1 * 9.4 * 7.4) < 1e-9);
    p.groups.push_back({{1}, "S", std::vector<PointSensor>{{{5, 4, 0.85}, {0, 0, 1}, ""}}, "", Subject::None, ""});
    const auto r = lightOf(p, StudyKind::DaylightFactor, 0.01);
    QVERIFY(r.has_value());
    QVERIFY2(r->value[0] > 2 && r->value[0] < 20, qPrintable(QString::number(r->value[0])));
  }

  void openingsThatDoNotFitAreFound() {
    Project p;
    Room r;
    r.id = {1};
    r.name = "Cell";
    r.outline = rectangle(0, 0, 4, 3);
    p.rooms.push_back(r);
    const auto codes = [&] {
      QStringList out;
      for (const Finding& f : checkRooms(p)) out << QString::fromStdString(f.code);
      return out;
    };
    QVERIFY(codes().contains("room.no-glazing"));
    p.openings.push_back({{2}, "Wide", "", {1}, 0, 3, 0.9, 2, 1, 1, 0.6, ""});
    QVERIFY(codes().contains("opening.outside"));
    p.openings[0].along = 1;
    QVERIFY(!codes().contains("opening.outside") && !codes().contains("room.no-glazing"));
    p.openings.push_back({{3}, "Twice", "", {1}, 0, 2, 1, 1, 1, 1, 0.6, ""});
    QVERIFY(codes().contains("opening.overlap"));
    p.openings.push_back({{4}, "Lost", "", {77}, 0, 2, 1, 1, 1, 1, 0.6, ""});
    QVERIFY(codes().contains("opening.room"));
    Room next = r;
    next.id = {9};
    next.outline = rectangle(0, -3.1, 4, -0.1);
    p.rooms.push_back(next);
    QVERIFY(codes().contains("opening.nowhere"));
    p.rooms[1].outline = rectangle(1, 1, 3, 2);
    QVERIFY(codes().contains("room.overlap"));
    p.rooms[0].outline.outer = {{0, 0}, {4, 0}, {0, 3}, {4, 3}};
    QVERIFY(codes().contains("room.outline"));
  }

  void whyNamesTheCause() {
    const Project p = onGround(boxProject(
        deepRoom(),
        {{{2.5, 1, 0.85}, {0, 0, 1}, ""}, {{2.5, 3, 0}, {0, 0, -1}, ""}, {{4.99, 5.99, 1}, {0, -1, 0}, ""}}));
    Study s;
    s.kind = StudyKind::DaylightFactor;
    const auto in = lightInput(p, s);
    QVERIFY(in.has_value());
    const auto text = [&](std::size_t i) {
      QString all;
      for (const std::string& line : explain(*in, nullptr, i).sentences) all += QString::fromStdString(line) + " ";
      return all;
    };
    QVERIFY(text(0).contains("Through Glazing"));
    QVERIFY(text(1).contains("looks down") || text(1).contains("buried"));
    QVERIFY(explain(*in, nullptr, 0).glassShare > explain(*in, nullptr, 2).glassShare);
  }

  void contoursLieWhereTheFieldSaysSo() {
    // A plane v = 2x + y over a grid: the line v = 7.3 is straight, and every piece of it lies on it.
    SensorSet set;
    SensorGridFacts g;
    g.spacing = 0.5;
    std::vector<float> values;
    for (int j = 0; j < 12; ++j)
      for (int i = 0; i < 12; ++i) {
        const double x = 0.25 + 0.5 * i, y = 0.25 + 0.5 * j;
        set.sensors.push_back({{x, y, 0.85}, {0, 0, 1}, 0});
        values.push_back(float(2 * x + y));
      }
    g.count = set.sensors.size();
    set.groups.push_back(g);
    double whole = 0;
    for (const ContourPiece& c : contours(set, values, {7.3})) {
      for (const Vec3& q : {c.a, c.b}) QVERIFY(std::abs(2 * q.x + q.y - 7.3) < 1e-5 && std::abs(q.z - 0.89) < 1e-9);
      whole += length(c.b - c.a);
    }
    // From y = 0.25 (x = 3.525) to y = 5.75 (x = 0.775).
    QVERIFY(std::abs(whole - std::hypot(3.525 - 0.775, 5.5)) < 1e-5);
    // Through the sensors themselves: no piece is a point, and none is missing.
    whole = 0;
    for (const ContourPiece& c : contours(set, values, {7.25})) {
      QVERIFY(length(c.b - c.a) > 1e-6);
      whole += length(c.b - c.a);
    }
    QVERIFY(std::abs(whole - std::hypot(3.5 - 0.75, 5.5)) < 1e-5);
    values[40] = std::nanf("");
    for (const ContourPiece& c : contours(set, values, {7.3})) QVERIFY(std::isfinite(c.a.x) && std::isfinite(c.b.x));
    QVERIFY(contours(set, values, {1000}).empty());
  }

  void contoursCrossWholeRooms() {
    // Rows and columns of a turned room are as even as its walls let them be: a line across it runs from its first row
    // to its last.
    Outline room = rectangle(0, 0, 10.45, 6);
    const Vec2 along{std::cos(0.3), std::sin(0.3)};
    for (Vec2& p : room.outer) p = {p.x * along.x - p.y * along.y, p.x * along.y + p.y * along.x};
    SensorSet set;
    SensorGridFacts g;
    g.spacing = 0.75;
    g.cells = layGrid(room, 0.75, 0.5, GridLayout::FromWalls).cells;
    std::vector<float> values;
    for (const GridCell& c : g.cells) {
      set.sensors.push_back({{c.at.x, c.at.y, 0.85}, {0, 0, 1}, 0});
      values.push_back(float(dot(c.at, along)));
    }
    g.count = set.sensors.size();
    set.groups.push_back(g);
    double whole = 0;
    for (const ContourPiece& c : contours(set, values, {5.1})) whole += length(c.b - c.a);
    QVERIFY2(std::abs(whole - 5) < 1e-4, qPrintable(QString::number(whole)));
    // A section along or across it meets every column or row once.
    std::set<int> columns, rows;
    for (const GridCell& c : g.cells) columns.insert(c.column), rows.insert(c.row);
    const Vec2 across{-along.y, along.x};
    for (const auto& [from, to, wanted] : {std::tuple{across * 3.1 - along, across * 3.1 + along * 12, columns.size()},
                                           {along * 5 - across, along * 5 + across * 7, rows.size()}}) {
      const auto met = rowsAt(set, {from, to});
      QCOMPARE(met.size(), std::size_t(1));
      QCOMPARE(met[0].sensors.size(), wanted);
      for (std::size_t k = 0; k + 1 < met[0].sensors.size(); ++k)
        QVERIFY(met[0].sensors[k + 1].first - met[0].sensors[k].first > 0.6);
    }
  }

  void doubledAndBlindPanesAreFound() {
    const auto codes = [](const Project& p) {
      Study s;
      s.kind = StudyKind::DaylightFactor;
      QStringList out;
      const auto in = lightInput(p, s);
      for (const Finding& f : in->findings) out << QString::fromStdString(f.code);
      return out;
    };
    Project p = onGround(boxProject(deepRoom(), {{{1, 1, 1}, {0, 0, 1}, ""}}));
    QVERIFY(!codes(p).contains("glazing.doubled") && !codes(p).contains("glazing.nowhere"));
    // The same pane again, 2 cm further out, as exported frames often have it.
    Element second = *p.elements.back();
    second.id = {77};
    moveElement(second, {0, -0.02, 0});
    p.elements.push_back(std::make_shared<const Element>(second));
    QVERIFY(codes(p).contains("glazing.doubled"));
    p.elements.pop_back();
    // A wall drawn right through behind the pane.
    Element wall;
    wall.id = {78};
    wall.role = Role::Wall;
    wall.shape = Mass{rectangle(0, -0.12, 5, -0.01), 0, 3, 1};
    p.elements.push_back(std::make_shared<const Element>(wall));
    QVERIFY(codes(p).contains("glazing.nowhere"));
  }

  void keysFollowWhatMattersAndNothingElse() {
    Project p = onGround(boxProject(deepRoom(), {{{1, 1, 1}, {0, 0, 1}, ""}}));
    p.site.place = {radians(55), radians(12), 0};
    const auto keys = [](const Project& q, const LightSettings& s) {
      std::array<Digest, 3> out;
      const StudyKind kinds[] = {StudyKind::DaylightFactor, StudyKind::Illuminance, StudyKind::Vsc};
      for (std::size_t k = 0; k < 3; ++k) {
        Study study;
        study.kind = kinds[k];
        study.light = s;
        out[k] = hashLight(q, study);
      }
      return out;
    };
    LightSettings s;
    s.sky = *skyFromKey("cie-12");
    s.sky.moment = CivilTime{{2026, 6, 21}, 43200};
    const auto first = keys(p, s);
    // change, and which of daylight factor, illuminance, VSC it touches
    const auto check = [&](const char* what, const std::function<void(Project&, LightSettings&)>& change,
                           std::array<bool, 3> touched) {
      Project q = p;
      LightSettings t = s;
      change(q, t);
      const auto now = keys(q, t);
      for (std::size_t k = 0; k < 3; ++k)
        QVERIFY2((now[k] != first[k]) == touched[k], qPrintable(QString("%1, study %2").arg(what).arg(k)));
    };
    check("nothing", [](Project&, LightSettings&) {}, {false, false, false});
    check("names", [](Project& q, LightSettings&) { q.name = "x", q.groups[0].name = "y", q.preparedBy = "z"; },
          {false, false, false});
    check("wall", [](Project& q, LightSettings&) { q.finishes[1].reflectance = 0.61; }, {true, true, false});
    check("glass", [](Project& q, LightSettings&) { q.glazings[0].transmittance = 0.5; }, {true, true, false});
    check("ground", [](Project& q, LightSettings&) { q.site.groundReflectance = 0.3; }, {true, true, false});
    check("sky", [](Project&, LightSettings& t) { t.sky.type = 7; }, {false, true, false});
    check("moment", [](Project&, LightSettings& t) { t.sky.moment->seconds += 3600; }, {false, true, false});
    check("north", [](Project& q, LightSettings&) { q.site.northAngle = 0.3; }, {false, true, false});
    check("error", [](Project&, LightSettings& t) { t.error = 0.01; }, {true, true, false});
    check("seed", [](Project&, LightSettings& t) { t.seed = 2; }, {true, true, true});
    check(
        "sensor",
        [](Project& q, LightSettings&) { std::get<std::vector<PointSensor>>(q.groups[0].layout)[0].position.x += 0.1; },
        {true, true, true});
    check("left out",
          [](Project& q, LightSettings&) {
            Element e = *q.elements[0];
            e.counted = false;
            q.elements[0] = std::make_shared<const Element>(std::move(e));
          },
          {true, true, true});
  }

  void lowSkyBrightnessStaysPositive() {
    for (double diffuse = 2; diffuse < 60; diffuse += 4)
      for (double beam = 0; beam < 200; beam += 25) {
        const PerezInput in{beam, diffuse, {std::cos(0.3), 0, std::sin(0.3)}, 5, 100};
        const SkyLuminance sky = SkyLuminance::perez(in);
        for (int k = 0; k < 200; ++k) {
          const double g = 0.01 + 1.5 * (k % 20) / 20, a = 0.6 * k;
          const double l = sky({std::cos(g) * std::cos(a), std::cos(g) * std::sin(a), std::sin(g)});
          QVERIFY(std::isfinite(l) && l >= 0);
        }
      }
  }

  void rememberedLightIsHonestAndTheSameOnAnyThreads() {
    // A room in a house with a neighbour before it: many sensors, so that light between its surfaces is remembered.
    Project p = test::house({.width = 8, .depth = 7, .ratio = 0.3, .spacing = 0.9});
    Element e;
    e.id = {11};
    e.shape = Mass{rectangle(-4, -14, 12, -8), 0, 7, 1};
    p.elements.push_back(std::make_shared<const Element>(e));
    Study s;
    s.kind = StudyKind::DaylightFactor;
    const auto run = [&](double error, std::uint64_t seed, int threads) {
      s.light.error = error;
      s.light.seed = seed;
      RunControl control;
      return runLight(*lightInput(p, s), control, Threads{threads});
    };
    const LightResult truth = run(0.0074, 77, 0); // below 0.75 % every path is followed to its end
    QVERIFY(truth.replicates.empty() && truth.value.size() >= 30);
    int within = 0, all = 0;
    double bias = 0;
    for (const std::uint64_t seed : {1, 2, 3, 4}) {
      const LightResult quick = run(0.02, seed, 0);
      QCOMPARE(quick.replicates.size(), 16 * quick.value.size());
      QCOMPARE(quick.unsettled, std::size_t(0));
      for (std::size_t i = 0; i < truth.value.size(); ++i) {
        const double off = double(quick.value[i] - truth.value[i]),
                     error = std::hypot(double(quick.standardError[i]), double(truth.standardError[i]));
        within += std::abs(off) < 2 * error;
        bias += off / double(truth.value[i]);
        ++all;
      }
      // The stated error of the mean knows that sensors share what is remembered.
      const LightStatistics a = lightStatistics(quick, 0, quick.value.size(), 2, 1e9),
                            b = lightStatistics(truth, 0, truth.value.size(), 2, 1e9);
      QVERIFY2(
          std::abs(a.mean - b.mean) < 4 * std::hypot(a.meanError, b.meanError),
          qPrintable(QString("%1 ± %2 against %3 ± %4").arg(a.mean).arg(a.meanError).arg(b.mean).arg(b.meanError)));
      if (seed == 1)
        for (int threads : {1, 7}) {
          const LightResult again = run(0.02, seed, threads);
          QVERIFY(again.value == quick.value && again.standardError == quick.standardError &&
                  again.replicates == quick.replicates);
        }
    }
    QVERIFY2(within > 0.92 * all, qPrintable(QString("%1 of %2").arg(within).arg(all)));
    QVERIFY2(std::abs(bias / all) < 0.006, qPrintable(QString::number(bias / all)));
  }

  void patchesCoverTheirSurfaceOnce() {
    Project p;
    Room r;
    r.id = {1};
    r.outline = rectangle(0, 0, 5, 4);
    p.rooms.push_back(r);
    const auto model = lightModel(p);
    const LightScene scene(*model);
    const Patches patches(scene, 0.5);
    QVERIFY(patches.count() > 0);
    std::mt19937 random(5);
    std::uniform_real_distribution<double> unit(0, 1);
    for (int k = 0; k < 5000; ++k) { // a point of a patch lies in that patch, seen from its side
      const Vec3 o{5 * unit(random), 4 * unit(random), 0.01 + 2.68 * unit(random)}; // above the floor
      const Vec3 d = normalized(Vec3{unit(random) - 0.5, unit(random) - 0.5, unit(random) - 0.5});
      const LightScene::Hit h = scene.opaque(o, d, 0, 1e30);
      QVERIFY(h.any());
      const auto& n = scene.surfaces()[h.triangle].normal;
      const std::uint32_t patch = patches.of(h.triangle, double(h.u), double(h.v), dot(Vec3{n[0], n[1], n[2]}, d) <= 0);
      QVERIFY(patch != Patches::none && patch < patches.count());
      const Patches::Place place = patches.at(patch, unit(random), unit(random));
      QCOMPARE(place.room, 0);
      QVERIFY(dot(place.normal, d) < 0); // toward where the ray came from
      QVERIFY(length(place.position - (o + d * h.distance)) < 0.75);
      const LightScene::Hit back = scene.opaque(place.position + place.normal * 0.01, -place.normal, 0, 0.1);
      QVERIFY(back.any());
      QCOMPARE(patches.of(back.triangle, double(back.u), double(back.v), true) / 2, patch / 2);
    }
  }
};

QTEST_GUILESS_MAIN(TestLight)
#include "tst_light.moc"
