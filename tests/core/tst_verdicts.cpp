// Verdicts at their limits: tables of results handed to rules, just enough, just too little, not computed, stopped
// early, refused; and the steps and levels that figures reach.

#ifndef Q_MOC_RUN
#include "core/files/library.h"
#include "core/model/form/edit.h"
#include "core/runs/record/record.h"
#include "core/yardsticks/judge.h"
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {

const Yardstick& rule(const char* key) {
  static const YardstickShelf shelf = readYardsticks({SOURCE_TREE "/resources/yardsticks"});
  const Yardstick* y = shelf.find(key);
  if (!y) qFatal("no rule %s", key);
  return *y;
}

/// A yard of ten sensors, 1 m² each; with something proposed where asked.
Project yard(bool proposed) {
  Project p;
  p.site.place = {radians(52), radians(13), 0};
  p.site.zone = "UTC+01:00";
  SensorGroup g;
  g.id = {2};
  g.name = "Yard";
  g.layout = GroundArea{rectangle(0, 0, 5, 2), 0, 1};
  p.groups.push_back(g);
  if (proposed) {
    Element e;
    e.id = {1};
    e.name = "Mass";
    e.proposed = true;
    e.shape = Mass{rectangle(50, 50, 60, 60), 0, 3, 1};
    p = withElement(std::move(p), e);
  }
  return p;
}

/// Hours of the ten sensors: so many have enough; '-' is not computed.
std::shared_ptr<const SunHoursResult> result(int enough, double hours = 2, int missing = 0,
                                             RunEnd end = RunEnd::Finished) {
  auto r = std::make_shared<SunHoursResult>();
  for (int k = 0; k < 10; ++k) r->hours.push_back(k < enough ? float(hours) : k >= 10 - missing ? std::nanf("") : 1.9f);
  r->longest = r->hours;
  r->end = end;
  r->dates = {{2026, 3, 21}};
  return r;
}

/// Flats, each with a window that sees so many hours.
Project flats(int count) {
  Project p = yard(false);
  p.groups.clear();
  for (int k = 0; k < count; ++k) {
    SensorGroup g;
    g.id = {std::uint64_t(100 + k)};
    g.name = "Flat " + std::to_string(k + 1);
    g.dwelling = g.name;
    g.subject = Subject::LivingRoom;
    g.layout = std::vector<PointSensor>{{{double(k), 0, 2}, {0, -1, 0}, ""}};
    p.groups.push_back(g);
  }
  return p;
}

} // namespace

class TestVerdicts : public QObject {
  Q_OBJECT
private slots:
  void groundAtItsLimits_data() {
    QTest::addColumn<int>("now");
    QTest::addColumn<int>("before"); ///< -1: nothing is proposed
    QTest::addColumn<double>("hours");
    QTest::addColumn<int>("missing");
    QTest::addColumn<int>("outcome");
    QTest::addColumn<QString>("text");
    const auto row = [](const char* name, int now, int before, double hours, int missing, Outcome3 outcome,
                        const char* text) {
      QTest::newRow(name) << now << before << hours << missing << int(outcome) << QString(text);
    };
    row("all", 10, -1, 2, 0, Outcome3::Meets, "100.0 % of 50 %");
    row("exactly half", 5, -1, 2, 0, Outcome3::Meets, "50.0 % of 50 %");
    row("one too few", 4, -1, 2, 0, Outcome3::FallsShort, "by 10.0 points");
    row("none", 0, -1, 2, 0, Outcome3::FallsShort, "by 50.0 points");
    row("a second too little", 10, -1, 2 - 1.0 / 3600, 0, Outcome3::FallsShort, "by 50.0 points");
    row("not computed is not enough", 5, -1, 2, 5, Outcome3::Meets, "50.0 % of 50 %");
    row("not computed, and too few", 4, -1, 2, 6, Outcome3::FallsShort, "by 10.0 points");
    row("keeps exactly four fifths", 4, 5, 2, 0, Outcome3::Meets, "keeps 80 %");
    row("keeps less than four fifths", 3, 4, 2, 0, Outcome3::FallsShort, "by 2.0 points");
    row("had nothing before", 0, 0, 2, 0, Outcome3::Meets, "keeps 100 %");
    row("more than before", 4, 2, 2, 0, Outcome3::Meets, "keeps 200 %");
  }
  void groundAtItsLimits() {
    QFETCH(int, now);
    QFETCH(int, before);
    QFETCH(double, hours);
    QFETCH(int, missing);
    QFETCH(int, outcome);
    QFETCH(QString, text);
    JudgeRuns runs;
    int asked = 0;
    runs.sunHours = [&](const auto&, const SunHoursSettings& s, bool without,
                        double) -> Expected<std::shared_ptr<const SunHoursResult>> {
      ++asked;
      if (s.dates != std::vector<Date>{{2026, 3, 21}}) return fail("another day");
      return without ? result(before) : result(now, hours, missing);
    };
    const Verdict v = judge(yard(before >= 0), rule("amenity-ground"), {{2}}, runs);
    QVERIFY2(int(v.outcome) == outcome, v.text.c_str());
    QVERIFY2(QString::fromStdString(v.text).contains(text), v.text.c_str());
    QCOMPARE(asked, before >= 0 ? 2 : 1);
    QCOMPARE(v.rows.size(), std::size_t(1));
    QVERIFY(v.rows[0].outcome == v.outcome);
    QVERIFY(std::isnan(v.before) == (before < 0));
  }

  void whatWasNotRunIsNotJudged() {
    JudgeRuns runs;
    const auto text = [&](Expected<std::shared_ptr<const SunHoursResult>> after,
                          Expected<std::shared_ptr<const SunHoursResult>> before) {
      runs.sunHours = [=](const auto&, const auto&, bool without, double) { return without ? before : after; };
      const Verdict v = judge(yard(true), rule("amenity-ground"), {{2}}, runs);
      return v.outcome == Outcome3::NotJudged ? v.text : "judged";
    };
    QVERIFY(text(result(5, 2, 3, RunEnd::Enough), result(5)).find("stopped early") != std::string::npos);
    QVERIFY(text(result(5), result(5, 2, 3, RunEnd::Enough)).find("before was stopped early") != std::string::npos);
    QVERIFY(text(fail("The sun is ill."), result(5)).find("the sun is ill") != std::string::npos);
    QVERIFY(text(result(5), fail("The past is lost.")).find("the past is lost") != std::string::npos);
    QCOMPARE(text(result(5), result(5)), std::string("judged"));
    Project p = yard(false);
    QVERIFY(judge(p, rule("amenity-ground"), {}, runs).outcome == Outcome3::NotJudged);
    p.groups[0].layout = std::vector<PointSensor>{};
    QVERIFY(judge(p, rule("amenity-ground"), {{2}}, runs).outcome == Outcome3::NotJudged);
  }

  void dwellingsAtTheirLimits_data() {
    QTest::addColumn<QList<double>>("hours");
    QTest::addColumn<int>("outcome");
    QTest::addColumn<double>("figure");
    const auto row = [](const char* name, QList<double> hours, Outcome3 outcome, double figure) {
      QTest::newRow(name) << hours << int(outcome) << figure;
    };
    row("all", {3, 3, 3, 3, 3, 3, 3, 3, 3, 3}, Outcome3::Meets, 100);
    row("exactly seven of ten", {2, 2, 2, 2, 2, 2, 2, 0.1, 0.1, 0.1}, Outcome3::Meets, 70);
    row("six of ten", {2, 2, 2, 2, 2, 2, 1.9, 0.1, 0.1, 0.1}, Outcome3::FallsShort, 60);
    row("seven, and one and a half tenths dark", {2, 2, 2, 2, 2, 2, 2, 0.1, 0.1, 0}, Outcome3::Meets, 70);
    row("seven, and two tenths dark", {2, 2, 2, 2, 2, 2, 2, 0.1, 0, 0}, Outcome3::FallsShort, 70);
    row("one, lit", {2}, Outcome3::Meets, 100);
    row("one, dark", {0}, Outcome3::FallsShort, 0);
    row("one, not computed", {NAN}, Outcome3::FallsShort, 0);
  }
  void dwellingsAtTheirLimits() {
    QFETCH(QList<double>, hours);
    QFETCH(int, outcome);
    QFETCH(double, figure);
    const Project p = flats(int(hours.size()));
    JudgeRuns runs;
    runs.sunHours = [&](const auto&, const auto&, bool, double) -> Expected<std::shared_ptr<const SunHoursResult>> {
      auto r = std::make_shared<SunHoursResult>();
      for (double h : hours) r->hours.push_back(float(h));
      r->longest = r->hours;
      return std::shared_ptr<const SunHoursResult>(r);
    };
    std::vector<GroupId> groups;
    for (const SensorGroup& g : p.groups) groups.push_back(g.id);
    const auto changed = withChanges(
        rule("midwinter"), {{"subject", "living room"}, {"hours", "2"}, {"share", "70"}, {"none-share", "15"}});
    QVERIFY2(changed.has_value(), changed ? "" : changed.error().text().c_str());
    const Verdict v = judge(p, *changed, groups, runs);
    QVERIFY2(int(v.outcome) == outcome, (v.text + "; " + v.detail).c_str());
    QCOMPARE(v.figure, figure);
    QCOMPARE(v.rows.size(), std::size_t(hours.size()));
  }

  void stepsAreReachedAtTheirValue_data() {
    QTest::addColumn<double>("figure");
    QTest::addColumn<int>("reached");
    QTest::newRow("below all") << 0.3999 << 0;
    QTest::newRow("at the first") << 0.40 << 1;
    QTest::newRow("between") << 0.5499 << 1;
    QTest::newRow("at the second") << 0.55 << 2;
    QTest::newRow("by sums of a hundred parts") << 11 * 0.05 << 2;
    QTest::newRow("at the third") << 0.75 << 3;
    QTest::newRow("all of it") << 1.0 << 3;
    QTest::newRow("nothing") << 0.0 << 0;
  }
  void stepsAreReachedAtTheirValue() {
    QFETCH(double, figure);
    QFETCH(int, reached);
    const YearSettings s;
    QCOMPARE(stepsReached(figure, s.steps), reached);
    QCOMPARE(certaintyOfStep(figure, 0, s.steps), 1.0); // without error there is no doubt
    const double doubtful = certaintyOfStep(figure, 0.05, s.steps);
    QVERIFY(doubtful > 0 && doubtful <= 1);
  }

  void certaintyFollowsTheNormalCurve() {
    QCOMPARE(probabilityAbove(0.5, 0, 0.5), 1.0);
    QCOMPARE(probabilityAbove(0.4999, 0, 0.5), 0.0);
    QVERIFY(std::abs(probabilityAbove(0.5, 0.1, 0.5) - 0.5) < 1e-12);
    QVERIFY(std::abs(probabilityAbove(0.6, 0.1, 0.5) - 0.841344746) < 1e-8); // one standard deviation
    QVERIFY(std::abs(probabilityAbove(0.7, 0.1, 0.5) - 0.977249868) < 1e-8); // two
    QVERIFY(std::abs(probabilityAbove(0.3, 0.1, 0.5) - 0.022750132) < 1e-8);
    const YearSettings s;
    double before = 0;
    for (double figure = 0.40; figure <= 0.475; figure += 0.005) { // from the step to the middle between two
      const double now = certaintyOfStep(figure, 0.02, s.steps);
      QVERIFY(now >= before - 1e-12);
      before = now;
    }
  }

  void levelsOfProvisionNeedBothShares_data() {
    QTest::addColumn<QList<double>>("hours"); ///< 300, 500, 750 lx on half; 100, 300, 500, 750 lx on 95 %
    QTest::addColumn<int>("level");
    QTest::addColumn<int>("rooflit");
    const auto row = [](const char* name, QList<double> hours, int level, int rooflit) {
      QTest::newRow(name) << hours << level << rooflit;
    };
    row("nothing", {0, 0, 0, 0, 0, 0, 0}, 0, 0);
    row("half alone", {4000, 4000, 4000, 2189, 0, 0, 0}, 0, 0);
    row("minimum, just", {2190, 0, 0, 2190, 0, 0, 0}, 1, 0);
    row("an hour too little", {2189, 0, 0, 2190, 0, 0, 0}, 0, 0);
    row("medium", {3000, 2190, 0, 3000, 2190, 0, 0}, 2, 1);
    row("medium on half, minimum on all", {3000, 2500, 0, 3000, 2000, 0, 0}, 1, 0);
    row("high", {3000, 2500, 2190, 3000, 2500, 2190, 0}, 3, 2);
    row("under rooflights alone, the target itself on 95 %", {0, 0, 0, 3000, 2500, 2190, 2190}, 0, 3);
    row("medium under rooflights asks nothing of half", {0, 0, 0, 3000, 2500, 2190, 2189}, 0, 2);
  }
  void levelsOfProvisionNeedBothShares() {
    QFETCH(QList<double>, hours);
    QFETCH(int, level);
    QFETCH(int, rooflit);
    ProvisionHours h{};
    std::copy(hours.begin(), hours.end(), h.begin());
    const ProvisionHours exact{};
    QCOMPARE(provisionLevel(h, exact, false).level, level);
    QCOMPARE(provisionLevel(h, exact, true).level, rooflit);
    QCOMPARE(provisionLevel(h, exact, false).certainty, 1.0);
    ProvisionHours rough{};
    rough.fill(100);
    const double doubtful = provisionLevel(h, rough, false).certainty;
    QVERIFY(doubtful > 0 && doubtful <= 1);
  }

  void readingsCountTheRoomsThatReachTheLevelAsked_data() {
    QTest::addColumn<QString>("asked");
    QTest::addColumn<QList<int>>("same");
    QTest::addColumn<QList<int>>("own");
    QTest::addColumn<QList<int>>("counts"); ///< rooms with it in the same hours, by own hours, judged
    const auto row = [](const char* name, const char* asked, QList<int> same, QList<int> own, QList<int> counts) {
      QTest::newRow(name) << QString(asked) << same << own << counts;
    };
    // Rooms: two that count, one that does not, one without sensors.
    row("minimum as the rule has it", "", {1, 0, 3, 3}, {1, 1, 3, 3}, {1, 2, 2});
    row("minimum", "minimum", {1, 3, 0, 0}, {0, 0, 3, 3}, {2, 0, 2});
    row("medium", "medium", {1, 2, 3, 3}, {2, 3, 3, 3}, {1, 2, 2});
    row("high", "high", {2, 2, 3, 3}, {3, 2, 3, 3}, {0, 1, 2});
    row("none known", "high", {}, {}, {0, 0, 0});
  }
  void readingsCountTheRoomsThatReachTheLevelAsked() {
    QFETCH(QString, asked);
    QFETCH(QList<int>, same);
    QFETCH(QList<int>, own);
    QFETCH(QList<int>, counts);
    Project p = yard(false);
    const YardstickShelf shelf = readYardsticks({SOURCE_TREE "/resources/yardsticks"});
    QCOMPARE(provisionAsked(p, shelf), 0); // nothing is laid
    Judgement other;
    other.yardstick = "daylight-credit";
    p.judgements.push_back(other);
    QCOMPARE(provisionAsked(p, shelf), 0); // nor anything of provision
    Judgement laid;
    laid.yardstick = "european-provision";
    if (!asked.isEmpty()) laid.changed["level"] = asked.toStdString();
    p.judgements.push_back(laid);
    const int level = provisionAsked(p, shelf);
    QCOMPARE(level, asked == "high" ? 3 : asked == "medium" ? 2 : 1);
    YearFacts f;
    f.counted = {true, true, false, true};
    for (std::size_t sensors : {4, 4, 4, 0}) {
      SensorGridFacts g;
      g.count = sensors;
      f.sensors.groups.push_back(g);
    }
    Reading r;
    for (int l : same) r.provisionLevels.push_back(std::size_t(l));
    for (int l : own) r.provisionOwnLevels.push_back(std::size_t(l));
    const ProvisionRooms n = provisionRooms(r, f, level);
    QCOMPARE((QList<int>{int(n.same), int(n.own), int(n.all)}), counts);
    p.judgements.back().changed["level"] = "splendid"; // not one of its choices
    QCOMPARE(provisionAsked(p, shelf), 0);
  }

  void everyShippedRuleNamesWhatItMisses_data() {
    QTest::addColumn<QString>("file");
    for (const QString& f : QDir(SOURCE_TREE "/resources/yardsticks").entryList({"*.json"}))
      QTest::newRow(qPrintable(f)) << f;
  }
  void everyShippedRuleNamesWhatItMisses() {
    QFETCH(QString, file);
    QFile f(SOURCE_TREE "/resources/yardsticks/" + file);
    QVERIFY(f.open(QIODevice::ReadOnly));
    const QString text = QString::fromUtf8(f.readAll());
    const auto sound = readYardstick(text.toStdString(), file.toStdString());
    QVERIFY2(sound.has_value(), sound ? "" : sound.error().text().c_str());
    int needed = 0;
    for (const Parameter& p : sound->parameters) { // each parameter renamed: missing, or one that may be left out
      const QString key = QString::fromStdString(p.key);
      const auto less = readYardstick(QString(text).replace("\"" + key + "\":", "\"x-" + key + "\":").toStdString(),
                                      file.toStdString());
      if (less) continue;
      ++needed;
      QVERIFY2(QString::fromStdString(less.error().text()).contains("parameters." + key), less.error().text().c_str());
      QVERIFY(QString::fromStdString(less.error().text()).contains(file));
    }
    QVERIFY(needed >= 2);
    for (const char* bad : {"\"measure\": \"moonlight\"", "\"measure\": 3", "\"measures\": \"sun\""}) {
      QString other = text;
      other.replace(QRegularExpression("\"measure\": \"[a-z-]+\""), bad);
      QVERIFY2(!readYardstick(other.toStdString(), "other.json"), bad);
    }
  }
};

QTEST_GUILESS_MAIN(TestVerdicts)
#include "tst_verdicts.moc"
