// Shade sized against the sun, and a house from an empty site to its sheet and film, by mouse and keyboard alone.

#ifndef Q_MOC_RUN
#include "core/model/form/edit.h"
#include "core/studies/shade.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <QAction>
#include <QFile>
#include <QLabel>
#endif

using namespace noonward;
using namespace noonward::test;

class TestShadeWindow : public QObject {
  Q_OBJECT

private slots:
  void aShadeIsSizedAgainstTheSun() {
    // From a bare window to an overhang that keeps out what was painted, by the panel's own hands.
    QTemporaryDir d;
    auto w = openWindow();
    Project p = house({.ratio = 0.3});
    p.site.place = {radians(55.6), radians(12.5), 0};
    p.site.zone = "Europe/Copenhagen";
    w->document().startNew(p);
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    const auto panel = w->findChild<ShadePanel*>();
    w->action("Shade against the sun")->trigger();
    QVERIFY(panel->isVisible());
    auto* figures = named<QLabel>(*panel, "What shading does at the window");
    QTRY_VERIFY_WITH_TIMEOUT(figures->text().contains("kept out  0.0 %"), 20000);
    click(named<QPushButton>(*panel, "Overhang here"));
    const auto& project = [&]() -> const Project& { return w->document().project(); };
    QCOMPARE(project().shadeRules.size(), std::size_t(1));
    QCOMPARE(project().shadeRules[0].windows.size(), std::size_t(1));
    QTRY_VERIFY_WITH_TIMEOUT(!figures->text().contains("kept out  0.0 %"), 20000);
    // Hours of one's own: the season marked in the Almanac.
    w->document().look([](Looking& l) { l.season = {{}, "hot", 6, 1, 8, 31, 11 * 60, 15 * 60}; });
    click(named<QPushButton>(*panel, "Keep out"));
    QCOMPARE(project().sunWishes.keepOut.size(), std::size_t(1));
    QVERIFY(named<QLabel>(*panel, "Hours of sun kept out and let in")->text().contains("11:00"));
    // Dragged on the sky: deeper the lower the pointer, one step of undo.
    auto* dial = named<QWidget>(*panel, "Sky of the window");
    const double before = project().shadeRules[0].depth;
    drag(dial, {158, 210}, {158, 268}); // south is down
    const double dragged = project().shadeRules[0].depth;
    QVERIFY2(dragged > before + 0.5, qPrintable(QString::number(dragged)));
    QVERIFY(!w->document().previewing());
    w->document().undo();
    QCOMPARE(project().shadeRules[0].depth, before);
    // Asked for: the least that keeps out 95 % of those hours, found by rays; the same in another way.
    fill(*panel, "Share to keep out", "95 %");
    click(named<QPushButton>(*panel, "Least depth"));
    auto* found = named<QLabel>(*panel, "What sizing found");
    QTRY_VERIFY_WITH_TIMEOUT(found->text().contains("deep: keeps out"), 60000);
    const double sized = project().shadeRules[0].depth;
    const auto report = shadeReport(project());
    QVERIFY(report && report->windows[0].keepOut.taken() >= 0.95);
    Project less = project();
    less.shadeRules[0].depth = sized - 0.01;
    QVERIFY(shadeReport(less)->windows[0].keepOut.taken() < 0.95);
    QCOMPARE(w->document().undoName(), QString("Size shade"));
    // What can't be is said and changes nothing.
    fill(*panel, "Share to keep out", "0.9");
    click(named<QPushButton>(*panel, "Least depth"));
    QVERIFY(found->text().contains("90 %"));
    QCOMPARE(project().shadeRules[0].depth, sized);
    // Out of the window, and away.
    panel->exportTo("dial", d.filePath("dial.svg"));
    panel->exportTo("report", d.filePath("shade.csv"));
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(d.filePath("dial.svg")) && QFile::exists(d.filePath("shade.csv")), 30000);
    QFile csv(d.filePath("shade.csv"));
    QVERIFY(csv.open(QIODevice::ReadOnly));
    QCOMPARE(csv.readAll().count('\n'), 2);
    QVERIFY(w->document().looking().sunWishes);
    QTest::keyClick(panel, Qt::Key_Escape);
    QVERIFY(!panel->isVisible() && !w->document().looking().sunWishes);
    // The sheet has the part's own fields, and no others.
    QVERIFY(named<QLineEdit>(*w, "Depth")->isVisibleTo(w.get()));
    choose(*w, "Kind of shading", "louvres");
    fill(*w, "Spacing", "0.25");
    fill(*w, "Stand-off", "0.1");
    QCOMPARE(project().shadeRules[0].kind, ShadeRule::Kind::Louvres);
    QCOMPARE(project().shadeRules[0].spacing, 0.25);
    QCOMPARE(project().shadeRules[0].standOff, 0.1);
    const auto shown = [&](const char* name) {
      for (auto* f : w->findChildren<QLineEdit*>())
        if (f->accessibleName() == name) return f->isVisibleTo(f->window());
      return false;
    };
    QVERIFY(!shown("Parapet") && !shown("Into the room"));
    fill(*w, "Spacing", "-1"); // refused, with what is expected
    QCOMPARE(project().shadeRules[0].spacing, 0.25);
  }

  void aHouseUnderARoofIsShadedAndLaidOutOnASheet() {
    // From an empty site: a block of two storeys under a gable, rooms, other windows south and west, an overhang sized,
    // louvres; then its facades on one sheet.
    QTemporaryDir d;
    auto w = openWindow();
    QTest::keyClick(w.get(), Qt::Key_N, Qt::ControlModifier);
    Project p = w->document().project();
    p.site.place = {radians(55.6), radians(12.5), 0};
    p.site.zone = "Europe/Copenhagen";
    w->document().change(std::move(p), "Choose place"); // the Site step has its own tests
    QTest::keyClick(w.get(), Qt::Key_2, Qt::ControlModifier);
    w->action("Draw a mass")->trigger();
    Stage& stage = w->stage();
    for (const auto& [x, y] : {std::pair{0.0, 0.0}, {10.0, 0.0}, {10.0, 8.0}, {0.0, 8.0}})
      clickAt(&stage, *stage.pixelOf({x, y, 0}));
    QTest::keyClick(&stage, Qt::Key_Return);
    QTest::keyClicks(&stage, "5.6");
    QTest::keyClick(&stage, Qt::Key_Return);
    QCOMPARE(w->document().project().elements.size(), std::size_t(1));
    QCOMPARE(area(w->document().project().elements[0]->mass()->outline), 80.0);
    const auto project = [&]() -> const Project& { return w->document().project(); };
    QTest::keyClick(w.get(), Qt::Key_2, Qt::AltModifier);
    choose(*w, "Roof of the mass", "gable");
    QCOMPARE(project().elements[0]->mass()->roof.kind, Roof::Kind::Gable);
    QCOMPARE(project().elements[0]->mass()->roof.rise, 2.25); // a quarter of its breadth, to 5 cm
    fill(*w, "Rise", "2.5");
    fill(*w, "Ridge runs", "90");
    QVERIFY(std::abs(project().elements[0]->mass()->roof.along - pi / 2) < 1e-12);
    QVERIFY(std::abs(boxOf(*project().elements[0]).high.z - 8.1) < 1e-9);
    fill(*w, "Rise", "steep"); // refused: what was there stays
    QCOMPARE(project().elements[0]->mass()->roof.rise, 2.5);
    w->document().undo();
    QVERIFY(project().elements[0]->mass()->roof.along != pi / 2);
    w->document().redo();
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    click(named<QPushButton>(*w, "Rooms of selected"));
    QTRY_COMPARE(project().rooms.size(), std::size_t(2));
    for (const char* side : {"south", "west"}) {
      click(named<QPushButton>(*w, "By glazed share"));
      choose(*w, "In", "every room");
      choose(*w, "Facing", side);
      fill(*w, "Glass share", side == std::string("south") ? "35 %" : "15 %");
    }
    const auto facts = roomFacts(project());
    for (const RoomFacts& f : facts)
      QVERIFY(f.windowArea[std::size_t(Facing::South)] > 2 * f.windowArea[std::size_t(Facing::West)] &&
              f.windowArea[std::size_t(Facing::West)] > 0);
    click(named<QPushButton>(*w, "Overhang"));
    choose(*w, "Side of the shade", "south");
    click(named<QPushButton>(*w, "Louvres"));
    choose(*w, "Side of the shade", "west");
    fill(*w, "Name of the shade", "Blades");
    QCOMPARE(project().shadeRules.size(), std::size_t(2));
    QVERIFY(named<QLabel>(*w, "Facts of the shade")->text().startsWith("At 2 windows"));
    choose(*w, "Shading", "Overhang 1");
    click(named<QPushButton>(*w, "Size it against the sun …"));
    auto* panel = w->findChild<ShadePanel*>();
    QVERIFY(panel->isVisible());
    fill(*panel, "Share to keep out", "60 %");
    click(named<QPushButton>(*panel, "Least depth"));
    auto* found = named<QLabel>(*panel, "What sizing found");
    QTRY_VERIFY_WITH_TIMEOUT(found->text().contains("at 2 windows"), 60000);
    // Stopped, or closed while it works: nothing changes, and the next asks are answered.
    const double sized = project().shadeRules[0].depth;
    click(named<QPushButton>(*panel, "Least depth"));
    QTest::keyClick(panel, Qt::Key_Escape);
    click(named<QPushButton>(*w, "Size it against the sun …"));
    auto* figures = named<QLabel>(*panel, "What shading does at the window");
    figures->clear();
    QTRY_VERIFY_WITH_TIMEOUT(figures->text().contains("kept out"), 30000);
    QCOMPARE(project().shadeRules[0].depth, sized);
    const auto report = shadeReport(project());
    const auto south = report->sum([](const WindowShade& x) { return x.facing == Facing::South; });
    QVERIFY2(south.keepOut.taken() > 0.59 && south.keepOut.taken() < 0.63,
             qPrintable(QString::number(south.keepOut.taken())));
    // The blades to the west, as far apart as they may be.
    QTest::keyClick(panel, Qt::Key_Escape);
    choose(*w, "Shading", "Blades");
    click(named<QPushButton>(*w, "Size it against the sun …"));
    fill(*panel, "Share to keep out", "80 %");
    found->clear();
    click(named<QPushButton>(*panel, "Widest spacing"));
    QTRY_VERIFY_WITH_TIMEOUT(found->text().contains("apart"), 60000);
    const auto shaded = shadeReport(project());
    const auto west = shaded->sum([](const WindowShade& x) { return x.facing == Facing::West; });
    QVERIFY2(west.keepOut.taken() > 0.79, qPrintable(QString::number(west.keepOut.taken())));
    QVERIFY(project().shadeRules[1].spacing > 0.03);
    QTest::keyClick(panel, Qt::Key_Escape);
    auto* pictures = w->findChild<PicturesPanel*>();
    w->action("Views, sheets and films")->trigger();
    pictures->exportTo("sheet", d.filePath("house.pdf"));
    QTRY_VERIFY_WITH_TIMEOUT(!pictures->writer().busy(), 120000);
    QVERIFY2(QFileInfo(d.filePath("house.pdf")).size() > 10000,
             qPrintable(named<QLabel>(*pictures, "State of the pictures")->text()));
    // And a film of the day, as pictures.
    choose(*pictures, "What the film shows", "the day looked at");
    fill(*pictures, "Step of the film", "240");
    fill(*pictures, "Width of the film", "320");
    fill(*pictures, "Height of the film", "200");
    pictures->exportTo("film-pictures", d.filePath("day.pictures"));
    QTRY_VERIFY_WITH_TIMEOUT(!pictures->writer().busy(), 120000);
    QVERIFY(QDir(d.filePath("day.pictures")).entryList({"*.png"}).size() >= 4);
  }
};

QTEST_MAIN(TestShadeWindow)
#include "tst_shade_window.moc"
