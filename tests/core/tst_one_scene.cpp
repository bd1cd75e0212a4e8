// One building for every study: what rooms, openings and shading rules put there stands in the sun as it stands in the
// sky.

#ifndef Q_MOC_RUN
#include "core/light/direct_sun.h"
#include "core/model/form/edit.h"
#include "core/studies/light_study.h"
#include "core/studies/opening_sun.h"
#include "core/studies/probe.h"
#include "core/studies/sun_hours.h"
#include "tests/house.h"
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

constexpr double middleOfWindow = 4; // m, of the south wall of an 8 m house

Project houseWithSensor(Vec3 at, Vec3 normal = {0, -1, 0}) {
  Project p = test::house({.ratio = 0.3});
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "UTC+01:00";
  SensorGroup g;
  g.id = {40};
  g.name = "point";
  g.layout = std::vector<PointSensor>{{at, normal, "p"}};
  p.groups.push_back(g);
  return p;
}
Project withShade(Project p, ShadeRule::Kind kind, double depth, double beyond = 0) {
  ShadeRule s;
  s.id = {50};
  s.name = "Overhang";
  s.kind = kind;
  s.depth = depth;
  s.beyond = beyond;
  p.shadeRules.push_back(s);
  return p;
}
SunHoursSettings day(Date d) {
  SunHoursSettings s;
  s.dates = {d};
  s.sunriseToSunset = true;
  return s;
}
double hoursOf(const Project& p, Date d, bool before = false) {
  const auto in = sunHoursInput(p, {}, day(d), before);
  if (!in) qFatal("%s", in.error().text().c_str());
  RunControl control;
  return double(runSunHours(*in, control).hours[0]);
}
/// Hours by what a predicate says of every second's direction to the sun.
template <class Lit> double counted(const Project& p, Date d, Lit lit) {
  const auto in = sunHoursInput(p, {}, day(d));
  const auto windows = sunWindows(*in);
  double seconds = 0;
  for (double t = 0.5; t < 86400; t += 1) {
    const Vec3 s = windows[0].path.direction(t);
    seconds += s.z > 0 && -s.y > 0 && lit(s);
  }
  return seconds / 3600;
}
double vscOf(const Project& p) {
  Study s;
  s.kind = StudyKind::Vsc;
  const auto in = lightInput(p, s);
  RunControl control;
  return double(runLight(*in, control).value[0]);
}

const std::vector<Date> dates{{2026, 3, 21}, {2026, 6, 21}, {2026, 12, 21}};

} // namespace

class TestOneScene : public QObject {
  Q_OBJECT
private slots:
  void anOverhangOfARuleShadesTheSunAsItShadesTheSky() {
    const Vec3 at{middleOfWindow, -0.002, 1.5};
    const Project bare = houseWithSensor(at), shaded = withShade(bare, ShadeRule::Kind::Overhang, 2, 500);
    const PlacedOpening window = placedOpenings(bare).openings.at(0);
    const double head = window.opening.sill + window.opening.height, over = head - at.z;
    QVERIFY(vscOf(shaded) < 0.6 * vscOf(bare));
    for (Date d : dates) {
      // An endless overhang hides the sun where it rises by more than `over` on the way out to its edge.
      const double reach = 2 - 0.002;
      const double expected = counted(bare, d, [&](Vec3 s) { return s.z * reach < over * -s.y; });
      const double is = hoursOf(shaded, d);
      QVERIFY2(std::abs(is - expected) * 3600 < 3, qPrintable(QString("%1 h against %2 h").arg(is).arg(expected)));
      QVERIFY(d.month == 12 || is < hoursOf(bare, d) - 0.5);
    }
  }

  void finsOfARuleShadeByTheirEnterAndLeaveAngles() {
    const Vec3 at{middleOfWindow, -0.002, 1.5};
    const Project bare = houseWithSensor(at), shaded = withShade(bare, ShadeRule::Kind::Fins, 1.2);
    const PlacedOpening window = placedOpenings(bare).openings.at(0);
    const double half = window.opening.width / 2, low = window.opening.sill, high = low + window.opening.height,
                 depth = 1.2 - 0.002;
    for (Date d : dates) {
      const double expected = counted(bare, d, [&](Vec3 s) {
        const double out = half / std::abs(s.x) * -s.y,
                     z = at.z + half / std::abs(s.x) * s.z; // where it passes the fin's plane
        return out > depth || z < low || z > high;
      });
      const double is = hoursOf(shaded, d);
      QVERIFY2(std::abs(is - expected) * 3600 < 3, qPrintable(QString("%1 h against %2 h").arg(is).arg(expected)));
    }
    QVERIFY(hoursOf(shaded, dates[0]) < hoursOf(bare, dates[0]) - 0.05);
  }

  void aRuleShadesAsTheSamePlateDrawnByHand() {
    const Vec3 at{2.2, -0.4, 0.3};
    const Project bare = houseWithSensor(at);
    const PlacedOpening w = placedOpenings(bare).openings.at(0);
    const double x0 = 0.35 + w.opening.along, x1 = x0 + w.opening.width, z = w.opening.sill + w.opening.height;
    Element e;
    e.id = {60};
    e.role = Role::Shading;
    e.shape = Plate{{{x0 - 0.3, 0, z}, {x1 + 0.3, 0, z}, {x1 + 0.3, -1.1, z}, {x0 - 0.3, -1.1, z}}};
    const Project drawn = withElement(bare, e), ruled = withShade(bare, ShadeRule::Kind::Overhang, 1.1, 0.3);
    for (Date d : dates) QVERIFY(std::abs(hoursOf(drawn, d) - hoursOf(ruled, d)) * 3600 < 0.5);
    QVERIFY(std::abs(vscOf(drawn) - vscOf(ruled)) < 0.1);
  }

  void aSensorInARoomGetsTheSunThroughItsOpening() {
    // At the spot where the sun at openings is judged: the same answer by two routes.
    Project p = houseWithSensor({middleOfWindow, 0.35, 1.2});
    for (Date d : dates) {
      const auto sun = openingSun(p, {d, 0, 1.2, 0.3});
      QVERIFY(sun.has_value());
      auto& point = std::get<std::vector<PointSensor>>(p.groups[0].layout)[0];
      point.position = sun->at(0).each.at(0).position;
      const double exact = hoursOf(p, d);
      QVERIFY2(std::abs(exact - sun->at(0).each.at(0).hours) * 3600 < 25,
               qPrintable(QString("%1 h against %2 h").arg(exact).arg(sun->at(0).each.at(0).hours)));
      QVERIFY(exact > 0.5);
      point = {{middleOfWindow, 5, 0.8}, {0, 0, 1}, "deep"}; // at the back wall, only a low sun
      const double deep = hoursOf(p, d);
      QVERIFY(d.month == 12 ? deep > 0 : deep < 1);
    }
    Project closed = p;
    closed.windowRules.clear();
    QCOMPARE(hoursOf(closed, dates[2]), 0.0);
  }

  void everyRayMeetsTheSameBuildingInBothScenes() {
    Project p = withShade(withShade(test::house({.ratio = 0.4}), ShadeRule::Kind::Overhang, 0.8, 0.2),
                          ShadeRule::Kind::Fins, 0.4);
    p.shadeRules[1].id = {51};
    const auto model = lightModel(p);
    const LightScene light(*model);
    const Scene sun = buildScene(p);
    QCOMPARE(sun.triangleCount() + light.pieces().size() >= light.triangleCount(), true);
    std::mt19937 random(3);
    const auto u = [&](double a, double b) { return a + (b - a) * random() / 4294967296.0; };
    int blocked = 0;
    for (int i = 0; i < 20'000; ++i) {
      const Vec3 at{u(-4, 12), u(-6, 10), u(0.05, 4)};
      const double a = u(0, 2 * pi), z = u(0.02, 1), r = std::sqrt(1 - z * z);
      const Vec3 d{r * std::cos(a), r * std::sin(a), z};
      QCOMPARE(sun.hidden(at, d), light.blocked(at, d, 1e-3, 1e30));
      blocked += sun.hidden(at, d);
    }
    QVERIFY(blocked > 2000 && blocked < 18'000);
  }

  void beforeLeavesTheProposalsRoomsOut() {
    Project p = houseWithSensor({4, 20, 0.5}, {0, 0, 1}); // behind the house
    const double with = hoursOf(p, dates[2]);
    p = withEdited(p, {{10}}, [](Element& e) { e.proposed = true; });
    QCOMPARE(hoursOf(p, dates[2]), with);
    Project free = p;
    free.elements.clear();
    free.rooms.clear();
    QCOMPARE(hoursOf(p, dates[2], true), hoursOf(free, dates[2]));
    QVERIFY(hoursOf(free, dates[2]) > with + 0.3);
    QVERIFY(derivedModel(p, false).parts.empty());
    // A room that nothing encloses is the proposal's where there is one.
    Project loose = p;
    loose.elements.clear();
    QVERIFY(!derivedModel(loose, false).parts.empty());
    Element other;
    other.id = {70};
    other.proposed = true;
    other.shape = Mass{rectangle(30, 0, 40, 8), 0, 6, 1};
    QVERIFY(derivedModel(withElement(loose, other), false).parts.empty());
  }

  void keysFollowTheBuildingAndNotItsPaint() {
    const Project p = houseWithSensor({4, -3, 0}, {0, 0, 1});
    const auto key = [](const Project& q) { return hashSunHours(q, {}, day({2026, 3, 21})); };
    const Project shaded = withShade(p, ShadeRule::Kind::Overhang, 1);
    QVERIFY(key(shaded) != key(p));
    Project deeper = shaded, wider = p, taller = p, painted = p, named = p;
    deeper.shadeRules[0].depth = 1.2;
    wider.windowRules[0].ratio = 0.5;
    taller.rooms[0].height = 2.5;
    painted.windowRules[0].glazing = "Clear single";
    painted.assignments.push_back({});
    painted.assignments[0].finish = "Wall, standard";
    painted.assignments[0].role = Role::Wall;
    named.rooms[0].name = "Nave";
    QVERIFY(key(deeper) != key(shaded));
    QVERIFY(key(wider) != key(p));
    QVERIFY(key(taller) != key(p));
    QCOMPARE(key(painted), key(p));
    QCOMPARE(key(named), key(p));
  }

  void surfacesAreNamedByWhatTheyCameFrom() {
    const Project p = withShade(houseWithSensor({middleOfWindow, -0.002, 1.5}), ShadeRule::Kind::Overhang, 2, 1);
    const Scene scene = buildScene(p);
    const auto above = scene.firstHit({middleOfWindow, -1, 1}, {0, 0, 1});
    QCOMPARE(surfaceName(p, above.element), std::string("Overhang"));
    QCOMPARE(above.role, Role::Shading);
    const auto in = scene.firstHit({middleOfWindow, 3, 1}, {0, 0, 1});
    QCOMPARE(surfaceName(p, in.element), std::string("Hall"));
    QCOMPARE(in.role, Role::Ceiling);
    QCOMPARE(in.face, roofFace);
    const auto wall = scene.firstHit({0.2, -3, 1}, {0, 1, 0}); // beside the window
    QCOMPARE(surfaceName(p, wall.element), std::string("House"));
    QVERIFY(wall.face >= firstWallFace);
    QVERIFY(surfaceName(p, placedOpenings(p).openings.at(0).opening.id.value).starts_with("Hall: "));
    // What the rule takes is charged to the rule.
    const auto input = sunHoursInput(p, {}, day({2026, 6, 21}));
    const auto windows = sunWindows(*input);
    double brim = 0;
    for (const Shader& s : shadersOf(scene, {middleOfWindow, -0.002, 1.5}, {0, -1, 0}, windows[0]))
      if (s.source == 50) brim = total(s.hidden);
    QVERIFY(brim > 3600);
    const ProbeResult probed = probe(scene, {{middleOfWindow, -0.1, 1.5}, {0, -1, 0}, p.site.place, p.zone(), 0, 2026});
    QCOMPARE(probed.dome.at(180, 60), std::uint64_t(50));
  }

  void whatMovesWithItsRoomsIsALayerOfItsOwn() {
    Project p = withShade(test::house({.ratio = 0.3}), ShadeRule::Kind::Overhang, 1);
    Element other;
    other.id = {70};
    other.shape = Mass{rectangle(30, 0, 40, 8), 0, 6, 1};
    p = withElement(p, other);
    const Scene parts = buildScene(p, {true, {{10}}}), whole = buildScene(p);
    QCOMPARE(parts.layers.size(), std::size_t(2)); // the neighbour; the house with all that hangs on it
    QCOMPARE(parts.triangleCount(), whole.triangleCount());
    const Scene again =
        buildScene(withEdited(p, {{70}}, [](Element& e) { e.name = "renamed"; }), {true, {{10}}}, &parts);
    QVERIFY(again.layers[0] == parts.layers[0] && again.layers[1] == parts.layers[1]);
  }

  void aFinishNobodyKnowsStopsLightAndNotTheSun() {
    Project p = houseWithSensor({4, -3, 0}, {0, 0, 1});
    p.assignments.push_back({});
    p.assignments[0].finish = "No such paint";
    p.assignments[0].role = Role::Wall;
    QVERIFY(!lightModel(p));
    QVERIFY(hoursOf(p, {2026, 6, 21}) > 5);
  }
};

QTEST_GUILESS_MAIN(TestOneScene)
#include "tst_one_scene.moc"
