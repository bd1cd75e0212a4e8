// The frame that studies by a function of the sensor share: every sensor once, any number of threads alike, progress
// that never goes back, and what a stopped run leaves.

#ifndef Q_MOC_RUN
#include "core/studies/by_sensor.h"
#include "tests/house.h"
#include <QtTest>
#include <atomic>
#include <cmath>
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
};

QTEST_GUILESS_MAIN(TestBySensor)
#include "tst_by_sensor.moc"
