// EPW in and out, what is found wrong with it, and that every mend mends.

#ifndef Q_MOC_RUN
#include "core/files/epw.h"
#include "core/sky/weather_check.h"
#include <QtTest>
#include <algorithm>
#endif

using namespace noonward;

namespace {
const std::string& demo() {
  static const std::string text = *loadFile(SOURCE_TREE "/demo/brevholm.epw");
  return text;
}
Weather good() {
  return *parseEpw(demo(), "brevholm.epw");
}
bool has(const Findings& f, const std::string& code) {
  return std::any_of(f.begin(), f.end(), [&](const Finding& x) { return x.code == code; });
}
using F = WeatherField;
} // namespace

class TestWeather : public QObject {
  Q_OBJECT
private slots:
  void readsTheDemoWhole() {
    const Weather w = good();
    QVERIFY(w.whole());
    QCOMPARE(w.city, std::string("Brevholm"));
    QCOMPARE(w.utcOffset, 3600.0);
    QVERIFY(w.notes.empty());
    QVERIFY(checkWeather(w).findings.empty());
    QVERIFY(w.headers[4].find("ynthetic") != std::string::npos);
  }

  void keepsAllColumns() {
    Weather w = good();
    for (std::size_t k = 0; k < weatherFieldCount; ++k) w.hours[4000].values[k] = 1.5 + 0.1 * double(k);
    w.hours[4000].flags = "A7B8";
    w.hours[4001].values.fill(std::nan(""));
    finishWeather(w);
    const Weather again = *parseEpw(epwText(w), "again.epw");
    QCOMPARE(again.hours[4000].values, w.hours[4000].values);
    QCOMPARE(again.hours[4000].flags, std::string("A7B8"));
    QCOMPARE(again.headers, w.headers);
    QVERIFY(std::isnan(again.hours[4001][F::DryBulb]) && std::isnan(again.hours[4001][F::DirectNormal]));
    QCOMPARE(again.digest, w.digest);
  }

  void survivesForeignDress_data() {
    QTest::addColumn<QByteArray>("bytes");
    const QByteArray text = QByteArray::fromStdString(demo());
    QTest::newRow("byte order mark") << QByteArray("\xEF\xBB\xBF") + text;
    QTest::newRow("unix line ends") << QByteArray(text).replace("\r\n", "\n");
    QTest::newRow("old line ends") << QByteArray(text).replace("\r\n", "\r");
    QTest::newRow("semicolons and decimal commas") << QByteArray(text).replace(",", ";").replace(".", ",");
    QByteArray latin = text;
    latin.replace("Brevholm", "Br\xE6vholm");
    QTest::newRow("latin-1") << latin;
  }
  void survivesForeignDress() {
    QFETCH(QByteArray, bytes);
    const auto w = parseEpw(std::string_view(bytes.constData(), std::size_t(bytes.size())), "x.epw");
    QVERIFY2(w.has_value(), w ? "" : w.error().text().c_str());
    QVERIFY(w->whole());
    QCOMPARE(w->hours[4000].values[std::size_t(F::DryBulb)], good().hours[4000][F::DryBulb]);
    QVERIFY(std::abs(degrees(w->place.latitude) - 55.6) < 1e-9);
  }

  void foreignFilesAreErrorsWithTheirPlace_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("wanted");
    const QByteArray text = QByteArray::fromStdString(demo());
    QTest::newRow("empty") << QByteArray()
                           << "x.epw:1: This is not a weather file: its first line does not begin with LOCATION.";
    QTest::newRow("picture") << QByteArray("\x89PNG\r\n\x1a\n\0\0", 10)
                             << "x.epw:1: This is not a weather file: its first line does not begin with LOCATION.";
    QTest::newRow("header only") << text.left(text.indexOf("COMMENTS 1"))
                                 << "x.epw:5: The weather file ends within its header.";
    QTest::newRow("few hours") << text.left(text.indexOf("\r\n2025,1,1,9,"))
                               << "x.epw: The weather file holds 8 hours; 8760 make a year.";
    QTest::newRow("no place") << QByteArray(text).replace("55.6,12.5", "955.6,12.5")
                              << "x.epw:1: Latitude or longitude of the LOCATION line is no place on Earth.";
    QTest::newRow("words for rows") << QByteArray(text).replace("2025,1,1,3,60", "blah,blub,1,3,60")
                                    << "x.epw:11: This row does not begin with year, month, day and hour.";
  }
  void foreignFilesAreErrorsWithTheirPlace() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, wanted);
    const auto w = parseEpw(std::string_view(bytes.constData(), std::size_t(bytes.size())), "x.epw");
    QVERIFY(!w);
    QCOMPARE(QString::fromStdString(w.error().text()), wanted);
  }

  void everyCutIsReadOrRefused() { // truncated anywhere: never a crash, never a silent whole year
    for (std::size_t cut = 0; cut < demo().size(); cut += 40'013) {
      const auto w = parseEpw(std::string_view(demo()).substr(0, cut), "cut.epw");
      if (w) QVERIFY(has(checkWeather(*w).findings, "weather.gap"));
    }
  }

  void everyFaultIsFoundAndMended_data() {
    QTest::addColumn<QString>("code");
    for (const char* c : {"weather.gap", "weather.missing", "weather.night", "weather.closure", "weather.duplicate",
                          "weather.leap-day", "weather.negative", "weather.hemisphere", "weather.date"})
      QTest::newRow(c) << c;
  }
  void everyFaultIsFoundAndMended() {
    QFETCH(QString, code);
    Weather w = good();
    if (code == "weather.gap") w.hours.erase(w.hours.begin() + 4100, w.hours.begin() + 4130);
    if (code == "weather.missing")
      for (int i = 4000; i < 4030; ++i) w.hours[std::size_t(i)][F::DirectNormal] = std::nan("");
    if (code == "weather.night")
      for (WeatherHour& h : w.hours)
        if (h.hour == 1) h[F::GlobalHorizontal] = 300;
    if (code == "weather.closure")
      for (WeatherHour& h : w.hours)
        if (h.hour == 12) h[F::GlobalHorizontal] += 400;
    if (code == "weather.duplicate") w.hours.insert(w.hours.begin() + 500, w.hours[500]);
    if (code == "weather.leap-day") {
      WeatherHour h = w.hours[1415];
      h.month = 2;
      h.day = 29;
      w.hours.insert(w.hours.begin() + 1416, h);
    }
    if (code == "weather.negative") w.hours[4000][F::DiffuseHorizontal] = -5;
    if (code == "weather.hemisphere") w.place.latitude = -w.place.latitude;
    if (code == "weather.date") {
      w.hours[20].day = 31;
      w.hours[20].month = 4;
    }
    finishWeather(w);
    const std::string key = code.toStdString();
    QVERIFY(has(checkWeather(w).findings, key));
    const auto mended = mendWeather(w, key);
    QVERIFY2(mended.has_value(), mended ? "" : mended.error().text().c_str());
    if (code == "weather.closure") { // what can't be told stays, and offers nothing more
      for (const Finding& f : checkWeather(*mended).findings) QVERIFY(f.code != key || f.mend.empty());
    } else {
      QVERIFY(!has(checkWeather(*mended).findings, key));
    }
    QVERIFY(mended->headers[5].find(key) != std::string::npos); // and the file says what was done
    QVERIFY(mended->digest != w.digest);
    if (code != "weather.date") QVERIFY(mended->whole()); // a dropped row leaves a gap, a finding of its own
  }

  void theMendOfClosureChangesWhatIsWrong_data() {
    QTest::addColumn<int>("field");
    for (F f : {F::GlobalHorizontal, F::DirectNormal, F::DiffuseHorizontal}) QTest::newRow(facts(f).name) << int(f);
  }
  void theMendOfClosureChangesWhatIsWrong() {
    QFETCH(int, field);
    const auto wrong = F(field);
    const Weather before = good();
    Weather w = before;
    int spoilt = 0;
    for (WeatherHour& h : w.hours)
      if (h.month >= 4 && h.month <= 9 && h.hour == 13 && h[F::DirectNormal] > 300) { // clear noons
        h[wrong] += wrong == F::DirectNormal ? -280 : 350;
        ++spoilt;
      }
    finishWeather(w);
    QVERIFY(spoilt > 60);
    const Weather mended = *mendWeather(w, "weather.closure");
    int right = 0, harmed = 0;
    for (std::size_t i = 0; i < w.hours.size(); ++i)
      for (F f : {F::GlobalHorizontal, F::DirectNormal, F::DiffuseHorizontal}) {
        const bool was = w.hours[i][f] != before.hours[i][f];
        if (was)
          right += std::abs(mended.hours[i][f] - before.hours[i][f]) < 0.1 * before.hours[i][f] + 40;
        else
          harmed += mended.hours[i][f] != before.hours[i][f];
      }
    // Too much global is told by what air lets through; what could be either is left alone. Nothing right is ever
    // changed.
    QVERIFY2((wrong != F::GlobalHorizontal || right > 0.5 * spoilt) && harmed == 0,
             qPrintable(QString("%1 of %2 put right, %3 harmed").arg(right).arg(spoilt).arg(harmed)));
  }

  void aWrongSignIsFoundAsTheCause_data() {
    QTest::addColumn<bool>("longitude");
    QTest::newRow("longitude") << true;
    QTest::newRow("latitude") << false;
  }
  void aWrongSignIsFoundAsTheCause() {
    QFETCH(bool, longitude);
    Weather w = good();
    w.place.longitude = radians(longitude ? 150.0 : 12.5); // the demo's light, told to be the far side of the clock
    w.utcOffset = longitude ? -10 * 3600.0 : w.utcOffset;
    if (!longitude) w.place.latitude = -w.place.latitude;
    if (longitude) // its own noon stays where its clock has it: shift the place to the clock's meridian, with the wrong
                   // sign
      for (WeatherHour& h : w.hours) h.year = 2025;
    finishWeather(w);
    const Findings found = checkWeather(w).findings;
    const char* code = longitude ? "weather.longitude" : "weather.hemisphere";
    QVERIFY(has(found, code));
    for (const char* symptom : {"weather.night", "weather.closure", "weather.cap"}) QVERIFY(!has(found, symptom));
    const Weather mended = *mendWeather(w, code);
    QVERIFY(!has(checkWeather(mended).findings, code));
    for (std::size_t i = 0; i < w.hours.size(); ++i)
      QVERIFY(mended.hours[i].values[std::size_t(F::DirectNormal)] ==
              w.hours[i].values[std::size_t(F::DirectNormal)]); // the light itself is never touched
  }

  void rowsOutOfOrderAreSorted() {
    QStringList lines = QString::fromStdString(demo()).split("\r\n");
    QStringList header = lines.mid(0, 8), rows = lines.mid(8);
    rows.removeAll("");
    std::reverse(rows.begin(), rows.end());
    const std::string text = (header + rows).join("\r\n").toStdString();
    const auto w = parseEpw(text, "turned.epw");
    QVERIFY(w && w->whole());
    QCOMPARE(w->digest, good().digest);
    QVERIFY(std::any_of(w->notes.begin(), w->notes.end(),
                        [](const std::string& n) { return n.find("sorted") != std::string::npos; }));
    Weather twice = good(); // as many rows as a year has, but not one of each
    twice.hours[100] = twice.hours[101];
    QVERIFY(!twice.whole());
  }

  void decimalCommasAmongCommasAreRefused() {
    QByteArray text = QByteArray::fromStdString(demo());
    const QList<QByteArray> whole = text.split('\n');
    QList<QByteArray> lines = whole;
    for (int i = 8; i < lines.size(); ++i) lines[i].replace('.', ',');
    const auto w = parseEpw(lines.join('\n').toStdString(), "x.epw");
    QVERIFY(!w);
    QVERIFY(QString::fromStdString(w.error().text()).contains("35 are expected"));
    // Quoted, it can be told.
    for (int i = 8; i < lines.size(); ++i) {
      QList<QByteArray> f = whole[i].trimmed().split(',');
      for (QByteArray& x : f)
        if (x.contains('.')) x = '"' + x.replace('.', ',') + '"';
      lines[i] = f.join(',');
    }
    const auto quoted = parseEpw(lines.join('\n').toStdString(), "x.epw");
    QVERIFY(quoted && quoted->whole());
    QCOMPARE(quoted->digest, good().digest);
  }

  void gapsAreNamedByDateAndRow() {
    Weather w = *parseEpw(demo(), "x.epw");
    w.hours.erase(w.hours.begin() + 4100, w.hours.begin() + 4103);
    for (const Finding& f : checkWeather(w).findings)
      if (f.code == "weather.gap") {
        const QString text = QString::fromStdString(f.text);
        QVERIFY2(text.contains("20 Jun 21:00 to 20 Jun 23:00 (3 h) after row 4108"), qPrintable(text));
        return;
      }
    QFAIL("no gap found");
  }

  void rowsWithoutAYearTakeTheProjects() {
    Weather w = good();
    for (WeatherHour& h : w.hours) h.year = 0;
    const auto a = hourSuns(w, 2026), b = hourSuns(w, 2030);
    QVERIFY(a[4000].position.altitude != b[4000].position.altitude);
    QCOMPARE(w.middle(0, 2026).seconds, utc({{2026, 1, 1}, 1800}).seconds - w.utcOffset);
  }

  void moreThanAnySkyGivesIsFound() {
    Weather w = good();
    for (int i : {4000, 4001}) w.hours[std::size_t(i)][F::DirectNormal] = 1800;
    const Findings found = checkWeather(w).findings;
    QVERIFY(has(found, "weather.cap"));
    const Weather mended = *mendWeather(w, "weather.cap");
    QVERIFY(std::isnan(mended.hours[4000][F::DirectNormal]) && !has(checkWeather(mended).findings, "weather.cap"));
  }

  void filledHoursComeFromTheDaysAround() {
    Weather w = good();
    const double before = w.hours[4000 - 24][F::DryBulb], after = w.hours[4000 + 24][F::DryBulb];
    w.hours.erase(w.hours.begin() + 4000);
    QCOMPARE((*mendWeather(w, "weather.gap")).hours[4000][F::DryBulb], 0.5 * (before + after));
  }

  void disagreementWithTheProject() {
    const Weather w = good();
    const Zone copenhagen = *Zone::named("Europe/Copenhagen");
    QVERIFY(checkWeatherAgainst(w, {w.place, copenhagen, 2026}).empty());
    const Findings far = checkWeatherAgainst(w, {{radians(48.0), radians(11.0), 0}, copenhagen, 2026});
    QVERIFY(has(far, "weather.place"));
    QVERIFY(QString::fromStdString(far.front().text).contains("851 km") ||
            QString::fromStdString(far.front().text).contains("85"));
    const Findings south =
        checkWeatherAgainst(w, {{radians(-36.9), radians(174.6), 0}, *Zone::named("Pacific/Auckland"), 2026});
    QCOMPARE(south.front().rank, Rank::StopsStudy);
    QVERIFY(has(south, "weather.offset"));
  }

  void hoursKeepStandardTime() {
    QCOMPARE(weatherHourIndex({{2026, 1, 1}, 0}), std::size_t(0));
    QCOMPARE(weatherHourIndex({{2026, 12, 31}, 86399}), std::size_t(8759));
    QCOMPARE(weatherHourIndex({{2024, 2, 29}, 0}), weatherHourIndex({{2024, 2, 28}, 0}));
    const Weather w = good();
    QCOMPARE(w.middle(12).seconds, utc({{2025, 1, 1}, 11.5 * 3600}).seconds); // record 13 at UTC+1
  }
};

QTEST_GUILESS_MAIN(TestWeather)
#include "tst_weather.moc"
