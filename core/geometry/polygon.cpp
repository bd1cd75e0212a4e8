#include "core/geometry/polygon.h"
#include "core/base/tolerances.h"
#include <clipper.hpp>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace noonward {

namespace {

double orient(Vec2 a, Vec2 b, Vec2 c) { return cross(b - a, c - a); }

bool onSegment(Vec2 p, Vec2 a, Vec2 b) {
  const Vec2 ab = b - a;
  const double l2 = dot(ab, ab);
  const double t = l2 > 0 ? std::clamp(dot(p - a, ab) / l2, 0.0, 1.0) : 0;
  return length(p - (a + ab * t)) <= tolerance::weld;
}

/// Do two segments meet in more than a shared end?
bool segmentsCross(Vec2 a, Vec2 b, Vec2 c, Vec2 d) {
  const double o1 = orient(a, b, c), o2 = orient(a, b, d), o3 = orient(c, d, a), o4 = orient(c, d, b);
  if (((o1 > 0) != (o2 > 0)) && ((o3 > 0) != (o4 > 0)) && o1 != 0 && o2 != 0 && o3 != 0 && o4 != 0) return true;
  return onSegment(c, a, b) || onSegment(d, a, b) || onSegment(a, c, d) || onSegment(b, c, d);
}

struct Edge {
  Vec2 a, b;
  std::size_t ring, index, of;
};

/// Sweep by x: quick enough for outlines of many thousand points.
OutlineCheck crossing(const Outline& o) {
  std::vector<Edge> edges;
  const auto add = [&](const Ring& r, std::size_t ring) {
    for (std::size_t i = 0; i < r.size(); ++i) edges.push_back({r[i], r[(i + 1) % r.size()], ring, i, r.size()});
  };
  add(o.outer, 0);
  for (std::size_t h = 0; h < o.holes.size(); ++h) add(o.holes[h], h + 1);
  std::sort(edges.begin(), edges.end(),
            [](const Edge& p, const Edge& q) { return std::min(p.a.x, p.b.x) < std::min(q.a.x, q.b.x); });
  for (std::size_t i = 0; i < edges.size(); ++i) {
    const double right = std::max(edges[i].a.x, edges[i].b.x) + tolerance::weld;
    for (std::size_t j = i + 1; j < edges.size() && std::min(edges[j].a.x, edges[j].b.x) <= right; ++j) {
      const Edge &e = edges[i], &f = edges[j];
      if (e.ring == f.ring) {
        const bool next = (e.index + 1) % e.of == f.index, before = (f.index + 1) % e.of == e.index;
        if (next || before) {
          // Neighbours share a point; they may only fold back onto each other.
          const Vec2 shared = next ? e.b : e.a, p = next ? e.a : e.b, q = next ? f.b : f.a;
          if (std::abs(orient(shared, p, q)) <= tolerance::weld * length(p - shared) && dot(p - shared, q - shared) > 0 &&
              e.of > 2)
            return {OutlineFault::CrossesItself, shared};
          continue;
        }
      }
      if (segmentsCross(e.a, e.b, f.a, f.b))
        return {e.ring == f.ring            ? OutlineFault::CrossesItself
                : e.ring == 0 || f.ring == 0 ? OutlineFault::HoleOutside
                                             : OutlineFault::HolesOverlap,
                onSegment(f.a, e.a, e.b) ? f.a : e.a};
    }
  }
  return {};
}

} // namespace

const char* faultText(OutlineFault fault) {
  switch (fault) {
  case OutlineFault::None: return "sound";
  case OutlineFault::TooFewPoints: return "has fewer than three different points";
  case OutlineFault::NotFinite: return "has a coordinate that is not a number";
  case OutlineFault::NoArea: return "encloses no area";
  case OutlineFault::CrossesItself: return "crosses itself";
  case OutlineFault::HoleOutside: return "has a hole that leaves the outline";
  case OutlineFault::HolesOverlap: return "has holes that overlap";
  }
  return "";
}

double signedArea(const Ring& r) {
  double s = 0;
  if (r.empty()) return 0;
  const Vec2 o = r.front(); // near the outline, so that far coordinates cost no digits
  for (std::size_t i = 0; i < r.size(); ++i) s += cross(r[i] - o, r[(i + 1) % r.size()] - o);
  return s / 2;
}

double area(const Outline& o) {
  double a = std::abs(signedArea(o.outer));
  for (const Ring& h : o.holes) a -= std::abs(signedArea(h));
  return a;
}

double perimeter(const Ring& r) {
  double l = 0;
  for (std::size_t i = 0; i < r.size(); ++i) l += length(r[(i + 1) % r.size()] - r[i]);
  return l;
}

Vec2 centroid(const Outline& o) {
  Vec2 sum;
  double weight = 0;
  const Vec2 origin = o.outer.empty() ? Vec2{} : o.outer.front();
  const auto add = [&](const Ring& r, double sign) {
    const double whole = signedArea(r);
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 a = r[i] - origin, b = r[(i + 1) % r.size()] - origin;
      const double w = sign * cross(a, b) * (whole < 0 ? -1 : 1);
      sum = sum + (a + b) * (w / 3);
      weight += w;
    }
  };
  add(o.outer, 1);
  for (const Ring& h : o.holes) add(h, -1);
  return weight != 0 ? origin + sum * (1 / weight) : origin;
}

bool contains(const Ring& r, Vec2 p) {
  bool in = false;
  for (std::size_t i = 0, j = r.size() - 1; i < r.size(); j = i++)
    if ((r[i].y > p.y) != (r[j].y > p.y) &&
        p.x < (r[j].x - r[i].x) * (p.y - r[i].y) / (r[j].y - r[i].y) + r[i].x)
      in = !in;
  return in;
}

double distanceToEdge(const Outline& o, Vec2 p) {
  double best = std::numeric_limits<double>::infinity();
  const auto look = [&](const Ring& r) {
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 a = r[i], ab = r[(i + 1) % r.size()] - a;
      const double l2 = dot(ab, ab), t = l2 > 0 ? std::clamp(dot(p - a, ab) / l2, 0.0, 1.0) : 0;
      best = std::min(best, length(p - (a + ab * t)));
    }
  };
  look(o.outer);
  for (const Ring& h : o.holes) look(h);
  return best;
}

bool contains(const Outline& o, Vec2 p) {
  if (o.outer.size() < 3) return false;
  if (!contains(o.outer, p)) return distanceToEdge({o.outer, {}}, p) <= tolerance::weld;
  return std::none_of(o.holes.begin(), o.holes.end(), [&](const Ring& h) { return contains(h, p); });
}

Outline tidied(Outline o) {
  const auto tidy = [](Ring& r, bool counterClockwise) {
    Ring out;
    for (Vec2 p : r)
      if (out.empty() || length(p - out.back()) > tolerance::weld) out.push_back(p);
    while (out.size() > 1 && length(out.front() - out.back()) <= tolerance::weld) out.pop_back();
    if ((signedArea(out) > 0) != counterClockwise) std::reverse(out.begin(), out.end());
    r = std::move(out);
  };
  tidy(o.outer, true);
  for (Ring& h : o.holes) tidy(h, false);
  return o;
}

OutlineCheck checkOutline(const Outline& given) {
  for (Vec2 p : points(given))
    if (!std::isfinite(p.x) || !std::isfinite(p.y)) return {OutlineFault::NotFinite, {}};
  const Outline o = tidied(given);
  if (o.outer.size() < 3) return {OutlineFault::TooFewPoints, o.outer.empty() ? Vec2{} : o.outer.front()};
  for (const Ring& h : o.holes)
    if (h.size() < 3) return {OutlineFault::TooFewPoints, h.empty() ? Vec2{} : h.front()};
  if (const OutlineCheck c = crossing(o); c.fault != OutlineFault::None) return c;
  if (std::abs(signedArea(o.outer)) < tolerance::smallestFace) return {OutlineFault::NoArea, o.outer.front()};
  for (std::size_t i = 0; i < o.holes.size(); ++i) {
    if (!contains(o.outer, o.holes[i].front())) return {OutlineFault::HoleOutside, o.holes[i].front()};
    for (std::size_t j = 0; j < o.holes.size(); ++j)
      if (i != j && contains(o.holes[j], o.holes[i].front())) return {OutlineFault::HolesOverlap, o.holes[i].front()};
  }
  return {};
}

std::vector<Vec2> points(const Outline& o) {
  std::vector<Vec2> out = o.outer;
  for (const Ring& h : o.holes) out.insert(out.end(), h.begin(), h.end());
  return out;
}

Expected<std::vector<std::array<std::uint32_t, 3>>> triangulate(const Outline& o) {
  if (const OutlineCheck c = checkOutline(o); c.fault != OutlineFault::None)
    return fail(fmt::format("The outline {} at ({:.3f}, {:.3f}).", faultText(c.fault), c.at.x, c.at.y));
  const std::vector<Vec2> p = points(o);
  // One loop of point numbers: each hole is joined to the loop by a two-way cut to a point it can see (Eberly,
  // "Triangulation by ear clipping", 2002, section 5); then ears are cut.
  const auto ringOf = [&](const Ring& r, std::size_t from, bool counterClockwise) {
    std::vector<std::uint32_t> ring(r.size());
    std::iota(ring.begin(), ring.end(), std::uint32_t(from));
    if ((signedArea(r) > 0) != counterClockwise) std::reverse(ring.begin(), ring.end());
    return ring;
  };
  std::vector<std::uint32_t> loop = ringOf(o.outer, 0, true);
  std::vector<std::vector<std::uint32_t>> holes;
  std::size_t from = o.outer.size();
  for (const Ring& h : o.holes) {
    holes.push_back(ringOf(h, from, false));
    from += h.size();
  }
  const auto rightmost = [&](const std::vector<std::uint32_t>& r) {
    return std::size_t(std::max_element(r.begin(), r.end(),
                                        [&](std::uint32_t a, std::uint32_t b) { return p[a].x < p[b].x; }) -
                       r.begin());
  };
  std::sort(holes.begin(), holes.end(), [&](const auto& a, const auto& b) {
    return p[a[rightmost(a)]].x > p[b[rightmost(b)]].x;
  });
  for (std::size_t k = 0; k < holes.size(); ++k) {
    const auto& hole = holes[k];
    const std::size_t start = rightmost(hole);
    const Vec2 m = p[hole[start]];
    std::size_t best = loop.size();
    double bestDistance = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < loop.size(); ++i) {
      const Vec2 q = p[loop[i]];
      const double d = length(q - m);
      if (d >= bestDistance) continue;
      const Vec2 before = p[loop[(i + loop.size() - 1) % loop.size()]], after = p[loop[(i + 1) % loop.size()]];
      // m must lie inside the corner at q, so that the cut stays in the loop.
      const bool convex = orient(before, q, after) > 0;
      const bool a = orient(before, q, m) > 0, b = orient(q, after, m) > 0;
      if (convex ? !(a && b) : !(a || b)) continue;
      bool clear = true;
      const auto blocked = [&](Vec2 s, Vec2 e) {
        const double o1 = orient(m, q, s), o2 = orient(m, q, e), o3 = orient(s, e, m), o4 = orient(s, e, q);
        return (o1 > 0) != (o2 > 0) && (o3 > 0) != (o4 > 0) && o1 != 0 && o2 != 0 && o3 != 0 && o4 != 0;
      };
      for (std::size_t j = 0; j < loop.size() && clear; ++j)
        clear = !blocked(p[loop[j]], p[loop[(j + 1) % loop.size()]]);
      for (std::size_t h = k; h < holes.size() && clear; ++h)
        for (std::size_t j = 0; j < holes[h].size() && clear; ++j)
          clear = !blocked(p[holes[h][j]], p[holes[h][(j + 1) % holes[h].size()]]);
      if (clear) {
        best = i;
        bestDistance = d;
      }
    }
    if (best == loop.size()) return fail("A hole of the outline could not be joined to it.");
    std::vector<std::uint32_t> next(loop.begin(), loop.begin() + std::ptrdiff_t(best) + 1);
    for (std::size_t j = 0; j <= hole.size(); ++j) next.push_back(hole[(start + j) % hole.size()]);
    next.insert(next.end(), loop.begin() + std::ptrdiff_t(best), loop.end());
    loop = std::move(next);
  }

  std::vector<std::array<std::uint32_t, 3>> out;
  double covered = 0;
  std::size_t i = 0, misses = 0;
  while (loop.size() > 2) {
    const std::size_t n = loop.size();
    if (misses > n) return fail("The outline could not be cut into triangles.");
    const std::uint32_t a = loop[(i + n - 1) % n], b = loop[i % n], c = loop[(i + 1) % n];
    const double twice = orient(p[a], p[b], p[c]);
    bool ear = twice >= 0;
    if (twice > 0)
      for (std::size_t j = 0; j < n && ear; ++j) {
        const Vec2 q = p[loop[j]];
        if (q == p[a] || q == p[b] || q == p[c]) continue;
        ear = !(orient(p[a], p[b], q) >= 0 && orient(p[b], p[c], q) >= 0 && orient(p[c], p[a], q) >= 0);
      }
    else if (twice == 0)
      ear = misses + 1 >= n || a == c; // flat corners wait until nothing else is left
    if (!ear) {
      i = (i + 1) % n;
      ++misses;
      continue;
    }
    if (twice > 0) {
      out.push_back({a, b, c});
      covered += twice / 2;
    }
    loop.erase(loop.begin() + std::ptrdiff_t(i % n));
    i = loop.empty() ? 0 : i % loop.size();
    misses = 0;
  }
  if (std::abs(covered - area(o)) > 1e-6 * std::max(1.0, area(o)))
    return fail("The triangles of the outline do not cover it.");
  return out;
}

namespace {

/// Outlines as Clipper's integers, 0.1 mm apart, counted from a point of the outline.
class ClipperGrid {
public:
  explicit ClipperGrid(Vec2 centre) : c_(centre) {}
  static constexpr double scale = 1e4;
  ClipperLib::Path path(const Ring& r) const {
    ClipperLib::Path out;
    for (Vec2 p : r) out.emplace_back(std::llround((p.x - c_.x) * scale), std::llround((p.y - c_.y) * scale));
    return out;
  }
  std::vector<Outline> outlines(const ClipperLib::PolyTree& tree) const {
    const auto ring = [&](const ClipperLib::Path& path) {
      Ring out;
      for (const auto& q : path) out.push_back({double(q.X) / scale + c_.x, double(q.Y) / scale + c_.y});
      return out;
    };
    std::vector<Outline> out;
    for (ClipperLib::PolyNode* n = tree.GetFirst(); n; n = n->GetNext()) {
      if (n->IsHole()) continue;
      Outline piece{ring(n->Contour), {}};
      for (ClipperLib::PolyNode* h : n->Childs) piece.holes.push_back(ring(h->Contour));
      out.push_back(std::move(piece));
    }
    return out;
  }

private:
  Vec2 c_;
};

} // namespace

std::vector<Outline> offset(const Outline& given, double distance) {
  const Outline o = tidied(given);
  const ClipperGrid grid(o.outer.empty() ? Vec2{} : o.outer.front());
  ClipperLib::ClipperOffset work(2.5);
  work.AddPath(grid.path(o.outer), ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
  for (const Ring& h : o.holes) work.AddPath(grid.path(h), ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
  ClipperLib::PolyTree tree;
  work.Execute(tree, distance * ClipperGrid::scale);
  return grid.outlines(tree);
}

std::vector<Outline> difference(const Outline& given, const std::vector<Ring>& cuts) {
  const Outline o = tidied(given);
  const ClipperGrid grid(o.outer.empty() ? Vec2{} : o.outer.front());
  ClipperLib::Clipper work;
  work.AddPath(grid.path(o.outer), ClipperLib::ptSubject, true);
  for (const Ring& h : o.holes) work.AddPath(grid.path(h), ClipperLib::ptClip, true);
  for (const Ring& c : cuts) work.AddPath(grid.path(c), ClipperLib::ptClip, true);
  ClipperLib::PolyTree tree;
  work.Execute(ClipperLib::ctDifference, tree, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  return grid.outlines(tree);
}

Outline rectangle(double x0, double y0, double x1, double y1) { return {{{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}}, {}}; }

} // namespace noonward
