#include "core/light/patches.h"
#include "core/light/light_paths.h"
#include <algorithm>
#include <atomic>
#include <cmath>

namespace noonward {

Patches::Patches(const LightScene& scene, double size, const std::vector<bool>& also) : scene_(scene) {
  const std::size_t n = scene.surfaces().size();
  first_.assign(n, none);
  cuts_.assign(n, 0);
  for (std::uint32_t t = 0; t < n; ++t) {
    if (scene.roomOf(t) < 0 && (also.empty() || !also[t])) continue;
    const auto c = scene.corners(t);
    const double longest = std::max({length(c[1] - c[0]), length(c[2] - c[1]), length(c[0] - c[2])});
    const auto m = std::uint32_t(std::clamp(std::ceil(longest / size), 1.0, 200.0));
    if (count_ + 4ull * m * m > 4'000'000) break; // what is left has no memory and goes on as before
    first_[t] = std::uint32_t(count_);
    cuts_[t] = m;
    with_.push_back(t);
    count_ += 4ull * m * m;
  }
}

Patches::Place Patches::at(std::uint32_t patch, double a, double b) const {
  const auto after = std::upper_bound(with_.begin(), with_.end(), patch,
                                      [&](std::uint32_t p, std::uint32_t t) { return p < first_[t]; });
  const std::uint32_t t = *(after - 1), m = cuts_[t];
  const std::uint32_t k = patch - first_[t], side = k % 2, upper = k / 2 % 2, cell = k / 4, i = cell / m, j = cell % m;
  const double s = std::sqrt(a), x = 1 - s, y = b * s; // even over a triangle
  double u = (i + x) / m, v = (j + y) / m;
  if (upper) {
    u = (i + 1 - x) / m;
    v = (j + 1 - y) / m;
  }
  const auto c = scene_.corners(t);
  const auto& n = scene_.surfaces()[t].normal;
  const Vec3 normal{n[0], n[1], n[2]};
  return {c[0] * (1 - u - v) + c[1] * u + c[2] * v, side == 0 ? normal : -normal, scene_.roomOf(t)};
}

std::vector<bool> shutIn(const LightScene& scene, std::span<const Sensor> sensors, std::uint64_t seed, Threads threads,
                         double share) {
  constexpr std::uint32_t rays = 96;
  std::vector<std::uint8_t> shut(sensors.size(), 0);
  forChunks(sensors.size(), 16, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      const Vec3 normal = sensors[i].normalVector(),
                 o = sensors[i].position + normal * LightPaths<int>::offset(sensors[i].position);
      std::uint32_t open = 0;
      for (std::uint32_t k = 0; k < rays; ++k) {
        const ScrambledPoint q(mixed(seed + 57 * i), k);
        const Vec3 d = cosineDirection(normal, q[0], q[1]);
        open += d.z > 0 && !scene.blocked(o, d, 0, 1e30);
      }
      shut[i] = open < share * rays;
    }
  });
  return {shut.begin(), shut.end()};
}

std::vector<bool> surroundings(const LightScene& scene, std::span<const Sensor> sensors, std::uint32_t rays,
                               std::uint64_t seed, Threads threads) {
  std::vector<std::atomic<bool>> met(scene.surfaces().size());
  forChunks(sensors.size(), 16, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      const Vec3 normal = sensors[i].normalVector(),
                 o = sensors[i].position + normal * LightPaths<int>::offset(sensors[i].position);
      for (std::uint32_t k = 0; k < rays; ++k) {
        const ScrambledPoint q(mixed(seed + 41 * i), k);
        const Vec3 d = cosineDirection(normal, q[0], q[1]);
        const LightScene::Hit wall = scene.opaque(o, d, 0, 1e30);
        if (wall.any() && !scene.glass(o, d, 0, wall.distance).any())
          met[wall.triangle].store(true, std::memory_order_relaxed);
      }
    }
  });
  return {met.begin(), met.end()};
}

SeenPatches seenPatches(const LightScene& scene, const Patches& patches, std::span<const Sensor> sensors,
                        std::uint32_t rays, std::uint64_t seed, Threads threads, std::uint32_t least) {
  std::vector<std::atomic<std::uint32_t>> met(patches.count());
  forChunks(sensors.size(), 16, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      const Sensor& s = sensors[i];
      const Vec3 normal = s.normalVector(), o = s.position + normal * LightPaths<int>::offset(s.position);
      for (std::uint32_t k = 0; k < rays; ++k) {
        const ScrambledPoint q(mixed(seed + 31 * i), k);
        const Vec3 d = cosineDirection(normal, q[0], q[1]);
        const LightScene::Hit h = scene.opaque(o, d, 0, 1e30);
        if (!h.any()) continue;
        const auto& face = scene.surfaces()[h.triangle].normal;
        const std::uint32_t patch =
            patches.of(h.triangle, double(h.u), double(h.v), dot(Vec3{face[0], face[1], face[2]}, d) <= 0);
        if (patch != Patches::none) met[patch].fetch_add(1, std::memory_order_relaxed);
      }
    }
  });
  SeenPatches out{std::vector<std::int32_t>(patches.count(), -1), {}};
  for (std::uint32_t p = 0; p < patches.count(); ++p)
    if (met[p] >= least) {
      out.slot[p] = std::int32_t(out.wanted.size());
      out.wanted.push_back(p);
    }
  return out;
}

} // namespace noonward
