// Trees: crowns that let as much light pass as is said, by rays; volumes against closed forms; one state for all
// studies.

#ifndef Q_MOC_RUN
#include "core/base/units.h"
#include "core/files/project/project_file.h"
#include "core/geometry/crown.h"
#include "core/light/scene.h"
#include "core/model/form/arrange.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/studies/exposure.h"
#include "core/studies/shade.h"
#include "core/studies/sun_hours.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

Element treeOf(const Tree& t, std::uint64_t id = 5) {
  Element e;
  e.id = {id};
  e.name = "Lime";
  e.role = Role::Planting;
  e.shape = t;
  return e;
}
double volumeOf(const Mesh& m) {
  double v = 0;
  for (const Triangle& t : m.triangles) v += dot(m.points[t[0]], cross(m.points[t[1]], m.points[t[2]])) / 6;
  return v;
}
/// The share of rays that meet the solid crown and pass the leaves, from directions all over the sky.
double passedBy(const CrownSize& size, double passes) {
  const auto sceneFor = [](Mesh mesh) {
    LightModel m;
    m.finishes.emplace_back();
    LightPart part;
    part.element = 1;
    part.mesh = std::make_shared<const Mesh>(std::move(mesh));
    m.parts = {part};
    return buildScene(m);
  };
  const Scene gaps = sceneFor(leavesOf(size, passes));
  // The body itself, not its faceted mesh, which leaves its rim out.
  const auto meets = [&](Vec3 from, Vec3 d) {
    for (double t = 0; t < 6 * std::max(size.width, size.height); t += 0.05) {
      const Vec3 q = from + d * t;
      if (q.z >= 0 && q.z <= size.height && std::hypot(q.x, q.y) <= crownRadius(size, q.z / size.height)) return true;
    }
    return false;
  };
  std::mt19937_64 rng(11);
  std::uniform_real_distribution<double> u(0, 1);
  const double reach = std::max(size.width, size.height);
  int met = 0, passed = 0;
  for (int k = 0; k < 40'000; ++k) {
    const double z = u(rng), angle = 2 * pi * u(rng), flat = std::sqrt(1 - z * z);
    const Vec3 d{flat * std::cos(angle), flat * std::sin(angle), z};
    const Vec3 a = normalized(cross(d, std::abs(z) < 0.9 ? Vec3{0, 0, 1} : Vec3{1, 0, 0})), b = cross(d, a);
    const Vec3 from =
        Vec3{0, 0, size.height / 2} + a * (reach * (2 * u(rng) - 1)) + b * (reach * (2 * u(rng) - 1)) - d * (3 * reach);
    if (!meets(from, d)) continue;
    ++met;
    passed += !gaps.hidden(from, d);
  }
  return met > 2500 ? double(passed) / met : -1;
}
Project yard(const Tree& t) {
  Project p;
  p.site.place = {radians(52), radians(13), 0};
  p.site.zone = "Europe/Berlin";
  p.elements = {std::make_shared<const Element>(treeOf(t))};
  SensorGroup g;
  g.id = {40};
  g.name = "Bench";
  GroundArea area;
  area.outline = rectangle(-3, 2, 3, 8);
  area.spacing = 0.5;
  g.layout = area;
  p.groups = {g};
  return p;
}
double hours(const Project& p) {
  SunHoursSettings s;
  s.dates = {{2026, 6, 21}};
  s.sunriseToSunset = true;
  const auto in = sunHoursInput(p, {}, s);
  RunControl control;
  const SunHoursResult r = runSunHours(*in, control);
  return statistics(r, 0, r.hours.size(), 0).mean;
}

} // namespace

class TestTrees : public QObject {
  Q_OBJECT
private slots:
  void crownsHaveTheVolumeOfTheirBody_data() {
    QTest::addColumn<int>("crown");
    QTest::addColumn<double>("volume");
    const double r = 3, h = 6;
    QTest::newRow("ball") << int(Crown::Ball) << 4 * pi / 3 * r * r * (h / 2);
    QTest::newRow("cone") << int(Crown::Cone) << pi * r * r * h / 3;
    QTest::newRow("column") << int(Crown::Column) << pi * r * r * h;
    QTest::newRow("umbrella") << int(Crown::Umbrella) << 2 * pi / 3 * r * r * h; // half of an ellipsoid of 3, 3 and 6 m
  }
  void crownsHaveTheVolumeOfTheirBody() {
    QFETCH(int, crown);
    QFETCH(double, volume);
    const CrownSize size{Crown(crown), 6, 6};
    QVERIFY2(std::abs(crownVolume(size) / volume - 1) < 2e-3, qPrintable(QString::number(crownVolume(size))));
    const Mesh m = solidCrown(size);
    QVERIFY2(volumeOf(m) > 0.85 * volume && volumeOf(m) < volume, qPrintable(QString::number(volumeOf(m) / volume)));
    // Closed: every edge is run through once each way.
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
    const Mesh welded = [&] {
      Mesh w = m;
      std::map<std::array<long, 3>, std::uint32_t> known;
      for (Triangle& t : w.triangles)
        for (std::uint32_t& k : t) {
          const Vec3 p = w.points[k];
          k = known.try_emplace({std::lround(p.x * 1e6), std::lround(p.y * 1e6), std::lround(p.z * 1e6)}, k)
                  .first->second;
        }
      return w;
    }();
    for (const Triangle& t : welded.triangles)
      for (int k = 0; k < 3; ++k) ++edges[{t[std::size_t(k)], t[std::size_t((k + 1) % 3)]}];
    for (const auto& [edge, n] : edges) QVERIFY(n == 1 && edges.contains({edge.second, edge.first}));
  }

  void asMuchPassesAsIsSaid_data() {
    QTest::addColumn<int>("crown");
    QTest::addColumn<double>("width");
    QTest::addColumn<double>("height");
    QTest::addColumn<double>("passes");
    for (const double passes : {0.05, 0.2, 0.6, 0.9})
      QTest::addRow("ball, %g", passes) << int(Crown::Ball) << 6.0 << 6.0 << passes;
    for (const double passes : {0.2, 0.6}) {
      QTest::addRow("tall ball, %g", passes) << int(Crown::Ball) << 4.0 << 9.0 << passes;
      QTest::addRow("cone, %g", passes) << int(Crown::Cone) << 5.0 << 10.0 << passes;
      QTest::addRow("column, %g", passes) << int(Crown::Column) << 3.0 << 9.0 << passes;
      QTest::addRow("umbrella, %g", passes) << int(Crown::Umbrella) << 9.0 << 3.0 << passes;
    }
  }
  void asMuchPassesAsIsSaid() {
    QFETCH(int, crown);
    QFETCH(double, width);
    QFETCH(double, height);
    QFETCH(double, passes);
    const double p = passedBy({Crown(crown), width, height}, passes);
    QVERIFY2(std::abs(p - passes) < (Crown(crown) == Crown::Cone ? 0.04 : 0.03), qPrintable(QString::number(p)));
  }

  void sunUnderATreeFollowsItsState() {
    Tree t{.height = 8, .width = 7};
    Project none = yard(t);
    none.elements.clear();
    const double open = hours(none);
    t.leaves = Tree::Leaves::Solid;
    const double solid = hours(yard(t));
    t.leaves = Tree::Leaves::InLeaf;
    const double leaf = hours(yard(t));
    t.leaves = Tree::Leaves::Bare;
    const double bare = hours(yard(t));
    QVERIFY2(solid < leaf - 0.2 && leaf < bare - 0.2 && bare < open - 0.2,
             qPrintable(QString("%1 %2 %3 %4").arg(solid).arg(leaf).arg(bare).arg(open)));
    // What a solid crown takes, the leaves take to about their share.
    QVERIFY2(std::abs((open - leaf) / (open - solid) - 0.8) < 0.1,
             qPrintable(QString::number((open - leaf) / (open - solid))));
    QVERIFY2(std::abs((open - bare) / (open - solid) - 0.4) < 0.1,
             qPrintable(QString::number((open - bare) / (open - solid))));
  }

  void treesAreElementsLikeOthers() {
    const Tree t{
        .foot = {2, 3, 0.5}, .height = 10, .width = 5, .stem = 3, .crown = Crown::Cone, .inLeaf = 0.25, .bare = 0.7};
    Element e = treeOf(t);
    QVERIFY(!faultOf(t, "x"));
    QVERIFY(elementMesh(e));
    moveElement(e, {1, 0, 2});
    QCOMPARE(e.tree()->foot, (Vec3{3, 3, 2.5}));
    turnElement(e, {0, 0}, pi / 2);
    QVERIFY(length(e.tree()->foot - Vec3{-3, 3, 2.5}) < 1e-12);
    setHeight(e, 6);
    QCOMPARE(e.tree()->height, 6.0);
    scaleElement(e, 0.5);
    QCOMPARE(e.tree()->width, 2.5);
    const auto box = boxOf(e);
    const MeshPtr mesh = *elementMesh(e);
    for (Vec3 p : mesh->points)
      QVERIFY(p.z > box.low.z - 1e-9 && p.z < box.high.z + 0.5 &&
              std::hypot(p.x - e.tree()->foot.x, p.y - e.tree()->foot.y) < 2);
    // Mirrored, laid in a row, saved and read.
    Project p = yard(t);
    p = *withRow(p, {{5}}, {4, 1, {6, 0}, {}});
    QCOMPARE(p.elements.size(), std::size_t(4));
    const auto m = withMirrored(p, {{5}}, {0, 0}, {0, 1}, false);
    QVERIFY(m && length(m->element({5})->tree()->foot - Vec3{-2, 3, 0.5}) < 1e-12);
    QTemporaryDir dir;
    const std::filesystem::path file = dir.filePath("p.noonward").toStdString();
    QVERIFY(writeProject(p, file));
    const auto read = readProject(file);
    QVERIFY(read);
    for (std::size_t k = 0; k < 4; ++k) QVERIFY(read->project.elements[k]->shape == p.elements[k]->shape);
  }

  void aFaultyTreeIsFoundAndStopsNothingElse_data() {
    QTest::addColumn<double>("height");
    QTest::addColumn<double>("width");
    QTest::addColumn<double>("stem");
    QTest::newRow("a stem as high as the tree") << 5.0 << 4.0 << 5.0;
    QTest::newRow("no width") << 5.0 << 0.0 << 1.0;
    QTest::newRow("a negative stem") << 5.0 << 3.0 << -1.0;
    QTest::newRow("not a number") << std::nan("") << 3.0 << 1.0;
  }
  void aFaultyTreeIsFoundAndStopsNothingElse() {
    QFETCH(double, height);
    QFETCH(double, width);
    QFETCH(double, stem);
    const Tree t{.height = height, .width = width, .stem = stem};
    QVERIFY(faultOf(t, "Lime"));
    QVERIFY(!meshOf(t));
    const Findings f = checkProject(yard(t));
    QVERIFY(std::any_of(f.begin(), f.end(), [](const Finding& x) { return x.code == "element.tree"; }));
  }

  void anAwningThatIsInIsNotThere() {
    Project p = test::house({.ratio = 0.3});
    p.site.place = {radians(52), radians(13), 0};
    const auto bare = shadeReport(p);
    ShadeRule s;
    s.id = {70};
    s.kind = ShadeRule::Kind::Awning;
    s.depth = 1.5;
    s.drop = 0.5;
    p.shadeRules = {s};
    const auto out = shadeReport(p);
    p.shadeRules[0].drawnIn = true;
    const auto in = shadeReport(p);
    QVERIFY(out->windows[0].keepOut.taken() > bare->windows[0].keepOut.taken() + 0.3);
    QCOMPARE(in->windows[0].keepOut.shaded, bare->windows[0].keepOut.shaded);
    QCOMPARE(in->windows[0].sky, bare->windows[0].sky);
  }
};

QTEST_APPLESS_MAIN(TestTrees)
#include "tst_trees.moc"
