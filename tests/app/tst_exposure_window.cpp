// Neighbours' windows and rooms in the real window: skylight and sunlight judged before and after, sunshine typed, the
// no-sky line.

#ifndef Q_MOC_RUN
#include "tests/app/driver.h"
#include <QFile>
#include <QLabel>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

/// A neighbour's house with a room, two windows as points on its south wall and one on its north; opposite it a
/// proposed block.
constexpr auto quarter =
    R"({"format":"noonward-project","version":1,"name":"Two houses","site":{"latitude":55.6,"longitude":12.5,"zone":"UTC+01:00"},
"elements":[{"name":"House","mass":{"outline":[[0,0],[12,0],[12,8],[0,8]],"height":7}},{"name":"Mass","proposed":true,"mass":{"outline":[[-40,-16],[60,-16],[60,-10],[-40,-10]],"height":14}}],
"rooms":[{"name":"Parlour","outline":[[0.4,0.4],[7,0.4],[7,7],[0.4,7]],"floor":0.2,"height":2.8}],
"openings":[{"room":"Parlour","edge":0,"along":1,"sill":0.9,"width":2.4,"height":1.5}],
"groups":[{"name":"Windows","points":[{"at":[3,-0.01,1.6],"normal":[0,-1,0],"name":"Parlour"},{"at":[9,-0.01,5],"normal":[0,-1,0],"name":"Bedroom"},{"at":[6,8.01,1.6],"normal":[0,1,0],"name":"Kitchen"}]},
{"name":"Plane","rooms":{"rooms":["Parlour"],"height":0.85,"spacing":0.4,"wall-distance":0.2}}],
"studies":[{"kind":"vsc","name":"Sky","groups":["Windows"]}]})";

QString verdicts(MainWindow& w) {
  QStringList out;
  for (const auto& [j, v] : w.studies().current()->verdicts) out << QString::fromStdString(v.title + ": " + v.text);
  return out.join("; ");
}

} // namespace

class TestExposureWindow : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> open() {
    const QString path = dir_.filePath(QString("quarter-%1.noonward").arg(++n_));
    QFile f(path);
    if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
    f.write(quarter);
    f.close();
    auto w = openWindow();
    if (!w->openProject(path.toStdString())) qFatal("the project does not open");
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    return w;
  }
  QTemporaryDir dir_;
  int n_ = 0;

private slots:
  void skylightIsJudgedBeforeAndAfter() {
    auto w = open();
    QVERIFY(settled(*w));
    click(named<QPushButton>(*w, "Yardsticks"));
    choose(*w, "Rule", "Skylight at windows");
    QVERIFY(
        !named<QPushButton>(*w, "Set up grid and study by it")->isVisible()); // it is of points, not of grids in rooms
    click(named<QPushButton>(*w, "Judge these windows"));
    QVERIFY(settled(*w));
    QTRY_COMPARE(w->studies().current()->verdicts.size(), std::size_t(1));
    const Verdict& v = w->studies().current()->verdicts[0].second;
    QVERIFY2(v.outcome == Outcome3::FallsShort, qPrintable(verdicts(*w)));
    QCOMPARE(v.rows.size(), std::size_t(3));
    for (const VerdictRow& r : v.rows)
      QVERIFY2(std::abs(r.before - 39.6) < 0.3, r.text.c_str()); // nothing stood there before
    QCOMPARE(v.rows[2].name, std::string("Kitchen"));
    QCOMPARE(v.rows[2].outcome, Outcome3::Meets); // looks the other way
    const auto shown = [&] {
      const auto labels = w->findChildren<QLabel*>();
      return std::any_of(labels.begin(), labels.end(),
                         [](QLabel* l) { return l->isVisible() && l->text().contains("Skylight at windows"); });
    };
    QTRY_VERIFY(shown());
    const auto* rows = named<QLabel>(*w, "Falls short in Skylight at windows"); // which windows, with their figures
    QVERIFY2(rows->isVisible() && rows->text().contains("Parlour") && rows->text().contains("Bedroom") &&
                 !rows->text().contains("Kitchen"),
             qPrintable(rows->text()));
    // A lower bound, typed: the verdict follows; undone it falls short again.
    fill(*w, "Vertical sky component", "12 %");
    QVERIFY(settled(*w));
    QTRY_COMPARE(w->studies().current()->verdicts.at(0).second.outcome, Outcome3::Meets);
    w->action("Undo")->trigger();
    QVERIFY(settled(*w));
    QTRY_COMPARE(w->studies().current()->verdicts.at(0).second.outcome, Outcome3::FallsShort);
    fill(*w, "Vertical sky component", "much");
    QVERIFY(w->document().project().judgements[0].changed.empty());
  }

  void sunshineIsTypedFaultyAndUndone() {
    auto w = open();
    choose(*w, "Kind of study", "Annual probable sunlight (APSH)");
    QTRY_VERIFY(w->studies().current() && !w->studies().current()->fault.empty()); // no weather year, no table
    QVERIFY2(QString::fromStdString(w->studies().current()->fault).contains("table of the months"),
             w->studies().current()->fault.c_str());
    for (const char* faulty :
         {"1 2 3", "10 20 30 40 50 60 70 80 90 100 110 120", "0 0 0 0 0 0 0 0 0 0 0 0", "a b c d e f g h i j k l"}) {
      fill(*w, "Sunshine by month", faulty);
      QVERIFY2(!w->studies().activeStudy()->light.sunshine, faulty);
    }
    fill(*w, "Sunshine by month", "18; 25; 32; 39; 41; 40; 42; 43; 37; 30; 20; 16,5");
    QVERIFY(w->studies().activeStudy()->light.sunshine.has_value());
    QCOMPARE((*w->studies().activeStudy()->light.sunshine)[11], 0.165);
    QVERIFY(settled(*w));
    QTRY_VERIFY(w->studies().current() && w->studies().current()->painted);
    const auto values = w->studies().current()->painted->light->value;
    QVERIFY2(values[0] > 2 && values[2] < 50 && values[1] > values[0],
             qPrintable(QString("%1 %2 %3").arg(values[0]).arg(values[1]).arg(values[2])));
    // Its verdict leaves out the window that looks north.
    click(named<QPushButton>(*w, "Yardsticks"));
    choose(*w, "Rule", "Sunlight at windows");
    click(named<QPushButton>(*w, "Judge these windows"));
    QVERIFY(settled(*w));
    QTRY_COMPARE(w->studies().current()->verdicts.size(), std::size_t(1));
    QCOMPARE(w->studies().current()->verdicts[0].second.rows.size(), std::size_t(2));
    w->action("Undo")->trigger();
    w->action("Undo")->trigger();
    QVERIFY(!w->studies().activeStudy()->light.sunshine);
  }

  void theNoSkyLineOfARoom() {
    auto w = open();
    choose(*w, "Kind of study", "No-sky line");
    choose(*w, "Judged area", "Plane");
    QVERIFY(settled(*w));
    QTRY_VERIFY(w->studies().current() && w->studies().current()->painted && w->studies().current()->painted->light);
    const auto r = w->studies().current()->painted->light;
    QCOMPARE(r->kind, StudyKind::NoSkyLine);
    const auto seen = std::count(r->value.begin(), r->value.end(), 100.0f);
    QVERIFY(seen > 0 && seen < std::ptrdiff_t(r->value.size()));
    click(named<QPushButton>(*w, "Yardsticks"));
    choose(*w, "Rule", "No-sky line");
    click(named<QPushButton>(*w, "Judge these rooms"));
    QVERIFY(settled(*w));
    QTRY_COMPARE(w->studies().current()->verdicts.size(), std::size_t(1));
    const Verdict& v = w->studies().current()->verdicts[0].second;
    QVERIFY2(v.rows.size() == 1 && v.rows[0].before > v.rows[0].after, qPrintable(verdicts(*w)));
    // Without the block there is no before.
    Project p = w->document().project();
    std::erase_if(p.elements, [](const ElementPtr& e) { return e->proposed; });
    w->document().change(std::move(p), "Take the block away");
    QVERIFY(settled(*w));
    QTRY_COMPARE(w->studies().current()->verdicts.at(0).second.outcome, Outcome3::NotJudged);
  }
};

QTEST_MAIN(TestExposureWindow)
#include "tst_exposure_window.moc"
