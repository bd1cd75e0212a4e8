// The main job by mouse and keyboard alone, and the manners around it.

#ifndef Q_MOC_RUN
#include "core/model/form/edit.h"
#include "tests/app/driver.h"
#include <QAction>
#include <QClipboard>
#include <QFile>
#include <QLabel>
#include <QListWidget>
#include <QPointer>
#include <QSignalSpy>
#include <QTableWidget>
#include <QTemporaryDir>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {
std::string outcome(MainWindow& w) {
  const auto a = w.studies().current();
  return a && !a->verdicts.empty() ? outcomeText(a->verdicts[0].second.outcome) : "";
}
} // namespace

class TestWindow : public QObject {
  Q_OBJECT
  Flow flow_;
  ElementId block_;

  QPointF at(double x, double y) const { return *flow_.w->stage().pixelOf({x, y, 0}); }
  double height() const { return heightOf(*flow_.w->document().project().element(block_)); }

private slots:
  void cleanup() { flow_.after(); }
  void cleanupTestCase() { flow_.w.reset(); }

  void aPlaceIsFoundByItsName() {
    flow_.begin();
    const auto& w = flow_.w;
    click(named<QPushButton>(*w, "Start with an empty site"));

    // Another place, by search.
    QTest::keyClick(w.get(), Qt::Key_1, Qt::AltModifier);
    QTRY_COMPARE(w->document().looking().step, Step::Site);
    auto* search = named<QLineEdit>(*w, "Search city");
    click(search);
    QTest::keyClicks(search, "malmo");
    QTest::keyClick(search, Qt::Key_Return);
    QCOMPARE(QString::fromStdString(w->document().project().site.zone), QString("Europe/Stockholm"));
    fill(*w, "Latitude", "55.6 N");
    QCOMPARE(std::round(degrees(w->document().project().site.place.latitude) * 10), 556.0);
  }

  void weatherAndNorthAreSet() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // The weather, from a file; then north, by angle and by hand.
    click(named<QPushButton>(*w, "Load a weather file…"));
    answerFileDialog(*w, SOURCE_TREE "/demo/brevholm.epw");
    QTRY_VERIFY(w->document().project().site.weather != nullptr);
    fill(*w, "North angle", "7.5");
    QVERIFY(named<QLabel>(*w, "North in words")->text().contains("7.5° east of true north"));
    auto* compass = named(*w, "Compass");
    reveal(compass);
    const QPointF middle = QRectF(compass->rect()).center();
    drag(compass, middle + QPointF(0, -30), middle + QPointF(-8, -30));
    QVERIFY(std::abs(degrees(w->document().project().site.northAngle) - 15) <
            2); // the needle leans left: up points east
    QTest::keyClick(w.get(), Qt::Key_Z, Qt::ControlModifier);
    QTRY_VERIFY(std::abs(degrees(w->document().project().site.northAngle) - 7.5) < 1e-6); // a drag is one step
  }

  void aMassIsDrawnToATypedLength() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // A block: four corners in plan with a typed length, then its height by typing.
    Stage& stage = w->stage();
    QTest::keyClick(w.get(), Qt::Key_2, Qt::ControlModifier);
    QTRY_COMPARE(stage.camera().kind, ViewKind::Plan);
    QTest::keyClick(&stage, Qt::Key_D);
    QTRY_COMPARE(stage.tool(), Tool::Draw);
    clickAt(&stage, at(-20, -24));
    QTest::mouseMove(&stage, at(10, -24).toPoint());
    QTest::keyClicks(&stage, "40");
    QTest::keyClick(&stage, Qt::Key_Return);
    clickAt(&stage, at(20, -12));
    clickAt(&stage, at(-20, -12));
    clickAt(&stage, at(-20, -24));
    QTest::keyClicks(&stage, "6");
    QTest::keyClick(&stage, Qt::Key_Return);
    QTRY_COMPARE(w->document().project().elements.size(), std::size_t(1));
    block_ = w->document().project().elements[0]->id;
    QCOMPARE(height(), 6.0);
    QVERIFY(std::abs(boxOf(*w->document().project().elements[0]).size().x - 40) < 1e-9); // the typed length, exactly
  }

  void anAreaIsDrawn() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    Stage& stage = w->stage();
    // An area to judge, north of it.
    QTest::keyClick(&stage, Qt::Key_Escape);
    QTest::keyClick(&stage, Qt::Key_A);
    QTRY_COMPARE(stage.tool(), Tool::Area);
    for (const auto& [x, y] : {std::pair{-15.0, -10.0}, {15.0, -10.0}, {15.0, 8.0}, {-15.0, 8.0}, {-15.0, -10.0}})
      clickAt(&stage, at(x, y));
    QTRY_COMPARE(w->document().project().groups.size(), std::size_t(1));
  }

  void aStudyOfOneDayIsSetUp() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // The shortest day from 9:00 to 15:00.
    click(named<QPushButton>(*w, "Season shortest day"));
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    QTRY_COMPARE(w->document().looking().step, Step::Studies);
    click(named<QPushButton>(*w, "Sun on this ground"));
    fill(*w, "Dates of the study", "21 Dec");
    choose(*w, "Clock window", "between hours");
    fill(*w, "From", "9:00");
    fill(*w, "To", "15:00");
    const Study& study = w->document().project().studies.at(0);
    QCOMPARE(study.sunHours.dates, (std::vector<Date>{{2026, 12, 21}}));
    QCOMPARE(study.sunHours.season.beginMinute, 540.0);
  }

  void aYardstickJudgesIt() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // A yardstick for that day: two hours on half of the area.
    click(named<QPushButton>(*w, "Yardsticks"));
    choose(*w, "Rule", "Amenity ground");
    click(named<QPushButton>(*w, "Judge this area"));
    QTRY_COMPARE(w->document().project().judgements.size(), std::size_t(1));
    fill(*w, "Day north of the equator", "21 Dec");
    QVERIFY(settled(*w)); // live: nothing to press
    QVERIFY(w->studies().current()->painted != nullptr);
  }

  void pulledHigherItFallsShort() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    Stage& stage = w->stage();
    // Pull it up by its roof: shadows and numbers follow, the square falls short.
    QTest::keyClick(w.get(), Qt::Key_1, Qt::ControlModifier);
    QTRY_COMPARE(stage.camera().kind, ViewKind::Solid);
    w->document().look([&](Looking& l) { l.selected = {block_}; });
    const QImage before = stage.frame(false);
    const QPointF roof = *stage.pixelOf({0, -18, height()});
    drag(&stage, roof, roof + QPointF(0, -110));
    QVERIFY2(height() > 12, qPrintable(QString::number(height())));
    QVERIFY(settled(*w));
    QVERIFY(stage.frame(false) != before);
    const auto told = [&] {
      return QString::fromStdString(w->studies().current()->verdicts.at(0).second.text + " " +
                                    w->studies().current()->verdicts.at(0).second.detail);
    };
    QVERIFY2(outcome(*w) == "falls short", qPrintable(told()));
  }

  void pulledLowerItMeetsAndUndoGoesBack() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    Stage& stage = w->stage();
    const double tall = height();
    // And down again, until the verdict turns; each pull is one undo step.
    const auto name = w->document().undoName();
    QCOMPARE(name, QString("Pull height"));
    for (int k = 0; k < 40 && outcome(*w) != "meets"; ++k) {
      const QPointF top = *stage.pixelOf({0, -18, height()});
      drag(&stage, top, top + QPointF(0, 40));
      QVERIFY(settled(*w));
    }
    QCOMPARE(outcome(*w), std::string("meets"));
    QVERIFY(height() < tall);
    QTest::keyClick(&stage, Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(settled(*w));
    QCOMPARE(outcome(*w), std::string("falls short"));
    QTest::keyClick(&stage, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(settled(*w));
    QCOMPARE(outcome(*w), std::string("meets"));
  }

  void pictureTableAndPageAreSaved() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // Picture, table and page.
    QTest::keyClick(w.get(), Qt::Key_7, Qt::AltModifier);
    QTRY_COMPARE(w->document().looking().step, Step::Record);
    for (const auto& [button, file] :
         {std::pair{"Save picture (PNG)…", "p.png"}, {"Save values (CSV)…", "t.csv"}, {"Save page (PDF)…", "p.pdf"}}) {
      QSignalSpy done(&w->record(), &RecordSheet::exported);
      click(named<QPushButton>(*w, button));
      answerFileDialog(*w, flow_.d.filePath(file));
      QVERIFY(done.wait(60000));
      QVERIFY2(done[0][1].toBool(), file);
      QVERIFY(QFile(flow_.d.filePath(file)).size() > 1000);
    }
  }

  void openedAgainAllOfItIsThere() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // Saved, closed, opened: all of it is there.
    QVERIFY(w->document().save(flow_.d.filePath("mine.noonward").toStdString()));
    auto again = openWindow();
    QVERIFY(again->openProject(flow_.d.filePath("mine.noonward").toStdString()));
    QVERIFY(settled(*again));
    QCOMPARE(outcome(*again), std::string("meets"));
    QVERIFY(again->document().project().site.weather != nullptr);
  }

  void sunCanBeGrabbed() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    QVERIFY(settled(*w));
    Stage& stage = w->stage();
    const Project& p = w->document().project();
    const Zone zone = p.zone();
    const auto clock = [&] { return zone.clock(w->document().looking().moment); };
    const CivilTime before = clock();
    // The ring stands where the track says; find it by its open hand.
    QPoint ring;
    for (int y = 60; y < stage.height() && ring.isNull(); y += 12)
      for (int x = 0; x < stage.width(); x += 12) {
        QTest::mouseMove(&stage, {x, y});
        if (stage.cursor().shape() == Qt::OpenHandCursor) {
          ring = {x, y};
          break;
        }
      }
    QVERIFY(!ring.isNull());
    drag(&stage, ring, ring + QPointF(-60, 30)); // along the track
    QCOMPARE(clock().date, before.date);
    QVERIFY(std::abs(clock().seconds - before.seconds) > 900);
    QVERIFY(!w->document().canUndo()); // looking is not editing
  }

  void wallsCoursesCopiesAndMoves() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    QVERIFY(settled(*w));
    QTest::keyClick(w.get(), Qt::Key_2, Qt::AltModifier);
    auto* list = named<QListWidget>(*w, "Elements");
    QTRY_VERIFY(list->count() == 15);
    reveal(list);
    auto* item = list->item(0);
    QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(item).center());
    QTRY_COMPARE(w->document().looking().selected.size(), std::size_t(1));
    const ElementId id = w->document().looking().selected[0];
    const auto box = [&] { return boxOf(*w->document().project().element(id)); };
    const Box3 start = box();
    fill(*w, "Height", "40 ft");
    QVERIFY(std::abs(box().size().z - 12.192) < 1e-9);
    fill(*w, "Height", "nonsense"); // refused, nothing lost
    QVERIFY(std::abs(box().size().z - 12.192) < 1e-9);
    fill(*w, "Move right", "2,5");
    QVERIFY(std::abs(box().low.x - start.low.x - 2.5) < 1e-9);
    fill(*w, "Turn left", "90");
    QVERIFY(std::abs(box().size().x - start.size().y) < 1e-6);
    click(named<QPushButton>(*w, "Copy beside"));
    QCOMPARE(w->document().project().elements.size(), std::size_t(16));
    QTest::keyClick(&w->stage(), Qt::Key_Delete);
    QTRY_COMPARE(w->document().project().elements.size(), std::size_t(15));
    // An exact move by dragging and typing.
    w->document().look([&](Looking& l) { l.selected = {id}; });
    w->stage().setFocus();
    QTest::keyClick(&w->stage(), Qt::Key_M);
    const Vec3 c = box().center();
    const QPointF from = *w->stage().pixelOf({c.x, c.y, box().high.z});
    const double x = box().low.x;
    drag(&w->stage(), from, from + QPointF(70, -20), Qt::LeftButton, {}, false);
    QTest::keyClicks(&w->stage(), "10");
    QVERIFY(w->document().previewing());
    QMouseEvent up(QEvent::MouseButtonRelease, from + QPointF(70, -20), w->stage().mapToGlobal(from), Qt::LeftButton,
                   {}, {});
    QApplication::sendEvent(&w->stage(), &up);
    const Vec3 now = box().center();
    QVERIFY2(std::abs(std::hypot(now.x - c.x, now.y - c.y) - 10) < 1e-6,
             qPrintable(QString::number(std::hypot(now.x - c.x, now.y - c.y))));
    QCOMPARE(w->document().undoName(), QString("Move"));
    (void)x;
  }

  void probeShowsSkylineAndYear() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    QVERIFY(settled(*w));
    w->stage().setFocus();
    QTest::keyClick(&w->stage(), Qt::Key_P);
    clickAt(&w->stage(), *w->stage().pixelOf({-20, 15, 0}));
    QTRY_VERIFY(w->studies().probeResult() != nullptr);
    QTRY_VERIFY(named(*w, "Skyline dial")->isVisible());
    QCOMPARE(w->document().looking().shownYear(), YearPicture::Probe);
    QVERIFY(w->studies().probeResult()->sunHours > 500);
    click(named(*w, "Skyline dial"));
    QVERIFY(named(*w, "Skyline dial")->width() > 400);
  }

  void clickedCellTellsItsHours() {
    auto w = openWindow();
    w->openDemo("ropewalk-quay.noonward");
    QVERIFY(settled(*w));
    clickAt(&w->stage(), *w->stage().pixelOf({-20, 18, 0}));
    QTRY_VERIFY(w->document().looking().sensor.has_value());
    const QString text = named<QLabel>(*w, "Hours behind the sensor")->text();
    QVERIFY2(text.contains(QRegularExpression("\\d+:\\d\\d:\\d\\d–\\d+:\\d\\d:\\d\\d")), qPrintable(text));
    QVERIFY(named<QLabel>(*w, "Statistics")->text().contains("mean"));
  }

  void anythingCanBeDoneByName() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    QTest::keyClick(w.get(), Qt::Key_K, Qt::ControlModifier);
    auto* words = named<QLineEdit>(*w, "Do anything words");
    QTRY_VERIFY(words->isVisible());
    QTest::keyClicks(words, "view plan");
    QTest::keyClick(words, Qt::Key_Return);
    QTRY_COMPARE(w->stage().camera().kind, ViewKind::Plan);
    QSet<QString> shortcuts;
    for (QAction* a : w->actions()) {
      QVERIFY(!a->text().isEmpty());
      if (!a->shortcut().isEmpty()) QVERIFY2(!shortcuts.contains(a->shortcut().toString()), qPrintable(a->text()));
      shortcuts << a->shortcut().toString();
    }
  }

  void spaceBelongsToAFocusedButton() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    auto* plan = named<QPushButton>(*w, "View Plan");
    plan->setFocus();
    QTest::keyClick(plan, Qt::Key_Space);
    QTRY_COMPARE(w->stage().camera().kind, ViewKind::Plan);
    QVERIFY(!w->almanac().playing());
    w->stage().setFocus();
    QTest::keyClick(&w->stage(), Qt::Key_Space);
    QTRY_VERIFY(w->almanac().playing());
    QTest::keyClick(&w->stage(), Qt::Key_Space);
    QTRY_VERIFY(!w->almanac().playing());
  }

  void seasonIsThePeriodOfStudiesThatFollowIt() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    QVERIFY(settled(*w));
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    choose(*w, "Dates", "the Almanac's season");
    const auto season = [&] { return w->document().project().studies[0].sunHours.season; };
    QTRY_VERIFY(w->document().project().studies[0].sunHours.dates.empty());
    click(named<QPushButton>(*w, "Season longest day"));
    QTRY_COMPARE(season().fromMonth, 6);
    QVERIFY(settled(*w));
    QCOMPARE(w->studies().current()->painted->result->dates, (std::vector<Date>{{2026, 6, 21}}));
  }

  void findingsAreMendedBothWays() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    const Place home = w->document().project().site.place;
    for (const bool mend : {true, false}) {
      fill(*w, "Latitude", "48");
      QTRY_VERIFY(std::any_of(w->document().findings().begin(), w->document().findings().end(),
                              [](const Finding& f) { return f.code == "weather.place"; }));
      if (!named(*w, "Findings panel")->isVisible()) click(named<QPushButton>(*w, "Findings"));
      QTRY_VERIFY(named(*w, "Findings panel")->isVisible());
      click(named<QPushButton>(*w, mend ? "Mend weather.place" : "Keep weather.place"));
      QTRY_VERIFY(std::none_of(w->document().findings().begin(), w->document().findings().end(),
                               [](const Finding& f) { return f.code == "weather.place"; }));
      QCOMPARE(w->document().project().site.place == home, mend);
    }
  }

  void badFilesLeaveTheProjectAsItWas() {
    QTemporaryDir d;
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    const Project before = w->document().project();
    const auto write = [&](const char* name, const QByteArray& bytes) {
      QFile f(d.filePath(name));
      if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
      f.write(bytes);
      return d.filePath(name);
    };
    auto* notice = named<QLabel>(*w, "Notice");
    w->loadModel(write("nan.obj", "v 0 0 0\nv nan 1 1\n"));
    QTRY_VERIFY2(notice->text().contains("nan.obj:2"), qPrintable(notice->text()));
    w->loadModel(write("none.obj", "v 0 0 0\n"));
    QTRY_VERIFY2(notice->text().contains("no faces"), qPrintable(notice->text()));
    QVERIFY(
        !w->openProject(write("new.noonward", "{\"format\": \"noonward-project\", \"version\": 99}").toStdString()));
    QVERIFY2(notice->text().contains("newer Noonward"), qPrintable(notice->text()));
    w->action("Load a weather file")->trigger();
    answerFileDialog(*w, write("cut.epw", "LOCATION,x\n"));
    QTRY_VERIFY2(notice->text().contains("not taken"), qPrintable(notice->text()));
    QVERIFY(sameProject(w->document().project(), before));
    QVERIFY(!w->document().modified());
  }

  void modelsAreBroughtInWithTheirSizeShown() {
    QTemporaryDir d;
    QFile f(d.filePath("shed.obj"));
    QVERIFY(f.open(QIODevice::WriteOnly));
    f.write(
        "g shed\nv 0 0 0\nv 6000 0 0\nv 6000 4000 0\nv 0 4000 0\nv 0 0 3000\nv 6000 0 3000\nf 1 2 3 4\nf 1 2 6 5\n");
    f.close();
    auto w = openWindow();
    click(named<QPushButton>(*w, "Start with an empty site"));
    w->loadModel(f.fileName());
    QTRY_VERIFY(named(*w, "Import a model panel")->isVisible());
    QVERIFY(named<QLabel>(*w, "Resulting size")->text().contains("6.00 m × 4.00 m, 3.00 m high"));
    choose(*w, "Its numbers are", "metres");
    QVERIFY(named<QLabel>(*w, "Resulting size")->text().contains("too large"));
    choose(*w, "Its numbers are", "millimetres");
    click(named<QPushButton>(*w, "Import"));
    QTRY_COMPARE(w->document().project().elements.size(), std::size_t(1));
    w->document().look([&](Looking& l) { l.selected = {w->document().project().elements[0]->id}; });
    QTest::keyClick(w.get(), Qt::Key_2, Qt::AltModifier);
    fill(*w, "Height", "4.5"); // imported masses are stretched and moved too
    fill(*w, "Move up", "10");
    const Box3 b = boxOf(*w->document().project().elements[0]);
    QVERIFY(std::abs(b.size().z - 4.5) < 1e-9 && std::abs(b.low.y - 10) < 1e-9);
  }

  void aDirtyModelIsLookedThroughAndMended() {
    // Layers with roles guessed and corrected; a wall that stands twice; then the file again, changed.
    QTemporaryDir d;
    const auto face = [](const char* layer, double x, double y, double w, double h) {
      return QString("0\n3DFACE\n8\n%1\n10\n%2\n20\n%3\n30\n0\n11\n%4\n21\n%3\n31\n0\n12\n%4\n22\n%3\n32\n%5\n13\n%"
                     "2\n23\n%3\n33\n%5\n")
          .arg(layer)
          .arg(x)
          .arg(y)
          .arg(x + w)
          .arg(h);
    };
    const auto write = [&](const QString& entities) {
      QFile f(d.filePath("house.dxf"));
      if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
      f.write(("0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n" + entities +
               "0\nENDSEC\n0\nEOF\n")
                  .toUtf8());
      return f.fileName();
    };
    const QString file =
        write(face("Wand", 0, 0, 8000, 3000) + face("Wand", 0, 0, 8000, 3000) + face("Fenster", 2000, 50, 1500, 2000) +
              face("K-12", 0, 9000, 5000, 2500) + face("alt", 0, 5000, 900, 900));
    auto w = openWindow();
    click(named<QPushButton>(*w, "Start with an empty site"));
    w->loadModel(file);
    auto* table = named<QTableWidget>(*w, "Layers of the model");
    QTRY_COMPARE(table->rowCount(), 4);
    QVERIFY(named<QLabel>(*w, "Facts of the model")->text().contains("the file says millimetres"));
    QVERIFY(named<QLabel>(*w, "Resulting size")->text().contains("8.00 m × 9.00 m, 3.00 m high"));
    QCOMPARE(named<QComboBox>(*w, "Role of Wand")->currentText(), QString("Wall"));
    QCOMPARE(named<QComboBox>(*w, "Role of Fenster")->currentText(), QString("Glazing"));
    QCOMPARE(named<QComboBox>(*w, "Role of K-12")->currentText(), QString("Neighbour"));
    choose(*w, "Role of K-12", "Shading");
    QTRY_COMPARE(named<QComboBox>(*w, "Role of K-12")->currentText(), QString("Shading"));
    click(named<QPushButton>(*w, "Import"));
    QTRY_COMPARE(w->document().project().elements.size(), std::size_t(4));
    const auto layer = [&](const char* name) {
      return *std::find_if(w->document().project().elements.begin(), w->document().project().elements.end(),
                           [&](const ElementPtr& e) { return e->layer == name; });
    };
    QVERIFY(layer("Wand")->role == Role::Wall && layer("Fenster")->role == Role::Glazing &&
            layer("K-12")->role == Role::Shading);
    // The wall's second skin is a finding; Mend takes it, undo brings it back.
    const auto twice = [&] {
      return std::count_if(w->document().findings().begin(), w->document().findings().end(),
                           [](const Finding& f) { return f.code == "mesh.duplicates"; });
    };
    QTRY_COMPARE(twice(), 1);
    const auto found = std::find_if(w->document().findings().begin(), w->document().findings().end(),
                                    [](const Finding& f) { return f.code == "mesh.duplicates"; });
    QVERIFY(found->text.find("Wand") != std::string::npos);
    w->action("Findings")->trigger();
    click(named<QPushButton>(*w, "Mend mesh.duplicates"));
    QTRY_COMPARE(layer("Wand")->imported()->mesh->triangles.size(), std::size_t(2));
    QTRY_COMPARE(twice(), 0);
    w->action("Undo")->trigger();
    QCOMPARE(layer("Wand")->imported()->mesh->triangles.size(), std::size_t(4));
    w->action("Redo")->trigger();
    // The architect's next state: a window moved, a layer gone, one new.
    write(face("Wand", 0, 0, 8000, 3000) + face("Fenster", 2600, 50, 1500, 2000) + face("K-12", 0, 9000, 5000, 2500) +
          face("Dach", 0, 0, 100, 3000));
    w->loadModel(file);
    QTRY_VERIFY(named(*w, "Import a model panel")->isVisible());
    QTRY_COMPARE(table->rowCount(), 4);
    click(named<QPushButton>(*w, "Import"));
    QTRY_COMPARE(w->document().project().elements.size(), std::size_t(5));
    QVERIFY(layer("K-12")->role == Role::Shading); // what was said stays
    QTRY_VERIFY2(named<QLabel>(*w, "Notice")
                     ->text()
                     .contains("1 new, 3 renewed, 1 of them moved. No longer in the file, and kept: alt"),
                 qPrintable(named<QLabel>(*w, "Notice")->text()));
    QCOMPARE(w->document().looking().selected, std::vector<ElementId>{layer("alt")->id});
    w->action("Undo")->trigger(); // one step
    QCOMPARE(w->document().project().elements.size(), std::size_t(4));
  }

  void autosaveIsTakenUpAfterAKill() {
    QTemporaryDir d;
    for (const char* f : {"ropewalk-quay.noonward", "brevholm.epw"})
      QVERIFY(QFile::copy(QString(SOURCE_TREE "/demo/") + f, d.filePath(f)));
    const std::filesystem::path file = d.filePath("ropewalk-quay.noonward").toStdString();
    {
      auto w = openWindow();
      QVERIFY(w->openProject(file));
      w->document().setAutosaveDelay(1);
      Project p = w->document().project();
      p.name = "Never saved";
      w->document().change(p, "rename");
      QTRY_VERIFY(Document::hasRecovery(file));
    } // ended without a save: as a kill would
    auto w = openWindow();
    QVERIFY(w->openProject(file));
    QCOMPARE(w->document().project().name, std::string("Never saved"));
    QVERIFY(w->document().modified());
    QVERIFY(w->document().save());
    QVERIFY(!Document::hasRecovery(file));
  }

  void bothThemesReadWell() {
    // Contrast of the text colours on their grounds, after WCAG 2.1: at least 4.5 to 1.
    const auto luminance = [](const QColor& c) {
      const auto f = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
      return 0.2126 * f(c.redF()) + 0.7152 * f(c.greenF()) + 0.0722 * f(c.blueF());
    };
    for (const Theme* t : {&Theme::light(), &Theme::darkTheme()})
      for (const auto& [ink, ground] : {std::pair{t->ink, t->paper},
                                        {t->muted, t->paper},
                                        {t->ink, t->raised},
                                        {t->ink, t->stage},
                                        {t->muted, t->stage},
                                        {t->short_, t->paper},
                                        {t->meets, t->paper}}) {
        const double a = luminance(ink), b = luminance(ground);
        const double ratio = (std::max(a, b) + 0.05) / (std::min(a, b) + 0.05);
        QVERIFY2(ratio >= 4.5, qPrintable(QString("%1 on %2: %3").arg(ink.name(), ground.name()).arg(ratio)));
      }
    double last = -1; // result palettes rise in lightness
    for (int i = 0; i <= 40; ++i) {
      const double l = luminance(paletteColor(Palette::SunHours, i / 40.0));
      QVERIFY(l > last);
      last = l;
    }
    auto w = openWindow();
    click(named<QPushButton>(*w, "Theme"));
    QVERIFY(theme().dark);
    click(named<QPushButton>(*w, "Theme"));
    QVERIFY(!theme().dark);
  }

  void worksWithoutOpenGl() {
    qputenv("NOONWARD_NO_OPENGL", "1");
    auto w = openWindow();
    qunsetenv("NOONWARD_NO_OPENGL");
    QVERIFY(!w->stage().hasOpenGl());
    QVERIFY(w->openProject(demoCopy()));
    QVERIFY(settled(*w));
    QTest::qWait(300); // a ray picture is drawn after the events have settled
    const QImage seen = w->stage().grab().toImage();
    const QPointF at = *w->stage().pixelOf({100, -100, 0});
    QSet<QRgb> colours;
    for (int x = 100; x < seen.width() - 100; x += 7)
      for (int y = 100; y < seen.height() - 100; y += 7) colours << seen.pixel(x, y);
    QVERIFY(colours.size() > 30); // the model is there, not an empty ground
    (void)at;
    clickAt(&w->stage(), *w->stage().pixelOf({-47, 0, 16})); // and can be picked
    QTRY_COMPARE(w->document().looking().selected.size(), std::size_t(1));
  }

  void shadowsFallWhereTheyMust() {
    auto w = openWindow();
    click(named<QPushButton>(*w, "Start with an empty site"));
    Project p = w->document().project();
    p.site.place = {radians(45), 0, 0};
    Element e;
    e.id = {1};
    e.shape = Mass{rectangle(-5, -5, 5, 5), 0, 10, 1};
    w->document().change(withElement(std::move(p), e), "box");
    w->document().look([&](Looking& l) { l.moment = l.moment; });
    w->document().look([&](Looking& l) { l.moment = utc({{2026, 3, 20}, 43200 + 460}); }); // the sun due south at 45°
    w->stage().setView(ViewKind::Plan);
    Camera c = w->stage().camera();
    c.target = {};
    c.height = 50;
    w->stage().setCamera(c);
    const QImage image = w->stage().frame(false);
    QVERIFY(!image.isNull());
    const auto at = [&](double x, double y) { return image.pixelColor(w->stage().pixelOf({x, y, 0})->toPoint()); };
    const QColor lit = at(0, -12), shade = at(0, 10);
    QVERIFY(lit.lightness() > shade.lightness() + 10);
    QCOMPARE(at(-12, 0), lit);
    QCOMPARE(at(3, 13), shade); // 10 m high, 45°: the shadow ends at y = 15
    QCOMPARE(at(0, 17), lit);
  }
};

QTEST_MAIN(TestWindow)
#include "tst_window.moc"
