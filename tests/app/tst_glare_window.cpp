// Glare and view by mouse and keyboard: eyes laid by a question, the year run, a needle clicked, its hour looked at as
// a fisheye, the head turned, an eye kept, the picture saved, the view judged.

#ifndef Q_MOC_RUN
#include "app/panels/fisheye_panel.h"
#include "core/files/results/luminance_exr.h"
#include "core/studies/glare_year.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QSignalSpy>
#include <QTemporaryDir>
#endif

using namespace noonward;
using namespace noonward::test;

class TestGlareWindow : public QObject {
  Q_OBJECT

private slots:
  void aDeskIsAskedForItsGlareAndLookedThrough() {
    auto w = openWindow();
    w->document().startNew(houseOfTheYear(0));
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    press(*w, "Glare at these desks");
    const auto current = [&] { return w->studies().current(); };
    QTRY_COMPARE_WITH_TIMEOUT(w->document().project().studies.size(), std::size_t(1), 10000);
    QVERIFY(w->document().project().groups.back().eyes);
    QVERIFY(!named<QWidget>(*w, "Live")->isVisibleTo(w.get())); // a question runs it once, a change does not
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && !current()->partial, 120000);
    const auto painted = current()->painted;
    QVERIFY(painted->light && painted->light->glare);
    QTRY_VERIFY_WITH_TIMEOUT(!current()->verdicts.empty(), 60000);
    QVERIFY2(current()->verdicts[0].second.title == "Protection from glare",
             current()->verdicts[0].second.text.c_str());
    // The needle that glares most, clicked where it points.
    std::size_t worst = 0;
    for (std::size_t i = 0; i < painted->values().size(); ++i)
      if (painted->values()[i] > painted->values()[worst]) worst = i;
    QVERIFY(painted->values()[worst] > 1);
    QVERIFY(painted->sensors.sensors[worst].normal[1] < -0.9f); // it looks to the window
    QTest::keyClick(w.get(), Qt::Key_2, Qt::ControlModifier);   // plan
    const auto needle = painted->sensors.cell(worst);
    const auto there = w->stage().pixelOf((needle[0] + needle[2]) * 0.5);
    QVERIFY(there);
    clickAt(&w->stage(), *there);
    QCOMPARE(w->document().looking().sensor, std::optional(worst));
    QTRY_VERIFY(named<QLabel>(*w, "Hours behind the sensor")->text().contains("above 0.40"));
    // Its worst hour, through its eye.
    const auto moment = stampFromText("2026-12-21T12:30");
    w->document().look([&](Looking& l) { l.moment = w->document().project().zone().instant(moment->time); });
    auto* panel = named<FisheyePanel>(*w, "Fisheye panel");
    press(*w, "What this eye sees…");
    QVERIFY(panel->isVisibleTo(w.get()));
    QSignalSpy seen(panel, &FisheyePanel::pictureChanged);
    QTRY_VERIFY_WITH_TIMEOUT(seen.count() > 0, 60000);
    QVERIFY(panel->picture());
    const double south = panel->picture()->glare.ev;
    QVERIFY(south > 100);
    // The head turned away from the window by hand: less light.
    seen.clear();
    auto* view = named<QWidget>(*w, "What the eye sees");
    drag(view, {double(view->width()) / 4, double(view->height()) / 2},
         {double(view->width()) / 2, double(view->height()) / 2});
    QVERIFY(named<QLineEdit>(*w, "Line of sight")->text() != "180, 0");
    QTRY_VERIFY_WITH_TIMEOUT(seen.count() > 0, 60000);
    seen.clear();
    fill(*w, "Line of sight", "0, 0");
    QTRY_VERIFY_WITH_TIMEOUT(seen.count() > 0, 60000);
    QVERIFY2(panel->picture()->glare.ev < 0.6 * south, qPrintable(QString::number(panel->picture()->glare.ev)));
    // What can't be meant is told, and nothing lost.
    fill(*w, "Line of sight", "north");
    QVERIFY(named<QLabel>(*w, "State of the fisheye")->text().contains("180, 0"));
    // An end of the scale is dragged: the range follows, and what is written beside it.
    QCOMPARE(named<QLineEdit>(*w, "Range of the fisheye")->text(), QString("3 – 30000"));
    const double width = std::min(380.0, std::min(view->height() - 42.0, view->width() - 330.0) - 12);
    drag(view, {6 + width, view->height() - 19.0}, {6 + width / 2, view->height() - 19.0});
    const QStringList ends = named<QLineEdit>(*w, "Range of the fisheye")->text().split(QChar(0x2013));
    QCOMPARE(ends[0].trimmed(), QString("3"));
    QVERIFY2(ends[1].toDouble() > 50 && ends[1].toDouble() < 3000, qPrintable(ends[1]));
    // Kept as an eye of the project, in one step that can be undone.
    const std::size_t groups = w->document().project().groups.size();
    press(*w, "Keep as an eye");
    QCOMPARE(w->document().project().groups.size(), groups + 1);
    const auto& eyes = std::get<std::vector<PointSensor>>(w->document().project().groups.back().layout);
    QVERIFY(eyes.size() == 1 && eyes[0].normal.y > 0.99 && eyes[0].name == "Eye 1");
    w->document().undo();
    QCOMPARE(w->document().project().groups.size(), groups);
    // True values leave it.
    QTemporaryDir d;
    panel->exportTo(d.filePath("eye.exr"));
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(d.filePath("eye.exr")), 10000);
    QTRY_VERIFY(!panel->writer().busy());
    QVERIFY(readLuminanceExr(d.filePath("eye.exr").toStdString()));
    QTest::keyClick(panel, Qt::Key_Escape);
    QVERIFY(!panel->isVisibleTo(w.get()));
  }

  void theViewIsJudgedAndFollowsTheModel() {
    auto w = openWindow();
    w->document().startNew(houseOfTheYear(0));
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    press(*w, "The view out of these rooms");
    const auto current = [&] { return w->studies().current(); };
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && !current()->partial && !current()->verdicts.empty(),
                             60000);
    QCOMPARE(current()->painted->kind(), StudyKind::ViewOut);
    QVERIFY(current()->verdicts[0].second.outcome == Outcome3::Meets);
    // A wall right before the window takes it.
    Project p = w->document().project();
    Element wall;
    wall.id = {500};
    wall.name = "Wall";
    wall.role = Role::Neighbour;
    wall.shape = Mass{rectangle(-20, -4, 30, -3), 0, 12, 1};
    p.elements.push_back(std::make_shared<const Element>(wall));
    w->document().change(std::move(p), "Put a wall");
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && !current()->verdicts.empty() &&
                                 current()->verdicts[0].second.outcome == Outcome3::FallsShort,
                             60000);
    choose(*w, "Figure of the view out", "outside distance");
    QTRY_VERIFY_WITH_TIMEOUT(current() && current()->painted && current()->painted->scale.unit == "m", 60000);
    for (float v : current()->painted->values()) QVERIFY(v < 12);
  }
};

QTEST_MAIN(TestGlareWindow)
#include "tst_glare_window.moc"
