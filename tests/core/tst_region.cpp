// Regions of the plane as sets of points: joined, cut, shared; holes, seams, far coordinates, and many at once.

#ifndef Q_MOC_RUN
#include "core/geometry/clipper_grid.h"
#include "core/geometry/region.h"
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

Region box(double x0, double y0, double x1, double y1) {
  return {rectangle(x0, y0, x1, y1)};
}
/// A frame: a box with a hole one metre from its edges.
Region frame(double x0, double y0, double x1, double y1) {
  return regionMinus(box(x0, y0, x1, y1), box(x0 + 1, y0 + 1, x1 - 1, y1 - 1));
}
Ring ringOf(double x0, double y0, double x1, double y1, bool clockwise = false) {
  Ring r = rectangle(x0, y0, x1, y1).outer;
  if (clockwise) std::reverse(r.begin(), r.end());
  return r;
}

class TestRegion : public QObject {
  Q_OBJECT
private slots:
  void areasOfTheThreeOperations_data() {
    QTest::addColumn<double>("x"); ///< of the second box, 4 × 4 like the first
    QTest::addColumn<double>("shared");
    QTest::newRow("apart") << 6.0 << 0.0;
    QTest::newRow("an edge in common") << 4.0 << 0.0;
    QTest::newRow("half over each other") << 2.0 << 8.0;
    QTest::newRow("the same") << 0.0 << 16.0;
  }
  void areasOfTheThreeOperations() {
    QFETCH(double, x);
    QFETCH(double, shared);
    const Region a = box(0, 0, 4, 4), b = box(x, 0, x + 4, 4);
    QVERIFY(std::abs(area(regionCommon(a, b)) - shared) < 1e-6);
    QVERIFY(std::abs(area(regionUnion(a, b)) - (32 - shared)) < 1e-6);
    QVERIFY(std::abs(area(regionMinus(a, b)) - (16 - shared)) < 1e-6);
    QVERIFY(std::abs(area(regionMinus(b, a)) - (16 - shared)) < 1e-6);
  }

  void nothingIsNothing() {
    const Region a = box(0, 0, 2, 2);
    QCOMPARE(area(regionCommon(a, {})), 0.0);
    QCOMPARE(area(regionMinus({}, a)), 0.0);
    QVERIFY(std::abs(area(regionMinus(a, {})) - 4) < 1e-9);
    QVERIFY(std::abs(area(regionUnion({}, a)) - 4) < 1e-9);
    QVERIFY(covered({}).empty() && oddlyCovered({}).empty());
    QVERIFY(covered({{{0, 0}, {1, 1}}}).empty()); // two points are no ring
  }

  void holesAreKeptAndFilled() {
    const Region f = frame(0, 0, 6, 6);
    QCOMPARE(f.size(), std::size_t(1));
    QCOMPARE(f[0].holes.size(), std::size_t(1));
    QVERIFY(std::abs(area(f) - 20) < 1e-6);
    QVERIFY(contains(f, {0.5, 3}) && !contains(f, {3, 3}));
    QVERIFY(std::abs(area(regionUnion(f, box(2, 2, 4, 4))) - 24) < 1e-6); // an island in the hole
    QCOMPARE(regionUnion(f, box(2, 2, 4, 4)).size(), std::size_t(2));
    QVERIFY(std::abs(area(regionUnion(f, box(1, 1, 5, 5))) - 36) < 1e-6); // filled to the brim
  }

  void framesInFramesFindTheirOwnHoles() {
    Region all;
    for (int k = 0; k < 4; ++k) all = regionUnion(all, frame(2.0 * k, 2.0 * k, 20 - 2.0 * k, 20 - 2.0 * k));
    double expected = 0;
    for (int k = 0; k < 4; ++k) {
      const double side = 20 - 4.0 * k;
      expected += side * side - (side - 2) * (side - 2);
    }
    QCOMPARE(all.size(), std::size_t(4));
    for (const Outline& o : all) QCOMPARE(o.holes.size(), std::size_t(1));
    QVERIFY(std::abs(area(all) - expected) < 1e-5);
    QVERIFY(contains(all, {0.5, 10}) && !contains(all, {1.5, 10}) && contains(all, {2.5, 10}));
  }

  void ringsCoverWhicheverWayTheyRun() {
    for (const bool clockwise : {false, true}) {
      const Region r = covered({ringOf(0, 0, 4, 4), ringOf(2, 0, 6, 4, clockwise), ringOf(1, 1, 3, 3, clockwise)});
      QCOMPARE(r.size(), std::size_t(1));
      QVERIFY(std::abs(area(r) - 24) < 1e-6);
    }
  }

  void aHoleThatSharesAnEdgeIsKept() {
    // The hole's first edge lies on the outer ring, to the grid's tenth of a millimetre beyond it.
    const ClipperGrid grid({0, 0});
    const Ring outer{{0, 0}, {10, 3}, {10, 10}, {0, 10}}, hole{{3.3333, 0.9999}, {3, 6}, {7, 6}, {6.6667, 1.9999}};
    for (std::size_t turn = 0; turn < 4; ++turn) {
      Ring turned = hole;
      std::rotate(turned.begin(), turned.begin() + std::ptrdiff_t(turn), turned.end());
      ClipperLib::Paths paths{grid.path(outer), grid.path(turned)};
      if (ClipperLib::Orientation(paths[1])) ClipperLib::ReversePath(paths[1]);
      const std::vector<Outline> out = grid.outlines(paths);
      QCOMPARE(out.size(), std::size_t(1));
      QCOMPARE(out[0].holes.size(), std::size_t(1));
      QVERIFY(std::abs(area(out[0]) - (std::abs(signedArea(outer)) - std::abs(signedArea(hole)))) < 1e-6);
    }
  }

  void cutsThroughACourtLeaveItOut() {
    const Region r = oddlyCovered({ringOf(0, 0, 10, 10), ringOf(3, 3, 7, 7), ringOf(4, 4, 6, 6)});
    QVERIFY(std::abs(area(r) - (100 - 16 + 4)) < 1e-6); // a house in the court
    QCOMPARE(r.size(), std::size_t(2));
  }

  void aRingThatCrossesItselfCoversBothLobes() {
    const Region r = oddlyCovered({{{0, 0}, {4, 4}, {4, 0}, {0, 4}}});
    QVERIFY(std::abs(area(r) - 8) < 1e-3);
  }

  void farAwayNothingIsLost() {
    for (const double far : {1e3, 1e5, 1e6}) {
      const Region a = box(far, -far, far + 4, -far + 4), b = box(far + 1, -far + 1, far + 3, -far + 3);
      QVERIFY2(std::abs(area(regionMinus(a, b)) - 12) < 1e-3, qPrintable(QString::number(far)));
    }
  }

  /// Pieces beside each other, made apart, become one without slivers between them.
  void neighboursJoinWithoutSeams() {
    Region all;
    for (int i = 0; i < 12; ++i)
      for (int j = 0; j < 12; ++j) all = regionUnion(all, box(i * 1.37, j * 0.91, (i + 1) * 1.37, (j + 1) * 0.91));
    all = withoutSlivers(std::move(all), 1e-3);
    QCOMPARE(all.size(), std::size_t(1));
    QVERIFY(std::abs(area(all) - 12 * 1.37 * 12 * 0.91) < 0.01);
    QVERIFY(all[0].holes.empty() || area(Region{{all[0].holes[0], {}}}) < 1e-3);
  }

  void pointsSayTheSameAsTheSets() {
    std::mt19937 random(3);
    const auto unit = [&] { return double(random()) / 4294967296.0; };
    std::vector<Ring> one, two;
    for (int k = 0; k < 40; ++k) {
      const double x = 40 * unit(), y = 40 * unit(), w = 1 + 8 * unit(), h = 1 + 8 * unit();
      (k % 2 ? one : two).push_back(ringOf(x, y, x + w, y + h, k % 3 == 0));
    }
    const Region a = covered(one), b = covered(two);
    const Region both = regionCommon(a, b), either = regionUnion(a, b), first = regionMinus(a, b);
    int wrong = 0;
    for (int k = 0; k < 5000; ++k) {
      const Vec2 p{50 * unit(), 50 * unit()};
      const auto in = [&](const std::vector<Ring>& rings) {
        return std::any_of(rings.begin(), rings.end(), [&](const Ring& r) { return contains(r, p); });
      };
      const bool inOne = in(one), inTwo = in(two);
      wrong += contains(both, p) != (inOne && inTwo);
      wrong += contains(either, p) != (inOne || inTwo);
      wrong += contains(first, p) != (inOne && !inTwo);
    }
    QVERIFY2(wrong <= 3, qPrintable(QString::number(wrong))); // points within 0.1 mm of an edge
    QVERIFY(std::abs(area(either) + area(both) - area(a) - area(b)) < 1e-3);
  }

  void whatIsSmallGoes() {
    Region r = box(0, 0, 1, 1);
    r.push_back(rectangle(3, 0, 3.005, 0.01));
    QCOMPARE(withoutSlivers(r, 1e-3).size(), std::size_t(1));
    QCOMPARE(withoutSlivers(r, 1e-6).size(), std::size_t(2));
    r.push_back(rectangle(5, 0, 45, 0.0015)); // 0.06 m², and a seam all the same
    r.push_back(rectangle(5, 1, 45, 1.0025));
    QCOMPARE(withoutSlivers(r, 1e-6).size(), std::size_t(3));
  }
};

} // namespace

QTEST_GUILESS_MAIN(TestRegion)
#include "tst_region.moc"
