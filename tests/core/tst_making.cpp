// Weather years made of measured hours, against the year they were measured in.

#ifndef Q_MOC_RUN
#include "core/files/epw.h"
#include "core/files/fetch.h"
#include "core/sky/hour_input.h"
#include "core/sky/measured/weather_making.h"
#include "core/sky/weather_check.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/year_study.h"
#include "tests/house.h"
#endif
#include <QTest>
#include <cmath>

using namespace noonward;
using namespace noonward::test;

namespace {
using F = WeatherField;
using Q = Measured;
bool near(double a, double b, double by) {
  return std::abs(a - b) <= by;
}

struct Wish {
  std::vector<Q> columns{Q::DryBulb, Q::Global};
  double slip = 0; ///< min that stamps are late
  int parts = 6;   ///< of an hour
  int year = 2025;
  std::function<bool(std::size_t)> gone = [](std::size_t) { return false; };
  const Weather* of = nullptr;
};
/// What a station would have written in the demo's year: radiation along the sun's height within the hour.
HourMeans measured(const Wish& wish) {
  const Weather& w = wish.of != nullptr ? *wish.of : *demoWeather();
  HourMeans out(wish.columns.size(), w.utcOffset);
  const SunKnots knots = SunKnots::ofYear(wish.year);
  const Instant first = utc({{wish.year, 1, 1}, 0}) + -w.utcOffset;
  for (std::size_t h = 0; h < w.hours.size(); ++h) {
    if (wish.gone(h)) continue;
    std::vector<double> height;
    double mean = 0;
    for (int k = 0; k < wish.parts; ++k) {
      const Instant t = first + (3600.0 * double(h) + 3600.0 * (k + 0.5) / wish.parts);
      height.push_back(std::max(0.0, std::sin(solarPosition(knots.at(t), w.place).altitude)));
      mean += height.back() / wish.parts;
    }
    for (int k = 0; k < wish.parts; ++k) {
      std::vector<double> values;
      for (Q q : wish.columns) {
        const F f = *facts(q).field;
        const bool sun = q == Q::Global || q == Q::Diffuse || q == Q::GlobalIlluminance || q == Q::DiffuseIlluminance;
        values.push_back(w.hours[h][f] * (sun && mean > 0 ? height[std::size_t(k)] / mean : 1));
      }
      out.add(first + (3600.0 * double(h) + 3600.0 * k / wish.parts + 60 * wish.slip), 3600.0 / wish.parts, values);
    }
  }
  return out;
}
MadeWeather made(const Wish& wish, MakingRules rules = {}) {
  rules.place = wish.of != nullptr ? wish.of->place : demoWeather()->place;
  const HourMeans means = measured(wish);
  auto m = makeWeather(means, wish.columns, rules);
  if (!m) qFatal("%s", m.error().text().c_str());
  return std::move(*m);
}
} // namespace

class TestMaking : public QObject {
  Q_OBJECT
private slots:
  void theYearThatWasMeasuredComesBack() {
    const Weather& truth = *demoWeather();
    const MadeWeather m =
        made({.columns = {Q::DryBulb, Q::RelativeHumidity, Q::Global, Q::Diffuse, Q::WindSpeed, Q::WindDirection}});
    QVERIFY(m.weather.whole() && m.invented() == 0 && m.hours[0] == 8760 && m.year == 2025);
    double beam = 0, known = 0;
    for (std::size_t i = 0; i < 8760; ++i) {
      const WeatherHour &a = m.weather.hours[i], &b = truth.hours[i];
      for (F f : {F::DryBulb, F::RelativeHumidity, F::GlobalHorizontal, F::DiffuseHorizontal, F::WindSpeed})
        QVERIFY2(near(a[f], b[f], 0.051),
                 qPrintable(QString("%1 hour %2: %3 for %4").arg(facts(f).name).arg(i).arg(a[f]).arg(b[f])));
      QVERIFY(near(std::remainder(a[F::WindDirection] - b[F::WindDirection], 360), 0, 0.51));
      beam += std::abs(a[F::DirectNormal] - b[F::DirectNormal]);
      known += b[F::DirectNormal];
    }
    QVERIFY2(beam < 0.02 * known, qPrintable(QString::number(beam / known))); // whole watts, divided by low suns
    QVERIFY(!m.slip || !m.slip->counts());
    // To the last digit the format has.
    const auto back = parseEpw(epwText(m.weather), "made.epw");
    QVERIFY(back && back->digest == m.weather.digest && back->headers[4] == m.weather.headers[4]);
    for (std::size_t i = 0; i < 8760; i += 13) {
      QCOMPARE(back->hours[i].flags, m.weather.hours[i].flags);
      for (std::size_t f = 0; f < weatherFieldCount; ++f) {
        const double a = back->hours[i].values[f], b = m.weather.hours[i].values[f];
        QVERIFY(a == b || (std::isnan(a) && std::isnan(b)));
      }
    }
    QCOMPARE(m.weather.hours[12].flags.size(), 2 * weatherFieldCount);
    QCOMPARE(m.weather.hours[12].flags.substr(0, 8), std::string("A7D8A7?0"));
    QVERIFY(checkWeather(m.weather).findings.empty());
  }

  void aSlipOfTheClockIsFound() {
    for (const double slip : {-45.0, -10.0, 30.0, 60.0}) {
      const MadeWeather one = made({.columns = {Q::Global}, .slip = slip});
      QVERIFY(one.slip && !one.slip->byClosure);
      QVERIFY2(near(one.slip->minutes, -slip, std::max(3.0, 4 * one.slip->error)),
               qPrintable(QString("%1: %2 ± %3").arg(slip).arg(one.slip->minutes).arg(one.slip->error)));
      QVERIFY(one.slip->counts());
      const auto f = std::find_if(one.findings.begin(), one.findings.end(),
                                  [](const Finding& x) { return x.code == "station.slip"; });
      QVERIFY(f != one.findings.end() && f->mend == "station.slip");
      const MadeWeather three = made({.columns = {Q::Global, Q::Diffuse, Q::Beam}, .slip = slip});
      QVERIFY(three.slip && three.slip->byClosure);
      QVERIFY2(near(three.slip->minutes, -slip, 3),
               qPrintable(QString("%1: %2 ± %3").arg(slip).arg(three.slip->minutes).arg(three.slip->error)));
    }
    // Gaps filled under a wrong clock invent no light at the day's ends, where next to none comes from outside.
    const auto gone = [](std::size_t h) { return h % 240 < 30; };
    double sum = 0, truth = 0;
    for (const WeatherHour& h : made({.columns = {Q::Global, Q::Diffuse}, .slip = 30, .gone = gone}).weather.hours)
      sum += h[F::GlobalHorizontal];
    for (const WeatherHour& h : demoWeather()->hours) truth += h[F::GlobalHorizontal];
    QVERIFY2(near(sum / truth, 1, 0.02), qPrintable(QString::number(sum / truth)));
    // South of the equator, and where none is.
    Weather south = *demoWeather();
    south.place.latitude = -south.place.latitude;
    const auto suns = hourSuns(south);
    for (std::size_t i = 0; i < 8760; ++i)
      south.hours[i][F::GlobalHorizontal] = suns[i].up ? 900 * std::max(0.0, std::sin(suns[i].position.altitude)) : 0;
    QVERIFY(near(made({.columns = {Q::Global}, .slip = 20, .of = &south}).slip->minutes, -20, 2));
    QVERIFY(!made({.columns = {Q::Global, Q::Diffuse, Q::Beam}}).slip->counts());
    QVERIFY(!clockSlip(Weather{}, false));
  }

  void gapsAreFilledByTheirLength() {
    const Weather& truth = *demoWeather();
    const std::size_t day = 24 * 170;
    MakingRules rules;
    rules.gaps = {3, 3};
    // Two hours at noon; a day and a half; five days.
    const auto gone = [&](std::size_t h) {
      return (h >= day + 11 && h < day + 13) || (h >= day + 240 && h < day + 276) || (h >= day + 480 && h < day + 600);
    };
    const MadeWeather m = made({.columns = {Q::DryBulb, Q::Global, Q::Diffuse}, .gone = gone}, rules);
    QCOMPARE(m.hours[std::size_t(HourOrigin::Interpolated)], std::size_t(2));
    QCOMPARE(m.hours[std::size_t(HourOrigin::Days)], std::size_t(36));
    QCOMPARE(m.hours[std::size_t(HourOrigin::Missing)], std::size_t(120));
    QCOMPARE(m.invented(), std::size_t(38));
    QVERIFY(inventedHours(m.weather) == std::size_t(38) && partOfYear(m.weather));
    QVERIFY(m.weather.headers[4].find("38 of 8760 hours invented: 2 interpolated; 36 from the days around") !=
            std::string::npos);
    const double a = truth.hours[day + 10][F::DryBulb], b = truth.hours[day + 13][F::DryBulb];
    QVERIFY(near(m.weather.hours[day + 11][F::DryBulb], a + (b - a) / 3, 0.051));
    QVERIFY(m.origin[day + 11] == HourOrigin::Interpolated && m.origin[day + 10] == HourOrigin::Measured);
    QCOMPARE(m.weather.hours[day + 11].flags.substr(0, 2), std::string("B8"));
    // The share of what comes from outside is on the line, not the radiation.
    const auto share = [&](const Weather& w, std::size_t h) {
      return w.hours[h][F::GlobalHorizontal] / m.weather.hours[h][F::ExtraterrestrialHorizontal];
    };
    const double s = share(truth, day + 10), e = share(truth, day + 13);
    QVERIFY(near(share(m.weather, day + 11), s + (e - s) / 3, 2e-3));
    // Days around: the hour of the nearest day on each side. 36 hours from midnight reach into the day after.
    const std::size_t noon = day + 240 + 12;
    QVERIFY(near(m.weather.hours[noon][F::DryBulb],
                 (truth.hours[noon - 24][F::DryBulb] + truth.hours[noon + 24][F::DryBulb]) / 2, 0.051) ||
            near(m.weather.hours[noon][F::DryBulb],
                 (truth.hours[noon - 24][F::DryBulb] + truth.hours[noon + 48][F::DryBulb]) / 2, 0.051));
    QVERIFY(std::isnan(m.weather.hours[day + 540][F::DryBulb]));
    QVERIFY(m.weather.hours[day + 480][F::GlobalHorizontal] == 0); // a night is dark without a measurement
    // Another year's file fills the longest; no rule, no filling.
    rules.other = &truth;
    const MadeWeather full = made({.columns = {Q::DryBulb, Q::Global, Q::Diffuse}, .gone = gone}, rules);
    QCOMPARE(full.hours[std::size_t(HourOrigin::Other)], std::size_t(120));
    QVERIFY(!partOfYear(full.weather) &&
            near(full.weather.hours[day + 540][F::DryBulb], truth.hours[day + 540][F::DryBulb], 0.051));
    rules.other = nullptr;
    rules.gaps = {0, 0};
    QCOMPARE(made({.columns = {Q::DryBulb, Q::Global}, .gone = gone}, rules).hours[5], std::size_t(158));
  }

  void whatCanNotBeIsNotTaken() {
    Weather odd = *demoWeather();
    const std::size_t noon = 24 * 100 + 12;
    odd.hours[noon][F::GlobalHorizontal] = 1900;
    odd.hours[24 * 100 + 1][F::GlobalHorizontal] = 60; // night
    odd.hours[noon + 24][F::GlobalHorizontal] = -3;
    const MadeWeather m = made({.columns = {Q::DryBulb, Q::Global}, .parts = 1, .of = &odd});
    QVERIFY(m.impossible == 1 && m.night == 1 && m.negative == 1);
    QVERIFY(m.weather.hours[noon][F::GlobalHorizontal] < 1000 && m.origin[noon] == HourOrigin::Interpolated);
    QVERIFY(m.weather.hours[24 * 100 + 1][F::GlobalHorizontal] == 0 &&
            m.weather.hours[noon + 24][F::GlobalHorizontal] == 0);
    for (const char* code : {"station.impossible", "station.night", "station.negative"})
      QVERIFY2(std::any_of(m.findings.begin(), m.findings.end(), [&](const Finding& f) { return f.code == code; }),
               code);
  }

  void twoOfThreeGiveTheThird() {
    const Weather& truth = *demoWeather();
    for (const auto& columns : {std::vector<Q>{Q::Global, Q::Beam}, {Q::Beam, Q::Diffuse}, {Q::Global, Q::Diffuse}}) {
      const MadeWeather m = made({.columns = columns});
      const auto suns = hourSuns(m.weather);
      for (std::size_t i = 0; i < 8760; ++i) {
        const WeatherHour& h = m.weather.hours[i];
        if (!suns[i].up) continue;
        const double s = std::max(1e-3, std::sin(suns[i].position.altitude));
        QVERIFY2(near(h[F::GlobalHorizontal], h[F::DirectNormal] * s + h[F::DiffuseHorizontal], 0.3) ||
                     h[F::DiffuseHorizontal] == 0,
                 qPrintable(QString::number(i)));
        if (s > 0.15) QVERIFY(near(h[F::DiffuseHorizontal], truth.hours[i][F::DiffuseHorizontal], 1.1));
      }
    }
    RunControl control;
    for (const auto& columns : {std::vector<Q>{Q::Beam}, {Q::Diffuse}, {Q::DryBulb}}) {
      const HourMeans means = measured({.columns = columns});
      const auto none = makeWeather(means, columns, {.place = truth.place});
      QVERIFY(!none);
    }
    MakingRules wrong{.place = truth.place};
    wrong.year = 1999;
    const std::vector<Q> columns{Q::Global};
    const HourMeans means = measured({.columns = columns});
    const auto none = makeWeather(means, columns, wrong);
    QVERIFY(!none);
    QCOMPARE(none.error().message, std::string("No reading lies in 1999."));
    QVERIFY(!makeWeather(HourMeans(1, 0), columns, wrong));
  }

  void irradianceFollowsFromIlluminance() {
    // Illuminance by the efficacies of the same source: what comes back is the irradiance it was made from.
    Weather w = *demoWeather();
    const auto suns = hourSuns(w);
    for (std::size_t i = 0; i < 8760; ++i) {
      const auto in = perezOf(w.hours[i], suns[i], 0);
      const bool lit = in && suns[i].up && in->diffuseHorizontal > 0;
      const PerezState s = lit ? perezState(*in) : PerezState{};
      w.hours[i][F::DiffuseIlluminance] = lit ? in->diffuseHorizontal * s.diffuseEfficacy : 0;
      w.hours[i][F::GlobalIlluminance] =
          lit ? w.hours[i][F::DiffuseIlluminance] +
                    in->directNormal * s.directEfficacy * std::max(0.0, std::sin(suns[i].position.altitude))
              : 0;
    }
    const MadeWeather m =
        made({.columns = {Q::DryBulb, Q::DewPoint, Q::GlobalIlluminance, Q::DiffuseIlluminance}, .of = &w});
    double off = 0, all = 0, offDiffuse = 0, allDiffuse = 0;
    for (std::size_t i = 0; i < 8760; ++i) {
      if (suns[i].position.altitude < radians(5)) continue;
      off += std::abs(m.weather.hours[i][F::GlobalHorizontal] - w.hours[i][F::GlobalHorizontal]);
      all += w.hours[i][F::GlobalHorizontal];
      offDiffuse += std::abs(m.weather.hours[i][F::DiffuseHorizontal] - w.hours[i][F::DiffuseHorizontal]);
      allDiffuse += w.hours[i][F::DiffuseHorizontal];
    }
    QVERIFY2(off < 0.02 * all && offDiffuse < 0.03 * allDiffuse,
             qPrintable(QString("%1 %2").arg(off / all).arg(offDiffuse / allDiffuse)));
    QVERIFY(m.weather.headers[4].find("efficacies") != std::string::npos);
    QCOMPARE(m.weather.hours[12].flags.substr(14, 2), std::string("D8"));
  }

  void aPartOfAYearIsAStudyOfItsHours() {
    // From May to August alone.
    const MadeWeather m =
        made({.columns = {Q::DryBulb, Q::Global}, .gone = [](std::size_t h) { return h < 24 * 120 || h >= 24 * 243; }});
    QVERIFY(partOfYear(m.weather) && m.hours[0] == 123 * 24);
    Project p = houseOfTheYear(1.5);
    p.site.weather = std::make_shared<const Weather>(m.weather);
    YearSettings s;
    s.error = 0.2;
    s.stopFor = StopFor::Nothing;
    const auto in = yearInput(p, {}, s);
    QVERIFY2(in, in ? "" : in.error().text().c_str());
    QVERIFY(
        std::any_of(in->findings.begin(), in->findings.end(), [](const Finding& f) { return f.code == "year.part"; }));
    const std::size_t counted = std::size_t(std::count(in->mask.begin(), in->mask.end(), true));
    QCOMPARE(counted, std::size_t(123 * 10));
    for (std::size_t i = 0; i < 8760; ++i) QVERIFY(!in->mask[i] || (i >= 24 * 120 && i < 24 * 243));
    // A file with the same hours missing that does not say so is refused, as before.
    Weather silent = m.weather;
    silent.headers[4] = "COMMENTS 1,";
    finishWeather(silent);
    p.site.weather = std::make_shared<const Weather>(silent);
    const auto refused = yearInput(p, {}, s);
    QVERIFY(!refused && refused.error().message.find("Fill its gaps first") != std::string::npos);
  }

  void aYearWith29FebruaryHas8760Hours() {
    HourMeans means(1, 0);
    const Instant first = utc({{2024, 1, 1}, 0});
    for (int h = 0; h < 366 * 24; ++h)
      means.add(first + 3600.0 * h, 3600, std::vector<double>{h / 24 == 59 ? 999.0 : 100.0});
    const std::vector<Q> columns{Q::GlobalIlluminance};
    const auto m = makeWeather(means, columns, {.place = demoWeather()->place});
    QVERIFY2(m, m ? "" : m.error().text().c_str());
    QVERIFY(m->year == 2024 && m->weather.whole() && m->hours[5] == 0);
    for (std::size_t i = 0; i < 8760; ++i)
      QVERIFY(m->weather.hours[i][F::GlobalIlluminance] <= 100.0); // the day itself is in no weather year
  }

  void theCleanestAirBoundsTheBeam() {
    // Kasten: at one air mass the clean dry atmosphere's thickness is 0.12.
    QVERIFY(near(cleanAirShare(radians(90)), std::exp(-0.8662 / (6.6296 + 1.7513 - 0.1202 + 0.0065 - 0.00013)), 1e-3));
    QVERIFY(near(cleanAirShare(radians(90)), 0.9, 0.005) && near(cleanAirShare(0), 0.42, 0.03));
    for (int h = 0; h < 90; ++h) QVERIFY(cleanAirShare(radians(h)) < cleanAirShare(radians(h + 1)));
  }

  void pagesAreLookedThroughForYears() {
    const auto links = linkedWeather("<a href=\"/a.epw\">x</a> <A HREF='b/c.zip?x=1'>y</A> <a "
                                     "href=\"http://else.where/d.EPW\">z</a> <a href=\"e.html\">",
                                     "http://here.is/years/index.html");
    QCOMPARE(links, (std::vector<std::string>{"http://here.is/a.epw", "http://here.is/years/b/c.zip?x=1",
                                              "http://else.where/d.EPW"}));
    QVERIFY(linkedWeather("", "http://here.is").empty());
  }
};

QTEST_GUILESS_MAIN(TestMaking)
#include "tst_making.moc"
