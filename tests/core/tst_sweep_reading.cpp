// What a sweep says of made figures whose truth is known, and the least change against closed forms.

#ifndef Q_MOC_RUN
#include "core/runs/sweep/least_change.h"
#include "core/sun/solar_position.h"
#include "tests/house.h"
#endif
#include <QTest>
#include <cmath>
#include <random>

using namespace noonward;
using namespace noonward::test;

namespace {

/// A table of made figures over a grid of two numbers and a choice.
SweepTable table(const std::function<double(double, double, int)>& one,
                 const std::function<double(double, double, int)>& other = {}) {
  SweepTable t;
  t.sweep.name = "Made";
  for (const char* name : {"a", "b", "c"}) {
    Variable v;
    v.name = name;
    v.at = {name};
    t.sweep.variables.push_back(v);
  }
  t.units = {"m", "%", ""};
  t.sweep.outcomes = {{"y", SweepOutcome::Of::Model, "", "y", ""}, {"z", SweepOutcome::Of::Model, "", "z", ""}};
  t.outcomeUnits = {"lx", "h"};
  t.now.resize(3);
  for (int a = 0; a < 4; ++a)
    for (int b = 0; b < 3; ++b)
      for (int c = 0; c < 2; ++c) {
        SweepRow r;
        r.number = t.rows.size();
        r.values = {double(a), 10.0 * b, std::string(c ? "clear" : "tinted")};
        r.figures = {{one(a, b, c), 0, ""}, {other ? other(a, b, c) : 0, 0, ""}};
        t.rows.push_back(r);
      }
  t.all = t.rows.size();
  return t;
}
const VariableEffect& of(const OutcomeEffects& e, std::size_t variable) {
  return e.variables.at(variable);
}
bool near(double a, double b, double by = 1e-9) {
  return std::abs(a - b) <= by;
}

/// A point on the ground north of an endless wall, so far from it, and the sun hours round a day's noon.
struct WallCase {
  Project project;
  Sweep sweep;
  double window = 2; ///< h
};
constexpr double away = 10; ///< m, from the wall's north face
WallCase behindAWall(double height, double step) {
  WallCase out;
  Project& p = out.project;
  p.site.place = demoWeather()->place;
  p.site.zone = "UTC+01:00";
  Element e;
  e.id = {10};
  e.name = "Wall";
  e.proposed = true;
  e.shape = Mass{rectangle(-200, -20, 200, 0), 0, height, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
  SensorGroup g;
  g.id = {20};
  g.name = "Bench";
  PointSensor s;
  s.position = {0, away, 0};
  g.layout = std::vector<PointSensor>{s};
  p.groups.push_back(g);
  Study sun;
  sun.id = {30};
  sun.kind = StudyKind::SunHours;
  sun.name = "Sun";
  sun.sunHours.dates = {{2026, 3, 21}};
  sun.sunHours.season.beginMinute = 11 * 60;
  sun.sunHours.season.endMinute = 13 * 60;
  p.studies.push_back(sun);
  Variable v;
  v.name = "height";
  v.at = {"elements/Wall/mass/height"};
  v.range = VaryRange{2, 30, step};
  out.sweep.name = "Lower";
  out.sweep.variables = {v};
  out.sweep.outcomes = {{"sun", SweepOutcome::Of::Study, "Sun", "mean", ""}};
  out.sweep.goals = {{"sun", SweepGoal::Kind::AtLeast, 2 - 1.0 / 3600}};
  return out;
}
/// The height at which the sun just clears the wall through the whole window: away × tan of the least profile angle.
double heightThatClears(const Project& p) {
  double least = INFINITY;
  for (int s = 0; s <= 7200; s += 20) {
    const Instant t = p.zone().instant({{2026, 3, 21}, 11.0 * 3600 + s});
    const SolarPosition sun = solarPosition(sunOfDate(t), p.site.place);
    const double profile = std::tan(sun.altitude) / std::cos(sun.azimuth - pi);
    least = std::min(least, away * profile);
  }
  return least;
}
YardstickShelf noRules() {
  return {};
}
Expected<LeastChange> found(const WallCase& c, const LeastChangeWish& wish = {}) {
  ResultStore memory{std::filesystem::path()};
  StudyRunner runner(&memory);
  RunControl control;
  return leastChange(c.project, c.sweep, noRules(), runner, control, wish);
}
} // namespace

class TestSweepReading : public QObject {
  Q_OBJECT
private slots:
  void effectsOfWhatActsApartAreExact() {
    // y = 3 a + b² − 5 for clear: ranges 9, 4 and 5, whatever rows are missing.
    SweepTable t = table([](double a, double b, int c) { return 100 + 3 * a + b * b - 5 * c; });
    for (const bool some : {false, true}) {
      if (some) std::erase_if(t.rows, [](const SweepRow& r) { return r.number % 5 == 1 || r.number == 9; });
      const OutcomeEffects e = effectsOn(t, 0);
      QVERIFY2(near(of(e, 0).range, 9) && near(of(e, 1).range, 4) && near(of(e, 2).range, 5),
               qPrintable(QString("%1 %2 %3").arg(of(e, 0).range).arg(of(e, 1).range).arg(of(e, 2).range)));
      QVERIFY(near(e.together, 0));
      // A level's figure: the others in the mean of their levels: 100 + 3 a + 5/3 − 2.5.
      for (const LevelEffect& l : of(e, 0).levels)
        QVERIFY(near(l.figure, 100 + 3 * std::get<double>(l.value) + 5.0 / 3 - 2.5));
      QVERIFY(of(e, 2).matters);
    }
  }
  void whatActsTogetherIsToldApart() {
    // The product of two centred numbers has no effect of either alone.
    const SweepTable t = table([](double a, double b, int) { return (a - 1.5) * (b - 1); });
    const OutcomeEffects e = effectsOn(t, 0);
    QVERIFY(near(of(e, 0).range, 0) && near(of(e, 1).range, 0));
    QVERIFY(near(e.together, 1));
    QVERIFY(!of(e, 0).matters);
    // Shares of a sum: variances 9 · 1.25 and 1 · 2/3 and 0.
    const OutcomeEffects sum = effectsOn(table([](double a, double b, int) { return 3 * a + b; }), 0);
    QVERIFY(near(of(sum, 0).share, 11.25 / (11.25 + 2.0 / 3)));
    QVERIFY(near(of(sum, 1).share, 2.0 / 3 / (11.25 + 2.0 / 3)));
    QVERIFY(near(of(sum, 2).share, 0));
  }
  void errorsOfRowsAreCarriedToEffects() {
    // Known noise of 2 on each of 24 rows: a level of "a" is the mean of 6, their difference has 2 · √(2/6).
    SweepTable t = table([](double a, double, int) { return a; });
    for (SweepRow& r : t.rows) r.figures[0].error = 2;
    const OutcomeEffects e = effectsOn(t, 0);
    QVERIFY2(near(of(e, 0).rangeError, 2 * std::sqrt(2.0 / 6)), qPrintable(QString::number(of(e, 0).rangeError)));
    QVERIFY2(near(of(e, 0).levels[0].error, 2 / std::sqrt(6.0)), qPrintable(QString::number(of(e, 0).levels[0].error)));
    // By brute force: noise drawn a thousand times spreads as the error says.
    std::mt19937 random(7);
    std::normal_distribution<double> noise(0, 2);
    double sum = 0, squares = 0;
    const int draws = 1000;
    for (int k = 0; k < draws; ++k) {
      SweepTable drawn = t;
      for (SweepRow& r : drawn.rows) r.figures[0].value += noise(random);
      const OutcomeEffects d = effectsOn(drawn, 0);
      const double v = d.variables[0].levels[3].figure - d.variables[0].levels[0].figure;
      sum += v;
      squares += v * v;
    }
    const double mean = sum / draws, deviation = std::sqrt(squares / draws - mean * mean);
    QVERIFY2(near(deviation, of(e, 0).rangeError, 0.08) && near(mean, 3, 0.12),
             qPrintable(QString("%1 %2").arg(mean).arg(deviation)));
    QVERIFY(!of(effectsOn(t, 0), 1).matters);
  }
  void theBestKeepsItsBoundsAndTellsWhatIsAlike() {
    // y falls with a and rises with b; z rises with a. At least 2 of z, most y.
    SweepTable t =
        table([](double a, double b, int) { return 50 - 4 * a + b; }, [](double a, double, int) { return a; });
    t.sweep.goals = {{"z", SweepGoal::Kind::AtLeast, 2}, {"y", SweepGoal::Kind::Most, 0}};
    auto best = bestOf(t);
    QCOMPARE(best.size(), std::size_t(1));
    QVERIFY(best[0].meets);
    QCOMPARE(t.rows[best[0].row].figures[0].value, 50.0 - 8 + 2);
    QCOMPARE(best[0].alike.size(), std::size_t(1));      // the choice moves nothing
    for (SweepRow& r : t.rows) r.figures[0].error = 0.4; // differences of 1 lie within 2 · √2 · 0.4
    QCOMPARE(bestOf(t)[0].alike.size(), std::size_t(3));
    // Nothing reaches 4: what comes nearest is said to be so.
    t.sweep.goals[0].value = 4;
    best = bestOf(t);
    QVERIFY(!best[0].meets);
    QCOMPARE(t.rows[best[0].row].figures[1].value, 3.0);
    QVERIFY2(QString::fromStdString(best[0].text).startsWith("Nothing meets"), best[0].text.c_str());
    // Bounds alone: the farthest within.
    t.sweep.goals = {{"z", SweepGoal::Kind::AtMost, 2.5}};
    best = bestOf(t);
    QCOMPARE(t.rows[best[0].row].figures[1].value, 0.0);
    t.sweep.goals.clear();
    QVERIFY(bestOf(t).empty());
    // A row without figures is never best.
    t.sweep.goals = {{"y", SweepGoal::Kind::Most, 0}};
    t.rows[best[0].row].figures[0] = {NAN, 0, "no sensors"};
    for (const SweepBest& b : bestOf(t)) QVERIFY(std::isfinite(t.rows[b.row].figures[0].value));
  }
  void twoGoalsHaveTwoOptimaAndTheReasonWhy() {
    SweepTable t = table([](double a, double b, int) { return -(a - 1) * (a - 1) - b; },
                         [](double a, double b, int) { return -(a - 3) * (a - 3) - b; });
    t.sweep.goals = {{"y", SweepGoal::Kind::Most, 0}, {"z", SweepGoal::Kind::Most, 0}};
    const auto best = bestOf(t);
    QCOMPARE(best.size(), std::size_t(2));
    QCOMPARE(std::get<double>(t.rows[best[0].row].values[0]), 1.0);
    QCOMPARE(std::get<double>(t.rows[best[1].row].values[0]), 3.0);
    const QString why = QString::fromStdString(whyPart(t, best[0], best[1]));
    QVERIFY2(why.startsWith("a: 1 is best for y, 3 for z"), qPrintable(why));
    QVERIFY2(why.contains("y moves by 4 lx") && why.contains("z by 9 h"), qPrintable(why));
    QVERIFY(whyPart(t, best[0], best[0]).empty());
    // The edge between them: turned from 1 to 3, and nothing with b above 0.
    const auto edge = edgeOf(t, 0, true, 1, true);
    QCOMPARE(edge.size(), std::size_t(3));
    for (const std::size_t k : edge) {
      QCOMPARE(std::get<double>(t.rows[k].values[1]), 0.0);
      for (const SweepRow& r : t.rows)
        QVERIFY(r.figures[0].value <= t.rows[k].figures[0].value || r.figures[1].value <= t.rows[k].figures[1].value);
    }
  }

  void theLeastChangeIsTheClosedForm_data() {
    QTest::addColumn<double>("from");
    QTest::addColumn<double>("step");
    QTest::newRow("from above") << 24.0 << 0.25;
    QTest::newRow("from far above") << 30.0 << 0.1;
  }
  void theLeastChangeIsTheClosedForm() {
    QFETCH(double, from);
    QFETCH(double, step);
    const WallCase c = behindAWall(from, step);
    const double clears = heightThatClears(c.project);
    QVERIFY2(clears > 3 && clears < 10, qPrintable(QString::number(clears)));
    const auto l = found(c);
    QVERIFY2(l, l ? "" : l.error().text().c_str());
    QVERIFY2(l->found, l->text.c_str());
    const double height = std::get<double>(l->tried[*l->found].values[0]);
    QVERIFY2(height <= clears + 0.01 && height > clears - step - 0.01,
             qPrintable(QString("%1 for %2: %3").arg(height).arg(clears).arg(l->text.c_str())));
    QVERIFY(l->tried[*l->found].full);
    QVERIFY(near(l->tried[*l->found].change, (from - height) / 28, 1e-9));
    QVERIFY2(l->coarse + l->full < 30, l->text.c_str());
    // Cheaper designs that were tried all fail, and the edge falls toward them.
    for (const TriedDesign& t : l->tried)
      if (t.change < l->tried[*l->found].change - 1e-9) QVERIFY(!t.passes);
    for (std::size_t k = 1; k < l->edge.size(); ++k)
      QVERIFY(l->tried[l->edge[k]].change > l->tried[l->edge[k - 1]].change);
  }
  void weightsSayWhichWayIsTaken() {
    // The wall lowered, or the bench's sun won by moving the wall south: whichever is cheaper to change.
    WallCase c = behindAWall(12, 0.5);
    Variable move;
    move.name = "north";
    move.at = {"proposal/north"};
    move.range = VaryRange{-30, 0, 1};
    c.sweep.variables.push_back(move);
    const double profile = heightThatClears(c.project) / away;
    for (const bool dearHeight : {true, false}) {
      c.sweep.variables[0].weight = dearHeight ? 10 : 0.1;
      c.sweep.variables[1].weight = dearHeight ? 0.1 : 10;
      const auto l = found(c);
      QVERIFY2(l, l ? "" : l.error().text().c_str());
      QVERIFY2(l->found, l->text.c_str());
      const VaryPoint& v = l->tried[*l->found].values;
      const double height = std::get<double>(v[0]), north = std::get<double>(v[1]);
      QVERIFY2(height <= (away - north) * profile + 0.01, l->text.c_str()); // it does pass
      if (dearHeight)
        QVERIFY2(height == 12 && near(north, -std::ceil(12 / profile - away - 0.001)), l->text.c_str());
      else
        QVERIFY2(north == 0 && near(height, 0.5 * std::floor(away * profile / 0.5 + 0.001)), l->text.c_str());
      QCOMPARE(l->single.size(), std::size_t(2));
    }
  }
  void whatCanNotPassComesNearestAndIsSaidToBeSo() {
    // In June the sun stands lower over the wall's top at the ends of the window: some of it is lost, never all.
    WallCase c = behindAWall(24, 1);
    c.project.studies[0].sunHours.dates = {{2026, 6, 21}};
    c.sweep.variables[0].range = VaryRange{16.1, 30.1, 1};
    const auto l = found(c);
    QVERIFY(l);
    QVERIFY(!l->found);
    QVERIFY2(QString::fromStdString(l->text).startsWith("Nothing within these ranges passes"), l->text.c_str());
    QVERIFY(!l->tried[l->nearest].passes);
    QVERIFY(!l->already);
  }
  void aBoundThatNothingMovesEndsTheSearchAtOnce() {
    WallCase c = behindAWall(24, 0.25);
    c.sweep.outcomes.push_back({"room", SweepOutcome::Of::Model, "", "floor-area", ""});
    c.sweep.goals.push_back({"room", SweepGoal::Kind::AtLeast, 100});
    const auto l = found(c);
    QVERIFY(l && !l->found);
    QVERIFY2(QString::fromStdString(l->text).contains("brings room nearer"), l->text.c_str());
    QVERIFY2(l->coarse <= 3 && l->full == 0, l->text.c_str());
  }
  void whatPassesAsItIsIsLeft() {
    const auto l = found(behindAWall(3, 1));
    QVERIFY(l && l->already && l->found);
    QCOMPARE(l->tried[*l->found].change, 0.0);
    QVERIFY2(QString::fromStdString(l->text).contains("passes as it is"), l->text.c_str());
  }
  void itEndsWhereItIsTold() {
    LeastChangeWish wish;
    wish.mostRuns = 2;
    const auto l = found(behindAWall(24, 0.25), wish);
    QVERIFY(l);
    QVERIFY(l->coarse + l->full <= 3);
    QVERIFY2(QString::fromStdString(l->text).startsWith("Stopped before"), l->text.c_str());
    WallCase none = behindAWall(24, 1);
    none.sweep.goals = {{"sun", SweepGoal::Kind::Most, 0}};
    const auto refused = found(none);
    QVERIFY(!refused && QString::fromStdString(refused.error().text()).contains("No goal has a bound"));
  }
};

QTEST_GUILESS_MAIN(TestSweepReading)
#include "tst_sweep_reading.moc"
