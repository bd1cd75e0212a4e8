// From a heavy model to rooms, as its receiver goes: seen before it is brought in, mended, traced, corrected by hand.

#include "tests/app/driver.h"
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/model/form/edit.h"
#include "core/model/tracing/tracing.h"
#include <QLabel>
#include <QTableWidget>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {
/// The demo's site and the library as it was received, in a folder of their own.
void copyDemo(const QTemporaryDir& d) {
  for (const char* f : {"library-site.noonward", "brevholm.epw", "library-as-received.obj", "library-as-received.mtl"})
    if (!QFile::copy(QString(SOURCE_TREE "/demo/") + f, d.filePath(f))) qFatal("the demo lacks %s", f);
}
ElementPtr layered(MainWindow& w, const char* name) {
  for (const ElementPtr& e : w.document().project().elements)
    if (e->layer == name) return e;
  return nullptr;
}
} // namespace

class TestModelsWindow : public QObject {
  Q_OBJECT
  Flow flow_;

  const Room& reading() const {
    const auto& rooms = flow_.w->document().project().rooms;
    return *std::find_if(rooms.begin(), rooms.end(), [](const Room& r) { return r.name == "Reading room"; });
  }

private slots:
  void cleanup() { flow_.after(); }
  void cleanupTestCase() { flow_.w.reset(); }

  void aModelIsSeenBeforeItIsBroughtIn() {
    copyDemo(flow_.d);
    flow_.begin();
    const auto& w = flow_.w;
    QVERIFY(w->openProject(flow_.d.filePath("library-site.noonward").toStdString()));
    const std::size_t before = w->document().project().elements.size();
    // It stands on the stage before it is brought in, and goes again where it is left.
    w->loadModel(flow_.d.filePath("library-as-received.obj"));
    QTRY_VERIFY(named(*w, "Import a model panel")->isVisible());
    QTRY_COMPARE(named<QTableWidget>(*w, "Layers of the model")->rowCount(), 8);
    QTRY_VERIFY(w->document().previewing());
    QCOMPARE(w->document().project().elements.size(), before + 8);
    click(named<QPushButton>(*w, "Cancel"));
    QTRY_VERIFY(!w->document().previewing());
    QCOMPARE(w->document().project().elements.size(), before);
    QVERIFY(!w->document().canUndo());
    w->loadModel(flow_.d.filePath("library-as-received.obj"));
    QTRY_VERIFY(named(*w, "Import a model panel")->isVisible());
    QTRY_VERIFY(w->document().previewing());
  }

  void itsNorthIsTyped() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    const Box3 square = boxOf(*layered(*w, "12 Floors"));
    fill(*w, "North of the model", "38");
    QTRY_VERIFY(w->document().previewing() && std::abs(boxOf(*layered(*w, "12 Floors")).size().x - 29.2) <
                                                  0.01); // its walls along the project's axes
    QVERIFY(std::abs(square.size().x - 29.2) > 1);
    fill(*w, "North of the model", "somewhere");
    QVERIFY(!named<QLineEdit>(*w, "North of the model")->styleSheet().isEmpty());
    fill(*w, "North of the model", "38°");
    QTRY_VERIFY(w->document().previewing() && std::abs(boxOf(*layered(*w, "12 Floors")).size().x - 29.2) < 0.01);
  }

  void itsScaleIsCheckedByADistance() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // A distance that is known: the stage is clicked twice, and the truth typed.
    click(named<QPushButton>(*w, "Check a distance"));
    QCOMPARE(w->stage().tool(), Tool::Distance);
    const auto spot = [&](Vec3 p) { return *w->stage().pixelOf(p); };
    const Vec3 a{-34, 27, 7.5}, b{-4, 27, 7.5};
    clickAt(&w->stage(), spot(a));
    clickAt(&w->stage(), spot(b));
    QCOMPARE(w->stage().tool(), Tool::Select);
    QTRY_VERIFY2(named<QPushButton>(*w, "Check a distance")->text().startsWith("Measured 30.0"),
                 qPrintable(named<QPushButton>(*w, "Check a distance")->text()));
    fill(*w, "True distance", "15");
    QTRY_VERIFY(w->document().previewing() && std::abs(boxOf(*layered(*w, "12 Floors")).size().x - 14.6) < 0.02);
    fill(*w, "True distance", "30");
    QTRY_VERIFY(w->document().previewing() && std::abs(boxOf(*layered(*w, "12 Floors")).size().x - 29.2) < 0.02);
  }

  void itIsBroughtInAndItsMaterialsAreFound() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    click(named<QPushButton>(*w, "Import"));
    QTRY_VERIFY(w->document().canUndo());
    QVERIFY(!w->document().previewing());
    w->document().look([&](Looking& l) { l.selected = {layered(*w, "neighbours")->id}; });
    w->action("Select all like it")->trigger();
    QVERIFY(w->document().looking().selected.size() > 8);
    QCOMPARE(layered(*w, "20 Glazing")->finish,
             std::string("Library double")); // its material has the name of a glazing of the project
  }

  void itsFaultsAreMendedByOneButton() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // Mended by one button; every step can be taken back.
    const auto has = [&](const char* code) {
      return std::any_of(w->document().findings().begin(), w->document().findings().end(),
                         [&](const Finding& f) { return f.code == code; });
    };
    QTRY_VERIFY(has("model.trace") && has("glass.doubled") && has("mesh.flipped") && has("element.stray"));
    w->action("Findings")->trigger();
    click(named<QPushButton>(*w, "Mend all"));
    QTRY_COMPARE(w->document().project().rooms.size(), std::size_t(9));
    QTRY_VERIFY(!has("glass.doubled") && !has("mesh.flipped") && !has("mesh.duplicates"));
    QVERIFY(layered(*w, "20 Glazing")->ghost && !layered(*w, "20 Glazing")->counted);
    QVERIFY(layered(*w, "21 Sun shading")->counted);
    w->action("Undo")->trigger();
    QVERIFY(w->document().project().rooms.empty() && layered(*w, "20 Glazing")->counted);
    w->action("Redo")->trigger();
    QCOMPARE(w->document().project().openings.size(), std::size_t(20));
    w->action("Findings")->trigger();
  }

  void tracedAgainItsRoomsKeepTheirNames() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // Traced again by other wishes: names that were given stay.
    Project named9 = w->document().project();
    for (Room& r : named9.rooms)
      if (std::abs(area(r.outline) - 111.6) < 0.1) r.name = "Reading room";
    w->document().change(named9, "Name a room");
    w->action("Trace a simplified model")->trigger();
    auto* storeys = named<QTableWidget>(*w, "Storeys of the simplified model");
    QTRY_COMPARE(storeys->rowCount(), 2);
    QVERIFY(named<QLabel>(*w, "Simplified model against source")->text().contains("S 40.3 m² of 40.3 m²"));
    QCOMPARE(w->stage().camera().kind, ViewKind::Plan);
    fill(*w, "Floors at", "0");
    QTRY_COMPARE(storeys->rowCount(), 1);
    fill(*w, "Walls up to", "2"); // the corridor is narrower: it becomes wall
    QTRY_COMPARE(storeys->item(0, 3)->text(), QString("7"));
    fill(*w, "Walls up to", "much");
    QTRY_COMPARE(storeys->item(0, 3)->text(), QString("8"));
    click(named<QPushButton>(*w, "Create"));
    QTRY_COMPARE(w->document().project().rooms.size(), std::size_t(8));
    QVERIFY(std::any_of(w->document().project().rooms.begin(), w->document().project().rooms.end(),
                        [](const Room& r) { return r.name == "Reading room"; }));
    QCOMPARE(w->document().looking().step, Step::Rooms);
  }

  void aCornerIsCorrectedByHand() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // A corner of the reading room by hand: it snaps to the source, its windows stay where they are.
    w->action("View plan")->trigger();
    w->action("Correct corners")->trigger();
    w->document().look([](Looking& l) { l.step = Step::Rooms; });
    const std::size_t corners = reading().outline.outer.size();
    const auto px = [&](Vec2 p) { return *w->stage().pixelOf({p.x, p.y, reading().floor}); };
    const auto place = [&](const Opening& o) { // middle of a window in the plan
      const Ring& r = reading().outline.outer;
      const Vec2 from = r[std::size_t(o.edge)], along = r[(std::size_t(o.edge) + 1) % r.size()] - from;
      return from + along * ((o.along + o.width / 2) / length(along));
    };
    std::vector<Vec2> windows;
    for (const Opening& o : w->document().project().openings)
      if (o.room == reading().id) windows.push_back(place(o));
    QCOMPARE(windows.size(), std::size_t(4));
    std::size_t north = 0; // the corner at the north-west
    for (std::size_t k = 0; k < corners; ++k)
      if (const Vec2 p = reading().outline.outer[k], q = reading().outline.outer[north]; p.y - p.x > q.y - q.x)
        north = k;
    const Vec2 corner = reading().outline.outer[north];
    drag(&w->stage(), px(corner), px(corner + Vec2{2.4, 0}));
    QVERIFY2(std::abs(reading().outline.outer[north].x - corner.x - 2.4) < 0.3,
             qPrintable(QString::number(reading().outline.outer[north].x - corner.x)));
    // An edge is pulled: a corner more; a double click takes it out again.
    const Vec2 a1 = reading().outline.outer[north], b1 = reading().outline.outer[(north + corners - 1) % corners],
               mid = (a1 + b1) * 0.5;
    drag(&w->stage(), px(mid), px(mid + Vec2{0, -1.2}));
    QCOMPARE(reading().outline.outer.size(), corners + 1);
    std::size_t k = 0;
    for (const Opening& o : w->document().project().openings)
      if (o.room == reading().id) QVERIFY(length(place(o) - windows[k++]) < 0.01);
    Vec2 fresh = reading().outline.outer.front();
    for (Vec2 p : reading().outline.outer)
      if (length(p - mid - Vec2{0, -1.2}) < length(fresh - mid - Vec2{0, -1.2})) fresh = p;
    QTest::mouseDClick(&w->stage(), Qt::LeftButton, {}, px(fresh).toPoint());
    QCOMPARE(reading().outline.outer.size(), corners);
    QTest::keyClick(&w->stage(), Qt::Key_Escape);
    QCOMPARE(w->stage().tool(), Tool::Select);
  }

  void theSourceComesBack() {
    FOLLOWS_ON(flow_);
    const auto& w = flow_.w;
    // And back to the source.
    w->action("Trace a simplified model")->trigger();
    QTRY_COMPARE(named<QTableWidget>(*w, "Storeys of the simplified model")->rowCount(), 1);
    click(named<QPushButton>(*w, "Back to the source"));
    QVERIFY(w->document().project().rooms.empty() && !layered(*w, "20 Glazing")->ghost);
  }

  void whatCannotBeTracedIsSaid() {
    auto w = openWindow();
    click(named<QPushButton>(*w, "Start with an empty site"));
    w->action("Trace a simplified model")->trigger();
    QTRY_VERIFY(named<QLabel>(*w, "Source of the simplified model")->text().contains("nothing to trace"));
    QVERIFY(!named<QPushButton>(*w, "Create")->isEnabled());
    QTest::keyClick(named(*w, "Simplified model panel"), Qt::Key_Escape);
    QVERIFY(!named(*w, "Simplified model panel")->isVisible());
  }
};

QTEST_MAIN(TestModelsWindow)
#include "tst_models_window.moc"
