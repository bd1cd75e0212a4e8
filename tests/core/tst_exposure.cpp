// What windows and rooms opposite see: the no-sky line, probable sunlight by weather and by table, and the verdicts on
// both.

#ifndef Q_MOC_RUN
#include "core/files/library.h"
#include "core/light/sampler.h"
#include "core/model/form/edit.h"
#include "core/proof/light_cases.h"
#include "core/runs/runner.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/year_study.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {

const YardstickShelf& shelf() {
  static const YardstickShelf s = readYardsticks({SOURCE_TREE "/resources/yardsticks"});
  return s;
}
Yardstick rule(const char* key, const std::map<std::string, std::string>& changed = {}) {
  return *withChanges(*shelf().find(key), changed);
}

LightResult run(const Project& p, StudyKind kind, const std::function<void(Study&)>& change = {}, bool before = false) {
  Study s;
  s.id = {1};
  s.kind = kind;
  if (change) change(s);
  const auto in = lightInput(p, s, before);
  if (!in) throw std::runtime_error(in.error().text());
  RunControl control;
  return runLight(*in, control);
}

/// Windows as points: normals by azimuth (°) in the drawing.
Project windows(const std::vector<double>& azimuths, double latitude = 52) {
  Project p;
  p.site.place = {radians(latitude), 0, 0};
  p.site.zone = "UTC";
  SensorGroup g;
  g.id = {2};
  g.name = "Flat";
  std::vector<PointSensor> points;
  for (double a : azimuths) points.push_back({{0, 0, 4}, {std::sin(radians(a)), std::cos(radians(a)), 0}, ""});
  g.layout = std::move(points);
  p.groups.push_back(g);
  return p;
}
Project withProposedBlock(Project p) {
  Element e;
  e.id = {70};
  e.name = "Mass";
  e.proposed = true;
  e.shape = Mass{rectangle(500, 500, 510, 510), 0, 5, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
  return p;
}

/// Runs that answer with what stands in a table, so that only the rule itself is tried.
struct Told {
  std::vector<double> after, before, winterAfter = {}, winterBefore = {};
  double error = 0;
};
JudgeRuns told(const Project& p, const Told& t, RunEnd end = RunEnd::Finished) {
  JudgeRuns out;
  out.light = [&p, t, end](const LightQuestion& q) -> Expected<LightAnswered> {
    auto r = std::make_shared<LightResult>();
    const bool winter = q.kind == StudyKind::SunlightWinter;
    for (double v : winter ? (q.before ? t.winterBefore : t.winterAfter) : (q.before ? t.before : t.after))
      r->value.push_back(float(v));
    r->standardError.assign(r->value.size(), float(t.error));
    r->end = end;
    auto sensors = layOutSensors(p, q.groups);
    return LightAnswered{*sensors, r, "sunshine as told"};
  };
  return out;
}

} // namespace

class TestExposure : public QObject {
  Q_OBJECT
private slots:
  // ---- the no-sky line ----

  void aPlaneInTheOpenSeesSkyEverywhere() {
    Project p = test::house({.ratio = 0.3, .spacing = 0.5});
    Element roofless = *p.elements[0]; // no room, no roof: points above the house
    SensorGroup g;
    g.id = {41};
    g.layout = std::vector<PointSensor>{{{1, 1, 20}, {0, 0, 1}, ""}, {{1, 1, 20}, {0, 0, -1}, ""}};
    p.groups = {g};
    const LightResult r = run(p, StudyKind::NoSkyLine);
    QCOMPARE(r.value[0], 100.0f);
    QCOMPARE(r.value[1], 0.0f); // looks down: only ground is in front of it
  }

  void aRoomWithoutWindowsSeesNone() {
    const LightResult r = run(test::house({.spacing = 0.5}), StudyKind::NoSkyLine);
    QVERIFY(r.value.size() > 20);
    for (float v : r.value) QCOMPARE(v, 0.0f);
  }

  void whatTheGlassLetsThroughChangesNothing() {
    Project clear = test::house({.ratio = 0.2, .spacing = 0.4}), dark = clear;
    Glazing g;
    g.name = "Dark";
    g.transmittance = 0.02;
    dark.glazings.push_back(g);
    dark.windowRules[0].glazing = "Dark";
    QCOMPARE(run(clear, StudyKind::NoSkyLine).value, run(dark, StudyKind::NoSkyLine).value);
  }

  void holdsAgainstBruteForceBehindABlock() {
    Project p = test::house({.width = 7, .depth = 8, .ratio = 0.25, .spacing = 0.5});
    Element block;
    block.id = {77};
    block.name = "Opposite";
    block.shape = Mass{rectangle(-6, -16, 9, -9), 0, 11, 3};
    p.elements.push_back(std::make_shared<const Element>(block));
    Study s;
    s.id = {1};
    s.kind = StudyKind::NoSkyLine;
    const auto in = lightInput(p, s);
    QVERIFY(in.has_value());
    RunControl control;
    const LightResult r = runLight(*in, control);
    std::size_t seen = 0, apart = 0;
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      bool sky = false;
      const Vec3 at = in->sensors.sensors[i].position;
      for (int a = 0; a < 1440 && !sky; ++a) // every quarter of a degree
        for (int h = 0; h < 360 && !sky; ++h) {
          const double azimuth = radians(0.25 * (a + 0.5)), altitude = radians(0.25 * (h + 0.5));
          sky = !in->scene->blocked(
              at, {std::cos(altitude) * std::sin(azimuth), std::cos(altitude) * std::cos(azimuth), std::sin(altitude)},
              1e-3, 1e30);
        }
      seen += sky;
      QVERIFY2(!sky || r.value[i] == 100.0f,
               qPrintable(QString("sensor %1 sees sky that was not found").arg(i))); // what brute force finds is found
      apart += sky != (r.value[i] == 100.0f);
    }
    QVERIFY(seen > r.value.size() / 10 && seen < r.value.size() * 9 / 10);
    QVERIFY2(apart <= r.value.size() / 50,
             qPrintable(QString("%1 of %2").arg(apart).arg(r.value.size()))); // slivers under a quarter of a degree
  }

  void meansOfThePlaneAreSharesByArea() {
    const Project p = test::house({.ratio = 0.2, .spacing = 0.7});
    const LightResult r = run(p, StudyKind::NoSkyLine);
    const auto sensors = layOutSensors(p);
    double seen = 0, whole = 0;
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      seen += sensors->areaOf(i) * (r.value[i] > 0);
      whole += sensors->areaOf(i);
    }
    const LightStatistics st = lightStatistics(r, 0, r.value.size(), 50, 100, sensors->areasOf(0, r.value.size()));
    QVERIFY(std::abs(st.mean - 100 * seen / whole) < 1e-6);
    QVERIFY(std::abs(st.shareAtLeast - seen / whole) < 1e-9);
  }

  void dropsAndRunsAgainWithTheSameBits() {
    const Project p = test::house({.ratio = 0.2, .spacing = 0.4});
    Study s;
    s.id = {1};
    s.kind = StudyKind::NoSkyLine;
    const auto in = lightInput(p, s);
    RunControl dropped;
    dropped.wish = Wish::Drop;
    QCOMPARE(runLight(*in, dropped).end, RunEnd::Dropped);
    RunControl one, seven;
    QCOMPARE(runLight(*in, one, {1}).value, runLight(*in, seven, {7}).value);
  }

  // ---- probable sunlight ----

  void aTableOfSunshineIsAScaleOfNothing() { // a third of every month's sun is still the same share of itself
    const Project p = windows({90, 180, 250});
    const auto at = [&](double share) {
      return run(p, StudyKind::SunlightYear, [&](Study& s) { s.light.sunshine.emplace().fill(share); }).value;
    };
    const auto a = at(0.3), b = at(1);
    for (std::size_t i = 0; i < a.size(); ++i) QVERIFY(std::abs(a[i] - b[i]) < 1e-3);
    QVERIFY(std::abs(a[0] - 50) < 0.4);
  }

  void winterIsAPartOfTheYearsTotal() {
    Project p = windows({180});
    std::get<std::vector<PointSensor>>(p.groups[0].layout)[0].normal = {0, 0, 1};
    const auto june = [](Study& s) { s.light.sunshine.emplace().fill(0), (*s.light.sunshine)[5] = 0.5; };
    const auto january = [](Study& s) { s.light.sunshine.emplace().fill(0), (*s.light.sunshine)[0] = 0.5; };
    QCOMPARE(run(p, StudyKind::SunlightYear, june).value[0], 100.0f);
    QCOMPARE(run(p, StudyKind::SunlightWinter, june).value[0], 0.0f);
    QCOMPARE(run(p, StudyKind::SunlightWinter, january).value[0], 100.0f);
    p.site.place.latitude = -p.site.place.latitude; // the other half of the year in the south
    QCOMPARE(run(p, StudyKind::SunlightWinter, june).value[0], 100.0f);
    QCOMPARE(run(p, StudyKind::SunlightWinter, january).value[0], 0.0f);
  }

  void neitherWeatherNorTableIsSaid() {
    Study s;
    s.kind = StudyKind::SunlightYear;
    const auto in = lightInput(windows({180}), s);
    QVERIFY(!in);
    QVERIFY(in.error().message.find("table of the months' sunshine") != std::string::npos);
  }

  void theTableIsPartOfTheQuestion() {
    const Project p = windows({180});
    Study a, b;
    a.kind = b.kind = StudyKind::SunlightYear;
    a.light.sunshine.emplace().fill(0.4);
    b.light.sunshine = a.light.sunshine;
    (*b.light.sunshine)[3] = 0.5;
    QVERIFY(!(hashLight(p, a) == hashLight(p, b)));
    QVERIFY(hashLight(p, a) == hashLight(p, a));
  }

  void theTableGoesThroughTheFile() {
    QTemporaryDir dir;
    const QString path = dir.filePath("a.noonward");
    Project p = windows({180});
    Study s;
    s.id = {5};
    s.kind = StudyKind::SunlightWinter;
    s.name = "Sun";
    s.light.sunshine.emplace();
    for (std::size_t m = 0; m < 12; ++m) (*s.light.sunshine)[m] = 0.05 * double(m + 1);
    p.studies.push_back(s);
    s.id = {6};
    s.kind = StudyKind::Year;
    s.light.sunshine.reset();
    s.year.ownIlluminance = true;
    p.studies.push_back(s);
    QVERIFY(writeProject(p, path.toStdString()));
    const auto back = readProject(path.toStdString());
    QVERIFY(back.has_value());
    QVERIFY(back->project.studies[0].light.sunshine.has_value());
    for (std::size_t m = 0; m < 12; ++m)
      QVERIFY(std::abs((*back->project.studies[0].light.sunshine)[m] - 0.05 * double(m + 1)) < 1e-9);
    QVERIFY(back->project.studies[1].year.ownIlluminance && !back->project.studies[0].year.ownIlluminance);
  }

  void faultyTablesNameTheirPlace_data() {
    QTest::addColumn<QString>("sunshine");
    QTest::addColumn<QString>("message");
    QTest::newRow("eleven") << "[1,2,3,4,5,6,7,8,9,10,11]"
                            << "twelve shares";
    QTest::newRow("above 100") << "[1,2,3,4,5,6,7,8,9,10,11,120]"
                               << "month 12";
    QTest::newRow("a word") << "[1,2,\"x\",4,5,6,7,8,9,10,11,12]"
                            << "month 3";
    QTest::newRow("night") << "[0,0,0,0,0,0,0,0,0,0,0,0]"
                           << "A month with sunshine";
    QTest::newRow("number") << "7"
                            << "twelve shares";
  }
  void faultyTablesNameTheirPlace() {
    QFETCH(QString, sunshine);
    QFETCH(QString, message);
    const std::string text =
        R"({"format":"noonward-project","version":1,"site":{"latitude":50,"longitude":0},"studies":[{"kind":"sunlight-year","sunshine":)" +
        sunshine.toStdString() + "}]}";
    const auto p = parseProject(text, "x", ".");
    QVERIFY(!p);
    QVERIFY2(QString::fromStdString(p.error().text()).contains(message) &&
                 QString::fromStdString(p.error().text()).contains("studies[0].sunshine"),
             p.error().text().c_str());
  }

  // ---- the weather file's own illuminances ----

  void plausibleIlluminancesAreTakenOthersAreNot() {
    Project p = test::house();
    p.site.place = test::demoWeather()->place;
    p.site.zone = "Europe/Copenhagen";
    Weather w = *test::demoWeather();
    for (WeatherHour& h : w.hours) {
      h[WeatherField::DiffuseIlluminance] = 110 * h[WeatherField::DiffuseHorizontal];
      h[WeatherField::DirectIlluminance] = 95 * h[WeatherField::DirectNormal];
    }
    std::size_t noon = 0;
    for (std::size_t i = 4000; i < 4400 && noon == 0; ++i)
      if (w.hours[i].hour == 13 && w.hours[i][WeatherField::DiffuseHorizontal] > 100) noon = i;
    w.hours[noon][WeatherField::DiffuseIlluminance] = 5; // beside more than 100 W/m²
    const auto with = [&](Weather year) {
      finishWeather(year);
      p.site.weather = std::make_shared<const Weather>(std::move(year));
    };
    with(w);
    QVERIFY(illuminanceColumns(*p.site.weather).usable());
    QCOMPARE(illuminanceColumns(*p.site.weather).lit - illuminanceColumns(*p.site.weather).plausible, std::size_t(1));
    const auto usual = hourlySky(p), own = hourlySky(p, true);
    QVERIFY(usual && own && (*usual)->hours == (*own)->hours);
    std::size_t beams = 0;
    for (std::size_t k = 0; k < (*own)->hours.size(); ++k) {
      const std::size_t i = (*own)->hours[k];
      const WeatherHour& h = p.site.weather->hours[i];
      double horizontal = 0;
      for (std::size_t b = 0; b < SkyBins::count; b += 1)
        horizontal += double((*own)->luminance(Eigen::Index(b), Eigen::Index(k))) *
                      SkyBins::mean(b, [](Vec3 d) { return d.z; }) * SkyBins::solidAngle(b);
      const double wanted = i == noon ? (*usual)->diffuse[i] : h[WeatherField::DiffuseIlluminance];
      QVERIFY2(std::abs(horizontal - wanted) <= 1e-4 * wanted + 1e-3,
               qPrintable(QString("hour %1: %2 of %3 lx").arg(i).arg(horizontal).arg(wanted)));
      if ((*own)->beam[k] > 0 && i != noon) {
        QVERIFY(std::abs(double((*own)->beam[k]) - 95 * h[WeatherField::DirectNormal]) < 1e-2);
        ++beams;
      }
      if (h[WeatherField::DirectNormal] > 20 && (*own)->sun[k].z > 0.1)
        QCOMPARE((*own)->beam[k] > 0, (*usual)->beam[k] > 0); // the sun shines when it shines
    }
    QVERIFY(beams > 500);
    QVERIFY(illuminanceText(*p.site.weather, true).find("in 1 of") != std::string::npos);

    for (std::size_t i = 0; i < w.hours.size(); i += 5)
      w.hours[i][WeatherField::DiffuseIlluminance] = 0; // a fifth is wrong
    with(w);
    QVERIFY(!illuminanceColumns(*p.site.weather).usable());
    const auto none = hourlySky(p, true);
    QVERIFY(none && (*none)->diffuse == (*hourlySky(p))->diffuse);
    QVERIFY(illuminanceText(*p.site.weather, true).find("plausible in only") != std::string::npos);
  }

  void ownIlluminancesArePartOfTheYearsQuestion() {
    Project p = test::houseOfTheYear();
    YearSettings a, b;
    b.ownIlluminance = true;
    const auto fa = yearFacts(p, {}, a), fb = yearFacts(p, {}, b);
    QVERIFY(fa && fb && !(fa->key == fb->key) && fa->rays == fb->rays);
    const auto told = [](const YearFacts& f) {
      return std::any_of(f.findings.begin(), f.findings.end(),
                         [](const Finding& x) { return x.code == "year.illuminance"; });
    };
    QVERIFY(told(*fb) && !told(*fa));
  }

  // ---- verdicts ----

  void skylightAtWindows_data() {
    QTest::addColumn<double>("after");
    QTest::addColumn<double>("before");
    QTest::addColumn<bool>("passes");
    QTest::newRow("enough") << 27.0 << 39.0 << true;
    QTest::newRow("just short, much before") << 26.9 << 39.0 << false;
    QTest::newRow("short, but kept") << 20.0 << 25.0 << true;
    QTest::newRow("short, hardly kept") << 19.9 << 25.0 << false;
    QTest::newRow("dark before and after") << 0.0 << 0.0 << true;
  }
  void skylightAtWindows() {
    QFETCH(double, after);
    QFETCH(double, before);
    QFETCH(bool, passes);
    const Project p = withProposedBlock(windows({10}));
    const Verdict v = judge(p, rule("window-sky"), {}, told(p, {{after}, {before}}));
    QCOMPARE(v.rows.size(), std::size_t(1));
    QCOMPARE(v.rows[0].outcome, passes ? Outcome3::Meets : Outcome3::FallsShort);
    QCOMPARE(v.outcome, v.rows[0].outcome);
    QCOMPARE(v.rows[0].before, before);
  }

  void withoutAProposalOnlyTheBoundCounts() {
    const Project p = windows({10, 10});
    const Verdict v = judge(p, rule("window-sky"), {}, told(p, {{30, 20}, {}}));
    QCOMPARE(v.outcome, Outcome3::FallsShort);
    QCOMPARE(v.figure, 50.0);
    QVERIFY(std::isnan(v.rows[1].before));
    QCOMPARE(judge(p, rule("window-sky", {{"share", "50"}}), {}, told(p, {{30, 20}, {}})).outcome, Outcome3::Meets);
  }

  void aFigureNearItsBoundIsNotCertain() {
    const Project p = windows({10, 10});
    const Verdict at = judge(p, rule("window-sky"), {}, told(p, {{27.0, 35}, {}, {}, {}, 0.05})),
                  far = judge(p, rule("window-sky"), {}, told(p, {{30, 35}, {}, {}, {}, 0.05}));
    QVERIFY2(std::abs(at.certainty - 0.5) < 0.01, qPrintable(QString::number(at.certainty)));
    QVERIFY(far.certainty > 0.9999);
    // Two that must both turn over for the verdict to turn: at least as sure as by the surer half of them.
    const Verdict spare = judge(p, rule("window-sky", {{"share", "50"}}), {}, told(p, {{27.02, 35}, {}, {}, {}, 0.05}));
    QVERIFY(spare.certainty > at.certainty);
  }

  void runsThatEndedEarlyJudgeNothing() {
    const Project p = windows({10});
    for (const char* key : {"window-sky", "window-sunlight"}) {
      const Verdict v = judge(p, rule(key), {}, told(p, {{30}, {}, {30}, {}}, RunEnd::Enough));
      QCOMPARE(v.outcome, Outcome3::NotJudged);
      QVERIFY(v.text.find("stopped early") != std::string::npos);
    }
    const Verdict none = judge(p, rule("window-sky"), {}, told(p, {{NAN}, {}}));
    QCOMPARE(none.outcome, Outcome3::NotJudged);
  }

  void sensorsThatLookUpAreNoWindows() {
    Project p = windows({180, 180});
    std::get<std::vector<PointSensor>>(p.groups[0].layout)[1].normal = {0, 0, 1};
    const Verdict v = judge(p, rule("window-sky"), {}, told(p, {{30, 1}, {}}));
    QCOMPARE(v.rows.size(), std::size_t(1));
    QCOMPARE(v.outcome, Outcome3::Meets);
    QVERIFY(std::any_of(v.notes.begin(), v.notes.end(),
                        [](const std::string& n) { return n.find("1 sensor does not look sideways") != n.npos; }));
    std::get<std::vector<PointSensor>>(p.groups[0].layout)[0].normal = {0, 0, 1};
    QCOMPARE(judge(p, rule("window-sky"), {}, told(p, {{30, 1}, {}})).outcome, Outcome3::NotJudged);
  }

  void sunlightAtWindows_data() {
    QTest::addColumn<double>("year");
    QTest::addColumn<double>("winter");
    QTest::addColumn<double>("yearBefore");
    QTest::addColumn<double>("winterBefore");
    QTest::addColumn<bool>("passes");
    QTest::newRow("enough of both") << 25.0 << 5.0 << 60.0 << 20.0 << true;
    QTest::newRow("year short and lost") << 24.0 << 6.0 << 40.0 << 7.0 << false;
    QTest::newRow("winter short and lost") << 30.0 << 4.0 << 40.0 << 8.0 << false;
    QTest::newRow("winter short and lost, but the year lost 4 points") << 30.0 << 4.0 << 34.0 << 8.0 << true;
    QTest::newRow("the year lost 4.1") << 30.0 << 4.0 << 34.1 << 8.0 << false;
    QTest::newRow("year short, but kept") << 20.0 << 6.0 << 25.0 << 6.0 << true;
    QTest::newRow("year short and kept, winter enough and halved") << 20.0 << 6.0 << 25.0 << 12.0 << true;
    QTest::newRow("year short and kept, winter short and halved") << 20.0 << 3.0 << 25.0 << 6.0 << false;
  }
  void sunlightAtWindows() {
    QFETCH(double, year);
    QFETCH(double, winter);
    QFETCH(double, yearBefore);
    QFETCH(double, winterBefore);
    QFETCH(bool, passes);
    const Project p = withProposedBlock(windows({180}));
    const Verdict v = judge(p, rule("window-sunlight"), {}, told(p, {{year}, {yearBefore}, {winter}, {winterBefore}}));
    QCOMPARE(v.outcome, passes ? Outcome3::Meets : Outcome3::FallsShort);
    QVERIFY(v.detail.find("sunshine as told") != std::string::npos);
  }

  void onlyWindowsToTheEquatorsSideAreJudgedForSun_data() {
    QTest::addColumn<double>("azimuth");
    QTest::addColumn<double>("north");
    QTest::addColumn<double>("latitude");
    QTest::addColumn<bool>("judged");
    QTest::newRow("south") << 180.0 << 0.0 << 52.0 << true;
    QTest::newRow("east") << 90.0 << 0.0 << 52.0 << true; // within 90°
    QTest::newRow("east by north") << 89.0 << 0.0 << 52.0 << false;
    QTest::newRow("north") << 0.0 << 0.0 << 52.0 << false;
    QTest::newRow("north, in the south") << 0.0 << 0.0 << -34.0 << true;
    QTest::newRow("south, in the south") << 180.0 << 0.0 << -34.0 << false;
    QTest::newRow("drawn to the north, turned about") << 0.0 << 180.0 << 52.0 << true;
    QTest::newRow("drawn to the east, turned by 10°") << 80.0 << 10.0 << 52.0 << true;
    QTest::newRow("drawn to the east, turned back") << 90.0 << -10.0 << 52.0 << false;
  }
  void onlyWindowsToTheEquatorsSideAreJudgedForSun() {
    QFETCH(double, azimuth);
    QFETCH(double, north);
    QFETCH(double, latitude);
    QFETCH(bool, judged);
    Project p = windows({azimuth}, latitude);
    p.site.northAngle = radians(north);
    const Verdict v = judge(p, rule("window-sunlight"), {}, told(p, {{50}, {}, {20}, {}}));
    QCOMPARE(v.outcome != Outcome3::NotJudged, judged);
    // The verdict's side is the sun's: a free window that is not judged never sees it at noon of an equinox.
    Study s;
    s.kind = StudyKind::SunlightYear;
    s.light.sunshine.emplace().fill(1);
    const auto in = lightInput(p, s);
    RunControl control;
    const float free = runLight(*in, control).value[0];
    QVERIFY2(judged ? free > 49 : free < 50, qPrintable(QString::number(free)));
  }

  void theNoSkyLineKeepsItsShare_data() {
    QTest::addColumn<double>("after");
    QTest::addColumn<double>("before");
    QTest::addColumn<QString>("share");
    QTest::addColumn<int>("outcome");
    QTest::newRow("kept") << 64.0 << 80.0 << "0" << int(Outcome3::Meets);
    QTest::newRow("lost") << 62.0 << 80.0 << "0" << int(Outcome3::FallsShort);
    QTest::newRow("lost, but enough of the plane") << 62.0 << 80.0 << "60" << int(Outcome3::Meets);
    QTest::newRow("nothing proposed") << 62.0 << -1.0 << "0" << int(Outcome3::NotJudged);
    QTest::newRow("nothing proposed, a share asked") << 62.0 << -1.0 << "60" << int(Outcome3::Meets);
  }
  void theNoSkyLineKeepsItsShare() {
    QFETCH(double, after);
    QFETCH(double, before);
    QFETCH(QString, share);
    QFETCH(int, outcome);
    Project p = test::house({.ratio = 0.3, .spacing = 1});
    if (before >= 0) p = withProposedBlock(std::move(p));
    const std::size_t n = layOutSensors(p)->sensors.size();
    const Verdict v = judge(p, rule("no-sky-line", {{"share", share.toStdString()}}), {},
                            told(p, {std::vector<double>(n, after), std::vector<double>(n, before)}));
    QCOMPARE(int(v.outcome), outcome);
    if (v.outcome != Outcome3::NotJudged) QVERIFY(std::abs(v.rows.at(0).after - after) < 1e-4);
  }

  void aProposedWallTakesSkyFromARealRoom() { // the whole way: project, runs before and after, verdict
    Project p = test::house({.ratio = 0.3, .spacing = 0.5});
    Element wall;
    wall.id = {78};
    wall.name = "Wall";
    wall.proposed = true;
    wall.shape = Mass{rectangle(-30, -6, 40, -5), 0, 9, 1};
    p.elements.push_back(std::make_shared<const Element>(wall));
    Judgement j;
    j.yardstick = "no-sky-line";
    StudyRunner runner(nullptr);
    RunControl control;
    const Verdict v = runner.judgement(p, *shelf().find("no-sky-line"), j, control);
    QCOMPARE(v.outcome, Outcome3::FallsShort);
    QVERIFY(v.rows.at(0).before > 90 && v.rows.at(0).after < 60);
    const auto after = run(p, StudyKind::NoSkyLine), before = run(p, StudyKind::NoSkyLine, {}, true);
    const auto sensors = layOutSensors(p);
    const auto areas = sensors->areasOf(0, sensors->sensors.size());
    QVERIFY(std::abs(v.rows[0].after - lightStatistics(after, 0, areas.size(), 50, 100, areas).mean) < 1e-6);
    QVERIFY(std::abs(v.rows[0].before - lightStatistics(before, 0, areas.size(), 50, 100, areas).mean) < 1e-6);
  }

  void skylightThroughTheRunner() { // VSC of a window behind a proposed endless wall, against the closed form
    Project p = windows({180});
    Element wall;
    wall.id = {78};
    wall.proposed = true;
    wall.shape = Mass{rectangle(-3000, -21, 3000, -20), 0, 14, 1};
    p.elements.push_back(std::make_shared<const Element>(wall));
    Judgement j;
    j.yardstick = "window-sky";
    StudyRunner runner(nullptr);
    RunControl control;
    const Verdict v = runner.judgement(p, *shelf().find("window-sky"), j, control);
    const double expected = 100 * vscBehindEndless(std::atan2(10.0, 20.0));
    QVERIFY2(std::abs(v.rows.at(0).before - 39.6) < 0.2, v.rows[0].text.c_str());
    QVERIFY2(std::abs(v.rows[0].after - expected) < 0.2, v.rows[0].text.c_str());
    QCOMPARE(v.outcome, v.rows[0].after >= 27 ? Outcome3::Meets : Outcome3::FallsShort);
    QVERIFY(runner.computed() == 2); // before and after, each once
  }
};

QTEST_GUILESS_MAIN(TestExposure)
#include "tst_exposure.moc"
