// Irradiation: parts that add up, hours that count, errors that are honest, the same bits, and what is refused.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/files/results/tables.h"
#include "core/model/form/edit.h"
#include "core/model/settings/study_fields.h"
#include "core/proof/light_cases.h"
#include "core/studies/irradiation.h"
#include "tests/house.h"
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

Study energyStudy(const std::function<void(LightSettings&)>& change = {}) {
  Study s;
  s.id = {1};
  s.kind = StudyKind::Irradiation;
  if (change) change(s.light);
  return s;
}
LightResult run(const Project& p, const Study& s, Threads threads = {}, bool before = false) {
  const auto in = lightInput(p, s, before);
  if (!in) throw std::runtime_error(in.error().text());
  RunControl control;
  return runLight(*in, control, threads);
}
std::string faultOf(const Project& p, const Study& s) {
  const auto in = lightInput(p, s);
  return in ? std::string() : in.error().text();
}

Project place(std::vector<PointSensor> points) {
  Project p;
  p.site.place = {radians(52), 0, 0};
  p.site.zone = "Europe/London";
  p.site.weather = madeUpYear(p.site.place);
  p.site.groundLevel = 0;
  SensorGroup g;
  g.id = {2};
  g.name = "Spots";
  g.layout = std::move(points);
  p.groups.push_back(std::move(g));
  return p;
}
void addMass(Project& p, std::uint64_t id, Outline outline, double height, bool proposed = false) {
  Element e;
  e.id = {id};
  e.name = "Mass " + std::to_string(id);
  e.proposed = proposed;
  e.shape = Mass{std::move(outline), 0, height, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
}
/// Spots between blocks, level and upright.
Project court(int n = 120) {
  std::vector<PointSensor> spots;
  for (int k = 0; k < n; ++k) {
    const double x = -9 + 18.0 * k / n;
    spots.push_back(k % 2 ? PointSensor{{x, 1.0, 0.01}, {0, 0, 1}, ""} : PointSensor{{x, 9.99, 3}, {0, -1, 0}, ""});
  }
  Project p = place(std::move(spots));
  addMass(p, 10, rectangle(-10, -18, 4, -8), 14);
  addMass(p, 11, rectangle(-12, 10, 12, 20), 9);
  addMass(p, 12, rectangle(12, -8, 16, 10), 20, true);
  return p;
}

class TestIrradiation : public QObject {
  Q_OBJECT
private slots:
  void thePartsMakeTheWhole() {
    const LightResult r = run(court(), energyStudy());
    QCOMPARE(r.direct.size(), r.value.size());
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      QVERIFY2(r.value[i] > 0, qPrintable(QString::number(i)));
      QVERIFY(std::abs(r.direct[i] + r.sky[i] + r.reflected[i] - r.value[i]) < 1e-4f * r.value[i]);
      QVERIFY(r.direct[i] >= 0 && r.sky[i] >= 0 && r.reflected[i] >= 0);
    }
  }

  /// ± 2 standard errors hold the truth, taken from a long run with another seed, for 95 % of the sensors.
  void itsErrorsAreHonest() {
    const Project p = court(200);
    const LightResult truth = run(p, energyStudy([](LightSettings& s) {
                                    s.error = 0.003;
                                    s.seed = 77;
                                  }));
    int within = 0, all = 0;
    for (std::uint64_t seed : {1, 2, 3, 4, 5}) {
      const LightResult r = run(p, energyStudy([&](LightSettings& s) {
                                  s.error = 0.02;
                                  s.seed = seed;
                                }));
      for (std::size_t i = 0; i < r.value.size(); ++i) {
        within += std::abs(double(r.value[i]) - double(truth.value[i])) <=
                  2 * std::hypot(double(r.standardError[i]), double(truth.standardError[i]));
        ++all;
        QVERIFY(double(r.standardError[i]) <= 0.0201 * double(r.value[i]));
      }
    }
    QVERIFY2(within >= 0.93 * all, qPrintable(QString("%1 of %2").arg(within).arg(all)));
    QVERIFY2(within < all, "no error is so large that it always holds");
  }

  void sameBitsForAnyNumberOfThreads() {
    const LightResult one = run(court(), energyStudy(), {1});
    for (int threads : {2, 7}) {
      const LightResult many = run(court(), energyStudy(), {threads});
      QCOMPARE(many.value, one.value);
      QCOMPARE(many.standardError, one.standardError);
      QCOMPARE(many.direct, one.direct);
    }
  }

  void farFromTheOriginItIsTheSame() {
    Project p = place({{{0, 0, 0.5}, {0, 0, 1}, ""}}), far = place({{{4e3, -3e3, 0.5}, {0, 0, 1}, ""}});
    addMass(p, 3, rectangle(-8, -9, 8, -5), 7);
    addMass(far, 3, rectangle(4e3 - 8, -3e3 - 9, 4e3 + 8, -3e3 - 5), 7);
    const auto a = run(p, energyStudy()), b = run(far, energyStudy());
    QVERIFY(std::abs(a.direct[0] - b.direct[0]) < 0.002f * a.direct[0]);
    QVERIFY(std::abs(a.value[0] - b.value[0]) < 3 * (a.standardError[0] + b.standardError[0]));
  }

  // ---- hours

  void monthsAddUpToTheYear() {
    const Project p = court(24);
    const LightResult year = run(p, energyStudy());
    std::vector<double> direct(24, 0), sky(24, 0);
    for (int month = 1; month <= 12; ++month) {
      const LightResult r = run(p, energyStudy([&](LightSettings& s) {
                                  s.season.fromMonth = s.season.toMonth = month;
                                  s.season.fromDay = 1;
                                  s.season.toDay = 31;
                                }));
      for (std::size_t i = 0; i < 24; ++i) {
        direct[i] += double(r.direct[i]);
        sky[i] += double(r.sky[i]);
      }
    }
    for (std::size_t i = 0; i < 24; ++i) {
      QVERIFY2(std::abs(direct[i] - double(year.direct[i])) < 0.004 * direct[i] + 0.5,
               qPrintable(QString("%1: %2 and %3").arg(i).arg(direct[i]).arg(year.direct[i])));
      QVERIFY(std::abs(sky[i] - double(year.sky[i])) < 0.03 * sky[i]);
    }
  }

  void clockWindowsFollowSummerTime() {
    const Project p = place({});
    Season noon;
    noon.beginMinute = 12 * 60;
    noon.endMinute = 13 * 60;
    const std::vector<bool> hours = hoursOfSeason(p, noon);
    QCOMPARE(std::size_t(std::count(hours.begin(), hours.end(), true)), std::size_t(365));
    QVERIFY(hours[12]);                            // 1 January: the record that ends at 13:00
    QVERIFY(hours[24 * (31 + 28 + 31 + 30) + 11]); // 1 May under summer time: the one before
    QVERIFY(!hours[24 * (31 + 28 + 31 + 30) + 12]);
  }

  void seasonsMayCrossNewYear() {
    const Project p = place({});
    Season winter;
    winter.fromMonth = 12;
    winter.fromDay = 30;
    winter.toMonth = 1;
    winter.toDay = 2;
    const std::vector<bool> hours = hoursOfSeason(p, winter);
    QCOMPARE(std::count(hours.begin(), hours.end(), true), std::ptrdiff_t(4 * 24));
    QVERIFY(hours.front() && hours.back());
  }

  void aDailyMeanIsTheSumByItsDays() {
    const auto june = [](EnergyAmount amount) {
      return energyStudy([&](LightSettings& s) {
        s.season.fromMonth = s.season.toMonth = 6;
        s.season.fromDay = 1;
        s.season.toDay = 30;
        s.amount = amount;
      });
    };
    const Project p = place({{{0, 0, 1}, {0, 0, 1}, ""}});
    const LightResult sum = run(p, june(EnergyAmount::Total)), mean = run(p, june(EnergyAmount::DailyMean));
    QVERIFY(std::abs(sum.value[0] / 30 - mean.value[0]) < 1e-4f * mean.value[0]);
    QCOMPARE(sum.unitText(), std::string("kWh/m²"));
    QCOMPARE(mean.unitText(), std::string("kWh/m² a day"));
  }

  // ---- what stands in the way

  void glassTakesItsShare() {
    Project p = place({{{0, 0, 0.5}, {0, 0, 1}, ""}});
    const LightResult open = run(p, energyStudy());
    p.glazings = {{"Pane", 0.6, 1}};
    Element e;
    e.id = {5};
    e.role = Role::Glazing;
    e.finish = "Pane";
    e.shape = Plate{{{-400, -400, 3}, {400, -400, 3}, {400, 400, 3}, {-400, 400, 3}}};
    p.elements.push_back(std::make_shared<const Element>(e));
    const LightResult under = run(p, energyStudy());
    const double kept = double(under.direct[0] / open.direct[0]);
    QVERIFY2(kept < 0.6 && kept > 0.48, qPrintable(QString::number(kept))); // oblique sun loses more than at 0°
    const double sky = double(under.sky[0] / open.sky[0]);
    QVERIFY2(sky < 0.6 && sky > 0.48, qPrintable(QString::number(sky)));
  }

  void aClosedRoomIsExactlyDark() {
    Project p = house({.ratio = 0, .spacing = 1.5});
    p.site.weather = madeUpYear(p.site.place);
    const LightResult r = run(p, energyStudy());
    QVERIFY(!r.value.empty());
    for (float v : r.value) QCOMPARE(v, 0.0f);
  }

  void windowsLightARoom() {
    Project p = house({.ratio = 0.4, .spacing = 1.5});
    p.site.weather = madeUpYear(p.site.place);
    const LightResult r = run(p, energyStudy([](LightSettings& s) { s.error = 0.1; }));
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      QVERIFY(r.value[i] > 0);
      QVERIFY(r.value[i] < 600);
    }
  }

  void theProposalTakesAndItsAbsenceGives() {
    const Project p = court();
    const LightResult now = run(p, energyStudy()), before = run(p, energyStudy(), {}, true);
    int less = 0;
    for (std::size_t i = 0; i < now.value.size(); ++i) {
      QVERIFY(now.direct[i] <= before.direct[i] + 1e-3f); // a mass more never lets more sun through
      less += now.direct[i] < before.direct[i] - 1;
    }
    QVERIFY(less > 20);
  }

  // ---- together

  void energyIsCountedByAreaAndSide() {
    Project p = place({});
    p.groups.clear();
    addMass(p, 7, rectangle(0, 0, 10, 8), 6);
    SensorGroup g;
    g.id = {3};
    g.name = "Box";
    FaceGrid grid;
    grid.faces.push_back({{7}, {}});
    grid.roofs = true;
    g.layout = grid;
    p.groups.push_back(g);
    const auto in = lightInput(p, energyStudy());
    QVERIFY(in.has_value());
    RunControl control;
    const LightResult r = runLight(*in, control);
    const EnergyTotal all = energyTotal(in->sensors, r, 0, r.value.size(), 900);
    QVERIFY2(std::abs(all.area - (10 * 8 + 2 * 6 * 18)) < 0.5, qPrintable(QString::number(all.area)));
    QVERIFY(std::abs(all.direct + all.sky + all.reflected - all.energy) < 1e-3 * all.energy);
    double area = 0, energy = 0;
    QStringList names;
    for (const EnergyBySide& s : energyBySide(in->sensors, r, 0, r.value.size(), 900, 0)) {
      area += s.total.area;
      energy += s.total.energy;
      names << QString::fromStdString(s.side);
      if (s.side == "facing up") QVERIFY(std::abs(s.total.area - 80) < 0.2);
      if (s.side == "north") QVERIFY(s.total.mean() < 400);
    }
    QCOMPARE(names, (QStringList{"facing up", "north", "east", "south", "west"}));
    QVERIFY(std::abs(area - all.area) < 1e-6 * area);
    QVERIFY(std::abs(energy - all.energy) < 1e-6 * energy);
    QVERIFY(all.areaAtLeast > 79 && all.areaAtLeast < all.area); // the roof, and no shaded wall
    // Drawn a quarter turn, the sides follow true north.
    const auto turned = energyBySide(in->sensors, r, 0, r.value.size(), 900, pi / 2);
    QCOMPARE(turned[2].side, std::string("east"));
    QVERIFY(std::abs(turned[2].total.area - 60) < 0.2); // the drawing's north wall, 10 × 6 m
  }

  void pointsHaveNoArea() {
    const Project p = place({{{0, 0, 1}, {0, 0, 1}, ""}});
    const auto in = lightInput(p, energyStudy());
    RunControl control;
    const LightResult r = runLight(*in, control);
    QCOMPARE(energyTotal(in->sensors, r, 0, 1, 100).area, 0.0);
  }

  void itsTableHasTheParts() {
    const Project p = court(4);
    const auto in = lightInput(p, energyStudy());
    RunControl control;
    const LightResult now = runLight(*in, control);
    const QString plain = QString::fromStdString(lightCsv(in->sensors, now));
    QCOMPARE(plain.section('\n', 0, 0), QString("sensor,x,y,z,nx,ny,nz,value,standard_error,direct,sky,reflected"));
    const LightResult before = run(p, energyStudy(), {}, true);
    const QString both = QString::fromStdString(lightCsv(in->sensors, now, &before));
    QVERIFY(both.section('\n', 0, 0).endsWith(",reflected,before,difference"));
    const QStringList row = both.section('\n', 1, 1).split(',');
    QCOMPARE(row.size(), 14);
    QVERIFY(std::abs(row[12].toDouble() + row[13].toDouble() - row[7].toDouble()) < 1e-3 * row[7].toDouble());
  }

  void whyItIsSo() {
    const Project p = court(6);
    const auto in = lightInput(p, energyStudy());
    RunControl control;
    const LightResult r = runLight(*in, control);
    QString all;
    for (const std::string& s : explain(*in, &r, 1).sentences) all += QString::fromStdString(s) + "\n";
    QVERIFY2(all.contains("kWh/m² from"), qPrintable(all));
    QVERIFY2(all.contains("come from the sun straight") && all.contains("by reflection"), qPrintable(all));
    QVERIFY2(all.contains("% of it is hidden"), qPrintable(all));
  }

  // ---- files and words

  void itsSettingsSurviveAFile() {
    Project p = place({{{0, 0, 1}, {0, 0, 1}, ""}});
    Study s = energyStudy([](LightSettings& l) {
      l.season.fromMonth = 4;
      l.season.toMonth = 9;
      l.season.toDay = 30;
      l.season.beginMinute = 480;
      l.amount = EnergyAmount::DailyMean;
    });
    p.studies.push_back(s);
    Study moment = energyStudy([](LightSettings& l) {
      l.sky.kind = SkyKind::Uniform;
      l.sky.diffuseIrradiance = 120;
      l.sky.directIrradiance = 430;
      l.sky.moment = CivilTime{{2026, 6, 21}, 43200};
    });
    moment.id = {4};
    p.studies.push_back(moment);
    p.site.weather.reset();
    const std::string text = projectText(p, "");
    const auto back = parseProject(text, "t.noonward", "");
    QVERIFY2(back.has_value(), back ? "" : back.error().text().c_str());
    QVERIFY(back->project.studies[0].light == s.light);
    QVERIFY(back->project.studies[1].light == moment.light);
    QVERIFY(text.find("usual") == text.npos); // what nobody chose is not written
  }

  void whatCantBeAskedIsRefused_data() {
    QTest::addColumn<QString>("says");
    QTest::addColumn<int>("wish");
    QTest::newRow("no weather") << "needs a weather year" << 0;
    QTest::newRow("no hour") << "No hour of the weather year lies in the season" << 1;
    QTest::newRow("night alone") << "no hour with sun or sky light" << 2;
    QTest::newRow("a sky without irradiances") << "needs its irradiances" << 3;
    QTest::newRow("no moment for its sun") << "needs a moment" << 4;
    QTest::newRow("a gap in the radiation") << "has no radiation for hour 13 of 3 Mar" << 5;
    QTest::newRow("no sensors") << "no sensors" << 6;
    QTest::newRow("error of nothing") << "error wanted" << 7;
  }
  void whatCantBeAskedIsRefused() {
    QFETCH(QString, says);
    QFETCH(int, wish);
    Project p = place({{{0, 0, 1}, {0, 0, 1}, ""}});
    Study s = energyStudy();
    if (wish == 0) p.site.weather.reset();
    if (wish == 1) s.light.season.beginMinute = s.light.season.endMinute = 600;
    if (wish == 2) {
      s.light.season.fromMonth = s.light.season.toMonth = 12;
      s.light.season.beginMinute = 0;
      s.light.season.endMinute = 120;
    }
    if (wish == 3) s.light.sky.kind = SkyKind::CieOvercast;
    if (wish == 4) {
      s.light.sky.kind = SkyKind::Uniform;
      s.light.sky.directIrradiance = 10;
    }
    if (wish == 5) {
      Weather w = *p.site.weather;
      w.hours[24 * (31 + 28 + 2) + 12][WeatherField::DiffuseHorizontal] = NAN;
      finishWeather(w);
      p.site.weather = std::make_shared<const Weather>(std::move(w));
    }
    if (wish == 6) p.groups.clear();
    if (wish == 7) s.light.error = 0;
    const QString fault = QString::fromStdString(faultOf(p, s));
    QVERIFY2(fault.contains(says), qPrintable(fault));
  }

  void anotherSeasonIsAnotherQuestion() {
    const Project p = place({{{0, 0, 1}, {0, 0, 1}, ""}});
    Study a = energyStudy(), b = a;
    b.light.season.toMonth = 6;
    QVERIFY(!(hashLight(p, a) == hashLight(p, b)));
    b = a;
    b.light.season.name = "My year"; // a name asks nothing else
    QVERIFY(hashLight(p, a) == hashLight(p, b));
    b.light.amount = EnergyAmount::DailyMean;
    QVERIFY(!(hashLight(p, a) == hashLight(p, b)));
    Project turned = p;
    turned.site.northAngle = 0.2;
    QVERIFY(!(hashLight(p, a) == hashLight(turned, a)));
  }

  void stoppedEarlyItKeepsWhatIsDone() {
    const auto in = lightInput(court(400), energyStudy([](LightSettings& s) { s.error = 0.003; }));
    RunControl control;
    control.progress = [&](double share) {
      if (share > 0.2) control.wish = Wish::Enough;
    };
    const LightResult r = runLight(*in, control, {1});
    QCOMPARE(r.end, RunEnd::Enough);
    const auto unknown = std::count_if(r.value.begin(), r.value.end(), [](float v) { return std::isnan(v); });
    QVERIFY(unknown > 0 && unknown < 400);
    const auto whole = runLight(*in, *std::make_unique<RunControl>());
    for (std::size_t i = 0; i < 400; ++i)
      if (!std::isnan(r.value[i])) QCOMPARE(r.value[i], whole.value[i]);
  }
};

} // namespace

QTEST_GUILESS_MAIN(TestIrradiation)
#include "tst_irradiation.moc"
