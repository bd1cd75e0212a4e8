#include "core/geometry/roof.h"
#include "core/base/tolerances.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_with_holes_2.h>
#include <CGAL/create_straight_skeleton_from_polygon_with_holes_2.h>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

constexpr std::pair<Roof::Kind, const char*> roofKinds[] = {
    {Roof::Kind::Flat, "flat"}, {Roof::Kind::Mono, "mono"}, {Roof::Kind::Gable, "gable"}, {Roof::Kind::Hip, "hip"}};
constexpr double steepest = 80 * radiansPerDegree;

/// How far to the left of the line through the middle that runs along the ridge.
struct Across {
  Vec2 normal; ///< unit, to the left
  double middle = 0, half = 0;
  Across(const Roof& roof, const Ring& outer) : normal{-std::sin(roof.along), std::cos(roof.along)} {
    double low = 1e300, high = -1e300;
    for (Vec2 p : outer) {
      low = std::min(low, dot(p, normal));
      high = std::max(high, dot(p, normal));
    }
    middle = (low + high) / 2;
    half = (high - low) / 2;
  }
  double operator()(Vec2 p) const {
    const double v = dot(p, normal) - middle;
    return std::abs(v) < 1e-9 ? 0 : v;
  }
};
double slopeHeight(const Roof& roof, const Across& across, double v) {
  return roof.kind == Roof::Kind::Mono ? roof.rise * std::clamp((v + across.half) / (2 * across.half), 0.0, 1.0)
                                       : roof.rise * std::clamp(1 - std::abs(v) / across.half, 0.0, 1.0);
}

/// The mesh as it grows: base and eaves of every corner, then what stands higher.
class Roofed {
public:
  Roofed(const Outline& o, double base, double height) : plan_(points(o)), eaves_(base + height) {
    for (Vec2 q : plan_) mesh.points.push_back({q.x, q.y, base});
    for (Vec2 q : plan_) mesh.points.push_back({q.x, q.y, eaves_});
    top_.resize(plan_.size());
    for (std::uint32_t i = 0; i < plan_.size(); ++i) top_[i] = eaves(i);
  }
  std::uint32_t eaves(std::uint32_t i) const { return std::uint32_t(plan_.size()) + i; }
  std::uint32_t top(std::uint32_t i) const { return top_[i]; }
  void raise(std::uint32_t i, double by) {
    if (by > 1e-9) top_[i] = put(plan_[i], by);
  }
  std::uint32_t put(Vec2 p, double by) {
    mesh.points.push_back({p.x, p.y, eaves_ + by});
    return std::uint32_t(mesh.points.size() - 1);
  }
  void triangle(std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t face) {
    if (a == b || b == c || c == a) return;
    mesh.triangles.push_back({a, b, c});
    mesh.face.push_back(face);
  }
  void wall(std::uint32_t a, std::uint32_t b, std::optional<std::uint32_t> between, std::uint32_t face) {
    triangle(a, b, eaves(b), face);
    triangle(a, eaves(b), eaves(a), face);
    triangle(eaves(a), eaves(b), top(b), face);
    if (between) {
      triangle(eaves(a), top(b), *between, face);
      triangle(eaves(a), *between, top(a), face);
    } else {
      triangle(eaves(a), top(b), top(a), face);
    }
  }
  const std::vector<Vec2>& plan() const { return plan_; }
  Mesh mesh;

private:
  std::vector<Vec2> plan_;
  double eaves_;
  std::vector<std::uint32_t> top_; ///< of each corner: its eaves, or a point above
};

using Flat = std::vector<std::array<std::uint32_t, 3>>;

/// A slope, or two that meet in a ridge: triangles of the plan, cut where they cross it.
void slopes(Roofed& r, const Roof& roof, const Across& across, const Flat& flat, std::uint32_t second,
            std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint32_t>& cuts) {
  std::vector<double> v;
  for (std::uint32_t i = 0; i < r.plan().size(); ++i) {
    v.push_back(across(r.plan()[i]));
    r.raise(i, slopeHeight(roof, across, v.back()));
  }
  const bool ridge = roof.kind == Roof::Kind::Gable;
  const auto cut = [&](std::uint32_t a, std::uint32_t b) {
    const auto key = std::minmax(a, b);
    if (const auto known = cuts.find(key); known != cuts.end()) return known->second;
    const Vec2 p = r.plan()[key.first], q = r.plan()[key.second];
    const double t = v[key.first] / (v[key.first] - v[key.second]);
    return cuts[key] = r.put(p + (q - p) * t, roof.rise);
  };
  for (const auto& t : flat) {
    std::vector<std::uint32_t> left, right;
    for (int k = 0; k < 3; ++k) {
      const std::uint32_t a = t[std::size_t(k)], b = t[std::size_t((k + 1) % 3)];
      if (v[a] >= 0 || !ridge) left.push_back(r.top(a));
      if (ridge && v[a] <= 0) right.push_back(r.top(a));
      if (ridge && v[a] * v[b] < 0) {
        left.push_back(cut(a, b));
        right.push_back(cut(a, b));
      }
    }
    for (std::size_t k = 1; k + 1 < left.size(); ++k) r.triangle(left[0], left[k], left[k + 1], roofFace);
    for (std::size_t k = 1; k + 1 < right.size(); ++k) r.triangle(right[0], right[k], right[k + 1], second);
  }
}

/// Hips from every edge, by the straight skeleton.
Outcome hips(Roofed& r, const Outline& o, double rise, std::uint32_t firstSlope) {
  using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
  using Polygon = CGAL::Polygon_2<Kernel>;
  const auto polygon = [](const Ring& ring) {
    Polygon p;
    for (Vec2 q : ring) p.push_back({q.x, q.y});
    return p;
  };
  CGAL::Polygon_with_holes_2<Kernel> plan(polygon(o.outer));
  for (const Ring& h : o.holes) plan.add_hole(polygon(h));
  boost::shared_ptr<CGAL::Straight_skeleton_2<Kernel>> skeleton;
  try {
    skeleton = CGAL::create_interior_straight_skeleton_2(plan);
  } catch (const std::exception&) { // told below
  }
  if (!skeleton) return fail("No hips can be laid over this outline: give it a gable, or another outline.");
  double most = 0;
  for (auto v = skeleton->vertices_begin(); v != skeleton->vertices_end(); ++v)
    most = std::max(most, double(v->time()));
  if (!(most > 0)) return fail("No hips can be laid over this outline: it has no inside.");
  if (std::atan2(rise, most) > steepest) return fail("The roof is steeper than 80°: less rise, or another kind.");
  std::map<std::pair<double, double>, std::uint32_t> corners;
  for (std::uint32_t i = 0; i < r.plan().size(); ++i) corners[{r.plan()[i].x, r.plan()[i].y}] = i;
  std::map<int, std::uint32_t> index; // of the skeleton's inner vertices
  std::uint32_t slope = 0;
  for (auto f = skeleton->faces_begin(); f != skeleton->faces_end(); ++f, ++slope) {
    Outline piece;
    std::vector<std::uint32_t> at;
    const auto first = f->halfedge();
    auto h = first;
    do {
      const auto v = h->vertex();
      const Vec2 p{v->point().x(), v->point().y()};
      if (v->is_contour()) {
        const auto corner = corners.find({p.x, p.y});
        if (corner == corners.end()) return fail("No hips can be laid over this outline.");
        at.push_back(r.eaves(corner->second));
      } else {
        const auto known = index.find(v->id());
        at.push_back(known != index.end() ? known->second : index[v->id()] = r.put(p, rise * double(v->time()) / most));
      }
      piece.outer.push_back(p);
      h = h->next();
    } while (h != first);
    const std::uint32_t face = slope == 0 ? roofFace : firstSlope + slope - 1;
    const auto flat = at.size() == 3 ? Expected<Flat>(Flat{{0, 1, 2}}) : triangulate(piece);
    if (!flat) return fail("No hips can be laid over this outline: " + flat.error().message);
    for (const auto& t : *flat) r.triangle(at[t[0]], at[t[1]], at[t[2]], face);
  }
  return {};
}

} // namespace

const char* roofKey(Roof::Kind kind) {
  for (const auto& [k, key] : roofKinds)
    if (k == kind) return key;
  return "";
}
std::optional<Roof::Kind> roofFromKey(std::string_view key) {
  for (const auto& [k, name] : roofKinds)
    if (key == name) return k;
  return {};
}

double roofHeight(const Roof& roof, const Outline& outline, Vec2 p) {
  if (roof.flat() || outline.outer.size() < 3) return 0;
  if (roof.kind != Roof::Kind::Hip) {
    const Across across(roof, outline.outer);
    return across.half > 0 ? slopeHeight(roof, across, across(p)) : 0;
  }
  // The farthest any point lies from the edges, closely enough for what asks: is this point under the roof?
  double most = 0;
  Box3 box;
  for (Vec2 q : outline.outer) box.add({q.x, q.y, 0});
  constexpr int n = 24;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j) {
      const Vec2 q{box.low.x + box.size().x * (i + 0.5) / n, box.low.y + box.size().y * (j + 0.5) / n};
      if (contains(outline, q)) most = std::max(most, distanceToEdge(outline, q));
    }
  return most > 0 ? roof.rise * std::min(1.0, distanceToEdge(outline, p) / most) : 0;
}

Expected<Mesh> extrudeRoofed(const Outline& given, double base, double height, const Roof& roof) {
  if (roof.flat()) return extrude(given, base, height);
  if (!std::isfinite(base) || !std::isfinite(height) || height <= tolerance::weld)
    return fail(fmt::format("A mass needs a height above zero; this one has {:.3f} m.", height));
  if (!std::isfinite(roof.rise) || !std::isfinite(roof.along)) return fail("The roof's rise is no number.");
  const Outline o = tidied(given);
  const auto flat = triangulate(o);
  if (!flat) return tl::unexpected(flat.error());
  Roofed r(o, base, height);
  for (const auto& t : *flat) r.triangle(t[0], t[2], t[1], baseFace);
  const auto firstSlope = firstWallFace + std::uint32_t(r.plan().size());
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint32_t> cuts;
  if (roof.kind == Roof::Kind::Hip) {
    if (Outcome done = hips(r, o, roof.rise, firstSlope); !done) return tl::unexpected(done.error());
  } else {
    const Across across(roof, o.outer);
    const double run = roof.kind == Roof::Kind::Mono ? 2 * across.half : across.half;
    if (!(run > 0) || std::atan2(roof.rise, run) > steepest)
      return fail("The roof is steeper than 80°: less rise, or a ridge that runs another way.");
    slopes(r, roof, across, *flat, firstSlope, cuts);
  }
  std::uint32_t face = firstWallFace, from = 0;
  const auto walls = [&](const Ring& ring) {
    const auto k = std::uint32_t(ring.size());
    for (std::uint32_t i = 0; i < k; ++i, ++face) {
      const std::uint32_t a = from + i, b = from + (i + 1) % k;
      const auto between = cuts.find(std::minmax(a, b));
      r.wall(a, b, between == cuts.end() ? std::nullopt : std::optional(between->second), face);
    }
    from += k;
  };
  walls(o.outer);
  for (const Ring& h : o.holes) walls(h);
  return std::move(r.mesh);
}

} // namespace noonward
