// Tables of text: CSV in every dialect, hourly illuminances, and encodings at the border of all readers.

#ifndef Q_MOC_RUN
#include "core/base/utf8.h"
#include "core/files/csv.h"
#include "core/files/library.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {
using Rows = std::vector<std::vector<std::string>>;
Rows cellsOf(const CsvTable& t) {
  Rows out;
  for (const CsvTable::Row& r : t.rows) out.push_back(r.cells);
  return out;
}
std::string utf16(const std::u16string& text, bool little) {
  std::string out = little ? "\xFF\xFE" : "\xFE\xFF";
  for (char16_t c : text) {
    const char low = char(c & 255), high = char(c >> 8);
    out += little ? low : high;
    out += little ? high : low;
  }
  return out;
}
} // namespace

class TestTables : public QObject {
  Q_OBJECT
private slots:
  void dialectsAreFound_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<char>("separator");
    const auto row = [](const char* name, QByteArray text, char separator) {
      QTest::newRow(name) << text << separator;
    };
    row("commas", "a,b\n1,2\n", ',');
    row("semicolons with decimal commas", "a;b\n1,5;2,5\n", ';');
    row("tabs", "a\tb\n1\t2\n", '\t');
    row("tabs with decimal commas", "a\tb\n1,5\t2,5\n", '\t');
    row("a comma in quotes", "\"a,x\";b\n1;2\n", ';');
    row("a semicolon in quotes", "\"a;x\",b\n1,2\n", ',');
    row("Windows lines", "a,b\r\n1,2\r\n", ',');
    row("old Macintosh lines", "a,b\r1,2\r", ',');
    row("a byte order mark",
        "\xEF\xBB\xBF"
        "a,b\n1,2\n",
        ',');
    row("no last line end", "a,b\n1,2", ',');
    row("empty lines", "\na,b\n\n\n1,2\n \n", ',');
  }
  void dialectsAreFound() {
    QFETCH(QByteArray, text);
    QFETCH(char, separator);
    const auto t = parseCsv(text.toStdString(), "x.csv");
    QVERIFY(t);
    QCOMPARE(t->separator, separator);
    QCOMPARE(t->rows.size(), std::size_t(2));
    for (const CsvTable::Row& r : t->rows) QCOMPARE(r.cells.size(), std::size_t(2));
  }

  void quotesHoldSeparatorsQuotesAndLines() {
    const auto t = parseCsv("name,remark\n\"Mill, old\",\"he said \"\"no\"\"\"\n\"two\nlines\",\n,\"\"\n", "x.csv");
    QVERIFY(t);
    QCOMPARE(cellsOf(*t), (Rows{{"name", "remark"}, {"Mill, old", "he said \"no\""}, {"two\nlines", ""}, {"", ""}}));
    QCOMPARE(t->rows[2].line, std::size_t(3));
    QCOMPARE(t->rows[3].line, std::size_t(5)); // the one before has two
  }

  void anOpenQuoteIsToldWithItsLine() {
    const auto t = parseCsv("a,b\n1,2\n3,\"four\n5,6\n", "x.csv");
    QVERIFY(!t);
    QCOMPARE(t.error().place, std::string("x.csv: line 3"));
  }

  void commentsAndPlainQuotesByWish() {
    const auto t = parseCsv("# a \"comment\nx\t5\" pipe\n#\ny\tz\n", "x.tsv", {'\t', false, '#'});
    QVERIFY(t);
    QCOMPARE(cellsOf(*t), (Rows{{"x", "5\" pipe"}, {"y", "z"}}));
    QCOMPARE(t->rows[1].line, std::size_t(4));
  }

  void everyCutOfAFileIsReadOrRefused() {
    const std::string whole = "name;\"a \"\"b\"\"\";c\r\n1,5;\"x;\ny\";\r\n";
    for (std::size_t n = 0; n <= whole.size(); ++n) {
      const auto t = parseCsv(whole.substr(0, n), "cut.csv");
      if (!t) QCOMPARE(t.error().message, std::string("A quote is never closed."));
      if (t && n == 0) QVERIFY(t->rows.empty());
    }
    QVERIFY(parseCsv(whole, "whole.csv"));
  }

  void illuminancesAreReadWithAndWithoutAHead() {
    const auto named = parseIlluminances("hour;desk;\"window; seat\"\n1;100,5;\n2;0;2e3\n", "x.csv");
    QVERIFY(named);
    QCOMPARE(named->names, (std::vector<std::string>{"desk", "window; seat"}));
    QCOMPARE(named->columns[0], (std::vector<float>{100.5f, 0}));
    QVERIFY(std::isnan(named->columns[1][0]));
    QCOMPARE(named->columns[1][1], 2000.f);
    const auto bare = parseIlluminances("1,2,3\n4,5,6\n", "x.csv");
    QVERIFY(bare);
    QCOMPARE(bare->names.back(), std::string("sensor 3"));
    QCOMPARE(bare->columns[0], (std::vector<float>{1, 4}));
  }

  void faultyIlluminancesAreNamed_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<QString>("told");
    QTest::newRow("empty") << QByteArray() << "holds no hours";
    QTest::newRow("head alone") << QByteArray("a,b\n") << "holds no hours";
    QTest::newRow("short row") << QByteArray("a,b\n1,2\n3\n") << "Row 3 has 1 fields, 2 expected";
    QTest::newRow("long row") << QByteArray("a,b\n1,2,3\n") << "Row 2 has 3 fields, 2 expected";
    QTest::newRow("a word") << QByteArray("a,b\n1,dark\n") << "Row 2, \"b\": \"dark\" is no number";
    QTest::newRow("negative") << QByteArray("a\n-1\n") << "an illuminance of -1 lx";
    QTest::newRow("infinite") << QByteArray("a\ninf\n") << "\"inf\" is no number";
    QTest::newRow("not a number") << QByteArray("a\nnan\n") << "\"nan\" is no number";
    QTest::newRow("open quote") << QByteArray("a\n\"1\n") << "never closed";
  }
  void faultyIlluminancesAreNamed() {
    QFETCH(QByteArray, text);
    QFETCH(QString, told);
    const auto t = parseIlluminances(text.toStdString(), "x.csv");
    QVERIFY(!t);
    QVERIFY2(QString::fromStdString(t.error().text()).contains(told), t.error().text().c_str());
    QVERIFY(QString::fromStdString(t.error().text()).contains("x.csv"));
  }

  void encodingsBecomeUtf8_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("text");
    const auto row = [](const char* name, const std::string& bytes, const char* text) {
      QTest::newRow(name) << QByteArray(bytes.data(), qsizetype(bytes.size())) << QString::fromUtf8(text);
    };
    row("plain", "Haus", "Haus");
    row("UTF-8", "Gebäude 日本 🏠", "Gebäude 日本 🏠");
    row("with a mark", "\xEF\xBB\xBFGebäude", "Gebäude");
    row("Latin-1", "Geb\xE4ude \xF8", "Gebäude ø");
    row("UTF-16, little end first", utf16(u"Gebäude 🏠", true), "Gebäude 🏠");
    row("UTF-16, big end first", utf16(u"Gebäude 🏠", false), "Gebäude 🏠");
    row("UTF-16 with half a pair",
        utf16(u"a\xD83C"
              u"b",
              true),
        "a\xEF\xBF\xBD"
        "b");
    row("UTF-16 cut in a pair", utf16(u"a\xD83C", true), "a\xEF\xBF\xBD");
    row("a surrogate in UTF-8 is none",
        "a\xED\xA0\x80"
        "b",
        "a\u00ED\u00A0\u0080b");
    row("overlong is none", "\xE0\x80\xAF", "\u00E0\u0080\u00AF");
    row("beyond the last is none", "\xF4\x90\x80\x80", "\u00F4\u0090\u0080\u0080");
    row("nothing", "", "");
  }
  void encodingsBecomeUtf8() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, text);
    const std::string out = asUtf8(bytes.toStdString());
    QCOMPARE(QString::fromStdString(out), text);
    QVERIFY(validUtf8(out));
  }

  void whateverComesIsUtf8Afterwards() {
    std::uint32_t state = 12345;
    for (int round = 0; round < 2000; ++round) {
      std::string bytes;
      for (int k = 0; k < 40; ++k) {
        state = state * 1664525 + 1013904223;
        bytes += char(state >> 24);
      }
      if (round % 3 == 1) bytes = "\xFF\xFE" + bytes;
      if (round % 3 == 2) bytes = "\xFE\xFF" + bytes;
      QVERIFY(validUtf8(asUtf8(bytes)));
      QVERIFY(validUtf8(nameAsUtf8(bytes)));
    }
  }

  void citiesStillStandWhereTheyStood() {
    const auto all = readCities(SOURCE_TREE "/resources/cities/cities.tsv");
    QVERIFY(all);
    QVERIFY(all->size() > 20000);
    const auto found = searchCities(*all, "copenhagen");
    QVERIFY(!found.empty());
    QVERIFY(std::abs(found.front()->latitude - 55.68) < 0.1 && std::abs(found.front()->longitude - 12.57) < 0.1);
    QCOMPARE(found.front()->zone, std::string("Europe/Copenhagen"));
    for (const City& c : *all)
      QVERIFY2(std::abs(c.latitude) <= 90 && std::abs(c.longitude) <= 180 && !c.zone.empty(), c.name.c_str());
  }
};

QTEST_GUILESS_MAIN(TestTables)
#include "tst_tables.moc"
