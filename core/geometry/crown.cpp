#include "core/geometry/crown.h"
#include "core/base/units.h"
#include <algorithm>
#include <cmath>
#include <cstdint>

namespace noonward {

namespace {

constexpr int rings = 8, sides = 12; // of a whole crown
constexpr int leaves = 600;

/// The same numbers for every tree: a crown must not change when it is moved.
class Numbers {
public:
  double next() { // splitmix64
    state_ += 0x9e3779b97f4a7c15ULL;
    std::uint64_t z = state_;
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
    return double((z ^ (z >> 31)) >> 11) * 0x1p-53;
  }

private:
  std::uint64_t state_ = 20260621;
};

/// Sum over slices of the body.
template <class F> double over(const CrownSize& s, F&& slice) {
  constexpr int n = 400;
  double sum = 0;
  for (int i = 0; i < n; ++i)
    sum += slice(crownRadius(s, double(i) / n), crownRadius(s, double(i + 1) / n), s.height / n);
  return sum;
}

} // namespace

double crownRadius(const CrownSize& s, double t) {
  const double r = s.width / 2;
  t = std::clamp(t, 0.0, 1.0);
  switch (s.crown) {
  case Crown::Ball:
    return r * std::sqrt(std::max(0.0, 1 - (2 * t - 1) * (2 * t - 1)));
  case Crown::Cone:
    return r * (1 - t);
  case Crown::Column:
    return r;
  case Crown::Umbrella:
    return r * std::sqrt(std::max(0.0, 1 - t * t));
  }
  return r;
}

double crownVolume(const CrownSize& s) {
  return over(s, [](double a, double b, double dz) { return pi / 3 * (a * a + a * b + b * b) * dz; });
}

double leafArea(const CrownSize& s, double passes) {
  passes = std::clamp(passes, 0.01, 0.99);
  // Chords of rays from all over the sky that meet the crown, spread evenly (Kronecker's sequence in four dimensions).
  constexpr int rays = 1000, steps = 64;
  const double reach = std::hypot(s.width, s.height) / 2;
  const Vec3 middle{0, 0, s.height / 2};
  std::vector<double> chords;
  for (int k = 0; k < rays; ++k) {
    const auto u = [&](double step) { return std::fmod(0.5 + k * step, 1.0); };
    const double z = u(0.8566748838545029), round = 2 * pi * u(0.7338918566271260), flat = std::sqrt(1 - z * z);
    const Vec3 d{flat * std::cos(round), flat * std::sin(round), z};
    const Vec3 a = normalized(cross(d, std::abs(z) < 0.9 ? Vec3{0, 0, 1} : Vec3{1, 0, 0})), b = cross(d, a);
    const Vec3 from = middle + a * (reach * (2 * u(0.6287067210378087) - 1)) +
                      b * (reach * (2 * u(0.5385972572236101) - 1)) - d * reach;
    const auto inside = [&](double t) {
      const Vec3 q = from + d * t;
      return q.z >= 0 && q.z <= s.height && std::hypot(q.x, q.y) <= crownRadius(s, q.z / s.height);
    };
    const double step = 2 * reach / steps;
    double first = -1, last = -1;
    for (int i = 0; i <= steps; ++i)
      if (inside(i * step)) {
        if (first < 0) first = i * step;
        last = i * step;
      }
    if (first < 0) continue;
    double before = first - step, after = last + step;
    for (int i = 0; i < 8; ++i) {
      const double m = (before + first) / 2, n = (last + after) / 2;
      (inside(m) ? first : before) = m;
      (inside(n) ? last : after) = n;
    }
    chords.push_back(last - first);
  }
  double low = 0, high = 200 / reach; // leaf area in half the volume, for each metre of chord
  for (int k = 0; k < 40 && !chords.empty(); ++k) {
    const double middle1 = (low + high) / 2;
    double share = 0;
    for (double l : chords) share += std::exp(-middle1 * l);
    (share > passes * double(chords.size()) ? low : high) = middle1;
  }
  return 2 * crownVolume(s) * low;
}

Mesh solidCrown(const CrownSize& s) {
  Mesh m;
  const auto at = [&](int ring, int side) {
    const double t = double(ring) / rings, r = crownRadius(s, t), angle = 2 * pi * side / sides;
    m.points.push_back({r * std::cos(angle), r * std::sin(angle), t * s.height});
  };
  for (int ring = 0; ring <= rings; ++ring)
    for (int side = 0; side < sides; ++side) at(ring, side);
  const auto index = [](int ring, int side) { return std::uint32_t(ring * sides + side % sides); };
  const auto low = std::uint32_t(m.points.size());
  m.points.push_back({0, 0, 0});
  m.points.push_back({0, 0, s.height});
  const double least = 1e-6 * s.width; // a ring that is a point has no quads, and no lid
  for (int side = 0; side < sides; ++side) {
    for (int ring = 0; ring < rings; ++ring) {
      const std::uint32_t a = index(ring, side), b = index(ring, side + 1), c = index(ring + 1, side + 1),
                          d = index(ring + 1, side);
      if (crownRadius(s, double(ring) / rings) > least) m.triangles.push_back({a, b, c});
      if (crownRadius(s, double(ring + 1) / rings) > least) m.triangles.push_back({a, c, d});
    }
    if (crownRadius(s, 0) > least) m.triangles.push_back({low, index(0, side + 1), index(0, side)});
    if (crownRadius(s, 1) > least) m.triangles.push_back({low + 1, index(rings, side), index(rings, side + 1)});
  }
  m.face.assign(m.triangles.size(), 1);
  return m;
}

Mesh leavesOf(const CrownSize& s, double passes) {
  Mesh m;
  const double half = std::sqrt(leafArea(s, passes) / leaves) / 2;
  Numbers u;
  for (int placed = 0, tries = 0; placed < leaves && tries < 200 * leaves; ++tries) {
    const double x = s.width * (u.next() - 0.5), y = s.width * (u.next() - 0.5), t = u.next();
    // Uniform directions, turned at random in their plane.
    const double z = 2 * u.next() - 1, round = 2 * pi * u.next(), spin = 2 * pi * u.next();
    if (std::hypot(x, y) > crownRadius(s, t)) continue;
    ++placed;
    const double flat = std::sqrt(1 - z * z);
    const Vec3 n{flat * std::cos(round), flat * std::sin(round), z};
    const Vec3 a = normalized(cross(n, std::abs(n.z) < 0.9 ? Vec3{0, 0, 1} : Vec3{1, 0, 0})), b = cross(n, a);
    const Vec3 along = (a * std::cos(spin) + b * std::sin(spin)) * half,
               across = (b * std::cos(spin) - a * std::sin(spin)) * half, c{x, y, t * s.height};
    const auto first = std::uint32_t(m.points.size());
    m.points.insert(m.points.end(), {c - along - across, c + along - across, c + along + across, c - along + across});
    m.triangles.push_back({first, first + 1, first + 2});
    m.triangles.push_back({first, first + 2, first + 3});
  }
  m.face.assign(m.triangles.size(), 1);
  return m;
}

} // namespace noonward
