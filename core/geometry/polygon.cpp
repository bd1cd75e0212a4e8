#include "core/geometry/polygon.h"
#include "core/base/tolerances.h"
#include "core/geometry/clipper_grid.h"
#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Triangulation = CGAL::Constrained_Delaunay_triangulation_2<
    Kernel, CGAL::Triangulation_data_structure_2<CGAL::Triangulation_vertex_base_with_info_2<std::uint32_t, Kernel>,
                                                 CGAL::Constrained_triangulation_face_base_2<Kernel>>>;

double orient(Vec2 a, Vec2 b, Vec2 c) {
  return cross(b - a, c - a);
}

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
          if (std::abs(orient(shared, p, q)) <= tolerance::weld * length(p - shared) &&
              dot(p - shared, q - shared) > 0 && e.of > 2)
            return {OutlineFault::CrossesItself, shared};
          continue;
        }
      }
      if (segmentsCross(e.a, e.b, f.a, f.b))
        return {e.ring == f.ring             ? OutlineFault::CrossesItself
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
  case OutlineFault::None:
    return "sound";
  case OutlineFault::TooFewPoints:
    return "has fewer than three different points";
  case OutlineFault::NotFinite:
    return "has a coordinate that is not a number";
  case OutlineFault::NoArea:
    return "encloses no area";
  case OutlineFault::CrossesItself:
    return "crosses itself";
  case OutlineFault::HoleOutside:
    return "has a hole that leaves the outline";
  case OutlineFault::HolesOverlap:
    return "has holes that overlap";
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
    if ((r[i].y > p.y) != (r[j].y > p.y) && p.x < (r[j].x - r[i].x) * (p.y - r[i].y) / (r[j].y - r[i].y) + r[i].x)
      in = !in;
  return in;
}

namespace {
double distanceToRing(const Ring& r, Vec2 p) {
  double best = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < r.size(); ++i) {
    const Vec2 a = r[i], ab = r[(i + 1) % r.size()] - a;
    const double l2 = dot(ab, ab), t = l2 > 0 ? std::clamp(dot(p - a, ab) / l2, 0.0, 1.0) : 0;
    best = std::min(best, length(p - (a + ab * t)));
  }
  return best;
}
/// A box around the ring and a centimetre more: what is outside is far from every edge.
bool nearBox(const Ring& r, Vec2 p) {
  constexpr double margin = 0.01;
  static_assert(margin > tolerance::weld);
  bool left = false, right = false, below = false, above = false;
  for (Vec2 q : r) {
    left |= q.x <= p.x + margin;
    right |= q.x >= p.x - margin;
    below |= q.y <= p.y + margin;
    above |= q.y >= p.y - margin;
  }
  return left && right && below && above;
}
} // namespace

double distanceToEdge(const Outline& o, Vec2 p) {
  double best = distanceToRing(o.outer, p);
  for (const Ring& h : o.holes) best = std::min(best, distanceToRing(h, p));
  return best;
}

bool contains(const Outline& o, Vec2 p) {
  if (o.outer.size() < 3) return false;
  if (!contains(o.outer, p)) return nearBox(o.outer, p) && distanceToRing(o.outer, p) <= tolerance::weld;
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
  // Constrained Delaunay (CGAL): aligned holes and nearly flat corners are no matter to its exact predicates.
  const std::vector<Vec2> p = points(o);
  Triangulation t;
  std::vector<Triangulation::Vertex_handle> handles;
  for (std::size_t i = 0; i < p.size(); ++i) {
    handles.push_back(t.insert({p[i].x, p[i].y}));
    handles.back()->info() = std::uint32_t(i);
  }
  std::size_t from = 0;
  const auto ring = [&](const Ring& r) {
    for (std::size_t i = 0; i < r.size(); ++i)
      if (handles[from + i] != handles[from + (i + 1) % r.size()])
        t.insert_constraint(handles[from + i], handles[from + (i + 1) % r.size()]);
    from += r.size();
  };
  try { // edges that cross by less than the tolerance of checkOutline()
    ring(o.outer);
    for (const Ring& h : o.holes) ring(h);
  } catch (const std::exception&) {
    return fail("The outline could not be cut into triangles: edges of it cross.");
  }
  // Faces by how many edges of the outline lie between them and the outside: odd ones are of it.
  constexpr int unknown = -1;
  std::map<Triangulation::Face_handle, int> depth;
  std::vector<Triangulation::Face_handle> now{t.infinite_face()};
  for (int level = 0; !now.empty(); ++level) {
    std::vector<Triangulation::Face_handle> across;
    while (!now.empty()) {
      const auto f = now.back();
      now.pop_back();
      if (!depth.emplace(f, level).second) continue;
      for (int k = 0; k < 3; ++k)
        if (const auto n = f->neighbor(k); !depth.contains(n)) (f->is_constrained(k) ? across : now).push_back(n);
    }
    now = std::move(across);
  }
  std::vector<std::array<std::uint32_t, 3>> out;
  double covered = 0;
  for (auto f = t.finite_faces_begin(); f != t.finite_faces_end(); ++f) {
    const auto at = depth.find(f);
    if ((at == depth.end() ? unknown : at->second) % 2 != 1) continue;
    out.push_back({f->vertex(0)->info(), f->vertex(1)->info(), f->vertex(2)->info()});
    covered += orient(p[out.back()[0]], p[out.back()[1]], p[out.back()[2]]) / 2;
  }
  if (std::abs(covered - area(o)) > 1e-6 * std::max(1.0, area(o)))
    return fail("The triangles of the outline do not cover it.");
  return out;
}

std::vector<Outline> offset(const Outline& given, double distance) {
  const Outline o = tidied(given);
  const ClipperGrid grid(o.outer.empty() ? Vec2{} : o.outer.front());
  if (!grid.holds(points(o)) || !(std::abs(distance) < 1e9)) return {};
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
  if (!grid.holds(points(o)) || !std::all_of(cuts.begin(), cuts.end(), [&](const Ring& r) { return grid.holds(r); }))
    return {};
  ClipperLib::Clipper work;
  work.AddPath(grid.path(o.outer), ClipperLib::ptSubject, true);
  // All one way round: where rings of both directions overlap, the winding would cancel and leave slivers.
  const auto cut = [&](const Ring& ring) {
    ClipperLib::Path path = grid.path(ring);
    if (!ClipperLib::Orientation(path)) ClipperLib::ReversePath(path);
    work.AddPath(path, ClipperLib::ptClip, true);
  };
  for (const Ring& h : o.holes) cut(h);
  for (const Ring& c : cuts) cut(c);
  ClipperLib::PolyTree tree;
  work.Execute(ClipperLib::ctDifference, tree, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  return grid.outlines(tree);
}

namespace {
std::vector<Outline> clipped(ClipperLib::ClipType how, const std::vector<Outline>& subject,
                             const std::vector<Outline>& clip) {
  const ClipperGrid grid(subject.empty() || subject.front().outer.empty() ? Vec2{} : subject.front().outer.front());
  ClipperLib::Clipper work;
  work.StrictlySimple(true);
  for (const auto& [list, as] : {std::pair{&subject, ClipperLib::ptSubject}, {&clip, ClipperLib::ptClip}})
    for (const Outline& given : *list) {
      const Outline o = tidied(given); // holes run the other way: they take off what the outer ring adds
      if (!grid.holds(points(o))) return {};
      work.AddPath(grid.path(o.outer), as, true);
      for (const Ring& h : o.holes) work.AddPath(grid.path(h), as, true);
    }
  ClipperLib::PolyTree tree;
  work.Execute(how, tree, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  std::vector<Outline> out = grid.outlines(tree);
  for (Outline& o : out) o = straightened(tidied(std::move(o)));
  std::erase_if(out, [](const Outline& o) { return checkOutline(o).fault != OutlineFault::None; });
  return out;
}
} // namespace

std::vector<Outline> united(const std::vector<Outline>& outlines) {
  return clipped(ClipperLib::ctUnion, outlines, {});
}

std::vector<Outline> common(const Outline& one, const Outline& other) {
  return clipped(ClipperLib::ctIntersection, {one}, {other});
}

std::array<std::vector<Outline>, 2> sidesOf(const Outline& o, Vec2 a, Vec2 b) {
  const double l = length(b - a);
  if (!(l > 0)) return {};
  const Vec2 along = (b - a) * (1 / l), left{-along.y, along.x};
  double far = 1;
  for (Vec2 p : o.outer) far = std::max(far, length(p - a) + 1);
  const Vec2 from = a - along * far, to = a + along * far, over = left * far;
  return {common(o, {{from, to, to + over, from + over}, {}}), common(o, {{from - over, to - over, to, from}, {}})};
}

Outline straightened(Outline outline) {
  const auto ring = [](Ring& r) {
    for (std::size_t i = 0; i < r.size() && r.size() > 3;) {
      const Vec2 a = r[(i + r.size() - 1) % r.size()], b = r[i], c = r[(i + 1) % r.size()];
      const double l = length(c - a);
      const bool straight = dot(b - a, c - b) > 0 && l > 0 && std::abs(cross(b - a, c - a)) / l < 2e-4;
      if (straight)
        r.erase(r.begin() + std::ptrdiff_t(i));
      else
        ++i;
    }
  };
  ring(outline.outer);
  for (Ring& h : outline.holes) ring(h);
  return outline;
}

Outline rectangle(double x0, double y0, double x1, double y1) {
  return {{{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}}, {}};
}

} // namespace noonward
