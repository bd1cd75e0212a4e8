#include "core/geometry/mesh.h"
#include "core/base/tolerances.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <unordered_map>

namespace noonward {

Box3 Mesh::box() const {
  Box3 b;
  for (Vec3 p : points) b.add(p);
  return b;
}

std::size_t Mesh::faceCount() const {
  if (face.empty()) return triangles.size();
  return face.empty() ? 0 : std::size_t(*std::max_element(face.begin(), face.end())) + 1;
}

Vec3 Mesh::areaVector(std::size_t t) const {
  const Triangle& k = triangles[t];
  return cross(points[k[1]] - points[k[0]], points[k[2]] - points[k[0]]);
}

Digest digestOf(const Mesh& m) {
  Hasher h;
  h.add("mesh 1").add(std::uint64_t(m.points.size())).add(std::uint64_t(m.triangles.size()));
  for (Vec3 p : m.points) h.add(p);
  for (const Triangle& t : m.triangles)
    for (std::uint32_t i : t) h.add(std::uint64_t{i});
  for (std::uint32_t f : m.face) h.add(std::uint64_t{f});
  return h.digest();
}

double surfaceArea(const Mesh& m) {
  double a = 0;
  for (std::size_t t = 0; t < m.triangles.size(); ++t) a += length(m.areaVector(t)) / 2;
  return a;
}

double volume(const Mesh& m) {
  if (m.points.empty()) return 0;
  const Vec3 o = m.points.front();
  double v = 0;
  for (const Triangle& t : m.triangles) v += dot(m.points[t[0]] - o, cross(m.points[t[1]] - o, m.points[t[2]] - o)) / 6;
  return v;
}

Expected<Mesh> extrude(const Outline& given, double base, double height) {
  if (!std::isfinite(base) || !std::isfinite(height) || height <= tolerance::weld)
    return fail(fmt::format("A mass needs a height above zero; this one has {:.3f} m.", height));
  const Outline o = tidied(given);
  const auto flat = triangulate(o);
  if (!flat) return tl::unexpected(flat.error());
  Mesh m;
  const std::vector<Vec2> p = points(o);
  const auto n = std::uint32_t(p.size());
  for (Vec2 q : p) m.points.push_back({q.x, q.y, base});
  for (Vec2 q : p) m.points.push_back({q.x, q.y, base + height});
  for (const Triangle& t : *flat) {
    m.triangles.push_back({t[0], t[2], t[1]});
    m.face.push_back(baseFace);
    m.triangles.push_back({n + t[0], n + t[1], n + t[2]});
    m.face.push_back(roofFace);
  }
  std::uint32_t wall = firstWallFace, from = 0;
  const auto walls = [&](const Ring& r) {
    const auto k = std::uint32_t(r.size());
    for (std::uint32_t i = 0; i < k; ++i, ++wall) {
      const std::uint32_t a = from + i, b = from + (i + 1) % k;
      m.triangles.push_back({a, b, n + b});
      m.triangles.push_back({a, n + b, n + a});
      m.face.insert(m.face.end(), 2, wall);
    }
    from += k;
  };
  walls(o.outer);
  for (const Ring& h : o.holes) walls(h);
  return m;
}

namespace {
std::uint64_t edgeKey(std::uint32_t a, std::uint32_t b) {
  return a < b ? std::uint64_t{a} << 32 | b : std::uint64_t{b} << 32 | a;
}
} // namespace

Expected<Mesh> flatPlate(const std::vector<Vec3>& corners) {
  if (corners.size() < 3) return fail("A plate needs three corners or more.");
  Vec3 normal, middle;
  for (std::size_t i = 0; i < corners.size(); ++i) {
    if (!finite(corners[i])) return fail("A corner of the plate is no number.");
    normal = normal + cross(corners[i] - corners[0], corners[(i + 1) % corners.size()] - corners[0]);
    middle = middle + corners[i] * (1.0 / double(corners.size()));
  }
  if (!(length(normal) > 1e-8)) return fail("The plate has no area.");
  normal = normalized(normal);
  const Vec3 u = normalized(cross(std::abs(normal.z) > 0.999 ? Vec3{0, 1, 0} : Vec3{0, 0, 1}, normal)),
             v = cross(normal, u);
  Outline flat;
  for (const Vec3& c : corners) {
    if (const double off = std::abs(dot(c - middle, normal)); off > 0.01)
      return fail(fmt::format("The corners of the plate lie on no plane: ({:.2f}, {:.2f}, {:.2f}) is {:.2f} m off.",
                              c.x, c.y, c.z, off));
    flat.outer.push_back({dot(c - middle, u), dot(c - middle, v)});
  }
  if (const OutlineCheck c = checkOutline(flat); c.fault != OutlineFault::None)
    return fail(fmt::format("The plate's outline {}.", faultText(c.fault)));
  const auto triangles = triangulate(flat);
  if (!triangles) return tl::unexpected(triangles.error());
  Mesh m;
  m.points = corners;
  m.triangles = *triangles;
  m.face.assign(m.triangles.size(), 0);
  return m;
}

void findFaces(Mesh& m, double angle) {
  const std::size_t n = m.triangles.size();
  std::vector<Vec3> normal(n);
  for (std::size_t t = 0; t < n; ++t) normal[t] = normalized(m.areaVector(t));
  std::vector<std::pair<std::uint64_t, std::uint32_t>> edges;
  edges.reserve(3 * n);
  for (std::size_t t = 0; t < n; ++t)
    for (int k = 0; k < 3; ++k)
      edges.emplace_back(edgeKey(m.triangles[t][std::size_t(k)], m.triangles[t][std::size_t((k + 1) % 3)]), t);
  std::sort(edges.begin(), edges.end());
  std::vector<std::uint32_t> root(n);
  for (std::size_t t = 0; t < n; ++t) root[t] = std::uint32_t(t);
  const auto find = [&](std::uint32_t t) {
    while (root[t] != t) t = root[t] = root[root[t]];
    return t;
  };
  const double least = std::cos(angle);
  for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
    if (edges[i].first != edges[i + 1].first) continue;
    const std::uint32_t a = find(edges[i].second), b = find(edges[i + 1].second);
    if (a != b && dot(normal[edges[i].second], normal[edges[i + 1].second]) > least)
      root[std::max(a, b)] = std::min(a, b);
  }
  std::unordered_map<std::uint32_t, std::uint32_t> number;
  m.face.resize(n);
  for (std::size_t t = 0; t < n; ++t)
    m.face[t] = number.emplace(find(std::uint32_t(t)), std::uint32_t(number.size())).first->second;
}

std::vector<std::pair<Vec3, Vec3>> featureEdges(const Mesh& m) {
  struct Side {
    std::uint64_t key;
    std::uint32_t face;
  };
  std::vector<Side> sides;
  sides.reserve(3 * m.triangles.size());
  for (std::size_t t = 0; t < m.triangles.size(); ++t)
    for (std::size_t k = 0; k < 3; ++k)
      sides.push_back({edgeKey(m.triangles[t][k], m.triangles[t][(k + 1) % 3]), m.faceOf(t)});
  std::sort(sides.begin(), sides.end(), [](const Side& a, const Side& b) { return a.key < b.key; });
  std::vector<std::pair<Vec3, Vec3>> out;
  for (std::size_t i = 0; i < sides.size();) {
    std::size_t j = i + 1;
    bool differs = false;
    for (; j < sides.size() && sides[j].key == sides[i].key; ++j) differs |= sides[j].face != sides[i].face;
    if (differs || j == i + 1)
      out.emplace_back(m.points[std::size_t(sides[i].key >> 32)], m.points[std::size_t(sides[i].key & 0xffffffffu)]);
    i = j;
  }
  return out;
}

} // namespace noonward
