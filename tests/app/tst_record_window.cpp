// Solar access from the model to the hand-in, by mouse and keyboard: the proposal marked, dwellings made, the rule
// laid, those that fall short found in the table, the record put together, made and checked; a remark answered, and the
// second record compared with the first.

#ifndef Q_MOC_RUN
#include "app/steps/record_plan_rows.h"
#include "core/runs/record/record.h"
#include "tests/app/driver.h"
#include "tests/green.h"
#include <QAbstractItemModelTester>
#include <QAction>
#include <QFile>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPlainTextEdit>
#include <QTableView>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

/// A store of three storeys and a block to its south that nobody has marked yet.
Project row() {
  Project p;
  p.name = "Weavers' row";
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  putMass(p, 1, rectangle(-20, 22, 20, 32), 9, false);
  putMass(p, 2, rectangle(-15, -2, 15, 10), 16, false);
  return p;
}

/// Chooses from the menu of a button by its text.
void chooseFromMenu(QWidget& top, const QString& button, const QString& entry) {
  auto* b = named<QPushButton>(top, button);
  reveal(b);
  QTimer::singleShot(0, b, [b, entry] {
    QMenu* menu = b->menu();
    QVERIFY(QTest::qWaitFor([&] { return menu->isVisible(); }, 5000));
    for (QAction* a : menu->actions())
      if (a->text() == entry) return QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(a).center());
    menu->hide();
    qFatal("the menu has no entry \"%s\"", qPrintable(entry));
  });
  QTest::mouseClick(b, Qt::LeftButton);
  QCoreApplication::processEvents();
}

QStringList partsOf(QWidget& top) {
  QStringList out;
  auto* list = named<QListWidget>(top, "Parts of the record");
  for (int k = 0; k < list->count(); ++k) out << list->item(k)->text();
  return out;
}
void choosePart(QWidget& top, int row) {
  auto* list = named<QListWidget>(top, "Parts of the record");
  reveal(list);
  list->scrollToItem(list->item(row));
  QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(row)).center());
  QCoreApplication::processEvents();
}
void save(MainWindow& w, const QString& button, const QString& file) {
  QSignalSpy made(&w.record(), &RecordSheet::exported);
  press(w, button);
  answerFileDialog(w, file);
  QVERIFY(made.wait(120000) || made.count() > 0);
  QVERIFY2(made.at(0).at(1).toBool(), qPrintable(file));
}

class TestRecordWindow : public QObject {
  Q_OBJECT

private slots:
  void fromTheModelToTheSecondHandIn() {
    QTemporaryDir d;
    auto w = openWindow();
    w->document().startNew(row());
    const auto project = [&]() -> const Project& { return w->document().project(); };
    // The block is what is proposed.
    QTest::keyClick(w.get(), Qt::Key_2, Qt::AltModifier);
    w->document().look([](Looking& l) { l.selected = {ElementId{2}}; });
    choose(*w, "Status", "proposed");
    QVERIFY(project().element({2})->proposed);
    // Dwellings of the store, and the rule.
    w->document().look([](Looking& l) { l.selected = {ElementId{1}}; });
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    choose(*w, "Rule to meet", "Midwinter sun");
    press(*w, "Judge by this rule");
    const auto current = [&] { return w->studies().current(); };
    QTRY_VERIFY_WITH_TIMEOUT(current() && !current()->verdicts.empty(), 60000);
    const Verdict v = current()->verdicts[0].second;
    QVERIFY2(v.outcome == Outcome3::FallsShort, v.text.c_str());
    const std::size_t dwellings = v.rows.size();
    QCOMPARE(dwellings, std::size_t(2 * (5 + 5 + 1 + 1)));

    // The table: those that fall short on the south side, the one with least probed.
    w->action("Receivers")->trigger();
    auto* table = named<QTableView>(*w, "Receivers");
    QTRY_VERIFY_WITH_TIMEOUT(table->isVisible() && table->model()->rowCount() > 0, 20000);
    const int all = table->model()->rowCount();
    QVERIFY(all > int(dwellings));
    choose(*w, "Receivers with the outcome", "falls short");
    QTRY_VERIFY(table->model()->rowCount() < all && table->model()->rowCount() > 0);
    auto* words = named<QLineEdit>(*w, "Receivers with the words");
    words->setFocus();
    QTest::keyClicks(words, "south E1");
    const int short_ = table->model()->rowCount();
    QTRY_VERIFY(table->model()->rowCount() < short_);
    QVERIFY(table->model()->rowCount() > 0);
    for (int k = 0; k < table->model()->rowCount(); ++k)
      QVERIFY(table->model()->index(k, ReceiverModel::Dwelling).data().toString().contains(", south "));
    QTest::mouseClick(table->horizontalHeader()->viewport(), Qt::LeftButton, {},
                      QPoint(table->horizontalHeader()->sectionViewportPosition(ReceiverModel::Value) + 20, 8));
    for (int k = 1; k < table->model()->rowCount(); ++k) {
      const auto value = [&](int row) {
        return table->model()->index(row, ReceiverModel::Value).data(ReceiverModel::sortRole).toDouble();
      };
      QVERIFY(value(k) >= value(k - 1) || value(k) <= value(k - 1)); // sorted one way or the other
    }
    table->setFocus();
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, table->visualRect(table->model()->index(0, 1)).center());
    QTRY_VERIFY_WITH_TIMEOUT(w->studies().probeResult() != nullptr, 20000);
    QVERIFY(w->document().looking().probe && w->document().looking().probe->normal.y < -0.9);
    QTest::keyClick(named<QWidget>(*w, "Receivers panel"), Qt::Key_Escape);

    // The record: the study after the rule, words before, a shadow plan; one step back and forth.
    QTest::keyClick(w.get(), Qt::Key_7, Qt::AltModifier);
    QCOMPARE(partsOf(*w), (QStringList{"Midwinter sun  ·  rule", "Midwinter sun  ·  study"}));
    choosePart(*w, 0);
    auto* said = named<QPlainTextEdit>(*w, "Said before the part");
    reveal(said);
    QTest::mouseClick(said->viewport(), Qt::LeftButton);
    QTest::keyClicks(said, "The store was surveyed in May.");
    QTest::keyClick(said, Qt::Key_Tab);
    QTRY_VERIFY(!project().record.parts.empty());
    QCOMPARE(project().record.parts[0].text, std::string("The store was surveyed in May."));
    chooseFromMenu(*w, "Add a part", "Shadow plan");
    QCOMPARE(partsOf(*w).at(1), QString("Shadow plan 21 Mar"));
    fill(*w, "Day of the shadow plan", "32 Mar"); // said, and nothing lost
    QCOMPARE(project().record.parts[1].shadows.day, 21);
    fill(*w, "Day of the shadow plan", "21 Dec");
    fill(*w, "Shadow plan every, min", "120");
    QCOMPARE(project().record.parts[1].shadows.month, 12);
    QCOMPARE(project().record.parts[1].shadows.stepMinutes, 120.0);
    press(*w, "Sooner in the record");
    QCOMPARE(partsOf(*w).at(0), QString("Shadow plan 21 Dec"));
    w->document().undo();
    QCOMPARE(partsOf(*w).at(1), QString("Shadow plan 21 Dec"));
    w->document().redo();
    choosePart(*w, 0);
    press(*w, "Later in the record");
    QCOMPARE(partsOf(*w).at(1), QString("Shadow plan 21 Dec"));
    choose(*w, "Page size", "A3");
    QVERIFY(project().record.paper == Paper::A3);

    const QString first = d.filePath("first.record"), second = d.filePath("second.record");
    save(*w, "Make the record…", first);
    QVERIFY(QFile::exists(first + "/record.pdf") && QFile::exists(first + "/shadows-21-dec.geojson"));
    save(*w, "Check a record…", first + "/record.json");
    QVERIFY2(named<QLabel>(*w, "Record checked")->text().startsWith("The record holds"),
             qPrintable(named<QLabel>(*w, "Record checked")->text()));

    // A remark and its answer; the block made lower; the second record tells what changed.
    fill(*w, "Reviewer", "City");
    fill(*w, "Remark", "Lower it.");
    QCOMPARE(project().record.remarks.size(), std::size_t(1));
    fill(*w, "Answer: City: Lower it.", "By two storeys.");
    QCOMPARE(project().record.remarks[0].answer, std::string("By two storeys."));
    Project lower = project();
    Element e = *lower.element({2});
    Mass m = *e.mass();
    m.height = 2.5;
    e.shape = m;
    for (ElementPtr& x : lower.elements)
      if (x->id == e.id) x = std::make_shared<const Element>(e);
    w->document().change(std::move(lower), "Lower the block");
    press(*w, "Since an earlier record…");
    answerFileDialog(*w, first + "/record.json");
    QTRY_VERIFY(named<QLabel>(*w, "Compared with")->text().contains("first.record"));
    QSignalSpy told(&w->document(), &Document::notice);
    save(*w, "Make the record…", second);
    QVERIFY2(told.last().at(0).toString().contains("Since first.record"), qPrintable(told.last().at(0).toString()));
    const auto changes = recordChanges(first.toStdString(), second.toStdString());
    QVERIFY(changes.has_value());
    QCOMPARE(changes->inputs.size(), std::size_t(1));
    QVERIFY(!changes->receivers.empty());
    QVERIFY(!changes->verdicts.empty());
    press(*w, "Compare with none");
    QVERIFY(!named<QLabel>(*w, "Compared with")->isVisible());
    // A remark that is taken back.
    press(*w, "Remove remark: City: Lower it.");
    QVERIFY(project().record.remarks.empty());
  }

  void receiversComeFromATable() {
    QTemporaryDir d;
    auto w = openWindow();
    w->document().startNew(row());
    const auto project = [&]() -> const Project& { return w->document().project(); };
    QFile table(d.filePath("homes.csv"));
    QVERIFY(table.open(QIODevice::WriteOnly));
    table.write("name,x,y,z,azimuth,dwelling,subject\nW1,-10,21.9,1.6,180,Flat 1,living room\n"
                "W2,-6,21.9,1.6,180,Flat 1,living room\nW3,8,21.9,1.6,180,Flat 2,living room\n");
    table.close();
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    w->action("Receivers")->trigger();
    auto* view = named<QTableView>(*w, "Receivers");
    QTRY_VERIFY(view->isVisible());
    press(*w, "From a table …");
    answerFileDialog(*w, d.filePath("homes.csv"));
    QTRY_COMPARE_WITH_TIMEOUT(project().groups.size(), std::size_t(2), 20000);
    QTRY_COMPARE_WITH_TIMEOUT(view->model()->rowCount(), 3, 20000);
    QAbstractItemModelTester tester(view->model(), QAbstractItemModelTester::FailureReportingMode::QtTest);
    // A window more of the first flat becomes one of its own.
    view->selectRow(1);
    fill(*w, "Dwelling of the chosen", "Flat 3");
    choose(*w, "Subject of the chosen", "living room");
    press(*w, "Give to the chosen");
    QCOMPARE(project().groups.size(), std::size_t(3));
    QCOMPARE(project().groups[2].dwelling, std::string("Flat 3"));
    QTRY_VERIFY(named<QLabel>(*w, "Receivers shown")->text().startsWith("3 of 3"));
    w->document().undo();
    QCOMPARE(project().groups.size(), std::size_t(2));
    // A table that says nothing of these is told, and nothing is lost.
    QFile bad(d.filePath("bad.csv"));
    QVERIFY(bad.open(QIODevice::WriteOnly));
    bad.write("name,dwelling\nNobody,Flat 9\n");
    bad.close();
    QSignalSpy told(&w->document(), &Document::notice);
    press(*w, "From a table …");
    answerFileDialog(*w, d.filePath("bad.csv"));
    QTRY_VERIFY_WITH_TIMEOUT(!told.isEmpty() && told.last().at(0).toString().contains("matches nothing"), 20000);
    QVERIFY(told.last().at(1).toBool());
    QCOMPARE(project().groups.size(), std::size_t(2));
    // What is shown leaves as a table.
    press(*w, "Save the table …");
    answerFileDialog(*w, d.filePath("shown.csv"));
    QTRY_VERIFY(QFile::exists(d.filePath("shown.csv")));
    QFile shown(d.filePath("shown.csv"));
    QVERIFY(shown.open(QIODevice::ReadOnly));
    QCOMPARE(shown.readAll().count('\n'), 4);
  }
};

} // namespace

QTEST_MAIN(TestRecordWindow)
#include "tst_record_window.moc"
