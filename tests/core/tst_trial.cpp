// Trials: a part of the work, marked, never judged, never kept.

#include "core/files/library.h"
#include "core/runs/answer.h"
#include "core/runs/trial.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>

using namespace noonward;

namespace {
Study season() {
  Study s;
  s.id = StudyId::fresh();

  s.sunHours.sunriseToSunset = true;
  return s;
}
Project yard() {
  Project p = test::house();
  p.site.place = {radians(52), radians(5), 0};
  SensorGroup g;
  g.id = GroupId::fresh();
  g.name = "Yard";
  g.layout = GroundArea{rectangle(-4, 7, 12, 14), 0, 2};
  p.groups = {g};
  p.studies = {season()};
  Judgement j;
  j.id = JudgementId::fresh();
  j.yardstick = "amenity-ground";
  j.groups = {g.id};
  p.judgements = {j};
  return p;
}
} // namespace

class TestTrial : public QObject {
  Q_OBJECT
private slots:
  void everyEighthDayStandsForItsEight() {
    const Study whole = season(), part = trialOf(whole, 2026);
    QCOMPARE(datesOf(whole.sunHours, 2026).size(), std::size_t(365));
    QCOMPARE(part.sunHours.dates.size(), std::size_t(46));
    QCOMPARE(part.sunHours.dates.front(), (Date{2026, 1, 5}));
    QCOMPARE(part.sunHours.dates.back(), (Date{2026, 12, 31}));
    QCOMPARE(trialScale(whole, 2026), 365.0 / 46);
    // A day or a week is done whole.
    Study day = whole;
    day.sunHours.dates = {{2026, 3, 21}, {2026, 6, 21}};
    QCOMPARE(trialOf(day, 2026).sunHours, day.sunHours);
    QCOMPARE(trialScale(day, 2026), 1.0);
  }

  void lightTakesFourTimesTheError() {
    Study s;
    s.kind = StudyKind::DaylightFactor;
    s.light.error = 0.02;
    s.light.maxSamples = 1 << 18;
    QCOMPARE(trialOf(s, 2026).light.error, 0.08);
    QCOMPARE(trialOf(s, 2026).light.maxSamples, std::size_t(1 << 14));
    s.light.error = 0.4;
    QCOMPARE(trialOf(s, 2026).light.error, 0.5); // no coarser than a file may ask
    s.kind = StudyKind::Year;
    s.year.error = 0.03;
    QCOMPARE(trialOf(s, 2026).year.error, 0.12);
    QVERIFY(trialText(s, 2026).find("not judged") != std::string::npos);
  }

  void aTrialIsMarkedAndNeitherJudgedNorKept() {
    QTemporaryDir d;
    const YardstickShelf shelf = readYardsticks({SOURCE_TREE "/resources/yardsticks"});
    StudyQuestion q;
    q.project = yard();
    q.study = q.project.studies[0];
    q.key = studyDigest(q.project, q.study);
    q.store = std::make_shared<ResultStore>(d.filePath("r.sqlite").toStdString());
    q.shelf = std::make_shared<const YardstickShelf>(shelf);
    q.trial = true;
    Answerer answerer;
    RunControl control;
    const AnswerPtr trial = answerer.answer(q, control, [](AnswerPtr) {});
    QVERIFY2(trial && trial->fault.empty(), trial ? trial->fault.c_str() : "");
    QVERIFY(trial->trial);
    QCOMPARE(trial->key, q.key); // it is of the study in hand
    QVERIFY(trial->verdicts.empty());
    QVERIFY(q.store->runs().empty());
    QVERIFY(trial->asked.find("every eighth day") != std::string::npos);
    q.trial = false;
    const AnswerPtr whole = answerer.answer(q, control, [](AnswerPtr) {});
    QVERIFY(!whole->trial);
    QCOMPARE(whole->verdicts.size(), std::size_t(1));
    QCOMPARE(q.store->runs().empty(), false);
    // It tells the year's hours, not those of its own days.
    const auto &a = trial->painted->result->hours, &b = whole->painted->result->hours;
    QCOMPARE(a.size(), b.size());
    double sum = 0, all = 0;
    for (std::size_t i = 0; i < a.size(); ++i) {
      QVERIFY2(std::abs(a[i] - b[i]) < 0.03 * whole->painted->result->possible,
               qPrintable(QString("%1 against %2").arg(a[i]).arg(b[i])));
      sum += a[i], all += b[i];
    }
    QVERIFY2(std::abs(sum / all - 1) < 0.01, qPrintable(QString::number(sum / all)));
    QVERIFY(std::abs(trial->painted->result->possible / whole->painted->result->possible - 1) < 0.01);
  }
};

QTEST_GUILESS_MAIN(TestTrial)
#include "tst_trial.moc"
