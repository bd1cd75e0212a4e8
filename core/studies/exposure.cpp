#include "core/studies/exposure.h"
#include "core/light/ray_offset.h"
#include "core/light/sampler.h"
#include "core/studies/by_sensor.h"
#include "core/studies/sky_share.h"
#include <cmath>

namespace noonward {

namespace {

constexpr double lift = 1e-3; ///< m, off the surface that a sensor lies on

/// Does a ray that leaves upward in front of the sensor meet nothing?
class SkyAbove {
public:
  SkyAbove(const LightScene& scene, const Sensor& sensor)
      : scene_(scene), normal_(sensor.normalVector()), at_(sensor.position + normal_ * lift) {}
  Vec3 at() const { return at_; }
  bool toward(Vec3 direction) const {
    return direction.z > 0 && dot(direction, normal_) > 0 && !scene_.blocked(at_, direction, 0, 1e30);
  }
  bool through(Vec3 point) const {
    const Vec3 way = point - at_;
    const double far = length(way);
    return far > 1e-9 && toward(way * (1 / far));
  }

private:
  const LightScene& scene_;
  Vec3 normal_, at_;
};

bool seenAnywhere(const SkyAbove& sky, std::uint64_t key) {
  constexpr int ways = 4096;
  for (int k = 0; k < ways; ++k) {
    const ScrambledPoint q(key, std::uint32_t(k));
    const double z = q[0], round = 2 * pi * q[1],
                 flat = std::sqrt(std::max(0.0, 1 - z * z)); // even over the upper hemisphere
    if (sky.toward({flat * std::cos(round), flat * std::sin(round), z})) return true;
  }
  return false;
}

bool seenThrough(const SkyAbove& sky, const LightScene::Piece& piece) {
  constexpr int steps = 24, along = 256;
  const auto at = [&](double u, double v) { return piece.a * (1 - u - v) + piece.b * u + piece.c * v; };
  constexpr double inset = 2e-4; // of a piece: off its edges, behind which the wall stands
  const Vec3 middle = piece.center();
  for (const auto& [from, to] : {std::pair{piece.a, piece.b}, std::pair{piece.b, piece.c}, std::pair{piece.c, piece.a}})
    for (int k = 0; k < along; ++k) {
      const Vec3 p = from + (to - from) * ((k + 0.5) / along);
      if (sky.through(p + (middle - p) * inset)) return true;
    }
  for (int i = 0; i < steps; ++i)
    for (int j = 0; i + j < steps; ++j)
      if (sky.through(at((i + 1.0 / 3) / steps, (j + 1.0 / 3) / steps))) return true;
  return false;
}

} // namespace

LightResult runSunlight(const LightInput& in, RunControl& control, Threads threads) {
  const bool winterOnly = in.kind == StudyKind::SunlightWinter;
  double whole = 0;
  for (double w : in.sunHourWeight) whole += w;
  return bySensor(in, control, threads, std::uint32_t(in.sunHours.size()), [&](std::size_t i) {
    const Sensor& s = in.sensors.sensors[i];
    const Vec3 normal = s.normalVector(), o = s.position + normal * lift;
    double lit = 0;
    for (std::size_t k = 0; k < in.sunHours.size(); ++k) {
      if (winterOnly && !in.sunHourInWinter[k]) continue;
      if (dot(normal, in.sunHours[k]) > 0 && !in.scene->blocked(o, in.sunHours[k], 0, 1e30)) lit += in.sunHourWeight[k];
    }
    return 100 * lit / whole;
  });
}

LightResult runSkyExposure(const LightInput& in, RunControl& control, Threads threads) {
  constexpr double wanted = 0.07; // points
  const SkyShare sky([&](Vec3 d) { return in.sky.sky(d); }, mixed(in.settings.seed));
  LightResult out = bySensors(in, control, threads, [&](LightResult& r, std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      const Sensor& s = in.sensors.sensors[i];
      const Vec3 n = s.normalVector();
      const SkyShare::Seen seen = sky.at(
          *in.scene, s.position + n * rayOffsetAt(s.position), n, in.settings.seed + i * 1315423911ull,
          [](double) { return wanted; }, in.settings.maxSamples);
      r.value[i] = float(seen.value);
      r.standardError[i] = float(seen.error);
      r.samples[i] = seen.rays;
    }
  });
  for (std::size_t i = 0; i < out.value.size(); ++i)
    out.unsettled += !std::isnan(out.value[i]) && double(out.standardError[i]) > wanted;
  return out;
}

LightResult runSkySeen(const LightInput& in, RunControl& control, Threads threads) {
  const auto& pieces = in.scene->pieces();
  return bySensor(in, control, threads, 4096, [&](std::size_t i) {
    const Sensor& s = in.sensors.sensors[i];
    const int room = in.sensors.groups[s.group].room;
    const SkyAbove sky(*in.scene, s);
    if (seenAnywhere(sky, mixed(in.settings.seed + i * 1315423911ull))) return 100.0;
    for (int own = 1; own >= 0; --own) // its own room's panes first, then those it may see through others
      for (const LightScene::Piece& piece : pieces)
        if ((room >= 0 && piece.room == room) == (own == 1) && seenThrough(sky, piece)) return 100.0;
    return 0.0;
  });
}

} // namespace noonward
