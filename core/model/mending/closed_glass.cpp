#include "core/model/mending/closed_glass.h"
#include "core/geometry/mesh_build.h"
#include "core/geometry/mesh_columns.h"
#include "core/model/form/edit.h"
#include <array>
#include <cmath>
#include <map>

namespace noonward {

namespace {

constexpr double touching = 1e-4; ///< m

bool closes(const Element& e) {
  return e.counted && e.role != Role::Glazing && e.role != Role::Shading && e.role != Role::Planting &&
         e.role != Role::Ground && e.role != Role::Ignore;
}

/// Of a direction and its opposite the same.
Vec3 oneWay(Vec3 n) {
  return n.x < -1e-6 || (std::abs(n.x) <= 1e-6 && (n.y < -1e-6 || (std::abs(n.y) <= 1e-6 && n.z < 0))) ? -n : n;
}

} // namespace

std::vector<ClosedPane> closedPanes(const Project& p, int directions) {
  std::map<std::array<long, 3>, std::vector<Pane>> by;
  for (const ElementPtr& e : p.elements) {
    if (!e->counted || e->role != Role::Glazing || !e->imported()) continue;
    const auto mesh = elementMesh(*e);
    if (!mesh) continue;
    for (Pane& pane : panesOf(*e, **mesh)) {
      pane.normal = oneWay(pane.normal);
      by[{std::lround(pane.normal.x * 100), std::lround(pane.normal.y * 100), std::lround(pane.normal.z * 100)}]
          .push_back(std::move(pane));
    }
  }
  std::vector<ClosedPane> out;
  for (auto& [_, panes] : by) {
    if (directions-- <= 0) break;
    const Vec3 n = panes.front().normal, u = std::abs(n.z) > 0.9 ? Vec3{1, 0, 0} : normalized(cross({0, 0, 1}, n)),
               v = cross(n, u);
    const auto laidDown = [&](Vec3 q) { return Vec3{dot(q, u), dot(q, v), dot(q, n)}; };
    // What may close them off, laid so that they look up: then a column is a ray.
    std::vector<std::pair<ElementId, std::shared_ptr<Mesh>>> walls;
    for (const ElementPtr& e : p.elements) {
      if (!closes(*e)) continue;
      const auto mesh = elementMesh(*e);
      if (!mesh) continue;
      auto laid = std::make_shared<Mesh>();
      for (Vec3 q : (*mesh)->points) laid->points.push_back(laidDown(q));
      laid->triangles = (*mesh)->triangles;
      walls.emplace_back(e->id, std::move(laid));
    }
    std::vector<ClosedPane> met(panes.size());
    std::vector<double> heights;
    for (const auto& [id, mesh] : walls) {
      const Box3 box = mesh->box();
      const MeshColumns columns(mesh);
      for (std::size_t k = 0; k < panes.size(); ++k) {
        const Vec3 m = laidDown(panes[k].middle);
        if (m.x < box.low.x || m.x > box.high.x || m.y < box.low.y || m.y > box.high.y ||
            m.z < box.low.z - deepestWall || m.z > box.high.z + deepestWall)
          continue;
        heights.clear();
        columns.heightsAt(xy(m), heights);
        bool any = false;
        for (double z : heights)
          if (const double d = z - m.z; std::abs(d) <= deepestWall) {
            if (met[k].walls.empty() && !any) met[k].from = met[k].to = d;
            met[k].from = std::min(met[k].from, d);
            met[k].to = std::max(met[k].to, d);
            any = true;
          }
        if (any) met[k].walls.push_back(id);
      }
    }
    for (std::size_t k = 0; k < panes.size(); ++k)
      if (!met[k].walls.empty()) {
        met[k].pane = std::move(panes[k]);
        out.push_back(std::move(met[k]));
      }
  }
  return out;
}

Project withOpeningsCut(const Project& project, std::size_t& cut, std::size_t& left) {
  cut = left = 0;
  Project p = project;
  std::map<ElementId, std::vector<ClosedPane>> of;
  for (ClosedPane& c : closedPanes(project)) {
    const auto& k = c.pane.corners;
    const double whole = length(k[1] - k[0]) * length(k[2] - k[1]);
    const bool drawn =
        std::any_of(c.walls.begin(), c.walls.end(), [&](ElementId id) { return !project.element(id)->imported(); });
    if (drawn || c.pane.area < 0.9 * whole) {
      ++left;
      continue;
    }
    ++cut;
    for (ElementId id : c.walls) of[id].push_back(c);
  }
  for (auto& [id, panes] : of)
    p = withEdited(std::move(p), {id}, [&, &panes = panes, id = id](Element& e) {
      const auto placed = elementMesh(e);
      if (!placed) return;
      const Mesh& m = **placed;
      Mesh out;
      out.faceGroup = m.faceGroup;
      std::uint32_t face = 0;
      const auto keep = [&](std::size_t t) {
        const Triangle& k = m.triangles[t];
        const auto base = std::uint32_t(out.points.size());
        for (std::uint32_t v : k) out.points.push_back(m.points[v]);
        out.triangles.push_back({base, base + 1, base + 2});
        out.face.push_back(m.faceOf(t));
      };
      for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        face = std::max(face, m.faceOf(t) + 1);
        const Vec3 normal = normalized(m.areaVector(t));
        std::vector<Vec3> triangle;
        for (std::uint32_t v : m.triangles[t]) triangle.push_back(m.points[v]);
        std::vector<std::vector<Vec3>> cuts;
        for (const ClosedPane& c : panes) {
          if (std::abs(dot(normal, c.pane.normal)) < 0.98) continue;
          const double d = dot(triangle[0] - c.pane.middle, c.pane.normal);
          if (d < c.from - touching || d > c.to + touching) continue;
          std::vector<Vec3> ring;
          for (const Vec3& q : c.pane.corners) ring.push_back(q + c.pane.normal * dot(triangle[0] - q, c.pane.normal));
          cuts.push_back(std::move(ring));
        }
        if (cuts.empty()) {
          keep(t);
          continue;
        }
        addPolygonWithout(out, triangle, cuts, m.faceOf(t)); // nothing where it lies within the opening
      }
      for (const ClosedPane& c : panes) { // reveals, and the way from the pane to the nearer skin
        const double from = std::min(c.from, 0.0), to = std::max(c.to, 0.0);
        if (c.walls.front() != id || to - from < 2 * touching) continue; // once, where several parts make one wall
        for (std::size_t k = 0; k < 4; ++k) {
          const Vec3 a = c.pane.corners[k], b = c.pane.corners[(k + 1) % 4], deep = c.pane.normal * to,
                     near = c.pane.normal * from;
          addPolygon(out, {{a + near, b + near, b + deep, a + deep}}, face++);
        }
      }
      if (!out.faceGroup.empty()) out.faceGroup.resize(face, "reveal");
      std::size_t dropped = 0;
      const std::vector<std::string> groups = std::move(out.faceGroup);
      Mesh own = withOwnPoints(out.points, out, dropped);
      own.faceGroup = groups;
      const Digest content = digestOf(own);
      e.shape = Imported{std::make_shared<const Mesh>(std::move(own)), content, {}, 0, 1}; // where it stands
      noteMend(e, "glass.closed");
    });
  return p;
}

} // namespace noonward
