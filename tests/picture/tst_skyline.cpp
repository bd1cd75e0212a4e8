// The sky from a spot as a dial: where directions lie on it, what is filled, what is tinted, and the sun's tracks.

#ifndef Q_MOC_RUN
#include "core/studies/model_parts.h"
#include "picture/picture_export.h"
#include "picture/skyline.h"
#include "tests/green.h"
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

/// The first window of the green's house: it looks south, at the proposal 8 m before it.
ProbeResult atTheWindow(const Project& p) {
  const ProbeInput at{{22, -0.02, 1.6}, {0, -1, 0}, p.site.place, p.zone(), p.site.northAngle, p.site.year};
  return probeProject(p, at, buildScene(p));
}
QColor at(const QImage& dome, double azimuth, double altitude) {
  const double r = dome.width() / 2.0;
  const QPointF q = dialRound({r, r}, r).at(radians(azimuth), radians(altitude));
  return dome.pixelColor(int(q.x()), int(q.y()));
}

class TestSkyline : public QObject {
  Q_OBJECT
private slots:
  void directionsLieWhereTheyShould_data() {
    QTest::addColumn<double>("azimuth");
    QTest::addColumn<double>("altitude");
    QTest::addColumn<QPointF>("wanted");
    QTest::newRow("zenith") << 123.0 << 90.0 << QPointF(100, 100);
    QTest::newRow("north") << 0.0 << 0.0 << QPointF(100, 50);
    QTest::newRow("east") << 90.0 << 0.0 << QPointF(150, 100);
    QTest::newRow("south, half way") << 180.0 << 45.0 << QPointF(100, 125);
    QTest::newRow("west, a third") << 270.0 << 60.0 << QPointF(100 - 50 / 3.0, 100);
  }
  void directionsLieWhereTheyShould() {
    QFETCH(double, azimuth);
    QFETCH(double, altitude);
    QFETCH(QPointF, wanted);
    const QPointF got = dialRound({100, 100}, 50).at(radians(azimuth), radians(altitude));
    QVERIFY(std::hypot(got.x() - wanted.x(), got.y() - wanted.y()) < 1e-9);
  }

  void whatStandsIsFilledAndWhatIsProposedTinted() {
    const Project p = greenPlace();
    const Theme t = paperTheme();
    const QImage dome = skylineDome(p, atTheWindow(p), 400, t);
    // The proposal's edge stands at atan(12.4 / 7.98) = 57.2° due south.
    QCOMPARE(at(dome, 180, 30), t.proposedShade);
    QCOMPARE(at(dome, 180, 56), t.proposedShade);
    QCOMPARE(at(dome, 180, 60).alpha(), 0);
    // Behind stands the house itself: filled, not tinted.
    QCOMPARE(at(dome, 0, 40).alpha(), 255);
    QVERIFY(at(dome, 0, 40) != t.proposedShade);
    // Outside the disc is nothing.
    QCOMPARE(dome.pixelColor(2, 2).alpha(), 0);
    // Without the proposal the south is free.
    const Project before = withoutProposal(p);
    QCOMPARE(at(skylineDome(before, atTheWindow(before), 400, t), 180, 30).alpha(), 0);
  }

  void theNorthAngleTurnsNothingTrue() {
    Project p = greenPlace();
    p.site.northAngle = radians(25); // the wall looks 25° west of south now: 205°
    const Theme t = paperTheme();
    const QImage dome = skylineDome(p, atTheWindow(p), 400, t);
    QCOMPARE(at(dome, 205, 30), t.proposedShade);
    QCOMPARE(at(dome, 205, 60).alpha(), 0);
  }

  void tracksAndTheSunArePainted() {
    const Project p = leftWithout();
    const Theme t = paperTheme();
    const SunKnots knots = SunKnots::ofYear(p.site.year);
    const QImage dome = skylineDome(p, atTheWindow(p), 300, t);
    const Instant noon = p.zone().instant({{p.site.year, 6, 21}, 12 * 3600.0});
    const auto painted = [&](std::optional<Instant> moment) {
      QImage image(360, 360, QImage::Format_ARGB32);
      image.fill(Qt::white);
      QPainter painter(&image);
      painter.setRenderHint(QPainter::Antialiasing);
      paintSkyline(painter, {180, 180}, 150, p, dome, {&knots, false, moment}, t);
      return image;
    };
    const SolarPosition s = solarPosition(sunOfDate(noon), p.site.place);
    const QPointF sun = dialRound({180, 180}, 150).at(s.azimuth, s.altitude);
    const QImage with = painted(noon), plain = painted({});
    // The ring round the sun is of its colour, and only where a moment is given.
    const auto ringed = [&](const QImage& image) {
      int n = 0;
      for (int k = 0; k < 72; ++k) {
        const QPointF q = sun + QPointF(4.5 * std::cos(k * pi / 36), 4.5 * std::sin(k * pi / 36));
        const QColor c = image.pixelColor(int(std::lround(q.x())), int(std::lround(q.y())));
        n += std::abs(c.red() - t.noon.red()) + std::abs(c.green() - t.noon.green()) +
                 std::abs(c.blue() - t.noon.blue()) <
             120;
      }
      return n;
    };
    QVERIFY2(ringed(with) > 40, qPrintable(QString::number(ringed(with))));
    QVERIFY(ringed(plain) < 5);
    QVERIFY(with != plain);
  }

private:
  static Project leftWithout() { return withoutProposal(greenPlace()); }
};

} // namespace

QTEST_MAIN(TestSkyline)
#include "tst_skyline.moc"
