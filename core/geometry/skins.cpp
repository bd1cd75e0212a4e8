#include "core/geometry/skins.h"
#include "core/base/joined_sets.h"
#include "core/base/tolerances.h"
#include "core/geometry/healing.h"
#include "core/geometry/mesh_build.h"
#include "core/geometry/mesh_columns.h"
#include "core/geometry/plan_cut.h"
#include <array>
#include <map>

namespace noonward {

namespace {

struct Slab {
  std::vector<std::uint32_t> triangles;
  Vec3 normal;              ///< level
  double low = 0, high = 0; ///< m along the normal
};

/// Shells: triangles joined where exactly two of them share an edge. Open ones are left out.
std::vector<std::vector<std::uint32_t>> closedShells(const Mesh& m) {
  const std::vector<std::uint32_t> first = firstOfEach(m.points, tolerance::weld);
  const std::size_t n = m.triangles.size();
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::vector<std::uint32_t>> at;
  for (std::uint32_t t = 0; t < n; ++t)
    for (std::size_t k = 0; k < 3; ++k) {
      const std::uint32_t a = first[m.triangles[t][k]], b = first[m.triangles[t][(k + 1) % 3]];
      if (a != b) at[{std::min(a, b), std::max(a, b)}].push_back(t);
    }
  JoinedSets sets(n);
  for (const auto& [_, list] : at)
    if (list.size() == 2) sets.join(list[0], list[1]);
  std::map<std::uint32_t, std::vector<std::uint32_t>> shells;
  for (std::uint32_t t = 0; t < n; ++t) shells[sets.of(t)].push_back(t);
  std::map<std::uint32_t, bool> open;
  for (const auto& [_, list] : at)
    if (list.size() % 2 == 1)
      for (std::uint32_t t : list) open[sets.of(t)] = true;
  std::vector<std::vector<std::uint32_t>> out;
  for (auto& [id, list] : shells)
    if (!open[id] && list.size() >= 8) out.push_back(std::move(list));
  return out;
}

std::vector<Slab> slabsOf(const Mesh& m, double thickest) {
  std::vector<Slab> out;
  for (std::vector<std::uint32_t>& shell : closedShells(m)) {
    // The way most of it faces, either way round.
    std::map<std::array<long, 3>, Vec3> by;
    double all = 0;
    for (std::uint32_t t : shell) {
      Vec3 a = m.areaVector(t);
      const double area = length(a);
      all += area;
      if (area < 1e-9) continue;
      if (a.x < -1e-6 * area || (std::abs(a.x) <= 1e-6 * area && a.y < 0)) a = -a;
      const Vec3 u = a * (1 / area);
      Vec3& sum = by[{std::lround(u.x * 200), std::lround(u.y * 200), std::lround(u.z * 200)}];
      sum = sum + a;
    }
    Vec3 most;
    for (const auto& [_, v] : by)
      if (length(v) > length(most)) most = v;
    if (length(most) < 0.5 * all || std::abs(most.z) > 0.02 * length(most)) continue;
    Slab s;
    s.normal = normalized(Vec3{most.x, most.y, 0});
    const Vec3 along{-s.normal.y, s.normal.x, 0};
    s.low = 1e300;
    s.high = -1e300;
    double left = 1e300, right = -1e300, foot = 1e300, head = -1e300;
    for (std::uint32_t t : shell)
      for (std::uint32_t v : m.triangles[t]) {
        const Vec3 p = m.points[v];
        s.low = std::min(s.low, dot(p, s.normal));
        s.high = std::max(s.high, dot(p, s.normal));
        left = std::min(left, dot(p, along));
        right = std::max(right, dot(p, along));
        foot = std::min(foot, p.z);
        head = std::max(head, p.z);
      }
    const double thick = s.high - s.low;
    if (thick < 0.02 || thick > thickest || right - left < 1.5 * thick || head - foot < 1.5 * thick) continue;
    s.triangles = std::move(shell);
    out.push_back(std::move(s));
  }
  return out;
}

} // namespace

std::size_t slabsIn(const Mesh& m, double thickest) {
  return slabsOf(m, thickest).size();
}

Mesh withSingleSkins(const Mesh& m, std::size_t& made, double thickest) {
  made = 0;
  Mesh out;
  std::vector<bool> gone(m.triangles.size(), false);
  std::uint32_t face = 0;
  for (std::size_t t = 0; t < m.triangles.size(); ++t) face = std::max(face, m.faceOf(t) + 1);
  out.faceGroup = m.faceGroup;
  for (const Slab& s : slabsOf(m, thickest)) {
    // Laid on its back: its normal upward, so that the middle is a level cut.
    const Vec3 along{-s.normal.y, s.normal.x, 0};
    auto laid = std::make_shared<Mesh>();
    std::map<std::uint32_t, std::uint32_t> place;
    for (std::uint32_t t : s.triangles) {
      Triangle k = m.triangles[t];
      for (std::uint32_t& v : k) {
        const auto [it, fresh] = place.emplace(v, std::uint32_t(laid->points.size()));
        if (fresh) laid->points.push_back({dot(m.points[v], along), m.points[v].z, dot(m.points[v], s.normal)});
        v = it->second;
      }
      laid->triangles.push_back(k);
    }
    const double middle = (s.low + s.high) / 2;
    std::vector<std::vector<CutLine>> lines(1);
    cutAt(*laid, std::span(&middle, 1), lines);
    const auto regions = regionsBetween(lines[0], 0.001);
    if (!regions) continue;
    const MeshColumns columns(laid);
    bool any = false;
    for (const Outline& o : *regions) {
      const Vec2 in = pointInside(o);
      if (!columns.inside({in.x, in.y, middle})) continue; // an opening
      std::vector<std::vector<Vec3>> rings;
      const auto ring = [&](const Ring& r) {
        rings.emplace_back();
        for (Vec2 p : r) rings.back().push_back(along * p.x + Vec3{0, 0, p.y} + s.normal * middle);
      };
      ring(o.outer);
      for (const Ring& h : o.holes) ring(h);
      any |= addPolygon(out, rings, face);
    }
    if (!any) continue;
    ++made, ++face;
    for (std::uint32_t t : s.triangles) gone[t] = true;
  }
  if (!out.faceGroup.empty() && made > 0) out.faceGroup.resize(face, "single skin");
  const auto base = std::uint32_t(out.points.size());
  out.points.insert(out.points.end(), m.points.begin(), m.points.end());
  for (std::size_t t = 0; t < m.triangles.size(); ++t)
    if (!gone[t]) {
      const Triangle& k = m.triangles[t];
      out.triangles.push_back({k[0] + base, k[1] + base, k[2] + base});
      out.face.push_back(m.faceOf(t));
    }
  std::size_t dropped = 0;
  const std::vector<std::string> groups = std::move(out.faceGroup);
  Mesh own = withOwnPoints(out.points, out, dropped);
  own.faceGroup = groups;
  return own;
}

} // namespace noonward
