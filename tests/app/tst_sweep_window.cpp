// Trying many designs as a user does: what is varied and looked at chosen and typed, run, read, stopped; the best made
// an option; the least change found.

#ifndef Q_MOC_RUN
#include "app/panels/beside_panel.h"
#include "app/panels/sweep_desk.h"
#include "core/files/save_file.h"
#include "core/model/options.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <QFileDialog>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
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

  /// A sweep of the window's share, run and read: its rows in the order of the values.
  std::unique_ptr<MainWindow> ranWindows() {
    Project p = project_;
    Sweep s;
    s.id = {72};
    s.name = "Windows";
    Variable v;
    v.name = "glass";
    v.at = {"window-rules/Window/ratio"};
    v.range = VaryRange{0.2, 0.6, 0.2};
    s.variables = {v};
    s.outcomes = {{"mean", SweepOutcome::Of::Study, "Hall's year", "mean", ""}};
    s.goals = {{"mean", SweepGoal::Kind::Most, 0}};
    p.sweeps = {s};
    p.studies[0].year.stopFor = StopFor::Nothing; // or designs beside each other run on to as many rays each
    auto w = openWindow();
    w->document().startNew(p);
    SweepDesk* d = desk(*w);
    press(*w, "Run the sweep");
    if (!QTest::qWaitFor([&] { return !d->busy() && d->table() && d->table()->rows.size() == 3; }, 120000))
      qFatal("the sweep did not end");
    return w;
  }
  /// The row of a share of glass.
  static std::size_t rowOf(MainWindow& w, double glass) {
    const auto table = named<SweepDesk>(w, "Many designs panel")->table();
    for (std::size_t k = 0; k < table->rows.size(); ++k)
      if (std::get<double>(table->rows[k].values[0]) == glass) return k;
    qFatal("no such run");
    return 0;
  }
  static void chooseRow(MainWindow& w, double glass) {
    const int row = int(rowOf(w, glass));
    auto* rows = named<QTableWidget>(w, "Runs of the sweep");
    rows->scrollToItem(rows->item(row, 1));
    QTest::mouseClick(rows->viewport(), Qt::LeftButton, {}, rows->visualItemRect(rows->item(row, 1)).center());
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
  void aRunIsShownInEveryViewAndNothingChangesMeanwhile() {
    auto w = ranWindows();
    Document& d = w->document();
    // The table sorted by the glass: 0.2, 0.4, 0.6 from top to bottom.
    auto* rows = named<QTableWidget>(*w, "Runs of the sweep");
    auto* heads = rows->horizontalHeader();
    for (int k = 0; k < 2 && rows->item(0, 1)->text() != "0.2"; ++k)
      QTest::mouseClick(heads->viewport(), Qt::LeftButton, {},
                        {heads->sectionViewportPosition(1) + 20, heads->height() / 2});
    QCOMPARE(rows->item(0, 1)->text(), QString("0.2"));
    QTest::mouseClick(rows->viewport(), Qt::LeftButton, {}, rows->visualItemRect(rows->item(2, 1)).center());
    press(*w, "Show the run");
    QVERIFY(d.showing());
    QCOMPARE(d.project().windowRules[0].ratio, 0.6);
    QCOMPARE(d.own().windowRules[0].ratio, project_.windowRules[0].ratio);
    auto* shown = named<QLabel>(*w, "Design shown");
    QVERIFY2(shown->isVisible() &&
                 shown->text().startsWith(QString("Run %1 of Windows: glass 0.6").arg(rowOf(*w, 0.6) + 1)),
             qPrintable(shown->text()));
    // Its year was run: it is there at once, and is that of the row.
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    QTRY_VERIFY_WITH_TIMEOUT(w->studies().current() && w->studies().current()->year, 20000);
    const auto table = named<SweepDesk>(*w, "Many designs panel")->table();
    QCOMPARE(w->studies().current()->year->building.meanLux, table->rows[rowOf(*w, 0.6)].figures[0].value);
    // The one before it; nobody can type into what is only shown.
    click(named<QPushButton>(*w, "Show the run before"));
    QTRY_COMPARE(d.project().windowRules[0].ratio, 0.4);
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    fill(*w, "Name of the shade", "Brim");
    QVERIFY(d.showing());
    QCOMPARE(d.own().shadeRules[0].name, std::string("Overhang"));
    QVERIFY(named<QLabel>(*w, "Notice")->text().contains("only shown"));
    // Back: the project as it was, nothing to undo, the desk again.
    click(named<QPushButton>(*w, "Back from the design shown"));
    QVERIFY(!d.showing() && !shown->isVisible());
    QCOMPARE(d.project().windowRules[0].ratio, project_.windowRules[0].ratio);
    QVERIFY(named<SweepDesk>(*w, "Many designs panel")->isVisible());
    QVERIFY(!d.canUndo());
    // From what is shown an option; a record is never of what is only shown.
    press(*w, "Show the run");
    QTest::keyClick(w.get(), Qt::Key_7, Qt::AltModifier);
    QTRY_VERIFY(!d.showing());
    QTest::keyClick(w.get(), Qt::Key_T, Qt::ControlModifier | Qt::ShiftModifier);
    press(*w, "Show the run");
    click(named<QPushButton>(*w, "Make the shown design an option"));
    QVERIFY(!d.showing());
    QCOMPARE(d.project().options.size(), std::size_t(2));
    QCOMPARE(d.project().windowRules[0].ratio, 0.4);
  }
  void runsAreLaidBesideTheProjectInAnOrderOfTheirOwn() {
    auto w = ranWindows();
    Document& d = w->document();
    for (const double glass : {0.6, 0.2}) {
      chooseRow(*w, glass);
      press(*w, "Lay the run beside others");
    }
    press(*w, "Lay the run beside others"); // the same again
    QVERIFY(named<QLabel>(*w, "State of the sweep")->text().contains("already"));
    QCOMPARE(d.project().beside.size(), std::size_t(3));
    w->action("Compare options")->trigger();
    auto* panel = named<BesidePanel>(*w, "Comparison panel");
    QTRY_VERIFY_WITH_TIMEOUT(!panel->busy() && panel->found(), 120000);
    QCOMPARE(panel->found()->designs.size(), std::size_t(3));
    auto* figures = named<QTableWidget>(*w, "Figures that moved");
    QCOMPARE(figures->columnCount(), 3 + 1 + 2 * 3);
    const auto table = named<SweepDesk>(*w, "Many designs panel")->table();
    const auto mean = [&](std::size_t design) {
      for (const BesideFigure& f : panel->found()->figures)
        if (f.figure == "mean" && f.space.empty()) return f.of[design].value;
      return double(NAN);
    };
    QCOMPARE(mean(1), table->rows[rowOf(*w, 0.6)].figures[0].value);
    QCOMPARE(mean(2), table->rows[rowOf(*w, 0.2)].figures[0].value);
    QVERIFY(!named<QLabel>(*w, "Plans and difference")->pixmap().isNull());
    // The second one place up: it is what the others are measured against now, and undo takes it back.
    auto* designs = named<QListWidget>(*w, "Designs in order");
    QTest::mouseClick(designs->viewport(), Qt::LeftButton, {}, designs->visualItemRect(designs->item(1)).center());
    click(named<QPushButton>(*w, "Design sooner"));
    QCOMPARE(std::get<double>(d.project().beside[0].values[0].second), 0.6);
    QVERIFY(named<QLabel>(*w, "About the comparison")->text().contains("again"));
    press(*w, "Lay them beside each other");
    QTRY_VERIFY_WITH_TIMEOUT(!panel->busy(), 120000);
    QCOMPARE(mean(0), table->rows[rowOf(*w, 0.6)].figures[0].value);
    choose(*w, "Shown of the designs", "bars");
    // Saved as table, workbook and page; a folder that is not there is told.
    for (const char* name : {"beside.csv", "beside.xlsx", "beside.png"}) {
      panel->saveTo(folder_.filePath(name));
      QTRY_VERIFY_WITH_TIMEOUT(!panel->busy(), 30000);
      QVERIFY2(QFileInfo(folder_.filePath(name)).size() > 300, name);
    }
    panel->saveTo("/no/such/folder/beside.csv");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "About the comparison")->text().startsWith("Not saved."), 20000);
    d.undo();
    QCOMPARE(d.project().beside[0], DesignRef{});
    // Left out, down to one: then there is nothing to compare.
    click(named<QPushButton>(*w, "Leave the design out"));
    click(named<QPushButton>(*w, "Leave the design out"));
    QCOMPARE(d.project().beside.size(), std::size_t(1));
    QVERIFY(!named<QPushButton>(*w, "Leave the design out")->isEnabled());
    press(*w, "Lay them beside each other");
    QVERIFY(named<QLabel>(*w, "About the comparison")->text().contains("one design alone"));
  }
  void whatIsSelectedIsVaried() {
    auto w = openWindow();
    w->document().startNew(project_);
    w->action("Vary what is selected")->trigger();
    QVERIFY(named<QLabel>(*w, "State of the sweep")->text().contains("Select a mass"));
    w->document().look([](Looking& l) { l.selected = {ElementId{10}}; });
    w->action("Vary what is selected")->trigger();
    auto* menu = named<QPushButton>(*w, "Vary this")->menu();
    QTRY_VERIFY(menu->isVisible());
    QStringList who;
    for (QAction* a : menu->actions()) who << a->text();
    QVERIFY2(who.contains("Overhang") && who.contains("Window") && who.contains("Hall") && !who.contains("Hall's year"),
             qPrintable(who.join(", ")));
    QTest::keyClick(menu, Qt::Key_Escape);
    QTRY_VERIFY(!menu->isVisible());
    // From the sheet: a rule's own.
    named<SweepDesk>(*w, "Many designs panel")->hide();
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    press(*w, "Vary this shading …");
    QTRY_VERIFY(menu->isVisible());
    QCOMPARE(menu->actions().size(), 1);
    QCOMPARE(menu->actions()[0]->text(), QString("Overhang"));
    QTest::keyClick(menu, Qt::Key_Escape);
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
