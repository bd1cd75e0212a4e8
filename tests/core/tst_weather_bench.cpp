// Radiation split into beam and diffuse, years shifted to a warmer climate, computed against measured: against closed
// forms and hand cases.

#ifndef Q_MOC_RUN
#include "core/files/epw.h"
#include "core/files/weather_json.h"
#include "core/sky/splitting.h"
#include "core/sky/weather_means.h"
#include "core/studies/agreement.h"
#include "tests/house.h"
#endif
#include <QTest>
#include <cmath>

using namespace noonward;
using namespace noonward::test;

namespace {
using F = WeatherField;
bool near(double a, double b, double by) {
  return std::abs(a - b) <= by;
}
} // namespace

class TestWeatherBench : public QObject {
  Q_OBJECT
private slots:
  void theModelsFollowTheirFormulas() {
    // Erbs at the joints of its three pieces, which meet to 0.005, and its polynomial worked by hand.
    QVERIFY(near(erbsDiffuseShare(0), 1, 1e-12) && near(erbsDiffuseShare(0.22), 1 - 0.09 * 0.22, 1e-12));
    QVERIFY(near(erbsDiffuseShare(0.22), erbsDiffuseShare(0.2200001), 5e-3));
    QVERIFY(near(erbsDiffuseShare(0.8), erbsDiffuseShare(0.8000001), 5e-3) && erbsDiffuseShare(1.1) == 0.165);
    QVERIFY(near(erbsDiffuseShare(0.5), 0.9511 - 0.0802 + 1.097 - 2.07975 + 0.771, 1e-12));
    // The logistic curve is a half where its exponent is nothing, and falls with every clearness.
    BrlPredictors p{.clearness = 0.5, .solarTime = 12, .altitude = 0, .dayClearness = 0.5, .persistence = 0};
    p.persistence = (5.38 - 6.63 * 0.5 - 0.006 * 12 - 1.75 * 0.5) / 1.31;
    QVERIFY(near(brlDiffuseShare(p), 0.5, 1e-12));
    for (double BrlPredictors::*of :
         {&BrlPredictors::clearness, &BrlPredictors::dayClearness, &BrlPredictors::persistence}) {
      BrlPredictors clearer = p;
      clearer.*of += 0.1;
      QVERIFY(brlDiffuseShare(clearer) < brlDiffuseShare(p));
    }
    BrlPredictors higher = p;
    higher.altitude += radians(10);
    QVERIFY(near(brlDiffuseShare(higher), 1 / (1 + std::exp(-0.07)), 1e-12));
    for (const SplitModel m : {SplitModel::Erbs, SplitModel::Brl}) QVERIFY(splitModelFromKey(splitModelKey(m)) == m);
    QVERIFY(!splitModelFromKey("other"));
  }

  void splitsCloseInEveryHour() {
    const Weather& w = *demoWeather();
    for (const SplitModel model : {SplitModel::Erbs, SplitModel::Brl}) {
      const SplitYear y = splitGlobal(w, model);
      QCOMPARE(y.hours.size(), w.hours.size());
      const auto suns = hourSuns(w);
      int up = 0;
      for (std::size_t i = 0; i < y.hours.size(); ++i) {
        const SplitHour& s = y.hours[i];
        QCOMPARE(s.up, suns[i].up);
        if (!s.up) {
          QVERIFY(s.beam == 0 && s.diffuse == 0);
          continue;
        }
        ++up;
        const double sum = s.diffuse + s.beam * std::max(1e-3, std::sin(s.altitude));
        QVERIFY2(near(sum, std::max(0.0, w.hours[i][F::GlobalHorizontal]), 0.01),
                 qPrintable(QString("hour %1: %2").arg(i).arg(sum)));
        QVERIFY(s.beam >= 0 && s.beam < 1415 && s.diffuse >= -1e-9);
      }
      QVERIFY(up > 4000);
      // The year as a file has it: its own columns, its comment, whole again when read.
      const Weather with = withSplit(w, model, y);
      QVERIFY(with.headers[4].find(splitModelText(model)) == std::string::npos || !with.headers[4].empty());
      QVERIFY2(with.headers[4].find("split from global") != std::string::npos, with.headers[4].c_str());
      QVERIFY(!(with.digest == w.digest));
      const auto back = parseEpw(epwText(with), "split.epw");
      QVERIFY2(back, back ? "" : back.error().text().c_str());
      QVERIFY(back->whole() && back->headers[4] == with.headers[4]);
      for (std::size_t i = 0; i < w.hours.size(); i += 97)
        QVERIFY(near(back->hours[i][F::DirectNormal], with.hours[i][F::DirectNormal], 0.51));
    }
  }

  void aCloudlessAndAnOvercastHourComeOutSo() {
    // Global made of known shares: where clearness is low all is diffuse, where it is high most is beam.
    Weather w = *demoWeather();
    const auto suns = hourSuns(w);
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      const double cosZ = suns[i].up ? std::sin(suns[i].position.altitude) : 0;
      w.hours[i][F::GlobalHorizontal] = 1361 * cosZ * (i / 24 % 2 == 0 ? 0.1 : 0.75);
    }
    w.hours[12][F::GlobalHorizontal] = std::nan("");
    for (const SplitModel model : {SplitModel::Erbs, SplitModel::Brl}) {
      const SplitYear y = splitGlobal(w, model);
      QCOMPARE(y.unknown, std::size_t(1));
      int dull = 0, clear = 0;
      for (std::size_t i = 0; i < y.hours.size(); ++i) {
        const SplitHour& s = y.hours[i];
        if (!s.up || s.altitude < radians(15)) continue;
        if (i / 24 % 2 == 0) {
          QVERIFY2(s.diffuseShare > 0.93, qPrintable(QString::number(s.diffuseShare)));
          ++dull;
        } else {
          QVERIFY2(s.diffuseShare < 0.3, qPrintable(QString::number(s.diffuseShare)));
          ++clear;
        }
      }
      QVERIFY(dull > 1000 && clear > 1000);
    }
    // Brighter than what comes from outside: the beam is held there, closure is kept, and it is counted.
    for (WeatherHour& h : w.hours) h[F::GlobalHorizontal] *= 3;
    const SplitYear y = splitGlobal(w, SplitModel::Erbs);
    QVERIFY(y.held > 1000);
    for (std::size_t i = 0; i < y.hours.size(); ++i)
      if (y.hours[i].up)
        QVERIFY(near(y.hours[i].diffuse + y.hours[i].beam * std::max(1e-3, std::sin(y.hours[i].altitude)),
                     w.hours[i][F::GlobalHorizontal], 0.01 + 1e-3 * w.hours[i][F::GlobalHorizontal]));
  }

  void columnsHaveTheirMonthsAndDays() {
    Weather w = *demoWeather();
    for (std::size_t i = 0; i < w.hours.size(); ++i)
      w.hours[i][F::DryBulb] = w.hours[i].month + 0.01 * (w.hours[i].hour - 12.5);
    w.hours[5][F::DryBulb] = std::nan("");
    const auto months = columnByMonth(w, F::DryBulb);
    const auto hours = columnByHour(w, F::DryBulb);
    for (std::size_t m = 0; m < 12; ++m) {
      QVERIFY(near(months[m].mean, double(m) + 1, m == 0 ? 1e-3 : 1e-9));
      QVERIFY(near(months[m].low, double(m) + 1 - 0.095, 0.011) && near(months[m].high, double(m) + 1 + 0.095, 0.011));
      for (std::size_t h = 0; h < 24; ++h) QVERIFY(near(hours[m][h], double(m) + 1 + 0.01 * (double(h) - 11.5), 1e-9));
    }
    QCOMPARE(months[0].hours, std::size_t(31 * 24 - 1));
    QCOMPARE(months[1].hours, std::size_t(28 * 24));
    Weather none;
    QVERIFY(std::isnan(columnByMonth(none, F::DryBulb)[3].mean) && std::isnan(columnByHour(none, F::DryBulb)[3][4]));
  }

  void yearsAreMixedAndMoved() {
    const Weather& w = *demoWeather();
    WeatherShift warm;
    warm.warmer = everyMonth(3);
    const Weather other = shifted(w, warm).weather;
    const auto winter = mixed(w, other, 12, 2); // over the turn of the year
    QVERIFY(winter);
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      const int m = w.hours[i].month;
      QCOMPARE(winter->hours[i][F::DryBulb], (m == 12 || m <= 2 ? other : w).hours[i][F::DryBulb]);
    }
    QVERIFY(winter->whole() && !(winter->digest == w.digest));
    QVERIFY(winter->headers[4].find("Dec to Feb from") != std::string::npos);
    const auto a = monthsOf(w), b = monthsOf(*winter);
    QVERIFY(near(b[0].temperature - a[0].temperature, 3, 1e-9) && near(b[5].temperature, a[5].temperature, 1e-12));
    QVERIFY(near(b[12].global, a[12].global, 1e-9) && a[12].hours == 8760);
    double sum = 0;
    for (std::size_t m = 0; m < 12; ++m) sum += a[m].global;
    QVERIFY(near(sum, a[12].global, 1e-6));
    Weather part = w;
    part.hours.pop_back();
    QVERIFY(!mixed(part, other, 1, 2) && !mixed(w, part, 1, 2));
    Weather far = other;
    far.place.latitude += 0.1;
    QVERIFY(!mixed(w, far, 1, 2));
    // There and back again are the same bits; an hour late has its light at night, as the check says.
    const Weather late = movedInTime(w, 1), back = movedInTime(late, -1);
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      QCOMPARE(late.hours[(i + 1) % 8760][F::GlobalHorizontal], w.hours[i][F::GlobalHorizontal]);
      QCOMPARE(back.hours[i][F::GlobalHorizontal], w.hours[i][F::GlobalHorizontal]);
      QCOMPARE(late.hours[i].hour, w.hours[i].hour);
    }
  }

  void aYearIsShiftedByItsMonths() {
    const Weather& w = *demoWeather();
    WeatherShift s;
    s.name = "warmer, by two degrees";
    s.warmer[0] = 2;
    s.stretch[6] = 1.5;
    s.humidity = everyMonth(-5);
    s.radiation[5] = 1.1;
    const ShiftedWeather out = shifted(w, s);
    std::array<double, 13> before{}, after{}, spreadBefore{}, spreadAfter{}, n{};
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      const auto m = std::size_t(w.hours[i].month);
      before[m] += w.hours[i][F::DryBulb], after[m] += out.weather.hours[i][F::DryBulb], ++n[m];
    }
    for (std::size_t m = 1; m <= 12; ++m) before[m] /= n[m], after[m] /= n[m];
    for (std::size_t i = 0; i < w.hours.size(); ++i) {
      const auto m = std::size_t(w.hours[i].month);
      spreadBefore[m] += std::pow(w.hours[i][F::DryBulb] - before[m], 2);
      spreadAfter[m] += std::pow(out.weather.hours[i][F::DryBulb] - after[m], 2);
      const double humid = w.hours[i][F::RelativeHumidity] - 5;
      QVERIFY(near(out.weather.hours[i][F::RelativeHumidity], std::clamp(humid, 0.0, 100.0), 1e-9));
      const double times = m == 6 ? 1.1 : 1;
      for (const F f : {F::GlobalHorizontal, F::DirectNormal, F::DiffuseHorizontal})
        QVERIFY(near(out.weather.hours[i][f], times * w.hours[i][f], 1e-9));
      QVERIFY(out.weather.hours[i][F::DewPoint] <= out.weather.hours[i][F::DryBulb] + 1e-9);
    }
    for (std::size_t m = 1; m <= 12; ++m) {
      QVERIFY(near(after[m] - before[m], m == 1 ? 2 : 0, 1e-9)); // a stretch keeps the mean
      QVERIFY(near(std::sqrt(spreadAfter[m] / spreadBefore[m]), m == 7 ? 1.5 : 1, 1e-9));
    }
    const std::string& told = out.weather.headers[4];
    QVERIFY2(told.find("Shifted (warmer; by two degrees)") != std::string::npos, told.c_str());
    QVERIFY(told.find("-5 points") != std::string::npos);
    QVERIFY(!(out.weather.digest == w.digest));
    // Nothing asked, nothing changed but what is said.
    const ShiftedWeather same = shifted(w, {});
    for (std::size_t i = 0; i < w.hours.size(); ++i)
      for (std::size_t f = 0; f < weatherFieldCount; ++f) {
        const double a = same.weather.hours[i].values[f], b = w.hours[i].values[f];
        QVERIFY(a == b || (std::isnan(a) && std::isnan(b)));
      }
    // Dew point at 20 °C and 50 %: 9.3 °C in the tables.
    Weather one = w;
    one.hours.resize(1);
    one.hours[0][F::DryBulb] = 18;
    one.hours[0][F::RelativeHumidity] = 50;
    WeatherShift two;
    two.warmer = everyMonth(2);
    QVERIFY(near(shifted(one, two).weather.hours[0][F::DewPoint], 9.27, 0.05));
  }

  void changesOfAYearAreRead_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("says"); // empty: sound
    const QString head = R"({"format": "noonward-weather-shift", )";
    QTest::newRow("one for all") << head + R"("warmer": 2.5})"
                                 << "";
    QTest::newRow("twelve") << head + R"("humidity": [1,2,3,4,5,6,7,8,9,10,11,12], "radiation": 1.02})"
                            << "";
    QTest::newRow("eleven") << head + R"("warmer": [1,2,3,4,5,6,7,8,9,10,11]})"
                            << "list of twelve";
    QTest::newRow("too warm") << head + R"("warmer": 40})"
                              << "-30 to 30";
    QTest::newRow("a text") << head + R"("wind": "much"})"
                            << "0 to 10";
    QTest::newRow("unknown") << head + R"("warmth": 2})"
                             << "\"warmth\" is no key";
    QTest::newRow("no format") << R"({"warmer": 2})"
                               << "noonward-weather-shift";
    QTest::newRow("no JSON") << "warmer: 2"
                             << "no JSON object";
  }
  void changesOfAYearAreRead() {
    QFETCH(QString, text);
    QFETCH(QString, says);
    const auto s = weatherShiftFromJson(text.toStdString(), "shift.json");
    if (says.isEmpty()) {
      QVERIFY2(s, s ? "" : s.error().text().c_str());
      QVERIFY(s->warmer == everyMonth(2.5) || (s->humidity[11] == 12 && s->radiation == everyMonth(1.02)));
    } else {
      QVERIFY(!s);
      QVERIFY2(s.error().text().find(says.toStdString()) != std::string::npos, s.error().text().c_str());
      QVERIFY(s.error().text().find("shift.json") != std::string::npos);
    }
  }

  void agreementIsThatOfHandCases() {
    const double none = std::nan("");
    const std::vector<double> o{1, 2, 3, 4}, m{2, 2, 5, 3};
    const Agreement a = agreement(m, o);
    QCOMPARE(a.n, std::size_t(4));
    QVERIFY(near(a.mbe, 0.5, 1e-15) && near(a.rmse, std::sqrt(6 / 4.0), 1e-15));
    QVERIFY(near(a.nmbe, 0.5 / 2.5, 1e-15) && near(a.cvRmse, std::sqrt(1.5) / 2.5, 1e-15));
    // About the means: Σxy = 3, Σxx = 6, Σyy = 5.
    QVERIFY(near(a.r2, 9.0 / 30, 1e-15) && near(a.slope, (2 + 4 + 15 + 12) / 30.0, 1e-15));
    const Agreement same = agreement(o, o);
    QVERIFY(same.mbe == 0 && same.rmse == 0 && near(same.r2, 1, 1e-15) && near(same.slope, 1, 1e-15));
    // A shift and a factor: R² sees neither.
    std::vector<double> off;
    for (double v : o) off.push_back(3 * v + 1e9);
    QVERIFY(near(agreement(off, o).r2, 1, 1e-9));
    const Agreement gaps = agreement(std::vector<double>{1, none, 3, 4, 9}, std::vector<double>{1, 2, none, 6});
    QVERIFY(gaps.n == 2 && gaps.leftOut == 3 && near(gaps.mbe, -1, 1e-15) && near(gaps.rmse, std::sqrt(2.0), 1e-15));
    const Agreement nothing = agreement(std::vector<double>{none}, o);
    QVERIFY(nothing.n == 0 && std::isnan(nothing.rmse) && nothing.leftOut == 4);
    QVERIFY(std::isnan(agreement(std::vector<double>{1, 1}, std::vector<double>{1, 2}).r2));
    QVERIFY(std::isnan(agreement(std::vector<double>{1, 2}, std::vector<double>{0, 0}).nmbe));
  }
};

QTEST_APPLESS_MAIN(TestWeatherBench)
#include "tst_weather_bench.moc"
