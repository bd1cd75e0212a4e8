// Positions against the worked example and an independent formula, days, clocks, and the exact path.

#ifndef Q_MOC_RUN
#include "core/proof/proof.h"
#include "core/sun/sun_day.h"
#include "core/sun/sun_path.h"
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {
/// Jean Meeus, "Astronomical Algorithms" (1998), ch. 12 and 25 (higher accuracy of the low method): stated to be
/// good to 0.01°. Shares nothing with the program but π. Degrees; returns azimuth from north and geometric altitude.
std::pair<double, double> meeus(double unixSeconds, double latitude, double longitude, double deltaT) {
  const auto rad = [](double d) { return d * M_PI / 180; };
  const double jd = unixSeconds / 86400 + 2440587.5, jde = jd + deltaT / 86400;
  const double T = (jde - 2451545.0) / 36525;
  const double L0 = 280.46646 + 36000.76983 * T + 0.0003032 * T * T,
               M = rad(357.52911 + 35999.05029 * T - 0.0001537 * T * T);
  const double C = (1.914602 - 0.004817 * T - 0.000014 * T * T) * std::sin(M) +
                   (0.019993 - 0.000101 * T) * std::sin(2 * M) + 0.000289 * std::sin(3 * M);
  const double omega = rad(125.04 - 1934.136 * T);
  const double lambda = rad(L0 + C - 0.00569 - 0.00478 * std::sin(omega));
  const double epsilon = rad(23.4392911 - 0.0130042 * T + 0.00256 * std::cos(omega));
  const double alpha = std::atan2(std::cos(epsilon) * std::sin(lambda), std::cos(lambda)),
               delta = std::asin(std::sin(epsilon) * std::sin(lambda));
  const double U = (jd - 2451545.0) / 36525;
  const double nutation = -0.004778 * std::sin(omega) * std::cos(epsilon); // degrees of equation of the equinoxes
  const double theta = rad(280.46061837 + 360.98564736629 * (jd - 2451545.0) + 0.000387933 * U * U + nutation);
  const double H = theta + rad(longitude) - alpha, phi = rad(latitude);
  double altitude = std::asin(std::sin(phi) * std::sin(delta) + std::cos(phi) * std::cos(delta) * std::cos(H));
  const double azimuth = std::atan2(std::sin(H), std::cos(H) * std::sin(phi) - std::tan(delta) * std::cos(phi));
  altitude -= rad(8.794 / 3600) * std::cos(altitude); // parallax
  return {std::fmod(azimuth * 180 / M_PI + 540, 360), altitude * 180 / M_PI};
}
double difference(double a, double b) {
  return std::abs(std::remainder(a - b, 360));
}
Zone zone(const char* name) {
  const auto z = Zone::named(name);
  if (!z) qFatal("no zone %s", name);
  return *z;
}
} // namespace

class TestSun : public QObject {
  Q_OBJECT
private slots:
  void provesItsCases() {
    // Those of light and buildings are held by tst_light, once and not again in every locale.
    std::vector<ProofCase> cases = proveSun();
    for (const ProofCase& c : proveShadows()) cases.push_back(c);
    QVERIFY(cases.size() >= 10);
    for (const ProofCase& c : cases)
      QVERIFY2(
          c.pass(),
          qPrintable(
              QString("%1: wanted %2, got %3").arg(c.name.c_str()).arg(c.expected, 0, 'f', 6).arg(c.got, 0, 'f', 6)));
  }

  void agreesWithMeeusAtThirtyPlacesAndTimes() {
    const std::pair<double, double> places[] = {{55.6, 12.5}, {-36.9, 174.6}, {0, 0},
                                                {69.6, 18.9}, {-54.8, -68.3}, {23.4, 72.6}};
    const Date dates[] = {{1995, 2, 3}, {2010, 6, 21}, {2026, 3, 20}, {2026, 12, 21}, {2044, 9, 23}};
    double worst = 0;
    int n = 0;
    for (const auto& [lat, lon] : places)
      for (const Date& d : dates) {
        const Instant t = utc({d, 43200 - lon * 240 + 3600 * ((n * 7) % 9 - 4)});
        const SolarPosition p = solarPosition(sunOfDate(t), {radians(lat), radians(lon), 0});
        const auto [azimuth, altitude] = meeus(t.seconds, lat, lon, deltaT(d.year, d.month));
        const double off = std::max(std::abs(degrees(p.altitude) - altitude),
                                    difference(degrees(p.azimuth), azimuth) * std::cos(p.altitude));
        worst = std::max(worst, off);
        QVERIFY2(
            off < 0.01,
            qPrintable(QString("%1°, %2°: off by %3°").arg(lat).arg(lon).arg(off))); // the accuracy that Meeus states
        ++n;
      }
    QCOMPARE(n, 30);
    qInfo("worst against the independent formula: %.4f°", worst);
  }

  void knotsAgreeWithTheFullComputation() {
    const SunKnots knots = SunKnots::ofYear(2026);
    const Instant start = utc({{2026, 1, 1}, 0});
    for (int i = 0; i < 365; i += 3)
      for (double hour : {1.3, 7.9, 12.5, 19.0, 23.7}) {
        const Instant t = start + i * 86400.0 + hour * 3600;
        const SunOfDate a = sunOfDate(t), b = knots.at(t);
        QVERIFY(std::abs(degrees(wrapPi(a.greenwichHourAngle - b.greenwichHourAngle))) < 1e-5);
        QVERIFY(std::abs(degrees(a.declination - b.declination)) < 1e-5);
        QVERIFY(std::abs(a.equationOfTime - b.equationOfTime) < 1e-6);
      }
    QVERIFY(!knots.covers(start + -10 * 86400.0));
    QVERIFY_EXCEPTION_THROWN(knots.at(start + -10 * 86400.0), BrokenInvariant);
  }

  void pathFollowsTheSunOverADay_data() {
    QTest::addColumn<double>("latitude");
    QTest::addColumn<double>("north");
    for (double l : {55.6, -36.9, 0.0, 78.2, -89.0}) QTest::addRow("%g", l) << l << (l * 3);
  }
  void pathFollowsTheSunOverADay() {
    QFETCH(double, latitude);
    QFETCH(double, north);
    const Place place{radians(latitude), radians(12.5), 50};
    const SunKnots knots = SunKnots::ofYear(2026);
    for (int day = 0; day < 365; day += 13) {
      const Instant start = utc({plusDays({2026, 1, 1}, day), 0});
      const SunPath path(knots, place, radians(north), start, 86400);
      for (double t = 0; t <= 86400; t += 7200) {
        const Vec3 d = solarPosition(sunOfDate(start + t), place).direction;
        const double c = std::cos(radians(north)), s = std::sin(radians(north));
        const Vec3 model{d.x * c - d.y * s, d.x * s + d.y * c, d.z};
        QVERIFY2(length(model - path.direction(t)) < radians(5e-5),
                 qPrintable(QString::number(degrees(length(model - path.direction(t))))));
      }
    }
  }

  void shortestStretchAbovePlaneIsFound() {
    // A plane tilted so that the sun peeps over it for seconds only, round its turning point: no step would see it.
    const Place place{radians(55.6), 0, 0};
    const SunPath path(SunKnots::ofYear(2026), place, 0, utc({{2026, 3, 21}, 0}), 86400);
    double top = -1;
    for (double t = 40000; t < 47000; t += 0.25) top = std::max(top, path.direction(t).z);
    for (const double below : {1e-5, 1e-6, 1e-7}) {
      const Intervals found = path.above(std::asin(top - below));
      QCOMPARE(found.size(), std::size_t(1));
      QVERIFY(found[0].length() > 0.3 && found[0].length() < 400);
    }
    QVERIFY(path.above(std::asin(top + 1e-6)).empty());
  }

  void polarDayAndNight() {
    const Place place{radians(69.6), radians(18.9), 0};
    const SunKnots knots = SunKnots::ofYear(2026);
    const Zone oslo = zone("Europe/Oslo");
    QCOMPARE(sunDay(knots, place, oslo, {2026, 6, 21}).kind, DayKind::PolarDay);
    QCOMPARE(sunDay(knots, place, oslo, {2026, 12, 21}).kind, DayKind::PolarNight);
    QVERIFY(dayTrack(knots, place, oslo, {2026, 12, 21}).empty());
    const SunDay ordinary = sunDay(knots, place, oslo, {2026, 3, 21});
    QCOMPARE(ordinary.sunrises.size(), std::size_t(1));
    QVERIFY(ordinary.sunrises[0] < ordinary.noon && ordinary.noon < ordinary.sunsets[0]);
  }

  void noonStandsNorthInTheSouth() {
    const Place place{radians(-36.9), radians(174.6), 0};
    const SunDay day = sunDay(SunKnots::ofYear(2026), place, zone("Pacific/Auckland"), {2026, 6, 21});
    const SolarPosition p = solarPosition(sunOfDate(day.noon), place);
    QVERIFY(std::min(degrees(p.azimuth), 360 - degrees(p.azimuth)) < 0.01);
    QVERIFY(std::abs(degrees(p.altitude) - (90 - 36.9 - 23.44)) < 0.02);
  }

  void clocksChange() {
    const Zone z = zone("Europe/Copenhagen");
    QCOMPARE(z.offset(utc({{2026, 1, 15}, 0})), 3600.0);
    QCOMPARE(z.offset(utc({{2026, 7, 15}, 0})), 7200.0);
    QCOMPARE(z.instant({{2026, 3, 30}, 0}) - z.instant({{2026, 3, 29}, 0}), 23 * 3600.0);
    QCOMPARE(z.instant({{2026, 10, 26}, 0}) - z.instant({{2026, 10, 25}, 0}), 25 * 3600.0);
    // 2:30 is skipped in spring: the moment of the jump; in autumn it occurs twice: the first.
    QCOMPARE(z.instant({{2026, 3, 29}, 2.5 * 3600}).seconds, utc({{2026, 3, 29}, 3600}).seconds);
    QCOMPARE(z.instant({{2026, 10, 25}, 2.5 * 3600}).seconds, utc({{2026, 10, 25}, 0.5 * 3600}).seconds);
    QVERIFY(z.summerTime(utc({{2026, 7, 1}, 0})));
    QCOMPARE(zone("Pacific/Auckland").standardOffset(2026), 12 * 3600.0);
    QVERIFY(!Zone::named("Atlantis/Capital"));
    QCOMPARE(zone("UTC-05:30").offset({0}), -5.5 * 3600);
    QVERIFY(timeZoneDataVersion() != "unknown");
  }

  void textsOfTime() {
    QCOMPARE(dateFromText("21 Jun 2026").value(), (Date{2026, 6, 21}));
    QVERIFY(!dateFromText("2026-02-29"));
    QCOMPARE(minutesFromText("24:00").value(), 1440.0);
    QVERIFY(!minutesFromText("24:01"));
    QVERIFY(!minutesFromText("9:5"));
    const auto s = stampFromText("2026-06-21T14:00:00+02:00");
    QVERIFY(s && *s->utcOffset == 7200 && s->time.seconds == 14 * 3600);
    QVERIFY(!stampFromText("21/06/2026 14:00"));
    QCOMPARE(isoText(utc({{2026, 6, 21}, 12 * 3600}), 7200), std::string("2026-06-21T14:00:00+02:00"));
    QCOMPARE(clockText(845.2), std::string("14:05"));
    QCOMPARE(dayText({2026, 6, 21}), std::string("21 Jun"));
  }

  void refractionAndItsInverse() {
    const Air air = standardAir(0);
    QVERIFY(std::abs(degrees(refraction(0, air)) - 0.48) < 0.02);
    QCOMPARE(refraction(radians(-5), air), 0.0);
    for (double a : {1.0, 5.0, 30.0, 80.0}) {
      const double t = trueAltitudeOf(radians(a), air);
      QVERIFY(std::abs(t + refraction(t, air) - radians(a)) < 1e-9);
    }
  }

  void intervalsAddUp() {
    const Intervals a = joined({{5, 6}, {0, 2}, {1, 3}, {3.05, 4}}, 0.1);
    QCOMPARE(a, (Intervals{{0, 4}, {5, 6}}));
    QCOMPARE(difference({{0, 10}}, a), (Intervals{{4, 5}, {6, 10}}));
    QCOMPARE(intersection(a, {{3, 5.5}}), (Intervals{{3, 4}, {5, 5.5}}));
    QCOMPARE(total(a), 5.0);
    QCOMPARE(longest(a), 4.0);
    QVERIFY(joined({{3, 3}, {4, 2}}).empty());
  }
};

QTEST_GUILESS_MAIN(TestSun)
#include "tst_sun.moc"
