// The months behind an irradiation add up to it, and each is the irradiation of its own season.

#ifndef Q_MOC_RUN
#include "core/files/results/tables.h"
#include "core/studies/energy_months.h"
#include "tests/green.h"
#include <QtTest>
#include <cmath>
#include <numeric>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

Study roofStudy(std::vector<GroupId> groups = {GroupId{11}, GroupId{12}}) {
  Study s;
  s.id = {1};
  s.kind = StudyKind::Irradiation;
  s.groups = std::move(groups);
  return s;
}

struct Found {
  LightInput input;
  LightResult whole;
  std::vector<EnergyMonth> months;
};
Found found(const Project& p, const Study& s, const std::vector<std::size_t>& sensors = {}) {
  RunControl control;
  auto in = lightInput(p, s);
  if (!in) qFatal("%s", in.error().text().c_str());
  LightResult whole = runLight(*in, control);
  auto months = irradiationByMonth(p, s, *in, sensors, control);
  if (!months) qFatal("%s", months.error().text().c_str());
  return {std::move(*in), std::move(whole), std::move(*months)};
}

} // namespace

class TestEnergyMonths : public QObject {
  Q_OBJECT
private slots:
  void monthsAddUpToTheYear() {
    const Found f = found(greenPlace(), roofStudy());
    QCOMPARE(f.months.size(), std::size_t(12));
    std::size_t hours = 0;
    for (const EnergyMonth& m : f.months) hours += m.hours;
    QCOMPARE(hours, std::size_t(8760));
    for (std::size_t i = 0; i < f.input.sensors.sensors.size(); ++i) {
      double direct = 0, all = 0, error2 = 0;
      for (const EnergyMonth& m : f.months) {
        direct += double(m.result.direct[i]);
        all += double(m.result.value[i]);
        error2 += std::pow(double(m.result.standardError[i]), 2);
        QVERIFY(std::abs(m.result.value[i] - m.result.direct[i] - m.result.sky[i] - m.result.reflected[i]) < 1e-3f);
      }
      // Suns are taken together within 0.25°, month by month or over the year: a little more at edges.
      QVERIFY2(std::abs(direct - double(f.whole.direct[i])) < 0.004 * double(f.whole.value[i]) + 0.5,
               qPrintable(QString("%1: %2 %3").arg(i).arg(direct).arg(f.whole.direct[i])));
      const double within = 4 * std::sqrt(error2 + std::pow(double(f.whole.standardError[i]), 2));
      QVERIFY2(std::abs(all - double(f.whole.value[i])) < within + 0.004 * double(f.whole.value[i]) + 0.5,
               qPrintable(QString("%1: %2 %3").arg(i).arg(all).arg(f.whole.value[i])));
    }
  }

  void aMonthIsItsOwnSeason() {
    const Project p = greenPlace();
    const Found f = found(p, roofStudy());
    Study june = roofStudy();
    june.light.season.fromMonth = june.light.season.toMonth = 6;
    june.light.season.fromDay = 1;
    june.light.season.toDay = 30;
    RunControl control;
    const LightResult alone = runLight(*lightInput(p, june), control);
    for (std::size_t i = 0; i < alone.value.size(); ++i)
      QCOMPARE(f.months[5].result.value[i], alone.value[i]); // the same rays, the same sky: the same bits
    // And what is asked of one sensor is what all of them gave: by the sun, whose rays are no samples.
    const Found one = found(p, roofStudy(), {2});
    QCOMPARE(one.months[5].result.value.size(), std::size_t(1));
    QCOMPARE(one.months[5].result.direct[0], f.months[5].result.direct[2]);
    // Of the last group alone, and one of each.
    const std::size_t last = f.input.sensors.sensors.size() - 1;
    const Found two = found(p, roofStudy(), {0, last});
    QCOMPARE(two.months[5].result.value.size(), std::size_t(2));
    QCOMPARE(two.months[5].result.direct[1], f.months[5].result.direct[last]);
    QCOMPARE(found(p, roofStudy(), {last}).months[5].result.direct[0], f.months[5].result.direct[last]);
  }

  void onlyMonthsOfTheSeasonAreThere() {
    Study s = roofStudy();
    s.light.season.fromMonth = 11;
    s.light.season.fromDay = 16;
    s.light.season.toMonth = 2;
    s.light.season.toDay = 10;
    const Found f = found(greenPlace(), s);
    std::vector<int> months;
    for (const EnergyMonth& m : f.months) months.push_back(m.month);
    QCOMPARE(months, (std::vector<int>{1, 2, 11, 12}));
    QCOMPARE(f.months[1].hours, std::size_t(10 * 24));
    QCOMPARE(f.months[2].hours, std::size_t(15 * 24));
    // A daily mean has months that are sums all the same.
    s.light.amount = EnergyAmount::DailyMean;
    const Found mean = found(greenPlace(), s);
    QCOMPARE(mean.months[0].result.unitText(), std::string("kWh/m²"));
    QCOMPARE(mean.months[0].result.value[0], f.months[0].result.value[0]);
  }

  void momentsHaveNoMonths() {
    Project p = greenPlace();
    Study s = roofStudy();
    s.light.sky.kind = SkyKind::Uniform;
    s.light.sky.diffuseIrradiance = 100;
    s.light.sky.moment = CivilTime{{2026, 6, 21}, 12 * 3600.0};
    RunControl control;
    const auto in = lightInput(p, s);
    QVERIFY(in);
    const auto months = irradiationByMonth(p, s, *in, {}, control);
    QVERIFY(!months && months.error().message.find("weather year") != std::string::npos);
    control.wish = Wish::Drop; // stopped: no month is made up
    const Project year = greenPlace();
    const auto none = irradiationByMonth(year, roofStudy(), *lightInput(year, roofStudy()), {}, control);
    QVERIFY(none && none->empty());
  }

  void theTableHasALineASensorAndMonth() {
    const Found f = found(greenPlace(), roofStudy({GroupId{12}}));
    const QString csv = QString::fromStdString(energyMonthsCsv(f.input.sensors, f.months));
    const QStringList lines = csv.trimmed().split('\n');
    QCOMPARE(lines.size(), 1 + 12 * 3);
    QCOMPARE(lines[0], QString("sensor,month,value,standard_error,direct,sky,reflected"));
    QVERIFY(lines[1].contains(",1,") && lines[12].contains(",12,"));
  }
};

QTEST_GUILESS_MAIN(TestEnergyMonths)
#include "tst_energy_months.moc"
