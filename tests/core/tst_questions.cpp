// Questions lay what their answers need, once, and say what is missing.

#include "core/files/library.h"
#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include "core/yardsticks/questions.h"
#include "core/yardsticks/window_points.h"
#include "tests/house.h"
#include <QtTest>

using namespace noonward;
using noonward::test::house;

namespace {
bool says(const Expected<Asked>& a, const char* words) {
  return !a && a.error().message.find(words) != std::string::npos;
}
Project town() {
  Project p;
  p.site.year = 2026;
  for (const auto& [name, x, proposed] : {std::tuple{"Old", 0.0, false}, {"New", 40.0, true}}) {
    Element e;
    e.id = {derivedId(name)};
    e.name = name;
    e.shape = Mass{rectangle(x, 0, x + 20, 10), 0, 12, 3};
    e.proposed = proposed;
    p = withElement(std::move(p), e);
  }
  return p;
}
} // namespace

class TestQuestions : public QObject {
  Q_OBJECT
  YardstickShelf shelf_ = readYardsticks({SOURCE_TREE "/resources/yardsticks"});

private slots:
  void anEmptySiteIsToldWhatIsMissing() {
    QVERIFY(says(ask({}, "sun-ground", {}, shelf_), "draw an area"));
    QVERIFY(says(ask({}, "sun-facades", {}, shelf_), "no mass"));
    QVERIFY(says(ask({}, "sun-windows", {}, shelf_), "no windows"));
    QVERIFY(says(ask({}, "room-daylight", {}, shelf_), "no rooms"));
    QVERIFY(says(ask({}, "room-year", {}, shelf_), "no rooms"));
    QVERIFY(says(ask(house(), "room-year", {}, shelf_), "weather"));
    QVERIFY(says(ask({}, "room-yaer", {}, shelf_), "\"room-year\" is meant?"));
  }

  void groundIsWhatIsDrawnElseAroundTheProposal() {
    auto a = ask(town(), "sun-ground", {}, shelf_);
    QVERIFY2(a.has_value(), a ? "" : a.error().message.c_str());
    QCOMPARE(a->project.groups.size(), std::size_t(1));
    const auto& around = std::get<GroundAround>(a->project.groups[0].layout);
    QCOMPARE(around.elements, std::vector<ElementId>{{derivedId("New")}});
    QCOMPARE(a->project.studies.size(), std::size_t(1));
    const Study& s = a->project.studies[0];
    QCOMPARE(s.id, a->study);
    const Yardstick* rule = shelf_.find("amenity-ground");
    QCOMPARE(s.sunHours, *settingsOf(*rule, a->project.site));
    QCOMPARE(a->project.judgements.size(), std::size_t(1));
    // An area is drawn and the question asked again: the same study, on the area; nothing laid twice.
    SensorGroup g;
    g.id = {derivedId("square")};
    g.name = "Square";
    g.layout = GroundArea{rectangle(0, -20, 20, -5)};
    a->project.groups.push_back(g);
    const auto b = ask(a->project, "sun-ground", {}, shelf_);
    QCOMPARE(b->project.studies.size(), std::size_t(1));
    QCOMPARE(b->project.studies[0].groups, std::vector<GroupId>{g.id});
    QCOMPARE(b->project.judgements.size(), std::size_t(1));
    QCOMPARE(b->project.judgements[0].groups, std::vector<GroupId>{g.id});
    QVERIFY(b->told.find("“Square”") != std::string::npos);
  }

  void facadesAreThoseSelectedElseTheProposal() {
    const auto one = ask(town(), "sun-facades", {{derivedId("Old")}}, shelf_);
    QCOMPARE(std::get<FaceGrid>(one->project.groups[0].layout).faces.size(), std::size_t(1));
    QCOMPARE(one->project.groups[0].name, std::string("Old, walls"));
    QVERIFY(one->project.judgements.empty());
    const auto other = ask(town(), "sun-facades", {}, shelf_);
    QCOMPARE(std::get<FaceGrid>(other->project.groups[0].layout).faces[0].element, ElementId{derivedId("New")});
  }

  void glazingToTheFloorIsAskedAtEyeLevel_data() {
    QTest::addColumn<double>("sill");
    QTest::addColumn<double>("height");
    QTest::addColumn<double>("z"); // above the floor
    QTest::newRow("a window") << 0.9 << 1.2 << 1.5;
    QTest::newRow("to the floor") << 0.0 << 2.6 << 1.6;
    QTest::newRow("low sill, high head") << 0.3 << 2.4 << 1.6;
    QTest::newRow("low strip") << 0.1 << 0.6 << 0.4;
    QTest::newRow("a little too high a sill") << 0.35 << 2.2 << 1.45;
  }
  void glazingToTheFloorIsAskedAtEyeLevel() {
    QFETCH(double, sill);
    QFETCH(double, height);
    QFETCH(double, z);
    Project p = house();
    Opening o;
    o.id = {901};
    o.name = "Pane";
    o.room = p.rooms[0].id;
    o.edge = 0;
    o.along = 1;
    o.sill = sill;
    o.height = height;
    o.width = 1.5;
    p.openings.push_back(o);
    p.rooms[0].height = 3;
    const WindowPoints at = windowPoints(p, {});
    QCOMPARE(at.windows, std::size_t(1));
    QVERIFY2(std::abs(at.points[0].position.z - p.rooms[0].floor - z) < 1e-9,
             qPrintable(QString::number(at.points[0].position.z)));
    QCOMPARE(at.fullHeight, std::size_t(z == 1.6));
    QVERIFY(std::abs(at.spots[0].middle.z - p.rooms[0].floor - sill - height / 2) < 1e-9);
    QCOMPARE(at.text().find("glazed to the floor") != std::string::npos, z == 1.6);
    // Before its pane: a third of the wall in, on the same line out of the window.
    QVERIFY(at.spots[0].inside);
    const Vec3 in = at.spots[0].middle - *at.spots[0].inside;
    const PlacedOpening placed = placedOpenings(p).openings.at(0);
    QVERIFY(std::abs(dot(in, at.points[0].normal) - placed.paneDepth()) < 1e-9);
    QVERIFY(length(in) - placed.paneDepth() < 1e-9);
  }

  void panesThatWereBroughtInAreAskedOutdoors() {
    // A hollow box with a roof over it, a double pane in its south side, a pane over the roof in the open.
    Project p;
    const auto mesh = [&](std::uint64_t id, const char* name, Role role,
                          const std::vector<std::array<Vec3, 4>>& quads) {
      auto m = std::make_shared<Mesh>();
      for (const auto& q : quads) {
        const auto from = std::uint32_t(m->points.size());
        m->points.insert(m->points.end(), q.begin(), q.end());
        m->triangles.push_back({from, from + 1, from + 2});
        m->triangles.push_back({from, from + 2, from + 3});
      }
      Element e;
      e.id = {id};
      e.name = name;
      e.role = role;
      const Digest content = digestOf(*m);
      e.shape = Imported{std::move(m), content, {}, 0, 1};
      p = withElement(std::move(p), std::move(e));
    };
    mesh(1, "Roof", Role::Roof, {{{{0, 0, 3}, {8, 0, 3}, {8, 6, 3}, {0, 6, 3}}}});
    const auto pane = [](double x, double y, double foot, double head, double width) {
      return std::array<Vec3, 4>{{{x, y, foot}, {x + width, y, foot}, {x + width, y, head}, {x, y, head}}};
    };
    mesh(2, "Glass", Role::Glazing,
         {pane(1, 0, 0.9, 2.1, 1.5), pane(1, 0.03, 0.9, 2.1, 1.5), pane(4, 0, 0.0, 2.4, 2), pane(20, 20, 1, 2, 1)});
    const WindowPoints at = windowPoints(p, {});
    QCOMPARE(at.panes, std::size_t(2)); // two sheets are one pane
    QCOMPARE(at.bothAlike, std::size_t(1));
    QCOMPARE(at.fullHeight, std::size_t(1));
    for (const PointSensor& s : at.points) {
      QCOMPARE(s.normal, (Vec3{0, -1, 0}));
      QVERIFY(s.position.y < 0.02 && s.position.y > -0.03);
      QVERIFY(s.name.starts_with("Glass, pane "));
    }
    QVERIFY2(at.text().find("2 panes of glass") != std::string::npos &&
                 at.text().find("1 pane left out") != std::string::npos,
             at.text().c_str());
    const auto a = ask(p, "sun-windows", {}, shelf_);
    QVERIFY2(a && a->told.find("panes of glass") != std::string::npos, a ? a->told.c_str() : a.error().message.c_str());
    QCOMPARE(std::get<std::vector<PointSensor>>(a->project.groups[0].layout).size(), std::size_t(2));
  }

  void windowMiddlesLieBeforeTheirPanes() {
    Project p = house();
    WindowRule w;
    w.id = RuleId::fresh();
    w.name = "Windows";
    w.ratio = 0.3;
    w.count = 2;
    w.facings = {Facing::South};
    p.windowRules.push_back(w);
    const auto openings = placedOpenings(p).openings;
    QVERIFY(!openings.empty());
    const auto middles = windowPoints(p, {}).points;
    QCOMPARE(middles.size(), openings.size());
    const Box3 box = boxOf(*p.elements[0]);
    for (const PointSensor& s : middles) {
      QCOMPARE(s.normal, (Vec3{0, -1, 0}));
      QVERIFY2(std::abs(s.position.y - (box.low.y - 0.02)) < 1e-9, qPrintable(QString::number(s.position.y)));
    }
    const auto a = ask(p, "sun-windows", {}, shelf_);
    QVERIFY(a.has_value());
    QVERIFY(a->project.studies[0].kind == StudyKind::SunHours); // no weather year
    QVERIFY(a->told.find("weather year") != std::string::npos);
    QCOMPARE(std::get<std::vector<PointSensor>>(a->project.groups[0].layout), middles);
    QVERIFY(askRule(p, *shelf_.find("window-sky"), {}, shelf_)->project.studies[0].kind == StudyKind::Vsc);
    // A rule of dwellings takes rooms for dwellings where none is named.
    const auto dwellings = askRule(p, *shelf_.find("midwinter"), {}, shelf_);
    QVERIFY(dwellings.has_value());
    QCOMPARE(dwellings->project.groups[0].dwelling, p.rooms[0].name);
    QVERIFY(dwellings->project.groups[0].subject == Subject::LivingRoom);
  }

  void roomsGetGridStudyAndRuleAtOnce() {
    const auto a = ask(house(), "room-daylight", {}, shelf_);
    QVERIFY2(a.has_value(), a ? "" : a.error().message.c_str());
    QVERIFY(std::holds_alternative<RoomGrid>(a->project.groups[0].layout));
    QVERIFY(a->project.studies[0].kind == StudyKind::DaylightFactor);
    QCOMPARE(a->project.studies[0].id, a->study);
    QVERIFY(a->told.find("no window yet") != std::string::npos); // the house has none
    const auto again = ask(a->project, "room-daylight", {}, shelf_);
    QCOMPARE(again->project.studies.size(), std::size_t(1));
    QCOMPARE(again->project.groups.size(), std::size_t(1));
    Project none = house();
    none.rooms[0].counted = false;
    QVERIFY(says(ask(none, "room-daylight", {}, shelf_), "regularly occupied"));
  }

  void everyRuleOfTheShelfCanBeAsked() {
    const auto opened = readProject(SOURCE_TREE "/demo/ropewalk-quay.noonward");
    QVERIFY(opened.has_value());
    for (const Yardstick& y : shelf_.yardsticks) {
      const auto a = askRule(opened->project, y, {}, shelf_);
      QVERIFY2(a.has_value(), qPrintable(QString::fromStdString(y.key + (a ? "" : ": " + a.error().message))));
      QVERIFY2(bool(a->study), y.key.c_str());
      QVERIFY2(std::any_of(a->project.judgements.begin(), a->project.judgements.end(),
                           [&](const Judgement& j) { return j.yardstick == y.key; }),
               y.key.c_str());
      QVERIFY(std::any_of(a->project.studies.begin(), a->project.studies.end(),
                          [&](const Study& s) { return s.id == a->study; }));
    }
  }
};

QTEST_GUILESS_MAIN(TestQuestions)
#include "tst_questions.moc"
