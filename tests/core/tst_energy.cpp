// Heating, cooling and lighting of rooms: balances, limits that can be worked out by hand, symmetry, what glass, blinds
// and use change, files, and what is wrong with an input.

#ifndef Q_MOC_RUN
#include "core/files/project/design_json.h"
#include "core/files/project/project_file.h"
#include "core/files/results/energy_files.h"
#include "core/files/results/result_store.h"
#include "core/model/heat_library.h"
#include "core/model/rooms/placing.h"
#include "core/studies/energy/energy_year.h"
#include "tests/energy_house.h"
#include <cmath>
#endif
#include <QTemporaryDir>
#include <QTest>

using namespace noonward;
using namespace noonward::test;

namespace {

EnergyParts yearOf(const LightResult& r) {
  return r.energy->rooms.at(0).year();
}
/// The house with glass that says all of itself.
Project ownGlass(double g) {
  Project p = energyHouse();
  Glazing glass;
  glass.name = "Own";
  glass.transmittance = 0.6;
  glass.panes = 2;
  glass.solarFactor = g;
  glass.uValue = 1.1;
  p.glazings = {glass};
  p.windowRules[0].glazing = "Own";
  return p;
}
/// The demo's year with every hour at one temperature; without glass its sun does nothing.
std::shared_ptr<const Weather> still(double celsius) {
  auto w = std::make_shared<Weather>(*demoWeather());
  for (WeatherHour& h : w->hours) h[WeatherField::DryBulb] = celsius;
  w->digest = Hasher().add("still").add(celsius).digest();
  return w;
}
RoomUse always(const char* name) {
  RoomUse u;
  u.name = name;
  u.people = u.equipment = u.lighting = 0;
  u.ventilation = 0;
  u.infiltration = 0.3;
  u.heatBack = u.heatTo;
  u.beginMinute = 0;
  u.endMinute = 24 * 60;
  u.weekdaysOnly = false;
  return u;
}
bool told(const Findings& list, const char* code) {
  return std::any_of(list.begin(), list.end(), [&](const Finding& f) { return f.code == code; });
}

} // namespace

class TestEnergy : public QObject {
  Q_OBJECT
private slots:
  void theYearOfARoomAddsUp() {
    const LightResult r = ran(energyHouse());
    QVERIFY(r.energy && r.energy->rooms.size() == 1);
    const EnergyRoom& room = r.energy->rooms[0];
    const EnergyParts y = room.year();
    QVERIFY(y.heating > 0 && y.cooling < 0 && y.lighting > 0 && y.solar > 0 && y.internal > 0);
    QVERIFY(y.transmission < 0 && y.ventilation < 0);
    const double left = y.heating + y.cooling + y.lighting + y.solar + y.internal + y.transmission + y.ventilation;
    QVERIFY2(std::abs(left) < 1e-3 * (y.heating + y.solar), qPrintable(QString::number(left)));
    // Every sensor has the room's figure; the hours add up to the months.
    for (float v : r.value) QVERIFY(std::abs(double(v) - (y.heating - y.cooling + y.lighting) / room.floorArea) < 1e-3);
    EnergyParts hours;
    double coldest = 100, warmest = -100;
    for (const EnergyHour& h : room.hours) {
      hours.heating += double(h.heating) / 1000;
      hours.cooling += double(h.cooling) / 1000;
      hours.solar += double(h.solar) / 1000;
      coldest = std::min(coldest, double(h.air));
      warmest = std::max(warmest, double(h.air));
    }
    QVERIFY(std::abs(hours.heating / y.heating - 1) < 1e-5 && std::abs(hours.cooling / y.cooling - 1) < 1e-5);
    QVERIFY(std::abs(hours.solar / y.solar - 1) < 1e-5);
    QVERIFY(coldest > 15.99 && warmest < 35.01);
    QCOMPARE(double(room.hours[room.peakHeatingHour].heating), double(float(room.peakHeating)));
    QVERIFY(room.months[0].heating > room.months[6].heating && room.months[0].solar < room.months[5].solar);
  }

  void aStillYearNeedsWhatResistancesSay() {
    Project p = energyHouse(0);
    p.site.weather = still(-3);
    p.heat.uses = {always("still")};
    p.rooms[0].use = "Still";
    p.heat.constructions = {{"W", 0.4, {}, "", false}, {"R", 0.3, {}, "", false}, {"G", 0.5, {}, "", false}};
    p.heat.wall = "W";
    p.heat.roof = "R";
    p.heat.ground = "G";
    const EnergyParts y = yearOf(ran(p));
    const double floor = 5.4 * 5.4, wall = 4 * 5.4 * 3, volume = floor * 3;
    const double opaque = wall * 0.4 + floor * 0.3 + 0.5 * floor * 0.5, air = 1200 * 0.3 * volume / 3600,
                 surface = 3.45 * 4.5 * floor, all = air + 1 / (1 / surface + 1 / opaque);
    QVERIFY2(std::abs(y.heating / (all * 23 * 8.760) - 1) < 1e-6, qPrintable(QString::number(y.heating)));
    QVERIFY(y.cooling == 0 && y.solar == 0 && y.lighting == 0);
    QVERIFY(std::abs(y.ventilation / (-air * 23 * 8.760) - 1) < 1e-6);
  }

  void withoutGlassThereIsNoSun() {
    const EnergyParts y = yearOf(ran(energyHouse(0)));
    QCOMPARE(y.solar, 0.0);
    QVERIFY(y.heating > 0);
  }

  void turnedWithTheCompassItIsTheSame() {
    const EnergyParts south = yearOf(ran(energyHouse(0.35, Facing::South, 0)));
    // The drawing turned: another wall of it looks south, by the same sky.
    const EnergyParts east = yearOf(ran(energyHouse(0.35, Facing::South, pi / 2)));
    for (double EnergyParts::*part : {&EnergyParts::heating, &EnergyParts::cooling, &EnergyParts::lighting,
                                      &EnergyParts::solar, &EnergyParts::transmission})
      QVERIFY2(std::abs(south.*part - east.*part) < 0.02 * std::abs(south.*part) + 0.5,
               qPrintable(QString("%1 %2").arg(south.*part).arg(east.*part)));
    QVERIFY(yearOf(ran(energyHouse(0.35, Facing::North, 0))).solar < 0.6 * south.solar);
  }

  void theSunIsThatOfTheIrradiationOnThePane() {
    Project p = ownGlass(0.5);
    const EnergyParts y = yearOf(ran(p));
    SensorGroup g;
    g.id = {77};
    g.name = "Pane";
    g.layout = std::vector<PointSensor>{{{3, -0.001, 1.6}, {0, -1, 0}, ""}};
    p.groups = {g};
    Study s;
    s.kind = StudyKind::Irradiation;
    s.light.error = 0.01;
    const LightResult out = ran(p, s);
    double glass = 0;
    for (const PlacedOpening& o : placedOpenings(p).openings) glass += o.area();
    // Of g times what falls on the wall's plane: reveals and the slant of rays take the rest.
    const double share = y.solar / (double(out.value[0]) * glass * 0.5);
    QVERIFY2(
        share > 0.70 && share < 0.97,
        qPrintable(QString("%1: %2 kWh, %3 kWh/m² on %4 m²").arg(share).arg(y.solar).arg(out.value[0]).arg(glass)));
  }

  void glassAndBlindsChangeTheSunAlone() {
    Project p = ownGlass(0.5);
    const EnergyParts clear = yearOf(ran(p));
    p.glazings[0].solarFactor = 0.25;
    const EnergyParts dark = yearOf(ran(p));
    QVERIFY(std::abs(dark.solar / clear.solar - 0.5) < 1e-6);
    QVERIFY(std::abs(dark.lighting - clear.lighting) < 1e-9 && dark.heating > clear.heating);
    p.heat.closedBlinds = 0.3;
    const EnergyParts shut = yearOf(ran(p, energyStudy(BlindRule::Always)));
    QVERIFY(std::abs(shut.solar / dark.solar - 0.3) < 1e-6);
    QVERIFY(shut.lighting > dark.lighting);
    p.glazings[0].uValue = 2.2;
    QVERIFY(yearOf(ran(p)).heating > dark.heating);
  }

  void lightingIsDimmedSwitchedOrOn() {
    Project p = energyHouse();
    RoomUse u = libraryUses().front();
    u.name = "office";
    u.lighting = 10;
    p.heat.uses = {u};
    const double dimmed = yearOf(ran(p)).lighting;
    p.heat.uses[0].control = LightingControl::Switched;
    const double switched = yearOf(ran(p)).lighting;
    p.heat.uses[0].control = LightingControl::Always;
    const LightResult on = ran(p);
    const double whole = yearOf(on).lighting;
    // 52 weeks and a day or so of ten hours on five days.
    const double area = on.energy->rooms[0].floorArea;
    QVERIFY2(std::abs(whole / (10 * area / 1000 * 10 * 261) - 1) < 0.005, qPrintable(QString::number(whole)));
    QVERIFY(dimmed < switched && switched < whole && dimmed > 0.05 * whole);
    p.heat.uses[0].control = LightingControl::Dimmed;
    p.heat.uses[0].target = 0; // nothing is asked
    QCOMPARE(yearOf(ran(p)).lighting, 0.0);
    p.heat.uses[0].target = 50; // little is asked: daylight does
    p.heat.uses[0].control = LightingControl::Dimmed;
    QVERIFY(yearOf(ran(p)).lighting < dimmed);
  }

  void hoursOfUseMayGoPastMidnight() {
    Project p = energyHouse(0);
    p.site.weather = still(10);
    RoomUse u = always("night");
    u.people = 10;
    u.beginMinute = 22 * 60;
    u.endMinute = 6 * 60;
    p.heat.uses = {u};
    p.rooms[0].use = "night";
    const LightResult r = ran(p);
    const double area = r.energy->rooms[0].floorArea;
    QVERIFY2(std::abs(yearOf(r).internal / (10 * area / 1000 * 8 * 365) - 1) < 0.005,
             qPrintable(QString::number(yearOf(r).internal)));
  }

  void theSameBitsForAnyThreadsAndFromTheStore() {
    const Project p = energyHouse();
    const LightResult one = ran(p, energyStudy(), 1), seven = ran(p, energyStudy(), 7);
    QVERIFY(one.value == seven.value);
    QCOMPARE(energyHoursCsv(*one.energy), energyHoursCsv(*seven.energy));
    QTemporaryDir d;
    ResultStore store(d.filePath("runs.results").toStdString());
    StoredRun run;
    run.name = "Energy";
    QVERIFY(store.keep(one, run));
    const auto again = store.findLight(one.key);
    QVERIFY(again && again->energy);
    QVERIFY(again->energy->ofGroup == one.energy->ofGroup && again->energy->room(0) && !again->energy->room(1));
    QCOMPARE(again->energy->rooms[0].causes.size(), one.energy->rooms[0].causes.size());
    for (std::size_t c = 0; c < one.energy->rooms[0].causes.size(); ++c) {
      const EnergyCause &x = one.energy->rooms[0].causes[c], &y = again->energy->rooms[0].causes[c];
      QVERIFY(x.name == y.name && x.kind == y.kind && x.months == y.months);
    }
    QCOMPARE(energyCsv(*again->energy), energyCsv(*one.energy));
    QCOMPARE(energyHoursCsv(*again->energy), energyHoursCsv(*one.energy));
    QCOMPARE(again->energy->rooms[0].peakCoolingHour, one.energy->rooms[0].peakCoolingHour);
  }

  void tablesHaveTheirColumns() {
    const LightResult r = ran(energyHouse());
    const QStringList lines = QString::fromStdString(energyCsv(*r.energy)).trimmed().split('\n');
    QCOMPARE(lines[0], QString("room,month,heating_kwh,cooling_kwh,lighting_kwh,solar_gain_kwh,internal_gain_kwh,"
                               "transmission_kwh,ventilation_kwh"));
    QCOMPARE(lines.size(), 14);
    QVERIFY(lines[1].startsWith("Hall,1,") && lines[13].startsWith("Hall,year,"));
    const QStringList hours = QString::fromStdString(energyHoursCsv(*r.energy)).trimmed().split('\n');
    QCOMPARE(hours[0], QString("room,hour,air_c,operative_c,heating_w,cooling_w,lighting_w,solar_w"));
    QCOMPARE(hours.size(), 8761);
    QVERIFY(hours[8760].startsWith("Hall,8760,"));
    QVERIFY(energyText(r.energy->rooms[0]).starts_with("heating "));
  }

  void whatIsWrongIsTold() {
    Project p = energyHouse();
    const auto findings = [&] { return lightInput(p, energyStudy())->findings; };
    QVERIFY(!told(findings(), "energy.use"));
    p.rooms[0].use = "orchestra";
    p.heat.wall = "Straw";
    QVERIFY(told(findings(), "energy.use") && told(findings(), "energy.construction"));
    Glazing bare;
    bare.name = "Bare";
    p.glazings = {bare};
    p.windowRules[0].glazing = "Bare";
    QVERIFY(told(findings(), "energy.glass"));
    p.heat.constructions = {{"Straw", 18, {}, "", false}};
    QVERIFY(told(findings(), "energy.leaky") && !told(findings(), "energy.construction"));
    p.heat.uses = {always("x")};
    p.heat.uses[0].coolTo = 18; // below what is heated to
    QVERIFY(!lightInput(p, energyStudy()));
    QVERIFY(lightInput(p, energyStudy()).error().message.find("cross") != std::string::npos);
    p.heat.uses.clear();
    auto cold = std::make_shared<Weather>(*demoWeather());
    cold->hours[40][WeatherField::DryBulb] = std::nan("");
    p.site.weather = cold;
    QVERIFY(!lightInput(p, energyStudy()));
    p.site.weather = nullptr;
    QVERIFY(!lightInput(p, energyStudy()));
    p = energyHouse();
    p.groups.clear();
    QVERIFY(!lightInput(p, energyStudy())); // no grid, no room
  }

  void theProposalIsNotThereBefore() {
    Project p = energyHouse();
    const EnergyParts bare = yearOf(ran(p));
    Element wall;
    wall.id = {500};
    wall.name = "Slab";
    wall.proposed = true;
    wall.shape = Mass{rectangle(-30, -8, 40, -6), 0, 25, 1}; // before the window
    p.elements.push_back(std::make_shared<const Element>(wall));
    const auto before = lightInput(p, energyStudy(), true), now = lightInput(p, energyStudy());
    QVERIFY(before && now && !(before->key == now->key));
    RunControl control;
    const EnergyParts without = yearOf(runLight(*before, control)), with = yearOf(runLight(*now, control));
    QVERIFY(std::abs(without.solar / bare.solar - 1) < 1e-9);
    QVERIFY(with.solar < 0.6 * bare.solar && with.heating > bare.heating && with.lighting > bare.lighting);
  }

  void stoppedItGivesNoAnswer() {
    const auto in = lightInput(energyHouse(), energyStudy());
    RunControl control;
    control.wish = Wish::Drop;
    QVERIFY(runLight(*in, control).end == RunEnd::Dropped);
  }

  void theProjectFileKeepsWhatIsSaid() {
    Project p = energyHouse();
    p.heat.mass = ThermalMass::VeryHeavy;
    p.heat.wall = "W";
    p.heat.roof = "R";
    p.heat.ground = "G";
    p.heat.exposedFloor = "F";
    p.heat.closedBlinds = 0.25;
    p.heat.use = "flat";
    p.heat.constructions = {
        {"W", 0.35, {}, "measured", false},
        {"Brick", 0.3, {{"brick", 0.108, 0.77, 1700, 840}, {"wool", 0.2, 0.035, 40, 900}}, "", false}};
    RoomUse u = always("late");
    u.beginMinute = 20 * 60;
    u.endMinute = 4 * 60 + 30;
    u.control = LightingControl::Switched;
    u.source = "the client";
    u.copyOf = "flat";
    p.heat.uses = {u};
    p.site.weather = nullptr;
    p.site.weatherFile.clear();
    const auto back = parseProject(projectText(p, "files"), "p.noonward", ".");
    QVERIFY2(back, back ? "" : back.error().text().c_str());
    QVERIFY(back->project.heat == p.heat);
    QVERIFY(back->project.unknownKeys.empty());
    // An option may have its own.
    const auto design = designFromJson(designJson(p), p, {});
    QVERIFY(design && design->heat == p.heat);
    for (const auto& [from, to] : {std::pair{"\"very-heavy\"", "\"stone\""},
                                   {"\"u-value\": 0.35", "\"u-value\": 0"},
                                   {"\"20:00\"", "\"late\""},
                                   {"\"conductivity\": 0.77", "\"conductivity\": 0"},
                                   {"\"thickness\": 0.2", "\"thickness\": -0.2"},
                                   {"\"thickness\": 0.108,", ""},
                                   {"\"heat-to\": 20.0", "\"heat-to\": 45.0"}}) {
      QString text = QString::fromStdString(projectText(p, "files"));
      QVERIFY2(text.contains(from), from);
      text.replace(from, to);
      const auto none = parseProject(text.toStdString(), "p.noonward", ".");
      QVERIFY2(!none && none.error().place.find("heat") != std::string::npos, from);
    }
  }
};

QTEST_GUILESS_MAIN(TestEnergy)
#include "tst_energy.moc"
