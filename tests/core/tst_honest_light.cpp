// Values that say how sure they are: no zero that nobody looked for, errors that hold the truth in rooms brought in as
// meshes, light charged to the window it came in by, closed shade fabric under every light.

#ifndef Q_MOC_RUN
#include "core/proof/light_cases.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/light_study.h"
#include "core/studies/year_study.h"
#include "tests/house.h"
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {

LightResult lightAt(const Project& p, double error, std::uint64_t seed = 1) {
  Study s;
  s.kind = StudyKind::DaylightFactor;
  s.light.error = error;
  s.light.seed = seed;
  const auto in = lightInput(p, s);
  if (!in) qFatal("%s", in.error().text().c_str());
  RunControl control;
  return runLight(*in, control);
}

void quad(Mesh& m, Vec3 a, Vec3 b, Vec3 c, Vec3 d) {
  const auto n = std::uint32_t(m.points.size());
  m.points.insert(m.points.end(), {a, b, c, d});
  m.triangles.push_back({n, n + 1, n + 2});
  m.triangles.push_back({n, n + 2, n + 3});
}
void put(Project& p, std::uint64_t id, Role role, Mesh mesh) {
  Element e;
  e.id = {id};
  e.name = roleName(role);
  e.role = role;
  auto shared = std::make_shared<const Mesh>(std::move(mesh));
  e.shape = Imported{shared, digestOf(*shared), {}, 0, 1};
  p.elements.push_back(std::make_shared<const Element>(std::move(e)));
}
void grid(Project& p, double x0, double y0, double x1, double y1, double step) {
  std::vector<PointSensor> list;
  for (double y = y0; y < y1; y += step)
    for (double x = x0; x < x1; x += step) list.push_back({{x, y, 0.85}, {0, 0, 1}, ""});
  SensorGroup g;
  g.id = {90};
  g.name = "grid";
  g.layout = list;
  p.groups.push_back(g);
}

/// An L-shaped room as a mesh, no room drawn: a rooflight over one leg, the other round the corner.
Project bentMesh(double step) {
  Project p;
  p.site.groundLevel = -20;
  Mesh floor, walls, ceiling, glass;
  const double h = 3;
  for (const auto& [x0, y0, x1, y1] : {std::array<double, 4>{0, 0, 4, 10}, {4, 0, 12, 4}})
    quad(floor, {x0, y0, 0}, {x1, y0, 0}, {x1, y1, 0}, {x0, y1, 0});
  const std::vector<Vec2> ring{{0, 0}, {12, 0}, {12, 4}, {4, 4}, {4, 10}, {0, 10}};
  for (std::size_t i = 0; i < ring.size(); ++i) {
    const Vec2 a = ring[i], b = ring[(i + 1) % ring.size()];
    quad(walls, {a.x, a.y, 0}, {b.x, b.y, 0}, {b.x, b.y, h}, {a.x, a.y, h});
  }
  quad(ceiling, {4, 0, h}, {12, 0, h}, {12, 4, h}, {4, 4, h});
  quad(ceiling, {0, 0, h}, {4, 0, h}, {4, 8.4, h}, {0, 8.4, h});
  quad(ceiling, {0, 9.4, h}, {4, 9.4, h}, {4, 10, h}, {0, 10, h});
  quad(ceiling, {0, 8.4, h}, {1.5, 8.4, h}, {1.5, 9.4, h}, {0, 9.4, h});
  quad(ceiling, {2.5, 8.4, h}, {4, 8.4, h}, {4, 9.4, h}, {2.5, 9.4, h});
  quad(glass, {1.5, 8.4, h}, {2.5, 8.4, h}, {2.5, 9.4, h}, {1.5, 9.4, h});
  put(p, 1, Role::Floor, std::move(floor));
  put(p, 2, Role::Wall, std::move(walls));
  put(p, 3, Role::Ceiling, std::move(ceiling));
  put(p, 4, Role::Glazing, std::move(glass));
  grid(p, 0.5, 0.5, 4, 10, step);
  auto& list = std::get<std::vector<PointSensor>>(p.groups[0].layout);
  for (double y = 0.5; y < 4; y += step)
    for (double x = 4.5; x < 12; x += step) list.push_back({{x, y, 0.85}, {0, 0, 1}, ""});
  return p;
}

} // namespace

class TestHonestLight : public QObject {
  Q_OBJECT
private slots:
  void aBentRoomBroughtInAsAMeshHoldsItsErrors() {
    const Project p = bentMesh(0.9);
    const LightResult truth = lightAt(p, 0.006, 99);
    int within = 0, all = 0;
    double sum = 0, trueSum = 0;
    for (const std::uint64_t seed : {1u, 2u, 3u, 4u}) {
      const LightResult r = lightAt(p, 0.03, seed);
      for (std::size_t i = 0; i < r.value.size(); ++i) {
        QVERIFY(r.standardError[i] > 0); // never an exact zero
        const double error = std::hypot(double(r.standardError[i]), double(truth.standardError[i]));
        within += std::abs(double(r.value[i]) - double(truth.value[i])) <= 2 * error;
        ++all;
        sum += double(r.value[i]);
        trueSum += double(truth.value[i]);
      }
    }
    QVERIFY2(within >= 0.92 * all && within <= 0.995 * all,
             qPrintable(QString("%1 of %2 within two standard errors").arg(within).arg(all)));
    QVERIFY2(std::abs(sum / trueSum - 1) < 0.01, qPrintable(QString::number(sum / trueSum)));
  }

  void aSmallHoleInAClosedBoxIsFound() {
    BoxRoom box;
    box.size = {4, 4, 3};
    box.roofX0 = 0.2, box.roofX1 = 0.5, box.roofY0 = 0.2, box.roofY1 = 0.5; // 0.3 m, bare
    box.floor = 0.3;
    box.walls = 0.6;
    box.ceiling = 0.7;
    std::vector<PointSensor> spots;
    for (int k = 0; k < 6; ++k) spots.push_back({{0.5 + 0.6 * k, 3.5 - 0.5 * k, 0.8}, {0, 0, 1}, ""});
    spots.push_back({{2, 2, 2.9}, {0, 0, -1}, "ceiling"});
    const Project p = boxProject(box, spots);
    const LightResult r = lightAt(p, 0.02), truth = lightAt(p, 0.004, 7);
    for (std::size_t i = 0; i < spots.size(); ++i) {
      QVERIFY(r.value[i] > 0);
      QVERIFY2(
          std::abs(double(r.value[i] - truth.value[i])) <=
              3 * std::hypot(double(r.standardError[i]), double(truth.standardError[i])) + 0.002,
          qPrintable(
              QString("%1: %2 ± %3 against %4").arg(i).arg(r.value[i]).arg(r.standardError[i]).arg(truth.value[i])));
    }
  }

  void darknessIsToldAsABound() {
    BoxRoom closed;
    closed.floor = closed.walls = closed.ceiling = 0.5;
    const LightResult r = lightAt(boxProject(closed, {{{2, 2, 1}, {0, 0, 1}, ""}}), 0.02);
    QCOMPARE(r.value[0], 0.f);
    QVERIFY(r.standardError[0] > 0 && r.standardError[0] < 0.02);
    QVERIFY(r.samples[0] >= 16384);
    QCOMPARE(r.unsettled, std::size_t(0)); // it was looked for, and the bound is told
  }

  void aRoomWithoutAnOpeningIsExactlyDarkAndCostsNothing() {
    Project p = test::house({.width = 8, .depth = 6, .wall = 0.35, .ratio = 0.3, .spacing = 0.8});
    Room& lit = p.rooms[0];
    Room store = lit;
    store.id = {77};
    store.name = "Store";
    lit.outline = rectangle(0.35, 0.35, 4, 5.65);
    store.outline = rectangle(4.2, 0.35, 7.65, 5.65);
    for (WindowRule& w : p.windowRules) w.rooms = {lit.id};
    Project alone = p;
    p.rooms.push_back(store);
    const LightResult both = lightAt(p, 0.03), one = lightAt(alone, 0.03);
    QVERIFY(both.value.size() > one.value.size() + 12);
    for (std::size_t i = 0; i < both.value.size(); ++i) {
      if (i < one.value.size())
        QVERIFY(both.value[i] > 0 &&
                std::abs(both.value[i] - one.value[i]) <= 4 * std::hypot(both.standardError[i], one.standardError[i]));
      else
        QVERIFY(both.value[i] == 0 && both.standardError[i] == 0 && both.samples[i] == 0);
    }
    QVERIFY(std::none_of(both.replicates.begin(), both.replicates.end(), [](float v) { return std::isnan(v); }));
    // With a window of its own it is as light as any other.
    p.windowRules[0].rooms.clear();
    QVERIFY(lightAt(p, 0.03).value.back() > 0);
  }

  void lightIsChargedToTheRoomsOwnWindow() {
    // A second skin before the window, a balustrade, a canopy of glass: the room's blinds shut what came through all of
    // them.
    Project p = test::houseOfTheYear(1.2);
    for (const auto& [id, corners] :
         {std::pair<std::uint64_t, std::vector<Vec3>>{70, {{-1, -0.8, 0}, {8, -0.8, 0}, {8, -0.8, 4}, {-1, -0.8, 4}}},
          {71, {{-1, -1.5, 0}, {8, -1.5, 0}, {8, -1.5, 1.1}, {-1, -1.5, 1.1}}},
          {72, {{-1, -3, 4.2}, {8, -3, 4.2}, {8, 0, 4.2}, {-1, 0, 4.2}}}}) {
      Element e;
      e.id = {id};
      e.name = "skin " + std::to_string(id);
      e.role = Role::Glazing;
      e.shape = Plate{corners};
      p.elements.push_back(std::make_shared<const Element>(e));
    }
    YearSettings s;
    s.stopFor = StopFor::Nothing;
    s.blinds = BlindRule::Always;
    s.fabricDirect = 0, s.fabricDiffuse = 0; // closed: nothing at all
    const auto in = yearInput(p, {}, s);
    QVERIFY(in.has_value());
    RunControl control;
    const YearResult shut = runYear(*in, control);
    QVERIFY2(shut.building.meanLux < 0.5, qPrintable(QString::number(shut.building.meanLux)));
    s.blinds = BlindRule::Never;
    const auto open = yearInput(p, {}, s);
    const YearResult bright = runYear(*open, control);
    QVERIFY(bright.building.meanLux > 50);
    // By the standard rule the group that closes is the window's.
    s.blinds = BlindRule::Standard;
    const auto by = yearInput(p, {}, s);
    const YearResult ruled = runYear(*by, control);
    std::size_t own = 0, others = 0;
    for (std::size_t k = 1; k < by->groups.size(); ++k)
      (by->groups[k].room == 0 ? own : others) += ruled.closedHours[k];
    QVERIFY(own > 50);
    QCOMPARE(others, std::size_t(0));
  }

  void theBellKeepsTheSunsHeight() {
    // Light of the sun spread over patches gives the level ground what the sun gives it, also low over the horizon.
    const auto sky = hourlySky(test::houseOfTheYear());
    int low = 0;
    for (std::size_t h = 0; h < (*sky)->hours.size(); ++h) {
      if (!((*sky)->beam[h] > 0)) continue;
      double normal = 0, level = 0;
      for (Eigen::SparseMatrix<float>::InnerIterator it((*sky)->spreadBeam, Eigen::Index(h)); it; ++it) {
        const auto b = std::size_t(it.row());
        normal += double(it.value()) * SkyBins::solidAngle(b);
        level += double(it.value()) * SkyBins::solidAngle(b) * SkyBins::mean(b, [](Vec3 d) { return d.z; });
      }
      const double z = (*sky)->sun[h].z;
      QVERIFY(std::abs(normal / double((*sky)->beam[h]) - 1) < 1e-4);
      if (z < std::sin(radians(4.0))) continue; // the lowest row of patches has its middle at 3°
      QVERIFY2(std::abs(level / normal - z) < 0.01 * z + 1e-4,
               qPrintable(QString("%1° gives %2 for %3").arg(degrees(std::asin(z))).arg(level / normal).arg(z)));
      low += z < std::sin(radians(10.0));
    }
    QVERIFY(low > 20);
  }

  void brightHoursOfTheTropicsKeepTheirDiffuseLight() {
    // High sun, all clearnesses: the all-weather formula always gives the diffuse illuminance that it is normalised to.
    for (const double altitude : {60.0, 75.0, 85.0, 89.0})
      for (const double beam : {0.0, 100.0, 300.0, 500.0, 700.0, 900.0})
        for (const double diffuse : {20.0, 60.0, 120.0, 250.0, 400.0}) {
          PerezInput in{beam, diffuse, {std::cos(radians(altitude)), 0, std::sin(radians(altitude))}, 20, 172};
          const SkyLuminance sky = SkyLuminance::perez(in);
          QVERIFY2(std::abs(sky.illuminance({0, 0, 1}) / sky.horizontal() - 1) < 0.01,
                   qPrintable(QString("%1° %2/%3").arg(altitude).arg(beam).arg(diffuse)));
          QVERIFY(sky.zenith() >= 0 && std::isfinite(sky.zenith()));
        }
  }

  void closedClothShinesAsAnOpalPaneUnderTheSun_data() {
    QTest::addColumn<double>("ground");
    QTest::newRow("black ground") << 0.0;
    QTest::newRow("bright ground") << 0.5;
  }
  void closedClothShinesAsAnOpalPaneUnderTheSun() {
    // Fabric that scatters all of what the glass lets through is an opal pane of that transmittance: sun on the ground
    // before it included.
    QFETCH(double, ground);
    Project p = test::houseOfTheYear(1.2);
    p.site.groundReflectance = ground;
    const double tau = 0.4;
    p.glazings = {{"Clear", 0.8, 2}, {"Opal", tau, 0}};
    p.glazings[1].diffuse = 1;
    p.windowRules[0].glazing = "Clear";
    YearSettings s;
    s.stopFor = StopFor::Nothing;
    s.blinds = BlindRule::Always;
    s.fabricDirect = 0;
    s.fabricDiffuse = 0.5;
    s.error = 0.02;
    RunControl control;
    const auto fabric = yearInput(p, {}, s);
    const YearResult a = runYear(*fabric, control);
    Project opal = p;
    opal.windowRules[0].glazing = "Opal";
    s.blinds = BlindRule::Never;
    const auto pane = yearInput(opal, {}, s);
    const YearResult b = runYear(*pane, control);
    // The clear glass lets less through at a slant than its 80 %; the opal pane does not care: compared by what falls
    // through.
    const double clear = GlazingOptics(p.glazings[0]).hemispherical() / 0.8;
    const double ratio = a.building.meanLux / (b.building.meanLux * 0.5 * 0.8 / tau);
    QVERIFY2(ratio > 0.95 * clear && ratio < 1.06,
             qPrintable(QString("%1, hemispherical over straight %2").arg(ratio).arg(clear)));
  }

  void scatteringGlassWithClosedClothIsNotBlack() {
    Project p = test::houseOfTheYear(1.2);
    p.glazings = {{"Opal", 0.5, 0}};
    p.glazings[0].diffuse = 1;
    p.windowRules[0].glazing = "Opal";
    YearSettings s;
    s.stopFor = StopFor::Nothing;
    s.blinds = BlindRule::Never;
    RunControl control;
    const auto open = yearInput(p, {}, s);
    const double bright = runYear(*open, control).building.meanLux;
    s.blinds = BlindRule::Always;
    s.fabricDirect = 0;
    s.fabricDiffuse = 0.2;
    const auto shut = yearInput(p, {}, s);
    const double dim = runYear(*shut, control).building.meanLux;
    QVERIFY2(std::abs(dim / bright - 0.2) < 0.02, qPrintable(QString("%1 of %2 lx").arg(dim).arg(bright)));
  }
};

QTEST_GUILESS_MAIN(TestHonestLight)
#include "tst_honest_light.moc"
