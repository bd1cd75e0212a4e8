// Shortcuts against what they stand for: walls with a room behind them, and points in an outline, each by a slow way
// that knows no boxes.

#ifndef Q_MOC_RUN
#include "core/base/tolerances.h"
#include "core/model/rooms/placing.h"
#include "tests/house.h"
#include <QtTest>
#include <random>
#endif

using namespace noonward;

namespace {

/// Is a point within the weld of an edge, or on an odd number of crossings?
bool containsSlowly(const Outline& o, Vec2 p) {
  const auto odd = [&](const Ring& r) {
    bool in = false;
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 a = r[i], b = r[(i + 1) % r.size()];
      if ((a.y > p.y) == (b.y > p.y)) continue;
      if (p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y)) in = !in;
    }
    return in;
  };
  if (!odd(o.outer)) {
    double nearest = 1e300;
    for (std::size_t i = 0; i < o.outer.size(); ++i) {
      const Vec2 a = o.outer[i], d = o.outer[(i + 1) % o.outer.size()] - a;
      nearest = std::min(nearest, length(p - (a + d * std::clamp(dot(p - a, d) / dot(d, d), 0.0, 1.0))));
    }
    return nearest <= tolerance::weld;
  }
  return std::none_of(o.holes.begin(), o.holes.end(), odd);
}

/// A wall stands outdoors unless on three of five places across it another room of its height lies within 40 cm.
std::vector<bool> outerSlowly(const Project& p, std::size_t index) {
  const Room& room = p.rooms[index];
  std::vector<bool> out;
  const Ring& r = room.outline.outer;
  for (std::size_t i = 0; i < r.size(); ++i) {
    const Vec2 a = r[i], b = r[(i + 1) % r.size()], u = (b - a) * (1 / length(b - a)), away{u.y, -u.x};
    int behind = 0;
    for (int k = 0; k < 5; ++k) {
      bool met = false;
      for (double d : {0.06, 0.13, 0.25, 0.4})
        for (const Room& o : p.rooms) {
          const double shared = std::min(o.floor + o.height, room.floor + room.height) - std::max(o.floor, room.floor);
          if (o.id == room.id || shared <= 0.05) continue;
          met = met || containsSlowly(o.outline, a + u * (length(b - a) * (k + 0.5) / 5) + away * d);
        }
      behind += met;
    }
    out.push_back(behind < 3);
  }
  return out;
}

/// Rooms in rows with walls between that are thinner or thicker than what counts as behind, on two storeys, turned.
Project manyRooms(unsigned seed) {
  std::mt19937 dice(seed);
  const auto between = [&](double a, double b) { return a + (b - a) * double(dice() % 10001) / 10000; };
  Project p;
  const double turn = between(0, 1.5), c = std::cos(turn), s = std::sin(turn);
  const Vec2 shift = seed % 4 == 0 ? Vec2{1e6, -1e6} : Vec2{between(-50, 50), between(-50, 50)};
  std::uint64_t id = 0;
  for (int storey = 0; storey < 2; ++storey) {
    double y = 0;
    for (int row = 0; row < 4; ++row) {
      double x = between(0, 1);
      const double deep = between(2.5, 6);
      for (int k = 0; k < 4; ++k) {
        const double wide = between(2, 5);
        Room r;
        r.id = {++id};
        r.name = "Room " + std::to_string(id);
        r.floor = 3.2 * storey + (k == 3 ? between(-1.5, 1.5) : 0);
        r.height = between(2.4, 3);
        for (Vec2 q : {Vec2{x, y}, {x + wide, y}, {x + wide, y + deep}, {x, y + deep}})
          r.outline.outer.push_back(shift + Vec2{c * q.x - s * q.y, s * q.x + c * q.y});
        p.rooms.push_back(r);
        x += wide + between(0.02, 0.6);
      }
      y += deep + between(0.02, 0.6);
    }
  }
  return p;
}

} // namespace

class TestNeighbours : public QObject {
  Q_OBJECT
  static void seeds(unsigned n) {
    QTest::addColumn<unsigned>("seed");
    for (unsigned s = 1; s <= n; ++s) QTest::addRow("seed %u", s) << s;
  }
private slots:
  void wallsOutdoorsAreThoseThatTheSlowWayFinds_data() { seeds(24); }
  void wallsOutdoorsAreThoseThatTheSlowWayFinds() {
    QFETCH(unsigned, seed);
    const Project p = manyRooms(seed);
    int outdoors = 0, indoors = 0;
    for (std::size_t r = 0; r < p.rooms.size(); ++r) {
      const std::vector<bool> fast = outerEdges(p, r), slow = outerSlowly(p, r);
      QCOMPARE(fast.size(), slow.size());
      for (std::size_t i = 0; i < fast.size(); ++i) {
        QVERIFY2(fast[i] == slow[i], qPrintable(QString("%1, wall %2").arg(p.rooms[r].name.c_str()).arg(i)));
        (fast[i] ? outdoors : indoors) += 1;
      }
    }
    QVERIFY(outdoors > 20 && indoors > 20); // both are met
  }

  void whoStandsFirstDoesNotMatter_data() { seeds(6); }
  void whoStandsFirstDoesNotMatter() {
    QFETCH(unsigned, seed);
    const Project p = manyRooms(seed);
    Project other = p;
    std::reverse(other.rooms.begin(), other.rooms.end());
    for (std::size_t r = 0; r < p.rooms.size(); ++r)
      QCOMPARE(outerEdges(p, r), outerEdges(other, p.rooms.size() - 1 - r));
  }

  void pointsAreInAnOutlineAsTheSlowWaySays_data() { seeds(20); }
  void pointsAreInAnOutlineAsTheSlowWaySays() {
    QFETCH(unsigned, seed);
    std::mt19937 dice(seed);
    const auto between = [&](double a, double b) { return a + (b - a) * double(dice() % 10001) / 10000; };
    const double far = seed % 3 == 0 ? 1e5 : 0;
    Outline o; // a star of many corners with a hole
    const int corners = 3 + int(seed) * 2;
    for (int i = 0; i < corners; ++i) {
      const double a = 2 * pi * i / corners, r = between(3, 9);
      o.outer.push_back({far + r * std::cos(a), far + r * std::sin(a)});
    }
    o.holes.push_back({{far - 1, far - 1}, {far - 1, far + 1}, {far + 1, far + 1}, {far + 1, far - 1}});
    std::vector<Vec2> points;
    for (int k = 0; k < 2000; ++k) points.push_back({far + between(-11, 11), far + between(-11, 11)});
    for (std::size_t i = 0; i < o.outer.size(); ++i) { // on the edges, and just off them to either side
      const Vec2 a = o.outer[i], d = o.outer[(i + 1) % o.outer.size()] - a, n = Vec2{d.y, -d.x} * (1 / length(d));
      for (double t : {0.0, 0.3, 0.77})
        for (double off : {0.0, 0.5 * tolerance::weld, 3 * tolerance::weld, 0.02, -0.5 * tolerance::weld, -0.02})
          points.push_back(a + d * t + n * off);
    }
    int in = 0;
    for (Vec2 p : points) {
      QVERIFY2(contains(o, p) == containsSlowly(o, p), qPrintable(QString("(%1, %2)").arg(p.x).arg(p.y)));
      in += contains(o, p);
    }
    QVERIFY(in > 100 && in < int(points.size()) - 100);
  }

  void outlinesWithoutAreaHoldNothing() {
    QVERIFY(!contains(Outline{}, {0, 0}));
    QVERIFY(!contains(Outline{{{0, 0}, {1, 0}}, {}}, {0.5, 0}));
    QVERIFY(!contains(Outline{{{0, 0}, {4, 0}, {4, 4}}, {}}, {std::nan(""), 1}));
    QVERIFY(!contains(Outline{{{0, 0}, {4, 0}, {4, 4}}, {}}, {1e300, 1}));
  }
};

QTEST_GUILESS_MAIN(TestNeighbours)
#include "tst_neighbours.moc"
