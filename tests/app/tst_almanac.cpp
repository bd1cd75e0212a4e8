// The Almanac's mapping by rows of data, then by hand on the real widget.

#ifndef Q_MOC_RUN
#include "tests/app/driver.h"
#endif

using namespace noonward;
using namespace noonward::test;

namespace {
AlmanacGeometry plain(const char* zone = "Europe/Copenhagen", double latitude = 55.6, double longitude = 12.5) {
  return {0, 0, 730, 144, 2026, *Zone::named(zone), {radians(latitude), radians(longitude), 0}, ClockKind::Clock};
}
} // namespace

class TestAlmanac : public QObject {
  Q_OBJECT
private slots:
  void pixelsAndMomentsAgree_data() {
    QTest::addColumn<QString>("zone");
    QTest::addColumn<int>("clock");
    for (const char* z : {"Europe/Copenhagen", "Pacific/Auckland", "UTC-05:30"})
      for (int c = 0; c < 3; ++c) QTest::newRow(qPrintable(QString("%1 %2").arg(z).arg(c))) << QString(z) << c;
  }
  void pixelsAndMomentsAgree() {
    QFETCH(QString, zone);
    QFETCH(int, clock);
    AlmanacGeometry g = plain(qPrintable(zone));
    g.clock = ClockKind(clock);
    for (int day = 0; day < 365; day += 7)
      for (double minutes : {5.0, 605.0, 1205.0}) {
        const Date d = plusDays({2026, 1, 1}, day);
        const auto r = g.reading(g.instant(d, minutes));
        QCOMPARE(r.date, d);
        QVERIFY(std::abs(r.minutes - minutes) < 1e-3);
        QCOMPARE(g.dateAt(g.x(d) + 1), d);
        QVERIFY(std::abs(g.minutesAt(g.y(minutes)) - minutes) < 1e-9);
      }
  }

  void clockChangesAreSteps() {
    AlmanacGeometry g = plain();
    QCOMPARE(g.instant({2026, 3, 29}, 180) - g.instant({2026, 3, 29}, 60), 3600.0);    // 1:00 to 3:00 is one hour
    QCOMPARE(g.reading(moved(g, g.instant({2026, 3, 28}, 720), 1, 0)).minutes, 720.0); // a day on, the same clock
    g.clock = ClockKind::Standard;
    QCOMPARE(g.instant({2026, 3, 29}, 180) - g.instant({2026, 3, 29}, 60), 7200.0);
    g.clock = ClockKind::Solar;
    const SolarPosition noon = solarPosition(sunOfDate(g.instant({2026, 8, 9}, 720)), g.place);
    QVERIFY(std::abs(degrees(noon.azimuth) - 180) < 0.4);
  }

  void momentsStayWithinTheYear() {
    const AlmanacGeometry g = plain();
    QCOMPARE(g.reading(moved(g, g.instant({2026, 12, 31}, 600), 1, 0)).date, (Date{2026, 1, 1}));
    QCOMPARE(g.reading(moved(g, g.instant({2026, 1, 1}, 600), -1, 0)).date, (Date{2026, 12, 31}));
    QCOMPARE(g.reading(moved(g, g.instant({2026, 1, 1}, 0), 0, -5)).date, (Date{2026, 1, 1}));
  }

  void seasonsAreMarkedAcrossNewYear() {
    const AlmanacGeometry g = plain();
    const auto summer = seasonOf(g, g.x({2026, 8, 1}), g.y(1080), g.x({2026, 6, 1}) + 0.5, g.y(480)); // drawn backwards
    QVERIFY(summer);
    QCOMPARE(seasonText(*summer), std::string("1 Jun–1 Aug · 8:00–18:00"));
    const auto winter = seasonOf(g, g.x({2026, 11, 10}) + 0.5, g.y(540), g.width + g.x({2026, 2, 5}) + 0.5, g.y(900));
    QCOMPARE(seasonText(*winter), std::string("10 Nov–5 Feb · 9:00–15:00"));
    const auto boxes = boxesOf(g, *winter);
    QCOMPARE(boxes.size(), std::size_t(2));
    QVERIFY(std::abs(boxes[0].width + boxes[1].width - (52 + 36) * g.dayWidth()) < 1e-9);
    QVERIFY(!seasonOf(g, 10, 10, 10.5, 10.5));
  }

  void clicksAndKeysSetTheMoment() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy()));
    AlmanacPlot* plot = w->almanac().plot();
    const AlmanacGeometry g = plot->geometryNow();
    const auto reading = [&] { return plot->geometryNow().reading(w->document().looking().moment); };
    clickAt(plot, {g.x({2026, 12, 21}) + g.dayWidth() / 2, g.y(605)});
    QVERIFY(std::abs(dayOfYear(reading().date) - dayOfYear({2026, 12, 21})) <= 1);
    QVERIFY(std::abs(reading().minutes - 605) < 20);
    const Instant before = w->document().looking().moment;
    QTest::keyClick(plot, Qt::Key_Right);
    QCOMPARE(w->document().looking().moment - before, 300.0);
    const Date day = reading().date;
    QTest::keyClick(plot, Qt::Key_Up);
    QCOMPARE(dayNumber(reading().date), dayNumber(day) + 1);
    QTest::keyClick(plot, Qt::Key_Space); // plays
    QVERIFY(w->almanac().playing());
    const Instant playing = w->document().looking().moment;
    QTRY_VERIFY(w->document().looking().moment != playing);
    QTest::keyClick(plot, Qt::Key_Space);
    QVERIFY(!w->almanac().playing());
    drag(plot, {g.x({2026, 11, 20}), g.y(540)}, {g.left + g.width + 40, g.y(900)}, Qt::LeftButton, Qt::ShiftModifier);
    const Season s = w->document().looking().season;
    QVERIFY2(s.fromMonth == 11 && s.toMonth == 1, seasonText(s).c_str()); // past the rim: on into January
    click(named<QPushButton>(*w, "Season shortest day"));
    QCOMPARE(reading().date, (Date{2026, 12, 21}));
    choose(*w, "Clock", "solar time");
    QCOMPARE(w->document().looking().clock, ClockKind::Solar);
    QVERIFY(plot->textAt({2026, 6, 21}, 720).contains("altitude 57.8° · azimuth 180°"));
  }

  void southernAndPolarYears() {
    auto w = openWindow();
    QVERIFY(w->openProject(demoCopy("tarrow-green.noonward")));
    click(named<QPushButton>(*w, "Season shortest day"));
    QCOMPARE(w->almanac().plot()->geometryNow().reading(w->document().looking().moment).date, (Date{2026, 6, 21}));
    Project p = w->document().project();
    p.site.place.latitude = radians(-75);
    w->document().change(p, "go south");
    QVERIFY(w->almanac().plot()->textAt({2026, 6, 21}, 720).contains("sun down"));
    QVERIFY(w->almanac().plot()->textAt({2026, 12, 21}, 0).contains("altitude"));
    QVERIFY(!w->almanac().plot()->grab().isNull());
    QVERIFY(settled(*w));
  }
};

QTEST_MAIN(TestAlmanac)
#include "tst_almanac.moc"
