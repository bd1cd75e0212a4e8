// Sweeps: values put at places of a project, which runs there are, rows that are run, stopped, parted and merged.

#ifndef Q_MOC_RUN
#include "core/files/library.h"
#include "core/files/project/asked_json.h"
#include "core/files/project/design_json.h"
#include "core/files/save_file.h"
#include "core/model/form/edit.h"
#include "core/model/history.h"
#include "core/runs/sweep/least_change.h"
#include "tests/house.h"
#endif
#include <QTest>
#include <cmath>

using namespace noonward;
using namespace noonward::test;

namespace {
YardstickShelf rules() {
  return readYardsticks({SOURCE_TREE "/resources/yardsticks"});
}
Variable vary(const char* name, const char* at, VaryRange range) {
  Variable v;
  v.name = name;
  v.at = {at};
  v.range = range;
  return v;
}
Variable choose(const char* name, const char* at, std::vector<VaryValue> values) {
  Variable v;
  v.name = name;
  v.at = {at};
  v.values = std::move(values);
  return v;
}
SweepOutcome ofModel(const char* figure) {
  return {figure, SweepOutcome::Of::Model, "", figure, ""};
}
/// A house with windows to the south under an overhang, all of it proposed, and something to stand for each list.
Project shaded() {
  Project p = houseOfTheYear(1.5);
  p = withEdited(std::move(p), {ElementId{10}}, [](Element& e) { e.proposed = true; });
  ShadeRule s;
  s.id = {50};
  s.name = "Overhang";
  s.facings = {Facing::South};
  s.depth = 0.5;
  p.shadeRules.push_back(s);
  s.id = {51};
  s.name = "Fins";
  s.kind = ShadeRule::Kind::Fins;
  s.depth = 0.2;
  p.shadeRules.push_back(s);
  Study year;
  year.id = {60};
  year.kind = StudyKind::Year;
  year.name = "Year";
  year.year.error = 0.3;
  year.year.stopFor = StopFor::Nothing;
  p.studies.push_back(year);
  return p;
}
Sweep of(std::vector<Variable> variables, std::vector<SweepOutcome> outcomes = {ofModel("glass-area")}) {
  Sweep s;
  s.id = {70};
  s.name = "Sweep";
  s.variables = std::move(variables);
  s.outcomes = std::move(outcomes);
  return s;
}
Project made(const Project& p, const Sweep& s, const VaryPoint& values) {
  const auto v = Variation::of(p, s);
  if (!v) qFatal("%s", v.error().text().c_str());
  auto out = v->at(values);
  if (!out) qFatal("%s", out.error().text().c_str());
  return std::move(*out);
}
Expected<SweepTable> ran(const Project& p, const Sweep& s, SweepPart part = {}, RunControl* given = nullptr) {
  ResultStore memory{std::filesystem::path()};
  StudyRunner runner(&memory);
  RunControl own;
  return runSweep(p, s, rules(), runner, given ? *given : own, part);
}
bool says(const Error& e, const char* text) {
  return QString::fromStdString(e.text()).contains(text);
}
} // namespace

class TestSweep : public QObject {
  Q_OBJECT
private slots:
  void valuesGoWhereTheyAreSaid() {
    const Project p = shaded();
    QCOMPARE(made(p, of({vary("d", "shading/Overhang/depth", VaryRange{0, 1, 0.25})}), {0.75}).shadeRules[0].depth,
             0.75);
    const Project all = made(p, of({vary("d", "shading/*/depth", VaryRange{0, 1, 0.25})}), {0.25});
    QCOMPARE(all.shadeRules[0].depth, 0.25);
    QCOMPARE(all.shadeRules[1].depth, 0.25);
    const Project fins = made(p, of({vary("d", "shading/kind:fins/depth", VaryRange{0, 1, 0.25})}), {1.0});
    QCOMPARE(fins.shadeRules[0].depth, 0.5);
    QCOMPARE(fins.shadeRules[1].depth, 1.0);
    const Project glass = made(p, of({vary("r", "window-rules/Window/ratio", VaryRange{0.2, 0.6, 0.2})}), {0.6});
    QCOMPARE(glass.windowRules[0].ratio, 0.6);
    // A key that the file leaves out where it is as usual.
    QCOMPARE(made(p, of({vary("t", "shading/Overhang/drop", VaryRange{0, 1, 0.5})}), {0.5}).shadeRules[0].drop, 0.5);
    const Project dim = made(p, of({vary("lx", "studies/Year/threshold", VaryRange{300, 500, 100})}), {500.0});
    QCOMPARE(dim.studies[0].year.metrics.threshold, 500.0);
    const Project shut =
        made(p, of({choose("b", "studies/Year/blinds", {std::string("never"), std::string("always")})}),
             {std::string("always")});
    QCOMPARE(shut.studies[0].year.blinds, BlindRule::Always);
    // What is not varied is what it was, and shared.
    QCOMPARE(all.elements[0].get(), p.elements[0].get());
  }
  void aRaisedMassTakesItsRoomsAlong() {
    const Project p = shaded();
    const Project high = made(p, of({vary("h", "elements/House/mass/height", VaryRange{3.4, 5.4, 0.5})}), {4.4});
    QCOMPARE(heightOf(*high.elements[0]), 4.4);
    QCOMPARE(high.rooms[0].height, 4.0); // the slab above keeps its thickness
  }
  void theProposalTurnsAboutItsMiddle_data() {
    QTest::addColumn<double>("bearing");
    QTest::addColumn<QPointF>("corner"); // where the room's first one goes
    const double w = 0.3, half = 3.5, deep = 3;
    // Clockwise by a right angle: (x, y) from the middle goes to (y, −x).
    QTest::newRow("0") << 0.0 << QPointF(w, w);
    QTest::newRow("90") << 90.0 << QPointF(half + (w - deep), deep - (w - half));
    QTest::newRow("180") << 180.0 << QPointF(7 - w, 6 - w);
    QTest::newRow("360") << 360.0 << QPointF(w, w);
  }
  void theProposalTurnsAboutItsMiddle() {
    QFETCH(double, bearing);
    QFETCH(QPointF, corner);
    const Project p = shaded();
    const Project t = made(p, of({vary("b", "proposal/bearing", VaryRange{0, 360, 90})}), {bearing});
    const Ring& ring = t.rooms[0].outline.outer;
    double least = INFINITY;
    for (const Vec2 v : ring) least = std::min(least, std::hypot(v.x - corner.x(), v.y - corner.y()));
    QVERIFY2(least < 1e-9, qPrintable(QString::number(least)));
    QVERIFY(std::abs(area(t.rooms[0].outline) - area(p.rooms[0].outline)) < 1e-9);
    // Its glass goes with it: the same area, and to the south it is only where it was or turned all round.
    const auto before = roomFacts(p), after = roomFacts(t);
    QVERIFY(std::abs(before[0].allWindows() - after[0].allWindows()) < 1e-6);
    QCOMPARE(after[0].windowArea[2] > 1, bearing == 0.0 || bearing == 360.0);
  }
  void optionsAreAChoice() {
    Project p = withNewOption(shaded(), "Deep");
    p.shadeRules[0].depth = 1.5;
    const Sweep s = of({choose("design", "option", {std::string("As drawn"), std::string("Deep")}),
                        vary("r", "window-rules/Window/ratio", VaryRange{0.2, 0.4, 0.2})});
    const std::string first = p.options[0].name;
    Sweep named = s;
    named.variables[0].values = {first, std::string("Deep")};
    QCOMPARE(made(p, named, {first, 0.2}).shadeRules[0].depth, 0.5);
    const Project deep = made(p, named, {std::string("Deep"), 0.2});
    QCOMPARE(deep.shadeRules[0].depth, 1.5);
    QCOMPARE(deep.windowRules[0].ratio, 0.2);
  }

  void badInputIsRefusedInWords_data() {
    QTest::addColumn<QString>("json");
    QTest::addColumn<QString>("says");
    const auto one = [](const char* vary, const char* rest = "") {
      return QString(R"({"name": "S", "vary": [%1], "outcomes": [{"name": "g", "model": "glass-area"}]%2})")
          .arg(vary, rest);
    };
    QTest::newRow("nothing varied") << one("") << "varies nothing";
    QTest::newRow("turned round")
        << one(R"({"name": "d", "at": "shading/Overhang/depth", "from": 1, "to": 0, "step": 0.1})") << "turned round";
    QTest::newRow("no step") << one(R"({"name": "d", "at": "shading/Overhang/depth", "from": 0, "to": 1, "step": 0})")
                             << "step above 0";
    QTest::newRow("a share for %") << one(R"({"name": "f", "at": "openings/Door/frame", "values": [0.4]})")
                                   << "Write 40 for 40 %";
    QTest::newRow("target gone") << one(R"({"name": "d", "at": "shading/Awning/depth", "values": [1]})")
                                 << "nothing in the project is at \"shading/Awning/depth\"";
    QTest::newRow("key misspelt") << one(R"({"name": "d", "at": "shading/Overhang/dept", "values": [1]})")
                                  << "Nobody reads \"dept\"";
    QTest::newRow("no place") << one(R"({"name": "d", "at": "colour", "values": [1]})") << "no place of a design";
    QTest::newRow("out of range") << one(R"({"name": "r", "at": "window-rules/Window/ratio", "values": [0.3, 40]})")
                                  << "r = 40";
    QTest::newRow("a text for a number") << one(R"({"name": "d", "at": "shading/Overhang/depth", "values": ["deep"]})")
                                         << "d = deep";
    QTest::newRow("name twice")
        << one(R"({"name": "d", "at": "shading/Overhang/depth", "values": [1]}, {"name": "d", "at": "shading/Fins/depth", "values": [1]})")
        << "Two variables are called \"d\"";
    QTest::newRow("name of an outcome") << one(R"({"name": "g", "at": "shading/Overhang/depth", "values": [1]})")
                                        << "Two columns are called \"g\"";
    QTest::newRow("no name") << one(R"({"name": "2 d", "at": "shading/Overhang/depth", "values": [1]})")
                             << "no name for a variable";
    QTest::newRow("condition") << one(R"({"name": "d", "at": "shading/Overhang/depth", "values": [1]})",
                                      R"(, "where": ["d + sill <= 2"])")
                               << "can't be read";
    QTest::newRow("nothing allowed") << one(R"({"name": "d", "at": "shading/Overhang/depth", "values": [1, 2]})",
                                            R"(, "where": ["d > 5"])")
                                     << "No combination keeps the conditions";
    QTest::newRow("too many")
        << one(R"({"name": "a", "at": "shading/Overhang/depth", "from": 0, "to": 1, "step": 0.001},
                                        {"name": "b", "at": "shading/Fins/depth", "from": 0, "to": 1, "step": 0.001})")
        << "1002001 combinations are too many";
    QTest::newRow("no such study")
        << R"({"name": "S", "vary": [{"name": "d", "at": "shading/Overhang/depth", "values": [1]}], "outcomes": [{"name": "x", "study": "Glare", "figure": "mean"}]})"
        << "no study \"Glare\"";
    QTest::newRow("no such figure")
        << R"({"name": "S", "vary": [{"name": "d", "at": "shading/Overhang/depth", "values": [1]}], "outcomes": [{"name": "x", "study": "Year", "figure": "sdA"}]})"
        << "none of sda, ase";
    QTest::newRow("rule not laid")
        << R"({"name": "S", "vary": [{"name": "d", "at": "shading/Overhang/depth", "values": [1]}], "outcomes": [{"name": "x", "rule": "daylight-credit"}]})"
        << "not laid";
    QTest::newRow("goal of nothing") << one(R"({"name": "d", "at": "shading/Overhang/depth", "values": [1]})",
                                            R"(, "goals": [{"outcome": "h", "at-least": 1}])")
                                     << "does not look at";
  }
  void badInputIsRefusedInWords() {
    QFETCH(QString, json);
    QFETCH(QString, says);
    Project p = shaded();
    Opening door;
    door.id = {80};
    door.name = "Door";
    door.room = {1};
    door.edge = 1;
    p.openings.push_back(door);
    const auto parsed = parseJson(json.toStdString(), "sweep");
    QVERIFY2(parsed, qPrintable(json));
    JsonFault fault;
    Sweep s;
    {
      JsonObject o(*parsed, "", fault);
      s = sweepFromJson(o);
    }
    QVERIFY2(!fault.error, fault.error ? fault.error->text().c_str() : "");
    const auto t = ran(p, s);
    QVERIFY(!t);
    QVERIFY2(QString::fromStdString(t.error().text()).contains(says), t.error().text().c_str());
  }
  void aVariantThatBreaksTheModelSaysSoAndTheOthersGoOn() {
    Project p = shaded();
    Opening o;
    o.id = {81};
    o.name = "Side";
    o.room = {1};
    o.edge = 1;
    o.along = 1;
    p.openings.push_back(o);
    const auto t = ran(p, of({choose("sill", "openings/Side/sill", {0.9, 2.4})}));
    QVERIFY(t);
    QCOMPARE(t->rows.size(), std::size_t(2));
    QVERIFY(t->rows[0].fault.empty() != t->rows[1].fault.empty());
    const SweepRow& broken = t->rows[0].fault.empty() ? t->rows[1] : t->rows[0];
    QCOMPARE(std::get<double>(broken.values[0]), 2.4);
    QVERIFY2(QString::fromStdString(broken.fault).contains("beyond its wall"), broken.fault.c_str());
    QVERIFY(QString::fromStdString(sweepCsv(*t)).contains("The model breaks"));
  }
  void combinationsAreWholeAndSamplesAreSpread() {
    const Project p = shaded();
    Sweep s = of({vary("a", "shading/Overhang/depth", VaryRange{0, 1, 0.1}),
                  vary("b", "shading/Fins/depth", VaryRange{0, 0.5, 0.1})});
    auto v = Variation::of(p, s);
    QVERIFY(v);
    auto points = sweepPoints(*v);
    QVERIFY(points);
    QCOMPARE(points->points.size(), std::size_t(66));
    QCOMPARE(std::set(points->points.begin(), points->points.end()).size(), std::size_t(66));
    // Early runs lie far apart: of the first sixteen every half of each variable has some.
    std::array<int, 4> quarter{};
    for (std::size_t k = 0; k < 16; ++k)
      ++quarter[std::size_t(points->points[k][0] > 5) * 2 + std::size_t(points->points[k][1] > 2)];
    for (const int n : quarter) QVERIFY2(n >= 2, qPrintable(QString::number(n)));
    s.conditions = {"a + 2 * b <= 1", "a > 0 || b > 0"};
    v = Variation::of(p, s);
    QVERIFY(v);
    points = sweepPoints(*v);
    QVERIFY(points);
    std::size_t expected = 0;
    for (int a = 0; a <= 10; ++a)
      for (int b = 0; b <= 5; ++b) expected += a + 2 * b <= 10 && (a > 0 || b > 0);
    QCOMPARE(points->points.size() + points->leftOut, std::size_t(66));
    QVERIFY(std::abs(int(points->points.size()) - int(expected)) <= 2); // 0.1 + 2 · 0.45 in binary
    s.conditions.clear();
    s.sample = 12;
    v = Variation::of(p, s);
    points = sweepPoints(*v);
    QCOMPARE(points->points.size(), std::size_t(12));
    QCOMPARE(std::set(points->points.begin(), points->points.end()).size(), std::size_t(12));
  }
  void aRangeEndsWhereItSays() {
    const auto v = Variation::of(shaded(), of({vary("a", "shading/Overhang/depth", VaryRange{0, 1, 0.3})}));
    QVERIFY(v);
    std::vector<double> found;
    for (const VaryValue& x : v->values()[0]) found.push_back(std::get<double>(x));
    QCOMPARE(found, (std::vector<double>{0, 0.3, 0.6, 0.9, 1}));
    QCOMPARE(v->unit(0), std::string("m"));
    QCOMPARE(std::get<double>(*v->now()[0]), 0.5);
  }
  void figuresOfTheModelAreThoseOfTheHouse() {
    const auto t =
        ran(shaded(), of({choose("depth", "shading/Overhang/depth", {0.4, 0.8})},
                         {ofModel("floor-area"), ofModel("volume"), ofModel("glass-area"), ofModel("shading-area"),
                          ofModel("mass-volume"), ofModel("footprint"), ofModel("height")}));
    QVERIFY(t);
    const double floor = 6.4 * 5.4, wall = 6.4 * 3;
    for (const SweepRow& r : t->rows) {
      const double depth = std::get<double>(r.values[0]);
      const std::array<double, 7> expected{floor, floor * 3, 0.35 * wall, NAN, 7 * 6 * 3.4, 42, 3.4};
      for (std::size_t k = 0; k < 7; ++k)
        if (k != 3)
          QVERIFY2(std::abs(r.figures[k].value - expected[k]) < 1e-6,
                   qPrintable(QString("%1: %2").arg(t->sweep.outcomes[k].name.c_str()).arg(r.figures[k].value)));
      // An overhang over the window's width, and fins at both sides 0.2 deep as high as it.
      const Project p = made(shaded(), t->sweep, {depth});
      const auto placed = placedOpenings(p).openings;
      QCOMPARE(placed.size(), std::size_t(1));
      const double width = placed[0].opening.width, height = placed[0].opening.height;
      QVERIFY2(std::abs(r.figures[3].value - (depth * width + 2 * 0.2 * height)) < 1e-6,
               qPrintable(QString::number(r.figures[3].value)));
    }
  }

  void rowsThatShareRaysAreWhatSingleRunsAre() {
    // Blinds and thresholds ask for no rays: two depths are two batches, and every row has the bits of a run of its
    // own.
    const Project p = shaded();
    const Sweep s = of({choose("depth", "shading/Overhang/depth", {0.2, 0.8}),
                        choose("blinds", "studies/Year/blinds", {std::string("never"), std::string("standard")}),
                        choose("lx", "studies/Year/threshold", {200.0, 500.0})},
                       {{"sDA", SweepOutcome::Of::Study, "Year", "sda", ""},
                        {"mean", SweepOutcome::Of::Study, "Year", "mean", ""},
                        {"Hall", SweepOutcome::Of::Study, "Year", "ase", "Hall"}});
    const auto t = ran(p, s);
    QVERIFY(t);
    QCOMPARE(t->rows.size(), std::size_t(8));
    QCOMPARE(t->traced, 2);
    for (const SweepRow& r : t->rows) {
      const Project one = made(p, s, r.values);
      StudyRunner runner(nullptr);
      RunControl control;
      const auto year = runner.year(one, {}, one.studies[0].year, control);
      QVERIFY(year);
      QCOMPARE(r.figures[0].value, 100 * year->result->building.sda);
      QCOMPARE(r.figures[1].value, year->result->building.meanLux);
      QCOMPARE(r.figures[2].value, 100 * year->result->spaces[0].ase);
      QVERIFY(r.figures[1].error > 0);
    }
    // In parts, run apart and in any order, merged: the same bytes.
    std::vector<SweepTable> parts;
    for (const std::size_t k : {2, 1}) {
      const auto part = ran(p, s, {k, 2});
      QVERIFY(part);
      QCOMPARE(part->rows.size(), std::size_t(4));
      const auto read = sweepTableFromText(sweepTableText(*part), "part");
      QVERIFY2(read, read ? "" : read.error().text().c_str());
      parts.push_back(*read);
    }
    std::vector<std::size_t> missing;
    const auto whole = mergedSweep(parts, &missing);
    QVERIFY(whole && missing.empty());
    QCOMPARE(sweepTableText(*whole), sweepTableText(*t));
    QCOMPARE(sweepCsv(*whole), sweepCsv(*t));
    // A lost part is named.
    const auto half = mergedSweep({parts[0]}, &missing);
    QVERIFY(half);
    QCOMPARE(missing.size(), std::size_t(4));
    Project other = p;
    other.rooms[0].height = 2.9;
    const auto foreign = ran(other, s, {1, 2});
    QVERIFY(foreign);
    const auto mixed = mergedSweep({parts[0], *foreign});
    QVERIFY(!mixed && says(mixed.error(), "different states"));
  }
  void otherBlindsGiveWhatARunFromNothingGives() {
    // One runner goes through many rules: rooms whose blinds stand as they stood are taken as they were.
    const Project p = shaded();
    StudyRunner many(nullptr);
    RunControl control;
    YearSettings s = p.studies[0].year;
    const std::vector<std::function<void(YearSettings&)>> steps{
        [](YearSettings&) {},
        [](YearSettings& y) { y.closesAt = 1001; }, // hardly any hour
        [](YearSettings& y) { y.closesAt = 1e9; },  // never
        [](YearSettings& y) { y.blinds = BlindRule::Never; },
        [](YearSettings& y) { y.metrics.threshold = 500; },
        [](YearSettings& y) { y.fabricDiffuse = 0.3; },
        [](YearSettings& y) { y.fabricDirect = 0.1; },
        [](YearSettings& y) { y.glassKept = 0.8; },
        [](YearSettings& y) { y.beginMinute = 9 * 60; },
        [](YearSettings& y) { y.closesAt = 500; },
        [](YearSettings&) {}};
    for (std::size_t k = 0; k < steps.size(); ++k) {
      YearSettings own = s;
      steps[k](own);
      StudyRunner fresh(nullptr);
      const auto a = many.year(p, {}, own, control), b = fresh.year(p, {}, own, control);
      QVERIFY(a && b);
      const YearResult &x = *a->result, &y = *b->result;
      const QString step = QString("step %1").arg(k);
      QVERIFY2(x.building.sda == y.building.sda && x.building.ase == y.building.ase &&
                   x.building.meanLux == y.building.meanLux && x.building.medianLux == y.building.medianLux &&
                   x.building.useful == y.building.useful && x.buildingSdaError == y.buildingSdaError,
               qPrintable(step));
      QVERIFY2(x.provision == y.provision && x.provisionError == y.provisionError && x.provisionOwn == y.provisionOwn &&
                   x.provisionOwnError == y.provisionOwnError && x.meanError == y.meanError && x.sdaError == y.sdaError,
               qPrintable(step));
      QVERIFY2(x.relativeError == y.relativeError && x.beamHours == y.beamHours && x.closedHours == y.closedHours,
               qPrintable(step));
      for (std::size_t i = 0; i < x.sensors.size(); ++i)
        QVERIFY2(x.sensors[i].mean == y.sensors[i].mean && x.sensors[i].median == y.sensors[i].median &&
                     x.sensors[i].autonomy == y.sensors[i].autonomy,
                 qPrintable(step));
    }
  }
  void aTableThatCanNotBeKeptSaysSoAndTheStoreStays() {
    // A disc that fails while runs are kept costs time, not the answer; a table that can't be written is told.
    const Project p = shaded();
    const Sweep s = of({choose("lx", "studies/Year/threshold", {200.0, 500.0})},
                       {{"sDA", SweepOutcome::Of::Study, "Year", "sda", ""}});
    QTemporaryDir dir;
    const std::filesystem::path folder = dir.filePath("gone").toStdString();
    std::filesystem::create_directories(folder);
    ResultStore store(folder / "p.results.sqlite");
    std::filesystem::remove_all(folder);
    StudyRunner runner(&store);
    RunControl control;
    const auto t = runSweep(p, s, rules(), runner, control);
    QVERIFY2(t, t ? "" : t.error().text().c_str());
    QCOMPARE(sweepTableText(*t), sweepTableText(*ran(p, s)));
    const Outcome kept = saveSweepTable(*t, folder / "table.csv");
    QVERIFY(!kept && says(kept.error(), "table.csv"));
    // Discs that fail in the middle leave the table that was there.
    const std::filesystem::path file = dir.filePath("table.json").toStdString();
    QVERIFY(saveFile(file, "before").has_value());
    DiscCalls full = DiscCalls::real();
    full.write = [](int, const void*, std::size_t) -> long {
      errno = ENOSPC;
      return -1;
    };
    QVERIFY(!saveFile(file, sweepTableText(*t), full).has_value());
    QCOMPARE(*loadFile(file), std::string("before"));
  }
  void stoppedAnywhereItKeepsWhatIsDoneAndGoesOnToTheSameBytes() {
    const Project p = shaded();
    Sweep s =
        of({vary("a", "shading/Overhang/depth", VaryRange{0, 1, 0.25}), choose("b", "shading/Fins/depth", {0.1, 0.3})},
           {ofModel("shading-area"), {"sun", SweepOutcome::Of::Study, "Sun", "mean", ""}});
    Project with = p;
    Study sun;
    sun.id = {61};
    sun.kind = StudyKind::SunHours;
    sun.name = "Sun";
    sun.sunHours.dates = {{2026, 6, 21}};
    with.studies.push_back(sun);
    const auto whole = ran(with, s);
    QVERIFY2(whole, whole ? "" : whole.error().text().c_str());
    QCOMPARE(whole->rows.size(), std::size_t(10));
    for (const std::size_t after : {1, 4, 9}) {
      ResultStore memory{std::filesystem::path()};
      StudyRunner runner(&memory);
      RunControl control;
      const auto some = runSweep(with, s, rules(), runner, control, {}, [&](const SweepTable& t) {
        if (t.rows.size() == after) control.wish = Wish::Enough;
      });
      QVERIFY(some);
      QCOMPARE(some->rows.size(), after);
      QCOMPARE(some->end, RunEnd::Enough);
      const int computed = runner.computed();
      RunControl again;
      const auto rest = runSweep(with, s, rules(), runner, again);
      QVERIFY(rest);
      QCOMPARE(sweepTableText(*rest), sweepTableText(*whole));
      QCOMPARE(runner.computed(), 10); // none was computed twice
      QCOMPARE(computed, int(after));
    }
    RunControl never;
    never.wish = Wish::Drop;
    QVERIFY(!ran(with, s, {}, &never));
  }
  void tablesThatAreNoneAreRefused() {
    const auto t = ran(shaded(), of({choose("a", "shading/Overhang/depth", {0.1, 0.2})}));
    QVERIFY(t);
    const std::string whole = sweepTableText(*t);
    for (std::size_t cut = 0; cut < whole.size(); cut += 37) QVERIFY(!sweepTableFromText(whole.substr(0, cut), "cut"));
    for (const auto& [from, to] : {std::pair{"\"number\": 1", "\"number\": 7"},
                                   {"noonward-sweep-table", "another"},
                                   {"\"values\"", "\"value\""},
                                   {"\"units\"", "\"unit\""}}) {
      QString text = QString::fromStdString(whole);
      QVERIFY2(text.contains(from), from);
      QVERIFY2(!sweepTableFromText(text.replace(from, to).toStdString(), "bad"), from);
    }
  }
  void aProjectKeepsSweepsAndMeasuredSeries() {
    Project p = shaded();
    Sweep s =
        of({vary("depth", "shading/Overhang/depth", VaryRange{0, 1.5, 0.25}),
            choose("glass", "window-rules/Window/glazing", {std::string("Clear double"), std::string("Solar double")}),
            choose("bars", "shading/Overhang/ends", {true, false})},
           {{"sDA", SweepOutcome::Of::Study, "Year", "sda", "Hall"},
            {"credit", SweepOutcome::Of::Rule, "daylight-credit", "points", ""},
            ofModel("glass-area")});
    s.variables[0].at.push_back("shading/Fins/depth");
    s.variables[1].weight = 2.5;
    s.conditions = {"depth < 1.2"};
    s.goals = {{"sDA", SweepGoal::Kind::AtLeast, 55},
               {"sDA", SweepGoal::Kind::AtMost, 90},
               {"glass-area", SweepGoal::Kind::Least, 0},
               {"credit", SweepGoal::Kind::Most, 0}};
    s.sample = 64;
    p.sweeps = {s};
    MeasuredSeries m;
    m.id = {90};
    m.name = "Roof";
    m.files = {"/data/roof.csv", "/data/more.csv"};
    m.map = R"({"format":"noonward-station-map","clock":"utc"})";
    m.study = StudyId{60}.text();
    m.firstDay = 120;
    m.lastDay = 180;
    m.firstHour = 8;
    m.lastHour = 18;
    m.night = true;
    m.leastAltitude = radians(10);
    m.mostAltitude = radians(60);
    m.year = 2025;
    m.guideline = "agreement-guideline-14";
    p.measured = {m};
    const std::string text = projectText(p, "files");
    const auto read = parseProject(text, "p.noonward", "");
    QVERIFY2(read, read ? "" : read.error().text().c_str());
    QVERIFY(read->project.unknownKeys.empty());
    QVERIFY(read->project.sweeps == p.sweeps);
    QCOMPARE(read->project.measured[0].files, m.files);
    QVERIFY(std::abs(read->project.measured[0].leastAltitude - m.leastAltitude) < 1e-12);
    QCOMPARE(projectText(read->project, "files"), text);
    Project changed = p;
    changed.sweeps[0].goals[0].value = 75;
    QVERIFY(!sameProject(p, changed));
    changed = p;
    changed.measured[0].year = 2024;
    QVERIFY(!sameProject(p, changed));
  }
  void aRunBecomesAnOption() {
    const Project p = shaded();
    const Sweep s = of(
        {choose("depth", "shading/Overhang/depth", {0.2, 0.8}), vary("b", "proposal/bearing", VaryRange{0, 30, 15})});
    const auto made = withPointAsOption(p, s, {0.8, 15.0}, "Turned");
    QVERIFY2(made, made ? "" : made.error().text().c_str());
    QCOMPARE(made->options.size(), std::size_t(2));
    QCOMPARE(made->options[made->option].name, std::string("Turned"));
    QCOMPARE(made->shadeRules[0].depth, 0.8);
    QVERIFY(!(made->rooms[0].outline == p.rooms[0].outline));
    QVERIFY(withOption(*made, 0).rooms[0].outline == p.rooms[0].outline);
    // It is saved by what it changes, and read again.
    const auto read = parseProject(projectText(*made, "files"), "p", "");
    QVERIFY(read);
    QVERIFY(withOption(read->project, 1).shadeRules[0].depth == 0.8);
    QVERIFY(!withPointAsOption(p, s, {0.8}, "Short"));
  }
};

QTEST_GUILESS_MAIN(TestSweep)
#include "tst_sweep.moc"
