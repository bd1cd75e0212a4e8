// Sun for the neighbours, by mouse and keyboard: before and difference, irradiation of a roof, the shadow plan and what
// leaves it, a rule on net new shadow.

#ifndef Q_MOC_RUN
#include "app/charts/month_bars.h"
#include "core/model/form/edit.h"
#include "core/proof/light_cases.h"
#include "tests/app/driver.h"
#include <QAction>
#include <QFile>
#include <QLabel>
#include <QTableWidget>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

/// A square, a neighbour to the north, and a block that is proposed south of it.
Project square() {
  Project p;
  p.name = "Square";
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  p.site.weather = madeUpYear(p.site.place);
  const auto put = [&](std::uint64_t id, const char* name, Outline o, double height, bool proposed) {
    Element e;
    e.id = {id};
    e.name = name;
    e.role = proposed ? Role::Building : Role::Neighbour;
    e.proposed = proposed;
    e.shape = Mass{std::move(o), 0, height, 3};
    p.elements.push_back(std::make_shared<const Element>(std::move(e)));
  };
  put(1, "Store", rectangle(-20, 22, 20, 32), 9, false);
  put(2, "Block", rectangle(-15, -30, 15, -18), 16, true);
  SensorGroup g;
  g.id = {3};
  g.name = "Green";
  GroundArea area;
  area.outline = rectangle(-18, -15, 18, 18);
  area.spacing = 3;
  g.layout = area;
  p.groups.push_back(g);
  return p;
}

class TestAccessWindow : public QObject {
  Q_OBJECT

private slots:
  void whatTheProposalTakesIsShown() {
    auto w = openWindow();
    w->document().startNew(square());
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    press(*w, "Sun on this ground");
    const auto current = [&] { return w->studies().current(); };
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && !current()->partial, 30000);
    const std::vector<float> now = current()->painted->values();
    choose(*w, "State shown", "before it");
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->state == DesignState::Before, 30000);
    const std::vector<float> before = current()->painted->values();
    choose(*w, "State shown", "difference");
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->state == DesignState::Difference, 30000);
    const auto change = current()->painted;
    QVERIFY(change->isChange);
    for (std::size_t i = 0; i < now.size(); ++i) QVERIFY(std::abs(now[i] - before[i] - change->values()[i]) < 1e-4f);
    QVERIFY(named<QLabel>(*w, "Share above threshold")->text().contains("% get less"));
    QVERIFY(!named<QWidget>(*w, "Threshold")->isVisibleTo(w.get())); // a change has none
    // It follows an edit; without a proposal there is nothing to compare.
    Project p = w->document().project();
    Element e = *p.elements[1];
    e.proposed = false;
    p.elements[1] = std::make_shared<const Element>(e);
    w->document().change(std::move(p), "Mark as existing");
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->state == DesignState::Proposed, 30000);
    QVERIFY(!named<QWidget>(*w, "State shown")->isVisibleTo(w.get()));
    w->document().undo();
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->state == DesignState::Difference, 30000);
  }

  void aRoofIsAskedForItsEnergy() {
    auto w = openWindow();
    w->document().startNew(square());
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    press(*w, "Sun energy on these roofs");
    const auto current = [&] { return w->studies().current(); };
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && !current()->partial, 30000);
    QCOMPARE(current()->painted->kind(), StudyKind::Irradiation);
    auto* energy = named<QLabel>(*w, "Energy together");
    QVERIFY2(energy->text().contains("MWh on 360 m²"), qPrintable(energy->text())); // the proposed block's roof
    QVERIFY(energy->text().contains("% sun"));
    QTRY_VERIFY_WITH_TIMEOUT(current() && !current()->verdicts.empty(), 30000);
    QVERIFY2(current()->verdicts[0].second.outcome == Outcome3::Meets, current()->verdicts[0].second.text.c_str());
    // A cell tells its months, which add up to it.
    auto* months = named<MonthBars>(*w, "Months behind the sensor");
    QVERIFY(!months->isVisibleTo(w.get()));
    clickAt(&w->stage(), *w->stage().pixelOf({0, -24, 16}));
    QVERIFY(w->document().looking().sensor.has_value());
    QTRY_VERIFY_WITH_TIMEOUT(months->isVisibleTo(w.get()), 30000);
    const QStringList told = months->text().split(", ");
    QCOMPARE(told.size(), 12);
    double together = 0;
    for (const QString& m : told) together += m.section(' ', 1, 1).toDouble();
    const double cell = double(current()->painted->values()[*w->document().looking().sensor]);
    QVERIFY2(told[5].startsWith("Jun ") && std::abs(together / cell - 1) < 0.02,
             qPrintable(QString("%1 %2").arg(together).arg(cell)));
    // A season, and a moment.
    const auto light = [&]() -> const LightSettings& { return w->document().project().studies.back().light; };
    const double year = double(current()->painted->values()[0]);
    w->document().look([](Looking& l) { l.season = {{}, "winter", 12, 1, 1, 31, 0, 1440}; });
    click(named<QWidget>(*w, "What is asked"));
    choose(*w, "Period of irradiation", "the Almanac's season");
    QCOMPARE(light().season.fromMonth, 12);
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && double(current()->painted->values()[0]) < 0.3 * year,
                             30000);
    QTRY_VERIFY_WITH_TIMEOUT(months->isVisibleTo(w.get()) && months->text().split(", ").size() == 2, 30000);
    QVERIFY(months->text().startsWith("Jan ") && months->text().contains("Dec "));
    choose(*w, "Told as", "mean of its days");
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && current()->painted->scale.unit == "kWh/m² a day",
                             30000);
    choose(*w, "Period of irradiation", "the sky of a moment");
    QCOMPARE(light().sky.kind, SkyKind::Weather);
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && current()->painted->scale.unit == "W/m²", 30000);
    QTRY_VERIFY(!months->isVisibleTo(w.get())); // a moment has none
    choose(*w, "Sky", "uniform");               // without irradiances: said, nothing lost
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "State of the study")->text().contains("needs its irradiances"), 30000);
    fill(*w, "Diffuse irradiance", "100");
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted, 30000);
    QVERIFY(std::abs(current()->painted->values()[0] - 100) < 1);
    fill(*w, "Beam irradiance", "-5");
    QCOMPARE(light().sky.directIrradiance, 0.0);
  }

  void whatIsDemolishedIsGoneAfterAndThereBefore() {
    // An old shed where the block is proposed: found, taken as demolished, and the ground before has its shadow.
    Project p = square();
    Element shed;
    shed.id = {5};
    shed.name = "Shed";
    shed.role = Role::Neighbour;
    shed.shape = Mass{rectangle(-15, -30, 20, -16), 0, 8, 1};
    p.elements.push_back(std::make_shared<const Element>(shed));
    auto w = openWindow();
    w->document().startNew(p);
    const auto found = [&](const char* code) {
      return std::any_of(w->document().findings().begin(), w->document().findings().end(),
                         [&](const Finding& f) { return f.code == code; });
    };
    QTRY_VERIFY(found("proposal.overlap"));
    w->document().look([](Looking& l) {
      l.step = Step::Model;
      l.selected = {{5}};
    });
    choose(*w, "Status", "to be demolished");
    const auto now = [&] { return w->document().project().element({5}); };
    QVERIFY(now()->demolished && !now()->proposed);
    QTRY_VERIFY(!found("proposal.overlap"));
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    press(*w, "Sun on this ground");
    const auto current = [&] { return w->studies().current(); };
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && !current()->partial, 30000);
    const std::vector<float> after = current()->painted->values();
    choose(*w, "State shown", "before it");
    QTRY_VERIFY_WITH_TIMEOUT(
        current() && current()->state == DesignState::Before && current()->painted && !current()->partial, 30000);
    const std::vector<float> before = current()->painted->values();
    // The block alone, and the shed alone, asked of the core.
    const auto alone = [&](std::uint64_t id) {
      Project q = w->document().project();
      std::erase_if(q.elements, [&](const ElementPtr& e) { return e->id.value != 1 && e->id.value != id; });
      q = withEdited(std::move(q), {{id}}, [](Element& e) { e.demolished = e.proposed = false; });
      RunControl control;
      const Study& s = w->document().project().studies.back();
      return runSunHours(*sunHoursInput(q, s.groups, s.sunHours), control).hours;
    };
    QCOMPARE(after, alone(2));
    QCOMPARE(before, alone(5));
    w->action("Undo")->trigger(); // the question
    w->action("Undo")->trigger(); // the status
    QVERIFY(!now()->demolished);
  }

  void theShadowPlanFollowsAndLeaves() {
    QTemporaryDir d;
    auto w = openWindow();
    w->document().startNew(square());
    QTest::keyClick(w.get(), Qt::Key_H, Qt::ControlModifier | Qt::ShiftModifier);
    const auto panel = w->findChild<ShadowPanel*>();
    QVERIFY(panel->isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(panel->plan() != nullptr, 20000);
    QCOMPARE(panel->plan()->moments.size(), std::size_t(1));
    choose(*panel, "Moments of the plan", "hours of days");
    fill(*panel, "Days of the plan", "21 Mar, 21 Jun");
    QTRY_VERIFY_WITH_TIMEOUT(panel->plan()->moments.size() == 12, 20000);
    auto* table = named<QTableWidget>(*panel, "Areas of shadow");
    QCOMPARE(table->rowCount(), 12);
    QVERIFY(table->item(0, 0)->text().contains("21 Mar"));
    QVERIFY(named<QLabel>(*panel, "Areas in words")->text().contains("Green: "));
    const double before = panel->plan()->freshAreaHours();
    QVERIFY(before > 1000);
    // A lower block casts less, at once.
    Project p = w->document().project();
    Element e = *p.elements[1];
    std::get<Mass>(e.shape).height = 6;
    p.elements[1] = std::make_shared<const Element>(e);
    w->document().change(std::move(p), "Set height");
    QTRY_VERIFY_WITH_TIMEOUT(panel->plan()->freshAreaHours() < 0.5 * before, 20000);
    // What can't be is said; the last plan stays.
    const auto kept = panel->plan();
    fill(*panel, "Plan from", "noon-ish");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*panel, "State of the plan")->text().contains("Clock times"), 5000);
    QCOMPARE(panel->plan(), kept);
    fill(*panel, "Plan from", "9:00");
    fill(*panel, "Step of the plan", "0");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*panel, "State of the plan")->text().contains("step of 1 to 720"), 5000);
    fill(*panel, "Step of the plan", "60");
    for (const char* name : {"plan.geojson", "plan.dxf", "plan.csv", "plan.svg"}) {
      panel->exportTo(d.filePath(name));
      QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(d.filePath(name)) && !panel->writer().busy(), 20000);
    }
    QTest::keyClick(panel, Qt::Key_Escape);
    QVERIFY(!panel->isVisible());
  }

  void aRuleOnNewShadowIsLaidAndFallsShort() {
    auto w = openWindow();
    w->document().startNew(square());
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    choose(*w, "Rule to meet", "Net new shadow");
    press(*w, "Judge by this rule");
    const auto current = [&] { return w->studies().current(); };
    QTRY_VERIFY_WITH_TIMEOUT(current() && !current()->verdicts.empty(), 30000);
    const Verdict v = current()->verdicts[0].second;
    QVERIFY2(v.outcome == Outcome3::FallsShort, v.text.c_str());
    QVERIFY(v.atMost && v.figure > v.needed);
    QVERIFY2(v.text.starts_with("exceeds by"), v.text.c_str());
    QCOMPARE(v.rows.size(), std::size_t(1));
  }
};

} // namespace

QTEST_MAIN(TestAccessWindow)
#include "tst_access_window.moc"
