// Rooms beside rooms: what borders on what, heat between them, rooms left to themselves, constructions of single
// surfaces, mass of layers, weights; and the same by files.

#ifndef Q_MOC_RUN
#include "core/files/meshes/mesh_files.h"
#include "core/files/meshes/model_export.h"
#include "core/files/project/heat_json.h"
#include "core/files/project/project_file.h"
#include "core/files/results/energy_files.h"
#include "core/files/results/result_store.h"
#include "core/model/form/edit.h"
#include "core/model/form/outline_edit.h"
#include "core/studies/energy/energy_reading.h"
#include "core/studies/energy/heat_zone.h"
#include "tests/energy_house.h"
#include <QTemporaryDir>
#include <cmath>
#endif
#include <QTest>

using namespace noonward;
using namespace noonward::test;

namespace {

bool near(double a, double b, double part = 1e-6) {
  return std::abs(a - b) <= part * std::max(1.0, std::abs(b));
}
std::shared_ptr<const Weather> still(double celsius) {
  auto w = std::make_shared<Weather>(*demoWeather());
  for (WeatherHour& h : w->hours) h[WeatherField::DryBulb] = celsius;
  w->digest = Hasher().add("still").add(celsius).digest();
  return w;
}
RoomUse use(const char* name, bool conditioned) {
  RoomUse u;
  u.name = name;
  u.people = u.equipment = u.lighting = 0;
  u.ventilation = 0;
  u.infiltration = 0.3;
  u.heatBack = u.heatTo;
  u.beginMinute = 0;
  u.endMinute = 24 * 60;
  u.weekdaysOnly = false;
  u.conditioned = conditioned;
  return u;
}
/// Two rooms in one building without windows, 12 × 6 m, side by side, 0.1 m between them; one heated, one not.
Project pair() {
  Project p = energyHouse(0);
  Element e = *p.elements[0];
  e.shape = Mass{rectangle(0, 0, 12, 6), 0, 3.4, 1};
  p.elements = {std::make_shared<const Element>(e)};
  p.rooms[0].outline = rectangle(0.3, 0.3, 6.3, 5.7);
  p.rooms[0].use = "warm";
  Room other = p.rooms[0];
  other.id = {2};
  other.name = "Store";
  other.outline = rectangle(6.4, 0.3, 11.7, 5.7);
  other.use = "free";
  p.rooms.push_back(other);
  for (SensorGroup& g : p.groups)
    if (auto* grid = std::get_if<RoomGrid>(&g.layout)) grid->rooms = {{1}, {2}};
  p.site.weather = still(-3);
  p.heat.uses = {use("warm", true), use("free", false)};
  p.heat.constructions = {
      {"W", 0.4, {}, "", false}, {"R", 0.3, {}, "", false}, {"G", 0.5, {}, "", false}, {"P", 1.6, {}, "", false}};
  p.heat.wall = "W";
  p.heat.roof = "R";
  p.heat.ground = "G";
  p.heat.partition = "P";
  return p;
}
const EnergyRoom& named(const LightResult& r, const char* name) {
  for (const EnergyRoom& room : r.energy->rooms)
    if (room.name == name) return room;
  throw std::runtime_error("no such room");
}
double of(const EnergyRoom& r, EnergyCauseKind kind) {
  double sum = 0;
  for (const EnergyCause& c : r.causes)
    if (c.kind == kind)
      for (double m : c.months) sum += m;
  return sum;
}
const EnvelopeSurface& surface(const RoomEnvelope& e, int edge) {
  for (const EnvelopeSurface& s : e.surfaces)
    if (s.edge == edge) return s;
  throw std::runtime_error("no such surface");
}

} // namespace

class TestEnergyRooms : public QObject {
  Q_OBJECT
private slots:
  void whatBordersOnWhatIsFound() {
    const Project p = pair();
    const auto e = roomEnvelopes(p);
    const EnvelopeSurface& between = surface(e[0], 1);
    QVERIFY(between.neighbour == std::size_t(1) && between.flow == HeatFlow::Inside && between.construction == "P");
    QVERIFY(near(between.area, 5.4 * 3) && near(e[0].inside, 5.4 * 3) && near(e[1].inside, 5.4 * 3));
    QVERIFY(near(e[0].wall, (6 * 2 + 5.4) * 3));
    QCOMPARE(QString::fromStdString(beyondText(p, between)), QString("Store"));
    QCOMPARE(surface(e[0], floorEdge).beyond, Beyond::Ground);
    QCOMPARE(surface(e[0], ceilingEdge).beyond, Beyond::Outdoors);
    QVERIFY(near(heatLoss(p, e[0]), (6 * 2 + 5.4) * 3 * 0.4 + 6 * 5.4 * (0.3 + 0.5 * 0.5)));
    for (const RoomEnvelope& room : e) // all of what surrounds a box, once
      QVERIFY(near(room.wall + room.roof + room.ground + room.inside,
                   2 * room.floorArea + 3 * 2 * (room.floorArea / 5.4 + 5.4)));
  }

  void aWallBetweenTwoRoomsBehindItIsShared() {
    Project p = pair();
    Room& store = p.rooms[1];
    store.outline = rectangle(6.4, 0.3, 11.7, 3.0);
    Room third = store;
    third.id = {3};
    third.name = "Shed";
    third.outline = rectangle(6.4, 3.1, 11.7, 5.7);
    p.rooms.push_back(third);
    double toStore = 0, toShed = 0, all = 0;
    for (const EnvelopeSurface& s : roomEnvelopes(p)[0].surfaces) {
      if (s.edge != 1) continue;
      all += s.area;
      (s.neighbour == std::size_t(1) ? toStore : toShed) += s.area;
    }
    QVERIFY(near(all, 5.4 * 3) && std::abs(toStore / all - 2.7 / 5.4) < 0.03 && toShed > 0);
  }

  void whatIsSaidGoesBeforeWhatIsDrawn() {
    Project p = pair();
    setHeatSurface(p.heat, {{1}, 0, Beyond::Unheated, ""});
    setHeatSurface(p.heat, {{1}, 3, Beyond::AsDrawn, "P"});
    setHeatSurface(p.heat, {{1}, floorEdge, Beyond::Alike, ""});
    const auto e = roomEnvelopes(p);
    QVERIFY(surface(e[0], 0).beyond == Beyond::Unheated && surface(e[0], 0).drawn == Beyond::Outdoors);
    QVERIFY(surface(e[0], 3).construction == "P" && surface(e[0], 3).beyond == Beyond::Outdoors);
    QVERIFY(e[0].ground == 0 && e[1].ground > 0);
    p.heat.unheatedShare = 0.3;
    QVERIFY(near(heatLoss(p, e[0]), 6 * 3 * 0.4 * 0.3 + 5.4 * 3 * 1.6 + 6 * 3 * 0.4 + 6 * 5.4 * 0.3));
    // Said anew it is said once; taken back it is gone.
    setHeatSurface(p.heat, {{1}, 0, Beyond::Ground, ""});
    QCOMPARE(p.heat.surfaces.size(), std::size_t(3));
    setHeatSurface(p.heat, {{1}, 0, Beyond::AsDrawn, ""});
    QCOMPARE(p.heat.surfaces.size(), std::size_t(2));
  }

  void whatIsSaidFollowsTheWall() {
    Project p = pair();
    setHeatSurface(p.heat, {{1}, 2, Beyond::Unheated, ""}); // the north wall
    setHeatSurface(p.heat, {{1}, ceilingEdge, Beyond::Alike, ""});
    // A corner more on the south side: the north wall is number 4 now.
    Outline more = p.rooms[0].outline;
    more.outer.insert(more.outer.begin() + 1, Vec2{3, 0.1});
    const auto after = withRoomOutline(p, {1}, more);
    QVERIFY(after && heatSurface(after->heat, {1}, 3) && !heatSurface(after->heat, {1}, 2));
    QVERIFY(heatSurface(after->heat, {1}, ceilingEdge));
  }

  /// Both rooms' networks of a still year, solved by plain iteration of their balances.
  void heatGoesFromRoomToRoom() {
    const Project p = pair();
    const LightResult r = ran(p);
    const EnergyRoom &warm = named(r, "Hall"), &free = named(r, "Store");
    const auto e = roomEnvelopes(p);
    struct Net {
      double floor, hve, out, part, air = 20, surface = 20, mass = 20;
    } a{6 * 5.4, 0, 0, 0}, b{5.3 * 5.4, 0, 0, 0};
    for (auto [n, room] : {std::pair{&a, &e[0]}, {&b, &e[1]}}) {
      n->hve = 1200 * 0.3 * n->floor * 3 / 3600;
      n->out = heatLoss(p, *room);
      n->part = 5.4 * 3 * 1.6;
    }
    double need = 0;
    for (int k = 0; k < 20000; ++k)
      for (auto [n, o] : {std::pair{&a, &b}, {&b, &a}}) {
        const double his = 3.45 * 4.5 * n->floor, hms = 9.1 * 2.5 * n->floor, h = n->out + n->part,
                     hem = 1 / (1 / h - 1 / hms), beyond = (n->out * -3 + n->part * o->surface) / h;
        n->mass = (hms * n->surface + hem * beyond) / (hms + hem);
        n->surface = (hms * n->mass + his * n->air) / (hms + his);
        if (n == &a)
          need = n->hve * (20 + 3) + his * (20 - n->surface);
        else
          n->air = (his * n->surface + n->hve * -3) / (his + n->hve);
      }
    QVERIFY(b.air > -2 && b.air < 15);
    QVERIFY2(near(warm.year().heating, need * 8.760, 1e-5), qPrintable(QString::number(warm.year().heating)));
    QVERIFY(std::abs(double(free.hours[4000].air) - b.air) < 1e-3);
    QVERIFY(free.year().heating == 0 && free.year().cooling == 0);
    // What one loses the other gains, and both balances close.
    QVERIFY(near(of(warm, EnergyCauseKind::Rooms), -of(free, EnergyCauseKind::Rooms), 1e-5));
    QVERIFY(of(free, EnergyCauseKind::Rooms) > 100);
    for (const EnergyRoom* x : {&warm, &free}) {
      double left = 0;
      for (const EnergyCause& c : x->causes)
        for (double m : c.months) left += m;
      QVERIFY2(std::abs(left) < 1e-4 * std::abs(of(*x, EnergyCauseKind::Rooms)), qPrintable(QString::number(left)));
    }
  }

  void alikeRoomsExchangeNothing() {
    Project p = pair();
    p.rooms[1].use = "warm";
    const LightResult both = ran(p);
    Project apart = p;
    setHeatSurface(apart.heat, {{1}, 1, Beyond::Alike, ""});
    setHeatSurface(apart.heat, {{2}, 3, Beyond::Alike, ""});
    const LightResult each = ran(apart);
    QVERIFY(near(named(both, "Hall").year().heating, named(each, "Hall").year().heating, 0.01));
    QVERIFY(std::abs(of(named(both, "Hall"), EnergyCauseKind::Rooms)) < 0.01 * named(both, "Hall").year().heating);
    QCOMPARE(of(named(each, "Hall"), EnergyCauseKind::Rooms), 0.0);
  }

  void aRoomThatIsNotAskedIsAsWarmOrUnheated() {
    Project p = pair();
    for (SensorGroup& g : p.groups)
      if (auto* grid = std::get_if<RoomGrid>(&g.layout)) grid->rooms = {{1}};
    const double beside = named(ran(p), "Hall").year().heating; // by the share of an unheated space
    Project warm = p;
    warm.rooms[1].use = "warm";
    const double alike = named(ran(warm), "Hall").year().heating;
    Project said = warm;
    setHeatSurface(said.heat, {{1}, 1, Beyond::Unheated, "P"});
    QVERIFY(beside > 1.05 * alike);
    QVERIFY(near(named(ran(said), "Hall").year().heating, beside, 1e-9));
  }

  void leftToItselfARoomFollowsTheWeather() {
    Project p = energyHouse(0.4);
    const EnergyRoom cooled = ran(p).energy->rooms[0];
    QCOMPARE(cooled.free.size(), std::size_t(8760));
    // With nothing heated and nothing cooled by its own use it is the same.
    RoomUse none = *findUse(p.heat, "office");
    none.name = "none";
    none.locked = false;
    none.conditioned = false;
    p.heat.uses = {none};
    p.rooms[0].use = "none";
    const EnergyRoom free = ran(p).energy->rooms[0];
    QVERIFY(free.year().heating == 0 && free.year().cooling == 0);
    for (std::size_t h = 0; h < 8760; h += 97) {
      QVERIFY(std::abs(free.hours[h].operative - cooled.free[h]) < 0.02f);
      QVERIFY(std::abs(free.free[h] - cooled.free[h]) < 0.02f);
    }
    QVERIFY(cooled.freeAbove >= cooled.hoursAbove && cooled.freeAbove > 0);
    QVERIFY(QString::fromStdString(freeText(cooled)).contains("above 26 °C in"));
  }

  void layersHoldHeat() {
    Project p = energyHouse(0.4);
    const auto swing = [&](double density) {
      const Construction c{"C", 0.3, {{"out", 0.2, 0.04, 30, 1000}, {"in", 0.12, 1.5, density, 1000}}, "", false};
      p.heat.constructions = {c};
      p.heat.wall = p.heat.roof = p.heat.ground = "C";
      p.heat.mass = ThermalMass::OfLayers;
      const EnergyRoom r = ran(p).energy->rooms[0];
      double sum = 0;
      for (std::size_t d = 0; d < 365; ++d) {
        const auto [low, high] =
            std::minmax_element(r.free.begin() + std::ptrdiff_t(24 * d), r.free.begin() + std::ptrdiff_t(24 * d + 24));
        sum += double(*high - *low);
      }
      return sum / 365;
    };
    const double light = swing(300), heavy = swing(2300);
    QVERIFY2(heavy < 0.6 * light, qPrintable(QString("%1 %2").arg(light).arg(heavy)));
    // The class of mass that has the same capacity and area swings the same.
    HeatZone a{20, 10, 5, ThermalMass::Heavy}, b = a;
    b.mass = ThermalMass::OfLayers;
    b.capacity = 20 * 260e3;
    b.massArea = 20 * 3.0;
    HeatHour in;
    in.outdoor = in.supply = -5;
    in.ventilation = 12;
    in.solar = 300;
    const HeatStep x = HeatRoom(a).step(in, 15), y = HeatRoom(b).step(in, 15);
    QCOMPARE(x.air, y.air);
    QCOMPARE(x.massEnd, y.massEnd);
  }

  void weightsAreProductsAndComeFromAFile() {
    Project p = pair();
    QTemporaryDir dir;
    const auto file = std::filesystem::path(dir.path().toStdString()) / "w.json";
    QVERIFY(saveFile(file, R"({"format": "noonward-energy-weights", "weights": [
      {"name": "Price", "unit": "€", "heating": 0.1, "cooling": 0.2, "lighting": 0.3}]})"));
    const auto weights = readWeights(file);
    QVERIFY2(weights, weights ? "" : weights.error().text().c_str());
    QCOMPARE(weights->size(), std::size_t(1));
    const LightResult r = ran(p);
    const EnergyRoom& hall = named(r, "Hall");
    QVERIFY(near(weighed(hall, weights->front()), 0.1 * hall.year().heating));
    EnergyRoom made;
    made.floorArea = 10;
    made.months[3] = {50, -20, 10, 0, 0, 0, 0};
    QVERIFY(near(weighed(made, weights->front()), 5 + 4 + 3));
    QCOMPARE(QString::fromStdString(weighedText(made, *weights, {})), QString("Price 12 €, 1.20 €/m² a year"));
    const QString csv = QString::fromStdString(energyWeightsCsv(*r.energy, *weights));
    QVERIFY(csv.startsWith("room,weight,unit,heating,cooling,lighting,all,all_per_m2\nHall,Price,€,"));
    for (const char* bad :
         {"{}", "[1", R"({"format": "noonward-energy-weights"})",
          R"({"format": "noonward-energy-weights", "weights": [{"name": "x", "unit": "y", "heating": -1}]})"}) {
      QVERIFY(saveFile(file, bad));
      const auto none = readWeights(file);
      QVERIFY(!none && !none.error().text().empty());
    }
    QVERIFY(!readWeights(file / "nowhere"));
  }

  void theProjectFileKeepsSurfacesAndWeights() {
    Project p = pair();
    setHeatSurface(p.heat, {{1}, 1, Beyond::Unheated, "W"});
    setHeatSurface(p.heat, {{2}, ceilingEdge, Beyond::Alike, ""});
    setHeatSurface(p.heat, {{2}, floorEdge, Beyond::AsDrawn, "G"});
    p.heat.weights = {{"Carbon", "kg", "a table", 0.1, 0.2, 0.3}};
    p.heat.unheatedShare = 0.7;
    p.heat.mass = ThermalMass::OfLayers;
    QTemporaryDir dir;
    const auto file = std::filesystem::path(dir.path().toStdString()) / "p.noonward";
    QVERIFY(writeProject(p, file));
    const auto back = readProject(file);
    QVERIFY2(back, back ? "" : back.error().text().c_str());
    QVERIFY(back->project.heat == p.heat);
    // By hand: rooms by name; what is none is told with its place.
    auto text = *loadFile(file);
    const std::string id = "\"room\": \"" + RoomId{1}.text() + "\"";
    const auto at = text.find(id);
    QVERIFY(at != std::string::npos);
    text.replace(at, id.size(), "\"room\": \"Hall\"");
    QVERIFY(saveFile(file, text));
    QVERIFY(readProject(file)->project.heat == p.heat);
    text.replace(text.find("\"wall 2\""), 8, "\"wall x\"");
    QVERIFY(saveFile(file, text));
    const auto bad = readProject(file);
    QVERIFY(!bad && QString::fromStdString(bad.error().text()).contains("surfaces"));
  }

  void aStoredYearComesBackWhole() {
    QTemporaryDir dir;
    ResultStore store(std::filesystem::path(dir.path().toStdString()) / "s.sqlite");
    const LightResult r = ran(pair());
    QVERIFY(store.keep(r, {{}, "Energy", "", "", 0}));
    const auto back = store.findLight(r.key);
    QVERIFY(back && back->energy);
    for (std::size_t k = 0; k < r.energy->rooms.size(); ++k) {
      QVERIFY(back->energy->rooms[k].free == r.energy->rooms[k].free);
      QCOMPARE(back->energy->rooms[k].freeAbove, r.energy->rooms[k].freeAbove);
      QCOMPARE(of(back->energy->rooms[k], EnergyCauseKind::Rooms), of(r.energy->rooms[k], EnergyCauseKind::Rooms));
    }
  }

  void gbXmlCarriesWhatHeatNeeds() {
    Project p = pair();
    p.rooms[0].name = "Hall & more";
    Construction layered{"Brick", 0.5, {{"brick", 0.24, 0.8, 1800, 900}, {"wool", 0.1, 0.04, 40, 1030}}, "", false};
    p.heat.constructions.push_back(layered);
    p.heat.wall = "Brick";
    setHeatSurface(p.heat, {{2}, floorEdge, Beyond::Outdoors, ""});
    Glazing glass;
    glass.name = "Own";
    glass.transmittance = 0.6;
    glass.solarFactor = 0.4;
    glass.uValue = 1.1;
    p.glazings = {glass};
    WindowRule rule;
    rule.id = {7};
    rule.ratio = 0.3;
    rule.glazing = "Own";
    p.windowRules = {rule};
    const auto out = exportModel(p, ExportFormat::GbXml);
    QVERIFY2(out, out ? "" : out.error().text().c_str());
    const QString text = QString::fromStdString(out->bytes);
    for (const char* part : {"surfaceType=\"SlabOnGrade\"", "surfaceType=\"RaisedFloor\"", "surfaceType=\"Roof\"",
                             "surfaceType=\"InteriorWall\"", "conditionType=\"Unconditioned\"",
                             "<DesignHeatT unit=\"C\">20", "<LightPowerPerArea unit=\"WattPerSquareMeter\">"})
      QVERIFY2(text.contains(part), part);
    // Both rooms stand at the wall between them.
    const auto wall = text.indexOf("InteriorWall");
    QCOMPARE(text.mid(wall, text.indexOf("</Surface>", wall) - wall).count("AdjacentSpaceId"), 2);
    const auto back = parseGbXml(out->bytes, "pair.xml");
    QVERIFY2(back, back ? "" : back.error().text().c_str());
    QCOMPARE(back->heat.wall, std::string("Brick"));
    QCOMPARE(back->heat.roof, std::string("R"));
    QCOMPARE(back->heat.partition, std::string("P"));
    const auto brick = findConstruction(back->heat, "Brick");
    QVERIFY(brick && brick->layers.size() == 2);
    QVERIFY(near(uValueOf(*brick, HeatFlow::Wall), uValueOf(layered, HeatFlow::Wall), 1e-4));
    QVERIFY(near(*heldHeat(*brick), *heldHeat(layered), 1e-4));
    QVERIFY(near(findConstruction(back->heat, "R")->uValue, 0.3));
    const Glazing* own = findGlazing(back->glazings, "Own");
    QVERIFY(own && near(own->solarFactor, 0.4) && near(own->uValue, 1.1));
    const auto warm = findUse(back->heat, "warm"), free = findUse(back->heat, "free");
    QVERIFY(warm && warm->conditioned && warm->people == 0 && warm->lighting == 0 && warm->heatTo == 20);
    QVERIFY(free && !free->conditioned);
    QCOMPARE(std::count_if(back->outlines.begin(), back->outlines.end(),
                           [](const ModelOutline& o) { return o.use == "warm" || o.use == "free"; }),
             2);
    // A project that has constructions of its own keeps them.
    HeatDesign mine;
    mine.wall = "Wall, cavity";
    takeStated(mine, back->heat);
    QVERIFY(mine.wall == "Wall, cavity" && mine.roof == "R" && findConstruction(mine, "Brick"));
  }

  void gbXmlInOtherUnitsAndBroken() {
    const char* head =
        R"(<gbXML xmlns="http://www.gbxml.org/schema" lengthUnit="Meters"><Campus id="c"><Building id="b"/>)";
    const char* wall =
        R"(<Surface id="s" surfaceType="ExteriorWall" constructionIdRef="k"><PlanarGeometry><PolyLoop>
      <CartesianPoint><Coordinate>0</Coordinate><Coordinate>0</Coordinate><Coordinate>0</Coordinate></CartesianPoint>
      <CartesianPoint><Coordinate>4</Coordinate><Coordinate>0</Coordinate><Coordinate>0</Coordinate></CartesianPoint>
      <CartesianPoint><Coordinate>4</Coordinate><Coordinate>0</Coordinate><Coordinate>3</Coordinate></CartesianPoint>
      <CartesianPoint><Coordinate>0</Coordinate><Coordinate>0</Coordinate><Coordinate>3</Coordinate></CartesianPoint>
      </PolyLoop></PlanarGeometry></Surface></Campus>)";
    const auto with = [&](const char* construction) {
      return parseGbXml(std::string(head) + wall + construction + "</gbXML>", "x.xml");
    };
    const auto british =
        with(R"(<Construction id="k"><U-value unit="BtuPerHourSquareFtF">0.05</U-value></Construction>)");
    QVERIFY(british && near(findConstruction(british->heat, "k")->uValue, 0.05 * 5.678263));
    for (const char* bad : {R"(<Construction id="k"><U-value unit="WPerSquareMeterK">nan</U-value></Construction>)",
                            R"(<Construction id="k"><U-value unit="WPerSquareMeterK">-1</U-value></Construction>)",
                            R"(<Construction id="k"><U-value unit="Parsec">0.3</U-value></Construction>)",
                            R"(<Construction id="k"><LayerId layerIdRef="nowhere"/></Construction>)"}) {
      const auto m = with(bad);
      QVERIFY(m && m->heat.constructions.empty() && m->heat.wall.empty());
      QVERIFY2(QString::fromStdString(m->notes.back()).contains("construction was left out"), bad);
    }
  }
};

QTEST_APPLESS_MAIN(TestEnergyRooms)
#include "tst_energy_rooms.moc"
