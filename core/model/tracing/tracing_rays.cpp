#include "core/model/tracing/tracing_rays.h"
#include <algorithm>
#include <limits>

namespace noonward {

double toEdge(Vec2 from, Vec2 along, const Outline& o) {
  double best = std::numeric_limits<double>::infinity();
  const auto ring = [&](const Ring& r) {
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 a = r[i] - from, b = r[(i + 1) % r.size()] - from;
      const double ca = cross(along, a), cb = cross(along, b);
      if ((ca > 0) == (cb > 0)) continue;
      const double s = ca / (ca - cb), d = dot(along, a + (b - a) * s);
      if (d > 1e-6) best = std::min(best, d);
    }
  };
  ring(o.outer);
  for (const Ring& h : o.holes) ring(h);
  return best;
}

std::array<double, 4> spanOn(const Pane& pane, Vec2 origin, Vec2 along) {
  double u0 = 1e300, u1 = -1e300, z0 = 1e300, z1 = -1e300;
  for (const Vec3& q : pane.corners) {
    const double u = dot(xy(q) - origin, along);
    u0 = std::min(u0, u);
    u1 = std::max(u1, u);
    z0 = std::min(z0, q.z);
    z1 = std::max(z1, q.z);
  }
  return {u0, u1, z0, z1};
}

} // namespace noonward
