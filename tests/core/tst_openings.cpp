// Windows by bay, as curtain walls, with frames and panes where they are put; doors; windows copied from wall to wall;
// perforated screens: sizes and areas by hand, light by the share that gets through.

#ifndef Q_MOC_RUN
#include "core/light/light_scene.h"
#include "core/light/scene.h"
#include "core/model/light_model.h"
#include "core/model/rooms/opening_edit.h"
#include "core/studies/light_study.h"
#include "core/studies/shade.h"
#include "tests/house.h"
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

/// 10 m × 6 m inside, 3 m high, one rule.
Project roomWith(const WindowRule& rule) {
  Project p = test::house({.width = 10.6, .depth = 6.6, .wall = 0.3, .spacing = 0.5});
  p.windowRules = {rule};
  p.windowRules[0].id = {30};
  return p;
}
std::vector<PlacedOpening> facing(const Project& p, Facing f) {
  std::vector<PlacedOpening> out;
  for (const PlacedOpening& o : placedOpenings(p).openings)
    if (o.facing == f) out.push_back(o);
  return out;
}
double glassOf(const Project& p) {
  double a = 0;
  for (const LightPart& part : derivedModel(p).parts)
    if (part.glazed) a += surfaceArea(*part.mesh);
  return a;
}
double meanFactor(const Project& p) {
  Study s;
  s.kind = StudyKind::DaylightFactor;
  s.light.error = 0.01;
  const auto in = lightInput(p, s);
  if (!in) return -1;
  RunControl control;
  const LightResult r = runLight(*in, control);
  return std::accumulate(r.value.begin(), r.value.end(), 0.0) / double(r.value.size());
}

} // namespace

class TestOpenings : public QObject {
  Q_OBJECT
private slots:
  void baysAreLaidAsTheyAreTyped_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("count");
    QTest::addColumn<double>("module");
    QTest::addColumn<double>("ends");
    QTest::addColumn<int>("windows");  // in the south wall of 10 m
    QTest::addColumn<double>("first"); // m, from its corner to the first one's near side
    QTest::addColumn<double>("width");
    const int ratio = int(WindowRule::Kind::Ratio), row = int(WindowRule::Kind::Row),
              curtain = int(WindowRule::Kind::Curtain);
    QTest::newRow("divided in five") << row << 5 << 0.0 << 0.0 << 5 << 0.4 << 1.2;
    QTest::newRow("with the ends kept free") << row << 4 << 0.0 << 1.0 << 4 << 1.4 << 1.2;
    QTest::newRow("by bays of 1.8 m") << row << 1 << 1.8 << 0.0 << 5 << 0.5 + 0.3 << 1.2;
    QTest::newRow("bays and free ends") << row << 1 << 1.8 << 1.5 << 3 << 2.3 + 0.3 << 1.2;
    QTest::newRow("a bay wider than the wall") << row << 1 << 12.0 << 0.0 << 0 << 0.0 << 0.0;
    QTest::newRow("free ends that leave nothing") << row << 3 << 0.0 << 5.0 << 0 << 0.0 << 0.0;
    QTest::newRow("a share by bays") << ratio << 1 << 2.5 << 0.0 << 4 << 0.25 << 2.0; // 0.4 × 30 m² = 4 × 2 × 1.5
    QTest::newRow("a curtain wall by count") << curtain << 8 << 0.0 << 0.0 << 8 << 0.05 << 1.15;
    QTest::newRow("a curtain wall by bays") << curtain << 1 << 1.4 << 0.0 << 7 << 0.1 + 0.05 << 1.3;
  }
  void baysAreLaidAsTheyAreTyped() {
    QFETCH(int, kind);
    QFETCH(int, count);
    QFETCH(double, module);
    QFETCH(double, ends);
    QFETCH(int, windows);
    QFETCH(double, first);
    QFETCH(double, width);
    const Project p = roomWith({.kind = WindowRule::Kind(kind),
                                .facings = {Facing::South},
                                .count = count,
                                .module = module,
                                .ends = ends,
                                .width = 1.2,
                                .mullion = 0.1});
    const auto laid = facing(p, Facing::South);
    QCOMPARE(int(laid.size()), windows);
    QVERIFY(placedOpenings(p).findings.empty());
    if (laid.empty()) return;
    QVERIFY2(std::abs(laid[0].opening.along - first) < 1e-9, qPrintable(QString::number(laid[0].opening.along)));
    for (const PlacedOpening& o : laid) QVERIFY(std::abs(o.opening.width - width) < 1e-9);
    QVERIFY(std::abs(glassOf(p) - windows * width * 1.5) < 1e-9);
    // In the middle of the wall: as much is left on both sides.
    const Opening& last = laid.back().opening;
    QVERIFY(std::abs(10 - last.along - last.width - first) < 1e-9);
  }

  void frameAndPaneStandWhereTheyAreSaidTo() {
    Project p = roomWith({.facings = {Facing::South}, .ratio = 0.3});
    for (const double at : {0.0, 0.25, 1.0}) {
      p.windowRules[0].paneAt = at;
      for (const LightPart& part : derivedModel(p).parts)
        if (part.glazed) QVERIFY(std::abs(part.mesh->box().low.y - 0.3 * at) < 1e-9);
      QVERIFY(std::abs(frameOf(placedOpenings(p).openings[0], p.rooms[0]).pane - 0.3 * at) < 1e-9);
    }
    // A third behind frames is a third less light, all else alike.
    p.windowRules[0].paneAt = 1.0 / 3;
    const double whole = meanFactor(p);
    p.windowRules[0].frame = 1.0 / 3;
    const double framed = meanFactor(p);
    QVERIFY(whole > 0.5);
    QVERIFY2(std::abs(framed / whole - 2.0 / 3) < 0.02, qPrintable(QString::number(framed / whole)));
    // Glass of one name with other frames are two.
    Project two = p;
    two.windowRules.push_back(two.windowRules[0]);
    two.windowRules[1].id = {31};
    two.windowRules[1].facings = {Facing::North};
    two.windowRules[1].frame = 0;
    const LightModel m = derivedModel(two);
    QCOMPARE(m.glazings.size(), std::size_t(2));
    QVERIFY(m.glazings[0].frame != m.glazings[1].frame);
  }

  void whatIsAsItWasAsksNoStudyAnew() {
    const auto digest = [](const Project& p) {
      Hasher h;
      hashGeometry(h, p);
      return h.digest();
    };
    Project p = roomWith({.facings = {Facing::South}});
    const Digest was = digest(p);
    p.windowRules[0].mullion = 0.3; // of no curtain wall
    QVERIFY(digest(p) == was);
    for (const auto& change : std::vector<std::function<void(WindowRule&)>>{
             [](WindowRule& w) { w.module = 2; }, [](WindowRule& w) { w.ends = 0.5; },
             [](WindowRule& w) { w.frame = 0.2; }, [](WindowRule& w) { w.paneAt = 0.5; },
             [](WindowRule& w) { w.kind = WindowRule::Kind::Curtain; }}) {
      Project q = p;
      change(q.windowRules[0]);
      QVERIFY(digest(q) != was);
    }
  }

  // ---- screens --------------------------------------------------------------------------------------------------

  void aScreenCoversAllButItsHoles_data() {
    QTest::addColumn<double>("openness");
    QTest::addColumn<double>("spacing");
    QTest::newRow("solid") << 0.0 << 0.0;
    QTest::newRow("a fifth") << 0.2 << 0.0;
    QTest::newRow("half, coarse") << 0.5 << 0.4;
    QTest::newRow("nine tenths") << 0.9 << 0.1;
    QTest::newRow("finer than there may be holes") << 0.3 << 0.001;
    QTest::newRow("all open") << 1.0 << 0.1;
  }
  void aScreenCoversAllButItsHoles() {
    QFETCH(double, openness);
    QFETCH(double, spacing);
    ShadeRule s{.kind = ShadeRule::Kind::Screen, .spacing = spacing, .standOff = 0.2, .openness = openness};
    s.beyond = 0.1;
    s.offset = 0.15;
    const OpeningFrame f{{1, 2, 3}, {1, 0, 0}, {0, 0, 1}, {0, -1, 0}, 1.6, 1.2, 0.3, 0.1};
    const Mesh m = shadeMesh(s, f);
    const double sheet = 1.8 * 1.5;
    QVERIFY2(std::abs(surfaceArea(m) - (1 - openness) * sheet) < 1e-9, qPrintable(QString::number(surfaceArea(m))));
    QVERIFY(m.triangles.size() < 20'000);
    for (Vec3 q : m.points) {
      QVERIFY(std::abs(q.y - 1.8) < 1e-9);
      QVERIFY(q.x > 0.9 - 1e-9 && q.x < 2.7 + 1e-9 && q.z > 2.85 - 1e-9 && q.z < 4.35 + 1e-9);
    }
  }

  void aScreenLetsAsMuchSunThroughAsItIsOpen() {
    Project p = roomWith({.facings = {Facing::South}, .ratio = 0.2});
    p.site.place = {radians(52), radians(13), 0};
    const auto sunOf = [&] {
      const auto r = shadeReport(p);
      double kept = r->windows[0].keepOut.taken();
      return 1 - kept;
    };
    const double bare = sunOf();
    ShadeRule s{.kind = ShadeRule::Kind::Screen,
                .facings = {Facing::South},
                .spacing = 0.05,
                .standOff = 0.02,
                .openness = 0.3};
    s.id = {70};
    s.beyond = s.offset = 0.15; // so that nothing passes beside it
    p.shadeRules = {s};
    const double screened = sunOf();
    // By the holes' share: the sheet is thin.
    QVERIFY2(std::abs(screened / bare - 0.3) < 0.02, qPrintable(QString::number(screened / bare)));
    ShadeSizing sizing;
    sizing.rule = {70};
    const auto sized = sizeShade(p, sizing, {});
    QVERIFY(!sized && QString::fromStdString(sized.error().message).contains("no depth"));
  }

  // ---- copied, doors, early masses --------------------------------------------------------------------------------

  void windowsGoRoundTheCornerAsFarAsThereIsRoom() {
    Project p = roomWith({.facings = {Facing::North}, .ratio = 0});
    p.windowRules.clear();
    Opening o;
    o.id = {50};
    o.room = {1};
    o.edge = 0; // 10 m
    o.along = 0.5;
    o.width = 1;
    o.repeat = 6;
    o.gap = 0.5; // to 9.0 m
    p.openings = {o};
    const WallRef south{{1}, 0};
    const auto right = wallBeside(p, south, true), left = wallBeside(p, south, false);
    QVERIFY(right && right->edge == 1 && left && left->edge == 3);
    int missed = 0;
    const Project q = withWindowsOfWall(p, south, *right, &missed); // 6 m: four of them end at 6.0
    QCOMPARE(q.openings.size(), std::size_t(2));
    QCOMPARE(q.openings[1].repeat, 4);
    QCOMPARE(missed, 2);
    QCOMPARE(facing(q, Facing::East).size(), std::size_t(4));
    QVERIFY(placedOpenings(q).findings.empty());
    missed = 0;
    const Project again = withWindowsOfWall(q, south, *right, &missed);
    QVERIFY(again.openings == q.openings);
    QCOMPARE(missed, 6);
  }

  void windowsGoToTheStoreysInLine() {
    Project p = roomWith({.ratio = 0});
    p.windowRules.clear();
    for (int k = 1; k <= 3; ++k) {
      Room r = p.rooms[0];
      r.id = {std::uint64_t(k + 1)};
      r.floor = 3.4 * k;
      if (k == 2) r.outline = rectangle(0.3, 1.5, 10.3, 6.3); // its south wall stands back
      p.rooms.push_back(r);
    }
    const WallRef south{{1}, 0};
    const auto above = wallsInLine(p, south, true), all = wallsInLine(p, south, false);
    QVERIFY(above == (std::vector<WallRef>{{{2}, 0}}));
    QVERIFY(all == (std::vector<WallRef>{{{2}, 0}, {{4}, 0}}));
    QVERIFY(wallsInLine(p, {{4}, 0}, true).empty());
  }

  void aDoorStandsWhereThereIsPlaceForIt() {
    Project p = roomWith({.facings = {Facing::South}, .ratio = 0.9, .sill = 0, .head = 3});
    OpeningId id;
    const auto q = withDoor(p, {1}, &id);
    QVERIFY(q && q->openings.size() == 1 && q->openings[0].id == id);
    QVERIFY(q->openings[0].edge != 0); // the south wall is all glass
    QVERIFY(placedOpenings(*q).findings.empty());
    p.windowRules[0].facings.clear();
    const auto none = withDoor(p, {1});
    QVERIFY(!none && QString::fromStdString(none.error().message).contains("0.9 m free"));
    QVERIFY(!withDoor(p, {99}));
  }

  void anEarlyMassHasWindowsBeforeItHasAPlan() {
    Project p = roomWith({.ratio = 0});
    p.windowRules.clear();
    p.rooms.clear();
    const auto q = withRoomsForWindows(p, {10});
    QVERIFY(q && q->rooms.size() == 1 && !q->rooms[0].counted && !q->rooms[0].reason.empty());
    const auto twice = withRoomsForWindows(*q, {10});
    QVERIFY(!twice && QString::fromStdString(twice.error().message).contains("has rooms already"));
    QVERIFY(!withRoomsForWindows(p, {77}));
  }

  // ---- round a corner ---------------------------------------------------------------------------------------------

  void aCornerWindowHasNoPillarAndNoLeak_data() {
    QTest::addColumn<bool>("right");
    QTest::addColumn<double>("paneAt");
    QTest::newRow("to the right") << true << 1.0 / 3;
    QTest::newRow("to the left") << false << 1.0 / 3;
    QTest::newRow("flush outside") << true << 0.0;
    QTest::newRow("flush inside") << true << 1.0;
  }
  void aCornerWindowHasNoPillarAndNoLeak() {
    QFETCH(bool, right);
    QFETCH(double, paneAt);
    Project p = roomWith({.ratio = 0});
    p.windowRules.clear();
    Opening o;
    o.id = {50};
    o.name = "Corner";
    o.room = {1};
    o.edge = 0;
    o.along = 3;
    o.sill = 0.8;
    o.width = 2;
    o.height = 1.5;
    o.paneAt = paneAt;
    p.openings = {o};
    const auto q = withCornerWindow(p, {50}, right);
    QVERIFY(q && q->openings.size() == 2);
    const OpeningLayout laid = placedOpenings(*q);
    QVERIFY(laid.findings.empty() && laid.openings.size() == 2);
    // The two panes meet in one upright line.
    const auto a = paneOf(laid.openings[0], q->rooms[0]), b = paneOf(laid.openings[1], q->rooms[0]);
    QVERIFY(right ? length(a[1] - b[0]) < 1e-9 : length(a[0] - b[1]) < 1e-9);
    QVERIFY(std::abs(laid.openings[0].area() - (2 + 0.3 * (1 - paneAt)) * 1.5) < 1e-9);
    QVERIFY(std::abs(glassOf(*q) - 2 * laid.openings[0].area()) < 1e-9);
    // From inside every ray meets something near: wall, pane or reveal, also in the corner.
    LightModel m = derivedModel(*q);
    for (LightPart& part : m.parts) part.glazed = false; // panes stop rays here
    m.finishes.resize(std::max<std::size_t>(m.finishes.size(), m.glazings.size()));
    const Scene closed = buildScene(m);
    std::mt19937 rng(5);
    std::uniform_real_distribution<double> u(0, 1);
    for (int k = 0; k < 20'000; ++k) {
      const Vec3 from{1 + 8.6 * u(rng), 1 + 4.6 * u(rng), 0.3 + 2.4 * u(rng)};
      const Vec3 corner = (right ? a[1] : a[0]) + Vec3{0.6 * u(rng) - 0.3, 0.6 * u(rng) - 0.3, 1.9 * u(rng) - 0.2};
      QVERIFY2(closed.hidden(from, normalized(corner - from)), "light comes in beside the panes");
    }
    // What was a pillar lets the sky in: more light than two windows that end 40 cm from the corner.
    Project apart = *q;
    apart.openings[0].along += right ? -0.4 : 0.4;
    QVERIFY(placedOpenings(apart).openings[0].after == 0 && placedOpenings(apart).openings[0].before == 0);
    QVERIFY(glassOf(apart) < glassOf(*q) - 0.1 || paneAt == 1.0);
  }

  void aCornerThatCannotBeOpenedIsRefused() {
    Project p = roomWith({.ratio = 0});
    p.windowRules.clear();
    p.rooms[0].outline = {{{0.3, 0.3}, {10.3, 0.3}, {10.3, 6.3}, {5, 6.3}, {5, 3}, {0.3, 3}}, {}};
    Opening o;
    o.id = {50};
    o.room = {1};
    o.edge = 3; // into the inner corner
    o.along = 0.5;
    p.openings = {o};
    QVERIFY(!withCornerWindow(p, {50}, true));
    QVERIFY(!withCornerWindow(p, {99}, true));
    p.openings[0].edge = -1;
    QVERIFY(!withCornerWindow(p, {50}, true));
  }

  void oneOfATypeIsChangedAndAllFollow() {
    Project p = roomWith({.ratio = 0});
    p.windowRules.clear();
    for (int k = 0; k < 3; ++k) {
      Opening o;
      o.id = {std::uint64_t(60 + k)};
      o.room = {1};
      o.edge = k;
      o.along = 2;
      o.type = k < 2 ? "tall" : "low";
      p.openings.push_back(o);
    }
    p.openings[0].width = 0.6;
    p.openings[0].height = 2;
    p.openings[0].frame = 0.15;
    const Project q = withTypeAsOne(p, {60});
    QCOMPARE(q.openings[1].width, 0.6);
    QCOMPARE(q.openings[1].height, 2.0);
    QCOMPARE(q.openings[1].frame, 0.15);
    QVERIFY(std::abs(q.openings[1].along - 2.3) < 1e-12); // about its middle
    QVERIFY(q.openings[2] == p.openings[2]);
  }
};

QTEST_APPLESS_MAIN(TestOpenings)
#include "tst_openings.moc"
