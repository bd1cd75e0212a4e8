// What light costs, by mouse and keyboard: constructions and uses given, the year run by a question, July's cooling
// looked into, glass and shade changed, the Almanac, undo.

#ifndef Q_MOC_RUN
#include "app/charts/energy_bars.h"
#include "app/steps/studies_sheet.h"
#include "core/model/heat_library.h"
#include "core/studies/energy/energy_reading.h"
#include "tests/app/driver.h"
#include "tests/energy_house.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QTableWidget>
#endif

using namespace noonward;
using namespace noonward::test;

class TestEnergyWindow : public QObject {
  Q_OBJECT

private slots:
  void aRoomIsAskedWhatItsLightCosts() {
    auto w = openWindow();
    w->document().startNew(energyHouse());
    const auto project = [&]() -> const Project& { return w->document().project(); };
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    press(*w, "What light costs in these rooms");
    const auto current = [&] { return w->studies().current(); };
    QTRY_COMPARE_WITH_TIMEOUT(project().studies.size(), std::size_t(1), 10000);
    const auto energy = [&]() -> std::shared_ptr<const EnergyYear> {
      const auto a = current();
      return a && !a->partial && a->painted && a->painted->light ? a->painted->light->energy : nullptr;
    };
    QTRY_VERIFY_WITH_TIMEOUT(energy() && !energy()->rooms.empty(), 120000);
    const EnergyRoom room = energy()->rooms[0];
    const EnergyParts y = room.year();
    // The table has the room's figures, the words those of all rooms.
    auto* table = named<QTableWidget>(*w, "Light in rooms");
    QTRY_COMPARE(table->rowCount(), 1);
    QCOMPARE(table->horizontalHeaderItem(1)->text(), QString("heat"));
    QCOMPARE(table->item(0, 1)->text(), QString::number(y.heating / room.floorArea, 'f', 1));
    QCOMPARE(table->item(0, 2)->text(), QString::number(-y.cooling / room.floorArea, 'f', 1));
    QTRY_VERIFY2(named<QLabel>(*w, "The building's year")->text().startsWith("All rooms, 29 m²: heating "),
                 qPrintable(named<QLabel>(*w, "The building's year")->text()));
    // July is clicked: its cooling and what warms the room.
    auto* bars = named<EnergyBars>(*w, "Gains and losses by month");
    QVERIFY(bars->isVisibleTo(w.get()) && bars->text().contains("sun, "));
    clickAt(bars, {bars->width() * 6.5 / 12, 60});
    auto* why = named<QLabel>(*w, "Why heating or cooling is so high");
    QTRY_VERIFY2(why->text().contains("Cooling takes ") && why->text().contains("in July"), qPrintable(why->text()));
    QTest::keyClick(bars, Qt::Key_Right);
    QTRY_VERIFY(why->text().contains("in August"));
    press(*w, "The whole year");
    QTRY_VERIFY(why->text().contains("a year"));
    // The season of the Almanac is told by itself; a file weighs what is paid for.
    auto* season = named<QLabel>(*w, "Energy in the season");
    w->document().look([](Looking& l) {
      l.season = {};
      l.season.fromMonth = 7;
      l.season.toMonth = 7;
    });
    QTRY_VERIFY2(season->isVisibleTo(w.get()) && season->text().startsWith("In the season, 1 Jul") &&
                     season->text().contains("cooling "),
                 qPrintable(season->text()));
    w->document().look([](Looking& l) { l.season = {}; });
    QTRY_VERIFY(!season->isVisibleTo(w.get()));
    auto* sheet = w->findChild<StudiesSheet*>();
    sheet->takeWeights(SOURCE_TREE "/resources/energy/brevholm-weights.json");
    auto* weighed = named<QLabel>(*w, "Energy by weights");
    QTRY_VERIFY2(weighed->isVisibleTo(w.get()) && weighed->text().startsWith("Price ") &&
                     weighed->text().contains("Carbon "),
                 qPrintable(weighed->text()));
    QCOMPARE(project().heat.weights.size(), std::size_t(2));
    sheet->takeWeights(SOURCE_TREE "/README.md"); // no weights: told, nothing changed
    QCOMPARE(project().heat.weights.size(), std::size_t(2));
    // The room is chosen: the Almanac shows when it is heated and cooled.
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, table->visualItemRect(table->item(0, 0)).center());
    QTRY_VERIFY(why->text().startsWith("Hall. "));
    auto* plot = named<AlmanacPlot>(*w, "Almanac");
    const QString said = plot->textAt({project().site.year, 1, 15}, 9 * 60);
    QVERIFY2(said.contains("heated with") && said.contains("W/m²"), qPrintable(said));
    choose(*w, "Picture of the year", "temperature of the room");
    QVERIFY(plot->textAt({project().site.year, 7, 15}, 14 * 60).contains("°C, operative"));

    // Another use: what was changed of it is told.
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    choose(*w, "Use of the room", "classroom");
    QCOMPARE(project().rooms[0].use, std::string("classroom"));
    press(*w, "Uses");
    choose(*w, "Use looked at", "office");
    QVERIFY(!named<QLineEdit>(*w, "Heat to")->isEnabled()); // it ships
    press(*w, "Make my own use");
    QCOMPARE(project().heat.uses.size(), std::size_t(1));
    fill(*w, "Heat to", "21");
    QCOMPARE(project().heat.uses[0].heatTo, 21.0);
    QVERIFY2(named<QLabel>(*w, "What the use is")->text().contains("Changed: heat to 20 °C → 21 °C"),
             qPrintable(named<QLabel>(*w, "What the use is")->text()));
    fill(*w, "Heat to", "40"); // above what it cools to
    QCOMPARE(project().heat.uses[0].heatTo, 21.0);
    QCOMPARE(named<QLineEdit>(*w, "Heat to")->text(), QString("21 °C"));
    fill(*w, "Name of the use", "study hall");
    choose(*w, "Use of the room", "study hall");
    QCOMPARE(project().rooms[0].use, std::string("study hall"));

    // A construction of one's own.
    QTest::keyClick(w.get(), Qt::Key_3, Qt::AltModifier);
    press(*w, "Constructions");
    choose(*w, "Construction looked at", "Wall, solid brick");
    press(*w, "Make my own construction");
    fill(*w, "U-value of the construction", "2.5");
    QCOMPARE(project().heat.constructions[0].uValue, 2.5);
    fill(*w, "U-value of the construction", "25");
    QCOMPARE(project().heat.constructions[0].uValue, 2.5);
    auto* walls = named<QComboBox>(*w, "Construction of outer walls");
    choose(*w, "Construction of outer walls", walls->itemText(0));
    QCOMPARE(project().heat.wall, std::string("Wall, solid brick, own"));
    choose(*w, "Thermal mass", "heavy");
    QCOMPARE(project().heat.mass, ThermalMass::Heavy);

    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    // Nothing was traced again: the answer followed by itself.
    QTRY_VERIFY_WITH_TIMEOUT(energy() && energy()->rooms[0].use == "study hall", 120000);
    QTRY_VERIFY_WITH_TIMEOUT(energy() && energy()->rooms[0].year().heating > 1.2 * y.heating, 30000);
    // Steps back are steps back.
    w->document().undo();
    QCOMPARE(project().heat.mass, ThermalMass::Medium);
    w->document().undo();
    QVERIFY(project().heat.wall.empty());
  }

  void whatIsBehindAWallIsSeenAndSaid() {
    auto w = openWindow();
    Project p = energyHouse();
    Room store = p.rooms[0];
    store.id = {2};
    store.name = "Store";
    store.outline = rectangle(5.8, 0.3, 9.7, 5.7); // behind the east wall
    p.rooms.push_back(store);
    w->document().startNew(p);
    const auto project = [&]() -> const Project& { return w->document().project(); };
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    choose(*w, "Rooms coloured by", "heat loss by floor area");
    auto& stage = w->stage();
    auto* list = named<QListWidget>(*w, "Surfaces of the room");
    const auto wall = [&](double x, double y) { return *stage.pixelOf({x, y, 0.05}); };
    QTRY_VERIFY(stage.surfaceUnder(wall(3, 0.3)) == std::pair(std::uint64_t(1), 0)); // once the roof is off
    clickAt(&stage, wall(3, 0.3));
    QTRY_VERIFY2(list->currentItem() && list->currentItem()->text().startsWith("South wall 1"),
                 qPrintable(list->currentItem() ? list->currentItem()->text() : QString("nothing")));
    QVERIFY(list->currentItem()->text().contains("to the outdoors"));
    auto* facts = named<QLabel>(*w, "What the room loses");
    const QString before = facts->text();
    choose(*w, "Behind the surface", "unheated");
    QTRY_COMPARE(project().heat.surfaces.size(), std::size_t(1));
    QVERIFY(project().heat.surfaces[0] == (HeatSurface{{1}, 0, Beyond::Unheated, ""}));
    QTRY_VERIFY(list->currentItem() && list->currentItem()->text().contains("to an unheated space"));
    QVERIFY(list->currentItem()->text().endsWith("as you said") && facts->text() != before);
    choose(*w, "Construction of the surface", "Wall, solid brick");
    QTRY_COMPARE(project().heat.surfaces[0].construction, std::string("Wall, solid brick"));
    // The wall between the two rooms; the floor; what is said is taken back.
    clickAt(&stage, wall(5.7, 3));
    QTRY_VERIFY(list->currentItem() && list->currentItem()->text().contains("to Store"));
    clickAt(&stage, wall(2, 2));
    QTRY_VERIFY(list->currentItem() && list->currentItem()->text().startsWith("Floor"));
    clickAt(&stage, wall(3, 0.3));
    QTRY_VERIFY(list->currentItem() && list->currentItem()->text().startsWith("South wall 1"));
    choose(*w, "Construction of the surface", "the usual one");
    choose(*w, "Behind the surface", "as drawn");
    QTRY_VERIFY(project().heat.surfaces.empty());
    w->document().undo();
    QCOMPARE(project().heat.surfaces.size(), std::size_t(1));
    // Another room in the table: its surfaces, and no wall of the first.
    auto* table = named<QTableWidget>(*w, "Rooms table");
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, table->visualItemRect(table->item(1, 0)).center());
    QTRY_VERIFY(!w->document().looking().heatSurface);
    QTRY_VERIFY(list->count() > 3 && !list->currentItem());
  }
};

QTEST_MAIN(TestEnergyWindow)
#include "tst_energy_window.moc"
