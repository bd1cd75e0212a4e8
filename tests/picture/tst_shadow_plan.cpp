// Shadow plans: closed forms, rays against polygons, what is new, how long it lasts, and what leaves as a file.

#ifndef Q_MOC_RUN
#include "core/base/json.h"
#include "core/files/results/shadow_files.h"
#include "core/light/scene.h"
#include "core/model/form/edit.h"
#include "core/studies/shadow_plan.h"
#include "picture/shadow_page.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

constexpr const char* noonUtc = "2026-03-21T11:00";

Project site() {
  Project p;
  p.name = "Site";
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  p.site.northAngle = radians(12);
  return p;
}
Element& put(Project& p, std::uint64_t id, Shape shape, Role role = Role::Neighbour, bool proposed = false) {
  Element e;
  e.id = {id};
  e.name = "E" + std::to_string(id);
  e.role = role;
  e.proposed = proposed;
  e.shape = std::move(shape);
  auto held = std::make_shared<Element>(std::move(e));
  p.elements.push_back(held);
  return *held;
}
Instant at(const Project& p, const char* stamp) {
  return p.zone().instant(stampFromText(stamp)->time);
}
ShadowPlan planOf(const Project& p, std::vector<Instant> moments, bool roofs = false, double hours = 1) {
  RunControl control;
  auto plan = shadowPlan(p, {std::move(moments), hours, roofs, {}}, control);
  if (!plan) throw std::runtime_error(plan.error().text());
  return std::move(*plan);
}
/// Where the shadow of a point one metre up falls.
Vec2 castOf(const Project& p, Instant t) {
  const Vec3 s = toModel(solarPosition(sunOfDate(t), p.site.place).direction, p.site.northAngle);
  return {-s.x / s.z, -s.y / s.z};
}
Vec3 sunOf(const Project& p, Instant t) {
  return toModel(solarPosition(sunOfDate(t), p.site.place).direction, p.site.northAngle);
}
std::string faultOf(const Project& p, const ShadowPlanSettings& s) {
  RunControl control;
  const auto plan = shadowPlan(p, s, control);
  return plan ? std::string() : plan.error().text();
}
/// A little quarter: courts, a gable, a set-back top, something on stilts.
Project quarter() {
  Project p = site();
  Outline court = rectangle(0, 0, 40, 30);
  court.holes.push_back({{10, 8}, {10, 22}, {30, 22}, {30, 8}});
  put(p, 1, Mass{court, 0, 14, 4});
  put(p, 2, Mass{rectangle(55, 5, 70, 28), 0, 9, 3});
  put(p, 3, Mass{rectangle(-30, -10, -12, 20), 0, 6, 2});
  put(p, 4, Mass{rectangle(10, 50, 50, 62), 0, 11, 3});
  put(p, 5, Mass{rectangle(5, -30, 25, -20), 4, 8, 2}); // on stilts
  put(p, 6, Mass{rectangle(60, 50, 75, 70), 0, 20, 6}, Role::Building, true);
  return p;
}

class TestShadowPlan : public QObject {
  Q_OBJECT
private slots:
  void aBoxByItsClosedForm_data() {
    QTest::addColumn<QString>("when");
    for (const char* t : {"2026-03-21T09:10", noonUtc, "2026-06-21T13:20", "2026-12-21T12:30", "2026-09-01T17:40"})
      QTest::newRow(t) << t;
  }
  void aBoxByItsClosedForm() {
    QFETCH(QString, when);
    Project p = site();
    put(p, 1, Mass{rectangle(3, -4, 15, 5), 0, 10, 3});
    const Instant t = at(p, qPrintable(when));
    const ShadowPlan plan = planOf(p, {t});
    const Vec2 v = castOf(p, t) * 10.0;
    const double expected = std::abs(v.x) * 9 + std::abs(v.y) * 12; // swept beside its foot
    QVERIFY2(std::abs(plan.moments[0].ground.allArea - expected) < 1e-4 * expected,
             qPrintable(QString("%1 for %2").arg(plan.moments[0].ground.allArea).arg(expected)));
    QVERIFY(!plan.hasProposal);
    QCOMPARE(plan.moments[0].ground.freshArea, 0.0);
  }

  void whatFloatsCastsItsWholeOutline() {
    Project p = site();
    put(p, 1, Mass{rectangle(0, 0, 8, 6), 5, 2, 1});
    const Instant t = at(p, noonUtc);
    const Vec2 v = castOf(p, t) * 2.0;
    const double expected = 48 + std::abs(v.x) * 6 + std::abs(v.y) * 8; // nothing stands on the ground
    const double got = planOf(p, {t}).moments[0].ground.allArea;
    QVERIFY2(std::abs(got - expected) < 1e-4 * expected, qPrintable(QString::number(got)));
  }

  void raysSayTheSame_data() {
    QTest::addColumn<QString>("when");
    for (const char* t : {"2026-03-21T10:00", "2026-06-21T17:30", "2026-12-21T11:15"}) QTest::newRow(t) << t;
  }
  void raysSayTheSame() {
    QFETCH(QString, when);
    const Project p = quarter();
    const Instant t = at(p, qPrintable(when));
    const ShadowPlan plan = planOf(p, {t});
    const Scene now = buildScene(p), before = buildScene(p, {false, {}});
    const Vec3 sun = sunOf(p, t);
    std::mt19937 random(5);
    std::uniform_real_distribution<double> x(-60, 110), y(-60, 130);
    const auto under = [&](Vec2 q) {
      for (const ElementPtr& e : p.elements)
        if (const Mass* m = e->mass(); m->base == 0 && contains(m->outline, q)) return true;
      return false;
    };
    int wrong = 0, wrongBefore = 0, wrongFresh = 0, all = 0;
    for (int k = 0; k < 40000; ++k) {
      const Vec2 q{x(random), y(random)};
      if (under(q)) continue;
      ++all;
      const bool dark = now.hidden({q.x, q.y, 0}, sun), was = before.hidden({q.x, q.y, 0}, sun);
      wrong += dark != contains(plan.moments[0].ground.all, q);
      wrongBefore += was != contains(plan.moments[0].ground.before, q);
      wrongFresh += (dark && !was) != contains(plan.moments[0].ground.fresh, q);
    }
    QVERIFY2(wrong <= 0.0005 * all, qPrintable(QString("%1 of %2").arg(wrong).arg(all)));
    QVERIFY2(wrongBefore <= 0.0005 * all, qPrintable(QString("%1 of %2").arg(wrongBefore).arg(all)));
    QVERIFY2(wrongFresh <= 0.0005 * all, qPrintable(QString("%1 of %2").arg(wrongFresh).arg(all)));
  }

  void roofsReceive() {
    Project p = site();
    put(p, 1, Mass{rectangle(0, 0, 30, 30), 0, 5, 1});
    put(p, 2, Mass{rectangle(10, -8, 20, 0), 0, 25, 6}, Role::Building, true);
    const Instant t = at(p, "2026-03-21T12:00");
    const ShadowPlan plan = planOf(p, {t}, true);
    const Scene scene = buildScene(p);
    const Vec3 sun = sunOf(p, t);
    int wrong = 0;
    for (int i = 0; i < 150; ++i)
      for (int j = 0; j < 150; ++j) {
        const Vec2 q{30 * (i + 0.5) / 150, 30 * (j + 0.5) / 150};
        wrong += scene.hidden({q.x, q.y, 5}, sun) != contains(plan.moments[0].roofs.all, q);
      }
    QVERIFY2(wrong < 20, qPrintable(QString::number(wrong)));
    QVERIFY(plan.moments[0].roofs.freshArea > 50);
    QVERIFY(std::abs(plan.moments[0].roofs.freshArea - plan.moments[0].roofs.allArea) < 0.1); // all of it is new
    QCOMPARE(plan.moments[0].roofs.beforeArea, 0.0);
  }

  void slopingRoofsReceive() {
    Project p = site();
    Mass low{rectangle(0, 0, 20, 14), 0, 5, 1};
    low.roof.kind = Roof::Kind::Gable;
    low.roof.rise = 4;
    put(p, 1, low);
    put(p, 2, Mass{rectangle(2, -9, 8, -3), 0, 22, 6});
    const Instant t = at(p, "2026-04-21T13:00");
    const ShadowPlan plan = planOf(p, {t}, true);
    const Scene scene = buildScene(p);
    const Vec3 sun = sunOf(p, t);
    int wrong = 0, dark = 0;
    for (int i = 0; i < 120; ++i)
      for (int j = 0; j < 90; ++j) {
        const Vec2 q{20 * (i + 0.5) / 120, 14 * (j + 0.5) / 90};
        const RayHit roof = scene.firstHit({q.x, q.y, 80}, {0, 0, -1});
        const Vec3 on{q.x, q.y, 80 - roof.distance};
        const bool hidden = scene.hidden(on + roof.normal * 1e-3, sun) || dot(roof.normal, sun) <= 0;
        dark += hidden;
        wrong += hidden != contains(plan.moments[0].roofs.all, q);
      }
    QVERIFY2(dark > 100 && wrong < 0.005 * 120 * 90, qPrintable(QString("%1 wrong, %2 dark").arg(wrong).arg(dark)));
  }

  void terrainReceives() {
    Project p = site();
    p.site.groundLevel = -50;
    auto mesh = std::make_shared<Mesh>();
    for (int i = 0; i <= 8; ++i)
      for (int j = 0; j <= 8; ++j) {
        const double x = -80 + 20.0 * i, y = -80 + 20.0 * j;
        mesh->points.push_back({x, y, 3 * std::sin(x / 40) + 0.05 * y});
      }
    for (std::uint32_t i = 0; i < 8; ++i)
      for (std::uint32_t j = 0; j < 8; ++j) {
        const std::uint32_t a = 9 * i + j, b = a + 9;
        mesh->triangles.push_back({a, b, b + 1});
        mesh->triangles.push_back({a, b + 1, a + 1});
      }
    Imported ground;
    ground.mesh = mesh;
    put(p, 1, ground, Role::Ground);
    put(p, 2, Mass{rectangle(-6, -6, 6, 6), -8, 26, 5}, Role::Building, true);
    const Instant t = at(p, "2026-03-21T14:30");
    const ShadowPlan plan = planOf(p, {t});
    QVERIFY(plan.hasTerrain);
    const Scene scene = buildScene(p);
    const Vec3 sun = sunOf(p, t);
    std::mt19937 random(9);
    std::uniform_real_distribution<double> u(-78, 78);
    int wrong = 0, dark = 0, all = 0;
    for (int k = 0; k < 20000; ++k) {
      const Vec2 q{u(random), u(random)};
      if (std::abs(q.x) < 6.5 && std::abs(q.y) < 6.5) continue;
      const RayHit hit = scene.firstHit({q.x, q.y, 90}, {0, 0, -1});
      if (!hit.hit() || hit.role != Role::Ground) continue;
      const bool hidden = scene.hidden({q.x, q.y, 90 - hit.distance + 2e-3}, sun);
      ++all;
      dark += hidden;
      wrong += hidden != contains(plan.moments[0].ground.all, q);
    }
    QVERIFY2(all > 15000 && dark > 200 && wrong <= 0.002 * all,
             qPrintable(QString("%1 wrong of %2, %3 dark").arg(wrong).arg(all).arg(dark)));
    QVERIFY(std::abs(plan.moments[0].ground.freshArea - plan.moments[0].ground.allArea) < 0.5);
  }

  void groundInManyFacesIsGroundToo() {
    // Level terrain in 800 triangles, askew to everything, is the level ground.
    Project p = quarter();
    const ShadowPlan plain = planOf(p, {at(p, noonUtc), at(p, "2026-06-21T07:10")});
    Mesh mesh;
    const int n = 20;
    for (int i = 0; i <= n; ++i)
      for (int j = 0; j <= n; ++j) mesh.points.push_back({-157.3 + 17.1 * i + 1.7 * j, -151.9 + 16.3 * j - 2.1 * i, 0});
    const auto k = [&](int i, int j) { return std::uint32_t(i * (n + 1) + j); };
    for (int i = 0; i < n; ++i)
      for (int j = 0; j < n; ++j) {
        mesh.triangles.push_back({k(i, j), k(i + 1, j), k(i + 1, j + 1)});
        mesh.triangles.push_back({k(i, j), k(i + 1, j + 1), k(i, j + 1)});
      }
    for (std::uint32_t t = 0; t < mesh.triangles.size(); ++t) mesh.face.push_back(t);
    auto shared = std::make_shared<const Mesh>(std::move(mesh));
    put(p, 90, Imported{shared, digestOf(*shared), {}, 0, 1}, Role::Ground);
    const ShadowPlan faces = planOf(p, {at(p, noonUtc), at(p, "2026-06-21T07:10")});
    QVERIFY(faces.hasTerrain && !plain.hasTerrain);
    for (std::size_t m = 0; m < 2; ++m) {
      const auto same = [](double a, double b) { return std::abs(a - b) < 1e-4 * std::max(1.0, a); };
      const ShadowOn &a = plain.moments[m].ground, &b = faces.moments[m].ground;
      QVERIFY2(same(a.allArea, b.allArea), qPrintable(QString("%1 %2").arg(a.allArea).arg(b.allArea)));
      QVERIFY(same(a.beforeArea, b.beforeArea) && same(a.freshArea, b.freshArea));
      for (const Outline& o : b.fresh) QVERIFY(area(o) > 1e-3 * perimeter(o.outer)); // no seams between faces
    }
  }

  void areasAloneAreMeasuredAsInTheWholePlan() {
    Project p = quarter();
    SensorGroup g;
    g.id = {77};
    g.name = "Yard";
    GroundArea area;
    area.outline = {{{-8, 30}, {35, 34}, {30, 62}, {-4, 55}}, {}};
    g.layout = area;
    p.groups.push_back(g);
    RunControl control;
    ShadowPlanSettings s;
    s.moments = stepMoments(p, {2026, 3, 21}, 8 * 60, 17 * 60, 60);
    s.areas = {{77}};
    const auto whole = shadowPlan(p, s, control);
    s.onlyAreas = true;
    const auto alone = shadowPlan(p, s, control);
    QVERIFY(whole && alone && !(whole->key == alone->key));
    bool any = false;
    for (std::size_t m = 0; m < whole->moments.size(); ++m) {
      const ShadowArea &a = whole->moments[m].areas[0], &b = alone->moments[m].areas[0];
      // Outlines are kept to 0.1 mm, and here run for some 50 m.
      const double most =
          std::max({std::abs(a.all - b.all), std::abs(a.before - b.before), std::abs(a.fresh - b.fresh)});
      QVERIFY2(most < 5e-3, qPrintable(QString("%1: %2 %3, %4 %5, %6 %7")
                                           .arg(m)
                                           .arg(a.all)
                                           .arg(b.all)
                                           .arg(a.before)
                                           .arg(b.before)
                                           .arg(a.fresh)
                                           .arg(b.fresh)));
      any |= a.all > 1 && a.all < a.area - 1;
    }
    QVERIFY(any);
  }

  void glazingCastsNoneAndTreesTheirCrown() {
    Project p = site();
    Plate pane{{{0, 0, 4}, {5, 0, 4}, {5, 5, 4}, {0, 5, 4}}};
    p.glazings = {{"Pane", 0.7, 2}};
    put(p, 1, pane, Role::Glazing).finish = "Pane";
    const Instant t = at(p, noonUtc);
    QCOMPARE(planOf(p, {t}).moments[0].ground.allArea, 0.0);
    Tree tree;
    tree.foot = {30, 0, 0};
    put(p, 2, tree, Role::Planting);
    const double inLeaf = planOf(p, {t}).moments[0].ground.allArea;
    QVERIFY2(inLeaf > 20 && inLeaf < 120, qPrintable(QString::number(inLeaf)));
  }

  void aLowSunCastsNothing() {
    Project p = quarter();
    const ShadowPlan plan = planOf(p, {at(p, "2026-03-21T06:15"), at(p, "2026-03-21T02:00")});
    for (const ShadowMoment& m : plan.moments) {
      QVERIFY(!m.up);
      QCOMPARE(m.ground.allArea, 0.0);
    }
  }

  void newIsWhatWasNotBefore() {
    const Project p = quarter();
    const ShadowPlan plan = planOf(p, stepMoments(p, {2026, 3, 21}, 8 * 60, 17 * 60, 60));
    QCOMPARE(plan.moments.size(), std::size_t(9));
    for (const ShadowMoment& m : plan.moments) {
      QVERIFY(m.ground.freshArea > 0);
      QVERIFY(area(regionCommon(m.ground.fresh, m.ground.before)) < 0.05);
      // All that is dark now was dark before, or is new.
      QVERIFY(std::abs(area(regionMinus(regionMinus(m.ground.all, m.ground.before), m.ground.fresh))) < 0.05);
    }
  }

  void timesInShadowAddUp() {
    const Project p = quarter();
    const ShadowPlan plan = planOf(p, stepMoments(p, {2026, 3, 21}, 9 * 60, 15 * 60, 30), false, 0.5);
    QVERIFY(plan.lasting.size() > 1);
    double counted = 0, moments = 0, last = 1e9;
    for (const Region& r : plan.lasting) {
      const double a = area(r);
      QVERIFY(a <= last + 0.01);
      last = a;
      counted += a;
    }
    for (const ShadowMoment& m : plan.moments) moments += m.ground.freshArea;
    QVERIFY2(std::abs(counted - moments) < 0.001 * moments, qPrintable(QString("%1 %2").arg(counted).arg(moments)));
    QVERIFY(std::abs(plan.freshAreaHours() - 0.5 * moments) < 1e-6 * moments);
  }

  void areasAreMeasuredApart() {
    Project p = quarter();
    SensorGroup g;
    g.id = {40};
    g.name = "Green";
    GroundArea area;
    area.outline = rectangle(76, 50, 110, 90);
    g.layout = area;
    p.groups.push_back(g);
    const ShadowPlan plan = planOf(p, stepMoments(p, {2026, 3, 21}, 9 * 60, 18 * 60, 60));
    double sum = 0, most = 0;
    for (const ShadowMoment& m : plan.moments) {
      QCOMPARE(m.areas.size(), std::size_t(1));
      QVERIFY(m.areas[0].fresh <= m.ground.freshArea + 1e-6);
      QVERIFY(std::abs(m.areas[0].area - 34 * 40) < 1e-6);
      sum += m.areas[0].fresh;
      most = std::max(most, m.areas[0].fresh);
    }
    QVERIFY(sum > 0);
    QVERIFY(std::abs(plan.freshAreaHours({40}) - sum) < 1e-9 * sum);
    QCOMPARE(plan.mostFresh({40}), most);
    QCOMPARE(plan.mostFresh({41}), 0.0);
  }

  void stepsAreLookedAtInTheirMiddle() {
    const Project p = site();
    const auto steps = stepMoments(p, {2026, 7, 1}, 9 * 60, 15 * 60, 60);
    QCOMPARE(steps.size(), std::size_t(6));
    QCOMPARE(p.zone().clock(steps[0]).seconds, 9.5 * 3600);
    QCOMPARE(p.zone().clock(steps[5]).seconds, 14.5 * 3600);
  }

  void farFromTheOriginItIsTheSame() {
    Project near = site(), far = site();
    put(near, 1, Mass{rectangle(0, 0, 12, 9), 0, 10, 3});
    put(far, 1, Mass{rectangle(4000, -3000, 4012, -2991), 0, 10, 3});
    const Instant t = at(near, noonUtc);
    QVERIFY(std::abs(planOf(near, {t}).moments[0].ground.allArea - planOf(far, {t}).moments[0].ground.allArea) < 0.05);
  }

  void messyMeshesCastToo() {
    Project p = site();
    auto mesh = std::make_shared<Mesh>();
    mesh->points = {{0, 0, 5}, {4, 0, 5}, {4, 4, 5}, {0, 4, 5}, {2, 2, 5}, {2, 2, 5}};
    mesh->triangles = {{0, 1, 2}, {2, 1, 0}, {0, 2, 3}, {4, 5, 0}, {0, 0, 1}}; // doubled, without area
    Imported in;
    in.mesh = mesh;
    put(p, 1, in);
    const Instant t = at(p, noonUtc);
    QVERIFY(std::abs(planOf(p, {t}).moments[0].ground.allArea - 16) < 0.01);
  }

  void whatCantBeCastIsRefused() {
    Project p = quarter();
    QVERIFY(QString::fromStdString(faultOf(p, {})).contains("needs a moment"));
    SensorGroup g;
    g.id = {41};
    g.name = "Point";
    g.layout = std::vector<PointSensor>{{{0, 0, 0}, {0, 0, 1}, ""}};
    p.groups.push_back(g);
    QVERIFY(
        QString::fromStdString(faultOf(p, {{at(p, noonUtc)}, 1, false, {{41}}})).contains("is no area on the ground"));
    p.site.zone = "Nowhere/Town";
    QVERIFY(!faultOf(p, {{utc({{2026, 3, 21}, 39600})}, 1, false, {}}).empty());
  }

  void stoppedItTellsHowFarItCame() {
    const Project p = quarter();
    RunControl control;
    control.progress = [&](double share) {
      if (share > 0.3) control.wish = Wish::Enough;
    };
    const auto plan = shadowPlan(p, {stepMoments(p, {2026, 3, 21}, 8 * 60, 17 * 60, 30), 0.5, false, {}}, control);
    QVERIFY(plan.has_value());
    QCOMPARE(plan->end, RunEnd::Enough);
    QVERIFY(plan->moments.size() > 2 && plan->moments.size() < 18);
  }

  // ---- out

  void geoJsonKeepsTheArea() {
    const Project p = quarter();
    const ShadowPlan plan = planOf(p, {at(p, noonUtc)});
    for (const bool local : {false, true}) {
      const Json j = Json::parse(shadowGeoJson(p, plan, local));
      QCOMPARE(QString::fromStdString(j["type"].get<std::string>()), QString("FeatureCollection"));
      int states = 0;
      for (const Json& f : j["features"]) {
        double sum = 0;
        for (const Json& polygon : f["geometry"]["coordinates"])
          for (std::size_t k = 0; k < polygon.size(); ++k) {
            QVERIFY(polygon[k].front() == polygon[k].back()); // closed
            Ring r;
            const double lat = 55.6 * radiansPerDegree;
            for (const Json& q : polygon[k]) {
              const double x = q[0].get<double>(), y = q[1].get<double>();
              r.push_back(
                  local ? Vec2{x, y}
                        : Vec2{(x - 12.5) * 111412.84 * std::cos(lat) * (1 + 0.00335 * std::sin(lat) * std::sin(lat)),
                               (y - 55.6) * 111320});
            }
            sum += (k == 0 ? 1 : -1) * std::abs(signedArea(r));
          }
        const double told = f["properties"]["area_m2"].get<double>();
        QVERIFY2(std::abs(sum - told) < (local ? 1e-4 : 0.005) * told,
                 qPrintable(QString("%1 for %2").arg(sum).arg(told)));
        states += f["properties"]["state"] == "net new" ? 1 : 0;
      }
      QCOMPARE(states, 1);
    }
  }

  void dxfAndTableTellEveryMoment() {
    const Project p = quarter();
    const ShadowPlan plan = planOf(p, stepMoments(p, {2026, 3, 21}, 7 * 60 + 30, 16 * 60 + 30, 180), true);
    const QString dxf = QString::fromStdString(shadowDxf(p, plan));
    QVERIFY(dxf.contains("net new 2026-03-21 9:00") && dxf.contains("shadow 2026-03-21 9:00"));
    QVERIFY(dxf.endsWith("0\nEOF\n"));
    QCOMPARE(dxf.count("POLYLINE\n"), dxf.count("SEQEND\n"));
    const QStringList rows = QString::fromStdString(shadowCsv(p, plan)).split('\n', Qt::SkipEmptyParts);
    QVERIFY(rows.size() >= 1 + 3);
    QCOMPARE(rows[1].split(',').size(), rows[0].split(',').size());
  }

  void theSheetIsPainted() {
    QTemporaryDir folder;
    const Project p = quarter();
    const ShadowPlan plan = planOf(p, stepMoments(p, {2026, 3, 21}, 9 * 60, 15 * 60, 60));
    for (const char* name : {"a.pdf", "a.svg", "a.png"}) {
      const std::filesystem::path file = folder.filePath(name).toStdString();
      const Outcome o = writeShadowPage({&p, &plan, "Site · shadow plan 21 Mar"}, file);
      QVERIFY2(o.has_value(), o ? "" : o.error().text().c_str());
      QVERIFY(std::filesystem::file_size(file) > 4000);
    }
    const QImage image(folder.filePath("a.png"));
    int madder = 0;
    for (int y = 0; y < image.height(); y += 4)
      for (int x = 0; x < image.width(); x += 4) {
        const QColor c = image.pixelColor(x, y);
        madder += c.red() > c.green() + 50 && c.red() > c.blue() + 50;
      }
    QVERIFY2(madder > 200, qPrintable(QString::number(madder))); // what is new is seen
    QVERIFY(!writeShadowPage({&p, &plan, "x"}, folder.filePath("a.txt").toStdString()));
  }
};

} // namespace

QTEST_MAIN(TestShadowPlan)
#include "tst_shadow_plan.moc"
