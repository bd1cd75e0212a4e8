// Tables of stations: how they are written is found, their clocks are told apart, hours are made of their rows.

#ifndef Q_MOC_RUN
#include "core/files/save_file.h"
#include "core/files/station/station_weather.h"
#include "tests/house.h"
#include <xlsxwriter.h>
#endif
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace noonward;
using namespace noonward::test;

namespace {
using Q = Measured;
bool near(double a, double b, double by) {
  return std::abs(a - b) <= by;
}
std::string isoOf(const char* text, DateOrder order = DateOrder::DayFirst) {
  StampForm form;
  form.order = order;
  const auto t = stampOf(text, form);
  if (!t) return "none";
  const int s = int(std::lround(t->time.seconds));
  return fmt::format("{} {:02d}:{:02d}:{:02d}{}", isoText(t->time.date), s / 3600, s / 60 % 60, s % 60,
                     t->utcOffset ? offsetText(*t->utcOffset) : "");
}
bool has(const Findings& list, const char* code) {
  return std::any_of(list.begin(), list.end(), [&](const Finding& f) { return f.code == code; });
}
std::string textOf(const Findings& list, const char* code) {
  for (const Finding& f : list)
    if (f.code == code) return f.text;
  return "";
}
} // namespace

class TestStation : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  std::filesystem::path file(const char* name, const std::string& bytes) {
    const std::filesystem::path path = folder_.filePath(name).toStdString();
    if (!saveFile(path, bytes)) qFatal("no test file");
    return path;
  }
  StationRead read(const std::filesystem::path& path, StationMap map = {}) {
    RunControl control;
    auto r = readStations({path}, map, nullptr, control);
    if (!r) qFatal("%s", r.error().text().c_str());
    return std::move(*r);
  }

private slots:
  void unitsAreKnownByWhateverTheyAreCalled() {
    for (const auto& [quantity, text, name] : {std::tuple{Q::DryBulb, "C", "°C"},
                                               {Q::DryBulb, "degC", "°C"},
                                               {Q::DryBulb, "°F", "°F"},
                                               {Q::DryBulb, "deg F", "°F"},
                                               {Q::Global, "W/m2", "W/m²"},
                                               {Q::Global, "W m-2", "W/m²"},
                                               {Q::Global, "MJ/m²", "MJ/m²"},
                                               {Q::Beam, "kWh/m2", "kWh/m²"},
                                               {Q::Light, "Lux", "lx"},
                                               {Q::Light, "kLux", "klx"},
                                               {Q::Pressure, "hPa", "hPa"},
                                               {Q::Pressure, "mb", "mbar"},
                                               {Q::WindSpeed, "km/h", "km/h"},
                                               {Q::WindSpeed, "m s-1", "m/s"},
                                               {Q::WindSpeed, "knots", "kn"},
                                               {Q::RelativeHumidity, "%", "%"}}) {
      const MeasuredUnit* u = unitNamed(quantity, text);
      QVERIFY2(u != nullptr, text);
      QCOMPARE(std::string(u->name), std::string(name));
    }
    QVERIFY(unitNamed(Q::DryBulb, "W/m²") == nullptr && unitNamed(Q::Light, "hPa") == nullptr &&
            unitNamed(Q::Light, "") == nullptr);
    const MeasuredUnit* f = unitNamed(Q::DryBulb, "°F");
    QVERIFY(near(212 * f->factor + f->offset, 100, 1e-9) && near(32 * f->factor + f->offset, 0, 1e-9));
    QVERIFY(near(unitNamed(Q::WindSpeed, "kn")->factor * 3600, 1852, 1e-9));
    for (std::size_t k = 0; k < measuredCount; ++k) {
      QVERIFY(measuredFromKey(facts(Measured(k)).key) == Measured(k));
      QCOMPARE(unitsOf(Measured(k)).front().factor, k == std::size_t(Q::Rain) ? 3600.0 : 1.0);
    }
  }

  void stampsAreReadInEveryForm() {
    for (const auto& [text, iso] : {std::pair{"2025-06-21 14:05", "2025-06-21 14:05:00"},
                                    {"2025-06-21T14:05:30Z", "2025-06-21 14:05:30+00:00"},
                                    {"2025-06-21T14:05:30+02:00", "2025-06-21 14:05:30+02:00"},
                                    {"2025-06-21T14:05-0330", "2025-06-21 14:05:00-03:30"},
                                    {"21.06.2025 14:05", "2025-06-21 14:05:00"},
                                    {"21/6/25 7:05", "2025-06-21 07:05:00"},
                                    {"2025/06/21 14.05", "2025-06-21 14:05:00"},
                                    {"20250621 1405", "2025-06-21 14:05:00"},
                                    {"202506211405", "2025-06-21 14:05:00"},
                                    {"20250621140530", "2025-06-21 14:05:30"},
                                    {"21 Jun 2025 14:05", "2025-06-21 14:05:00"},
                                    {"Jun 21 2025 2:05 PM", "2025-06-21 14:05:00"},
                                    {"Sat 21 juni 2025 00:10", "2025-06-21 00:10:00"},
                                    {"21-Okt-2025 12:05 AM", "2025-10-21 00:05:00"},
                                    {"2025-12-31 24:00", "2026-01-01 00:00:00"},
                                    {"2024-02-29 01:00", "2024-02-29 01:00:00"},
                                    {"2025-02-29 01:00", "none"},
                                    {"2025-06-21 25:00", "none"},
                                    {"2025-06-21 14:60", "none"},
                                    {"21.13.2025 10:00", "none"},
                                    {"hello", "none"},
                                    {"", "none"},
                                    {"14:05", "none"},
                                    {"2025-06-21 24:01", "none"},
                                    {"2025-06-21 14:05 what", "none"},
                                    {"21.06.2025", "2025-06-21 00:00:00"}})
      QCOMPARE(isoOf(text), std::string(iso));
    QCOMPARE(isoOf("6/21/2025 1:00 PM", DateOrder::MonthFirst), std::string("2025-06-21 13:00:00"));
    StampForm seconds;
    seconds.kind = StampForm::Kind::Seconds;
    QCOMPARE(isoText(utc(stampOf("1750514700", seconds)->time), 0), std::string("2025-06-21T14:05:00+00:00"));
    StampForm days; // 45829.586805… is 21 June 2025 14:05
    days.kind = StampForm::Kind::SheetDays;
    QCOMPARE(isoText(utc(stampOf("45829.5868055556", days)->time), 0), std::string("2025-06-21T14:05:00+00:00"));
  }

  void theOrderOfDayAndMonthIsFound() {
    const auto order = [](std::vector<std::string> rows) { return *stampFormOf(rows); };
    QVERIFY(order({"2025-01-02 00:00", "2025-01-02 01:00"}).order == DateOrder::YearFirst);
    QVERIFY(order({"13/02/2025", "14/02/2025"}).order == DateOrder::DayFirst);
    QVERIFY(order({"02/13/2025", "02/14/2025"}).order == DateOrder::MonthFirst);
    // By what runs on: the first of the months in a row, or days.
    QVERIFY(order({"01/02/2025 00:00", "02/02/2025 00:00", "03/02/2025 00:00"}).order == DateOrder::DayFirst);
    QVERIFY(order({"02/01/2025 00:00", "02/02/2025 00:00", "02/03/2025 00:00"}).order == DateOrder::MonthFirst);
    QVERIFY(order({"05/06/2025 00:00", "05/06/2025 01:00"}).ambiguous);
    const StampForm mixed = order({"13/02/2025", "14/02/2025", "15/02/2025", "02/16/2025"});
    QVERIFY(mixed.order == DateOrder::DayFirst && mixed.otherOrder == 1);
    QVERIFY(!stampFormOf(std::vector<std::string>{"a", "b", "c"}));
    QVERIFY(stampFormOf(std::vector<std::string>{"1750514700", "1750515300"})->kind == StampForm::Kind::Seconds);
    QVERIFY(stampFormOf(std::vector<std::string>{"45829.5", "45829.51"})->kind == StampForm::Kind::SheetDays);
  }

  void tablesAreFoundInTheirTalk() {
    const auto talk =
        file("talk.csv", "Station;Roof\nSerial;7\n\nTid;Lufttemp [\xB0"
                         "C];RF\n;;%\n01.02.2025 00:10;-1,5;81\n01.02.2025 00:20;-1,4;82\n01.02.2025 00:30;-1,4;\n");
    const auto g = guessStation(talk);
    QVERIFY2(g, g ? "" : g.error().text().c_str());
    QVERIFY(g->table.separator == ';' && g->table.decimalComma && g->table.firstRow == 6 && g->step == 600);
    QCOMPARE(g->table.encoding, std::string("Latin-1"));
    QCOMPARE(g->table.names[1], std::string("Lufttemp [°C]"));
    QCOMPARE(g->map.columns.size(), std::size_t(2));
    QVERIFY(g->map.columns[0].is == Q::DryBulb && g->map.columns[0].unit == "°C");
    QVERIFY(g->map.columns[1].is == Q::RelativeHumidity && g->map.columns[1].unit == "%");
    const StationRead r = read(talk);
    QVERIFY(r.rows == 3 && r.used == 3);

    // Tabs, a date and a clock apart, °F by the numbers; a bar; wide characters; a last line without an end.
    const auto tabs = file("tabs.tsv", "Date\tTime\tTemp\tSolar rad\n6/13/2025\t2:00 PM\t86\t1.02\n6/13/2025\t3:00 "
                                       "PM\t88.5\t0.9\n6/13/2025\t4:00 PM\t90\t0.5");
    const auto t = guessStation(tabs);
    QVERIFY2(t, t ? "" : t.error().text().c_str());
    QVERIFY(t->date && t->form.order == DateOrder::MonthFirst && t->step == 3600);
    QCOMPARE(t->map.columns[0].unit, std::string("°F"));
    QCOMPARE(t->map.columns[1].unit, std::string("kW/m²"));
    const StationRead tr = read(tabs);
    const std::int64_t two = tr.means.hourOf(utc({{2025, 6, 13}, 13.5 * 3600}));
    QVERIFY(near(tr.means.mean(two, 0), 30, 1e-9) && near(tr.means.mean(two, 1), 1020, 1e-9));
    std::string wide = "\xFF\xFE";
    for (const char c : std::string("Time|GHI\n2025-06-01 10:00|500\n2025-06-01 10:10|510\n2025-06-01 10:20|520\n")) {
      wide += c;
      wide += '\0';
    }
    const auto w = guessStation(file("wide.txt", wide));
    QVERIFY2(w, w ? "" : w.error().text().c_str());
    QVERIFY(w->table.encoding == "UTF-16" && w->table.separator == '|' && w->map.columns[0].is == Q::Global);
    for (const char* bad : {"", "no table here\n", "a,b\nc,d\n", "1\n2\n3\n4\n"}) {
      const auto none = guessStation(file("bad.csv", bad));
      QVERIFY(!none && none.error().message.find("No table") == 0);
    }
    const auto timeless = guessStation(file("timeless.csv", "a,b\n1,2\n3,4\n5,6\n"));
    QVERIFY(!timeless && timeless.error().message.find("No column of times") == 0);
    QVERIFY(!guessStation(folder_.filePath("nowhere.csv").toStdString()));
    StationMap map;
    map.columns = {{"Lufttmp [°C]", Q::DryBulb, "", ""}};
    const auto lost = guessStation(talk, map);
    QVERIFY(!lost);
    QCOMPARE(lost.error().message, std::string("No column is called \"Lufttmp [°C]\"; \"Lufttemp [°C]\" is one."));
  }

  void aWorkbookIsReadLikeATable() {
    const std::string path = folder_.filePath("book.xlsx").toStdString();
    lxw_workbook* book = workbook_new(path.c_str());
    lxw_worksheet* sheet = workbook_add_worksheet(book, nullptr);
    for (int k = 0; const char* head : {"Time", "Temp (°C)", "GHI"})
      worksheet_write_string(sheet, 0, lxw_col_t(k++), head, nullptr);
    for (int row = 0; row < 12; ++row) {
      worksheet_write_number(sheet, lxw_row_t(row + 1), 0, 45829 + (row + 1) / 144.0, nullptr);
      worksheet_write_number(sheet, lxw_row_t(row + 1), 1, 10 + row, nullptr);
      if (row != 5) worksheet_write_number(sheet, lxw_row_t(row + 1), 2, 100 * row, nullptr);
    }
    QCOMPARE(workbook_close(book), LXW_NO_ERROR);
    const auto g = guessStation(path);
    QVERIFY2(g, g ? "" : g.error().text().c_str());
    QVERIFY(g->form.kind == StampForm::Kind::SheetDays && near(g->step, 600, 0.01));
    const StationRead r = read(path);
    QCOMPARE(r.used, std::size_t(12));
    const std::int64_t h = r.means.hourOf(utc({{2025, 6, 21}, 1800}));
    QVERIFY(near(r.means.mean(h, 0), 12.5, 1e-6) && near(r.means.mean(h, 1), 200, 0.1)); // 0…500 without the sixth
    const auto damaged = guessStation(file("damaged.xlsx", std::string("PK\x03\x04 nothing", 12)));
    QVERIFY(!damaged && damaged.error().message.find("archive") != std::string::npos);
  }

  void hoursShareIntervalsByTheirSeconds() {
    HourMeans m(2, 3600, {false, true});
    const Instant ten = utc({{2025, 5, 1}, 9 * 3600}); // 10:00 standard time
    QVERIFY(m.empty());
    // Half an hour of 100, then an hour of 200 that reaches into the next.
    m.add(ten, 1800, std::vector<double>{100, 350});
    m.add(ten + 1800, 3600, std::vector<double>{200, 10});
    const std::int64_t h = m.hourOf(ten + 1);
    QVERIFY(near(m.mean(h, 0), 150, 1e-12) && near(m.covered(h, 0), 3600, 1e-9));
    QVERIFY(near(m.mean(h, 1), 0, 1e-9) || near(m.mean(h, 1), 360, 1e-9)); // north, not 180
    QVERIFY(near(m.mean(h + 1, 0), 200, 1e-12) && near(m.covered(h + 1, 0), 1800, 1e-9));
    m.add(ten + 7200, 1700, std::vector<double>{5, 5});
    QVERIFY(std::isnan(m.mean(h + 2, 0)) && std::isnan(m.mean(h + 9, 0))); // less than half
    m.add(ten + 7200 + 1700, 200, std::vector<double>{std::nan(""), 5});
    QVERIFY(std::isnan(m.mean(h + 2, 0)) && near(m.mean(h + 2, 1), 5, 1e-9));
    QVERIFY(m.first() == h && m.last() == h + 2);
    QVERIFY(!m.add(utc({{2099, 1, 1}, 0}), 600, std::vector<double>{1, 1}) && m.last() == h + 2);
    // Bins moved are stamps moved.
    HourMeans fine(1, 0, {}, 300), late(1, 0);
    for (int k = 0; k < 6 * 12; ++k) {
      const double v = (k * 37) % 101;
      fine.add({600.0 * k}, 600, std::vector<double>{v});
      late.add({600.0 * k - 1500}, 600, std::vector<double>{v}); // 25 min earlier
    }
    for (int hour = 1; hour < 10; ++hour) QVERIFY(near(fine.meanMoved(hour, 1500, 0), late.mean(hour, 0), 1e-9));
    QVERIFY(!near(fine.mean(3, 0), late.mean(3, 0), 0.5));
  }

  void theLocalClockIsToldApart() {
    // The night of 26 October 2025: 2:00 to 3:00 comes twice; 30 March: it never comes.
    std::string rows = "Time,GHI\n";
    for (const char* t : {"2025-10-26 01:30", "2025-10-26 02:00", "2025-10-26 02:30", "2025-10-26 02:00",
                          "2025-10-26 02:30", "2025-10-26 03:00", "2025-10-26 03:30"})
      rows += std::string(t) + "," + std::to_string(rows.size()) + "\n";
    StationMap map;
    map.clock = "local";
    map.zone = "Europe/Copenhagen";
    map.stamps = StampAt::Begin;
    StationRead r = read(file("autumn.csv", rows), map);
    QVERIFY2(!has(r.findings, "station.back") && !has(r.findings, "station.twice"),
             textOf(r.findings, "station.back").c_str());
    QCOMPARE(r.first, utc({{2025, 10, 25}, 23.5 * 3600}));
    QCOMPARE(r.last, utc({{2025, 10, 26}, 3 * 3600}));
    r = read(file("spring.csv",
                  "Time,GHI\n2025-03-30 01:30,1\n2025-03-30 02:30,2\n2025-03-30 03:30,3\n2025-03-30 04:30,4\n"),
             map);
    QCOMPARE(textOf(r.findings, "station.skipped"),
             std::string("1 row with a time that the local clock skips: first spring.csv, row 3 (2025-03-30 02:30)."));
    // Standard time takes the same rows as a clock that was set back.
    map.clock = "standard";
    r = read(file("autumn.csv", rows), map);
    QVERIFY(has(r.findings, "station.back"));
    map.clock = "utc";
    r = read(file("u.csv", "Time,GHI\n2025-03-30 01:30,1\n2025-03-30 02:30,2\n2025-03-30 03:30,3\n"), map);
    QCOMPARE(r.first, utc({{2025, 3, 30}, 1.5 * 3600}));
    map.clock = "+05:30";
    map.zone = "";
    r = read(file("u.csv", "Time,GHI\n2025-03-30 01:30,1\n2025-03-30 02:30,2\n2025-03-30 03:30,3\n"), map);
    QCOMPARE(r.first, utc({{2025, 3, 29}, 20 * 3600}));
    // Stamps at the end and in the middle; a slip; stamps with an offset of their own.
    map.stamps = StampAt::End;
    map.slip = -30;
    r = read(file("u.csv", "Time,GHI\n2025-03-30 01:30,1\n2025-03-30 02:30,2\n2025-03-30 03:30,3\n"), map);
    QCOMPARE(r.first, utc({{2025, 3, 29}, 18.5 * 3600}));
    r = read(file("o.csv",
                  "Time,GHI\n2025-03-30T12:00:00+02:00,1\n2025-03-30T13:00:00+02:00,2\n2025-03-30T14:00:00+02:00,3\n"));
    QCOMPARE(r.first, utc({{2025, 3, 30}, 9 * 3600}));
    RunControl control;
    StationMap nowhere;
    nowhere.clock = "local";
    const auto none =
        readStations({file("a.csv", "Time,GHI\n2025-03-30 01:30,1\n2025-03-30 02:30,2\n2025-03-30 03:30,3\n")}, nowhere,
                     nullptr, control);
    QVERIFY(!none && none.error().message.find("name its zone") != std::string::npos);
  }

  void faultsAreNamedByRowAndColumn() {
    const StationRead r = read(
        file("faults.csv",
             "Time,Temp [°C],GHI\n"
             "2025-05-01 10:00,12,100\n2025-05-01 10:10,12x,110\n2025-05-01 10:20,130,120\n2025-05-01 10:20,12,120\n"
             "yesterday,12,120\n2025-05-01 10:40\n2025-05-01 10:30,12,130\n2025-05-01 12:00,-999,130\n2025-05-01 "
             "12:10,,\n"));
    QCOMPARE(r.rows, std::size_t(9));
    QCOMPARE(textOf(r.findings, "station.text"),
             std::string("1 cell with something that is no number, taken as missing: first faults.csv, row 3, column "
                         "Temp [°C] (\"12x\")."));
    QVERIFY(textOf(r.findings, "station.range").find("row 4, column Temp [°C] (130 °C)") != std::string::npos);
    QVERIFY(textOf(r.findings, "station.twice").find("row 5") != std::string::npos);
    QVERIFY(textOf(r.findings, "station.time").find("row 6 (\"yesterday\")") != std::string::npos);
    QVERIFY(textOf(r.findings, "station.back").find("row 8") != std::string::npos);
    QVERIFY(has(r.findings, "station.gaps"));
    QCOMPARE(r.faults.size(), std::size_t(5));
    RunControl control;
    const auto empty =
        readStations({file("none.csv", "Time,GHI\nx1-1,-\ny1-2,-\nz1-3,-\n2025-01-01 00:00,-\n2025-01-01 "
                                       "01:00,-\n2025-01-01 02:00,-\n2025-01-01 03:00,-\n")},
                     {}, nullptr, control);
    QVERIFY2(!empty, "rows without a value make nothing");
    const auto far = readStations(
        {file("far.csv", "Time,GHI\n1950-01-01 00:00,1\n1950-01-01 01:00,1\n1950-01-01 02:00,1\n2125-01-01 00:00,1\n")},
        {}, nullptr, control);
    QVERIFY(!far && far.error().message.find("a date is wrong") != std::string::npos);
    // Stopped in the middle: what it was asked.
    RunControl stop;
    stop.wish = Wish::Drop;
    const auto dropped = readStations(
        {file("s.csv", "Time,GHI\n2025-01-01 00:00,1\n2025-01-01 01:00,1\n2025-01-01 02:00,1\n")}, {}, nullptr, stop);
    QVERIFY(dropped && dropped->end == RunEnd::Dropped);
  }

  void filesAreJoinedByTheirColumns() {
    const auto a = file("a.csv", "Time,Temp [°C]\n2025-05-01 11:00,12\n2025-05-01 12:00,13\n2025-05-01 13:00,14\n"),
               b = file(
                   "b.csv",
                   "Time;GHI;Temp [°C]\n01.05.2025 12:00;500,5;99\n01.05.2025 13:00;600;15\n01.05.2025 14:00;700;16\n");
    RunControl control;
    StationMap map;
    map.dates = DateOrder::DayFirst;
    const auto r = readStations({a, b}, map, nullptr, control);
    QVERIFY2(r, r ? "" : r.error().text().c_str());
    QCOMPARE(r->columns.size(), std::size_t(2));
    const std::int64_t h = r->means.hourOf(utc({{2025, 5, 1}, 11.5 * 3600}));
    QVERIFY(near(r->means.mean(h, 0), 13, 1e-9)); // 99 °C is no air
    QVERIFY(near(r->means.mean(h, 1), 500.5, 1e-9));
    QVERIFY(near(r->means.mean(h + 1, 0), 14.5, 1e-9)); // both files
    QVERIFY(near(r->means.mean(h + 2, 0), 16, 1e-9));
  }

  void mapsAreReadAndWritten() {
    const auto m = stationMapFromJson(
        R"({"format": "noonward-station-map", "place": {"name": "Roof", "latitude": 55.6, "longitude": 12.5, "elevation": 9},
      "clock": "local", "zone": "Europe/Copenhagen", "stamps": "middle", "step": 60, "slip": -12.5, "year": 2024, "separator": "tab", "decimal": ",", "dates": "mdy",
      "time": "T", "date": "D", "columns": [{"column": "a", "is": "light", "unit": "klx", "sensor": "Hall 3"}, {"column": 4, "is": "global"}],
      "split": "erbs", "gaps": {"interpolate": 2, "days": 5, "file": "other.epw"}})",
        "m.json");
    QVERIFY2(m, m ? "" : m.error().text().c_str());
    QVERIFY(m->columns.size() == 2 && m->columns[0].sensor == "Hall 3" && m->columns[1].column == "4");
    const auto again = stationMapFromJson(stationMapJson(*m).dump(), "m.json");
    QVERIFY2(again, again ? "" : again.error().text().c_str());
    QCOMPARE(stationMapJson(*again).dump(), stationMapJson(*m).dump());
    QVERIFY(again->columns == m->columns && again->gaps == m->gaps && again->slip == -12.5 &&
            again->table.separator == '\t');
    for (const auto& [text, says] :
         {std::pair{R"({"clock": "noon"})", "clock"},
          {R"({"columns": {"dry-bulp": "T"}})", "dry-bulp"},
          {R"({"columns": {"dry-bulb": {"column": "T", "unit": "lx"}}})", "\"lx\" is no unit of dry-bulb: °C, °F, K."},
          {R"({"place": {"latitude": 95, "longitude": 1}})", "latitude"},
          {R"({"split": "best"})", "split"},
          {R"({"colums": {}})", "\"colums\" is no key here"},
          {R"({"gaps": {"days": -1}})", "days"},
          {R"({"stamps": "late"})", "\"begin\""},
          {"[", "m.json"}}) {
      const auto bad = stationMapFromJson(text, "m.json");
      QVERIFY2(!bad, text);
      QVERIFY2(bad.error().text().find(says) != std::string::npos, bad.error().text().c_str());
    }
  }
};

QTEST_GUILESS_MAIN(TestStation)
#include "tst_station.moc"
