#include "core/model/mending/panes.h"
#include "core/base/joined_sets.h"
#include "core/base/tolerances.h"
#include "core/geometry/healing.h"
#include "core/model/form/edit.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace noonward {

namespace {

constexpr double narrowest = 0.06; ///< m

/// Axes in a pane's plane: level, and up the slope.
std::pair<Vec3, Vec3> axesOf(Vec3 n) {
  if (std::abs(n.z) > 0.98) return {{1, 0, 0}, {0, 1, 0}};
  const Vec3 along = normalized(Vec3{-n.y, n.x, 0});
  return {along, cross(n, along)};
}

struct PaneRectangle {
  double u0, u1, v0, v1;
  double area() const { return std::max(0.0, u1 - u0) * std::max(0.0, v1 - v0); }
};
PaneRectangle seenAlong(const Pane& p, const std::pair<Vec3, Vec3>& axes, Vec3 zero) {
  PaneRectangle r{1e300, -1e300, 1e300, -1e300};
  for (const Vec3& c : p.corners) {
    const double u = dot(c - zero, axes.first), v = dot(c - zero, axes.second);
    r = {std::min(r.u0, u), std::max(r.u1, u), std::min(r.v0, v), std::max(r.v1, v)};
  }
  return r;
}

} // namespace

std::vector<Pane> panesOf(const Element& e, const Mesh& m) {
  const std::vector<std::uint32_t> first = firstOfEach(m.points, tolerance::weld);
  const std::size_t n = m.triangles.size();
  // Triangles that share an edge and a plane are one piece.
  JoinedSets sets(n);
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::vector<std::uint32_t>> atEdge;
  std::map<Triangle, std::uint32_t> seen;
  std::vector<std::pair<std::uint32_t, std::uint32_t>>
      twins; ///< a triangle that is there again, and the first of its kind
  std::vector<bool> out(n, false);
  for (std::uint32_t t = 0; t < n; ++t) {
    Triangle k{first[m.triangles[t][0]], first[m.triangles[t][1]], first[m.triangles[t][2]]};
    if (!(length(m.areaVector(t)) > 2 * tolerance::smallestFace)) {
      out[t] = true;
      continue;
    }
    std::sort(k.begin(), k.end());
    if (const auto [first, fresh] = seen.emplace(k, t); !fresh) {
      out[t] = true;
      twins.emplace_back(t, first->second);
      continue;
    }
    const Vec3 normal = normalized(m.areaVector(t));
    for (int i = 0; i < 3; ++i) {
      auto& list = atEdge[std::minmax(k[std::size_t(i)], k[std::size_t(i + 1) % 3])];
      for (std::uint32_t other : list)
        if (std::abs(dot(normal, normalized(m.areaVector(other)))) > 0.9998) sets.join(t, other);
      list.push_back(t);
    }
  }
  std::map<std::uint32_t, Pane> pieces;
  for (std::uint32_t t = 0; t < n; ++t) {
    if (out[t]) continue;
    Pane& p = pieces[sets.of(t)];
    p.triangles.push_back(t);
  }
  std::vector<Pane> panes;
  std::map<std::uint32_t, std::vector<std::uint32_t>> twinsOf; // they go where theirs goes
  for (const auto& [twin, of] : twins) twinsOf[sets.of(of)].push_back(twin);
  for (auto& [piece, p] : pieces) {
    Vec3 normal, middle;
    for (std::uint32_t t : p.triangles) {
      const Vec3 a = m.areaVector(t);
      normal = normal + (dot(a, normal) < 0 ? -a : a);
      const Triangle& k = m.triangles[t];
      middle = middle + (m.points[k[0]] + m.points[k[1]] + m.points[k[2]]) * (length(a) / 6);
      p.area += length(a) / 2;
    }
    p.normal = normalized(normal);
    p.middle = middle * (1 / p.area);
    const auto [along, up] = axesOf(p.normal);
    PaneRectangle r{1e300, -1e300, 1e300, -1e300};
    for (std::uint32_t t : p.triangles)
      for (std::uint32_t k : m.triangles[t]) {
        const double u = dot(m.points[k] - p.middle, along), v = dot(m.points[k] - p.middle, up);
        r = {std::min(r.u0, u), std::max(r.u1, u), std::min(r.v0, v), std::max(r.v1, v)};
      }
    if (std::min(r.u1 - r.u0, r.v1 - r.v0) < narrowest) continue;
    p.corners = {p.middle + along * r.u0 + up * r.v0, p.middle + along * r.u1 + up * r.v0,
                 p.middle + along * r.u1 + up * r.v1, p.middle + along * r.u0 + up * r.v1};
    if (const auto same = twinsOf.find(piece); same != twinsOf.end())
      p.triangles.insert(p.triangles.end(), same->second.begin(), same->second.end());
    p.element = e.id;
    p.layer = e.layer;
    p.finish = e.finish;
    panes.push_back(std::move(p));
  }
  return panes;
}

std::vector<Pane> singlePanes(std::vector<Pane> panes, std::size_t& doubled, std::vector<Pane>* dropped,
                              PaneKept wanted, const std::function<int(const Pane&)>& outward) {
  // Candidates by place: cells wide enough that doubles lie in neighbouring ones.
  constexpr double cell = 0.5;
  std::map<std::array<long, 3>, std::vector<std::size_t>> cells;
  const auto cellOf = [](Vec3 p) {
    return std::array<long, 3>{std::lround(p.x / cell), std::lround(p.y / cell), std::lround(p.z / cell)};
  };
  JoinedSets together(panes.size());
  const auto doubles = [&](const Pane& a, const Pane& b) {
    if (std::abs(dot(a.normal, b.normal)) < 0.999) return false;
    const double apart = std::abs(dot(b.middle - a.middle, a.normal));
    if (apart > mostBetweenPanes) return false;
    const auto axes = axesOf(a.normal);
    const PaneRectangle r = seenAlong(a, axes, a.middle), s = seenAlong(b, axes, a.middle);
    const PaneRectangle both{std::max(r.u0, s.u0), std::min(r.u1, s.u1), std::max(r.v0, s.v0), std::min(r.v1, s.v1)};
    return both.area() > 0.5 * std::max(r.area(), s.area());
  };
  for (std::size_t i = 0; i < panes.size(); ++i) {
    const auto c = cellOf(panes[i].middle);
    // Sheets of one size: their middles lie close. Of different sizes up to a quarter of the larger apart.
    const long reach = std::clamp(long(std::ceil(0.25 * std::sqrt(panes[i].area) / cell)), 1l, 4l);
    for (long x = -reach; x <= reach; ++x)
      for (long y = -reach; y <= reach; ++y)
        for (long z = -reach; z <= reach; ++z)
          if (const auto at = cells.find({c[0] + x, c[1] + y, c[2] + z}); at != cells.end())
            for (std::size_t other : at->second)
              if (doubles(panes[i], panes[other])) together.join(i, other);
    cells[c].push_back(i);
  }
  std::map<std::uint32_t, std::vector<std::size_t>> sets;
  for (std::size_t i = 0; i < panes.size(); ++i) sets[together.of(i)].push_back(i);
  std::vector<Pane> out;
  for (auto& [_, set] : sets) {
    const Pane& any = panes[set.front()];
    std::sort(set.begin(), set.end(), [&](std::size_t a, std::size_t b) {
      return std::pair{dot(panes[a].middle, any.normal), a} < std::pair{dot(panes[b].middle, any.normal), b};
    });
    std::size_t keep = set[set.size() / 2];
    if (wanted != PaneKept::Middle && set.size() > 1 && outward)
      if (const int side = outward(any); side != 0)
        keep = (side > 0) == (wanted == PaneKept::Outer) ? set.back() : set.front();
    doubled += set.size() - 1;
    if (dropped)
      for (std::size_t i : set)
        if (i != keep) dropped->push_back(panes[i]);
    out.push_back(std::move(panes[keep]));
  }
  return out;
}

std::vector<Pane> panesOfGlass(const Project& p) {
  std::vector<Pane> out;
  for (const ElementPtr& e : p.elements) {
    if (!e->counted || e->role != Role::Glazing || !e->imported()) continue;
    const auto mesh = elementMesh(*e);
    if (!mesh) continue;
    for (Pane& pane : panesOf(*e, **mesh)) out.push_back(std::move(pane));
  }
  return out;
}

int outwardOf(const Project& p, const Pane& pane) {
  const auto covered = [&](Vec3 q) {
    for (const ElementPtr& e : p.elements) {
      if (!e->counted || e->role == Role::Glazing || e->role == Role::Shading || e->role == Role::Planting ||
          e->role == Role::Ignore)
        continue;
      if (const Mass* m = e->mass()) {
        if (q.z < m->top() && contains(m->outline, {q.x, q.y})) return true;
        continue;
      }
      if (!e->imported() || !e->imported()->mesh) continue;
      if (const Box3 b = boxOf(*e);
          q.x < b.low.x || q.x > b.high.x || q.y < b.low.y || q.y > b.high.y || q.z > b.high.z)
        continue;
      std::vector<double> heights;
      columnOf(*e->imported(), q, heights);
      if (std::any_of(heights.begin(), heights.end(), [&](double z) { return z > q.z + 0.05; })) return true;
    }
    return false;
  };
  const Vec3 n = std::abs(pane.normal.z) < 0.98 ? normalized(Vec3{pane.normal.x, pane.normal.y, 0}) : pane.normal;
  for (double away : {0.8, 2.0, 4.0}) { // a balcony lies over the one before it, a narrow room ends soon
    const bool front = covered(pane.middle + n * away), back = covered(pane.middle - n * away);
    if (front != back) return front ? -1 : 1;
  }
  return 0;
}

} // namespace noonward
