// Eyes by mouse and keyboard: set, turned, moved, typed, in a row, as a grid, looked through, taken out, undone.

#ifndef Q_MOC_RUN
#include "app/panels/fisheye_panel.h"
#include "core/model/rooms/eyes.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <QLabel>
#include <QSignalSpy>
#endif

using namespace noonward;
using namespace noonward::test;

class TestEyesWindow : public QObject {
  Q_OBJECT

private slots:
  void anEyeIsSetTurnedMovedAndTyped() {
    auto w = openWindow();
    w->document().startNew(houseOfTheYear(0));
    const auto project = [&]() -> const Project& { return w->document().project(); };
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    QTest::keyClick(w.get(), Qt::Key_2, Qt::ControlModifier); // plan
    press(*w, "Set eyes");
    auto& stage = w->stage();
    QCOMPARE(stage.tool(), Tool::Eye);
    // Pressed at (2, 4), dragged east.
    const auto px = [&](double x, double y) { return *stage.pixelOf({x, y, 1.2}); };
    drag(&stage, px(2, 4), px(4.5, 4));
    const auto eye = [&](std::size_t k = 0) {
      const auto all = eyesSet(project());
      return k < all.size() ? *eyeAt(project(), all[k]) : PointSensor{};
    };
    QCOMPARE(eyesSet(project()).size(), std::size_t(1));
    QVERIFY(std::hypot(eye().position.x - 2, eye().position.y - 4) < 0.1);
    QCOMPARE(eye().position.z, 1.2);
    QVERIFY(eye().normal.x > 0.999);
    // A press without a drag: toward the window, which is south.
    clickAt(&stage, px(5, 2));
    QCOMPARE(eyesSet(project()).size(), std::size_t(2));
    QVERIFY(eye(1).normal.y < -0.999);
    // Its end turns it to the west, its middle moves it; each is one step.
    const auto sign = stage.eyeSign(eye(1).position, eye(1).normal);
    QVERIFY(sign);
    drag(&stage, sign->second, px(2, 2));
    QVERIFY(eye(1).normal.x < -0.999);
    drag(&stage, px(eye(1).position.x, eye(1).position.y), px(5.5, 3));
    QVERIFY(std::hypot(eye(1).position.x - 5.5, eye(1).position.y - 3) < 0.1);
    w->document().undo();
    QVERIFY(std::hypot(eye(1).position.x - 5, eye(1).position.y - 2) < 0.1);
    w->document().undo();
    QVERIFY(eye(1).normal.y < -0.999);
    // An azimuth is typed on the stage.
    stage.setFocus();
    QTest::keyClicks(&stage, "225");
    QTest::keyClick(&stage, Qt::Key_Return);
    QVERIFY(std::abs(degrees(lineOfSight(project(), eye(1)).azimuth) - 225) < 1e-6);
    // The sheet tells and changes the same eye.
    QCOMPARE(named<QLineEdit>(*w, "Azimuth of the eye")->text(), QString("225°"));
    fill(*w, "Altitude of the eye", "-15");
    QVERIFY(std::abs(degrees(lineOfSight(project(), eye(1)).altitude) + 15) < 1e-6);
    fill(*w, "Altitude of the eye", "down");
    QVERIFY(std::abs(degrees(lineOfSight(project(), eye(1)).altitude) + 15) < 1e-6);
    fill(*w, "Name of the eye", "Desk by the door");
    QCOMPARE(eye(1).name, std::string("Desk by the door"));
    // A row from it, and what can't be one.
    fill(*w, "Eyes in the row", "3");
    fill(*w, "Distance between seats", "80 cm");
    press(*w, "Lay the row");
    QCOMPARE(eyesSet(project()).size(), std::size_t(4));
    QVERIFY(std::abs(length(eye(3).position - eye(2).position) - 0.8) < 1e-9);
    fill(*w, "Eyes in the row", "1000");
    press(*w, "Lay the row");
    QCOMPARE(eyesSet(project()).size(), std::size_t(4));
    w->document().undo();
    QCOMPARE(eyesSet(project()).size(), std::size_t(2));
    // Looked through by a double click.
    auto* panel = named<FisheyePanel>(*w, "Fisheye panel");
    QSignalSpy seen(panel, &FisheyePanel::pictureChanged);
    QTest::mouseDClick(&stage, Qt::LeftButton, {}, px(eye(0).position.x, eye(0).position.y).toPoint());
    QVERIFY(panel->isVisibleTo(w.get()));
    QTRY_VERIFY_WITH_TIMEOUT(seen.count() > 0, 60000);
    QVERIFY(panel->picture() && panel->picture()->map.eye.forward.x > 0.999);
    QTest::keyClick(panel, Qt::Key_Escape);
    // Backspace takes out the one looked at.
    stage.setFocus();
    QTest::keyClick(&stage, Qt::Key_Backspace);
    QCOMPARE(eyesSet(project()).size(), std::size_t(1));
    QCOMPARE(eye().name, std::string("Desk by the door"));
    QTest::keyClick(&stage, Qt::Key_Escape);
    QCOMPARE(stage.tool(), Tool::Select);
  }

  void aGridOfEyesIsLaidAndChanged() {
    auto w = openWindow();
    w->document().startNew(houseOfTheYear(0));
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    press(*w, "Grid of eyes");
    const auto grid = [&] { return std::get<RoomGrid>(w->document().project().groups.back().layout); };
    QVERIFY(w->document().project().groups.back().eyes);
    QCOMPARE(grid().directions, 8);
    fill(*w, "Spacing of the eyes", "2");
    fill(*w, "Lines of sight", "4");
    fill(*w, "First line of sight", "45");
    QCOMPARE(grid().spacing, 2.0);
    QCOMPARE(grid().directions, 4);
    QVERIFY(std::abs(degrees(grid().firstDirection) - 45) < 1e-9);
    const auto set = layOutSensors(w->document().project(), {w->document().project().groups.back().id});
    QVERIFY(set && set->sensors.size() % 4 == 0);
    QVERIFY(named<QLabel>(*w, "Eyes that are set")->text().startsWith(QString::number(set->sensors.size())));
    fill(*w, "Lines of sight", "99");
    QCOMPARE(grid().directions, 4); // not so many
    press(*w, "Delete the group of eyes");
    QVERIFY(w->document().project().groups.empty());
    w->document().undo();
    QCOMPARE(w->document().project().groups.size(), std::size_t(1));
  }
};

QTEST_MAIN(TestEyesWindow)
#include "tst_eyes_window.moc"
