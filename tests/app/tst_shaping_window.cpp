// Masses shaped and windows laid out by mouse and keyboard alone.

#ifndef Q_MOC_RUN
#include "app/stage/stage.h"
#include "core/model/form/arrange.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include "core/model/options.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <QAction>
#include <QLabel>
#include <QListWidget>
#include <QSignalSpy>
#endif

using namespace noonward;
using namespace noonward::test;

class TestShapingWindow : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> w_;
  Stage& stage() { return w_->stage(); }
  QPointF at(double x, double y, double z = 0) { return *stage().pixelOf({x, y, z}); }
  const Project& project() { return w_->document().project(); }
  const std::vector<ElementId>& selected() { return w_->document().looking().selected; }
  void select(std::vector<ElementId> ids) {
    w_->document().look([&](Looking& l) {
      l.selected = std::move(ids);
      l.step = Step::Model;
      l.face.reset();
    });
  }
  void key(int k, Qt::KeyboardModifiers m = {}) {
    QTest::keyClick(&stage(), Qt::Key(k), m);
    QCoreApplication::processEvents();
  }
  void hover(QPointF to) {
    QMouseEvent e(QEvent::MouseMove, to, stage().mapToGlobal(to), Qt::NoButton, {}, {});
    QApplication::sendEvent(&stage(), &e);
  }
  /// A house of two storeys with its rooms and windows to the south, and a shed, in plan.
  void fresh() {
    Project p = house({.width = 12, .depth = 8, .ratio = 0.3});
    p = withEdited(std::move(p), {{10}}, [](Element& e) { e.shape = Mass{rectangle(0, 0, 12, 8), 0, 6.8, 2}; });
    Room up = p.rooms[0];
    up.id = {2};
    up.name = "Loft";
    up.floor = 3.4;
    p.rooms.push_back(up);
    Element shed;
    shed.id = {20};
    shed.name = "Shed";
    shed.shape = Mass{rectangle(18, 1, 22, 5), 0, 4, 1};
    p = withElement(std::move(p), shed);
    w_->document().startNew(p);
    w_->studies().setLive(false);
    stage().setView(ViewKind::Plan);
    stage().setTool(Tool::Select);
    select({{10}});
    stage().setFocus();
    QCoreApplication::processEvents();
  }
  double volume() {
    double v = 0;
    for (const ElementPtr& e : project().elements) v += area(e->mass()->outline) * e->mass()->height;
    return v;
  }

private slots:
  void initTestCase() { w_ = openWindow(); }
  void init() { fresh(); }
  void cleanupTestCase() { w_.reset(); }

  void aStoreyIsSetBackAndUndone() {
    fill(*w_, "Set back by", "1.5");
    click(named<QPushButton>(*w_, "Set back"));
    QCOMPARE(project().elements.size(), std::size_t(3));
    QVERIFY(std::abs(volume() - (12 * 8 * 3.4 + 9 * 5 * 3.4 + 64)) < 1e-6);
    QCOMPARE(selected().size(), std::size_t(2)); // both storeys, held together
    QCOMPARE(w_->document().undoName(), QString("Set back"));
    // A click on one selects both, with Ctrl one alone.
    select({});
    clickAt(&stage(), at(6, 0.5, 3.4));
    QCOMPARE(selected().size(), std::size_t(2));
    clickAt(&stage(), at(6, 0.5, 3.4), Qt::ControlModifier);
    QCOMPARE(selected().size(), std::size_t(1));
    w_->document().undo();
    QCOMPARE(project().elements.size(), std::size_t(2));
    // What can't be is said, and nothing changes.
    select({{10}});
    fill(*w_, "Set back by", "5");
    QSignalSpy told(&w_->document(), &Document::notice);
    click(named<QPushButton>(*w_, "Set back"));
    QCOMPARE(told.count(), 1);
    QVERIFY(told[0][0].toString().contains("would be left"));
    QCOMPARE(project().elements.size(), std::size_t(2));
    fill(*w_, "From storey", "two");
    click(named<QPushButton>(*w_, "Set back"));
    QVERIFY(named<QLineEdit>(*w_, "From storey")->toolTip().contains("whole number"));
  }

  void oneSideIsSetBackByThePickedWall() {
    choose(*w_, "Set back from", "the wall picked");
    fill(*w_, "From storey", "2");
    fill(*w_, "Set back by", "2");
    QSignalSpy told(&w_->document(), &Document::notice);
    click(named<QPushButton>(*w_, "Set back")); // none is picked yet
    QCOMPARE(told.count(), 1);
    QVERIFY(told[0][0].toString().contains("Pick the wall"));
    QCOMPARE(project().elements.size(), std::size_t(2));
    stage().setView(ViewKind::Solid);
    QCoreApplication::processEvents();
    // A wall that is seen: the one whose middle picks it.
    const MeshPtr mesh = *elementMesh(*project().element({10}));
    std::optional<std::uint32_t> picked;
    for (const auto& [face, x, y] : {std::tuple{0u, 6.0, 0.0}, {1u, 12.0, 4.0}, {2u, 6.0, 8.0}, {3u, 0.0, 4.0}}) {
      clickAt(&stage(), at(x, y, 3.3));
      const auto now = w_->document().looking().face;
      if (!selected().empty() && selected()[0] == ElementId{10} && now && *now == firstWallFace + face) picked = face;
      if (picked) break;
      select({{10}});
    }
    QVERIFY2(picked, "no wall could be picked with a click");
    click(named<QPushButton>(*w_, "Set back"));
    QCOMPARE(project().elements.size(), std::size_t(3));
    const double side = *picked % 2 == 0 ? 12 : 8; // m, the wall's length
    QVERIFY2(std::abs(volume() - (12 * 8 * 6.8 - 2 * side * 3.4 + 64)) < 1e-6, qPrintable(QString::number(volume())));
    choose(*w_, "Set back from", "all sides");
  }

  void whatCannotBeDoneIsSaidAndChangesNothing() {
    const auto before = project().elements;
    QSignalSpy told(&w_->document(), &Document::notice);
    const auto says = [&](const char* words) {
      const bool said = told.count() == 1 && told[0][0].toString().contains(words);
      told.clear();
      return said;
    };
    select({});
    key(Qt::Key_C, Qt::ControlModifier);
    QVERIFY(says("Select what is to be taken along"));
    key(Qt::Key_G, Qt::ControlModifier);
    QVERIFY(told.isEmpty()); // nothing is selected: nothing is held
    select({{10}});
    key(Qt::Key_G, Qt::ControlModifier);
    QVERIFY(says("several elements"));
    w_->action("Join masses")->trigger();
    QVERIFY(says("two masses"));
    w_->action("Cut out of the first")->trigger();
    QVERIFY(says("to be cut first"));
    fill(*w_, "Cut at level", "40");
    QVERIFY(says("between foot and top"));
    fill(*w_, "Cut at level", "high");
    QVERIFY(told.isEmpty() && named<QLineEdit>(*w_, "Cut at level")->toolTip().contains("A length"));
    select({});
    stage().setTool(Tool::Mirror); // with nothing selected
    clickAt(&stage(), at(-2, 0));
    clickAt(&stage(), at(-2, 6));
    QCOMPARE(stage().tool(), Tool::Select);
    QVERIFY(project().elements == before);
  }

  void aMassIsCutAlongALineAndJoinedAgain() {
    click(named<QPushButton>(*w_, "Cut along a line"));
    QCOMPARE(stage().tool(), Tool::Cut);
    clickAt(&stage(), at(5, -2));
    clickAt(&stage(), at(5, 11));
    QCOMPARE(stage().tool(), Tool::Select);
    QCOMPARE(project().elements.size(), std::size_t(3));
    QCOMPARE(project().rooms.size(), std::size_t(4));
    QVERIFY(std::abs(volume() - (12 * 8 * 6.8 + 64)) < 1e-6);
    QCOMPARE(selected().size(), std::size_t(2));
    w_->action("Join masses")->trigger();
    QCOMPARE(project().elements.size(), std::size_t(2));
    QCOMPARE(project().element({10})->mass()->outline.outer.size(), std::size_t(4));
    QVERIFY(std::abs(volume() - (12 * 8 * 6.8 + 64)) < 1e-6);
    // A line beside it changes nothing and says so.
    const auto before = project().elements;
    stage().setTool(Tool::Cut);
    clickAt(&stage(), at(-3, -2));
    clickAt(&stage(), at(-3, 5));
    QVERIFY(project().elements == before);
    QCOMPARE(stage().tool(), Tool::Select);
  }

  void oneMassIsCutOutOfAnother() {
    w_->document().change(withEdited(project(), {{20}}, [](Element& e) { moveElement(e, {-8, 1, 0}); }), "Move");
    select({{10}, {20}}); // 10…14 × 2…6 of the shed, 4 m high, lies half in the house
    click(named<QPushButton>(*w_, "Cut out of the first"));
    QVERIFY(!project().element({20}));
    QVERIFY2(std::abs(volume() - (12 * 8 * 6.8 - 2 * 4 * 4)) < 1e-6, qPrintable(QString::number(volume())));
  }

  void mirroredInADrawnLineAndAligned() {
    choose(*w_, "Mirror in", "a line to draw");
    click(named<QPushButton>(*w_, "Mirror it"));
    QCOMPARE(stage().tool(), Tool::Mirror);
    clickAt(&stage(), at(-2, 0));
    clickAt(&stage(), at(-2, 6));
    QCOMPARE(project().elements.size(), std::size_t(3));
    QCOMPARE(project().rooms.size(), std::size_t(4));
    QCOMPARE(boxOf(*project().element(selected()[0])).low.x, -16.0);
    const ElementId copy = selected()[0];
    // The shed, then the copy, with the house.
    select({{10}, {20}, copy});
    choose(*w_, "Align", "upper sides");
    click(named<QPushButton>(*w_, "Align them"));
    for (ElementId id : {ElementId{10}, ElementId{20}, copy})
      QVERIFY(std::abs(boxOf(*project().element(id)).high.y - 8) < 1e-9);
    select({{20}});
    choose(*w_, "Mirror in", "an upright line");
    choose(*w_, "Mirror image", "itself");
    const Box3 was = boxOf(*project().element({20}));
    click(named<QPushButton>(*w_, "Mirror it"));
    QVERIFY(length(boxOf(*project().element({20})).low - was.low) < 1e-9); // a square on itself
  }

  void aGridOfCopiesIsLaidAndLaidAnew() {
    select({{20}});
    fill(*w_, "Copies", "2");
    fill(*w_, "Each right by", "7");
    fill(*w_, "Each up by", "0");
    fill(*w_, "Rows", "2");
    fill(*w_, "Rows right by", "0");
    fill(*w_, "Rows up by", "8");
    click(named<QPushButton>(*w_, "Copy in a row"));
    QCOMPARE(project().elements.size(), std::size_t(7));
    // Another of them says the same numbers, and they can be changed there.
    select({project().elements.back()->id});
    QCOMPARE(named<QLineEdit>(*w_, "Copies")->text(), QString("2"));
    QCOMPARE(named<QLineEdit>(*w_, "Rows")->text(), QString("2"));
    fill(*w_, "Copies", "1");
    fill(*w_, "Each right by", "9");
    click(named<QPushButton>(*w_, "Copy in a row"));
    QCOMPARE(project().elements.size(), std::size_t(5));
    double farthest = 0;
    for (const ElementPtr& e : project().elements) farthest = std::max(farthest, boxOf(*e).low.x);
    QVERIFY(std::abs(farthest - 27) < 1e-9);
    fill(*w_, "Copies", "-1");
    click(named<QPushButton>(*w_, "Copy in a row"));
    QCOMPARE(project().elements.size(), std::size_t(5));
  }

  void aCornerIsCutOffByATypedLength() {
    stage().setTool(Tool::Corners);
    hover(at(12, 8));
    QTest::keyClicks(&stage(), "2");
    key(Qt::Key_Return);
    QCOMPARE(project().element({10})->mass()->outline.outer.size(), std::size_t(5));
    QVERIFY(std::abs(area(project().element({10})->mass()->outline) - 94) < 1e-9);
    hover(at(6, 4)); // no corner there
    QTest::keyClicks(&stage(), "2");
    key(Qt::Key_Return);
    QCOMPARE(project().element({10})->mass()->outline.outer.size(), std::size_t(5));
  }

  void aDragComesToLieOnACornerOrKeepsToAnAxis() {
    select({{20}});
    stage().setTool(Tool::Move);
    // Its low left corner at (18, 1) is taken near the house's corner (12, 8).
    drag(&stage(), at(20, 3), at(14.03, 10.04));
    const Box3 box = boxOf(*project().element({20}));
    QVERIFY2(length(box.low - Vec3{12, 8, 0}) < 1e-9, qPrintable(QString("%1 %2").arg(box.low.x).arg(box.low.y)));
  }

  void whatIsTakenAlongIsPutIntoAnotherOption() {
    w_->document().change(withNewOption(project(), "B"), "Add option");
    QCOMPARE(project().option, std::size_t(1));
    select({{10}});
    key(Qt::Key_X, Qt::ControlModifier);
    QCOMPARE(project().elements.size(), std::size_t(1));
    QVERIFY(project().rooms.empty());
    w_->document().change(withOption(project(), 0), "Choose option");
    QCOMPARE(project().rooms.size(), std::size_t(2)); // the first option has it still
    w_->document().change(withOption(project(), 1), "Choose option");
    key(Qt::Key_V, Qt::ControlModifier);
    QCOMPARE(project().elements.size(), std::size_t(2));
    QCOMPARE(project().rooms.size(), std::size_t(2));
    QCOMPARE(placedOpenings(project()).openings.size(), std::size_t(2));
  }

  void theRidgeIsPulledWithCtrlAndTheWallsWithout() {
    w_->document().change(withEdited(project(), {{10}},
                                     [](Element& e) {
                                       std::get<Mass>(e.shape).roof = {Roof::Kind::Gable, 2, 0};
                                     }),
                          "Set roof");
    stage().setView(ViewKind::Solid);
    QCoreApplication::processEvents();
    const auto mass = [&] { return *project().element({10})->mass(); };
    const QPointF on = at(6, 2, 6.8 + 1), up = at(6, 2, 6.8 + 1 + 1.5);
    drag(&stage(), on, up, Qt::LeftButton, Qt::ControlModifier);
    QVERIFY2(std::abs(mass().roof.rise - 3.5) < 0.15, qPrintable(QString::number(mass().roof.rise)));
    QCOMPARE(mass().height, 6.8);
    QCOMPARE(w_->document().undoName(), QString("Pull ridge"));
    w_->document().undo();
    QCOMPARE(mass().roof.rise, 2.0);
    drag(&stage(), on, up);
    QCOMPARE(mass().roof.rise, 2.0);
    QVERIFY2(std::abs(mass().height - 8.3) < 0.15, qPrintable(QString::number(mass().height)));
  }

  void theWheelOverASheetScrollsAndChangesNothing() {
    auto* role = named<QComboBox>(*w_, "Role");
    reveal(role);
    const QString was = role->currentText();
    const QPointF middle = role->rect().center();
    QWheelEvent e(middle, role->mapToGlobal(middle), {}, {0, -240}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
    QApplication::sendEvent(role, &e);
    QCOMPARE(role->currentText(), was);
    QCOMPARE(project().element({10})->role, Role::Building);
  }

  void layersAreHiddenColouredAndLeftOut() {
    select({{10}});
    fill(*w_, "Layer", "Old town");
    select({{20}});
    fill(*w_, "Layer", "Yard");
    auto* list = named<QListWidget>(*w_, "Layers list");
    reveal(list);
    QCOMPARE(list->count(), 2);
    list->setCurrentRow(1);
    choose(*w_, "Layer colour", "moss");
    QCOMPARE(project().layerColours.at("Yard"), std::string("#6A8F5B"));
    list->item(1)->setCheckState(Qt::Unchecked);
    QVERIFY(project().element({20})->hidden && project().element({20})->counted); // seen or not, studies count it
    click(named<QPushButton>(*w_, "Count or leave out"));
    QVERIFY(!project().element({20})->counted);
    click(named<QPushButton>(*w_, "Count or leave out"));
    QVERIFY(project().element({20})->counted);
    fill(*w_, "Layer name", "Court");
    QCOMPARE(project().element({20})->layer, std::string("Court"));
    QCOMPARE(project().layerColours.count("Court"), std::size_t(1));
    click(named<QPushButton>(*w_, "Select it all"));
    QVERIFY(selected() == std::vector<ElementId>{{20}});
    select({});
    click(named<QPushButton>(*w_, "Sort onto layers by level"));
    QCOMPARE(project().element({10})->layer, std::string("Level 1"));
  }

  void treesArePlantedAlikeAndStandBare() {
    key(Qt::Key_T);
    QCOMPARE(stage().tool(), Tool::Tree);
    clickAt(&stage(), at(15, 10));
    clickAt(&stage(), at(24, 10));
    QCOMPARE(project().elements.size(), std::size_t(4));
    key(Qt::Key_Escape);
    QCOMPARE(stage().tool(), Tool::Select);
    const ElementId tree = project().elements.back()->id;
    QVERIFY(length(project().element(tree)->tree()->foot - Vec3{24, 10, 0}) < 0.2);
    QCOMPARE(project().element(tree)->role, Role::Planting);
    choose(*w_, "Form of the crown", "cone");
    fill(*w_, "Crown width", "4.5");
    fill(*w_, "Height", "12");
    choose(*w_, "State of the tree", "bare");
    fill(*w_, "Passes bare", "70 %");
    const Tree t = *project().element(tree)->tree();
    QVERIFY(t.crown == Crown::Cone && t.leaves == Tree::Leaves::Bare);
    QCOMPARE(t.width, 4.5);
    QCOMPARE(t.height, 12.0);
    QVERIFY(std::abs(t.bare - 0.7) < 1e-12);
    fill(*w_, "Crown width", "wide"); // refused: what was there stays
    QCOMPARE(project().element(tree)->tree()->width, 4.5);
    key(Qt::Key_T); // the next one is like it
    clickAt(&stage(), at(24, -4));
    QCOMPARE(project().elements.back()->tree()->crown, Crown::Cone);
    key(Qt::Key_Escape);
  }

  void roomsAreColouredByAFigure() {
    w_->document().look([](Looking& l) { l.step = Step::Rooms; });
    choose(*w_, "Rooms coloured by", "floor area");
    QCOMPARE(w_->document().looking().rooms, RoomFigure::Area);
    QCoreApplication::processEvents();
    const QImage with = stage().grab().toImage();
    choose(*w_, "Rooms coloured by", "nothing");
    QCoreApplication::processEvents();
    const QImage without = stage().grab().toImage();
    const QPoint q = at(4, 4, 0).toPoint();
    QVERIFY(with.pixelColor(q) != without.pixelColor(q));
  }

  void groupsAreHeldAndLetGo() {
    select({{10}, {20}});
    key(Qt::Key_G, Qt::ControlModifier);
    QCOMPARE(project().elements[0]->group, project().elements[1]->group);
    QVERIFY(!project().elements[0]->group.empty());
    select({});
    clickAt(&stage(), at(20, 3, 4));
    QCOMPARE(selected().size(), std::size_t(2));
    key(Qt::Key_G, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(project().elements[0]->group.empty());
    select({{10}});
    fill(*w_, "Group", "Court");
    QCOMPARE(project().element({10})->group, std::string("Court"));
  }

  // ---- openings -------------------------------------------------------------------------------------------------

  void glassByTheFourSidesAndAsACurtainWall() {
    w_->document().look([](Looking& l) { l.step = Step::Rooms; });
    Project bare = project();
    bare.windowRules.clear();
    w_->document().change(bare, "Delete windows");
    fill(*w_, "Glazed share north", "10 %");
    fill(*w_, "Glazed share south", "45 %");
    QCOMPARE(project().windowRules.size(), std::size_t(2));
    for (const RoomFacts& f : roomFacts(project())) {
      QVERIFY(std::abs(f.windowArea[std::size_t(Facing::South)] - 0.45 * 11.3 * 3) < 1e-6);
      QVERIFY(std::abs(f.windowArea[std::size_t(Facing::North)] - 0.10 * 11.3 * 3) < 1e-6);
      QCOMPARE(f.windowArea[std::size_t(Facing::East)], 0.0);
    }
    QCOMPARE(named<QLabel>(*w_, "Glass of the four sides")->text(),
             QString("Glass there is, by all windows: north 10 %, east 0 %, south 45 %, west 0 % of the walls."));
    fill(*w_, "Glazed share south", "0.4"); // 40 % or 0.4 %?
    QCOMPARE(project().windowRules[1].ratio, 0.45);
    fill(*w_, "Glazed share south", "0");
    QCOMPARE(project().windowRules.size(), std::size_t(1));
    click(named<QPushButton>(*w_, "Curtain wall"));
    choose(*w_, "In", "every room");
    choose(*w_, "Facing", "south");
    fill(*w_, "Bay width", "1.4");
    fill(*w_, "Mullion", "0.1");
    std::size_t panes = 0;
    double glass = 0;
    for (const PlacedOpening& o : placedOpenings(project()).openings)
      if (o.facing == Facing::South) {
        ++panes;
        glass += o.area();
        QVERIFY(std::abs(o.opening.width - 1.3) < 1e-9);
      }
    QCOMPARE(panes, std::size_t(2 * 8)); // 11.3 m by 1.4
    QVERIFY(std::abs(glass - 16 * 1.3 * 2.5) < 1e-6);
    // Fields that don't matter to it are not there.
    for (auto* f : w_->findChildren<QLineEdit*>())
      if (f->accessibleName() == "Windows per wall") QVERIFY(!f->isVisibleTo(f->window()));
  }

  void aDoorIsAddedAndAWallsWindowsGoRoundTheCornerAndUp() {
    w_->document().look([](Looking& l) { l.step = Step::Rooms; });
    Project p = project();
    p.windowRules.clear();
    Opening o;
    o.id = {61};
    o.name = "Drawn";
    o.type = "tall";
    o.room = {1};
    o.edge = 0;
    o.along = 1;
    o.repeat = 2;
    p.openings = {o};
    w_->document().change(p, "Draw window");
    w_->document().look([&](Looking& l) { l.opening = {61}; });
    choose(*w_, "Copy its wall", "to the storey above");
    click(named<QPushButton>(*w_, "Copy the wall's windows"));
    QCOMPARE(project().openings.size(), std::size_t(2));
    QCOMPARE(project().openings[1].room, RoomId{2});
    choose(*w_, "Copy its wall", "round the corner, right");
    click(named<QPushButton>(*w_, "Copy the wall's windows"));
    QCOMPARE(project().openings.size(), std::size_t(3));
    QCOMPARE(project().openings[2].edge, 1);
    click(named<QPushButton>(*w_, "Copy the wall's windows")); // they are there already
    QCOMPARE(project().openings.size(), std::size_t(3));
    // A change goes to all of the type.
    choose(*w_, "Changes go to", "all of its type");
    fill(*w_, "Its width", "0.8");
    fill(*w_, "Its pane at", "50 %");
    for (const Opening& x : project().openings) {
      QCOMPARE(x.width, 0.8);
      QCOMPARE(x.paneAt, 0.5);
    }
    choose(*w_, "Changes go to", "this window");
    // Round the corner, joined to another, and taken back.
    w_->document().look([](Looking& l) { l.opening = {61}; });
    click(named<QPushButton>(*w_, "Corner at its left"));
    std::size_t joined = 0;
    for (const PlacedOpening& x : placedOpenings(project()).openings) joined += x.before != 0 || x.after != 0;
    QCOMPARE(joined, std::size_t(2));
    QCOMPARE(w_->document().undoName(), QString("Corner window"));
    w_->document().undo();
    click(named<QPushButton>(*w_, "Add a door"));
    const Opening& door = project().openings.back();
    QCOMPARE(door.sill, 0.0);
    QCOMPARE(door.name, std::string("Door"));
    QCOMPARE(placedOpenings(project()).openings.size(), std::size_t(7));
    QCOMPARE(w_->document().looking().opening, door.id);
  }

  void aMassWithoutRoomsHasWindowsToo() {
    w_->document().look([](Looking& l) { l.step = Step::Rooms; });
    w_->document().look([](Looking& l) { l.selected = {{20}}; });
    click(named<QPushButton>(*w_, "Windows of selected"));
    QCOMPARE(project().rooms.size(), std::size_t(3));
    QVERIFY(!project().rooms.back().counted);
    std::size_t windows = 0;
    for (const PlacedOpening& o : placedOpenings(project()).openings) windows += o.mass == 20;
    QCOMPARE(windows, std::size_t(1 + 3 * 4)); // south by the rule for every room, four in each other wall
    for (const Finding& f : checkRooms(project())) QVERIFY(f.code != "opening.overlap");
    QSignalSpy told(&w_->document(), &Document::notice);
    click(named<QPushButton>(*w_, "Windows of selected"));
    QCOMPARE(told.count(), 1);
    QVERIFY(told[0][0].toString().contains("has rooms already"));
  }
};

QTEST_MAIN(TestShapingWindow)
#include "tst_shaping_window.moc"
