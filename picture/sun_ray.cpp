#include "picture/sun_ray.h"
#include "picture/picture_export.h"
#include <algorithm>
#include <cmath>

namespace noonward {

std::optional<SunRay> sunRay(const Project& p, Instant moment, Vec3 spot, double radius) {
  const Vec3 sun = sunDirection(p, moment);
  if (!(sun.z > 0)) return {};
  SunRay out;
  out.spot = spot;
  out.toward = sun;
  const auto level = [&](double azimuth) {
    const double a = azimuth - p.site.northAngle; // the drawing's +y has the azimuth northAngle
    return Vec3{std::sin(a), std::cos(a), 0};
  };
  out.north = level(0);
  out.azimuthAngle = wrapTwoPi(std::atan2(sun.x, sun.y) + p.site.northAngle);
  out.altitudeAngle = std::asin(std::clamp(sun.z, -1.0, 1.0));
  const int n = std::max(2, int(std::ceil(out.azimuthAngle / 0.05))),
            m = std::max(2, int(std::ceil(out.altitudeAngle / 0.05)));
  for (int k = 0; k <= n; ++k) out.azimuth.push_back(spot + level(out.azimuthAngle * k / n) * radius);
  const Vec3 foot = level(out.azimuthAngle);
  for (int k = 0; k <= m; ++k) {
    const double h = out.altitudeAngle * k / m;
    out.altitude.push_back(spot + (foot * std::cos(h) + Vec3{0, 0, std::sin(h)}) * radius);
  }
  return out;
}

} // namespace noonward
