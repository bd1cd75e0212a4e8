#include "core/light/sweep_bvh.h"
#include "core/base/tolerances.h"
#include <algorithm>
#include <cmath>
#include <numeric>

namespace noonward {

SunBand::SunBand(const SunPath& path, const Intervals& spans)
    : pole_(path.pole()), meridian_(path.meridian()), west_(path.west()) {
  // Topocentric: parallax lowers the sun by at most 0.0025°.
  constexpr double parallax = 5e-5;
  const double low = path.leastDeclination() - parallax, high = path.mostDeclination() + parallax;
  sinLow_ = std::sin(low);
  cosLow_ = std::cos(low);
  sinHigh_ = std::sin(high);
  cosHigh_ = std::cos(high);
  const double a = path.hourAngleAt(spans.front().begin), b = path.hourAngleAt(spans.back().end);
  sinMiddle_ = std::sin(0.5 * (a + b));
  cosMiddle_ = std::cos(0.5 * (a + b));
  halfHours_ = std::min(pi, 0.5 * (b - a) + parallax * 10);
  sinHours_ = std::sin(halfHours_);
  cosHours_ = std::cos(halfHours_);
}

void trianglesShade(const SweepBvh::Corner& t, Vec3 p, const SunPath& path, Interval span, Intervals& out) {
  const Vec3 a = t[0] - p, b = t[1] - p, c = t[2] - p;
  const Vec3 bc = cross(b, c), ca = cross(c, a), ab = cross(a, b);
  const double det = dot(a, bc);
  const Vec3 twice =
      bc + ca + ab; // its area vector, doubled: however small the triangle, what counts is how its plane lies
  if (det * det <= tolerance::edgeOn * tolerance::edgeOn * dot(a, a) * dot(twice, twice)) return; // seen edge-on
  const double sign = det > 0 ? 1 : -1;
  // The sun is behind the triangle where it lies on the inner side of the three planes through p and an edge.
  const SunPath::Side sides[3] = {path.side(bc * sign), path.side(ca * sign), path.side(ab * sign)};
  for (const auto& s : sides)
    if (!path.mayBePositive(s)) return;
  Intervals first, second;
  path.positive(sides[0], span, first);
  for (const Interval& i : first) path.positive(sides[1], i, second);
  for (const Interval& i : second) path.positive(sides[2], i, out);
}

SweepBvh::SweepBvh(std::vector<Corner> triangles) : triangles_(std::move(triangles)) {
  number_.resize(triangles_.size());
  std::iota(number_.begin(), number_.end(), 0u);
  if (triangles_.empty()) return;
  nodes_.reserve(triangles_.size());
  build(0, std::uint32_t(triangles_.size()), 0);
  std::vector<Corner> sorted(triangles_.size());
  for (std::size_t i = 0; i < sorted.size(); ++i) sorted[i] = triangles_[number_[i]];
  triangles_ = std::move(sorted);
}

void SweepBvh::build(std::uint32_t first, std::uint32_t count, int depth) {
  Box3 box, middles;
  const auto middle = [&](std::uint32_t i) {
    return (triangles_[i][0] + triangles_[i][1] + triangles_[i][2]) * (1.0 / 3);
  };
  for (std::uint32_t i = first; i < first + count; ++i) {
    for (const Vec3& p : triangles_[number_[i]]) box.add(p);
    middles.add(middle(number_[i]));
  }
  const std::size_t self = nodes_.size();
  const auto down = [](double v) { return std::nextafter(float(v), -INFINITY); };
  const auto up = [](double v) { return std::nextafter(float(v), INFINITY); };
  nodes_.push_back({{down(box.low.x), down(box.low.y), down(box.low.z)},
                    {up(box.high.x), up(box.high.y), up(box.high.z)},
                    first,
                    count});
  const Vec3 s = middles.size();
  if (count <= 4 || depth >= 60 || std::max({s.x, s.y, s.z}) <= 0) return;
  const auto axis = [&](Vec3 v) { return s.x >= s.y && s.x >= s.z ? v.x : s.y >= s.z ? v.y : v.z; };
  const auto begin = number_.begin() + first;
  std::nth_element(begin, begin + count / 2, begin + count, [&](std::uint32_t i, std::uint32_t j) {
    const double a = axis(middle(i)), b = axis(middle(j));
    return a != b ? a < b : i < j;
  });
  nodes_[self].count = 0;
  build(first, count / 2, depth + 1);
  nodes_[self].first = std::uint32_t(nodes_.size());
  build(first + count / 2, count - count / 2, depth + 1);
}

} // namespace noonward
