#include "picture/cells.h"
#include <algorithm>
#include <cmath>

namespace noonward {

Mesh cellMesh(const SensorField& painted, std::size_t group) {
  Mesh m;
  const SensorSet& sensors = painted.sensors;
  const SensorGridFacts& g = sensors.groups[group];
  float most = 0;
  if (g.eyes)
    for (float v : painted.values()) most = std::max(most, std::isnan(v) ? 0 : std::abs(v));
  const auto length = [&](std::size_t i) {
    const float v = std::abs(painted.values()[i]);
    return most > 0 && v > 0 ? 0.4 + 0.6 * double(v / most) : 0.4;
  };
  m.points.reserve(4 * g.count);
  for (std::size_t i = g.first; i < g.first + g.count; ++i) {
    const auto base = std::uint32_t(m.points.size());
    const Vec3 lift = sensors.sensors[i].normalVector() * 0.03;
    const Vec3 at = sensors.sensors[i].position;
    const bool needle = g.eyes && i < painted.values().size();
    for (Vec3 c : sensors.cell(i)) m.points.push_back((needle ? at + (c - at) * length(i) : c) + lift);
    m.triangles.push_back({base, base + 1, base + 2});
    m.triangles.push_back({base, base + 2, base + 3});
    m.face.insert(m.face.end(), 2, std::uint32_t(i - g.first));
  }
  return m;
}

} // namespace noonward
