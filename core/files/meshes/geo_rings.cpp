#include "core/files/meshes/geo_rings.h"
#include "core/sun/earth.h"
#include <algorithm>
#include <cmath>

namespace noonward {

GeoRings::GeoRings(const Project& p, bool local)
    : place_(p.site.place), metresPerRadian_(earth::metresPerRadian(std::clamp(p.site.place.latitude, -1.57, 1.57))),
      cosine_(std::cos(p.site.northAngle)), sine_(std::sin(p.site.northAngle)), local_(local) {}

Json GeoRings::point(Vec2 q) const {
  const auto rounded = [](double v, double by) { return std::round(v * by) / by; };
  if (local_) return Json::array({rounded(q.x, 1e4), rounded(q.y, 1e4)});
  // The drawing's up turned by the north angle.
  const double east = q.x * cosine_ + q.y * sine_, north = -q.x * sine_ + q.y * cosine_;
  return Json::array({rounded(degrees(place_.longitude + east / metresPerRadian_.x), 1e9),
                      rounded(degrees(place_.latitude + north / metresPerRadian_.y), 1e9)});
}

Json GeoRings::ring(const Ring& r) const {
  Json out = Json::array();
  for (std::size_t i = 0; i <= r.size(); ++i) out.push_back(point(r[i % r.size()]));
  return out;
}

Json GeoRings::polygon(const Outline& outline) const {
  Json rings = Json::array({ring(outline.outer)});
  for (const Ring& h : outline.holes) rings.push_back(ring(h));
  return rings;
}

} // namespace noonward
