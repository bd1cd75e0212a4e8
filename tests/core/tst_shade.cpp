// Shading as parts with parameters: every kind is met alike by every study, travels with its rooms, comes back from a
// file as it was; what it does at windows, and the least that does it.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/model/form/arrange.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/proof/light_cases.h"
#include "core/runs/wish_hours.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/shade.h"
#include "core/studies/sun_hours.h"
#include "core/studies/sun_wish_hours.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {

using K = ShadeRule::Kind;

std::vector<std::pair<const char*, ShadeRule>> everyKind() {
  return {{"overhang with an edge", {.kind = K::Overhang, .depth = 0.9, .offset = 0.2, .beyond = 0.4, .drop = 0.3}},
          {"fins", {.kind = K::Fins, .depth = 0.7, .count = 3, .angle = 0.3}},
          {"a fin to the right", {.kind = K::Fins, .depth = 1.2, .sides = ShadeRule::Sides::Right}},
          {"louvres", {.kind = K::Louvres, .depth = 0.2, .angle = 0.4, .spacing = 0.25, .standOff = 0.1}},
          {"upright louvres", {.kind = K::UprightLouvres, .depth = 0.3, .angle = -0.5, .spacing = 0.4}},
          {"egg-crate", {.kind = K::EggCrate, .depth = 0.3, .count = 4}},
          {"awning", {.kind = K::Awning, .depth = 1.4, .drop = 0.6, .ends = true}},
          {"balcony with bars", {.kind = K::Balcony, .depth = 1.5, .offset = 0.1, .beyond = 0.3, .openness = 0.6}},
          {"light shelf", {.kind = K::LightShelf, .depth = 0.8, .offset = 0.5, .inward = 0.6}},
          {"screen", {.kind = K::Screen, .beyond = 0.2, .spacing = 0.3, .standOff = 0.15, .openness = 0.4}}};
}

Project houseWith(ShadeRule rule) {
  Project p = test::house({.ratio = 0.3});
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "UTC+01:00";
  rule.id = {50};
  rule.name = "Shade";
  p.shadeRules.push_back(std::move(rule));
  SensorGroup g;
  g.id = {40};
  g.name = "Points";
  g.layout = std::vector<PointSensor>{{{4, -0.01, 1.3}, {0, -1, 0}, "facade"},
                                      {{3, -0.01, 1.9}, {0, -1, 0}, "high"},
                                      {{4, 2.5, 0.8}, {0, 0, 1}, "desk"}};
  p.groups.push_back(g);
  return p;
}
/// The same house with the rule's planes as elements in its place.
Project drawn(const Project& ruled) {
  Project p = ruled;
  for (const PlacedOpening& o : placedOpenings(ruled).openings)
    for (const ShadeRule& s : ruled.shadeRules) {
      Element e;
      e.id = ElementId::fresh();
      e.name = "Planes";
      e.role = Role::Shading;
      Imported shape;
      shape.mesh = std::make_shared<const Mesh>(shadeMesh(s, frameOf(o, ruled.rooms[o.room])));
      shape.content = digestOf(*shape.mesh);
      e.shape = shape;
      p = withElement(std::move(p), std::move(e));
    }
  p.shadeRules.clear();
  return p;
}
std::vector<float> sunHours(const Project& p, Date d) {
  SunHoursSettings s;
  s.dates = {d};
  s.sunriseToSunset = true;
  const auto in = sunHoursInput(p, {}, s);
  if (!in) qFatal("%s", in.error().text().c_str());
  RunControl control;
  return runSunHours(*in, control).hours;
}

} // namespace

class TestShade : public QObject {
  Q_OBJECT
private slots:
  void everyStudyMeetsEveryKind_data() {
    QTest::addColumn<int>("at");
    int k = 0;
    for (const auto& [name, rule] : everyKind()) QTest::newRow(name) << k++;
  }
  void everyStudyMeetsEveryKind() {
    QFETCH(int, at);
    const Project ruled = houseWith(everyKind()[std::size_t(at)].second), planes = drawn(ruled);
    Project bare = ruled;
    bare.shadeRules.clear();
    // Sun hours, exactly; something is taken on some day.
    bool takes = false;
    for (const Date d : {Date{2026, 6, 21}, Date{2026, 3, 21}, Date{2026, 12, 21}}) {
      const auto a = sunHours(ruled, d), b = sunHours(planes, d), c = sunHours(bare, d);
      QCOMPARE(a.size(), b.size());
      for (std::size_t i = 0; i < a.size(); ++i) {
        QVERIFY2(std::abs(a[i] - b[i]) < 1e-4f, qPrintable(QString("%1: %2 and %3 h").arg(i).arg(a[i]).arg(b[i])));
        QVERIFY(a[i] <= c[i] + 1e-4f);
        takes = takes || a[i] < c[i] - 0.01f;
      }
    }
    // Light of the sky on the facade and in the room.
    for (const StudyKind kind : {StudyKind::Vsc, StudyKind::DaylightFactor}) {
      const auto a = lightOf(ruled, kind, 0.02), b = lightOf(planes, kind, 0.02), c = lightOf(bare, kind, 0.02);
      QVERIFY(a && b && c);
      for (std::size_t i = 0; i < a->value.size(); ++i) {
        QVERIFY2(std::abs(a->value[i] - b->value[i]) <= 0.05 * b->value[i] + 0.05,
                 qPrintable(QString("%1: %2 and %3").arg(i).arg(a->value[i]).arg(b->value[i])));
        takes = takes || a->value[i] < 0.97 * c->value[i];
      }
    }
    QVERIFY2(takes, "the part changes nothing anywhere");
  }

  void planesLieWhereTheParametersSay() {
    const OpeningFrame f{{10, 0, 1}, {1, 0, 0}, {0, 0, 1}, {0, -1, 0}, 2, 1.5, 0.3};
    const auto box = [&](const ShadeRule& s) { return shadeMesh(s, f).box(); };
    const auto is = [](Vec3 a, Vec3 b) { return length(a - b) < 1e-12; };
    Box3 b = box({.kind = K::Overhang, .depth = 1, .offset = 0.2, .beyond = 0.5, .drop = 0.3});
    QVERIFY(is(b.low, {9.5, -1, 2.4}) && is(b.high, {12.5, 0, 2.7}));
    b = box({.kind = K::Awning, .depth = 1.2, .beyond = 0.1, .drop = 0.4, .ends = true});
    QVERIFY(is(b.low, {9.9, -1.2, 2.1}) && is(b.high, {12.1, 0, 2.5}));
    b = box({.kind = K::Balcony, .depth = 1.5, .offset = 0.1, .beyond = 0.2, .parapet = 1});
    QVERIFY(is(b.low, {9.8, -1.5, 0.9}) && is(b.high, {12.2, 0, 1.9}));
    b = box({.kind = K::LightShelf, .depth = 0.6, .offset = 0.5, .inward = 0.4});
    QVERIFY(is(b.low, {10, -0.6, 2}) && is(b.high, {12, 0.7, 2}));
    b = box({.kind = K::Fins, .depth = 0.5, .offset = 0.1, .sides = ShadeRule::Sides::Left});
    QVERIFY(is(b.low, {9.9, -0.5, 1}) && is(b.high, {9.9, 0, 2.5}));
    // Louvres 0.5 m apart from the head down to the sill: four, 0.1 m off the wall.
    Mesh m = shadeMesh({.kind = K::Louvres, .depth = 0.2, .spacing = 0.5, .standOff = 0.1}, f);
    QCOMPARE(m.triangles.size(), std::size_t(2 * 4));
    QVERIFY(is(m.box().low, {10, -0.3, 1}) && is(m.box().high, {12, -0.1, 2.5}));
    // By count the topmost lies at the head, and none on the sill.
    m = shadeMesh({.kind = K::Louvres, .depth = 0.2, .count = 3}, f);
    QCOMPARE(m.triangles.size(), std::size_t(2 * 3));
    QVERIFY(std::abs(m.box().low.z - 1.5) < 1e-12);
    // Upright blades 0.6 m apart on 2 m: five, so that they reach over both ends alike.
    m = shadeMesh({.kind = K::UprightLouvres, .depth = 0.2, .spacing = 0.6}, f);
    QVERIFY(std::abs(m.box().low.x - 9.8) < 1e-12 && std::abs(m.box().high.x - 12.2) < 1e-12);
    // A parapet of bars lets through the share of it that its openness says.
    const auto ironOf = [&](double openness) {
      return surfaceArea(shadeMesh({.kind = K::Balcony, .depth = 1, .parapet = 1, .openness = openness}, f)) - 2 * 1;
    };
    QVERIFY(std::abs(ironOf(0) - 4) < 1e-9);
    QVERIFY(std::abs(ironOf(0.7) - 0.3 * 4) < 1e-9);
    QVERIFY(std::abs(ironOf(1)) < 1e-9);
    // Nothing asked for in excess of what there may be.
    QVERIFY(shadeMesh({.kind = K::Louvres, .spacing = 1e-6}, f).triangles.size() <= 1000);
  }

  void standsWhereItIsPut() {
    Project p = houseWith({.kind = K::Louvres, .depth = 0.2, .spacing = 0.3});
    p.windowRules[0].facings = {Facing::South, Facing::North};
    const auto placed = placedOpenings(p).openings;
    QCOMPARE(placed.size(), std::size_t(2));
    const auto count = [&](const ShadeRule& s) {
      std::size_t n = 0;
      for (const PlacedOpening& o : placed) n += standsAt(s, o, p.rooms[0].id);
      return n;
    };
    ShadeRule s = p.shadeRules[0];
    QCOMPARE(count(s), std::size_t(2));
    s.facings = {Facing::North};
    QCOMPARE(count(s), std::size_t(1));
    s.rooms = {RoomId{77}};
    QCOMPARE(count(s), std::size_t(0));
    s.rooms = {p.rooms[0].id};
    QCOMPARE(count(s), std::size_t(1));
    s.windows = {placed[0].opening.id}; // goes before all else
    s.facings = {Facing::East};
    QCOMPARE(count(s), std::size_t(1));
    s.rooflights = true;
    QCOMPARE(count(s), std::size_t(0));
    WindowRule top;
    top.id = {31};
    top.ceiling = true;
    top.ratio = 0.1;
    p.windowRules = {top};
    const auto roof = placedOpenings(p).openings;
    QCOMPARE(roof.size(), std::size_t(1));
    s.windows.clear();
    QVERIFY(standsAt(s, roof[0], p.rooms[0].id));
    s.kind = K::Awning; // only blades lie over rooflights
    QVERIFY(!standsAt(s, roof[0], p.rooms[0].id));
  }

  void louvresOverARooflight() {
    Project p = test::house();
    p.site.place = {radians(55.6), radians(12.5), 0};
    WindowRule top;
    top.id = {31};
    top.ceiling = true;
    top.ratio = 0.2;
    p.windowRules = {top};
    const auto open = shadeReport(p);
    ShadeRule s{.kind = K::Louvres, .rooflights = true, .depth = 0.4, .spacing = 0.3};
    s.id = {50};
    p.shadeRules = {s};
    const auto shaded = shadeReport(p);
    QVERIFY(open && shaded && open->windows.size() == 1);
    QCOMPARE(open->windows[0].keepOut.taken(), 0.0);
    QVERIFY(shaded->windows[0].keepOut.taken() > 0.3);
    QVERIFY(shaded->windows[0].sky < 0.9);
  }

  void filesKeepEveryKind() {
    Project p = houseWith({});
    p.shadeRules.clear();
    std::uint64_t id = 60;
    for (const auto& [name, rule] : everyKind()) {
      ShadeRule s = rule;
      s.id = {id++};
      s.name = name;
      s.type = "high";
      s.finish = "Own";
      s.angle = radians(std::round(degrees(s.angle)));
      p.shadeRules.push_back(std::move(s));
    }
    p.shadeRules[0].rooms = {p.rooms[0].id};
    p.shadeRules[1].windows = {OpeningId{1234}};
    p.shadeRules[3].rooflights = true;
    p.sunWishes.keepOut = {{{}, "hot", 6, 1, 8, 31, 540, 1080}};
    p.sunWishes.letIn = {{{}, "cold", 11, 1, 2, 28, 0, 1440}};
    p.sunWishes.keepOutFrom = 24.5;
    p.sunWishes.keepOutHours = {0, 1, 2, 4000, 4002, 8759};
    p.sunWishes.keepOutHoursOf = "glare above 0.40 (Seats)";
    QTemporaryDir folder;
    const auto file = folder.filePath("a.noonward").toStdString();
    QVERIFY(writeProject(p, file));
    const auto back = readProject(file);
    QVERIFY2(back, back ? "" : back.error().text().c_str());
    QVERIFY(back->project.unknownKeys.empty());
    QCOMPARE(back->project.shadeRules.size(), p.shadeRules.size());
    for (std::size_t k = 0; k < p.shadeRules.size(); ++k) {
      ShadeRule a = back->project.shadeRules[k], b = p.shadeRules[k];
      QVERIFY2(std::abs(a.angle - b.angle) < 1e-12, b.name.c_str());
      a.angle = b.angle;
      QVERIFY2(a == b, b.name.c_str());
    }
    QVERIFY(back->project.sunWishes == p.sunWishes);
  }

  void faultsInFilesAreNamed_data() {
    QTest::addColumn<QString>("shade");
    QTest::addColumn<QString>("says");
    QTest::newRow("no depth") << R"({"kind": "fins"})"
                              << "depth";
    QTest::newRow("negative depth") << R"({"depth": -1})"
                                    << "depth";
    QTest::newRow("unknown kind") << R"({"kind": "brise", "depth": 1})"
                                  << "\"overhang\"";
    QTest::newRow("zero fins") << R"({"kind": "fins", "depth": 1, "count": 0})"
                               << "count";
    QTest::newRow("openness over all") << R"({"kind": "balcony", "depth": 1, "openness": 140})"
                                       << "openness";
    QTest::newRow("too steep") << R"({"depth": 1, "angle": 90})"
                               << "angle";
    QTest::newRow("text for a spacing") << R"({"kind": "louvres", "depth": 1, "spacing": "close"})"
                                        << "spacing";
    QTest::newRow("windows by number") << R"({"depth": 1, "windows": [3]})"
                                       << "window";
    QTest::newRow("a room that is not there") << R"({"depth": 1, "rooms": ["Cellar"]})"
                                              << "Cellar";
    QTest::newRow("no side") << R"({"depth": 1, "facing": "up"})"
                             << "north";
  }
  void faultsInFilesAreNamed() {
    QFETCH(QString, shade);
    QFETCH(QString, says);
    QTemporaryDir folder;
    QFile f(folder.filePath("a.noonward"));
    QVERIFY(f.open(QIODevice::WriteOnly));
    f.write(
        QString(
            R"({"format": "noonward-project", "version": 1, "name": "A", "site": {"latitude": 50, "longitude": 10}, "shading": [%1]})")
            .arg(shade)
            .toUtf8());
    f.close();
    const auto read = readProject(f.fileName().toStdString());
    QVERIFY(!read);
    const QString text = QString::fromStdString(read.error().text());
    QVERIFY2(text.contains(says), qPrintable(text));
  }

  void findingsTellIdleAndCrowdedParts() {
    Project p = houseWith({.kind = K::Louvres, .facings = {Facing::North}, .depth = 0.2, .spacing = 0.1});
    const auto codes = [](const Project& of) {
      QStringList out;
      for (const Finding& f : checkShading(of)) out << QString::fromStdString(f.code);
      return out;
    };
    QCOMPARE(codes(p), QStringList{"shade.nowhere"});
    p.shadeRules[0].facings = {Facing::South};
    QVERIFY(codes(p).isEmpty());
    p.shadeRules[0].spacing = 0.001;
    QCOMPARE(codes(p), QStringList{"shade.crowded"});
    p.shadeRules[0].spacing = 0.1;
    p.shadeRules[0].angle = radians(45);
    QCOMPARE(codes(p), QStringList{"shade.shut"});
    bool told = false;
    for (const Finding& f : checkProject(p)) told = told || f.code == "shade.shut";
    QVERIFY(told);
  }

  void turnsAndCopiesWithItsRooms() {
    Project p = houseWith({.kind = K::Fins, .facings = {Facing::South}, .depth = 0.7});
    // A quarter turn: fins that stood south stand east, as their windows do.
    Project turned = p;
    Element e = *p.elements[0];
    turnShape(std::get<Mass>(e.shape), middleOf(std::get<Mass>(e.shape)), pi / 2);
    turned.elements[0] = std::make_shared<const Element>(e);
    turned = carried(p, turned, {e.id});
    QVERIFY(turned.shadeRules[0].facings == std::vector<Facing>{Facing::East});
    QVERIFY(turned.windowRules[0].facings == std::vector<Facing>{Facing::East});
    const auto before = shadeReport(p), after = shadeReport(turned);
    QVERIFY(before && after);
    QVERIFY(before->windows[0].sky < 0.95);
    QVERIFY(std::abs(after->windows[0].sky - before->windows[0].sky) < 0.01);
    // A copy has its fins, also where they were put at one window alone.
    p.shadeRules[0].facings.clear();
    p.shadeRules[0].windows = {placedOpenings(p).openings[0].opening.id};
    p.windowRules[0].rooms = {p.rooms[0].id};
    const Project two = withCopies(p, {p.elements[0]->id}, {30, 0, 0});
    QCOMPARE(two.rooms.size(), std::size_t(2));
    QCOMPARE(two.shadeRules[0].windows.size(), std::size_t(2));
    const auto both = shadeReport(two);
    QVERIFY(both && both->windows.size() == 2);
    QVERIFY(both->windows[1].sky < 0.95);
  }

  void wishesOfTheYear() {
    SunWishes w;
    w.keepOut = {{{}, "", 6, 1, 8, 31, 540, 1080}};
    w.letIn = {{{}, "", 11, 1, 2, 28, 0, 1440}};
    const double none = std::numeric_limits<double>::quiet_NaN();
    QVERIFY(w.at({2026, 7, 1}, 600, {-1, none, none}) == SunWish::KeepOut);
    QVERIFY(w.at({2026, 7, 1}, 539, {-1, none, none}) == SunWish::None);
    QVERIFY(w.at({2026, 7, 1}, 1080, {-1, none, none}) == SunWish::None);
    QVERIFY(w.at({2026, 1, 1}, 600, {-1, none, none}) == SunWish::LetIn);
    w.keepOutFrom = 20;
    w.letInUpTo = 10;
    QVERIFY(w.at({2026, 1, 1}, 600, {-1, 25, none}) == SunWish::KeepOut); // keeping out goes before
    QVERIFY(w.at({2026, 4, 1}, 600, {-1, 5, none}) == SunWish::LetIn);
    QVERIFY(w.at({2026, 4, 1}, 600, {-1, none, none}) == SunWish::None);
    // By the sun's own strength; where the weather says nothing, nothing follows from it.
    w.keepOutBeamFrom = 400;
    QVERIFY(w.at({2026, 4, 1}, 600, {-1, 15, 399}) == SunWish::None);
    QVERIFY(w.at({2026, 4, 1}, 600, {-1, 15, 400}) == SunWish::KeepOut);
    QVERIFY(w.at({2026, 1, 1}, 600, {-1, 5, 700}) == SunWish::KeepOut); // before what is wanted
    QVERIFY(w.at({2026, 4, 1}, 600, {-1, 15, none}) == SunWish::None);
    QVERIFY(wishesText(w).find("from 400 W/m² of beam") != std::string::npos);
    // Hour by hour, as a study had them.
    w.keepOutHours = {10, 4000};
    w.keepOutHoursOf = "glare above 0.40 (Seats)";
    QVERIFY(w.at({2026, 4, 1}, 600, {4000, 15, none}) == SunWish::KeepOut);
    QVERIFY(w.at({2026, 4, 1}, 600, {4001, 15, none}) == SunWish::None);
    QVERIFY(wishesText(w).find("2 h of glare above 0.40 (Seats)") != std::string::npos);
    SunWishes alone;
    alone.keepOutBeamFrom = 0;
    QVERIFY(!alone.empty());
    // Half a year apart on both sides of the equator.
    QVERIFY(proposedWishes(0.9).at({2026, 7, 1}, 600, {-1, none, none}) == SunWish::KeepOut);
    QVERIFY(proposedWishes(-0.6).at({2026, 7, 1}, 600, {-1, none, none}) == SunWish::LetIn);
    QVERIFY(wishesText(w).find("from 20 °C") != std::string::npos);
  }

  void hoursComeFromStudies() {
    // Of the beam: against every sensor and hour asked by itself.
    Project p = test::houseOfTheYear(1.2);
    Study year;
    year.id = {90};
    year.kind = StudyKind::Year;
    year.name = "Year";
    p.studies = {year};
    RunControl control;
    const auto hours = hoursOfBeam(p, {}, year.year, control);
    QVERIFY2(hours, hours ? "" : hours.error().text().c_str());
    QVERIFY(hours->size() > 100 && std::is_sorted(hours->begin(), hours->end()));
    const auto input = yearInput(p, {}, year.year);
    QVERIFY(input);
    std::size_t next = 0;
    for (std::size_t h = 0; h < input->sky->hours.size(); ++h) {
      int bright = 0;
      for (const Sensor& s : input->sensors.sensors)
        if (input->sky->beam[h] > 0)
          bright += beamAt(*input->scene, s.position, s.normalVector(), input->sky->sun[h]).share *
                        double(input->sky->beam[h]) * input->settings.glassKept >=
                    1000;
      const bool mine = input->mask[input->sky->hours[h]] && bright > 0.02 * double(input->sensors.sensors.size());
      const bool told = next < hours->size() && (*hours)[next] == input->sky->hours[h];
      next += told;
      QVERIFY2(mine == told, qPrintable(QString("hour %1").arg(input->sky->hours[h])));
    }
    // Of glare: any line of sight above the limit, and not at it.
    GlareYear glare;
    glare.hours = {100, 200, 300};
    glare.seats.resize(2);
    glare.dgp = {3000, 4000, 4001, 2000, 3999, 1000};
    QCOMPARE(hoursOfGlare(glare), (std::vector<std::uint16_t>{300}));
    QCOMPARE(hoursOfGlare(glare, 0.25), (std::vector<std::uint16_t>{100, 200, 300}));
    // Taken into the project, they are what shading is judged by; what tells none is refused.
    StudyRunner runner(nullptr);
    const auto with = withHoursOfStudy(p, year, runner, control);
    QVERIFY(with && with->sunWishes.keepOutHours == *hours);
    const auto moments = sunMoments(*with);
    QVERIFY(moments && !moments->empty());
    double unwanted = 0;
    for (const SunMoment& m : *moments) {
      QVERIFY(m.wish == SunWish::KeepOut);
      unwanted += double(m.hours);
    }
    QVERIFY2(std::abs(unwanted - double(hours->size())) < 0.02 * double(hours->size()) + 2,
             qPrintable(QString("%1 of %2").arg(unwanted).arg(hours->size())));
    Study sun;
    sun.name = "Sun";
    QVERIFY(!withHoursOfStudy(p, sun, runner, control));
    Project dark = p;
    dark.windowRules.clear();
    QVERIFY(!withHoursOfStudy(dark, year, runner, control)); // not an hour
  }

  void momentsAreTheHoursOfTheYear() {
    Project p = houseWith({});
    Season all;
    p.sunWishes.keepOut = {all};
    for (const int step : {5, 15, 60}) {
      const auto m = sunMoments(p, {.stepMinutes = step});
      QVERIFY(m);
      double hours = 0;
      for (const SunMoment& x : *m) hours += double(x.hours);
      QVERIFY2(std::abs(hours - 4380) < 60,
               qPrintable(QString::number(hours))); // half of the year, a little less: by the centre
    }
    p.site.zone = "Nowhere/Land";
    QVERIFY(!sunMoments(p));
  }

  void neighboursAreToldApartFromShading() {
    Project p = houseWith({.kind = K::Overhang, .depth = 1.5, .beyond = 2});
    Element wall;
    wall.id = {11};
    wall.name = "Wall";
    wall.role = Role::Neighbour;
    wall.shape = Mass{rectangle(-40, -8, 48, -7), 0, 6, 1};
    const auto alone = shadeReport(p);
    const auto beside = shadeReport(withElement(p, wall));
    QVERIFY(alone && beside);
    const GlassSun &a = alone->windows[0].letIn, &b = beside->windows[0].letIn;
    QVERIFY(b.takenByNeighbours() > a.takenByNeighbours() + 0.2);
    QVERIFY(b.bare < a.bare && b.open == a.open);
    QVERIFY(b.shaded <= b.bare && a.shaded <= a.bare);
  }

  void sizesToTheMillimetre_data() {
    QTest::addColumn<int>("at");
    QTest::addColumn<double>("goal");
    QTest::newRow("overhang") << 0 << 0.75;
    QTest::newRow("overhang, half") << 0 << 0.5;
    QTest::newRow("fins") << 1 << 0.2;
    QTest::newRow("louvres") << 3 << 0.95;
    QTest::newRow("awning") << 6 << 0.8;
  }
  void sizesToTheMillimetre() {
    QFETCH(int, at);
    QFETCH(double, goal);
    ShadeRule rule = everyKind()[std::size_t(at)].second;
    rule.depth = 0.05;
    rule.drop = 0;
    rule.standOff = 0;
    const Project p = houseWith(rule);
    const auto sized = sizeShade(p, {.rule = {50}, .goal = goal, .most = 4});
    QVERIFY2(sized, sized ? "" : sized.error().text().c_str());
    QVERIFY(sized->reached);
    QVERIFY2(sized->after.keepOut.taken() >= goal - 1e-9, qPrintable(QString::number(sized->after.keepOut.taken())));
    QVERIFY(sized->before.keepOut.taken() < goal);
    Project less = sized->project;
    less.shadeRules[0].depth -= 0.001;
    const auto report = shadeReport(less);
    QVERIFY(report && report->windows[0].keepOut.taken() < goal);
    QVERIFY(std::abs(sized->project.shadeRules[0].depth - sized->value) < 1e-12);
  }

  void spacingIsSizedToo() {
    const Project p = houseWith({.kind = K::Louvres, .depth = 0.2, .spacing = 1});
    const auto sized = sizeShade(p, {.rule = {50}, .what = ShadeSizing::What::Spacing, .goal = 0.9, .most = 1});
    QVERIFY2(sized, sized ? "" : sized.error().text().c_str());
    QVERIFY(sized->reached && sized->value > 0.05 && sized->value < 1);
    QVERIFY(sized->after.keepOut.taken() >= 0.9 - 1e-9);
    QVERIFY(!sizeShade(houseWith({}), {.rule = {50}, .what = ShadeSizing::What::Spacing}));
  }

  void whatCantBeReachedIsSaid() {
    const Project p = houseWith({.kind = K::Fins, .depth = 0.3}); // the sun of noon comes between any two fins
    const auto sized = sizeShade(p, {.rule = {50}, .goal = 0.99, .most = 1});
    QVERIFY(sized && !sized->reached);
    QVERIFY(sized->after.keepOut.taken() < 0.99);
    QVERIFY(!sizeShade(p, {.rule = {51}}));
    QVERIFY(!sizeShade(p, {.rule = {50}, .goal = 0}));
    QVERIFY(!sizeShade(p, {.rule = {50}, .most = 500}));
    Project north = p;
    north.windowRules[0].facings = {Facing::East};
    north.shadeRules[0].facings = {Facing::South};
    const auto none = sizeShade(north, {.rule = {50}});
    QVERIFY(!none && none.error().message.find("no window") != std::string::npos);
    Project never = p;
    never.sunWishes.letIn = {Season{}};
    const auto hours = sizeShade(never, {.rule = {50}});
    QVERIFY(!hours && hours.error().message.find("paint") != std::string::npos);
    RunControl stop;
    stop.wish = Wish::Drop;
    QVERIFY(!sizeShade(p, {.rule = {50}}, {}, &stop));
  }

  void glassInSunThroughADay() {
    const Project p = houseWith({.kind = K::Overhang, .depth = 1.0, .offset = 0, .beyond = 300});
    const auto june = glassInSun(p, {2026, 6, 21}), december = glassInSun(p, {2026, 12, 21});
    QVERIFY(june && december);
    QCOMPARE(june->windows.size(), std::size_t(1));
    const GlassDay &s = june->windows[0], &w = december->windows[0];
    QCOMPARE(s.share.size(), std::size_t(289));
    // Noon: under the overhang in June, all but its head in sun in December.
    QVERIFY(s.share[144] < 0.3f && w.share[144] > 0.8f);
    // Stretches in sun and in shade make up the time in front, and the steps agree with them.
    for (const GlassDay* d : {&s, &w}) {
      QVERIFY(std::abs(total(d->sun) + total(d->shaded) - total(d->inFront)) < 1);
      for (std::size_t k = 0; k < d->share.size(); ++k) {
        const double t = 300.0 * double(k);
        const bool in = std::any_of(d->sun.begin(), d->sun.end(),
                                    [&](const Interval& x) { return t > x.begin + 1 && t < x.end - 1; });
        const bool out = std::none_of(d->sun.begin(), d->sun.end(),
                                      [&](const Interval& x) { return t > x.begin - 1 && t < x.end + 1; });
        if (in) QVERIFY2(d->share[k] > 0, qPrintable(QString::number(k)));
        if (out) QVERIFY2(d->share[k] == 0, qPrintable(QString::number(k)));
      }
    }
    QVERIFY(!glassInSun(p, {2026, 6, 21}, 0));
    // The clocks go forward: a day of 23 hours.
    Project copenhagen = p;
    copenhagen.site.zone = "Europe/Copenhagen";
    const auto spring = glassInSun(copenhagen, {2026, 3, 29});
    QVERIFY(spring && spring->windows[0].share.size() == 277);
  }

  void questionsAskedBeforeAreFoundOn() {
    // Overhangs and fins enter the hash as they did before there were other kinds.
    const auto digest = [](const ShadeRule& s) {
      Hasher h;
      hashShade(h, s);
      return h.digest();
    };
    ShadeRule s{.kind = K::Fins, .type = "t", .depth = 0.7, .offset = 0.1, .beyond = 0.2, .count = 5, .angle = 0.2};
    Hasher h;
    h.add("shades").add(s.type).add(int(s.kind)).add(s.depth).add(s.offset).add(s.beyond).add(s.count).add(s.angle);
    QVERIFY(digest(s) == h.digest());
    // And each parameter that a kind goes by changes it.
    for (const auto& [name, rule] : everyKind()) {
      ShadeRule other = rule;
      other.drop += 0.1;
      QVERIFY(digest(other) != digest(rule));
    }
    ShadeRule a{.kind = K::Louvres, .spacing = 0.2}, b = a;
    b.standOff = 0.1;
    QVERIFY(digest(a) != digest(b));
  }
};

QTEST_APPLESS_MAIN(TestShade)
#include "tst_shade.moc"
