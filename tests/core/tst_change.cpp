// With the proposal, before it, and what it changes: fields for the eye, answers of the queue, scales and words.

#ifndef Q_MOC_RUN
#include "core/model/form/edit.h"
#include "core/proof/light_cases.h"
#include "core/runs/answer.h"
#include "core/studies/change.h"
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {

SensorField lit(std::vector<float> values, std::vector<float> errors) {
  auto r = std::make_shared<LightResult>();
  r->kind = StudyKind::Vsc;
  r->value = std::move(values);
  r->standardError = std::move(errors);
  r->samples.assign(r->value.size(), 8);
  SensorSet sensors;
  sensors.sensors.resize(r->value.size());
  SensorGridFacts g;
  g.count = r->value.size();
  sensors.groups.push_back(g);
  return lightField(std::move(sensors), std::move(r));
}

/// A square before windows and a block that is proposed south of it.
Project quarter() {
  Project p;
  p.site.place = {radians(55), radians(12), 0};
  p.site.zone = "UTC";
  p.site.weather = madeUpYear(p.site.place);
  Element e;
  e.id = {10};
  e.name = "Proposal";
  e.proposed = true;
  e.shape = Mass{rectangle(-12, -20, 12, -10), 0, 14, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
  SensorGroup g;
  g.id = {2};
  g.name = "Square";
  GroundArea area;
  area.outline = rectangle(-15, -8, 15, 20);
  area.spacing = 2;
  g.layout = area;
  p.groups.push_back(g);
  return p;
}
Study studyOf(StudyKind kind) {
  Study s;
  s.id = {5};
  s.kind = kind;
  s.sunHours.dates = {{2026, 3, 21}};
  s.sunHours.sunriseToSunset = true;
  return s;
}
AnswerPtr answered(const Project& p, const Study& s, DesignState state, Answerer& by,
                   std::shared_ptr<ResultStore> store = {}) {
  StudyQuestion q;
  q.project = p;
  q.study = s;
  q.state = state;
  q.key = studyDigest(p, s);
  q.store = std::move(store);
  RunControl control;
  return by.answer(q, control, [](const AnswerPtr&) {});
}

class TestChange : public QObject {
  Q_OBJECT
private slots:
  void differenceIsNowLessBefore() {
    const SensorField now = lit({10, 30, NAN, 5}, {0.3f, 0.1f, 0, 0}), before = lit({14, 30, 8, NAN}, {0.4f, 0, 0, 0});
    const SensorField d = stateField(now, before, DesignState::Difference);
    QCOMPARE(d.values()[0], -4.0f);
    QCOMPARE(d.values()[1], 0.0f);
    QVERIFY(std::isnan(d.values()[2]) && std::isnan(d.values()[3]));
    QVERIFY(std::abs(d.light->standardError[0] - 0.5f) < 1e-6f);
    QCOMPARE(d.scale.low, -d.scale.high);
    QVERIFY(d.scale.high >= 4);
    QCOMPARE(d.scale.unit, std::string("points")); // a change of % is no %
    QVERIFY(d.isChange && !d.scale.dotBelow);
    QCOMPARE(QString::fromStdString(d.valueText(0)), QString("-4.0 ± 0.5 points"));
  }

  void ratioIsNowInPercentOfBefore() {
    const SensorField r = stateField(lit({10, 0, 4}, {0, 0, 0.1f}), lit({20, 5, 0}, {0, 0, 0}), DesignState::Ratio);
    QCOMPARE(r.values()[0], 50.0f);
    QCOMPARE(r.values()[1], 0.0f);
    QVERIFY2(std::isnan(r.values()[2]), "of nothing there is no share");
    QCOMPARE(r.scale.threshold, 80.0);
    QCOMPARE(QString::fromStdString(r.valueText(0)), QString("50 ± 0 % of before"));
  }

  void beforeIsOnTheScaleOfNow() {
    const SensorField now = lit({10, 38}, {0, 0}), before = lit({12, 39}, {0, 0});
    const SensorField b = stateField(now, before, DesignState::Before);
    QCOMPARE(b.values(), before.values());
    QCOMPARE(b.scale.high, now.scale.high);
    QVERIFY(QString::fromStdString(b.scale.title).endsWith(", before"));
    QVERIFY(!b.isChange);
    QCOMPARE(stateField(now, before, DesignState::Proposed).values(), now.values());
  }

  void nothingChangedIsAScaleAllTheSame() {
    const SensorField d = stateField(lit({3, 3}, {0, 0}), lit({3, 3}, {0, 0}), DesignState::Difference);
    QVERIFY(d.scale.high > 0 && d.scale.low < 0);
    QCOMPARE(d.values()[0], 0.0f);
  }

  void aChangeKeepsItsOwnThresholdAndRange() {
    const SensorField d = stateField(lit({3}, {0}), lit({9}, {0}), DesignState::Difference);
    const FieldScale s = d.scaled(27.0, std::pair{0.0, 5.0});
    QCOMPARE(s.low, d.scale.low);
    QCOMPARE(s.threshold, d.scale.threshold);
    DisplayUnits feet;
    feet.light = LightUnit::FootCandle;
    QVERIFY(d.isIn(feet)); // nothing to turn into other units a second time
  }

  void keysComeBack() {
    for (const DesignState s : allDesignStates) QCOMPARE(*designStateFromKey(designStateKey(s)), s);
    QVERIFY(!designStateFromKey("after"));
  }

  // ---- through the answers

  void everyKindHasItsChange_data() {
    QTest::addColumn<int>("kind");
    for (const StudyKindFacts& k : studyKinds)
      if (k.settings != SettingsOf::Year) QTest::newRow(k.key) << int(k.kind);
  }
  void everyKindHasItsChange() {
    QFETCH(int, kind);
    const Project p = quarter();
    Study s = studyOf(StudyKind(kind));
    s.light.maxSamples = 2048;
    if (s.kind == StudyKind::ViewOut) s.groups = {p.groups.front().id}; // unasked it takes eyes alone
    if (s.kind == StudyKind::Illuminance) s.light.sky.kind = SkyKind::CieOvercast;
    Answerer by;
    const AnswerPtr now = answered(p, s, DesignState::Proposed, by), before = answered(p, s, DesignState::Before, by),
                    change = answered(p, s, DesignState::Difference, by);
    QVERIFY2(now && now->fault.empty(), now ? now->fault.c_str() : "none");
    QVERIFY(before && before->fault.empty() && change && change->fault.empty());
    QCOMPARE(before->state, DesignState::Before);
    QCOMPARE(change->state, DesignState::Difference);
    const auto &a = now->painted->values(), &b = before->painted->values(), &d = change->painted->values();
    QCOMPARE(a.size(), b.size());
    double lost = 0;
    for (std::size_t i = 0; i < a.size(); ++i) {
      QVERIFY(std::abs(double(a[i]) - double(b[i]) - double(d[i])) < 1e-4 * (1 + std::abs(double(b[i]))));
      lost += double(d[i]);
    }
    if (StudyKind(kind) == StudyKind::NoSkyLine || StudyKind(kind) == StudyKind::ViewOut)
      QCOMPARE(lost, 0.0); // under the open sky everybody sees some, and nobody looks out of a window
    else
      QVERIFY2(lost < 0, "a block to the south takes light");
  }

  void beforeIsRunOnce() {
    const Project p = quarter();
    const Study s = studyOf(StudyKind::SunHours);
    auto store = std::make_shared<ResultStore>(std::filesystem::path());
    Answerer by;
    (void)answered(p, s, DesignState::Difference, by, store);
    const std::size_t runs = store->runs().size();
    QCOMPARE(runs, std::size_t(2)); // now and before
    (void)answered(p, s, DesignState::Ratio, by, store);
    (void)answered(p, s, DesignState::Before, by, store);
    Answerer other;
    (void)answered(p, s, DesignState::Difference, other, store);
    QCOMPARE(store->runs().size(), runs);
  }

  void theMovedProposalIsAnotherChange() {
    Project p = quarter();
    const Study s = studyOf(StudyKind::SunHours);
    Answerer by;
    const auto near = answered(p, s, DesignState::Difference, by);
    Element e = *p.elements[0];
    e.shape = Mass{rectangle(-12, -60, 12, -50), 0, 14, 1};
    p.elements[0] = std::make_shared<const Element>(e);
    const auto far = answered(p, s, DesignState::Difference, by);
    double a = 0, b = 0;
    for (float v : near->painted->values()) a += double(v);
    for (float v : far->painted->values()) b += double(v);
    QVERIFY2(a < b && b <= 0, qPrintable(QString("%1 %2").arg(a).arg(b)));
  }

  void aTrialOfADifferenceStandsForTheWholeSeason() {
    const Project p = quarter();
    Study s = studyOf(StudyKind::SunHours);
    s.sunHours.dates.clear();
    s.sunHours.season.fromMonth = s.sunHours.season.toMonth = 3;
    StudyQuestion q;
    q.project = p;
    q.study = s;
    q.key = studyDigest(p, s);
    q.state = DesignState::Difference;
    RunControl control;
    Answerer by;
    const AnswerPtr whole = by.answer(q, control, [](const AnswerPtr&) {});
    q.trial = true;
    const AnswerPtr part = by.answer(q, control, [](const AnswerPtr&) {});
    QVERIFY(part && part->trial && part->state == DesignState::Difference);
    double all = 0, raised = 0;
    for (float v : whole->painted->values()) all += double(v);
    for (float v : part->painted->values()) raised += double(v);
    QVERIFY2(std::abs(raised - all) < 0.15 * std::abs(all), qPrintable(QString("%1 for %2").arg(raised).arg(all)));
  }

  void aYearStaysWhatItIs() {
    Project p = quarter();
    const Study s = studyOf(StudyKind::Year);
    Answerer by;
    const auto a = answered(p, s, DesignState::Difference, by);
    QVERIFY(a);
    QCOMPARE(a->state, DesignState::Proposed);
  }
};

} // namespace

QTEST_GUILESS_MAIN(TestChange)
#include "tst_change.moc"
