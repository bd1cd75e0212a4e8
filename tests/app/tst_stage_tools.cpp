// The tools of the stage: each leaves nothing behind when it is left, makes one undo step when it is through, and no
// order of clicks, drags and keys breaks a project.

#ifndef Q_MOC_RUN
#include "app/stage/stage.h"
#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <random>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {
constexpr Tool allTools[] = {Tool::Select,  Tool::Draw,  Tool::Move,    Tool::Probe,   Tool::Area,     Tool::Room,
                             Tool::Window,  Tool::Plate, Tool::Section, Tool::Corners, Tool::Distance, Tool::Spot,
                             Tool::Balcony, Tool::Cut,   Tool::Mirror,  Tool::Tree};
const char* nameOfTool(Tool t) {
  constexpr const char* names[] = {"select",  "draw",    "move",     "probe", "area",    "room", "window", "plate",
                                   "section", "corners", "distance", "spot",  "balcony", "cut",  "mirror", "tree"};
  return names[int(t)];
}
/// A yard with a house (windows to the south) and a block without rooms, seen in plan.
Project yard() {
  Project p = house({.ratio = 0.3});
  p.site.place = {radians(52), radians(13), 0};
  Element e;
  e.id = {20};
  e.name = "Shed";
  e.shape = Mass{rectangle(14, 0, 20, 6), 0, 4, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
  return p;
}
/// Pixels that are plainly other: edges drawn rougher or finer are not.
int apart(const QImage& a, const QImage& b) {
  int n = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) {
      const QColor p = a.pixelColor(x, y), q = b.pixelColor(x, y);
      n +=
          std::max({std::abs(p.red() - q.red()), std::abs(p.green() - q.green()), std::abs(p.blue() - q.blue())}) > 110;
    }
  return n;
}
std::string content(MainWindow& w) {
  return projectText(w.document().project(), "f");
}
} // namespace

class TestStageTools : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> w_;
  Stage& stage() { return w_->stage(); }
  QPointF at(double x, double y, double z = 0) { return *stage().pixelOf({x, y, z}); }
  const Project& project() { return w_->document().project(); }
  void fresh(ViewKind kind = ViewKind::Plan) {
    w_->document().startNew(yard());
    w_->studies().setLive(false);
    stage().setView(kind);
    stage().setTool(Tool::Select);
    stage().setFocus();
    QCoreApplication::processEvents();
  }
  void key(int k, Qt::KeyboardModifiers m = {}) {
    QTest::keyClick(&stage(), Qt::Key(k), m);
    QCoreApplication::processEvents();
  }
  void type(const char* text) { QTest::keyClicks(&stage(), text); }
  void hover(QPointF to) {
    QMouseEvent e(QEvent::MouseMove, to, stage().mapToGlobal(to), Qt::NoButton, {}, {});
    QApplication::sendEvent(&stage(), &e);
  }
  static void everyTool() {
    QTest::addColumn<int>("tool");
    for (Tool t : allTools) QTest::newRow(nameOfTool(t)) << int(t);
  }

private slots:
  void initTestCase() {
    w_ = openWindow();
    w_->studies().setLive(false);
  }
  void cleanupTestCase() { w_.reset(); }

  void everyToolSaysWhatToDoAndIsLeftByEscape_data() { everyTool(); }
  void everyToolSaysWhatToDoAndIsLeftByEscape() {
    QFETCH(int, tool);
    fresh();
    const std::string before = content(*w_);
    QSignalSpy said(&stage(), &Stage::said);
    stage().setTool(Tool(tool));
    QCOMPARE(stage().tool(), Tool(tool));
    if (Tool(tool) != Tool::Select && Tool(tool) != Tool::Spot) { // who asks for a spot tells itself what for
      QVERIFY(!said.isEmpty());
      QVERIFY(said.last()[0].toString().size() > 15);
      QVERIFY(stage().cursor().shape() != Qt::ArrowCursor);
    }
    key(Qt::Key_Escape);
    QCOMPARE(stage().tool(), Tool::Select);
    QCOMPARE(stage().cursor().shape(), Qt::ArrowCursor);
    QCOMPARE(content(*w_), before);
  }

  void whatIsHalfDrawnGoesWithItsTool_data() { everyTool(); }
  void whatIsHalfDrawnGoesWithItsTool() {
    QFETCH(int, tool);
    fresh();
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    const std::string before = content(*w_);
    const QImage bare = stage().grab().toImage();
    stage().setTool(Tool(tool));
    drag(&stage(), at(15, 1), at(19, 5), Qt::LeftButton, {}, false); // held, and never let go
    clickAt(&stage(), at(-5, -5));
    type("3");
    stage().setTool(Tool::Distance);
    stage().setTool(Tool::Select);
    QCOMPARE(w_->document().previewing(), false);
    if (Tool(tool) == Tool::Select || Tool(tool) == Tool::Move || Tool(tool) == Tool::Corners)
      return;                                                                                      // a drag is an edit
    if (Tool(tool) == Tool::Spot || Tool(tool) == Tool::Probe || Tool(tool) == Tool::Tree) return; // a click is all
    QCOMPARE(content(*w_), before);
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    hover({5, 5});
    QTRY_VERIFY(apart(stage().grab().toImage(), bare) < 40); // nothing is drawn of it any more
  }

  void anotherProjectDropsTheDraft_data() { everyTool(); }
  void anotherProjectDropsTheDraft() {
    QFETCH(int, tool);
    fresh();
    stage().setTool(Tool(tool));
    for (const auto& [x, y] : {std::pair{-5.0, -5.0}, {-2.0, -5.0}, {-2.0, -2.0}}) clickAt(&stage(), at(x, y));
    w_->document().startNew(yard());
    const std::string before = content(*w_);
    stage().setView(ViewKind::Plan);
    key(Qt::Key_Return); // would close an outline
    QCOMPARE(content(*w_), before);
  }

  void outlinesAreMeasuredTypedAndTakenBack() {
    fresh();
    stage().setTool(Tool::Plate);
    clickAt(&stage(), at(-10, -10));
    QTest::mouseMove(&stage(), at(-5, -10).toPoint());
    type("6");
    key(Qt::Key_Return);
    clickAt(&stage(), at(-4, -7));
    clickAt(&stage(), at(-8, -3)); // a corner too many
    key(Qt::Key_Backspace);
    type("12");
    key(Qt::Key_Backspace); // of the number, not of the outline
    key(Qt::Key_Backspace);
    clickAt(&stage(), at(-10, -7));
    key(Qt::Key_Return);
    QCOMPARE(project().elements.size(), std::size_t(3));
    const Plate* plate = project().elements.back()->plate();
    QVERIFY(plate);
    QCOMPARE(plate->corners.size(), std::size_t(4));
    QVERIFY(std::abs(length(plate->corners[1] - plate->corners[0]) - 6) < 1e-9);
    QCOMPARE(stage().tool(), Tool::Select);
    QCOMPARE(w_->document().undoName(), QString("Draw shading plane"));
    w_->document().undo();
    QCOMPARE(project().elements.size(), std::size_t(2));
  }

  void anOutlineThatCrossesItselfIsRefusedAndKept() {
    fresh();
    QSignalSpy said(&stage(), &Stage::said);
    stage().setTool(Tool::Room);
    for (const auto& [x, y] : {std::pair{-10.0, -10.0}, {-4.0, -4.0}, {-4.0, -10.0}, {-10.0, -4.0}})
      clickAt(&stage(), at(x, y));
    key(Qt::Key_Return);
    QVERIFY(said.last()[0].toString().startsWith("This outline"));
    QCOMPARE(project().rooms.size(), std::size_t(1));
    QCOMPARE(stage().tool(), Tool::Room);
    key(Qt::Key_Backspace);
    key(Qt::Key_Return); // three corners are sound
    QCOMPARE(project().rooms.size(), std::size_t(2));
  }

  void aBlockIsRaisedByPointerOrNumberAndTheViewTurnsMeanwhile() {
    fresh(ViewKind::Solid);
    stage().setTool(Tool::Draw);
    for (const auto& [x, y] : {std::pair{-12.0, -6.0}, {-6.0, -6.0}, {-6.0, -1.0}, {-12.0, -1.0}})
      clickAt(&stage(), at(x, y));
    key(Qt::Key_Return);
    QCOMPARE(project().elements.size(), std::size_t(2)); // its height is still asked for
    const Camera before = stage().camera();
    drag(&stage(), {300, 300}, {360, 320}, Qt::RightButton);
    QVERIFY(!(stage().camera() == before));
    QCOMPARE(stage().tool(), Tool::Draw);
    type("7.5 m");
    key(Qt::Key_Return);
    QCOMPARE(project().elements.size(), std::size_t(3));
    QCOMPARE(heightOf(*project().elements.back()), 7.5);
    QCOMPARE(w_->document().looking().selected.size(), std::size_t(1));
    w_->document().undo();
    stage().setTool(Tool::Draw);
    w_->document().look([](Looking& l) { l.selected.clear(); });
    for (const auto& [x, y] : {std::pair{-12.0, -6.0}, {-6.0, -6.0}, {-6.0, -1.0}, {-12.0, -1.0}})
      clickAt(&stage(), at(x, y));
    key(Qt::Key_Return);
    hover(at(-9, -3.5, 12)); // by the pointer: up to there
    drag(&stage(), at(-9, -3.5, 12), at(-9, -3.5, 12));
    QCOMPARE(project().elements.size(), std::size_t(3));
    const double height = heightOf(*project().elements.back());
    QVERIFY2(std::abs(height - 12) <= 0.5, qPrintable(QString::number(height)));
    const ElementId made = project().elements.back()->id;
    QVERIFY(w_->document().looking().selected == std::vector<ElementId>{made});
  }

  void drawnInsideAMassItIsACourtyard() {
    fresh();
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    stage().setTool(Tool::Draw);
    for (const auto& [x, y] : {std::pair{16.0, 2.0}, {18.0, 2.0}, {18.0, 4.0}, {16.0, 4.0}})
      clickAt(&stage(), at(x, y));
    key(Qt::Key_Return);
    QCOMPARE(project().elements.size(), std::size_t(2));
    const Mass& m = *project().element({20})->mass();
    QCOMPARE(m.outline.holes.size(), std::size_t(1));
    QVERIFY(std::abs(area(m.outline) - 32) < 1.5);
    QCOMPARE(w_->document().undoName(), QString("Cut courtyard"));
  }

  void aMoveIsExactWhenTypedAndOneStep() {
    fresh();
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    const double x = boxOf(*project().element({20})).low.x;
    stage().setTool(Tool::Move);
    drag(&stage(), at(17, 3), at(20, 3.02), Qt::LeftButton, {}, false);
    QVERIFY(w_->document().previewing());
    type("2.345");
    QMouseEvent up(QEvent::MouseButtonRelease, at(20, 3.02), stage().mapToGlobal(at(20, 3.02)), Qt::LeftButton, {}, {});
    QApplication::sendEvent(&stage(), &up);
    QVERIFY(!w_->document().previewing());
    QVERIFY(std::abs(boxOf(*project().element({20})).low.x - x - 2.345) < 1e-9);
    QCOMPARE(w_->document().undoName(), QString("Move"));
    w_->document().undo();
    QCOMPARE(boxOf(*project().element({20})).low.x, x);
    // Alt moves without the tool, and Escape in the middle of it brings it back.
    drag(&stage(), at(17, 3), at(22, 3), Qt::LeftButton, Qt::AltModifier, false);
    QVERIFY(w_->document().previewing());
    key(Qt::Key_Escape);
    QVERIFY(!w_->document().previewing());
    QCOMPARE(boxOf(*project().element({20})).low.x, x);
  }

  void anotherButtonDoesNotLetGo() {
    fresh();
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    const double x = boxOf(*project().element({20})).low.x;
    const auto send = [&](QEvent::Type type, QPointF to, Qt::MouseButton button, Qt::MouseButtons down) {
      QMouseEvent e(type, to, stage().mapToGlobal(to), button, down, Qt::AltModifier);
      QApplication::sendEvent(&stage(), &e);
    };
    drag(&stage(), at(17, 3), at(20, 3), Qt::LeftButton, Qt::AltModifier, false);
    const Camera before = stage().camera();
    send(QEvent::MouseButtonPress, at(20, 3), Qt::RightButton, Qt::LeftButton | Qt::RightButton);
    send(QEvent::MouseButtonRelease, at(20, 3), Qt::RightButton, Qt::LeftButton);
    QVERIFY(w_->document().previewing()); // still in the hand
    QVERIFY(stage().camera() == before);
    send(QEvent::MouseMove, at(22, 3), Qt::NoButton, Qt::LeftButton);
    send(QEvent::MouseButtonRelease, at(22, 3), Qt::LeftButton, {});
    QVERIFY(!w_->document().previewing());
    QVERIFY(std::abs(boxOf(*project().element({20})).low.x - x - 5) < 0.15);
    QCOMPARE(w_->document().undoName(), QString("Move"));
    // A release that never came: what was held goes back before anything else begins.
    w_->document().undo();
    drag(&stage(), at(17, 3), at(20, 3), Qt::LeftButton, Qt::AltModifier, false);
    clickAt(&stage(), at(-5, -5));
    QVERIFY(!w_->document().previewing());
    QCOMPARE(boxOf(*project().element({20})).low.x, x);
  }

  void aNumberOverASelectionIsItsHeight() {
    fresh();
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    type("5.25");
    key(Qt::Key_Return);
    QCOMPARE(heightOf(*project().element({20})), 5.25);
    type("0");
    key(Qt::Key_Return); // no height
    QCOMPARE(heightOf(*project().element({20})), 5.25);
    w_->document().look([](Looking& l) { l.selected = {{10}, {20}}; });
    type("9");
    key(Qt::Key_Return); // of which?
    QCOMPARE(heightOf(*project().element({20})), 5.25);
  }

  void cornersAreDraggedPutInAndTakenOut() {
    fresh();
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    stage().setTool(Tool::Corners);
    drag(&stage(), at(20, 6), at(22, 8));
    const auto ring = [&] { return project().element({20})->mass()->outline.outer; };
    QCOMPARE(ring().size(), std::size_t(4));
    const Ring dragged = ring();
    QVERIFY(std::any_of(dragged.begin(), dragged.end(), [](Vec2 v) { return length(v - Vec2{22, 8}) < 0.5; }));
    QCOMPARE(w_->document().undoName(), QString("Move corner"));
    drag(&stage(), at(17, 0), at(17, -2)); // an edge
    QCOMPARE(ring().size(), std::size_t(5));
    QCOMPARE(w_->document().undoName(), QString("Put a corner in"));
    const QPointF there = at(17, -2);
    QMouseEvent twice(QEvent::MouseButtonDblClick, there, stage().mapToGlobal(there), Qt::LeftButton, Qt::LeftButton,
                      {});
    QApplication::sendEvent(&stage(), &twice);
    QCOMPARE(ring().size(), std::size_t(4));
    QCOMPARE(stage().tool(), Tool::Corners);
    const Camera before = stage().camera();
    drag(&stage(), at(-10, -10), at(-8, -10)); // nothing there: the plan is pushed along
    QVERIFY(!(stage().camera() == before));
  }

  void aBalconyHangsWhereItIsSeen() {
    fresh(ViewKind::Facade);
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    stage().setView(ViewKind::Facade);
    stage().setTool(Tool::Balcony);
    const std::size_t before = project().elements.size();
    clickAt(&stage(), at(15, 0, 1));
    clickAt(&stage(), at(18, 0, 2));
    type("2.1");
    key(Qt::Key_Return);
    QCOMPARE(project().elements.size(), before + 4); // slab, front and two sides
    const Box3 slab = boxOf(*project().elements[before]);
    QVERIFY(std::abs(slab.size().y - 2.1) < 1e-6);
    QVERIFY(std::abs(slab.size().x - 3) < 0.15);
    QCOMPARE(stage().tool(), Tool::Balcony); // and the next one
    clickAt(&stage(), at(15, 0, 1));
    key(Qt::Key_Backspace); // not there
    key(Qt::Key_Return);
    QCOMPARE(project().elements.size(), before + 4);
    w_->document().undo();
    QCOMPARE(project().elements.size(), before);
  }

  void aDistanceIsMeasuredFromCornerToCorner() {
    fresh();
    QSignalSpy measured(&stage(), &Stage::distanceMeasured);
    stage().setTool(Tool::Distance);
    clickAt(&stage(), at(14, 0) + QPointF(2, -2));
    QVERIFY(measured.isEmpty());
    clickAt(&stage(), at(20, 6) + QPointF(-2, 2));
    QCOMPARE(measured.count(), 1);
    QVERIFY(std::abs(measured[0][0].toDouble() - std::hypot(6, 6)) < 4.1); // of the corners it caught, top or foot
    QCOMPARE(stage().tool(), Tool::Select);
  }

  void noOrderOfGesturesBreaksAProject_data() {
    QTest::addColumn<unsigned>("seed");
    for (unsigned s = 1; s <= 4; ++s) QTest::addRow("seed %u", s) << s;
  }
  void noOrderOfGesturesBreaksAProject() {
    QFETCH(unsigned, seed);
    fresh(seed % 3 == 0 ? ViewKind::Solid : seed % 3 == 1 ? ViewKind::Plan : ViewKind::Facade);
    const std::string before = content(*w_);
    std::mt19937 dice(seed);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    const auto spot = [&] { return QPointF(upTo(stage().width()), upTo(stage().height())); };
    const auto near = [&] { return upTo(3) ? at(-4 + upTo(28), -4 + upTo(14), upTo(5)) : spot(); };
    const auto send = [&](QEvent::Type type, QPointF to, Qt::MouseButton b, Qt::MouseButtons down,
                          Qt::KeyboardModifiers m) {
      QMouseEvent e(type, to, stage().mapToGlobal(to), b, down, m);
      QApplication::sendEvent(&stage(), &e);
    };
    constexpr int keys[] = {Qt::Key_Return, Qt::Key_Escape, Qt::Key_Backspace, Qt::Key_Left, Qt::Key_Up, Qt::Key_Plus};
    Qt::MouseButtons down;
    for (int step = 0; step < 160; ++step) {
      const Qt::KeyboardModifiers m = upTo(6) == 0   ? Qt::KeyboardModifiers(Qt::AltModifier)
                                      : upTo(6) == 0 ? Qt::KeyboardModifiers(Qt::ShiftModifier)
                                                     : Qt::KeyboardModifiers();
      const Qt::MouseButton button = upTo(5) ? Qt::LeftButton : upTo(2) ? Qt::RightButton : Qt::MiddleButton;
      switch (upTo(9)) {
      case 0:
        stage().setTool(allTools[upTo(int(std::size(allTools)))]);
        break;
      case 1:
        key(keys[upTo(int(std::size(keys)))]);
        break;
      case 2:
        QTest::keyClicks(&stage(), std::array{"2", "1.5", "-3", "1.8x1.5", "40 ft", "0", ","}[std::size_t(upTo(7))]);
        break;
      case 3:
        down = button;
        send(QEvent::MouseButtonPress, near(), button, down, m);
        break;
      case 4:
        send(QEvent::MouseButtonRelease, near(), button, {}, m);
        down = {};
        break;
      case 5:
        send(QEvent::MouseButtonDblClick, near(), Qt::LeftButton, Qt::LeftButton, m);
        break;
      case 6:
        w_->document().look([&](Looking& l) {
          l.selected = upTo(2) ? std::vector<ElementId>{{upTo(2) ? 20u : 10u}} : std::vector<ElementId>{};
        });
        break;
      case 7:
        send(QEvent::MouseMove, near(), Qt::NoButton, down, m);
        break;
      default:
        clickAt(&stage(), near(), m);
        down = {};
      }
      if (upTo(4) == 0) QCoreApplication::processEvents();
    }
    stage().setTool(Tool::Select);
    QVERIFY(!w_->document().previewing());
    for (const ElementPtr& e : project().elements) {
      const Box3 b = boxOf(*e);
      QVERIFY2(std::isfinite(b.low.x) && std::isfinite(b.high.z), e->name.c_str());
      if (const Mass* mass = e->mass())
        QVERIFY2(checkOutline(mass->outline).fault == OutlineFault::None, e->name.c_str());
    }
    const auto back = parseProject(content(*w_), "again", ".");
    QVERIFY2(back.has_value(), back ? "" : back.error().text().c_str());
    int steps = 0;
    for (; w_->document().canUndo() && steps < 500; ++steps) w_->document().undo();
    QCOMPARE(content(*w_), before); // whatever was done is taken back
    for (; steps > 0; --steps) w_->document().redo();
    QVERIFY(!w_->document().canRedo());
  }
};

QTEST_MAIN(TestStageTools)
#include "tst_stage_tools.moc"
