#include "core/geometry/prism.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace noonward {

std::optional<Prism> asPrism(const Mesh& mesh, double tolerance) {
  if (mesh.triangles.empty() || mesh.triangles.size() > 20'000) return {};
  double low = 1e300, high = -1e300;
  for (const auto& t : mesh.triangles)
    for (const auto i : t) {
      low = std::min(low, mesh.points[i].z);
      high = std::max(high, mesh.points[i].z);
    }
  if (!(high - low > 10 * tolerance)) return {};
  // Points that lie on each other are one.
  const Vec3 origin = mesh.points[mesh.triangles[0][0]];
  std::map<std::array<long long, 2>, std::size_t> known;
  std::vector<Vec2> places;
  std::vector<std::size_t> placeOf(mesh.points.size(), 0);
  std::vector<bool> upper(mesh.points.size(), false);
  for (const auto& t : mesh.triangles)
    for (const auto i : t) {
      const Vec3 p = mesh.points[i];
      const bool top = p.z > high - tolerance;
      if (!top && p.z > low + tolerance) return {};
      upper[i] = top;
      const auto key = [&](int dx, int dy) {
        return std::array<long long, 2>{std::llround((p.x - origin.x) / tolerance) + dx,
                                        std::llround((p.y - origin.y) / tolerance) + dy};
      };
      std::size_t found = places.size();
      for (int dx = -1; dx <= 1 && found == places.size(); ++dx)
        for (int dy = -1; dy <= 1 && found == places.size(); ++dy)
          if (const auto at = known.find(key(dx, dy)); at != known.end()) found = at->second;
      if (found == places.size()) {
        places.push_back({p.x, p.y});
        known[key(0, 0)] = found;
      }
      placeOf[i] = found;
    }
  // The roof's rim: edges that one of its triangles has and no other the other way round.
  std::map<std::pair<std::size_t, std::size_t>, int> rim;
  double walls = 0;
  for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
    std::array<std::size_t, 3> c{};
    int tops = 0;
    for (std::size_t k = 0; k < 3; ++k) {
      c[k] = placeOf[mesh.triangles[t][k]];
      tops += upper[mesh.triangles[t][k]];
    }
    if (tops == 0) continue; // of the floor
    if (tops < 3) {
      const Vec3 area = mesh.areaVector(t);
      if (std::abs(area.z) > 1e-3 * (length(area) + tolerance * tolerance)) return {}; // it leans
      walls += length(area) / 2;
      continue;
    }
    const bool up = cross(places[c[1]] - places[c[0]], places[c[2]] - places[c[0]]) > 0;
    for (std::size_t k = 0; k < 3; ++k) {
      const std::size_t a = c[up ? k : (k + 1) % 3], b = c[up ? (k + 1) % 3 : k];
      if (a == b) continue;
      if (const auto back = rim.find({b, a}); back != rim.end()) {
        if (--back->second == 0) rim.erase(back);
      } else {
        ++rim[{a, b}];
      }
    }
  }
  std::map<std::size_t, std::size_t> next;
  double around = 0;
  for (const auto& [edge, count] : rim) {
    if (count != 1 || !next.emplace(edge.first, edge.second).second) return {};
    around += length(places[edge.second] - places[edge.first]);
  }
  if (next.size() < 3) return {};
  if (std::abs(walls - around * (high - low)) > 0.002 * around * (high - low)) return {};
  Prism out;
  out.base = low;
  out.height = high - low;
  bool any = false;
  while (!next.empty()) {
    Ring ring;
    for (std::size_t at = next.begin()->first; next.contains(at);) {
      ring.push_back(places[at]);
      const auto edge = next.find(at);
      const std::size_t to = edge->second;
      next.erase(edge);
      at = to;
    }
    if (ring.size() < 3) return {};
    if (signedArea(ring) > 0) { // seen from above the rim runs to the left around the roof
      if (any) return {};
      any = true;
      out.outline.outer = std::move(ring);
    } else {
      out.outline.holes.push_back(std::move(ring));
    }
  }
  if (!any) return {};
  out.outline = straightened(std::move(out.outline));
  if (checkOutline(out.outline).fault != OutlineFault::None) return {};
  return out;
}

} // namespace noonward
