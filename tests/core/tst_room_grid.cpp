// Sensors of rooms: where the first stand, how far apart, how much of the floor each speaks for, in rooms of any shape
// and far away.

#ifndef Q_MOC_RUN
#include "core/base/weighted.h"
#include "core/model/rooms/sensors.h"
#include "tests/house.h"
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

Outline moved(Outline o, Vec2 by, double turn = 0) {
  const auto put = [&](Vec2& p) {
    p = by + Vec2{p.x * std::cos(turn) - p.y * std::sin(turn), p.x * std::sin(turn) + p.y * std::cos(turn)};
  };
  for (Vec2& p : o.outer) put(p);
  for (Ring& h : o.holes)
    for (Vec2& p : h) put(p);
  return o;
}
double covered(const LaidGrid& g) {
  double a = 0;
  for (const GridCell& c : g.cells) a += c.area;
  return a;
}
Outline lShape() {
  return {{{0, 0}, {9, 0}, {9, 4}, {4, 4}, {4, 8}, {0, 8}}, {}};
}
Outline withColumn() {
  return {rectangle(0, 0, 8, 6).outer, {rectangle(3, 2, 3.4, 2.4).outer}};
}
Outline courtyard() {
  return {rectangle(0, 0, 14, 12).outer, {rectangle(4, 4, 10, 8).outer}};
}
Outline wedge() {
  return {{{0, 0}, {7, 0}, {5, 6}, {1, 5}}, {}};
}
Outline round() {
  Outline o;
  for (int k = 0; k < 40; ++k) o.outer.push_back({4 * std::cos(2 * pi * k / 40), 4 * std::sin(2 * pi * k / 40)});
  return o;
}

} // namespace

class TestRoomGrid : public QObject {
  Q_OBJECT
private slots:
  void everyRoom_data() {
    QTest::addColumn<int>("shape");
    QTest::addColumn<double>("turn");
    QTest::addColumn<double>("far");
    const char* names[] = {"rectangle", "narrow", "L", "column", "courtyard", "wedge", "round", "corridor"};
    for (int s = 0; s < 8; ++s)
      for (const double turn : {0.0, 0.4})
        for (const double far : {0.0, 1e6})
          QTest::addRow("%s, turned %g, at %g m", names[s], turn, far) << s << turn << far;
  }
  void everyRoom() {
    QFETCH(int, shape);
    QFETCH(double, turn);
    QFETCH(double, far);
    const Outline shapes[] = {
        rectangle(0, 0, 7.3, 5.3), rectangle(0, 0, 3.5, 9), lShape(), withColumn(), courtyard(), wedge(), round(),
        rectangle(0, 0, 20, 0.5)};
    const Outline room = moved(shapes[shape], {far, -far}, turn);
    for (const GridLayout layout : {GridLayout::FromWalls, GridLayout::BandLeftOut}) {
      const LaidGrid g = layGrid(room, 0.6, 0.3, layout);
      QVERIFY(!g.cells.empty());
      QVERIFY(g.spacing <= 0.6 + 1e-6);
      const double least = g.narrowed ? 1e-3 : 0.3 - 1e-6;
      for (const GridCell& c : g.cells)
        QVERIFY(contains(room, c.at) && distanceToEdge(room, c.at) >= least - 1e-6 * (far > 0));
      // Together the cells are what counts of the floor.
      double floor = area(room);
      if (layout == GridLayout::BandLeftOut) {
        floor = 0;
        for (const Outline& o : offset(room, g.narrowed ? -g.distance : -0.3)) floor += area(o);
      }
      if (layout == GridLayout::FromWalls || !g.narrowed)
        QVERIFY2(std::abs(covered(g) - floor) < 0.002 * floor,
                 qPrintable(QString("%1 of %2 m²").arg(covered(g)).arg(floor)));
      QCOMPARE(g.narrowed, shape == 7);
    }
  }

  void wallsNotQuiteSquareLoseNoRow() {
    // As traced out of another's mesh, or measured on site: the same points as in the straight room, none nearer than
    // stated.
    for (const double askew : {1e-7, 1e-4, 3e-3, 0.02})
      for (const GridLayout layout : {GridLayout::FromWalls, GridLayout::BandLeftOut}) {
        const std::size_t wanted = layGrid(rectangle(0, 0, 10.45, 6), 0.75, 0.5, layout).cells.size();
        for (int bits = 0; bits < 256; ++bits) {
          Outline room = rectangle(0, 0, 10.45, 6);
          for (int k = 0; k < 8; ++k)
            if (bits >> k & 1)
              (k % 2 ? room.outer[std::size_t(k / 2)].x : room.outer[std::size_t(k / 2)].y) += k < 4 ? askew : -askew;
          const LaidGrid g = layGrid(room, 0.75, 0.5, layout);
          QVERIFY2(
              askew > 0.01 ? g.cells.size() + 14 >= wanted : g.cells.size() == wanted,
              qPrintable(
                  QString("%1 of %2 points, askew by %3 (%4)").arg(g.cells.size()).arg(wanted).arg(askew).arg(bits)));
          for (const GridCell& c : g.cells) QVERIFY(distanceToEdge(room, c.at) > 0.4999);
          if (layout == GridLayout::FromWalls) QVERIFY(std::abs(covered(g) - area(room)) < 0.002 * area(room));
        }
      }
  }

  void pointsBeginAtTheStatedDistanceFromEveryWall() {
    for (const double width : {1.0, 2.17, 3.5, 6.0, 12.31})
      for (const double spacing : {0.3, 0.6, 1.0}) {
        const LaidGrid g = layGrid(rectangle(0, 0, width, 5), spacing, 0.3, GridLayout::FromWalls);
        double west = 99, east = 0;
        for (const GridCell& c : g.cells) {
          west = std::min(west, c.at.x);
          east = std::max(east, c.at.x);
        }
        QVERIFY(std::abs(west - 0.3) < 1e-9 && std::abs(east - (width - 0.3)) < 1e-9);
        QVERIFY(std::abs(g.distance - 0.3) < 1e-9);
      }
    // A wall that steps back has its own first row.
    const LaidGrid g = layGrid(lShape(), 0.6, 0.3, GridLayout::FromWalls);
    const auto near = [&](Vec2 on, Vec2 inward) {
      double best = 99;
      for (const GridCell& c : g.cells)
        if (std::abs(cross(c.at - on, inward)) < 0.35) best = std::min(best, dot(c.at - on, inward));
      return best;
    };
    QVERIFY(std::abs(near({6, 4}, {0, -1}) - 0.3) < 1e-6);
    QVERIFY(std::abs(near({4, 6}, {-1, 0}) - 0.3) < 1e-6);
  }

  void aBandLeftOutDividesTheRestEvenly() {
    const LaidGrid g = layGrid(rectangle(0, 0, 3.5, 5), 0.5, 0.5, GridLayout::BandLeftOut);
    QCOMPARE(g.cells.size(), std::size_t(5 * 8)); // 2.5 m and 4 m
    for (const GridCell& c : g.cells) QVERIFY(std::abs(c.area - 0.25) < 1e-3);
    QVERIFY(std::abs(g.distance - 0.75) < 1e-9);
  }

  void weightsGiveTheMeanOfASlopeExactly() {
    // A field that is linear over the floor: cells that fill it, by area, give its integral.
    for (const GridLayout layout : {GridLayout::FromWalls, GridLayout::BandLeftOut}) {
      const LaidGrid g = layGrid(rectangle(0, 0, 7, 4), 0.55, 0.3, layout);
      double sum = 0, all = 0;
      for (const GridCell& c : g.cells) {
        Vec2 middle{};
        for (Vec2 k : c.corners) middle = middle + k * 0.25;
        sum += c.area * (2 + 3 * middle.x - middle.y);
        all += c.area;
      }
      QVERIFY(std::abs(sum / all - (2 + 3 * 3.5 - 2.0)) < 1e-3);
    }
  }

  void aRoomsSensorsCarryTheirAreas() {
    Project p = test::house({.spacing = 0.6});
    std::get<RoomGrid>(p.groups[0].layout).wallDistance = 0.3;
    const auto set = layOutSensors(p);
    double all = 0;
    for (std::size_t i = 0; i < set->sensors.size(); ++i) all += set->areaOf(i);
    QVERIFY(std::abs(all - 7.3 * 5.3) < 1e-6);
    QVERIFY(std::abs(set->groups[0].cellArea * double(set->sensors.size()) - all) < 1e-6);
    QVERIFY(set->groups[0].spacing <= 0.6 && std::abs(set->groups[0].distance - 0.3) < 1e-9);
    for (std::size_t i = 0; i < set->sensors.size(); ++i) { // each stands within its own cell
      const auto c = set->cell(i);
      QVERIFY(c[0].x <= set->sensors[i].position.x + 1e-9 && c[2].x >= set->sensors[i].position.x - 1e-9);
    }
  }

  void narrowRoomsAreTold() {
    Project p = test::house({.width = 1.2, .depth = 6, .wall = 0.35, .spacing = 0.5});
    const auto set = layOutSensors(p);
    QVERIFY(set->sensors.size() > 3);
    QVERIFY(std::any_of(set->findings.begin(), set->findings.end(),
                        [](const Finding& f) { return f.code == "sensors.narrow"; }));
  }

  void theLayoutIsKeptInFiles() {
    Project p = test::house({.spacing = 0.5});
    std::get<RoomGrid>(p.groups[0].layout).layout = GridLayout::BandLeftOut;
    const auto again = parseProject(projectText(p, "x.files"), "x.noonward", {});
    QVERIFY(again.has_value());
    QVERIFY(std::get<RoomGrid>(again->project.groups[0].layout) == std::get<RoomGrid>(p.groups[0].layout));
    std::string text = projectText(p, "x.files");
    text.replace(text.find("band-left-out"), 13, "in-a-ring");
    const auto faulty = parseProject(text, "x.noonward", {});
    QVERIFY(!faulty && faulty.error().text().find("from-walls") != std::string::npos);
  }

  void weightedFigures_data() {
    QTest::addColumn<QList<double>>("values");
    QTest::addColumn<QList<double>>("weights");
    QTest::addColumn<double>("median");
    QTest::addColumn<double>("reached95");
    using L = QList<double>;
    QTest::newRow("one") << L{3} << L{2} << 3.0 << 3.0;
    QTest::newRow("odd, alike") << L{1, 5, 2} << L{1, 1, 1} << 2.0 << 1.0;
    QTest::newRow("even, alike") << L{4, 1, 3, 2} << L{1, 1, 1, 1} << 2.5 << 1.0;
    QTest::newRow("a heavy one") << L{1, 10, 20} << L{5, 1, 1} << 1.0 << 1.0;
    QTest::newRow("half and half") << L{1, 2} << L{2, 2} << 1.5 << 1.0;
    QTest::newRow("a light dark corner") << L{1, 10, 20} << L{0.2, 5, 5} << 10.0 << 10.0;
  }
  void weightedFigures() {
    QFETCH(QList<double>, values);
    QFETCH(QList<double>, weights);
    QFETCH(double, median);
    QFETCH(double, reached95);
    std::vector<std::pair<double, double>> v;
    for (int i = 0; i < values.size(); ++i) v.emplace_back(values[i], weights[i]);
    QCOMPARE(weightedMedian(v), median);
    QCOMPARE(reachedByShare(v, 0.95), reached95);
    QCOMPARE(reachedByShare(v, 0), *std::max_element(values.begin(), values.end()));
    QCOMPARE(weightedMedian({}), 0.0);
    double sum = 0;
    for (double w : weightsOf(std::vector<double>(weights.begin(), weights.end()), std::size_t(weights.size())))
      sum += w;
    QVERIFY(std::abs(sum - 1) < 1e-12);
  }
};

QTEST_GUILESS_MAIN(TestRoomGrid)
#include "tst_room_grid.moc"
