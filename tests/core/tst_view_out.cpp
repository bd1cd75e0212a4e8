// The view out against geometry by hand: angles of a window, distance to a wall, layers, glass that is no view.

#ifndef Q_MOC_RUN
#include "core/proof/light_cases.h"
#include "core/studies/view_out.h"
#include "tests/house.h"
#endif
#include <QTest>

using namespace noonward;
using namespace noonward::test;

namespace {

/// A room of 4 × 4 × 3 m with a window in its south wall from x0 to x1, sill 0.8, head 2.4.
BoxRoom box(double x0, double x1) {
  BoxRoom b;
  b.size = {4, 4, 3};
  b.windowX0 = x0;
  b.windowX1 = x1;
  b.windowZ0 = 0.8;
  b.windowZ1 = 2.4;
  b.glazed = true;
  return b;
}

void put(Project& p, std::uint64_t id, const char* name, Outline outline, double height, Role role) {
  Element e;
  e.id = {id};
  e.name = name;
  e.role = role;
  e.shape = Mass{std::move(outline), 0, height, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
}

ViewOut seen(const Project& p, Vec3 eye) {
  const LightScene scene(*lightModel(p));
  return viewOutOf(scene, seenThings(p), eye);
}

} // namespace

class TestViewOut : public QObject {
  Q_OBJECT
private slots:
  void theSightAngleIsThatOfTheWindow_data() {
    QTest::addColumn<double>("x0");
    QTest::addColumn<double>("x1");
    QTest::addColumn<double>("x");
    QTest::addColumn<double>("y");
    QTest::newRow("before its middle") << 1.0 << 3.0 << 2.0 << 2.0;
    QTest::newRow("far back") << 1.0 << 3.0 << 2.0 << 3.0;
    QTest::newRow("aside") << 1.0 << 3.0 << 0.4 << 1.5;
    QTest::newRow("a narrow one") << 1.8 << 2.2 << 2.0 << 3.0;
  }
  void theSightAngleIsThatOfTheWindow() {
    QFETCH(double, x0);
    QFETCH(double, x1);
    QFETCH(double, x);
    QFETCH(double, y);
    const ViewOut v = seen(boxProject(box(x0, x1), {}), {x, y, 1.2});
    const double byHand = std::atan2(x1 - x, y) - std::atan2(x0 - x, y);
    QVERIFY2(std::abs(v.angle - byHand) <= 1.6 * degree_,
             qPrintable(QString("%1° %2°").arg(degrees(v.angle)).arg(degrees(byHand))));
    QVERIFY(v.sky && v.ground && v.landscape); // free land: its far part is landscape
    QCOMPARE(v.distance, farthestView);
  }

  void theDistanceIsThatOfTheWallOutside() {
    // Seen straight: half of the looks end within the wall's perpendicular distance over the cosine of half their
    // angle.
    for (double away : {5.0, 12.0, 30.0}) {
      Project p = boxProject(box(1, 3), {});
      put(p, 9, "Store", rectangle(-200, -away - 2, 200, -away), 15, Role::Neighbour);
      const ViewOut v = seen(p, {2, 2, 1.2});
      // From the pane to the wall, along the look in the middle of one half: 26.6°/2 off the normal.
      const double median = away / std::cos(std::atan2(1, 2) / 2);
      QVERIFY2(std::abs(v.distance / median - 1) < 0.03, qPrintable(QString("%1 %2").arg(v.distance).arg(median)));
      QVERIFY(v.landscape && v.elements.contains(9));
      QVERIFY(viewText(v, seenThings(p)).find("\"Store\"") != std::string::npos);
    }
  }

  void layersAreWhatIsSeen() {
    // A high wall close by hides sky and horizon; the ground before it stays.
    Project p = boxProject(box(1, 3), {});
    put(p, 9, "Store", rectangle(-200, -8, 200, -6), 60, Role::Neighbour);
    const ViewOut v = seen(p, {2, 1, 1.2});
    QVERIFY(!v.sky && v.landscape && v.ground);
    QVERIFY(!seen(p, {2, 3, 1.2}).ground); // from farther back the sill hides it
    // A low one lets sky be seen above it.
    Project low = boxProject(box(1, 3), {});
    put(low, 9, "Store", rectangle(-200, -8, 200, -6), 2, Role::Neighbour);
    QVERIFY(seen(low, {2, 3, 1.2}).sky);
    // What grows is landscape and green, and no obstruction.
    Project green = boxProject(box(1, 3), {});
    put(green, 9, "Hedge", rectangle(-200, -8, 200, -6), 2, Role::Planting);
    const ViewOut g = seen(green, {2, 3, 1.2});
    QVERIFY(g.greenPart > 0.1 && g.distance == farthestView);
  }

  void levelsNeedAllThree() {
    ViewOut v;
    QCOMPARE(v.level(), 0);
    v.angle = radians(60);
    v.distance = 60;
    v.landscape = v.sky = v.ground = true;
    QCOMPARE(v.level(), 3);
    QVERIFY(v.wanting().empty());
    v.distance = 49;
    QCOMPARE(v.level(), 2);
    QVERIFY(v.wanting()[0].find("50 m of outside distance are wanted, there are 49 m") != std::string::npos);
    v.distance = 60;
    v.ground = false;
    QCOMPARE(v.level(), 2);
    v.sky = false;
    QCOMPARE(v.level(), 1);
    v.landscape = false;
    QCOMPARE(v.level(), 0);
    v = ViewOut{};
    v.landscape = v.sky = v.ground = true;
    v.distance = 100;
    v.angle = radians(14);
    QCOMPARE(v.level(), 1);
    v.angle = radians(13.9);
    QCOMPARE(v.level(), 0);
  }

  void opalGlassAndWallsAreNoView() {
    BoxRoom opal = box(1, 3);
    opal.glazing.transmittance = 0.5;
    opal.glazing.diffuse = 1;
    const Project p = boxProject(opal, {});
    QCOMPARE(seen(p, {2, 2, 1.2}).angle, 0.0);
    BoxRoom shut = box(1, 3);
    Project q = boxProject(shut, {});
    put(q, 9, "Board", rectangle(0, -0.6, 4, -0.5), 3, Role::Building);
    QCOMPARE(seen(q, {2, 2, 1.2}).level(), 0); // half a metre away
    QCOMPARE(viewText(ViewOut{}, {}), "Nothing outdoors is seen from here.");
  }

  void aStudyTellsAllFigures() {
    Project p = houseOfTheYear(0);
    SensorGroup g;
    g.id = {70};
    g.name = "Eyes";
    g.eyes = true;
    RoomGrid grid;
    grid.height = 1.2;
    grid.spacing = 1;
    g.layout = grid;
    p.groups.push_back(g);
    Study s;
    s.id = {90};
    s.kind = StudyKind::ViewOut;
    const auto in = lightInput(p, s);
    QVERIFY2(in, in ? "" : in.error().text().c_str());
    QVERIFY(std::none_of(in->findings.begin(), in->findings.end(),
                         [](const Finding& f) { return f.code == "view.height"; }));
    RunControl control;
    const LightResult r = runLight(*in, control);
    QCOMPARE(r.columns.size(), std::size_t(9));
    QCOMPARE(r.columns[0].key, "level");
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      QCOMPARE(r.value[i], r.columns[0].values[i]);
      QVERIFY(r.value[i] >= 0 && r.value[i] <= 3);
    }
    // Nearer to the window more is seen of it.
    std::size_t near = 0, far = 0;
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      if (in->sensors.sensors[i].position.y < in->sensors.sensors[near].position.y) near = i;
      if (in->sensors.sensors[i].position.y > in->sensors.sensors[far].position.y) far = i;
    }
    QVERIFY(r.columns[6].values[near] > 2 * r.columns[6].values[far]);
    s.light.viewFigure = ViewFigure::Angle;
    const auto angle = lightInput(p, s);
    QVERIFY(angle && !(angle->key == in->key));
    const LightResult a = runLight(*angle, control);
    QCOMPARE(a.unitText(), "°");
    QCOMPARE(a.value, a.columns[1].values);
    // At the height of a table it is told.
    std::get<RoomGrid>(p.groups.back().layout).height = 0.85;
    const auto table = lightInput(p, s);
    QVERIFY(std::any_of(table->findings.begin(), table->findings.end(),
                        [](const Finding& f) { return f.code == "view.height"; }));
  }

private:
  static constexpr double degree_ = radiansPerDegree;
};

QTEST_GUILESS_MAIN(TestViewOut)
#include "tst_view_out.moc"
