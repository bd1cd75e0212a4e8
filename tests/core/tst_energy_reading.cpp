// What a year of energy is read as: causes that add up, months, the words for why, constructions of layers, uses that
// tell what was changed, and runs that take over what the one before learnt.

#ifndef Q_MOC_RUN
#include "core/model/heat_library.h"
#include "core/model/options.h"
#include "core/runs/beside.h"
#include "core/studies/energy/energy_kept.h"
#include "core/studies/energy/energy_reading.h"
#include "core/yardsticks/questions.h"
#include "tests/energy_house.h"
#include <cmath>
#endif
#include <QTest>

using namespace noonward;
using namespace noonward::test;

namespace {
double sumOf(const EnergyRoom& r, EnergyCauseKind kind, std::size_t month) {
  double sum = 0;
  for (const EnergyCause& c : r.causes)
    if (c.kind == kind) sum += c.months[month];
  return sum;
}
/// A room of which only what is read is filled: cooled on one July afternoon, heated in one January night.
EnergyRoom madeUp() {
  EnergyRoom r;
  r.name = "Hall";
  r.floorArea = 50;
  r.hours.assign(hoursOfYear, {});
  const auto record = [](int day, int hour) { return std::size_t(24 * (day - 1) + hour); };
  for (int h = 13; h < 17; ++h) r.hours[record(195, h)].cooling = h == 15 ? -2500.0f : -1000.0f; // 14 July
  r.hours[record(10, 3)].heating = 4000;
  r.months[6].cooling = -5.5;
  r.months[0].heating = 4;
  r.causes = {{EnergyCauseKind::Heating, "heating", {}}, {EnergyCauseKind::Cooling, "cooling", {}},
              {EnergyCauseKind::People, "people", {}},   {EnergyCauseKind::Sun, "sun, South", {}},
              {EnergyCauseKind::Windows, "windows", {}}, {EnergyCauseKind::Walls, "walls", {}},
              {EnergyCauseKind::Sun, "sun, East", {}}};
  const auto set = [&](std::size_t c, std::size_t month, double v) { r.causes[c].months[month] = v; };
  set(0, 0, 4);
  set(1, 6, -5.5);
  set(2, 6, 2);
  set(3, 6, 6);
  set(4, 6, -1);
  set(4, 0, -3);
  set(5, 0, -1);
  set(6, 6, 0.1); // too little to be named
  return r;
}
} // namespace

class TestEnergyReading : public QObject {
  Q_OBJECT
private slots:
  void causesAddUpToTheParts() {
    const LightResult r = ran(energyHouse());
    const EnergyRoom& room = r.energy->rooms.at(0);
    using K = EnergyCauseKind;
    for (std::size_t m = 0; m < 12; ++m) {
      const EnergyParts& p = room.months[m];
      const auto same = [&](double causes, double part) {
        QVERIFY2(std::abs(causes - part) < 1e-9 * (1 + std::abs(part)), qPrintable(QString::number(causes - part)));
      };
      same(sumOf(room, K::Heating, m), p.heating);
      same(sumOf(room, K::Cooling, m), p.cooling);
      same(sumOf(room, K::Lighting, m), p.lighting);
      same(sumOf(room, K::Sun, m), p.solar);
      same(sumOf(room, K::People, m) + sumOf(room, K::Equipment, m), p.internal);
      same(sumOf(room, K::Windows, m) + sumOf(room, K::Walls, m) + sumOf(room, K::Roof, m) + sumOf(room, K::Ground, m) +
               sumOf(room, K::ExposedFloor, m),
           p.transmission);
      same(sumOf(room, K::Ventilation, m) + sumOf(room, K::Leakage, m), p.ventilation);
    }
    // The year closes: what comes in goes out.
    double all = 0, gains = 0;
    for (const EnergyShare& s : energyShares(room, std::nullopt)) {
      all += s.kwh;
      gains += std::max(0.0, s.kwh);
    }
    QVERIFY(gains > 100 && std::abs(all) < 1e-3 * gains);
    // Walls and roof lose by their areas and U-values, between the same two temperatures.
    const double walls = sumOf(room, K::Walls, 0), roof = sumOf(room, K::Roof, 0);
    Project p = energyHouse();
    p.heat.constructions = {{"R", 0.30, {}, "", false}}; // twice the library's
    p.heat.roof = "R";
    const LightResult twice = ran(p);
    const EnergyRoom& other = twice.energy->rooms.at(0);
    const double before = roof / walls, after = sumOf(other, K::Roof, 0) / sumOf(other, K::Walls, 0);
    QVERIFY2(std::abs(after / before - 2) < 1e-9, qPrintable(QString::number(after / before)));
  }

  void sharesStandInOrderAndMonthsApart() {
    const EnergyRoom r = madeUp();
    QStringList july;
    for (const EnergyShare& s : energyShares(r, 6)) july << QString("%1 %2").arg(s.name.c_str()).arg(s.kwh);
    QCOMPARE(july, (QStringList{"sun, South 6", "people 2", "sun, East 0.1", "cooling -5.5", "windows -1"}));
    QCOMPARE(energyShares(r, 3).size(), std::size_t(0));
    QCOMPARE(energyShares(r, std::nullopt).size(), std::size_t(7));
    QCOMPARE(QString::fromStdString(demandText(r, 6, {})),
             QString("heating 0.0, cooling 0.1, lighting 0.0 kWh/m² in July"));
  }

  void whyIsToldWithCausesAndHours() {
    Project p = energyHouse();
    QCOMPARE(
        QString::fromStdString(whyText(p, madeUp(), 6)),
        QString("Cooling takes 5.5 kWh in July, 0.1 kWh/m². Of what warms it then: sun, South 74 %; people 25 %. It "
                "cools in 4 hours, 4 of them from 12:00 to 18:00; 2.5 kW at most, 14 Jul 16:00."));
    const QString january = QString::fromStdString(whyText(p, madeUp(), 0));
    QVERIFY2(january.startsWith("Heating takes 4.0 kWh in January") && january.contains("windows 75 %; walls 25 %") &&
                 january.contains("4.0 kW at most, 10 Jan 3:00"),
             qPrintable(january));
    QVERIFY(whyText(p, madeUp(), 3).starts_with("Neither heating nor cooling is needed in April"));
    p.units.length = LengthUnit::Foot;
    const QString feet = QString::fromStdString(whyText(p, madeUp(), 6));
    QVERIFY2(feet.startsWith("Cooling takes 19 kBtu in July") || feet.startsWith("Cooling takes 18.8 kBtu in July"),
             qPrintable(feet));
    p.site.weather = nullptr;
    QVERIFY(whyText(p, madeUp(), 6).empty());
  }

  void roomsTogetherAreTheirSums() {
    EnergyYear y;
    QVERIFY(!allRooms(y));
    y.rooms = {madeUp(), madeUp()};
    y.rooms[1].floorArea = 150;
    for (EnergyHour& h : y.rooms[0].hours) h.operative = 20;
    for (EnergyHour& h : y.rooms[1].hours) h.operative = 24;
    const auto all = allRooms(y);
    QVERIFY(all && all->floorArea == 200 && all->months[6].cooling == -11);
    QCOMPARE(all->causes.size(), std::size_t(7));
    QCOMPARE(all->causes[3].months[6], 12.0);
    QCOMPARE(double(all->hours[0].operative), 23.0);
    QCOMPARE(all->peakCooling, 5000.0);
    const std::vector<float> load = energySeries(*all, EnergySeries::Load);
    QCOMPARE(load.size(), std::size_t(hoursOfYear));
    QCOMPARE(double(load[all->peakCoolingHour]), -25.0); // 5 kW over 200 m²
    QCOMPARE(double(energySeries(*all, EnergySeries::Temperature)[5]), 23.0);
  }

  void layersGiveUAndWhatTheyHold() {
    // Brick, wool, block by hand: 0.04 + 0.108/0.77 + 0.15/0.035 + 0.1/0.5 + 0.13 = 4.7960 m²K/W.
    Construction c{"Cavity", 9, {}, "", false};
    c.layers = {{"brick", 0.108, 0.77, 1700, 840}, {"wool", 0.15, 0.035, 40, 900}, {"block", 0.1, 0.5, 1200, 1000}};
    QVERIFY(std::abs(uValueOf(c, HeatFlow::Wall) - 1 / 4.7959740) < 1e-6);
    QVERIFY(std::abs(1 / uValueOf(c, HeatFlow::Roof) - (4.7959740 - 0.03)) < 1e-6);
    QVERIFY(std::abs(1 / uValueOf(c, HeatFlow::ExposedFloor) - (4.7959740 + 0.04)) < 1e-6);
    QVERIFY(std::abs(1 / uValueOf(c, HeatFlow::Ground) - (4.7959740 + 0.04 - 0.04)) < 1e-6);
    QCOMPARE(*heldHeat(c), 0.1 * 1200 * 1000); // the wool ends it
    c.layers.push_back({"plaster", 0.012, 0.5, 1200, 1000});
    QVERIFY(std::abs(*heldHeat(c) - (0.012 + 0.088) * 1200 * 1000) < 1e-6);
    c.layers.push_back({"cork", 0.02, 0.045, 150, 1800});
    QCOMPARE(*heldHeat(c), 0.0); // lined with what insulates
    c.layers.clear();
    QVERIFY(!heldHeat(c) && uValueOf(c, HeatFlow::Wall) == 9);
    // A wall of layers loses what a wall of its U-value loses.
    Project p = energyHouse(), q = p;
    Construction wall{"Layers", 5, {{"wool", 0.2, 0.04, 40, 900}}, "", false};
    p.heat.constructions = {wall};
    p.heat.wall = "Layers";
    wall.uValue = uValueOf(wall, HeatFlow::Wall);
    wall.layers.clear();
    q.heat.constructions = {wall};
    q.heat.wall = "Layers";
    QCOMPARE(ran(p).energy->rooms[0].year().heating, ran(q).energy->rooms[0].year().heating);
  }

  void aCopyOfAUseTellsWhatWasChanged() {
    RoomUse u = libraryUses()[0];
    u.name = "mine";
    u.locked = false;
    QVERIFY(changedText(u).empty()); // of nothing known
    u.copyOf = "office";
    QVERIFY(changedText(u).empty());
    u.equipment = 4;
    u.beginMinute = 7 * 60;
    u.control = LightingControl::Always;
    QCOMPARE(
        QString::fromStdString(changedText(u)),
        QString("equipment 7 W/m² → 4 W/m², lamps are dimmed by daylight → on while in use, in use from 8:00 → 7:00"));
  }

  void whatOneRunLearntTheNextTakesOver() {
    Project p = energyHouse();
    StudyRunner runner(nullptr);
    RunControl control;
    const auto asked = [&](const Project& of) {
      const auto in = lightInput(of, energyStudy(BlindRule::Standard));
      return runner.light(*in, control, "Energy");
    };
    const auto first = asked(p);
    QVERIFY(first && (*first)->energy);
    // Heat alone is changed: the very figures of a run by itself.
    Glazing own = libraryGlazings().front();
    own.name = "Own";
    p.glazings = {own};
    p.windowRules[0].glazing = "Own";
    (void)asked(p);
    p.glazings[0].solarFactor = 0.3;
    p.glazings[0].uValue = 0.9;
    p.heat.mass = ThermalMass::Heavy;
    p.heat.closedBlinds = 0.2;
    RoomUse u = libraryUses()[1];
    u.name = "mine";
    u.locked = false;
    u.target = 400;
    p.heat.uses = {u};
    p.rooms[0].use = "mine";
    const auto next = asked(p);
    const LightResult fresh = ran(p, energyStudy(BlindRule::Standard));
    QCOMPARE(runner.computed(), 3);
    QCOMPARE((*next)->value, fresh.value);
    // Other windows are learnt anew; so is the house without what is proposed.
    p.windowRules[0].ratio = 0.15;
    QCOMPARE((*asked(p))->value, ran(p, energyStudy(BlindRule::Standard)).value);
    const auto before = lightInput(p, energyStudy(BlindRule::Standard), true);
    QVERIFY(before);
    RunControl alone;
    QCOMPARE((*runner.light(*before, control, "Energy"))->value, runLight(*before, alone).value);
  }

  void otherBlindsTraceNothingAgain() {
    const Project p = energyHouse(0.5);
    auto kept = std::make_shared<EnergyKept>();
    RunControl control;
    const auto asked = [&](const Study& s) {
      const auto in = lightInput(p, s, false, {}, kept);
      if (!in) throw std::runtime_error(in.error().text());
      const bool known = answeredByKept(*in);
      return std::pair(known, runLight(*in, control));
    };
    QVERIFY(!asked(energyStudy(BlindRule::Never)).first);
    std::vector<double> cooling;
    for (const BlindRule rule : {BlindRule::Standard, BlindRule::Always, BlindRule::Schedule, BlindRule::Never}) {
      const auto [known, result] = asked(energyStudy(rule));
      QVERIFY(known);
      const LightResult fresh = ran(p, energyStudy(rule));
      QCOMPARE(result.value, fresh.value);
      QVERIFY(result.key == fresh.key);
      cooling.push_back(-result.energy->rooms[0].year().cooling);
    }
    QVERIFY(cooling[1] < cooling[0] && cooling[0] < cooling[3]); // always shut, by the standard, never
    // Another fabric is known too; fabric that throws light back is traced, another grid as well.
    Study other = energyStudy(BlindRule::Standard);
    other.year.fabricDiffuse = 0.2;
    QVERIFY(asked(other).first);
    other.year.fabricReflectance = 0.5;
    QVERIFY(!answeredByKept(*lightInput(p, other, false, {}, kept)));
    Project finer = p;
    std::get<RoomGrid>(finer.groups[0].layout).spacing = 0.9;
    QVERIFY(!answeredByKept(*lightInput(finer, energyStudy(), false, {}, kept)));
  }

  void anyStretchOfHoursIsReadAlone() {
    const EnergyRoom room = ran(energyHouse()).energy->rooms[0];
    const EnergyParts whole = partsOf(room, std::vector<bool>(8760, true)), year = room.year();
    for (double EnergyParts::*part :
         {&EnergyParts::heating, &EnergyParts::cooling, &EnergyParts::lighting, &EnergyParts::solar,
          &EnergyParts::internal, &EnergyParts::transmission, &EnergyParts::ventilation})
      QVERIFY2(std::abs(whole.*part - year.*part) < 1e-4 * std::max(1.0, std::abs(year.*part)),
               qPrintable(QString("%1 %2").arg(whole.*part).arg(year.*part)));
    // July by its hours is July by its month.
    std::vector<bool> july(8760, false);
    for (std::size_t h = 181 * 24; h < 212 * 24; ++h) july[h] = true;
    QVERIFY(std::abs(partsOf(room, july).cooling - room.months[6].cooling) < 1e-3);
    QVERIFY(std::abs(partsOf(room, july).ventilation - room.months[6].ventilation) < 1e-3);
    const QString text = QString::fromStdString(stretchText(room, july, "July", {}));
    QVERIFY2(text.startsWith("July: heating ") && text.contains(" kWh, cooling "), qPrintable(text));
    QCOMPARE(partsOf(room, {}).solar, 0.0);
    std::vector<bool> winter(8760, false);
    std::fill_n(winter.begin(), 24, true);
    QVERIFY(!QString::fromStdString(stretchText(room, winter, "1 Jan", {})).contains("-0.0"));
  }

  void hoursTooWarmGoByTheTemperatureChosen() {
    Project p = energyHouse(0.5);
    const EnergyRoom at26 = ran(p).energy->rooms[0];
    p.heat.warmAbove = 24;
    const EnergyRoom at24 = ran(p).energy->rooms[0];
    QVERIFY(at24.hoursAbove > at26.hoursAbove && at24.freeAbove > at26.freeAbove);
    QCOMPARE(at24.year().cooling, at26.year().cooling);
    QVERIFY(QString::fromStdString(freeText(at24)).contains("above 24 °C"));
  }

  void theErrorIsThatOfOtherSeeds() {
    std::vector<double> solar, lighting;
    double solarError = 0, lightingError = 0;
    constexpr int n = 8;
    for (int seed = 1; seed <= n; ++seed) {
      Study s = energyStudy();
      s.year.error = 0.2; // rough, so that there is something to see
      s.year.seed = std::uint64_t(seed);
      const LightResult r = ran(energyHouse(), s);
      const EnergyRoom& room = r.energy->rooms.at(0);
      solar.push_back(room.year().solar);
      lighting.push_back(room.year().lighting);
      solarError += room.solarError / n;
      lightingError += room.lightingError / n;
      QVERIFY(room.solarError > 0 && room.lightingError > 0);
      QCOMPARE(room.demandError(), std::hypot(room.solarError, room.lightingError));
      QVERIFY(double(r.standardError[0]) * room.floorArea >= room.demandError() * 0.999);
      // Its sensors share one figure: their mean is no surer than each.
      const double mean = lightStatistics(r, 0, r.value.size(), 50, 1e9).meanError;
      QVERIFY(std::abs(mean / double(r.standardError[0]) - 1) < 1e-5);
    }
    const auto spread = [](const std::vector<double>& v) {
      double mean = 0, square = 0;
      for (double x : v) mean += x / double(v.size());
      for (double x : v) square += (x - mean) * (x - mean);
      return std::sqrt(square / double(v.size() - 1));
    };
    // Neither half nor four times of what it is (eight seeds tell a spread to about a quarter).
    const QString told = QString("sun %1 told %2, lamps %3 told %4")
                             .arg(spread(solar))
                             .arg(solarError)
                             .arg(spread(lighting))
                             .arg(lightingError);
    QVERIFY2(solarError > 0.5 * spread(solar) && solarError < 6 * spread(solar), qPrintable(told));
    QVERIFY2(lightingError > 0.5 * spread(lighting) && lightingError < 4 * spread(lighting), qPrintable(told));
  }

  void optionsAreLaidBesideEachOther() {
    Project p = energyHouse();
    p.studies = {energyStudy()};
    Study factor;
    factor.id = {6};
    factor.kind = StudyKind::DaylightFactor;
    factor.light.error = 0.05;
    p.studies.push_back(factor);
    p = withNewOption(p, "Less glass");
    p.windowRules[0].ratio = 0.1;
    StudyRunner runner(nullptr);
    RunControl control;
    const auto beside = laidBeside(p, designsBeside(p), "", {}, runner, control);
    QVERIFY2(beside, beside ? "" : beside.error().text().c_str());
    const auto& m = beside->figures;
    const auto at = [&](std::size_t k) { return m[k].study + ": " + m[k].figure; };
    const std::string name = p.studies[0].name;
    QVERIFY(at(0) == name + ": heating" && at(1) == name + ": cooling" && at(2) == name + ": lighting");
    QVERIFY2(m[1].moved(1) < 0 && m[1].sure(1), qPrintable(QString("%1 ± %2").arg(m[1].moved(1)).arg(m[1].error(1))));
    QVERIFY(m[2].moved(1) > 0 && m[2].error(1) > 0);
    const LightResult alone = ran(withOption(p, 1));
    QCOMPARE(m[0].of[1].value, alone.energy->rooms[0].year().heating / alone.energy->rooms[0].floorArea);
    // One study of another kind, by itself.
    p.studies[1].name = "Factor";
    const auto df = laidBeside(p, designsBeside(p), "Factor", {}, runner, control);
    QVERIFY(df && df->figures[0].study == "Factor");
    QVERIFY(df->figures[0].figure == "mean" && df->figures[0].unit == "%" && df->figures[0].moved(1) < 0);
  }

  void whatIsKnownIsNotAskedAgain() {
    auto in = lightInput(energyHouse(), energyStudy());
    QVERIFY(in);
    in->energyKept = std::make_shared<EnergyKept>();
    RunControl control;
    QVERIFY(runLight(*in, control).energy->rooms[0].year().solar > 100);
    for (auto& group : in->energyKept->spaces.at(0).behind) std::fill(group.begin(), group.end(), 0.0f);
    QCOMPARE(runLight(*in, control).energy->rooms[0].year().solar, 0.0);
  }

  void theQuestionTakesAllRooms() {
    Project p = energyHouse();
    p.rooms[0].counted = false; // a corridor is heated too
    const auto asked = ask(p, "room-energy", {}, {});
    QVERIFY2(asked, asked ? "" : asked.error().text().c_str());
    QVERIFY(asked->told.find("1 of them has a use") != std::string::npos);
    const auto in = lightInput(asked->project, asked->project.studies.back());
    QVERIFY(in && in->kind == StudyKind::Energy && !in->sensors.sensors.empty());
    p.site.weather = nullptr;
    QVERIFY(!ask(p, "room-energy", {}, {}));
    p.rooms.clear();
    QVERIFY(!ask(p, "room-energy", {}, {}));
  }
};

QTEST_GUILESS_MAIN(TestEnergyReading)
#include "tst_energy_reading.moc"
