#include "core/proof/brute_force.h"
#include "core/light/glazing_optics.h"
#include "core/light/light_paths.h"
#include <cmath>
#include <random>

namespace noonward {

std::pair<double, double> bruteForce(const LightModel& m, Vec3 position, Vec3 normal, int paths) {
  struct T {
    Vec3 a, b, c, n;
    double reflectance;
    const GlazingOptics* glass;
  };
  std::vector<GlazingOptics> optics;
  for (const Glazing& g : m.glazings) optics.emplace_back(g);
  std::vector<T> all;
  for (const LightPart& p : m.parts)
    for (const Triangle& t : p.mesh->triangles) {
      const Vec3 a = p.mesh->points[t[0]], b = p.mesh->points[t[1]], c = p.mesh->points[t[2]];
      all.push_back({a, b, c, normalized(cross(b - a, c - a)), p.glazed ? 0 : m.finishes[p.material].reflectance,
                     p.glazed ? &optics[p.material] : nullptr});
    }
  std::mt19937_64 random(42);
  std::uniform_real_distribution<double> unit(0, 1);
  double sum = 0, square = 0;
  for (int k = 0; k < paths; ++k) {
    Vec3 o = position, n = normal;
    double w = 1, value = 0;
    Vec3 d = cosineDirection(n, unit(random), unit(random));
    for (int depth = 0; depth < 60; ++depth) {
      double best = 1e30;
      const T* hit = nullptr;
      for (const T& t : all) {
        const Vec3 e1 = t.b - t.a, e2 = t.c - t.a, h = cross(d, e2);
        const double det = dot(e1, h);
        if (std::abs(det) < 1e-12) continue;
        const Vec3 s = o - t.a;
        const double u = dot(s, h) / det;
        if (u < 0 || u > 1) continue;
        const Vec3 q = cross(s, e1);
        const double v = dot(d, q) / det, r = dot(e2, q) / det;
        if (v < 0 || u + v > 1 || r < 1e-7 || r > best) continue;
        best = r;
        hit = &t;
      }
      const double ground = d.z < 0 && o.z > m.groundLevel - 0.002 ? (m.groundLevel - 0.002 - o.z) / d.z : 1e30;
      if (!hit && ground > 1e29) {
        if (d.z > 0) value += w * 100 * 3 / 7.0 * (1 + 2 * d.z); // L/E of the overcast sky times π
        break;
      }
      if (ground < best) {
        o = o + d * ground + Vec3{0, 0, 1e-7};
        n = {0, 0, 1};
        w *= m.groundReflectance;
      } else if (hit->glass) {
        const double facing = std::abs(dot(hit->n, d)), through = hit->glass->straight(facing),
                     back = hit->glass->mirrored(facing);
        w *= through + back;
        o = o + d * best;
        if (unit(random) * (through + back) > through) d = d - hit->n * (2 * dot(d, hit->n));
        continue;
      } else {
        n = dot(hit->n, d) > 0 ? -hit->n : hit->n;
        o = o + d * best;
        w *= hit->reflectance;
      }
      if (w <= 0) break;
      if (depth > 4) { // roulette of its own
        if (unit(random) > 0.7) break;
        w /= 0.7;
      }
      d = cosineDirection(n, unit(random), unit(random));
    }
    sum += value;
    square += value * value;
  }
  const double mean = sum / paths;
  return {mean, std::sqrt((square / paths - mean * mean) / paths)};
}

} // namespace noonward
