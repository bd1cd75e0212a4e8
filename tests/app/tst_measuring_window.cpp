// The weather bench and the measuring desk, as a researcher uses them: a logger's file with a wrong clock, a drift and
// gaps; a year made of it, its light laid beside the computed.

#ifndef Q_MOC_RUN
#include "app/almanac/almanac.h"
#include "app/panels/column_chart.h"
#include "app/panels/measuring_desk.h"
#include "app/panels/weather_bench.h"
#include "core/files/epw.h"
#include "core/files/save_file.h"
#include "core/files/station/stand_in_logger.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <QCompleter>
#include <QFileDialog>
#include <QLabel>
#include <QListWidget>
#include <QTableWidget>
#endif

using namespace noonward;
using namespace noonward::test;

class TestMeasuringWindow : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  Project project_ = [] {
    Project p = houseOfTheYear(1.5);
    Study s;
    s.id = StudyId::fresh();
    s.kind = StudyKind::Year;
    s.name = "Hall's year";
    s.year.error = 0.15;
    p.studies.push_back(s);
    return p;
  }();
  std::vector<std::string> rows_; ///< of the logger

  QString file(const char* name, const std::string& text) {
    const QString path = folder_.filePath(name);
    if (!saveFile(path.toStdString(), text)) qFatal("no file");
    return path;
  }
  std::string upTo(std::size_t rows) const {
    std::string out;
    for (std::size_t k = 0; k < std::min(rows, rows_.size()); ++k) out += rows_[k] + "\n";
    return out;
  }
  /// Presses a button and names the file in the dialog that it opens.
  void nameFile(MainWindow& w, const QString& button, const QString& path) {
    press(w, button);
    QFileDialog* d = nullptr;
    QTRY_VERIFY_WITH_TIMEOUT((d = w.findChild<QFileDialog*>()) && d->isVisible(), 5000);
    auto* name = d->findChild<QLineEdit*>("fileNameEdit");
    QVERIFY(name);
    name->setCompleter(nullptr); // its list would take the Enter
    const QPointer<QFileDialog> open(d);
    // The dialog fills its list beside this, and may put its own text over what was typed: then it is typed again.
    QVERIFY(QTest::qWaitFor(
        [&] {
          if (!open || !open->isVisible()) return true;
          name->selectAll();
          QTest::keyClicks(name, path);
          if (name->text() == path) QTest::keyClick(name, Qt::Key_Return);
          return !open || !open->isVisible();
        },
        10000));
  }

private slots:
  void initTestCase() {
    RunControl control;
    const auto light = modelledHours(project_, {}, project_.studies[0].year, false, control);
    QVERIFY2(light, light ? "" : light.error().text().c_str());
    LoggerWish wish{.step = 900, .noise = 2, .drift = 5, .slip = 30, .gaps = 5, .sensors = {2, 5}};
    QVERIFY(standInLogger(&*light, *project_.site.weather, wish, [&](const std::string& row) {
      rows_.push_back(row);
      return true;
    }));
  }

  void aYearIsMadeOfALoggersFile() {
    auto w = openWindow();
    w->document().startNew(project_);
    QTest::keyClick(w.get(), Qt::Key_1, Qt::AltModifier);
    press(*w, "Weather bench…");
    auto* bench = named<WeatherBench>(*w, "Weather bench panel");
    QVERIFY(bench->isVisible() && !named<QPushButton>(*w, "Take it as the weather")->isEnabled());
    nameFile(*w, "Add a station's file …", file("log.csv", upTo(rows_.size())));
    QTRY_VERIFY_WITH_TIMEOUT(bench->made(), 30000);
    // What was found is told, and can be changed.
    QVERIFY(named<QLabel>(*w, "How the file is read")->text().contains("a row every 900 s"));
    auto* holds = named<QComboBox>(*w, "What Air temperature [°C] holds");
    QVERIFY(holds->currentText() == "dry bulb temperature" &&
            named<QComboBox>(*w, "Unit of Air temperature [°C]")->currentText() == "°C");
    const QString result = named<QLabel>(*w, "The year that was made")->text();
    QVERIFY2(result.contains("of 8760 hours measured") && !result.contains(" 0 invented"), qPrintable(result));
    const std::size_t invented = bench->made()->made.invented();
    QVERIFY(result.contains(QString("%1 invented").arg(invented)) && invented > 0);
    QVERIFY(named<OriginPicture>(*w, "Where the hours came from")->text().contains("h days around"));
    // The slip is told; its mend moves the stamps, and nothing else is found.
    auto* findings = named<QListWidget>(*w, "Findings of the bench");
    const auto says = [&](const QString& what) {
      for (int k = 0; k < findings->count(); ++k)
        if (findings->item(k)->text().contains(what)) return true;
      return false;
    };
    QVERIFY(says("later than the sun"));
    auto before = bench->made();
    press(*w, "Move the stamps");
    QTRY_VERIFY_WITH_TIMEOUT(bench->made() && bench->made() != before, 30000);
    const double slip = named<QLineEdit>(*w, "Slip of the stamps")->text().toDouble();
    QVERIFY2(std::abs(slip + 30) <= 3, qPrintable(QString::number(slip)));
    QVERIFY(!says("later than the sun") && !named<QPushButton>(*w, "Move the stamps")->isVisible());
    // A wrong field says so and makes nothing.
    before = bench->made();
    fill(*w, "Hours interpolated", "99");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "State of the bench")->text().contains("0 to 24 hours"), 5000);
    fill(*w, "Hours interpolated", "0");
    QTRY_VERIFY_WITH_TIMEOUT(bench->made() != before, 30000);
    QCOMPARE(bench->made()->made.hours[std::size_t(HourOrigin::Interpolated)], std::size_t(0));
    // A column of another unit is another year; nothing in it at all is none.
    before = bench->made();
    choose(*w, "Unit of Air temperature [°C]", "°F");
    QTRY_VERIFY_WITH_TIMEOUT(bench->made() != before, 30000);
    QVERIFY(bench->made()->made.weather.hours[4000][WeatherField::DryBulb] <
            before->made.weather.hours[4000][WeatherField::DryBulb]);
    before = bench->made();
    choose(*w, "Unit of Air temperature [°C]", "°C");
    QTRY_VERIFY_WITH_TIMEOUT(bench->made() != before, 30000);
    // A column of it by month and by hour.
    auto* chart = named<ColumnChart>(*w, "Column by month and by hour");
    QVERIFY(!chart->isVisible());
    choose(*w, "Picture of the bench", "dry bulb temperature");
    QVERIFY(chart->isVisible() && !named<OriginPicture>(*w, "Where the hours came from")->isVisible());
    QVERIFY2(chart->text().startsWith("dry bulb temperature, °C: Jan "), qPrintable(chart->text()));
    const QImage warm = chart->grab().toImage();
    choose(*w, "Picture of the bench", "diffuse horizontal irradiance");
    QVERIFY(chart->grab().toImage() != warm);
    choose(*w, "Picture of the bench", "where the hours came from");
    QVERIFY(!chart->isVisible());
    // Saved, taken, and taken back.
    nameFile(*w, "Save the year …", folder_.filePath("made.epw"));
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(folder_.filePath("made.epw")), 10000);
    const auto read = readEpw(folder_.filePath("made.epw").toStdString());
    QVERIFY2(read && read->digest == bench->made()->made.weather.digest, read ? "" : read.error().text().c_str());
    const auto own = w->document().project().site.weather->digest;
    press(*w, "Take it as the weather");
    QVERIFY(w->document().project().site.weather->digest == read->digest);
    w->document().undo();
    QVERIFY(w->document().project().site.weather->digest == own);
  }

  void theAlmanacShowsAnyColumn() {
    auto w = openWindow();
    w->document().startNew(project_);
    auto* picture = named<QComboBox>(*w, "Picture of the year");
    auto* plot = named<AlmanacPlot>(*w, "Almanac");
    const QImage before = plot->grab().toImage();
    choose(*w, "Picture of the year", "dry bulb temperature");
    QVERIFY(w->document().looking().year == YearPicture::Column &&
            w->document().looking().column == WeatherField::DryBulb);
    QVERIFY(plot->grab().toImage() != before);
    const auto [low, high] = plot->columnRange();
    QVERIFY(low > -20 && low < 5 && high > 15 && high < 40);
    const double noon = project_.site.weather->hours[171 * 24 + 11][WeatherField::DryBulb];
    QVERIFY2(
        plot->textAt({project_.site.year, 6, 21}, 12.5 * 60).contains(QString("dry bulb temperature %1 °C").arg(noon)),
        qPrintable(plot->textAt({project_.site.year, 6, 21}, 12.5 * 60)));
    QVERIFY(picture->findText("relative humidity") > 0 && picture->findText("snow depth") < 0);
    // Less another year's, and as it is again.
    QTest::keyClick(w.get(), Qt::Key_1, Qt::AltModifier);
    const QImage plain = plot->grab().toImage();
    nameFile(*w, "Compare with another year…", file("half.epw", "LOCATION,Nowhere\n"));
    QTRY_VERIFY(!w->document().looking().against);
    Weather warmer = *project_.site.weather;
    for (WeatherHour& h : warmer.hours) h.values[std::size_t(WeatherField::DryBulb)] += 2.5;
    nameFile(*w, "Compare with another year…", file("warmer.epw", epwText(warmer)));
    QTRY_VERIFY_WITH_TIMEOUT(w->document().looking().against, 10000);
    QVERIFY2(plot->textAt({project_.site.year, 6, 21}, 12.5 * 60).contains("dry bulb temperature −2.5 °C against"),
             qPrintable(plot->textAt({project_.site.year, 6, 21}, 12.5 * 60)));
    QVERIFY(plot->grab().toImage() != plain);
    const auto [less, more] = plot->columnRange();
    QVERIFY(std::abs(less + more) < 1e-6 && std::abs(more - 2.5) < 0.11);
    press(*w, "No longer compare with it");
    QVERIFY(!w->document().looking().against && plot->grab().toImage() == plain);
    // Without the weather there are none, and the year is day and night again.
    Project p = w->document().project();
    p.site.weather.reset();
    w->document().change(p, "Drop the weather");
    QVERIFY(picture->findText("dry bulb temperature") < 0);
    QVERIFY(!plot->textAt({project_.site.year, 6, 21}, 12.5 * 60).contains("°C"));
  }

  void aFileThatGrowsIsReadAgain() {
    auto w = openWindow();
    w->document().startNew(project_);
    QTest::keyClick(w.get(), Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
    auto* bench = named<WeatherBench>(*w, "Weather bench panel");
    const QString path = file("growing.csv", upTo(96 * 40));
    nameFile(*w, "Add a station's file …", path);
    QTRY_VERIFY_WITH_TIMEOUT(bench->made(), 30000);
    const std::size_t used = bench->made()->read.used;
    QVERIFY(bench->made()->made.hours[std::size_t(HourOrigin::Missing)] > 7000);
    QFile more(path);
    QVERIFY(more.open(QIODevice::Append));
    for (std::size_t k = 96 * 40; k < 96 * 50; ++k) more.write((rows_[k] + "\n").c_str());
    more.close();
    QTRY_VERIFY_WITH_TIMEOUT(bench->made() && bench->made()->read.used > used, 30000);
    // A file that is no table is not taken, and what is there stays.
    nameFile(*w, "Add a station's file …", file("talk.txt", "nothing\nto see\n"));
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "State of the bench")->text().contains("No table of values"), 10000);
    QVERIFY(bench->made() && named<QLabel>(*w, "Files of the bench")->text() == "growing.csv");
    // An address where nobody answers, and a file that is fetched and looked at before it is taken.
    fill(*w, "Address of a weather file", "http://127.0.0.1:1/year.epw");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "State of the bench")->text().contains("Nobody answers there."), 30000);
    fill(*w, "Address of a weather file", SOURCE_TREE "/demo/tarrow-bay.epw");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "The year that was made")->text().contains("Tarrow Bay"), 30000);
    QVERIFY(named<QListWidget>(*w, "Findings of the bench")->item(0)->text().contains("different hemispheres"));
    QVERIFY(w->document().project().site.weather->city != "Tarrow Bay");
    press(*w, "Take it as the weather");
    QCOMPARE(w->document().project().site.weather->city, std::string("Tarrow Bay"));
  }

  void computedAndMeasuredLieSideBySide() {
    auto w = openWindow();
    w->document().startNew(project_);
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    press(*w, "Measuring desk…");
    auto* panel = named<MeasuringDesk>(*w, "Measuring desk panel");
    QCOMPARE(named<QComboBox>(*w, "Study measured against")->currentText(), QString("Hall's year"));
    nameFile(*w, "A logger's file …", file("light.csv", upTo(rows_.size())));
    QTRY_VERIFY_WITH_TIMEOUT(panel->measuring(), 60000);
    auto* table = named<QTableWidget>(*w, "Sensors compared");
    QCOMPARE(table->rowCount(), 2);
    const Comparison& told = panel->measuring()->comparison;
    QCOMPARE(table->item(1, 0)->text(), QString::fromStdString(told.sensors[1].sensor));
    QCOMPARE(table->item(1, 2)->text(), QString::number(told.sensors[1].hours.meanObserved, 'f', 0));
    QCOMPARE(table->item(1, 5)->text(), QString::number(100 * told.sensors[1].hours.cvRmse, 'f', 1));
    const QString figures = named<QLabel>(*w, "Agreement")->text();
    QVERIFY2(figures.contains(
                 QString("RMSE %1 lx (%2 %)").arg(told.hours.rmse, 0, 'f', 1).arg(100 * told.hours.cvRmse, 0, 'f', 1)),
             qPrintable(figures));
    const QString nearer = named<QLabel>(*w, "What would bring them nearer")->text();
    QVERIFY2(nearer.contains("Stamps moved by -30") || nearer.contains("Stamps moved by -29") ||
                 nearer.contains("Stamps moved by -31"),
             qPrintable(nearer));
    QVERIFY2(nearer.contains("% a year"), qPrintable(nearer));
    const double before = panel->measuring()->comparison.hours.cvRmse;
    fill(*w, "Slip of the logger", "-30");
    QTRY_VERIFY_WITH_TIMEOUT(panel->measuring() && panel->measuring()->comparison.hours.cvRmse < 0.3 * before, 60000);
    QVERIFY2(named<QLabel>(*w, "What would bring them nearer")->text().contains("A drift"),
             qPrintable(named<QLabel>(*w, "What would bring them nearer")->text()));
    // Judged by a guideline that ships.
    auto* verdict = named<QLabel>(*w, "Verdict on the agreement");
    QVERIFY(!verdict->isVisible());
    choose(*w, "Guideline of agreement", "Agreement by ASHRAE Guideline 14");
    QVERIFY2(verdict->isVisible() && verdict->text().startsWith("✓ Meets"), qPrintable(verdict->text()));
    // Each way to see it, of the other sensor.
    auto* plot = named<MeasuredPlot>(*w, "Measured and computed");
    const QString first = plot->text();
    table->setFocus();
    QTest::keyClick(table, Qt::Key_Down);
    QTRY_VERIFY(plot->text() != first);
    QImage last;
    for (const char* way :
         {"one against the other", "difference, day by hour", "how often how far apart", "both, a week"}) {
      choose(*w, "Plot of the desk", way);
      const QImage now = plot->grab().toImage();
      QVERIFY2(now != last, way);
      last = now;
    }
    // The week begins at the Almanac's day.
    w->document().look([&](Looking& l) { l.moment = l.moment + 60 * 86400.0; });
    QTRY_VERIFY(plot->grab().toImage() != last);
    // A stretch, and one that can't be.
    const std::size_t all = panel->measuring()->comparison.hours.n;
    fill(*w, "Last day compared", "31 Mar");
    QTRY_VERIFY_WITH_TIMEOUT(panel->measuring() && panel->measuring()->comparison.hours.n < all / 2, 60000);
    fill(*w, "Hours compared", "18-8");
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "State of the desk")->text().contains("Hours such as 8-18"), 5000);
    fill(*w, "Hours compared", "8-18");
    nameFile(*w, "Save the hours …", folder_.filePath("hours.csv"));
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(folder_.filePath("hours.csv")), 10000);
    // Kept in the project under a name; changed and taken up again it asks what was kept; undo takes it away.
    press(*w, "Keep the series in the project");
    QTRY_VERIFY(named<QLabel>(*w, "State of the desk")->text().contains("Type a name"));
    const auto whole = panel->measuring();
    fill(*w, "First day compared", "2 May");
    QTRY_VERIFY_WITH_TIMEOUT(panel->measuring() && panel->measuring() != whole, 60000);
    const auto kept = panel->measuring();
    fill(*w, "Name of the series", "Two desks");
    press(*w, "Keep the series in the project");
    const auto& series = w->document().project().measured;
    QCOMPARE(series.size(), std::size_t(1));
    QVERIFY(series[0].name == "Two desks" && series[0].firstDay == 121 && series[0].files.size() == 1);
    fill(*w, "First day compared", "1 Jul");
    QTRY_VERIFY_WITH_TIMEOUT(panel->measuring() && panel->measuring() != kept, 60000);
    const auto other = panel->measuring();
    QVERIFY(other->comparison.hours.n < kept->comparison.hours.n);
    panel->takeKept("Two desks");
    QTRY_VERIFY_WITH_TIMEOUT(panel->measuring() && panel->measuring() != other, 60000);
    QCOMPARE(panel->measuring()->comparison.hours.n, kept->comparison.hours.n);
    QCOMPARE(named<QLineEdit>(*w, "First day compared")->text(), QString("2 May"));
    w->document().undo();
    QVERIFY(w->document().project().measured.empty());
    // Columns of no sensor are told with what sensors are called.
    nameFile(*w, "A logger's file …",
             file("strange.csv", "Time,desk [lx]\n2025-05-01 10:00,5\n2025-05-01 11:00,5\n2025-05-01 12:00,5\n"));
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(*w, "State of the desk")->text().contains("No column is called as a sensor"),
                             30000);
    QVERIFY(!panel->measuring() && table->rowCount() == 0);
  }
};

QTEST_MAIN(TestMeasuringWindow)
#include "tst_measuring_window.moc"
