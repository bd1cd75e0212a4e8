// Pictures traced over, mends seen before they are done, and files that change, as a user meets them.

#include "core/files/project/project_file.h"
#include "tests/app/driver.h"
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/model/form/edit.h"
#include "core/model/mending/mend_preview.h"
#include "tests/core/formats_data.h"
#include <QLabel>
#include <QListWidget>
#include <QMessageBox>
#include <QTimer>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

QString demoFile(const QTemporaryDir& d, const char* name) {
  const QString to = d.filePath(name);
  if (!QFile::exists(to) && !QFile::copy(QString(SOURCE_TREE "/demo/") + name, to)) qFatal("the demo lacks %s", name);
  return to;
}
void write(const QString& path, const QByteArray& bytes) {
  QFile f(path);
  if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
  f.write(bytes);
}
/// A pixel of the scanned plan: 40 px a metre about (-19, 36), turned by 3.5°.
Vec2 scanned(Vec2 v) {
  const double x = (v.x + 19) * 40, y = -(v.y - 36) * 40, a = radians(-3.5);
  return {750 + x * std::cos(a) - y * std::sin(a), 525 + x * std::sin(a) + y * std::cos(a)};
}
void moveMark(MainWindow& w, int mark, Vec2 to) {
  auto* board = named<PinBoard>(w, "Picture to trace over");
  drag(board, board->pointOf(board->marks()[std::size_t(mark)]), board->pointOf(to));
  // The pointer counts whole pixels: the last bit by the arrow keys, as one would with the picture enlarged.
  QTest::keyClick(board, Qt::Key(Qt::Key_1 + mark));
  for (int guard = 0; guard < 40; ++guard) {
    const Vec2 d = to - board->marks()[std::size_t(mark)];
    if (std::abs(d.x) <= 0.5 && std::abs(d.y) <= 0.5) break;
    if (std::abs(d.x) > 0.5) QTest::keyClick(board, d.x > 0 ? Qt::Key_Right : Qt::Key_Left);
    if (std::abs(d.y) > 0.5) QTest::keyClick(board, d.y > 0 ? Qt::Key_Down : Qt::Key_Up);
  }
}
bool has(MainWindow& w, const char* code) {
  const Findings& all = w.document().findings();
  return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
}
/// What a mend would change, as the findings say it; empty where none is looked at.
QString changeText(MainWindow& w) {
  for (const QLabel* l : w.findChildren<QLabel*>())
    if (l->accessibleName() == "What the mend changes" && l->isVisible()) return l->text();
  return {};
}
QByteArray boxes(double x, bool second) {
  QByteArray out;
  int base = 1;
  for (int k = 0; k < (second ? 2 : 1); ++k) {
    out += QString("o box %1\n").arg(k).toUtf8();
    for (double z : {0.0, 5.0})
      for (const QPointF& p : {QPointF(0, 0), QPointF(6, 0), QPointF(6, 4), QPointF(0, 4)})
        out += QString("v %1 %2 %3\n").arg(x + 20 * k + p.x()).arg(p.y()).arg(z).toUtf8();
    for (const char* f : {"0321", "4567", "0154", "1265", "2376", "3047"})
      out += QString("f %1 %2 %3 %4\n")
                 .arg(base + f[0] - '0')
                 .arg(base + f[1] - '0')
                 .arg(base + f[2] - '0')
                 .arg(base + f[3] - '0')
                 .toUtf8();
    base += 8;
  }
  return out;
}

} // namespace

class TestSourcesWindow : public QObject {
  Q_OBJECT
  Flow flow_;

  /// A point of the front in the photograph, as its camera saw it.
  static Vec2 taken(double y, double z) {
    Camera photo;
    photo.perspective = true;
    photo.target = {-40, -1, 7.2};
    photo.azimuth = radians(68);
    photo.altitude = radians(-5);
    photo.height = 36;
    const auto s = *photo.seen({-40, y, z}, 1400, 860);
    return {s.x, s.y};
  }
  QPointF onFront(double y, double z) const { return *flow_.w->stage().pixelOf({-40, y, z}); }
  WallRectangle wall() const { return *wallOf(flow_.w->document().project().underlays.back().pins); }

private slots:
  void cleanup() { flow_.after(); }
  void cleanupTestCase() { flow_.w.reset(); }

  void workIsAskedAboutBeforeItGoes() {
    QTemporaryDir d;
    const std::filesystem::path mine = d.filePath("mine.noonward").toStdString();
    auto w = openWindow();
    Project p = w->document().project();
    p.name = "Mine";
    w->document().change(p, "Name");
    QVERIFY(w->document().save(mine).has_value());
    p.name = "Changed";
    w->document().change(p, "Name");
    QString asked;
    const auto answer = [&](const QString& button) { // the question is modal: answered from within
      asked.clear();
      QTimer::singleShot(300, w.get(), [&asked, button] {
        auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        if (!box) return;
        asked = box->objectName();
        for (QAbstractButton* b : box->buttons())
          if (b->text().remove('&') == button) return QTest::mouseClick(b, Qt::LeftButton);
        box->reject();
      });
    };
    answer("Cancel");
    w->action("New project")->trigger();
    QCOMPARE(asked, QString("Save first"));
    QCOMPARE(w->document().project().name, std::string("Changed"));
    // Another program saves meanwhile: it is noticed, and nothing of either is lost.
    QVERIFY(saveFile(mine, *loadFile(mine) + "\n").has_value());
    answer("Cancel");
    w->action("Save")->trigger();
    QCOMPARE(asked, QString("Saved elsewhere"));
    QVERIFY(w->document().modified() && loadFile(mine)->find("Changed") == std::string::npos);
    answer("Replace theirs");
    w->action("Save")->trigger();
    QVERIFY(!w->document().modified() && loadFile(mine)->find("Changed") != std::string::npos);
    // What breaks inside is told, with a copy of the work.
    w->document().tellBroken("a test");
    QTRY_VERIFY(std::any_of(w->document().findings().begin(), w->document().findings().end(),
                            [](const Finding& x) { return x.code == "program.broken" && x.mend == "program.copy"; }));
  }

  void aScannedPlanIsScaledAndTracedOver() {
    QTemporaryDir d;
    demoFile(d, "brevholm.epw");
    auto w = openWindow();
    QVERIFY(w->openProject(demoFile(d, "library-site.noonward").toStdString()));
    w->layPicture(demoFile(d, "library-plan.png"));
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    QTRY_VERIFY(w->document().previewing());
    QCOMPARE(w->stage().camera().kind, ViewKind::Plan);
    QVERIFY(!w->document().previewingModel()); // no study is asked anew for a picture
    auto* state = named<QLabel>(*w, "State of the underlay");
    QVERIFY(state->text().contains("a guess so far"));
    // Left, it leaves nothing behind.
    click(named<QPushButton>(*w, "Cancel"));
    QVERIFY(!w->document().previewing() && w->document().project().underlays.empty() && !w->document().canUndo());
    w->layPicture(demoFile(d, "library-plan.png"));
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    QTRY_VERIFY(w->document().previewing());
    moveMark(*w, 0, scanned({-34, 25.4})); // the ends of the dimension line
    moveMark(*w, 1, scanned({-4, 25.4}));
    fill(*w, "A to B in truth", "far");
    QVERIFY(!named<QLineEdit>(*w, "A to B in truth")->styleSheet().isEmpty());
    fill(*w, "A to B in truth", "30");
    QVERIFY2(state->text().contains("To scale: one pixel is 25."), qPrintable(state->text()));
    const auto now = [&]() -> const Underlay& { return w->document().project().underlays.back(); };
    QVERIFY(std::abs(length(now().pins[1].place - now().pins[0].place) - 30) < 1e-9);
    // Both ends on the stage: the panel stands aside for the click; Escape brings it back with nothing changed.
    click(named<QPushButton>(*w, "A on the stage"));
    QVERIFY(!named(*w, "Underlay panel")->isVisible());
    QCOMPARE(w->stage().tool(), Tool::Spot);
    const auto pins = now().pins;
    QTest::keyClick(&w->stage(), Qt::Key_Escape);
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    QVERIFY(w->document().previewing() && now().pins == pins);
    const auto spot = [&](Vec2 p) { return *w->stage().pixelOf({p.x, p.y, 0}); };
    click(named<QPushButton>(*w, "A on the stage"));
    clickAt(&w->stage(), spot({-34, 25.4}));
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    click(named<QPushButton>(*w, "B on the stage"));
    clickAt(&w->stage(), spot({-4, 25.4}));
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    QVERIFY(std::abs(length(now().pins[1].place - now().pins[0].place) - 30) <
            1e-9); // the length given stays, the click turns
    click(named<QPushButton>(*w, "Apply"));
    QVERIFY(!w->document().previewing());
    QCOMPARE(w->document().undoName(), QString("Lay a picture"));
    const auto map = planeMapOf(now().pins);
    QVERIFY(map);
    const double px = w->stage().camera().metresPerPixel(w->stage().height());
    for (Vec2 corner : {Vec2{-34, 27}, Vec2{-4, 27}, Vec2{-4, 45}}) {
      const auto place = map->place(scanned(corner));
      QVERIFY2(place && length(xy(*place) - corner) < 1.5 * px,
               qPrintable(QString("%1 m off, a pixel is %2 m").arg(length(xy(*place) - corner)).arg(px)));
    }
    // It shows where one draws, not among results; a room is traced over it by its corners.
    const QImage with = w->stage().frame(false);
    w->document().look([](Looking& l) { l.step = Step::Studies; });
    const QImage without = w->stage().frame(false);
    const QPoint wall = w->stage().pixelOf({-13, 33.5, 0})->toPoint();
    if (w->stage().hasOpenGl()) QVERIFY(with.pixel(wall) != without.pixel(wall));
    w->document().look([](Looking& l) { l.step = Step::Rooms; });
    w->action("Draw a room")->trigger();
    w->action("View plan")->trigger();
    for (Vec2 corner : {Vec2{-33.6, 27.4}, Vec2{-15, 27.4}, Vec2{-15, 33.4}, Vec2{-33.6, 33.4}, Vec2{-33.6, 27.4}})
      clickAt(&w->stage(), spot(xy(*map->place(scanned(corner)))));
    QCOMPARE(w->document().project().rooms.size(), std::size_t(1));
    QVERIFY2(std::abs(area(w->document().project().rooms[0].outline) - 111.6) < 6,
             qPrintable(QString::number(area(w->document().project().rooms[0].outline))));
    // In the sheet: hidden, adjusted, taken away; each can be undone.
    w->document().look([](Looking& l) { l.step = Step::Model; });
    auto* list = named<QListWidget>(*w, "Underlays");
    QVERIFY(list->item(0)->text().contains("library-plan"));
    list->item(0)->setCheckState(Qt::Unchecked);
    QVERIFY(!now().shown);
    w->action("Undo")->trigger();
    QVERIFY(now().shown);
    click(named<QPushButton>(*w, "Adjust the picture"));
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    fill(*w, "Level", "3.2");
    QVERIFY(std::abs(now().pins[0].place.z - 3.2) < 1e-9 && w->document().previewing());
    click(named<QPushButton>(*w, "Take it away"));
    QVERIFY(w->document().project().underlays.empty());
    w->action("Undo")->trigger();
    QVERIFY(w->document().project().underlays.size() == 1 && now().pins[0].place.z == 0);
    QVERIFY(w->document().save());
  }

  void aMapSheetLiesByItsCoordinates() {
    QTemporaryDir d;
    demoFile(d, "brevholm.epw");
    auto w = openWindow();
    QVERIFY(w->openProject(demoFile(d, "ropewalk-quay.noonward").toStdString()));
    Project p = w->document().project();
    p.site.referenceSystem = "EPSG:25832";
    p.site.origin = {720'500, 6'167'900, 0};
    w->document().change(p, "System");
    QImage image(300, 200, QImage::Format_RGB32);
    image.fill(QColor(90, 120, 80));
    QVERIFY(image.save(d.filePath("air.png")));
    write(d.filePath("air.pgw"), "1\n0\n0\n-1\n720400.5\n6167999.5\n");
    w->layPicture(d.filePath("air.png"));
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    auto* state = named<QLabel>(*w, "State of the underlay");
    QVERIFY2(state->text().contains("Lies by air.pgw: 300 m × 200 m") && state->text().contains("It covers"),
             qPrintable(state->text()));
    QVERIFY(named<PinBoard>(*w, "Picture to trace over")->marks().empty()); // nothing to mark
    // Another system lies elsewhere: said, and nothing can be kept; the right one again.
    fill(*w, "Reference system", "EPSG:25833");
    QVERIFY2(state->text().contains("km from the model"), qPrintable(state->text()));
    QVERIFY(!named<QPushButton>(*w, "Apply")->isEnabled() && !w->document().previewing());
    fill(*w, "Reference system", "25832");
    QTRY_VERIFY(w->document().previewing());
    fill(*w, "Level of the sheet", "-0.5");
    click(named<QPushButton>(*w, "Apply"));
    const Underlay& laid = w->document().project().underlays.back();
    QVERIFY(kindOf(laid) == UnderlayKind::Sheet);
    QVERIFY(length(laid.pins[3].place - Vec3{-100, 100, -0.5}) < 1e-6);
    QCOMPARE(w->document().project().site.referenceSystem, std::string("EPSG:25832"));
    // Kept with the project, told in the list, seen on the stage where it lies.
    auto* list = named<QListWidget>(*w, "Underlays");
    QVERIFY(list->item(0)->text().contains("map sheet"));
    w->action("Undo")->trigger();
    QVERIFY(w->document().project().underlays.empty());
    w->action("Redo")->trigger();
    QVERIFY(w->document().save());
    const auto again = readProject(w->document().path());
    QVERIFY(again && again->project.underlays.size() == 1 && again->project.underlays[0].pins == laid.pins);
    // A world file that is cut off: told, and the picture begins as a plan.
    write(d.filePath("air.pgw"), "1\n0\n");
    w->layPicture(d.filePath("air.png"));
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    QVERIFY(named<QLabel>(*w, "Notice")->text().contains("six lines"));
    QTRY_VERIFY(!named<PinBoard>(*w, "Picture to trace over")->marks().empty());
  }

  void whatIsNoPictureIsRefused() {
    demoFile(flow_.d, "brevholm.epw");
    flow_.begin();
    const auto& w = flow_.w;
    QVERIFY(w->openProject(demoFile(flow_.d, "ropewalk-quay.noonward").toStdString()));
    // What is no picture is refused in a sentence.
    write(flow_.d.filePath("text.jpg"), "no picture");
    w->layPicture(flow_.d.filePath("text.jpg"));
    QTRY_VERIFY(named<QLabel>(*w, "Notice")->text().contains("no picture"));
  }

  void aPhotographIsLaidOnAWall() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    w->layPicture(demoFile(flow_.d, "ropewalk-flats.jpg"));
    QTRY_VERIFY(named(*w, "Underlay panel")->isVisible());
    choose(*w, "Underlay lies", "upright: a facade");
    QVERIFY(named<QLabel>(*w, "State of the underlay")->text().contains("lies nowhere yet"));
    QVERIFY(!named<QPushButton>(*w, "Apply")->isEnabled() && !w->document().previewing());
    // The true corners, as the camera of the photograph saw them.
    int k = 0;
    for (Vec2 corner : {taken(-24, 0), taken(22, 0), taken(22, 16), taken(-24, 16)}) moveMark(*w, k++, corner);
    click(named<QPushButton>(*w, "On which wall? Click it on the stage"));
    QCOMPARE(w->stage().camera().kind, ViewKind::Solid);
    Camera c = w->stage().camera();
    c.azimuth = radians(60);
    w->stage().setCamera(c);
    clickAt(&w->stage(), *w->stage().pixelOf({-40, 10, 16}) + QPointF(0, -12)); // its roof: no wall
    QTRY_VERIFY(named<QLabel>(*w, "State of the underlay")->text().contains("no upright face"));
    click(named<QPushButton>(*w, "On which wall? Click it on the stage"));
    c = w->stage().camera();
    c.azimuth = radians(60);
    w->stage().setCamera(c);
    clickAt(&w->stage(), *w->stage().pixelOf({-40, 12, 11}));
    QTRY_VERIFY(named<QLabel>(*w, "State of the underlay")->text().contains("To scale"));
    QCOMPARE(named<QLineEdit>(*w, "True width")->text(), QString("46.00 m"));
    QCOMPARE(named<QLineEdit>(*w, "True height")->text(), QString("16.00 m"));
    QCOMPARE(w->stage().camera().kind, ViewKind::Facade);
    QVERIFY(std::abs(wall().corner.x + 40) < 1e-6 && std::abs(wall().corner.y + 24) < 1e-6 &&
            std::abs(wall().right.y - 1) < 1e-9);
  }

  void partOfAWallIsToldByLengths() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // Only a part of the wall was marked? Its size and place by lengths, and back.
    fill(*w, "True width", "20");
    fill(*w, "From its left end", "3");
    fill(*w, "Above its base", "1");
    QVERIFY(std::abs(wall().width - 20) < 1e-9 && std::abs(wall().corner.y + 21) < 1e-9 &&
            std::abs(wall().corner.z - 1) < 1e-9);
    fill(*w, "True width", "46");
    fill(*w, "From its left end", "0");
    fill(*w, "Above its base", "0");
    fill(*w, "Underlay name", "East front");
    click(named<QPushButton>(*w, "Apply"));
    QCOMPARE(w->document().project().underlays.back().name, std::string("East front"));
  }

  void whatItShowsIsWhereItIs() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // What the photograph shows is where it is in truth: a window's corner, taken back through the map.
    const auto map = planeMapOf(w->document().project().underlays.back().pins);
    const auto place = map->place(taken(-24 + 5.75 * 2.5 - 0.8, 0.9));
    QVERIFY2(place && length(*place - Vec3{-40, -24 + 5.75 * 2.5 - 0.8, 0.9}) < 0.1,
             qPrintable(QString::number(length(*place - Vec3{-40, -24 + 5.75 * 2.5 - 0.8, 0.9}))));
  }

  void balconiesAreDrawnOverIt() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // A balcony over it: two corners, a depth, Enter.
    w->action("Draw balconies")->trigger();
    QCOMPARE(w->stage().tool(), Tool::Balcony);
    clickAt(&w->stage(), onFront(-10, 6.3));
    QTest::mouseMove(&w->stage(), onFront(-8, 7).toPoint());
    clickAt(&w->stage(), onFront(-6.8, 7.5));
    QTest::keyClicks(&w->stage(), "1.8");
    QTest::keyClick(&w->stage(), Qt::Key_Return);
    const auto balconies = [&] {
      std::vector<ElementPtr> out;
      for (const ElementPtr& e : w->document().project().elements)
        if (e->layer == "Balconies") out.push_back(e);
      return out;
    };
    QCOMPARE(balconies().size(), std::size_t(4));
    const Box3 slab = boxOf(*balconies()[0]);
    const double px = w->stage().camera().metresPerPixel(w->stage().height()) + 0.06;
    QVERIFY2(std::abs(slab.low.y + 10) < px && std::abs(slab.high.y + 6.8) < px && std::abs(slab.low.z - 6.3) < px,
             qPrintable(QString("%1 %2 %3").arg(slab.low.y).arg(slab.high.y).arg(slab.low.z)));
    QVERIFY(std::abs(slab.high.x + 38.2) < 0.01 && std::abs(slab.low.x + 40) < 0.01 && !balconies()[0]->proposed);
    // Another by clicks alone, its usual depth; on the sky there is no wall.
    clickAt(&w->stage(), onFront(0, 30));
    QVERIFY(named<QLabel>(*w, "Notice")->text().contains("upright face"));
    clickAt(&w->stage(), onFront(2, 9.5));
    clickAt(&w->stage(), onFront(5, 9.55)); // hardly high: a slab alone
    clickAt(&w->stage(), onFront(5, 9.55));
    QCOMPARE(balconies().size(), std::size_t(5));
    QVERIFY(std::abs(boxOf(*balconies()[4]).size().x - 1.4) < 0.01);
    w->action("Undo")->trigger();
    QCOMPARE(balconies().size(), std::size_t(4));
    QTest::keyClick(&w->stage(), Qt::Key_Escape);
  }

  void itsWindowsBecomeSensors() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // No room lies behind this facade: its windows become sensors, by two corners or by one and a size.
    w->action("Draw windows")->trigger();
    w->stage().faceWall(wall(), 0);
    clickAt(&w->stage(), onFront(-1.2, 0.9));
    clickAt(&w->stage(), onFront(0.6, 2.5));
    const auto marked = [&]() -> const SensorGroup* {
      for (const SensorGroup& g : w->document().project().groups)
        if (g.name == "Windows of Ropewalk flats") return &g;
      return nullptr;
    };
    QVERIFY(marked());
    const auto points = [&] { return std::get<std::vector<PointSensor>>(marked()->layout); };
    QCOMPARE(points().size(), std::size_t(1));
    const double near = w->stage().camera().metresPerPixel(w->stage().height()) + 0.06;
    QVERIFY2(length(points()[0].position - Vec3{-39.98, -0.3, 1.7}) < near && points()[0].normal.x > 0.99,
             qPrintable(QString("%1 %2").arg(points()[0].position.y).arg(points()[0].position.z)));
    clickAt(&w->stage(), onFront(6, 4.1));
    QTest::mouseMove(&w->stage(), onFront(7, 5).toPoint());
    QTest::keyClicks(&w->stage(), "1.6x1.5");
    QTest::keyClick(&w->stage(), Qt::Key_Return);
    QCOMPARE(points().size(), std::size_t(2));
    QVERIFY2(length(points()[1].position - Vec3{-39.98, 6.8, 4.85}) < near,
             qPrintable(QString("%1 %2").arg(points()[1].position.y).arg(points()[1].position.z)));
    clickAt(&w->stage(), onFront(0, 30));
    QVERIFY(named<QLabel>(*w, "Notice")->text().contains("upright face"));
    QTest::keyClick(&w->stage(), Qt::Key_Escape);
  }

  void aMendIsLookedAtFirst() {
    QTemporaryDir d;
    for (const char* f : {"brevholm.epw", "library-as-received.mtl"}) demoFile(d, f);
    auto w = openWindow();
    QVERIFY(w->openProject(demoFile(d, "library-site.noonward").toStdString()));
    w->loadModel(demoFile(d, "library-as-received.obj"));
    QTRY_VERIFY(named(*w, "Import a model panel")->isVisible());
    QTRY_VERIFY(w->document().previewing());
    click(named<QPushButton>(*w, "Import"));
    QTRY_VERIFY(has(*w, "glass.doubled") && has(*w, "mesh.flipped"));
    w->action("Findings")->trigger();
    const auto elements = w->document().project().elements;
    const auto change = [&] { return changeText(*w); };
    press(*w, "Preview glass.doubled:outer");
    QTRY_VERIFY2(change().contains("faces go"), qPrintable(change()));
    QVERIFY(w->document().project().elements == elements && !w->document().previewing()); // nothing is done yet
    const QImage with = w->stage().grab().toImage();
    press(*w, "Preview glass.doubled:outer"); // again: hidden
    QTRY_VERIFY(change().isEmpty());
    QVERIFY(with != w->stage().grab().toImage());
    press(*w, "Preview mesh.flipped");
    QTRY_VERIFY2(change().contains("turn"), qPrintable(change()));
    press(*w, "Mend mesh.flipped");
    QTRY_VERIFY(!has(*w, "mesh.flipped"));
    QTRY_VERIFY(change().isEmpty());
    press(*w, "Mend glass.doubled:outer");
    QTRY_VERIFY(!has(*w, "glass.doubled"));
    QVERIFY(w->document().canUndo());
    press(*w, "Preview model.trace");
    QTRY_VERIFY2(change().contains("9 room outlines are new") && change().contains("windows come"),
                 qPrintable(change()));
    w->action("Findings")->trigger();
  }

  void aFileThatChangesIsOfferedAgain() {
    QTemporaryDir d;
    const QString file = d.filePath("yard.obj");
    write(file, boxes(0, false));
    auto w = openWindow();
    w->loadModel(file);
    QTRY_VERIFY(named(*w, "Import a model panel")->isVisible());
    QTRY_VERIFY(w->document().previewing());
    click(named<QPushButton>(*w, "Import"));
    QTRY_COMPARE(w->document().project().elements.size(), std::size_t(1));
    QCOMPARE(w->document().project().sources.size(), std::size_t(1));
    QVERIFY(!has(*w, "source.changed"));
    const ElementId id = w->document().project().elements[0]->id;
    w->document().change(withEdited(w->document().project(), {id}, [](Element& e) { e.role = Role::Building; }),
                         "Set role");
    // Another program saves it: it is told without being asked, and brought in again by one button.
    QFile::remove(file);
    write(file, boxes(3, true));
    QTRY_VERIFY_WITH_TIMEOUT(has(*w, "source.changed"), 10'000);
    w->action("Findings")->trigger();
    click(named<QPushButton>(*w, "Preview source.changed"));
    QTRY_VERIFY(changeText(*w).contains("faces come"));
    click(named<QPushButton>(*w, "Mend source.changed"));
    QTRY_COMPARE(w->document().project().elements.size(), std::size_t(2));
    QTRY_VERIFY(named<QLabel>(*w, "Notice")->text().contains("1 new, 1 renewed, 1 of them moved"));
    QVERIFY(w->document().project().element(id)->role == Role::Building &&
            std::abs(boxOf(*w->document().project().element(id)).low.x - 3) < 1e-6);
    QTRY_VERIFY(!has(*w, "source.changed"));
    w->action("Undo")->trigger(); // back to the state before: the file is newer again
    QTRY_VERIFY(has(*w, "source.changed"));
    w->action("Redo")->trigger();
    QTRY_VERIFY(!has(*w, "source.changed"));
    QFile::remove(file);
    QTRY_VERIFY_WITH_TIMEOUT(has(*w, "source.gone"), 10'000);
    w->action("Findings")->trigger();
  }

  void theLevelOfDetailIsChosen() {
    QTemporaryDir d;
    const QString file = d.filePath("town.json");
    write(file, town);
    auto w = openWindow();
    w->loadModel(file);
    QTRY_VERIFY(named(*w, "Import a model panel")->isVisible());
    QTRY_VERIFY(named(*w, "Level of detail")->isVisible());
    const QString finest = named<QLabel>(*w, "Facts of the model")->text();
    choose(*w, "Level of detail", "level of detail 1");
    QTRY_VERIFY(named<QLabel>(*w, "Facts of the model")->text() != finest &&
                named(*w, "Import a model panel")->isVisible());
    QCOMPARE(named<QComboBox>(*w, "Level of detail")->currentText(), QString("level of detail 1"));
    QTRY_VERIFY(w->document().previewing());
    click(named<QPushButton>(*w, "Import"));
    QTRY_COMPARE(w->document().project().sources.size(), std::size_t(1));
    QCOMPARE(w->document().project().sources[0].level, std::string("1"));
  }
};

QTEST_MAIN(TestSourcesWindow)
#include "tst_sources_window.moc"
