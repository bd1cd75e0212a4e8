#include "core/geometry/plan_cut.h"
#include "core/base/tolerances.h"
#include <algorithm>
#include <cmath>
#include <unordered_map>
#define GEOS_USE_ONLY_R_API
#include <geos_c.h>

namespace noonward {

void cutAt(const Mesh& m, std::span<const double> levels, std::vector<std::vector<CutLine>>& into) {
  into.resize(std::max(into.size(), levels.size()));
  for (const Triangle& t : m.triangles) {
    const Vec3 p[3] = {m.points[t[0]], m.points[t[1]], m.points[t[2]]};
    const auto [low, high] = std::minmax({p[0].z, p[1].z, p[2].z});
    for (auto at = std::lower_bound(levels.begin(), levels.end(), low); at != levels.end() && *at < high; ++at) {
      Vec2 ends[2];
      int n = 0;
      for (int k = 0; k < 3 && n < 2; ++k) {
        // From the lower end, so that both triangles at an edge meet it in the same bits.
        const Vec3 &a = p[k], &b = p[(k + 1) % 3];
        if ((a.z > *at) == (b.z > *at)) continue;
        const Vec3 &lower = a.z > *at ? b : a, &upper = a.z > *at ? a : b;
        const double s = (*at - lower.z) / (upper.z - lower.z);
        ends[n++] = xy(lower) + (xy(upper) - xy(lower)) * s;
      }
      if (n == 2 && length(ends[1] - ends[0]) > tolerance::weld)
        into[std::size_t(at - levels.begin())].push_back({ends[0], ends[1]});
    }
  }
}

namespace {

/// A straight line and what is covered of it.
struct Axis {
  Vec2 from, along;
  std::vector<std::pair<double, double>> spans;
};

/// Axes found by direction (0.1° wide bins) and distance from the middle (0.1 m).
class Axes {
public:
  Axes(Vec2 middle, double tolerance) : middle_(middle), tolerance_(tolerance) {}

  void add(const CutLine& line) {
    const double l = length(line.b - line.a);
    Vec2 d = (line.b - line.a) * (1 / l);
    if (d.x < 0 || (d.x == 0 && d.y < 0)) d = d * -1;
    const double angle = std::atan2(d.y, d.x) + pi / 2; // 0…π
    // Short pieces say little about their direction.
    const int reach = std::clamp(int(std::ceil(std::asin(std::min(1.0, 2 * tolerance_ / l)) / binAngle)), 1, 40);
    const Vec2 mid = (line.a + line.b) * 0.5 - middle_;
    for (int k = 0; k <= reach; ++k)
      for (int sign = k == 0 ? 1 : -1; sign <= 1; sign += 2) {
        const int bin = int(std::floor(angle / binAngle)) + sign * k;
        // The distance as an axis of that bin would measure it, give or take half the bin's angle.
        const double of = (bin + 0.5) * binAngle - pi / 2;
        const int offset = int(std::floor(cross({std::cos(of), std::sin(of)}, mid) / binOffset)),
                  spread = 1 + int(length(mid) * binAngle / 2 / binOffset);
        for (int o = offset - spread; o <= offset + spread; ++o) {
          const auto at = bins_.find(key((bin + bins) % bins, bin < 0 || bin >= bins ? -o - 1 : o));
          if (at == bins_.end()) continue;
          for (std::size_t i : at->second)
            if (fits(axes[i], line)) return cover(axes[i], line);
        }
      }
    axes.push_back({line.a, d, {}});
    cover(axes.back(), line);
    bins_[key(std::clamp(int(std::floor(angle / binAngle)), 0, bins - 1), int(std::floor(cross(d, mid) / binOffset)))]
        .push_back(axes.size() - 1);
  }
  std::vector<Axis> axes;

private:
  static constexpr int bins = 1800;
  static constexpr double binAngle = pi / bins, binOffset = 0.1;
  static std::uint64_t key(int angle, int offset) {
    return std::uint64_t(std::uint32_t(angle)) << 32 | std::uint32_t(offset);
  }
  bool fits(const Axis& a, const CutLine& l) const {
    return std::abs(cross(a.along, l.a - a.from)) <= tolerance_ && std::abs(cross(a.along, l.b - a.from)) <= tolerance_;
  }
  static void cover(Axis& a, const CutLine& l) {
    const double s = dot(l.a - a.from, a.along), t = dot(l.b - a.from, a.along);
    a.spans.emplace_back(std::min(s, t), std::max(s, t));
  }
  Vec2 middle_;
  double tolerance_;
  std::unordered_map<std::uint64_t, std::vector<std::size_t>> bins_;
};

} // namespace

std::vector<CutLine> joined(std::vector<CutLine> lines, double tolerance) {
  Box3 box;
  std::erase_if(lines, [](const CutLine& l) { return !(length(l.b - l.a) > tolerance::weld); });
  for (const CutLine& l : lines) box.add({l.a.x, l.a.y, 0}), box.add({l.b.x, l.b.y, 0});
  std::stable_sort(lines.begin(), lines.end(),
                   [](const CutLine& p, const CutLine& q) { return length(p.b - p.a) > length(q.b - q.a); });
  Axes axes(xy(box.center()), tolerance);
  for (const CutLine& l : lines) axes.add(l);
  std::vector<CutLine> out;
  for (Axis& a : axes.axes) {
    std::sort(a.spans.begin(), a.spans.end());
    double from = a.spans.front().first, to = a.spans.front().second;
    const auto put = [&] { out.push_back({a.from + a.along * from, a.from + a.along * to}); };
    for (const auto& [s, t] : a.spans) {
      if (s > to + tolerance) {
        put();
        from = s;
        to = t;
      }
      to = std::max(to, t);
    }
    put();
  }
  return out;
}

namespace {

constexpr double grid = 1e-4; ///< m

/// GEOS with its memory looked after. Coordinates are counted from a point near by, so that the grid is met exactly.
class Geos {
public:
  explicit Geos(Vec2 zero) : h_(GEOS_init_r()), zero_(zero) {}
  ~Geos() {
    for (GEOSGeometry* g : kept_) GEOSGeom_destroy_r(h_, g);
    GEOS_finish_r(h_);
  }
  Geos(const Geos&) = delete;
  Geos& operator=(const Geos&) = delete;
  GEOSContextHandle_t handle() const { return h_; }
  GEOSGeometry* keep(GEOSGeometry* g) {
    if (g) kept_.push_back(g);
    return g;
  }
  GEOSCoordSequence* sequence(const Ring& points, bool closed) const {
    GEOSCoordSequence* s = GEOSCoordSeq_create_r(h_, unsigned(points.size() + (closed ? 1 : 0)), 2);
    for (std::size_t i = 0; i < points.size() + (closed ? 1 : 0); ++i) {
      const Vec2 p = points[i % points.size()] - zero_;
      GEOSCoordSeq_setXY_r(h_, s, unsigned(i), p.x, p.y);
    }
    return s;
  }
  /// Not kept: goes into a collection.
  GEOSGeometry* polygon(const Outline& o) const {
    std::vector<GEOSGeometry*> holes;
    for (const Ring& r : o.holes) holes.push_back(GEOSGeom_createLinearRing_r(h_, sequence(r, true)));
    return GEOSGeom_createPolygon_r(h_, GEOSGeom_createLinearRing_r(h_, sequence(o.outer, true)), holes.data(),
                                    unsigned(holes.size()));
  }
  std::vector<Outline> outlines(const GEOSGeometry* g) const {
    std::vector<Outline> out;
    if (!g) return out;
    const auto ring = [&](const GEOSGeometry* r) {
      Ring points;
      const GEOSCoordSequence* s = GEOSGeom_getCoordSeq_r(h_, r);
      unsigned n = 0;
      GEOSCoordSeq_getSize_r(h_, s, &n);
      for (unsigned i = 0; i + 1 < n; ++i) {
        Vec2 p;
        GEOSCoordSeq_getXY_r(h_, s, i, &p.x, &p.y);
        points.push_back(p + zero_);
      }
      return points;
    };
    for (int i = 0, n = GEOSGetNumGeometries_r(h_, g); i < n; ++i) {
      const GEOSGeometry* part = GEOSGetGeometryN_r(h_, g, i);
      if (GEOSGeomTypeId_r(h_, part) != GEOS_POLYGON || GEOSisEmpty_r(h_, part) == 1) continue;
      Outline o;
      o.outer = ring(GEOSGetExteriorRing_r(h_, part));
      for (int k = 0; k < GEOSGetNumInteriorRings_r(h_, part); ++k)
        o.holes.push_back(ring(GEOSGetInteriorRingN_r(h_, part, k)));
      out.push_back(tidied(std::move(o)));
    }
    return out;
  }

private:
  GEOSContextHandle_t h_;
  Vec2 zero_;
  std::vector<GEOSGeometry*> kept_;
};

bool within(Vec2 p) {
  return std::isfinite(p.x) && std::isfinite(p.y) && std::abs(p.x) < 1e8 && std::abs(p.y) < 1e8;
}

} // namespace

Expected<std::vector<Outline>> regionsBetween(const std::vector<CutLine>& lines, double gap) {
  if (lines.empty()) return std::vector<Outline>{};
  for (const CutLine& l : lines)
    if (!within(l.a) || !within(l.b)) return fail("A line of the cut lies too far away to be followed.");
  Geos geos(lines.front().a);
  std::vector<GEOSGeometry*> parts;
  for (const CutLine& l : lines) {
    const double all = length(l.b - l.a);
    const Vec2 more = (l.b - l.a) * (gap / std::max(all, 1e-9));
    parts.push_back(GEOSGeom_createLineString_r(geos.handle(), geos.sequence({l.a - more, l.b + more}, false)));
  }
  const GEOSGeometry* all =
      geos.keep(GEOSGeom_createCollection_r(geos.handle(), GEOS_MULTILINESTRING, parts.data(), unsigned(parts.size())));
  const GEOSGeometry* noded = geos.keep(GEOSUnaryUnionPrec_r(geos.handle(), all, grid));
  if (!noded) return fail("The lines of the cut could not be put together.");
  return geos.outlines(geos.keep(GEOSPolygonize_r(geos.handle(), &noded, 1)));
}

Expected<std::vector<Outline>> unionOf(const std::vector<Outline>& outlines) {
  if (outlines.empty()) return std::vector<Outline>{};
  Geos geos(outlines.front().outer.empty() ? Vec2{} : outlines.front().outer.front());
  std::vector<GEOSGeometry*> parts;
  for (const Outline& o : outlines) {
    if (checkOutline(o).fault != OutlineFault::None) return fail("An outline to be joined is faulty.");
    parts.push_back(geos.polygon(o));
  }
  const GEOSGeometry* all =
      geos.keep(GEOSGeom_createCollection_r(geos.handle(), GEOS_MULTIPOLYGON, parts.data(), unsigned(parts.size())));
  const GEOSGeometry* one = geos.keep(GEOSUnaryUnionPrec_r(geos.handle(), all, grid));
  if (!one) return fail("The outlines could not be joined.");
  return geos.outlines(one);
}

std::vector<Outline> repaired(const Outline& faulty) {
  if (faulty.outer.size() < 3) return {};
  for (const Ring& r : faulty.holes)
    if (r.size() < 3) return repaired({faulty.outer, {}});
  const auto all = points(faulty);
  if (std::any_of(all.begin(), all.end(), [](Vec2 p) { return !std::isfinite(p.x) || !std::isfinite(p.y); })) return {};
  Geos geos(faulty.outer.front());
  const GEOSGeometry* given = geos.keep(geos.polygon(faulty));
  const GEOSGeometry* valid = given ? geos.keep(GEOSMakeValid_r(geos.handle(), given)) : nullptr;
  const GEOSGeometry* gridded = valid ? geos.keep(GEOSGeom_setPrecision_r(geos.handle(), valid, grid, 0)) : nullptr;
  if (!gridded) return {};
  std::vector<Outline> out = geos.outlines(gridded);
  for (Outline& o : out) o = tidied(std::move(o));
  std::erase_if(out, [](const Outline& o) { return checkOutline(o).fault != OutlineFault::None || area(o) < 0.01; });
  std::sort(out.begin(), out.end(), [](const Outline& a, const Outline& b) { return area(a) > area(b); });
  return out;
}

Outline simplified(const Outline& o, double tolerance) {
  if (!(tolerance > 0) || o.outer.empty() || checkOutline(o).fault != OutlineFault::None) return o;
  Geos geos(o.outer.front());
  const auto simple =
      geos.outlines(geos.keep(GEOSTopologyPreserveSimplify_r(geos.handle(), geos.keep(geos.polygon(o)), tolerance)));
  if (simple.size() != 1) return o;
  // The first corner of a ring is never asked by the simplification.
  Outline out = simple.front();
  const auto first = [&](Ring& r) {
    if (r.size() < 5) return;
    const Vec2 a = r.back(), b = r[1], d = b - a;
    const double l = length(d);
    if (l > 0 && std::abs(cross(d, r[0] - a)) / l <= tolerance && dot(r[0] - a, d) > 0 && dot(r[0] - b, d) < 0) {
      Ring shorter(r.begin() + 1, r.end());
      std::swap(r, shorter);
      if (checkOutline(out).fault != OutlineFault::None) std::swap(r, shorter);
    }
  };
  first(out.outer);
  for (Ring& r : out.holes) first(r);
  return out;
}

double farthestFrom(const std::vector<Outline>& from, const std::vector<Outline>& to) {
  double out = 0;
  if (to.empty()) return out;
  for (const Outline& o : from)
    for (Vec2 p : points(o)) {
      double nearest = std::numeric_limits<double>::infinity();
      for (const Outline& t : to) nearest = std::min(nearest, distanceToEdge(t, p));
      out = std::max(out, nearest);
    }
  return out;
}

Vec2 pointInside(const Outline& o) {
  const Vec2 middle = centroid(o);
  if (contains(o, middle) && distanceToEdge(o, middle) > 0.05) return middle;
  Vec2 best = middle;
  double farthest = -1;
  if (const auto t = triangulate(o)) {
    const std::vector<Vec2> p = points(o);
    for (const auto& k : *t) {
      const Vec2 c = (p[k[0]] + p[k[1]] + p[k[2]]) * (1.0 / 3);
      if (const double d = distanceToEdge(o, c); d > farthest) {
        farthest = d;
        best = c;
      }
    }
  }
  return best;
}

} // namespace noonward
