// The sky seen patch by patch, and the sky as energy: closed forms, honest errors, thin things, glass, suns taken
// together.

#ifndef Q_MOC_RUN
#include "core/light/ray_offset.h"
#include "core/light/sampler.h"
#include "core/model/form/edit.h"
#include "core/proof/light_cases.h"
#include "core/sky/hour_input.h"
#include "core/studies/sky_share.h"
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {

std::unique_ptr<LightScene> sceneOf(const Project& p) {
  const auto model = lightModel(p);
  if (!model) throw std::runtime_error(model.error().text());
  return std::make_unique<LightScene>(*model);
}
void put(Project& p, std::uint64_t id, Outline o, double base, double height) {
  Element e;
  e.id = {id};
  e.shape = Mass{std::move(o), base, height, 1};
  p.elements.push_back(std::make_shared<const Element>(std::move(e)));
}
const auto even = [](Vec3) { return 100 / pi; }; // an open level plane gets 100
const auto within = [](double bound) { return [bound](double) { return bound; }; };

/// What a long sum of single rays says, by the cosine.
double byRays(const LightScene& scene, Vec3 at, Vec3 n, int rays) {
  double sum = 0;
  const Vec3 u = normalized(cross(std::abs(n.z) < 0.9 ? Vec3{0, 0, 1} : Vec3{1, 0, 0}, n)), v = cross(n, u);
  for (int k = 0; k < rays; ++k) {
    const ScrambledPoint q(77, std::uint32_t(k));
    const double r = std::sqrt(q[0]), turn = 2 * pi * q[1];
    const Vec3 d = u * (r * std::cos(turn)) + v * (r * std::sin(turn)) + n * std::sqrt(std::max(0.0, 1 - q[0]));
    sum += d.z > 0 && !scene.blocked(at, d, 0, 1e30) ? 1 : 0;
  }
  return 100 * sum / rays;
}

class TestSkyShare : public QObject {
  Q_OBJECT
private slots:
  void manyDirectionsAtOnceAreEachOfThem() {
    std::vector<double> x, y, z;
    HashStream random(11);
    for (int k = 0; k < 1000; ++k) {
      const Vec3 d = k == 0   ? Vec3{0, 0, 1}
                     : k == 1 ? Vec3{1, 0, 0} // the horizon
                              : skyDirection(std::asin(random.next()), 2 * pi * random.next());
      x.push_back(d.x);
      y.push_back(d.y);
      z.push_back(d.z);
    }
    const auto compare = [&](const SkyLuminance& sky) {
      std::vector<double> all(x.size());
      sky.luminances(x, y, z, all);
      for (std::size_t k = 0; k < x.size(); ++k) {
        const double one = sky({x[k], y[k], z[k]});
        QVERIFY2(std::abs(all[k] - one) <= 1e-6 * one + 1e-9,
                 qPrintable(QString("%1: %2 %3").arg(k).arg(all[k]).arg(one)));
      }
    };
    compare(SkyLuminance::uniform(5000));
    compare(SkyLuminance::cieOvercast(5000));
    for (int type = 1; type <= 15; ++type)
      compare(*SkyLuminance::cieGeneral(type, skyDirection(radians(7.0 * (type % 12) + 2), 0.4 * type), 12000));
    for (const double altitude : {1.0, 12.0, 35.0, 60.0, 89.9}) // every bin of clearness
      for (const double beam : {0.0, 20.0, 120.0, 400.0, 850.0}) {
        PerezInput in;
        in.sun = skyDirection(radians(altitude), 1);
        in.directNormal = beam;
        in.diffuseHorizontal = 60 + altitude;
        compare(SkyLuminance::perez(in));
      }
    // Straight at the sun, where the way round the arc is steepest.
    const Vec3 sun = skyDirection(radians(35), 1);
    PerezInput in;
    in.sun = sun;
    in.directNormal = 800;
    in.diffuseHorizontal = 90;
    const SkyLuminance sky = SkyLuminance::perez(in);
    double there = 0;
    sky.luminances(std::span(&sun.x, 1), std::span(&sun.y, 1), std::span(&sun.z, 1), std::span(&there, 1));
    QVERIFY(std::abs(there / sky(sun) - 1) < 1e-6);
  }

  void openPlanesAreExact_data() {
    QTest::addColumn<double>("slope");
    for (double s : {0.0, 20.0, 45.0, 90.0, 120.0}) QTest::newRow(qPrintable(QString::number(s))) << s;
  }
  void openPlanesAreExact() {
    QFETCH(double, slope);
    const auto scene = sceneOf({});
    const SkyShare sky(even, 1);
    const Vec3 n = skyDirection(radians(90 - slope), 0.7);
    const auto seen = sky.at(*scene, {0, 0, 1}, n, 5, within(0.07));
    const double expected = 50 * (1 + std::cos(radians(slope)));
    QVERIFY2(std::abs(seen.value - expected) < 0.03, qPrintable(QString("%1 for %2").arg(seen.value).arg(expected)));
    QVERIFY(std::abs(seen.open - expected) < 0.03);
    QVERIFY(seen.error > 0 && seen.error < 0.06); // never called certain
  }

  void aPlaneThatLooksDownSeesNoSky() {
    const auto scene = sceneOf({});
    const auto seen = SkyShare(even, 1).at(*scene, {0, 0, 1}, {0, 0, -1}, 5, within(0.07));
    QVERIFY(seen.value < 1e-6);
  }

  void behindAWallItIsTheClosedForm() {
    for (const double angle : {10.0, 35.0, 65.0}) {
      Project p;
      put(p, 1, rectangle(-3000, 20, 3000, 22), 0, 20 * std::tan(radians(angle)));
      const auto scene = sceneOf(p);
      const SkyShare sky(even, 3);
      const Vec3 n{0, 1, 0};
      const auto seen = sky.at(*scene, {0, 0, 1e-4}, n, 9, within(0.05));
      const double expected = 50 * (1 - std::sin(radians(angle)));
      QVERIFY2(std::abs(seen.value - expected) < 4 * seen.error + 0.02,
               qPrintable(QString("%1 ± %2 for %3").arg(seen.value).arg(seen.error).arg(expected)));
      QVERIFY(seen.error <= 0.06);
    }
  }

  /// Many places, many seeds: ± 2 errors hold for 95 %, and the mean is not off to one side.
  void errorsAreHonestAndNothingIsBiased() {
    Project p;
    std::uint64_t id = 0;
    for (int i = 0; i < 6; ++i)
      for (int j = 0; j < 6; ++j)
        if (i != 2 || j != 2)
          put(p, ++id, rectangle(20.0 * i, 18.0 * j, 20.0 * i + 9, 18.0 * j + 8), 0, 6 + 3 * ((i + j) % 4));
    for (int k = 0; k < 5; ++k) put(p, ++id, rectangle(41 + 2.0 * k, 33, 41.12 + 2.0 * k, 33.12), 0, 9); // poles
    const auto scene = sceneOf(p);
    int held = 0, all = 0;
    double off = 0, spread = 0;
    for (int place = 0; place < 24; ++place) {
      const Vec3 n = place % 3 ? skyDirection(0, 0.4 * place) : Vec3{0, 0, 1};
      const Vec3 at{40 + 0.45 * place, 36 + 0.3 * place, 0.5 + 0.1 * place};
      const double truth = byRays(*scene, at, n, 1 << 17);
      for (std::uint64_t seed = 1; seed <= 12; ++seed) {
        const auto seen = SkyShare(even, seed).at(*scene, at, n, seed * 131 + std::uint64_t(place), within(0.2));
        held += std::abs(seen.value - truth) <= 2 * std::hypot(seen.error, 0.03);
        off += seen.value - truth;
        spread += seen.error * seen.error;
        ++all;
      }
    }
    QVERIFY2(held >= 0.92 * all, qPrintable(QString("%1 of %2").arg(held).arg(all)));
    QVERIFY2(std::abs(off / all) < 0.03, qPrintable(QString::number(off / all))); // points
    QVERIFY(std::sqrt(spread / all) < 0.3);
  }

  void askedForLessItSendsLess() {
    Project p;
    put(p, 1, rectangle(-30, 10, 30, 14), 0, 12);
    const auto scene = sceneOf(p);
    const SkyShare sky(even, 2);
    const auto rough = sky.at(*scene, {0, 0, 1}, {0, 0, 1}, 4, within(3)),
               fine = sky.at(*scene, {0, 0, 1}, {0, 0, 1}, 4, within(0.03));
    QVERIFY(rough.rays < 700);
    QVERIFY(fine.rays > 2 * rough.rays);
    QVERIFY(fine.error < rough.error);
  }

  void noMoreRaysThanAsked() {
    Project p;
    put(p, 1, rectangle(-30, 10, 30, 14), 0, 12);
    const auto scene = sceneOf(p);
    const auto few = SkyShare(even, 2).at(*scene, {0, 0, 1}, {0, 0, 1}, 4, within(1e-3), 64);
    QVERIFY2(few.rays <= SkyBins::count, qPrintable(QString::number(few.rays))); // the first look alone
    QVERIFY(few.error > 0.07);                                                   // and it says what it is worth
  }

  void aClosedBoxSaysAtMostHowMuch() {
    Project p;
    put(p, 1, rectangle(-5, -5, 5, 5), 0, 4);
    const auto scene = sceneOf(p);
    const auto seen = SkyShare(even, 2).at(*scene, {0, 0, 1}, {0, 0, 1}, 4, within(0.07));
    QCOMPARE(seen.value, 0.0);
    QVERIFY(seen.error > 0 && seen.error < 0.5); // never an exact zero
  }

  void glassOverheadTakesItsShare() {
    Project p;
    p.glazings = {{"Pane", 0.5, 1}};
    Element e;
    e.id = {1};
    e.role = Role::Glazing;
    e.finish = "Pane";
    e.shape = Plate{{{-900, -900, 4}, {900, -900, 4}, {900, 900, 4}, {-900, 900, 4}}};
    p.elements.push_back(std::make_shared<const Element>(std::move(e)));
    const auto scene = sceneOf(p);
    const auto seen = SkyShare(even, 2).at(*scene, {0, 0, 1}, {0, 0, 1}, 4, within(0.3));
    QVERIFY2(seen.value < 50 && seen.value > 38, qPrintable(QString::number(seen.value))); // oblique sky loses more
  }

  void theSameKeyGivesTheSameBits() {
    Project p;
    put(p, 1, rectangle(-30, 10, 30, 14), 0, 12);
    const auto scene = sceneOf(p);
    const SkyShare sky(even, 2);
    const auto a = sky.at(*scene, {0, 0, 1}, {0, 0, 1}, 4, within(0.07)),
               b = sky.at(*scene, {0, 0, 1}, {0, 0, 1}, 4, within(0.07));
    QCOMPARE(a.value, b.value);
    QCOMPARE(a.error, b.error);
    QVERIFY(sky.at(*scene, {0, 0, 1}, {0, 0, 1}, 5, within(0.07)).value != a.value);
  }

  // ---- the sky as energy
  void sunsTakenTogetherKeepTheirSum() {
    const auto weather = madeUpYear({radians(52), 0, 0});
    const std::vector<bool> all(8760, true);
    const auto each = RadiantSky::ofHours(*weather, all, 0.3, 2026, 0),
               some = RadiantSky::ofHours(*weather, all, 0.3, 2026);
    QVERIFY(each && some);
    QVERIFY2(some->suns().size() < 0.6 * each->suns().size(), qPrintable(QString::number(some->suns().size())));
    for (const Vec3 n : {Vec3{0, 0, 1}, normalized(Vec3{0.1, 0.2, 0.97})}) // planes that see all of them
      QVERIFY(std::abs(some->beamOn(n) - each->beamOn(n)) < 2e-4 * each->beamOn(n));
    QCOMPARE(some->diffuse(), each->diffuse());
  }

  void itsPlanesAddUpAndItsPickIsByEnergy() {
    const auto weather = madeUpYear({radians(40), 0, 0});
    const auto sky = RadiantSky::ofHours(*weather, std::vector<bool>(8760, true), 0, 2026);
    QVERIFY(sky.has_value());
    QVERIFY(std::abs(sky->diffuseOn({0, 0, 1}) - sky->diffuse()) < 2e-4 * sky->diffuse());
    Vec3 mean{}, wanted{};
    constexpr int n = 40000;
    for (int k = 0; k < n; ++k) mean = mean + sky->pick((k + 0.5) / n) * (1.0 / n);
    for (const RadiantSky::Sun& s : sky->suns()) wanted = wanted + s.direction * (s.energy / sky->beam());
    QVERIFY2(length(mean - wanted) < 2e-3, qPrintable(QString::number(length(mean - wanted))));
    QCOMPARE(sky->pick(0), sky->suns().front().direction);
    QCOMPARE(sky->pick(0.9999999999), sky->suns().back().direction);
  }

  void hoursLeftOutBringNothing() {
    const auto weather = madeUpYear({radians(52), 0, 0});
    std::vector<bool> night(8760, false);
    for (std::size_t i = 0; i < 8760; i += 24) night[i] = true;
    const auto dark = RadiantSky::ofHours(*weather, night, 0, 2026);
    QVERIFY(dark.has_value());
    QCOMPARE(dark->horizontal(), 0.0);
    QVERIFY(dark->suns().empty());
    QCOMPARE(dark->hours(), std::size_t(0));
  }

  void anHourWithoutRadiationIsNamed() {
    WeatherHour h;
    h.month = 5;
    h.day = 7;
    h.hour = 14;
    h.values.fill(0);
    h[WeatherField::DirectNormal] = NAN;
    const auto in = perezOf(h, {}, 0);
    QVERIFY(!in);
    QVERIFY2(QString::fromStdString(in.error().text()).contains("hour 14 of 7 May"), in.error().text().c_str());
    h[WeatherField::DirectNormal] = -3; // as some files write for nothing
    h[WeatherField::DiffuseHorizontal] = -1;
    const auto none = perezOf(h, {true, {}}, 0);
    QVERIFY(none && none->directNormal == 0 && none->diffuseHorizontal == 0);
  }
};

} // namespace

QTEST_GUILESS_MAIN(TestSkyShare)
#include "tst_sky_share.moc"
