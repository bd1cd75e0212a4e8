// Every shape answers what is asked of shapes, and the answers agree with each other: its box with its mesh, what it
// encloses with its volume, its file with itself.

#ifndef Q_MOC_RUN
#include "core/files/project/shape_json.h"
#include "core/model/form/edit.h"
#include "core/model/project.h"
#include <QtTest>
#include <random>
#endif

using namespace noonward;

namespace {
/// A courtyard block, the same as a mesh that stands turned and stretched, and a leaning plate.
const std::vector<std::pair<const char*, Shape>>& shapes() {
  static const auto list = [] {
    Mass block;
    block.outline.outer = {{0, 0}, {12, 0}, {12, 8}, {0, 8}};
    block.outline.holes = {{{4, 3}, {4, 5}, {8, 5}, {8, 3}}};
    block.base = 1.5;
    block.height = 9;
    block.storeys = 3;
    Imported mesh = withMesh(Imported{}, *meshOf(block));
    mesh.move = {30, -5, 2};
    mesh.turn = 0.4;
    mesh.stretch = 1.25;
    Plate plate{{{0, 0, 3}, {4, 0, 3}, {4, 2, 4}, {0, 2, 4}}};
    Tree tree{.foot = {5, -3, 1}, .height = 11, .width = 6, .stem = 3};
    tree.leaves = Tree::Leaves::Solid;
    return std::vector<std::pair<const char*, Shape>>{
        {"mass", block}, {"mesh", mesh}, {"plate", plate}, {"tree", tree}};
  }();
  return list;
}
Digest hashed(const Shape& s) {
  Hasher h;
  std::visit([&](const auto& x) { hashShape(h, x); }, s);
  return h.digest();
}
MeshPtr meshed(const Shape& s) {
  auto m = std::visit([](const auto& x) { return meshOf(x); }, s);
  return m ? *m : nullptr;
}
Box3 boxed(const Shape& s) {
  return std::visit([](const auto& x) { return boxOf(x); }, s);
}
bool near(Vec3 a, Vec3 b, double by = 1e-9) {
  return length(a - b) <= by;
}
} // namespace

class ShapesTest : public QObject {
  Q_OBJECT
  void rows() {
    QTest::addColumn<int>("index");
    for (int i = 0; i < int(shapes().size()); ++i) QTest::newRow(shapes()[std::size_t(i)].first) << i;
  }
  Shape shape() {
    QFETCH(int, index);
    return shapes()[std::size_t(index)].second;
  }
private slots:
  void everyShapeIsInTheTable() { QCOMPARE(shapes().size(), std::variant_size_v<Shape>); }

  void boxIsThatOfItsMesh_data() { rows(); }
  void boxIsThatOfItsMesh() {
    const Shape s = shape();
    QVERIFY(meshed(s));
    const Box3 a = boxed(s), b = meshed(s)->box();
    QVERIFY(near(a.low, b.low) && near(a.high, b.high));
    QVERIFY(std::abs(std::visit([](const auto& x) { return heightOf(x); }, s) - b.size().z) < 1e-9);
  }

  void movesTurnsAndScalesAsAWhole_data() { rows(); }
  void movesTurnsAndScalesAsAWhole() {
    const Shape before = shape();
    Shape s = before;
    std::visit([](auto& x) { moveShape(x, {7, -2, 1.5}); }, s);
    QVERIFY(near(boxed(s).low, boxed(before).low + Vec3{7, -2, 1.5}));
    QVERIFY(hashed(s) != hashed(before));
    std::visit([](auto& x) { moveShape(x, {-7, 2, -1.5}); }, s);
    for (int i = 0; i < 4; ++i) std::visit([](auto& x) { turnShape(x, {3, 1}, pi / 2); }, s);
    const MeshPtr back = meshed(s), was = meshed(before);
    QCOMPARE(back->points.size(), was->points.size());
    for (std::size_t i = 0; i < was->points.size(); ++i) QVERIFY(near(back->points[i], was->points[i], 1e-8));
    std::visit([](auto& x) { turnShape(x, {3, 1}, 0.3); }, s); // each point as far from the pivot as it was
    const MeshPtr turned = meshed(s);
    const bool round = std::holds_alternative<Tree>(s); // a tree goes round the pivot and keeps its face
    if (round) {
      const Vec2 a = xy(std::get<Tree>(before).foot) - Vec2{3, 1}, b = xy(std::get<Tree>(s).foot) - Vec2{3, 1};
      QVERIFY(std::abs(length(a) - length(b)) < 1e-8);
      QVERIFY(std::abs(wrapPi(std::atan2(b.y, b.x) - std::atan2(a.y, a.x)) - 0.3) < 1e-8);
      QVERIFY(std::abs(volume(*turned) - volume(*was)) < 1e-8);
    }
    for (std::size_t i = 0; !round && i < was->points.size(); ++i) {
      const Vec2 a = xy(was->points[i]) - Vec2{3, 1}, b = xy(turned->points[i]) - Vec2{3, 1};
      QVERIFY(std::abs(length(a) - length(b)) < 1e-8);
      if (length(a) > 0.1) QVERIFY(std::abs(wrapPi(std::atan2(b.y, b.x) - std::atan2(a.y, a.x)) - 0.3) < 1e-8);
    }
    s = before;
    std::visit([](auto& x) { scaleShape(x, 0.5); }, s);
    QVERIFY(near(boxed(s).low, boxed(before).low * 0.5, 1e-8) && near(boxed(s).high, boxed(before).high * 0.5, 1e-8));
    QVERIFY(std::abs(surfaceArea(*meshed(s)) - surfaceArea(*was) / 4) < 1e-6);
  }

  void itsTopIsWhereItIsPut_data() { rows(); }
  void itsTopIsWhereItIsPut() {
    const Shape before = shape();
    const Shape s = std::visit([](const auto& x) { return withTop(x, 6.5); }, before);
    QVERIFY(std::abs(boxed(s).size().z - 6.5) < 1e-9);
    QVERIFY(std::abs(boxed(s).low.z - boxed(before).low.z) < 1e-9);
    QVERIFY(hashed(s) != hashed(before));
  }

  void aFlatOutlineBecomesABlock() {
    const Shape s = withTop(Plate{{{0, 0, 2}, {5, 0, 2}, {5, 4, 2}, {0, 4, 2}}}, 9.6);
    const Mass* m = std::get_if<Mass>(&s);
    QVERIFY(m);
    QCOMPARE(m->base, 2.0);
    QCOMPARE(m->storeys, 3);
    QVERIFY(std::abs(volume(*meshed(s)) - 5 * 4 * 9.6) < 1e-9);
  }

  void enclosesWhatItsVolumeSays_data() { rows(); }
  void enclosesWhatItsVolumeSays() { // brute force: a share of points thrown into its box
    const Shape s = shape();
    const Box3 box = boxed(s);
    std::mt19937 dice(7);
    std::uniform_real_distribution<double> unit(0, 1);
    const int thrown = 40000;
    int in = 0;
    for (int i = 0; i < thrown; ++i) {
      const Vec3 p{box.low.x + box.size().x * unit(dice), box.low.y + box.size().y * unit(dice),
                   box.low.z + box.size().z * unit(dice)};
      in += std::visit([&](const auto& x) { return encloses(x, p); }, s);
    }
    const double whole = box.size().x * box.size().y * box.size().z;
    // No room stands in a plate, or in a crown.
    const bool hollow = std::holds_alternative<Plate>(s) || std::holds_alternative<Tree>(s);
    const double expected = hollow ? 0 : volume(*meshed(s)) / whole;
    const double error = std::sqrt(std::max(expected * (1 - expected), 0.0) / thrown);
    QVERIFY2(std::abs(double(in) / thrown - expected) <= 4 * error,
             qPrintable(QString("%1 against %2").arg(double(in) / thrown).arg(expected)));
  }

  void itsFileFormIsItself_data() { rows(); }
  void itsFileFormIsItself() {
    const Shape s = shape();
    Json j;
    writeShape(j, s, "house.files");
    JsonFault fault;
    std::string asked;
    {
      JsonObject o(j, "elements[0]", fault);
      const auto back = shapeFromJson(o, [&](const std::string& file) -> Expected<Imported> {
        asked = file;
        const Imported& i = std::get<Imported>(s);
        return withMesh(Imported{}, i.mesh);
      });
      QVERIFY(!fault.error && back);
      QVERIFY(hashed(*back) == hashed(s));
      if (const Mass* m = std::get_if<Mass>(&*back)) QCOMPARE(*m, std::get<Mass>(s));
    }
    QVERIFY(fault.unknown.empty());
    if (const Imported* i = std::get_if<Imported>(&s)) QCOMPARE(asked, "house.files/" + i->content.hex() + ".ply");
  }

  void faultyShapesSayWhy_data() {
    QTest::addColumn<int>("which");
    QTest::addColumn<QString>("code");
    const char* names[] = {"crossed outline", "flat",          "upside down", "no height number",
                           "no mesh",         "crooked plate", "plate of two"};
    const char* codes[] = {"element.outline", "element.height", "element.height", "element.height",
                           "element.mesh",    "element.plate",  "element.plate"};
    for (int i = 0; i < 7; ++i) QTest::newRow(names[i]) << i << codes[i];
  }
  void faultyShapesSayWhy() {
    QFETCH(int, which);
    QFETCH(QString, code);
    const Outline square{{{0, 0}, {4, 0}, {4, 4}, {0, 4}}, {}};
    const Shape faulty[] = {Mass{{{{0, 0}, {4, 4}, {4, 0}, {0, 4}}, {}}, 0, 3, 1},
                            Mass{square, 0, 0, 1},
                            Mass{square, 0, -3, 1},
                            Mass{square, 0, std::nan(""), 1},
                            Imported{},
                            Plate{{{0, 0, 0}, {4, 0, 0}, {4, 4, 1}, {0, 4, 0}}},
                            Plate{{{0, 0, 0}, {4, 0, 0}}}};
    const auto fault = std::visit([](const auto& x) { return faultOf(x, "Shed"); }, faulty[which]);
    QVERIFY(fault);
    QCOMPARE(QString(fault->code), code);
    QVERIFY(fault->text.find("\"Shed\"") != std::string::npos);
    for (const auto& [name, sound] : shapes())
      QVERIFY2(!std::visit([](const auto& x) { return faultOf(x, "Shed"); }, sound), name);
    std::visit([](const auto& x) { (void)boxOf(x), (void)trianglesOf(x), (void)factsOf(x, LengthUnit::Metre); },
               faulty[which]); // asked of any of them without harm
  }
};

QTEST_GUILESS_MAIN(ShapesTest)
#include "tst_shapes.moc"
