#include "picture/cells.h"

namespace noonward {

Mesh cellMesh(const SensorSet& sensors, std::size_t group) {
  Mesh m;
  const SensorGridFacts& g = sensors.groups[group];
  m.points.reserve(4 * g.count);
  for (std::size_t i = g.first; i < g.first + g.count; ++i) {
    const auto base = std::uint32_t(m.points.size());
    const Vec3 lift = sensors.sensors[i].normalVector() * 0.03;
    for (Vec3 c : sensors.cell(i)) m.points.push_back(c + lift);
    m.triangles.push_back({base, base + 1, base + 2});
    m.triangles.push_back({base, base + 2, base + 3});
    m.face.insert(m.face.end(), 2, std::uint32_t(i - g.first));
  }
  return m;
}

} // namespace noonward
