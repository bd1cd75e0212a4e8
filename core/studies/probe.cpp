#include "core/studies/probe.h"
#include "core/base/parallel.h"
#include <chrono>
#include <cmath>

namespace noonward {

namespace {

Vec3 toward(double trueAzimuth, double altitude, double northAngle) {
  const double a = trueAzimuth - northAngle, c = std::cos(altitude);
  return {std::sin(a) * c, std::cos(a) * c, std::sin(altitude)};
}

/// From the horizon up, the altitude at which the sky first opens for good steps, sharpened by bisection.
SkylineStep skylineAt(const Scene& scene, Vec3 p, double azimuth, double northAngle) {
  SkylineStep out{azimuth, 0, 0};
  constexpr double step = radiansPerDegree; // finer gaps near the horizon are not told apart
  const auto look = [&](double altitude) { return scene.firstHit(p, toward(azimuth, altitude, northAngle)).element; };
  double low = 1e-4;
  std::uint64_t element = look(low);
  if (!element) return out;
  double high = low;
  while (high < pi / 2 - 1e-6) {
    high = std::min(pi / 2 - 1e-6, low + step);
    const std::uint64_t next = look(high);
    if (!next) break;
    low = high;
    element = next;
  }
  while (high - low > radians(0.01)) {
    const double middle = 0.5 * (low + high);
    const std::uint64_t e = look(middle);
    (e ? low : high) = middle;
    if (e) element = e;
  }
  out.altitude = 0.5 * (low + high);
  out.element = element;
  return out;
}

} // namespace

ProbeState ProbeResult::at(Instant t) const {
  const double i = std::floor((t - yearStart) / probeStep);
  if (i < 0 || i >= double(year.size())) return ProbeState::Night;
  return year[std::size_t(i)];
}

ProbeResult probe(const Scene& scene, const ProbeInput& in, const Scene* glass) {
  const auto start = std::chrono::steady_clock::now();
  ProbeResult out;
  const Vec3 n = normalized(in.normal);
  const Vec3 p = in.position + n * 2e-3;

  out.skyline.resize(720);
  forChunks(720, 16, {}, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) out.skyline[i] = skylineAt(scene, p, radians(0.5 * double(i)), in.northAngle);
  });
  out.dome.element.resize(std::size_t(Dome::azimuths * Dome::altitudes));
  out.dome.role.resize(out.dome.element.size());
  if (glass) out.dome.glass.resize(out.dome.element.size());
  forChunks(Dome::altitudes, 4, {}, [&](std::size_t a, std::size_t b) {
    for (std::size_t h = a; h < b; ++h)
      for (int z = 0; z < Dome::azimuths; ++z) {
        const std::size_t cell = h * std::size_t(Dome::azimuths) + std::size_t(z);
        const Vec3 d = toward(radians(z + 0.5), radians(double(h) + 0.5), in.northAngle);
        const RayHit wall = scene.firstHit(p, d);
        out.dome.element[cell] = wall.element;
        out.dome.role[cell] = wall.role;
        if (!glass) continue;
        const RayHit pane = glass->firstHit(p, d);
        if (pane.hit() && (!wall.hit() || pane.distance < wall.distance)) out.dome.glass[cell] = pane.element;
      }
  });

  out.yearStart = in.zone.instant({{in.year, 1, 1}, 0});
  const Instant end = in.zone.instant({{in.year + 1, 1, 1}, 0});
  const auto count = std::size_t((end - out.yearStart) / probeStep);
  out.year.assign(count, ProbeState::Night);
  const SunKnots knots(out.yearStart, end);
  const auto days = (count + 287) / 288;
  std::vector<int> lit(days, 0);
  forChunks(days, 8, {}, [&](std::size_t a, std::size_t b) {
    for (std::size_t day = a; day < b; ++day) {
      const std::size_t first = day * 288, last = std::min(count, first + 288);
      const SunPath path(knots, in.place, in.northAngle, out.yearStart + double(first) * probeStep,
                         double(last - first) * probeStep);
      Rays8 rays{};
      std::size_t which[8];
      int filled = 0;
      const auto flush = [&] {
        for (int i = filled; i < 8; ++i) {
          rays.active[i] = 0;
          rays.x[i] = rays.y[i] = 0;
          rays.z[i] = 1;
        }
        scene.hidden8(p, rays);
        for (int i = 0; i < filled; ++i) {
          out.year[which[i]] = rays.hidden[i] ? ProbeState::Shade : ProbeState::Sun;
          lit[day] += !rays.hidden[i];
        }
        filled = 0;
      };
      for (std::size_t i = first; i < last; ++i) {
        const Vec3 d = path.direction((double(i - first) + 0.5) * probeStep);
        if (d.z <= 0) continue;
        if (dot(d, n) <= 0) {
          out.year[i] = ProbeState::Behind;
          continue;
        }
        which[filled] = i;
        rays.x[filled] = float(d.x);
        rays.y[filled] = float(d.y);
        rays.z[filled] = float(d.z);
        rays.active[filled] = -1;
        if (++filled == 8) flush();
      }
      if (filled) flush();
    }
  });
  for (int k : lit) out.sunHours += k * probeStep / 3600;
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return out;
}

} // namespace noonward
