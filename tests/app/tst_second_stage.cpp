// A second stage beside the first: another option with its result, a moment of its own, plan beside solid; turned
// together, looked at and not changed where it is another option. Real mouse and key events.

#include "core/geometry/polygon.h"
#include "core/model/options.h"
#include "tests/app/driver.h"
#include <QLabel>

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
};

QTEST_MAIN(TestSecondStage)
#include "tst_second_stage.moc"
