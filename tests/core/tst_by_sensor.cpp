// The frame that studies by a function of the sensor share: every sensor once, any number of threads alike, progress
// that never goes back, and what a stopped run leaves.

#ifndef Q_MOC_RUN
#include "core/studies/by_sensor.h"
#include "core/studies/space_sums.h"
#include "tests/house.h"
#include <QtTest>
#include <atomic>
#include <cmath>
#include <cstring>
#include <thread>
#endif

using namespace noonward;

namespace {
LightInput inputOf(std::size_t sensors) {
  LightInput in;
  in.kind = StudyKind::NoSkyLine;
  in.sensors.sensors.resize(sensors);
  SensorGridFacts g;
  g.count = sensors;
  in.sensors.groups.push_back(g);
  return in;
}
} // namespace

class TestBySensor : public QObject {
  Q_OBJECT
private slots:
  void everySensorIsAskedOnce_data() {
    QTest::addColumn<int>("sensors");
    QTest::addColumn<int>("threads");
    for (int n : {0, 1, 31, 32, 33, 1000})
      for (int t : {1, 2, 5}) QTest::addRow("%d on %d", n, t) << n << t;
  }
  void everySensorIsAskedOnce() {
    QFETCH(int, sensors);
    QFETCH(int, threads);
    const LightInput in = inputOf(std::size_t(sensors));
    std::vector<std::atomic<int>> asked(static_cast<std::size_t>(sensors));
    std::vector<double> told;
    RunControl control;
    control.progress = [&](double share) { told.push_back(share); };
    const LightResult r = bySensor(in, control, Threads{threads}, 77, [&](std::size_t i) {
      ++asked[i];
      return std::sqrt(double(i));
    });
    QCOMPARE(r.end, RunEnd::Finished);
    QCOMPARE(r.kind, in.kind);
    QCOMPARE(r.value.size(), std::size_t(sensors));
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      QCOMPARE(asked[i].load(), 1);
      QCOMPARE(r.value[i], float(std::sqrt(double(i))));
      QCOMPARE(r.standardError[i], 0.0f);
      QCOMPARE(r.samples[i], std::uint32_t(77));
    }
    QVERIFY(std::is_sorted(told.begin(), told.end()));
    if (sensors > 0) QCOMPARE(told.back(), 1.0);
  }

  void aStoppedRunKeepsWhatItHas_data() {
    QTest::addColumn<bool>("enough");
    QTest::newRow("enough") << true;
    QTest::newRow("dropped") << false;
  }
  void aStoppedRunKeepsWhatItHas() {
    QFETCH(bool, enough);
    const LightInput in = inputOf(2000);
    RunControl control;
    std::atomic<int> asked{0};
    const LightResult r = bySensor(in, control, Threads{2}, 1, [&](std::size_t i) {
      if (++asked == 300) control.wish = enough ? Wish::Enough : Wish::Drop;
      return double(i);
    });
    QCOMPARE(r.end, enough ? RunEnd::Enough : RunEnd::Dropped);
    QCOMPARE(r.value.size(), std::size_t(2000));
    std::size_t known = 0;
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      if (std::isnan(r.value[i])) continue; // not computed is no zero
      QCOMPARE(r.value[i], float(i));
      ++known;
    }
    QVERIFY2(known >= 256 && known < 700, qPrintable(QString::number(known))); // whole chunks of those begun
    QCOMPARE(known, std::size_t(asked.load()));
  }

  void sumsOfASpaceAreThoseOfItsSeries_data() {
    QTest::addColumn<int>("sensors");
    QTest::addColumn<int>("threads");
    QTest::addColumn<double>("threshold");
    QTest::addColumn<QList<double>>("useful");
    const QList<double> usual{100, 300, 3000};
    for (int n : {1, 31, 32, 33, 70}) QTest::addRow("%d", n) << n << 2 << 300.0 << usual;
    for (int t : {1, 7}) QTest::addRow("%d threads", t) << 70 << t << 300.0 << usual;
    QTest::newRow("between floats") << 33 << 2 << 300.00000001
                                    << QList<double>{100.00000001, 299.99999999, 2999.99999999};
    QTest::newRow("none asked") << 33 << 2 << 0.0 << QList<double>{0, 0, 0};
    QTest::newRow("out of order") << 33 << 2 << 300.0 << QList<double>{300, 100, 50};
  }
  void sumsOfASpaceAreThoseOfItsSeries() {
    QFETCH(int, sensors);
    QFETCH(int, threads);
    QFETCH(double, threshold);
    QFETCH(QList<double>, useful);
    const auto n = std::size_t(sensors);
    MetricSettings s;
    s.threshold = threshold;
    for (std::size_t k = 0; k < 3; ++k) s.useful[k] = useful[qsizetype(k)];
    // Hours with light from 6 to 19; some of the schedule is dark, some of daylight is not in it.
    std::vector<std::uint32_t> hours;
    std::vector<bool> mask(hoursOfYear), daylight(hoursOfYear);
    for (std::uint32_t i = 0; i < hoursOfYear; ++i) {
      if (i % 24 >= 6 && i % 24 < 19) hours.push_back(i);
      mask[i] = i % 24 >= 4 && i % 24 < 17;
      daylight[i] = i % 24 >= 7 && i % 24 < 20;
    }
    std::uint32_t state = 12345;
    const auto next = [&] { return state = state * 1664525u + 1013904223u; };
    const float special[] = {0, 100, 300, 3000, std::nextafter(300.0f, 0.0f), std::nextafter(300.0f, 1e9f), 500, 750};
    Eigen::MatrixXf light(Eigen::Index(n), Eigen::Index(hours.size()));
    std::vector<float> series(n * hoursOfYear, 0);
    for (std::size_t h = 0; h < hours.size(); ++h)
      for (std::size_t i = 0; i < n; ++i) {
        const std::uint32_t r = next() >> 8;
        const float v = r % 5 == 0 ? special[(r / 5) % 8] : float(r % 100000) * 0.0123f;
        light(Eigen::Index(i), Eigen::Index(h)) = v;
        series[i * hoursOfYear + hours[h]] = v;
      }
    std::vector<double> areas;
    for (std::size_t i = 0; i < n; ++i) areas.push_back(0.2 + 0.01 * double(next() % 100));
    const SpaceSums sums =
        spaceSums({light.data(), std::size_t(light.size())}, {hours, mask, daylight}, s, areas, {threads});
    for (std::size_t i = 0; i < n; ++i) {
      const SensorYear own = sensorYear({series.data() + i * hoursOfYear, hoursOfYear}, mask, s), &is = sums.sensors[i];
      QCOMPARE(is.autonomy, own.autonomy);
      QCOMPARE(is.continuous, own.continuous);
      QCOMPARE(is.mean, own.mean);
      QCOMPARE(is.median, own.median);
      QCOMPARE(is.least, own.least);
      QCOMPARE(is.most, own.most);
      QCOMPARE(is.hours, own.hours);
      for (std::size_t k = 0; k < 4; ++k) QCOMPARE(is.useful[k], own.useful[k]);
      QVERIFY(memcmp(&is.mean, &own.mean, sizeof(double)) == 0 &&
              memcmp(&is.continuous, &own.continuous, sizeof(double)) == 0);
    }
    for (std::size_t k = 0; k < provisionLevels.size(); ++k) {
      QCOMPARE(sums.provision[k], provisionHours(series, n, daylight, provisionLevels[k], areas));
      QCOMPARE(sums.provisionOwn[k], provisionOwnHours(series, n, daylight, provisionLevels[k], areas));
    }
  }
};

QTEST_GUILESS_MAIN(TestBySensor)
#include "tst_by_sensor.moc"
