#include "core/studies/opening_sun.h"
#include "core/base/parallel.h"
#include "core/model/rooms/placing.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
constexpr double step = 20; // s

Intervals sunlit(const LightScene& scene, Vec3 at, Vec3 outward, const SunPath& path, const Intervals& counts) {
  const auto lit = [&](double t) {
    const Vec3 s = path.direction(t);
    return dot(s, outward) > 0 && !scene.blocked(at, s, 1e-4, 1e30);
  };
  const auto edge = [&](double dark, double light) {
    while (std::abs(light - dark) > 0.5) {
      const double middle = 0.5 * (dark + light);
      (lit(middle) ? light : dark) = middle;
    }
    return light;
  };
  Intervals out;
  for (const Interval& part : counts) {
    const int n = std::max(1, int(std::ceil(part.length() / step)));
    double before = part.begin;
    bool was = lit(before);
    double begin = before;
    for (int k = 1; k <= n; ++k) {
      const double t = part.begin + part.length() * k / n;
      const bool is = lit(t);
      if (is && !was) begin = edge(before, t);
      if (!is && was) out.push_back({begin, edge(t, before)});
      before = t;
      was = is;
    }
    if (was) out.push_back({begin, part.end});
  }
  return out;
}
} // namespace

Expected<std::vector<RoomSun>> openingSun(const Project& p, const OpeningSunSettings& s, Threads threads) {
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  const auto model = lightModel(p);
  if (!model) return tl::unexpected(model.error());
  const LightScene scene(*model);
  const OpeningLayout layout = placedOpenings(p);
  const Instant midnight = zone->instant({s.date, 0}), next = midnight + 86400;
  const SunPath path(SunKnots(midnight + -86400, next + 86400), p.site.place, p.site.northAngle, midnight, 86400);
  const Intervals counts = path.above(s.minAltitude);
  std::vector<OpeningSun> each(layout.openings.size());
  forChunks(each.size(), 1, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      const PlacedOpening& o = layout.openings[i];
      const Room& room = p.rooms[o.room];
      const auto c = o.corners(room.floor, room.floor + room.height, 0);
      const bool top = o.opening.edge < 0;
      Vec3 at = (c[0] + c[1] + c[2] + c[3]) * 0.25;
      if (!top) at.z = std::min(room.floor + std::max(s.height, o.opening.sill + s.aboveSill), c[2].z - 0.01);
      OpeningSun& out = each[i];
      out.room = o.room;
      out.opening = o.opening.name;
      out.position = at;
      out.stretches = sunlit(scene, at, o.facingOutward(), path, counts);
      out.hours = total(out.stretches) / 3600;
    }
  });
  std::vector<RoomSun> out(p.rooms.size());
  for (std::size_t r = 0; r < out.size(); ++r) {
    out[r].room = r;
    Intervals all;
    for (const OpeningSun& o : each)
      if (o.room == r) {
        all.insert(all.end(), o.stretches.begin(), o.stretches.end());
        out[r].each.push_back(o);
      }
    out[r].openings = out[r].each.size();
    out[r].hours = total(joined(std::move(all))) / 3600;
  }
  return out;
}

} // namespace noonward
