// Glare against closed forms: the position index, the formula, sources taken together, fisheyes of skies and rooms.

#ifndef Q_MOC_RUN
#include "core/files/results/luminance_exr.h"
#include "core/light/light_paths.h"
#include "core/proof/light_cases.h"
#include "core/studies/fisheye.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

constexpr double degree = pi / 180;

/// To the right and up from the line of sight along +y, degrees.
Vec3 off(double right, double up) {
  const double a = right * degree, h = up * degree;
  return {std::cos(h) * std::sin(a), std::cos(h) * std::cos(a), std::sin(h)};
}

Project outdoors() {
  Project p;
  p.id = ProjectId{5};
  p.site.place = {radians(52), 0, 0};
  p.site.zone = "UTC";
  p.site.groundReflectance = 0.2;
  return p;
}

SkyChoice uniform(double lux = 10000) {
  SkyChoice c;
  c.kind = SkyKind::Uniform;
  c.diffuse = lux;
  return c;
}

Expected<Fisheye> seen(const Project& p, FisheyeSettings s, const SkyChoice& sky = uniform(),
                       std::optional<Instant> moment = {}) {
  RunControl control;
  return fisheye(p, s, sky, moment, control);
}

FisheyeSettings eyeAt(Vec3 at, double azimuth, double altitude, int pixels = 128) {
  FisheyeSettings s;
  s.eye = at;
  s.azimuth = radians(azimuth);
  s.altitude = radians(altitude);
  s.pixels = pixels;
  return s;
}

} // namespace

class TestGlare : public QObject {
  Q_OBJECT
private slots:
  void thePositionIndexIsThatOfThePaper_data() {
    QTest::addColumn<double>("right");
    QTest::addColumn<double>("up");
    QTest::addColumn<double>("index");
    QTest::newRow("ahead") << 0.0 << 0.0 << 1.0;
    // Straight up tau is 0: ln P = (35.2 − 1.22) σ/1000 + 21 σ²/100000.
    QTest::newRow("30° above") << 0.0 << 30.0 << std::exp(33.98e-3 * 30 + 21e-5 * 900);
    QTest::newRow("10° above") << 0.0 << 10.0 << std::exp(33.98e-3 * 10 + 21e-5 * 100);
    // To the side tau is 90°.
    const double near = 35.2 - 0.31889 * 90 - 1.22 * std::exp(-20.0), far = 21 + 0.26667 * 90 - 0.002963 * 8100;
    QTest::newRow("30° aside") << 30.0 << 0.0 << std::exp(near * 1e-3 * 30 + far * 1e-5 * 900);
    QTest::newRow("30° aside, left") << -30.0 << 0.0 << std::exp(near * 1e-3 * 30 + far * 1e-5 * 900);
    // Below: R/D is the tangent straight down; 0.8 of it up to 0.6, 1.2 beyond.
    QTest::newRow("20° below") << 0.0 << -20.0 << 1 + 0.8 * std::tan(20 * degree);
    QTest::newRow("45° below") << 0.0 << -45.0 << 1 + 1.2;
  }
  void thePositionIndexIsThatOfThePaper() {
    QFETCH(double, right);
    QFETCH(double, up);
    QFETCH(double, index);
    const double got = positionIndex(off(right, up), EyeFrame{});
    QVERIFY2(std::abs(got - index) < 1e-9 * index, qPrintable(QString("%1 %2").arg(got).arg(index)));
  }

  void behindTheEyeNothingGlares() {
    QVERIFY(std::isinf(positionIndex({0, -1, 0}, EyeFrame{})));
    QVERIFY(std::isinf(positionIndex({1, 0, 0}, EyeFrame{})));
    QVERIFY(positionIndex(off(0, 60), EyeFrame{}) > positionIndex(off(0, 20), EyeFrame{}));
    // The head turns with the line of sight.
    const EyeFrame up = EyeFrame::along({0, 0, 1}), west = EyeFrame::along({-1, 0, 0});
    for (const EyeFrame& e : {up, west}) {
      QVERIFY(std::abs(dot(e.right, e.forward)) < 1e-12 && std::abs(dot(e.up, e.forward)) < 1e-12);
      QVERIFY(length(cross(e.right, e.forward) - e.up) < 1e-12);
      QVERIFY(std::abs(positionIndex(e.forward, e) - 1) < 1e-9);
    }
    QCOMPARE(west.right, (Vec3{0, 1, 0}));
    QVERIFY(std::abs(positionIndex(normalized(west.forward + west.up), west) - positionIndex(off(0, 45), EyeFrame{})) <
            1e-9);
  }

  void theFormulaByHand() {
    // Ev 3000 lx, one source of 20 000 cd/m² and 0.05 sr at P = 2.
    const GlareSource s{20000, 0.05, {0, 1, 0}, 2, false};
    const double byHand = 5.87e-5 * 3000 + 9.18e-2 * std::log10(1 + 4e8 * 0.05 / (std::pow(3000, 1.87) * 4)) + 0.16;
    QVERIFY(std::abs(daylightGlareProbability(3000, std::vector{s}) - byHand) < 1e-12);
    QCOMPARE(daylightGlareProbability(3000, {}), 5.87e-5 * 3000 + 0.16);
    QCOMPARE(daylightGlareProbability(0, std::vector{s}), 0.16);
    // A source at right angles brings nothing but its light.
    const GlareSource aside{1e6, 0.1, {1, 0, 0}, positionIndex({1, 0, 0}, EyeFrame{}), false};
    QCOMPARE(daylightGlareProbability(3000, std::vector{aside}), daylightGlareProbability(3000, {}));
    QCOMPARE(glareWord(0.3499), "imperceptible");
    QCOMPARE(glareWord(0.35), "perceptible");
    QCOMPARE(glareWord(0.40), "disturbing");
    QCOMPARE(glareWord(0.45), "intolerable");
    Glare g;
    g.dgp = 0.3671;
    g.dgpError = 0.0021;
    QCOMPARE(g.dgpText(), "0.367 ± 0.002");
    g.dgpError = 5e-5;
    QCOMPARE(g.dgpText(), "0.367 ± under 0.001");
    g.ev = 210;
    g.dgp = 0.18;
    QVERIFY(!g.inRange() && g.rangeText().find("210 lx") != std::string::npos);
    g.ev = 2000;
    g.dgp = 0.3;
    QVERIFY(g.inRange() && g.rangeText().empty());
  }

  void spotsNearEachOtherAreOneSource() {
    std::vector<GlareSpot> spots;
    for (double a : {-2.0, 0.0, 2.0}) spots.push_back({off(a, 10), 5000, 0.01});
    spots.push_back({off(40, 10), 9000, 0.02});
    spots.push_back({off(-40, 0), 1999, 0.5});  // too dark
    spots.push_back({off(170, 0), 90000, 0.5}); // behind
    const auto sources = sourcesAmong(spots, 2000, EyeFrame{});
    QCOMPARE(sources.size(), std::size_t(2));
    double light = 0, omega = 0;
    for (const GlareSource& s : sources) {
      light += s.luminance * s.solidAngle;
      omega += s.solidAngle;
    }
    QVERIFY(std::abs(omega - 0.05) < 1e-12 && std::abs(light - (3 * 5000 * 0.01 + 9000 * 0.02)) < 1e-9);
    QVERIFY(sources[0].weight() >= sources[1].weight());
    // The middle of the three, and its index.
    const GlareSource& three = sources[0].solidAngle > 0.025 ? sources[0] : sources[1];
    QVERIFY(std::abs(three.solidAngle - 0.03) < 1e-12 && dot(three.direction, off(0, 10)) > std::cos(0.05 * degree));
  }

  void pixelsAndDirectionsAreEachOthersInverse() {
    for (FisheyeProjection projection : {FisheyeProjection::Equidistant, FisheyeProjection::Equisolid,
                                         FisheyeProjection::Orthographic, FisheyeProjection::Perspective}) {
      FisheyeMap m{projection, 256, EyeFrame::along(normalized(Vec3{1, 2, 0.3}))};
      double all = 0;
      for (int y = 0; y < 256; ++y)
        for (int x = 0; x < 256; ++x) {
          all += m.solidAngle(x, y);
          const auto d = m.direction(x + 0.5, y + 0.5);
          QCOMPARE(d.has_value(), m.solidAngle(x, y) > 0);
          if (!d) continue;
          const auto back = m.pixel(*d);
          QVERIFY(back && std::hypot(back->x - x - 0.5, back->y - y - 0.5) < 1e-6);
        }
      // A hemisphere; of the square 60° across that of its pyramid.
      const double t = std::tan(radians(30)), pyramid = 4 * std::asin(t * t / (1 + t * t));
      const double expected = projection == FisheyeProjection::Perspective ? pyramid : 2 * pi;
      const double within = projection == FisheyeProjection::Orthographic ? 0.05 : 0.002; // it ends at a right angle
      QVERIFY2(std::abs(all / expected - 1) < within, qPrintable(QString("%1 %2").arg(int(projection)).arg(all)));
      QVERIFY(fisheyeProjectionFromKey(fisheyeProjectionKey(projection)) == projection);
      QVERIFY(length(*m.direction(128, 128) - m.eye.forward) < 1e-12);
      QVERIFY(dot(*m.direction(200, 128), m.eye.right) > 0 && dot(*m.direction(128, 60), m.eye.up) > 0);
    }
    QVERIFY(!fisheyeProjectionFromKey("square"));
  }

  void aUniformSkyOverGroundAsAlike() {
    // Looking up: the sky alone. L = E/π everywhere, Ev = E, mean = L.
    const auto up = seen(outdoors(), eyeAt({0, 0, 2}, 0, 90, 256));
    QVERIFY2(up, up ? "" : up.error().text().c_str());
    QVERIFY2(std::abs(up->glare.ev / 10000 - 1) < 0.002, qPrintable(QString::number(up->glare.ev)));
    QVERIFY(std::abs(up->glare.mean / (10000 / pi) - 1) < 1e-4);
    // Ahead: half of it sky, half ground that reflects a fifth: Ev = (1 + 0.2)/2 E.
    for (FisheyeProjection projection :
         {FisheyeProjection::Equidistant, FisheyeProjection::Equisolid, FisheyeProjection::Orthographic}) {
      FisheyeSettings s = eyeAt({0, 0, 2}, 37, 0, 256);
      s.projection = projection;
      const auto ahead = seen(outdoors(), s);
      QVERIFY(ahead);
      QVERIFY2(std::abs(ahead->glare.ev / 6000 - 1) < 0.01, qPrintable(QString::number(ahead->glare.ev)));
      QVERIFY(!ahead->sun);
    }
  }

  void theSunIsASourceOfItsOwn() {
    Project p = outdoors();
    SkyChoice c;
    c.kind = SkyKind::CieGeneral;
    c.type = 12;
    c.sunAltitude = radians(30);
    c.sunAzimuth = radians(180);
    c.diffuse = 12000;
    c.direct = 70000;
    FisheyeSettings s = eyeAt({0, 0, 2}, 180, 0);
    const auto f = seen(p, s, c);
    QVERIFY2(f, f ? "" : f.error().text().c_str());
    QVERIFY(f->sun);
    QVERIFY(std::abs(f->sun->luminance * f->sun->solidAngle / 70000 - 1) < 1e-9);
    QVERIFY(std::abs(f->sun->solidAngle - pi * std::pow(0.2665 * degree, 2)) < 1e-8);
    QVERIFY(std::abs(f->sun->position - std::exp(33.98e-3 * 30 + 21e-5 * 900)) < 1e-6);
    QVERIFY(f->glare.sources[0].sun && f->glare.dgp > 0.8 && !f->glare.inRange());
    // Turned away, it is not in the eye; a wall before it takes it too.
    s.azimuth = 0;
    const auto away = seen(p, s, c);
    QVERIFY(away && !away->sun && away->glare.ev < f->glare.ev - 50000);
    Element wall;
    wall.id = {9};
    wall.shape = Mass{rectangle(-20, -6, 20, -5), 0, 9, 1};
    p.elements.push_back(std::make_shared<const Element>(wall));
    s.azimuth = radians(180);
    const auto behind = seen(p, s, c);
    QVERIFY(behind && !behind->sun);
    QVERIFY(std::any_of(behind->seen.begin(), behind->seen.end(), [](std::uint64_t id) { return id == 9; }));
  }

  void glassWeakensTheSunByItsTransmittance() {
    // A box with a glazed window, the sun straight through it on the eye.
    BoxRoom box;
    box.size = {4, 4, 3};
    box.windowX0 = 0.5;
    box.windowX1 = 3.5;
    box.windowZ0 = 0.5;
    box.windowZ1 = 2.8;
    box.glazed = true;
    box.floor = box.walls = box.ceiling = 0.5;
    Project p = boxProject(box, {});
    SkyChoice c;
    c.kind = SkyKind::CieGeneral;
    c.type = 12;
    c.sunAltitude = radians(20);
    c.sunAzimuth = radians(180);
    c.diffuse = 12000;
    c.direct = 50000;
    const auto f = seen(p, eyeAt({2, 2, 1.2}, 180, 0), c);
    QVERIFY2(f, f ? "" : f.error().text().c_str());
    QVERIFY(f->sun);
    const double through = GlazingOptics(box.glazing).straight(std::cos(radians(20)));
    QVERIFY2(std::abs(f->sun->luminance * f->sun->solidAngle / (50000 * through) - 1) < 1e-3,
             qPrintable(QString::number(f->sun->luminance * f->sun->solidAngle)));
  }

  void evIsThatOfASensorInThePlaceOfTheEye() {
    // Two routes to one figure: the picture summed up, and the engine's own sensor that looks the same way.
    Project p = house();
    p.site.place = {radians(52), 0, 0};
    WindowRule w;
    w.id = RuleId::fresh();
    w.name = "Windows";
    w.ratio = 0.35;
    w.count = 2;
    w.facings = {Facing::South};
    p.windowRules.push_back(w);
    const Room& room = p.rooms[0];
    const Vec2 middle = centroid(room.outline);
    const Vec3 at{middle.x, middle.y, room.floor + 1.2};
    for (double azimuth : {180.0, 90.0, 0.0}) {
      FisheyeSettings s = eyeAt(at, azimuth, 0, 256);
      s.error = 0.01;
      SkyChoice overcast;
      overcast.kind = SkyKind::CieOvercast;
      overcast.diffuse = 10000;
      const auto f = seen(p, s, overcast);
      QVERIFY2(f, f ? "" : f.error().text().c_str());
      SensorGroup g;
      g.id = {1};
      g.name = "Eye";
      PointSensor point;
      point.position = at;
      point.normal = skyDirection(0, radians(azimuth), p.site.northAngle);
      g.layout = std::vector<PointSensor>{point};
      Project q = p;
      q.groups = {g};
      Study study;
      study.kind = StudyKind::Illuminance;
      study.groups = {g.id};
      study.light.sky = overcast;
      study.light.error = 0.003;
      RunControl control;
      const LightResult r = runLight(*lightInput(q, study), control);
      QVERIFY2(std::abs(f->glare.ev / double(r.value[0]) - 1) < 0.01,
               qPrintable(
                   QString("%1°: %2 of the picture, %3 of the sensor").arg(azimuth).arg(f->glare.ev).arg(r.value[0])));
      QVERIFY(f->glare.evError > 0 && f->glare.evError < 0.01 * f->glare.ev);
      QVERIFY(f->glare.dgp > 0.16 && f->glare.dgp < 0.6);
    }
  }

  void theSameQuestionGivesTheSameBits() {
    Project p = house();
    WindowRule w;
    w.id = RuleId::fresh();
    w.name = "Windows";
    w.ratio = 0.3;
    w.facings = {Facing::South};
    p.windowRules.push_back(w);
    const Vec2 middle = centroid(p.rooms[0].outline);
    const FisheyeSettings s = eyeAt({middle.x, middle.y, p.rooms[0].floor + 1.2}, 180, 0, 64);
    std::vector<std::vector<float>> all;
    for (int threads : {1, 2, 7}) {
      RunControl control;
      const auto f = fisheye(p, s, uniform(), {}, control, {threads});
      QVERIFY(f);
      all.push_back(f->luminance);
    }
    for (std::size_t i = 0; i < all[0].size(); ++i)
      QVERIFY((std::isnan(all[0][i]) && std::isnan(all[1][i])) || (all[0][i] == all[1][i] && all[0][i] == all[2][i]));
  }

  void whatCanNotBeSeenIsSaid_data() {
    QTest::addColumn<double>("x");
    QTest::addColumn<double>("z");
    QTest::addColumn<double>("altitude");
    QTest::addColumn<int>("pixels");
    QTest::addColumn<QString>("says");
    QTest::newRow("under ground") << 50.0 << -1.0 << 0.0 << 64 << "under the ground";
    QTest::newRow("no number") << std::nan("") << 1.0 << 0.0 << 64 << "no number";
    QTest::newRow("no altitude") << 50.0 << 1.0 << 95.0 << 64 << "altitude";
    QTest::newRow("no pixels") << 50.0 << 1.0 << 0.0 << 3 << "pixels";
    QTest::newRow("too many") << 50.0 << 1.0 << 0.0 << 100000 << "pixels";
    QTest::newRow("in a block") << 5.0 << 1.0 << 0.0 << 64 << "inside something";
  }
  void whatCanNotBeSeenIsSaid() {
    QFETCH(double, x);
    QFETCH(double, z);
    QFETCH(double, altitude);
    QFETCH(int, pixels);
    QFETCH(QString, says);
    Project p = outdoors();
    Element block;
    block.id = {9};
    block.shape = Mass{rectangle(0, 0, 10, 10), 0, 9, 1};
    p.elements.push_back(std::make_shared<const Element>(block));
    const auto f = seen(p, eyeAt({x, 5, z}, 0, altitude, pixels));
    QVERIFY(!f);
    QVERIFY2(QString::fromStdString(f.error().text()).contains(says), f.error().text().c_str());
  }

  void noLightIsNoGlare() {
    const auto f = seen(outdoors(), eyeAt({0, 0, 2}, 0, 0, 64), uniform(0));
    QVERIFY2(f, f ? "" : f.error().text().c_str());
    QCOMPARE(f->glare.ev, 0.0);
    QCOMPARE(f->glare.dgp, 0.16);
    QVERIFY(f->glare.sources.empty() && !f->glare.rangeText().empty());
  }

  void trueValuesComeBackFromTheirFile() {
    QTemporaryDir d;
    const std::filesystem::path file = d.filePath("eye.exr").toStdString();
    const auto f = seen(outdoors(), eyeAt({0, 0, 2}, 0, 20, 64));
    QVERIFY(f);
    QVERIFY(writeLuminanceExr(file, 64, 64, f->luminance, {{"projection", "equidistant"}, {"unit", "cd/m2"}}));
    const auto again = readLuminanceExr(file);
    QVERIFY2(again, again ? "" : again.error().text().c_str());
    QVERIFY(again->width == 64 && again->height == 64 && again->facts.at("projection") == "equidistant");
    for (std::size_t i = 0; i < f->luminance.size(); ++i)
      QCOMPARE(again->luminance[i], std::isnan(f->luminance[i]) ? 0.0f : f->luminance[i]);
    QVERIFY(!writeLuminanceExr("/nowhere/eye.exr", 64, 64, f->luminance, {}));
    QVERIFY(!readLuminanceExr(d.filePath("none.exr").toStdString()));
    { // cut off: said, not read
      const QByteArray all = [&] {
        QFile q(d.filePath("eye.exr"));
        return q.open(QIODevice::ReadOnly) ? q.readAll() : QByteArray();
      }();
      QFile half(d.filePath("half.exr"));
      QVERIFY(half.open(QIODevice::WriteOnly) && half.write(all.left(all.size() / 2)) > 0);
    }
    QVERIFY(!readLuminanceExr(d.filePath("half.exr").toStdString()));
  }
};

QTEST_GUILESS_MAIN(TestGlare)
#include "tst_glare.moc"
