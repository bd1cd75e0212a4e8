#include "core/geometry/mesh_build.h"
#include "core/base/tolerances.h"
#include <cmath>
#include <unordered_map>

namespace noonward {

Vec3 ringNormal(std::span<const Vec3> ring) {
  Vec3 n;
  for (std::size_t i = 0; i < ring.size(); ++i) n = n + cross(ring[i] - ring[0], ring[(i + 1) % ring.size()] - ring[0]);
  return n;
}

namespace {
struct Plane {
  Vec3 origin, u, v;
  Plane(Vec3 o, Vec3 n)
      : origin(o), u(normalized(std::abs(n.z) > 0.9 ? cross({0, 1, 0}, n) : cross({0, 0, 1}, n))), v(cross(n, u)) {}
  Vec2 flat(Vec3 p) const { return {dot(p - origin, u), dot(p - origin, v)}; }
};
} // namespace

void addPolygon(const std::vector<Vec3>& points, const std::vector<std::uint32_t>& corners, std::uint32_t face,
                Mesh& mesh) {
  const auto tri = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
    mesh.triangles.push_back({a, b, c});
    mesh.face.push_back(face);
  };
  if (corners.size() > 3) {
    std::vector<Vec3> ring;
    for (std::uint32_t c : corners) ring.push_back(points[c]);
    const Vec3 n = normalized(ringNormal(ring));
    bool convex = length(n) > 0;
    for (std::size_t i = 0; i < ring.size() && convex; ++i) {
      const Vec3 a = ring[i], b = ring[(i + 1) % ring.size()], c = ring[(i + 2) % ring.size()];
      convex = dot(cross(b - a, c - b), n) >= 0;
    }
    if (!convex && length(n) > 0) {
      const Plane plane(ring[0], n);
      Outline flat;
      for (Vec3 p : ring) flat.outer.push_back(plane.flat(p));
      if (const auto cut = triangulate(flat)) {
        for (const Triangle& t : *cut) tri(corners[t[0]], corners[t[1]], corners[t[2]]);
        return;
      }
    }
  }
  for (std::size_t i = 2; i < corners.size(); ++i) tri(corners[0], corners[i - 1], corners[i]);
}

bool addPolygon(Mesh& mesh, const std::vector<std::vector<Vec3>>& rings, std::uint32_t face) {
  if (rings.empty() || rings[0].size() < 3) return false;
  const Vec3 n = normalized(ringNormal(rings[0]));
  if (!(length(n) > 0)) return false;
  const auto from = std::uint32_t(mesh.points.size());
  if (rings.size() == 1) {
    std::vector<std::uint32_t> corners;
    for (std::size_t i = 0; i < rings[0].size(); ++i) corners.push_back(from + std::uint32_t(i));
    mesh.points.insert(mesh.points.end(), rings[0].begin(), rings[0].end());
    addPolygon(mesh.points, corners, face, mesh);
    return true;
  }
  const Plane plane(rings[0][0], n);
  Outline flat;
  std::vector<Vec3> all;
  for (const std::vector<Vec3>& r : rings) {
    Ring ring;
    for (Vec3 p : r) ring.push_back(plane.flat(p)), all.push_back(p);
    (flat.outer.empty() ? flat.outer : flat.holes.emplace_back()) = std::move(ring);
  }
  const auto cut = triangulate(flat);
  if (!cut) return false;
  mesh.points.insert(mesh.points.end(), all.begin(), all.end());
  for (const Triangle& t : *cut) {
    mesh.triangles.push_back({from + t[0], from + t[1], from + t[2]});
    mesh.face.push_back(face);
  }
  return true;
}

namespace {
/// Pieces of a plane, as triangles of a face.
bool addPieces(Mesh& mesh, const Plane& plane, const std::vector<Outline>& pieces, std::uint32_t face) {
  bool any = false;
  for (const Outline& piece : pieces) {
    const auto cut = triangulate(piece);
    if (!cut) continue;
    const auto from = std::uint32_t(mesh.points.size());
    for (Vec2 q : points(piece)) mesh.points.push_back(plane.origin + plane.u * q.x + plane.v * q.y);
    for (const Triangle& t : *cut) {
      mesh.triangles.push_back({from + t[0], from + t[1], from + t[2]});
      mesh.face.push_back(face);
    }
    any = any || !cut->empty();
  }
  return any;
}
} // namespace

bool addPolygonWithout(Mesh& mesh, const std::vector<Vec3>& outer, const std::vector<std::vector<Vec3>>& cuts,
                       std::uint32_t face) {
  if (cuts.empty()) return addPolygon(mesh, {outer}, face);
  if (outer.size() < 3) return false;
  const Vec3 n = normalized(ringNormal(outer));
  if (!(length(n) > 0)) return false;
  const Plane plane(outer[0], n);
  const auto flat = [&](const std::vector<Vec3>& ring) {
    Ring out;
    for (Vec3 p : ring) out.push_back(plane.flat(p));
    return out;
  };
  std::vector<Ring> away;
  for (const auto& c : cuts) away.push_back(flat(c));
  return addPieces(mesh, plane, difference({flat(outer), {}}, away), face);
}

bool addFaceWithout(Mesh& mesh, const Mesh& from, std::uint32_t face, const std::vector<std::vector<Vec3>>& cuts) {
  Vec3 normal;
  std::vector<std::size_t> own;
  for (std::size_t t = 0; t < from.triangles.size(); ++t)
    if (from.faceOf(t) == face) {
      normal = normal + from.areaVector(t);
      own.push_back(t);
    }
  if (own.empty() || !(length(normal) > 0)) return false;
  const Plane plane(from.points[from.triangles[own.front()][0]], normalized(normal));
  std::vector<Outline> whole;
  for (std::size_t t : own) {
    Outline o;
    for (std::uint32_t k : from.triangles[t]) o.outer.push_back(plane.flat(from.points[k]));
    if (std::abs(signedArea(o.outer)) > 1e-9) whole.push_back(std::move(o));
  }
  std::vector<Ring> away;
  for (const auto& c : cuts) {
    Ring r;
    for (Vec3 p : c) r.push_back(plane.flat(p));
    away.push_back(std::move(r));
  }
  bool any = false;
  for (const Outline& o : united(whole)) any = addPieces(mesh, plane, difference(o, away), face) || any;
  return any;
}

Mesh withOwnPoints(const std::vector<Vec3>& points, const Mesh& gathered, std::size_t& dropped) {
  Mesh out;
  std::unordered_map<std::uint32_t, std::uint32_t> place;
  out.triangles.reserve(gathered.triangles.size());
  for (std::size_t i = 0; i < gathered.triangles.size(); ++i) {
    const Triangle& t = gathered.triangles[i];
    const Vec3 a = points[t[0]], b = points[t[1]], c = points[t[2]];
    if (t[0] == t[1] || t[1] == t[2] || t[0] == t[2] || length(cross(b - a, c - a)) <= 0) {
      ++dropped;
      continue;
    }
    Triangle k;
    for (std::size_t j = 0; j < 3; ++j) {
      const auto [it, fresh] = place.emplace(t[j], std::uint32_t(out.points.size()));
      if (fresh) out.points.push_back(points[t[j]]);
      k[j] = it->second;
    }
    out.triangles.push_back(k);
    out.face.push_back(gathered.face[i]);
  }
  return out;
}

} // namespace noonward
