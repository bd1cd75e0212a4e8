// A second stage beside the first: another option with its result, a moment of its own, plan beside solid; turned
// together, looked at and not changed where it is another option. Real mouse and key events.

#include "core/files/project/project_file.h"
#include "core/geometry/polygon.h"
#include "core/model/options.h"
#include "tests/app/driver.h"
#include <QDir>
#include <QLabel>
#include <QListWidget>
#include <QTemporaryDir>

using namespace noonward;
using namespace noonward::test;

class TestSecondStage : public QObject {
  Q_OBJECT
  Flow flow_;

  MainWindow& w() { return *flow_.w; }
  Stage& second() { return w().second().stage(); }
  QString caption() { return named<QLabel>(w(), "Shown beside")->text(); }
  bool answered() {
    return QTest::qWaitFor([&] { return second().sight().answer() && !w().studies().busy(); }, 30000);
  }
  /// Where the roof of the proposal shows.
  QPointF roof() {
    for (const ElementPtr& e : w().document().project().elements)
      if (const Mass* m = e->mass(); m && e->proposed) {
        const Vec2 in = pointInside(m->outline);
        return *second().pixelOf({in.x, in.y, m->base + m->height});
      }
    qFatal("nothing is proposed");
  }
  static void orbit(Stage& s, QPointF by) { drag(&s, {40, 200}, QPointF(40, 200) + by, Qt::RightButton); }

private slots:
  void cleanup() { flow_.after(); }
  void cleanupTestCase() { flow_.w.reset(); }

  void anotherOptionStandsBesideWithItsResult() {
    flow_.begin();
    QVERIFY(w().openProject(demoCopy()));
    QTest::keyClick(&w(), Qt::Key_5, Qt::AltModifier);
    QTRY_VERIFY_WITH_TIMEOUT(w().studies().current() != nullptr, 30000);
    const int wide = w().stage().width();
    QVERIFY(!w().second().isVisible());
    QTest::keyClick(&w(), Qt::Key_7, Qt::ControlModifier);
    QTRY_VERIFY(w().second().isVisible());
    QVERIFY(w().stage().width() < 0.6 * wide && second().width() > 0.4 * wide);
    QTRY_COMPARE(caption(), QString("B Deep fins"));
    QVERIFY(second().sight().ofOtherOption());
    QVERIFY(answered());
    // Without the proposal in B the square has its sun there, and not in A.
    QCOMPARE(second().sight().answer()->painted->values(), w().studies().current()->painted->values());
    w().document().change(withOption(w().document().project(), 1), "Choose B");
    Project without = w().document().project();
    std::erase_if(without.elements, [](const ElementPtr& e) { return e->proposed; });
    w().document().change(without, "Take away");
    QTRY_VERIFY_WITH_TIMEOUT(w().studies().current() && !w().studies().busy(), 30000);
    const auto free = w().studies().current()->painted->values();
    w().document().change(withOption(w().document().project(), 0), "Choose A");
    QTRY_VERIFY(second().sight().ofOtherOption());
    QTRY_VERIFY_WITH_TIMEOUT(w().studies().current() && w().studies().current()->painted->values() != free, 30000);
    QVERIFY(answered());
    QCOMPARE(second().sight().answer()->painted->values(), free);
    QVERIFY(second().sight().project().elements.size() < w().document().project().elements.size());
    w().document().undo();                          // B in hand
    QTRY_VERIFY(!second().sight().ofOtherOption()); // both show B now
    QCOMPARE(caption(), QString("B Deep fins"));
    while (w().document().canUndo()) w().document().undo();
    QTRY_VERIFY(second().sight().ofOtherOption());
  }

  void seenAlikeBothTurn() {
    FOLLOWS_ON(flow_);
    QCOMPARE(second().camera(), w().stage().camera());
    const Camera was = w().stage().camera();
    orbit(w().stage(), {60, 10});
    QVERIFY(w().stage().camera() != was);
    QCOMPARE(second().camera(), w().stage().camera());
    const Camera then = second().camera();
    orbit(second(), {-30, 0});
    QVERIFY(second().camera() != then);
    QCOMPARE(second().camera(), w().stage().camera());
    // Seen in its own way it stays where it is.
    choose(w(), "Second stage seen", "plan");
    QCOMPARE(second().camera().kind, ViewKind::Plan);
    QCOMPARE(w().stage().camera().kind, ViewKind::Solid);
    const Camera plan = second().camera();
    orbit(w().stage(), {20, 0});
    QCOMPARE(second().camera(), plan);
    // The keys of views are those of the stage that has the focus.
    second().setFocus();
    QTest::keyClick(&second(), Qt::Key_1, Qt::ControlModifier);
    QTRY_COMPARE(second().camera().kind, ViewKind::Solid);
    QCOMPARE(named<QComboBox>(w(), "Second stage seen")->currentText(), QString("solid"));
    w().stage().setFocus();
    QTest::keyClick(&w().stage(), Qt::Key_2, Qt::ControlModifier);
    QTRY_COMPARE(w().stage().camera().kind, ViewKind::Plan);
    QCOMPARE(second().camera().kind, ViewKind::Solid);
    QTest::keyClick(&w().stage(), Qt::Key_1, Qt::ControlModifier);
  }

  void anotherOptionIsLookedAtAndNotChanged() {
    FOLLOWS_ON(flow_);
    choose(w(), "Second stage seen", "plan");
    const auto revision = w().document().revision();
    const QPointF block = roof();
    clickAt(&second(), block);
    QVERIFY(w().document().looking().selected.empty());
    QTRY_VERIFY(named<QLabel>(w(), "Notice")->text().contains("Choose it above"));
    drag(&second(), block, block + QPointF(0, 30)); // pans
    QTest::keyClicks(&second(), "12");
    QTest::keyClick(&second(), Qt::Key_Return);
    QCOMPARE(w().document().revision(), revision);
  }

  void aYearNotRunSaysSo() {
    FOLLOWS_ON(flow_);
    choose(w(), "Study", "Library year");
    QTRY_VERIFY(named<QLabel>(w(), "Shown")->text().size() > 0);
    QTRY_VERIFY_WITH_TIMEOUT(second().sight().wanting().startsWith("not run for this option"), 10000);
    QVERIFY(!second().sight().answer());
    choose(w(), "Study", "Square in spring");
    QVERIFY(answered());
    // Other units there too.
    choose(w(), "Study", "Library daylight");
    QTRY_VERIFY_WITH_TIMEOUT(second().sight().answer() || !second().sight().wanting().isEmpty(), 60000);
    choose(w(), "Study", "Square in spring");
    QVERIFY(answered());
  }

  void aMomentOfItsOwnStays() {
    FOLLOWS_ON(flow_);
    choose(w(), "Second stage shows", "a moment of its own");
    QVERIFY(!second().sight().ofOtherOption());
    const Instant then = w().document().looking().moment;
    QCOMPARE(second().sight().looking().moment, then);
    const QString line = named<QLabel>(w(), "Shown")->text();
    QTest::keyClick(w().almanac().plot(), Qt::Key_Right);
    QTRY_VERIFY(w().document().looking().moment != then);
    QCOMPARE(second().sight().looking().moment, then);
    // Its sun is grabbed by itself.
    const Instant here = w().document().looking().moment;
    second().sight().chooseMoment(then + 7200.0);
    QCOMPARE(w().document().looking().moment, here);
    QCOMPARE(second().sight().looking().moment, then + 7200.0);
    choose(w(), "Second stage shows", "the same");
    QCOMPARE(second().sight().looking().moment, here);
  }

  void theSameDesignIsChangedOnEither() {
    FOLLOWS_ON(flow_);
    choose(w(), "Second stage seen", "plan");
    clickAt(&second(), roof());
    QTRY_COMPARE(w().document().looking().selected.size(), std::size_t(1));
    QTest::keyClick(&second(), Qt::Key_Escape);
    QTRY_VERIFY(w().document().looking().selected.empty());
  }

  void anotherProjectHasNoSuchOption() {
    FOLLOWS_ON(flow_);
    choose(w(), "Second stage shows", "B Deep fins");
    QVERIFY(second().sight().ofOtherOption());
    QVERIFY(w().openProject(demoCopy("tarrow-green.noonward")));
    QTRY_VERIFY(!second().sight().ofOtherOption());
    QCOMPARE(named<QComboBox>(w(), "Second stage shows")->count(), 2);
    QVERIFY(caption().size() > 0);
    click(named<QPushButton>(w(), "Close the second stage"));
    QTRY_VERIFY(!w().second().isVisible());
    QVERIFY(!named<QPushButton>(w(), "Two stages")->isChecked());
    // Without options the plan stands beside the solid.
    click(named<QPushButton>(w(), "Two stages"));
    QTRY_VERIFY(w().second().isVisible());
    QCOMPARE(second().camera().kind, ViewKind::Plan);
  }

  void viewsAreKeptComeBackAndLeaveAsSheetsAndFilms() {
    QTemporaryDir d;
    auto own = openWindow();
    MainWindow& m = *own;
    QVERIFY(m.openProject(demoCopy()));
    auto* panel = m.findChild<PicturesPanel*>();
    const auto views = [&]() -> const std::vector<SavedView>& { return m.document().project().views; };
    // Kept by a key, with its moment and option; another from elsewhere.
    orbit(m.stage(), {120, 30});
    const Camera first = m.stage().camera();
    m.document().look([&](Looking& l) {
      l.moment = m.document().project().zone().instant({{2026, 6, 21}, 10 * 3600});
    });
    const Instant then = m.document().looking().moment;
    QTest::keyClick(&m, Qt::Key_S, Qt::ControlModifier | Qt::AltModifier);
    QCOMPARE(views().size(), std::size_t(1));
    m.document().change(withOption(m.document().project(), 1), "Choose option");
    QTest::keyClick(&m, Qt::Key_2, Qt::ControlModifier); // plan
    m.document().look([&](Looking& l) { l.moment = then + 4 * 3600; });
    m.action("Views, sheets and films")->trigger();
    QVERIFY(panel->isVisible());
    click(named<QPushButton>(*panel, "Save this view"));
    QCOMPARE(views().size(), std::size_t(2));
    auto* list = named<QListWidget>(*panel, "Saved views");
    QCOMPARE(list->count(), 2);
    // Back, from anywhere: camera, moment, option.
    QTest::keyClick(&m, Qt::Key_1, Qt::ControlModifier | Qt::AltModifier);
    QCOMPARE(m.document().project().option, std::size_t(0));
    QVERIFY(std::abs(m.document().looking().moment - then) < 1);
    const Camera& now = m.stage().camera();
    QVERIFY(now.kind == first.kind && length(now.target - first.target) < 1e-6 &&
            std::abs(wrapPi(now.azimuth - first.azimuth)) < 1e-9 && std::abs(now.height - first.height) < 1e-6);
    QTest::keyClick(&m, Qt::Key_9, Qt::ControlModifier | Qt::AltModifier); // there is none: said, nothing moves
    QVERIFY(m.stage().camera() == first || m.stage().camera().kind == first.kind);
    // Undone and done again like all else; a file keeps them.
    m.document().undo();
    QTRY_VERIFY(views().size() <= 2);
    m.document().redo();
    QVERIFY(m.document().save(d.filePath("v.noonward").toStdString()));
    const auto read = readProject(d.filePath("v.noonward").toStdString());
    QVERIFY(read && read->project.views.size() == 2 && read->project.views[0].camera == views()[0].camera &&
            read->project.views[0].moment == views()[0].moment);
    // A sheet and a short film, in the background; wrong fields are named and nothing is written.
    choose(*panel, "Sides of the sheet", "south");
    fill(*panel, "Days of the sheet", "31 Feb");
    panel->exportTo("sheet", d.filePath("no.pdf"));
    QVERIFY(!panel->writer().busy());
    QVERIFY(named<QLabel>(*panel, "State of the pictures")->text().contains("days such as"));
    fill(*panel, "Days of the sheet", "21 Jun");
    fill(*panel, "Hours of the sheet", "10, 14:30");
    panel->exportTo("sheet", d.filePath("sheet.pdf"));
    QVERIFY(panel->writer().busy());
    QTRY_VERIFY_WITH_TIMEOUT(!panel->writer().busy(), 60000);
    QVERIFY(QFileInfo(d.filePath("sheet.pdf")).size() > 10000);
    choose(*panel, "What the film shows", "a way along the saved views");
    fill(*panel, "Step of the film", "3");
    fill(*panel, "Width of the film", "320");
    fill(*panel, "Height of the film", "200");
    panel->exportTo("film-pictures", d.filePath("way.pictures"));
    QTRY_VERIFY_WITH_TIMEOUT(!panel->writer().busy(), 60000);
    QCOMPARE(QDir(d.filePath("way.pictures")).entryList({"*.png"}).size(), 4);
    // Stopped: said so.
    choose(*panel, "What the film shows", "the year at this hour");
    fill(*panel, "Step of the film", "1");
    panel->exportTo("film-pictures", d.filePath("year.pictures"));
    click(named<QPushButton>(*panel, "Stop writing pictures"));
    QTRY_VERIFY_WITH_TIMEOUT(!panel->writer().busy(), 60000);
    QVERIFY(named<QLabel>(*panel, "State of the pictures")->text().contains("stopped"));
    list->setCurrentRow(0);
    click(named<QPushButton>(*panel, "Delete view"));
    QCOMPARE(views().size(), std::size_t(1));
    QTest::keyClick(panel, Qt::Key_Escape);
    QVERIFY(!panel->isVisible());
  }
};

QTEST_MAIN(TestSecondStage)
#include "tst_second_stage.moc"
