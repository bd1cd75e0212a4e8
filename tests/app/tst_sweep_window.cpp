// Trying many designs as a user does: what is varied and looked at chosen and typed, run, read, stopped; the best made
// an option; the least change found.

#ifndef Q_MOC_RUN
#include "app/panels/sweep_desk.h"
#include "core/files/save_file.h"
#include "core/model/options.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <QFileDialog>
#include <QLabel>
#include <QMenu>
#include <QTableWidget>
#endif

using namespace noonward;
using namespace noonward::test;

class TestSweepWindow : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  Project project_ = [] {
    Project p = houseOfTheYear(1.5);
    ShadeRule s;
    s.id = {50};
    s.name = "Overhang";
    s.facings = {Facing::South};
    s.depth = 0.4;
    p.shadeRules.push_back(s);
    Study year;
    year.id = {60};
    year.kind = StudyKind::Year;
    year.name = "Hall's year";
    year.year.error = 0.3;
    p.studies.push_back(year);
    return p;
  }();
  static SweepDesk* desk(MainWindow& w) {
    QTest::keyClick(&w, Qt::Key_T, Qt::ControlModifier | Qt::ShiftModifier);
    return named<SweepDesk>(w, "Many designs panel");
  }
  /// Types into a cell as a user does: double click, text, Enter.
  static void type(MainWindow& w, const char* table, int row, int column, const QString& text, bool taken = true) {
    auto* t = named<QTableWidget>(w, table);
    const quint64 before = w.document().revision();
    t->scrollToItem(t->item(row, column));
    const QPoint at = t->visualItemRect(t->item(row, column)).center();
    QTest::mouseClick(t->viewport(), Qt::LeftButton, {}, at);
    QTest::mouseDClick(t->viewport(), Qt::LeftButton, {}, at);
    QLineEdit* editor = nullptr;
    QTRY_VERIFY_WITH_TIMEOUT((editor = t->viewport()->findChild<QLineEdit*>()) && editor->isVisible(), 5000);
    editor->selectAll();
    QTest::keyClicks(editor, text);
    if (text.isEmpty()) QTest::keyClick(editor, Qt::Key_Delete);
    QTest::keyClick(editor, Qt::Key_Return);
    if (taken) QTRY_VERIFY_WITH_TIMEOUT(w.document().revision() != before, 5000);
  }

  /// Opens a menu button and chooses an entry of one of its submenus, by mouse.
  static void offer(MainWindow& w, const QString& button, const QString& who, const QString& what) {
    auto* b = named<QPushButton>(w, button);
    reveal(b);
    const auto entry = [](QMenu* m, const QString& text) -> QAction* {
      for (QAction* a : m->actions())
        if (a->text() == text) return a;
      qFatal("no entry \"%s\"", qPrintable(text));
      return nullptr;
    };
    QTimer::singleShot(0, b, [=] { // an open menu keeps the click that opened it
      QMenu* menu = b->menu();
      QVERIFY(QTest::qWaitFor([&] { return menu->isVisible(); }, 5000));
      QAction* under = entry(menu, who);
      QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(under).center());
      QVERIFY(QTest::qWaitFor([&] { return under->menu()->isVisible(); }, 5000));
      QTest::mouseClick(under->menu(), Qt::LeftButton, {},
                        under->menu()->actionGeometry(entry(under->menu(), what)).center());
    });
    QTest::mouseClick(b, Qt::LeftButton);
    QCoreApplication::processEvents();
  }

private slots:
  void aSweepIsAskedRunAndReadAndItsBestTaken() {
    auto w = openWindow();
    w->document().startNew(project_);
    SweepDesk* d = desk(*w);
    QTRY_VERIFY(d->isVisible());
    QVERIFY(!named<QPushButton>(*w, "Make it an option")->isEnabled());
    offer(*w, "Vary this", "Overhang", "depth");
    offer(*w, "Vary this", "Window", "share of glass");
    offer(*w, "Look at this", "Hall's year", "mean illuminance, lx");
    offer(*w, "Look at this", "Hall's year", "ASE, %");
    const auto sweep = [&]() -> const Sweep& { return w->document().project().sweeps.at(0); };
    QCOMPARE(sweep().variables.size(), std::size_t(2));
    QCOMPARE(sweep().outcomes.size(), std::size_t(2));
    type(*w, "Variables", 0, 0, "depth");
    type(*w, "Variables", 0, 2, "0.2, 1.4");
    type(*w, "Variables", 1, 0, "glass");
    type(*w, "Variables", 1, 2, "0.2 to 0.4 by 0.1");
    type(*w, "Outcomes", 0, 2, "most");
    type(*w, "Outcomes", 1, 2, "at most 60");
    QCOMPARE(sweep().variables[0].name, std::string("depth"));
    QVERIFY(sweep().variables[1].range && sweep().variables[1].range->to == 0.4);
    QCOMPARE(sweep().goals.size(), std::size_t(2));
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "Cost of the sweep")->text().startsWith("6 runs of 6"), 20000);
    // What can't be is told, and nothing of it is taken.
    type(*w, "Outcomes", 1, 2, "rather little", false);
    QTRY_VERIFY(named<QLabel>(*w, "State of the sweep")->text().contains("no goal"));
    QCOMPARE(sweep().goals.size(), std::size_t(2));
    fill(*w, "Conditions", "depth + glas < 1.75");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "Cost of the sweep")->text().contains("can't be read"), 20000);
    fill(*w, "Conditions", "depth + glass < 1.75");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "Cost of the sweep")->text().startsWith("5 runs of 6"), 20000);

    press(*w, "Run the sweep");
    QVERIFY(named<QPushButton>(*w, "Enough of the sweep")->isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(!d->busy(), 120000);
    QVERIFY2(d->table() && d->table()->rows.size() == 5, qPrintable(named<QLabel>(*w, "State of the sweep")->text()));
    auto* rows = named<QTableWidget>(*w, "Runs of the sweep");
    QCOMPARE(rows->rowCount(), 5);
    const QString said = named<QLabel>(*w, "What the sweep says")->text();
    QVERIFY2(said.startsWith("Most mean illuminance with run"), qPrintable(said));
    // The chosen run is the best: much glass behind a shallow overhang, or what its bound leaves.
    const auto best = bestOf(*d->table());
    QCOMPARE(best.size(), std::size_t(1));
    for (const SweepRow& r : d->table()->rows)
      if (meetsBounds(*d->table(), r)) QVERIFY(r.figures[0].value <= d->table()->rows[best[0].row].figures[0].value);
    // A click in the table chooses another, and is drawn; across all axes it is found again.
    choose(*w, "Chart of the sweep", "every run, a line");
    auto* chart = named<SweepChart>(*w, "Chart of the runs");
    const SweepMap map(*d->table(), chart->view(), chart->area());
    const std::size_t other = best[0].row == 0 ? 1 : 0;
    for (std::size_t r = 0; r < 5; ++r) {
      const QPointF a = map.place(r, 2), b = map.place(r, 3), middle = (a + b) / 2;
      const auto found = map.rowAt(middle);
      QVERIFY(found);
      QTest::mouseClick(chart, Qt::LeftButton, {}, middle.toPoint());
      QVERIFY(chart->view().chosen == *map.rowAt(middle.toPoint()));
    }
    QTest::mouseClick(rows->viewport(), Qt::LeftButton, {}, rows->visualItemRect(rows->item(int(other), 1)).center());
    QTRY_VERIFY(chart->view().chosen.has_value());
    // Along an axis a stretch is picked: the upper half of the glass; a click lets go.
    const SweepAxis& axis = map.axes()[1];
    drag(chart, {axis.x, axis.top - 4}, {axis.x, axis.top + 4});
    QTRY_VERIFY(named<QLabel>(*w, "State of the sweep")->text().contains("within what is picked"));
    std::size_t kept = 0;
    for (std::size_t r = 0; r < 5; ++r) kept += SweepMap(*d->table(), chart->view(), chart->area()).kept(r);
    std::size_t most = 0;
    for (const SweepRow& r : d->table()->rows) most += std::get<double>(r.values[1]) == 0.4;
    QCOMPARE(kept, most);
    QTest::mouseClick(chart, Qt::LeftButton, {}, QPoint(int(axis.x), int(axis.bottom) - 3));
    QTRY_VERIFY(!chart->view().picked[1]);
    // Taken as an option, with the project's own design untouched; one step of undo.
    const std::size_t chosen = *chart->view().chosen;
    press(*w, "Make it an option");
    const Project& p = w->document().project();
    QCOMPARE(p.options.size(), std::size_t(2));
    QCOMPARE(p.shadeRules[0].depth, std::get<double>(d->table()->rows[chosen].values[0]));
    QCOMPARE(withOption(p, 0).shadeRules[0].depth, 0.4);
    w->document().undo();
    QVERIFY(w->document().project().options.empty());
    // Saved, as table and as picture.
    const QString csv = folder_.filePath("sweep.csv"), png = folder_.filePath("sweep.png");
    for (const QString& path : {csv, png}) {
      d->saveTo(path);
      QTRY_VERIFY_WITH_TIMEOUT(!d->busy(), 20000);
      QVERIFY2(QFileInfo(path).size() > 200, qPrintable(named<QLabel>(*w, "State of the sweep")->text()));
    }
    QImage page(png);
    QVERIFY(page.width() > 900 && page.height() > 600);
    d->saveTo("/no/such/folder/sweep.csv");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "State of the sweep")->text().startsWith("Not saved."), 20000);
  }
  void enoughKeepsWhatIsThereAndTheWindowLivesOn() {
    Project p = project_;
    Sweep s;
    s.id = {70};
    s.name = "Long";
    Variable v;
    v.name = "depth";
    v.at = {"shading/Overhang/depth"};
    v.range = VaryRange{0, 3, 0.01};
    s.variables = {v};
    s.outcomes = {{"mean", SweepOutcome::Of::Study, "Hall's year", "mean", ""}};
    p.sweeps = {s};
    auto w = openWindow();
    w->document().startNew(p);
    SweepDesk* d = desk(*w);
    press(*w, "Run the sweep");
    QTRY_VERIFY_WITH_TIMEOUT(d->table() && d->table()->rows.size() >= 2, 60000);
    QVERIFY(d->busy());
    // It is a panel beside the rest: another step opens while it runs.
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    press(*w, "Enough of the sweep");
    QTRY_VERIFY_WITH_TIMEOUT(!d->busy(), 30000);
    QVERIFY(d->table()->rows.size() >= 2 && d->table()->rows.size() < 301);
    QVERIFY(!named<QPushButton>(*w, "Enough of the sweep")->isVisible());
    QVERIFY(named<QLabel>(*w, "What the sweep says")->text().contains("No goal is set"));
  }
  void theLeastChangeIsFoundAndTaken() {
    Project p = project_;
    Sweep s;
    s.id = {71};
    s.name = "Enough glass";
    Variable v;
    v.name = "glass";
    v.at = {"window-rules/Window/ratio"};
    v.range = VaryRange{0.2, 0.8, 0.05};
    s.variables = {v};
    s.outcomes = {{"area", SweepOutcome::Of::Model, "", "glass-area", ""}};
    s.goals = {{"area", SweepGoal::Kind::AtLeast, 9}}; // of a wall of 6.4 × 3 m: 47 %
    p.sweeps = {s};
    auto w = openWindow();
    w->document().startNew(p);
    SweepDesk* d = desk(*w);
    press(*w, "Find the least change");
    QTRY_VERIFY_WITH_TIMEOUT(!d->busy() && d->least(), 60000);
    QVERIFY2(d->least()->found, d->least()->text.c_str());
    QVERIFY2(named<QLabel>(*w, "What the sweep says")->text().startsWith("glass 0.35 → 0.5"), d->least()->text.c_str());
    press(*w, "Make it an option");
    QCOMPARE(w->document().project().options.at(1).name, std::string("Least change"));
    QCOMPARE(w->document().project().windowRules[0].ratio, 0.5);
    // A sweep taken away; undo brings it back.
    press(*w, "Remove this sweep");
    QVERIFY(w->document().project().sweeps.empty());
    w->document().undo();
    QCOMPARE(w->document().project().sweeps.size(), std::size_t(1));
  }
};

QTEST_MAIN(TestSweepWindow)
#include "tst_sweep_window.moc"
