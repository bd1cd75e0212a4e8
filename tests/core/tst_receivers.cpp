// Receivers from tables, by hand and from facades: places and directions, groups and dwellings, names that match
// nothing, faults with their line; rows of the table with values and verdicts.

#ifndef Q_MOC_RUN
#include "core/files/receiver_table.h"
#include "core/files/results/tables.h"
#include "core/runs/receiver_rows.h"
#include "core/runs/runner.h"
#include "core/yardsticks/questions.h"
#include "tests/green.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

ReceiverTable csv(const Project& p, const std::string& text) {
  auto t = receiversFromCsv(p, text, "t.csv");
  if (!t) throw std::runtime_error(t.error().text());
  return *t;
}
const SensorGroup* called(const Project& p, const std::string& name) {
  for (const SensorGroup& g : p.groups)
    if (g.name == name) return &g;
  return nullptr;
}
const std::vector<PointSensor>& pointsOf(const SensorGroup& g) {
  return std::get<std::vector<PointSensor>>(g.layout);
}
QString faultOf(const std::string& text) {
  const auto t = receiversFromCsv(greenPlace(), text, "t.csv");
  return t ? "none" : QString::fromStdString(t.error().text());
}

class TestReceivers : public QObject {
  Q_OBJECT
private slots:
  // ---- tables
  void aTableOfPointsIsLaid() {
    const Project p = greenPlace();
    const auto table = csv(p, "Receiver,X,Y,Z,Azimuth,Dwelling,Building,Subject\n"
                              "A1,1.5,2,4.6,90,Flat 1,Row,living room\n"
                              "A2,1.5,3,4.6,90,Flat 1,Row,living-room\n"
                              "B1,9,2,0,,Flat 1,Row,Open space\n"
                              "C,20,-0.02,1.6,180,,,\n");
    QCOMPARE(table.lines.size(), std::size_t(4));
    QVERIFY(table.notes.empty());
    const ReceiversLaid laid = withReceivers(p, table);
    QCOMPARE(laid.added, std::size_t(4));
    QCOMPARE(laid.groups.size(), std::size_t(3));
    QCOMPARE(QString::fromStdString(laid.told), QString("Laid 4 receivers in 3 groups."));
    const SensorGroup* living = called(laid.project, "Flat 1, living room");
    QVERIFY(living && living->subject == Subject::LivingRoom && living->dwelling == "Flat 1" &&
            living->building == "Row");
    QCOMPARE(pointsOf(*living).size(), std::size_t(2));
    QVERIFY(length(pointsOf(*living)[0].normal - Vec3{1, 0, 0}) < 1e-12);
    const SensorGroup* open = called(laid.project, "Flat 1, open space");
    QVERIFY(open && pointsOf(*open)[0].normal.z == 1); // no direction: up
    QVERIFY(called(laid.project, "Receivers"));
  }

  void azimuthsAreTrueAndTheDrawingMayBeTurned() {
    Project p = greenPlace();
    p.site.northAngle = radians(30);                             // the drawing's up points 30° east of north
    const auto t = csv(p, "name;x;y;z;azimuth\nA;1,5;2;3;30\n"); // a comma is the decimal mark here
    QVERIFY(length(t.lines[0].point->normal - Vec3{0, 1, 0}) < 1e-12);
    QCOMPARE(t.lines[0].point->position.x, 1.5);
    // By longitude and latitude: what is due north lies 30° to the left of up.
    const auto g = csv(p, "name,longitude,latitude,z\nN,0,52.001,2\n");
    const Vec3 at = g.lines[0].point->position;
    QVERIFY(std::abs(length(Vec3{at.x, at.y, 0}) - 111.27) < 0.3);
    QVERIFY(std::abs(std::atan2(at.x, at.y) - radians(-30)) < 1e-9);
  }

  void whatWasWrittenComesBack() {
    Project p = greenPlace();
    p.groups[2].dwelling = "Home, \"north\"";
    p.groups[2].building = "E1";
    p.groups[2].subject = Subject::LivingRoom;
    const auto sensors = layOutSensors(p, {{12}});
    const auto table = csv(p, receiversCsv(p, *sensors));
    QCOMPARE(table.lines.size(), std::size_t(3));
    QCOMPARE(table.lines[0].dwelling, std::string("Home, \"north\""));
    const ReceiversLaid laid = withReceivers(p, table); // over themselves: nothing doubled
    QCOMPARE(laid.project.groups.size(), p.groups.size());
    QCOMPARE(pointsOf(laid.project.groups[2]).size(), std::size_t(3));
    for (std::size_t i = 0; i < 3; ++i) {
      QVERIFY(length(pointsOf(laid.project.groups[2])[i].position - sensors->sensors[i].position) < 1e-4);
      QVERIFY(length(pointsOf(laid.project.groups[2])[i].normal - Vec3{0, -1, 0}) < 1e-5);
    }
    QVERIFY(laid.project.groups[2].id == p.groups[2].id);
  }

  void geoJsonOfAStudyIsATable() {
    Project p = greenPlace();
    p.site.northAngle = radians(17);
    StudyRunner runner(nullptr);
    RunControl control;
    Study s;
    s.kind = StudyKind::Vsc;
    s.groups = {{12}};
    const auto field = runner.field(p, s, false, {}, control);
    QVERIFY(field.has_value());
    const auto table = receiversFromGeoJson(p, fieldGeoJson(p, *field), "f.geojson");
    QVERIFY2(table.has_value(), table ? "" : table.error().text().c_str());
    for (std::size_t i = 0; i < 3; ++i) {
      const PointSensor& back = *table->lines[i].point;
      QVERIFY(length(back.position - field->sensors.sensors[i].position) < 2e-3);
      QVERIFY(length(back.normal - field->sensors.sensors[i].normalVector()) < 1e-5);
      QCOMPARE(table->lines[i].group, std::string("Windows"));
    }
  }

  void otherFeaturesAreCounted() {
    const auto t = receiversFromGeoJson(greenPlace(), R"({"type": "FeatureCollection", "features": [
      {"type": "Feature", "properties": {"name": "P"}, "geometry": {"type": "Polygon", "coordinates": []}},
      {"type": "Feature", "properties": {"name": "A", "dwelling": "D", "height_m": 5}, "geometry": {"type": "Point", "coordinates": [0, 52]}},
      {"type": "Feature", "properties": {"name": "Windows", "building": "B"}, "geometry": null}]})",
                                        "f.geojson");
    QVERIFY2(t.has_value(), t ? "" : t.error().text().c_str());
    QCOMPARE(t->lines.size(), std::size_t(2));
    QCOMPARE(t->notes.size(), std::size_t(1));
    QVERIFY(length(t->lines[0].point->position - Vec3{0, 0, 5}) < 1e-6);
    QVERIFY(!t->lines[1].point);
  }

  void faultsNameTheirLine_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("told");
    QTest::newRow("empty") << ""
                           << "empty";
    QTest::newRow("nothing known") << "a,b\n1,2\n"
                                   << "names no column that is known";
    QTest::newRow("no number") << "name,x,y\nA,1,2\nB,one,2\n"
                               << "Line 3: \"one\" in the column x is no number";
    QTest::newRow("subject") << "name,x,y,subject\nA,1,2,kitchen\n"
                             << "Line 2: \"kitchen\" is no subject";
    QTest::newRow("half a place") << "name,x\nA,1\n"
                                  << "belong together";
    QTest::newRow("neither") << "name,group\n,G\n"
                             << "neither a place nor a name";
    QTest::newRow("far") << "name,x,y\nA,600000,5000000\n"
                         << "km from the drawing's middle";
    QTest::newRow("no direction") << "name,x,y,nx,ny,nz\nA,1,2,0,0,0\n"
                                  << "has no length";
    QTest::newRow("no degrees") << "name,longitude,latitude\nA,600000,5000000\n"
                                << "are no degrees";
    QTest::newRow("quote") << "name,x,y\n\"A,1,2\n"
                           << "t.csv";
    QTest::newRow("NaN") << "name,x,y\nA,nan,2\n"
                         << "is no number";
  }
  void faultsNameTheirLine() {
    QFETCH(QString, text);
    QFETCH(QString, told);
    QVERIFY2(faultOf(text.toStdString()).contains(told), qPrintable(faultOf(text.toStdString())));
  }

  void geoJsonThatIsNoneIsRefused() {
    for (const char* bad : {"", "[]", "{\"features\": 5}", "{\"features\": [",
                            "{\"features\": [{\"geometry\": {\"type\": \"Point\", \"coordinates\": [\"a\", 2]}}]}",
                            "{\"features\": [{\"properties\": 7}]}"})
      QVERIFY2(!receiversFromGeoJson(greenPlace(), bad, "f").has_value(), bad);
    QVERIFY(!readReceivers(greenPlace(), "/nowhere/at/all.csv").has_value());
  }

  // ---- names
  void namesGiveWhatIsThereItsDwelling() {
    Project p = greenPlace();
    Study s;
    s.id = {5};
    s.groups = {{12}};
    p.studies.push_back(s);
    const auto table = csv(p, "name,dwelling,subject,building\n"
                              "Green,Flat 1,open space,Row\n"       // a group as a whole
                              "Window 2,Flat 1,living room,Row\n"   // one point of a group
                              "Window 9,Flat 2,living room,Row\n"); // nothing
    const ReceiversLaid laid = withReceivers(p, table);
    QCOMPARE(laid.named, std::size_t(2));
    QCOMPARE(laid.lost, std::vector<std::string>{"Window 9"});
    QVERIFY(QString::fromStdString(laid.told).contains("1 name matches nothing (first: Window 9)"));
    QVERIFY(called(laid.project, "Green")->subject == Subject::OpenSpace);
    QCOMPARE(pointsOf(*called(laid.project, "Windows")).size(), std::size_t(2));
    const SensorGroup* flat = called(laid.project, "Flat 1, living room");
    QVERIFY(flat && pointsOf(*flat).size() == 1 && pointsOf(*flat)[0].name == "Window 2");
    QCOMPARE(laid.project.studies[0].groups, (std::vector<GroupId>{{12}, flat->id}));
    // All of a group's points gone: who asked for it asks for where they are.
    const auto rest = csv(p, "name,dwelling\nWindow 1,A\nWindow 2,B\nWindow 3,C\n");
    const ReceiversLaid gone = withReceivers(p, rest);
    QVERIFY(!called(gone.project, "Windows"));
    QCOMPARE(gone.project.studies[0].groups.size(), std::size_t(3));
    for (GroupId id : gone.project.studies[0].groups) QVERIFY(gone.project.group(id));
  }

  void thousandsOfLinesAreLaid() {
    std::string text = "name,x,y,z,azimuth,dwelling,subject\n";
    for (int k = 0; k < 20'000; ++k)
      text += "W" + std::to_string(k) + "," + std::to_string(k % 100) + "," + std::to_string(k / 100) + ",2,180,D" +
              std::to_string(k / 3) + ",living room\n";
    const Project p = greenPlace();
    const ReceiversLaid laid = withReceivers(p, csv(p, text));
    QCOMPARE(laid.added, std::size_t(20'000));
    QCOMPARE(laid.groups.size(), std::size_t(6667));
  }

  // ---- by hand
  void pointsThatAreChosenFormAGroup() {
    Project p = greenPlace();
    Judgement j;
    j.groups = {{12}};
    p.judgements.push_back(j);
    const Project q =
        regrouped(p, {{{12}, 0}, {{12}, 2}}, {.dwelling = "Flat 7", .building = {}, .subject = Subject::LivingRoom});
    const SensorGroup* flat = called(q, "Flat 7");
    QVERIFY(flat && flat->subject == Subject::LivingRoom && pointsOf(*flat).size() == 2);
    QCOMPARE(pointsOf(*flat)[1].name, std::string("Window 3"));
    QCOMPARE(pointsOf(*called(q, "Windows")).size(), std::size_t(1));
    QCOMPARE(q.judgements[0].groups, (std::vector<GroupId>{{12}, flat->id}));
    // All of them: the group itself; a grid: the group as a whole.
    const Project all =
        regrouped(p, {{{12}, 0}, {{12}, 1}, {{12}, 2}, {{10}, 5}}, {.dwelling = {}, .building = "Row", .subject = {}});
    QCOMPARE(all.groups.size(), p.groups.size());
    QCOMPARE(called(all, "Windows")->building, std::string("Row"));
    QCOMPARE(called(all, "Green")->building, std::string("Row"));
    QVERIFY(called(all, "Roof")->building.empty());
  }

  // ---- dwellings of bare masses
  void facadesBecomeDwellings() {
    Project p = greenPlace();
    const auto made = dwellingsFromFacades(p, {{1}}); // 12 × 10 m, two storeys of 3 m
    QVERIFY2(made.has_value(), made ? "" : made.error().text().c_str());
    // North and south 4 bays, east and west 3: dwellings of three bays, the rest a smaller one.
    QCOMPARE(made->groups.size(), std::size_t(2 * (2 + 2 + 1 + 1)));
    std::size_t windows = 0;
    for (GroupId id : made->groups) {
      const SensorGroup& g = *made->project.group(id);
      QVERIFY(g.subject == Subject::LivingRoom && g.building == "E1");
      QVERIFY2(QString::fromStdString(g.dwelling).startsWith("E1, storey "), g.dwelling.c_str());
      windows += pointsOf(g).size();
      for (const PointSensor& s : pointsOf(g))
        QVERIFY(std::abs(s.position.z - 1.6) < 1e-9 || std::abs(s.position.z - 4.6) < 1e-9);
    }
    QCOMPARE(windows, std::size_t(2 * (4 + 4 + 3 + 3)));
    QCOMPARE(made->buried, std::size_t(0));
    // Made anew they take the place of the old ones, in studies too.
    Project again = made->project;
    Study s;
    s.groups = made->groups;
    again.studies.push_back(s);
    const auto wide = dwellingsFromFacades(again, {{1}}, {.bay = 6, .bays = 1, .height = 1.2});
    QVERIFY(wide.has_value());
    QCOMPARE(wide->project.groups.size(), p.groups.size() + wide->groups.size());
    QCOMPARE(wide->project.studies[0].groups, wide->groups);
  }

  void wallsThatOthersStandAgainstHaveNone() {
    Project p = greenPlace();
    putMass(p, 4, rectangle(32, 0, 44, 10), 3, false); // one storey, against the east wall
    const auto made = dwellingsFromFacades(p, {{1}});
    QCOMPARE(made->buried, std::size_t(3)); // of the ground floor
    for (GroupId id : made->groups)
      for (const PointSensor& s : pointsOf(*made->project.group(id))) QVERIFY(!(s.normal.x > 0.5 && s.position.z < 3));
  }

  void noDwellingsAreSaid() {
    QVERIFY(!dwellingsFromFacades(greenPlace(), {}));
    QVERIFY(!dwellingsFromFacades(greenPlace(), {{999}}));
    QVERIFY(!dwellingsFromFacades(greenPlace(), {{1}}, {.bay = 0, .bays = 3, .height = 1.6}));
    QVERIFY(!dwellingsFromFacades(greenPlace(), {{1}}, {.bay = 3, .bays = 0, .height = 1.6}));
  }

  void aRuleOnDwellingsMakesThem() {
    Project p = greenPlace();
    std::erase_if(p.groups, [](const SensorGroup&) { return true; });
    const auto asked = askRule(p, *shippedRules().find("midwinter"), {}, shippedRules());
    QVERIFY2(asked.has_value(), asked ? "" : asked.error().text().c_str());
    QVERIFY2(QString::fromStdString(asked->told).contains("12 dwellings of 1 building"), asked->told.c_str());
    QCOMPARE(asked->project.judgements[0].changed.at("subject"), std::string("living room"));
    StudyRunner runner(nullptr);
    RunControl control;
    const Verdict v =
        runner.judgement(asked->project, *shippedRules().find("midwinter"), asked->project.judgements[0], control);
    QCOMPARE(v.rows.size(), std::size_t(12));
    QVERIFY(v.outcome != Outcome3::NotJudged);
    // Those to the north have none, whoever builds.
    for (const VerdictRow& r : v.rows)
      if (r.name.find("north") != r.name.npos) QCOMPARE(r.after, 0.0);
    for (const VerdictRow& r : v.rows) QVERIFY(r.spot.has_value());
  }

  // ---- rows
  void rowsHoldValuesAndTheWorstVerdict() {
    Project p = greenPlace();
    p.groups[2].dwelling = "Home";
    const auto sensors = layOutSensors(p, {{12}});
    SensorField f;
    f.sensors = *sensors;
    auto values = std::make_shared<LightResult>();
    values->kind = StudyKind::Vsc;
    values->value = {20, 21, std::nanf("")};
    values->standardError = {0.1f, 0.2f, 0};
    f.light = values;
    Verdict a, b;
    a.title = "Sky";
    a.rows = {{"Window 1", Outcome3::Meets, 20, NAN, "20 %"}, {"Window 2", Outcome3::FallsShort, 21, NAN, "21 %"}};
    b.title = "Sun";
    b.rows = {{"Home", Outcome3::NotJudged, 0, NAN, ""}};
    const auto rows = receiverRows(p, *sensors, &f, {{{}, a}, {{}, b}});
    QCOMPARE(rows.size(), std::size_t(3));
    QCOMPARE(rows[0].value, 20.0);
    QVERIFY(std::abs(rows[1].error - 0.2) < 1e-6);
    QVERIFY(rows[0].outcome == Outcome3::NotJudged); // its dwelling's is worse
    QVERIFY(rows[1].outcome == Outcome3::FallsShort);
    QCOMPARE(rows[1].verdict, std::string("Sky: falls short, 21 %"));
    QCOMPARE(rows[2].ref.point, std::size_t(2));
    const QString table = QString::fromStdString(receiverRowsCsv(p, rows, "%"));
    QVERIFY(table.startsWith("number,receiver,group,dwelling,building,subject,x,y,z,azimuth_deg,value,standard_error,"
                             "unit,outcome,verdict\n1,Window 1,Windows,Home,,,22.0000,"));
    QCOMPARE(table.count('\n'), 4);
    // Values of other sensors are none of theirs.
    f.light = std::make_shared<LightResult>();
    QVERIFY(std::isnan(receiverRows(p, *sensors, &f, {})[0].value));
  }
};

} // namespace

QTEST_MAIN(TestReceivers)
#include "tst_receivers.moc"
