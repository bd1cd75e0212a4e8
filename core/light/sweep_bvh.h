#pragma once
// Which triangles can come between a point and the sun at any time of a day? A tree of boxes in float32 (rounded
// outward) over triangles in double, walked with a test against the sun's whole daily way instead of one ray: a box is
// passed over where the sphere around it, seen from the point, stays clear of the sun's band of declination, of the
// hours asked for, or below the point.

#include "core/base/vec.h"
#include "core/sun/sun_path.h"
#include <array>
#include <cstdint>
#include <vector>

namespace noonward {

class SweepBvh {
public:
  using Corner = std::array<Vec3, 3>;
  explicit SweepBvh(std::vector<Corner> triangles);

  /// Appends the stretches of `spans` during which a triangle hides the sun from p, unsorted, overlapping.
  /// `charge`, where given, is called with (triangle, stretch) for every one.
  template <class Take> void shade(Vec3 p, const SunPath& path, const Intervals& spans, Take&& take) const;

private:
  struct Node {
    float low[3], high[3];
    std::uint32_t first; // leaf: first triangle; inner: right child (the left one follows)
    std::uint32_t count; // 0 for inner nodes
  };
  void build(std::uint32_t first, std::uint32_t count, int depth);
  std::vector<Corner> triangles_;
  std::vector<std::uint32_t> number_; // place in the tree -> triangle as given
  std::vector<Node> nodes_;
};

/// The stretches of `span` in which the triangle hides the sun from p.
void trianglesShade(const SweepBvh::Corner& triangle, Vec3 p, const SunPath& path, Interval span, Intervals& out);

// ---- inline part ------------------------------------------------------------------------------------------------

/// The sun's band as seen from a point, against spheres.
class SunBand {
public:
  SunBand(const SunPath& path, const Intervals& spans);
  /// Could a sphere at v (from the point), of radius r, touch the band?
  bool touches(Vec3 v, double r) const {
    const double d2 = dot(v, v);
    if (d2 <= r * r) return true;
    // Angles are compared by their sines and cosines: this is asked a thousand times for each point.
    constexpr double slack = 1e-9;
    const double d = std::sqrt(d2), s = r / d, cosHalf = std::sqrt(1 - s * s); // of the sphere's half angle
    const double sinD = dot(v, pole_) / d, cosD = std::sqrt(std::max(0.0, 1 - sinD * sinD));
    if (s < cosLow_ && sinD < sinLow_ * cosHalf - cosLow_ * s - slack) return false;
    if (s < cosHigh_ && sinD > sinHigh_ * cosHalf + cosHigh_ * s + slack) return false;
    if (s >= cosD) return true;   // the sphere reaches round the pole
    const double wide = s / cosD; // sine of what it takes of hours, to each side
    if (halfHours_ >= pi / 2 && wide >= sinHours_) return true;
    const double away = (dot(v, meridian_) * cosMiddle_ + dot(v, west_) * sinMiddle_) / (d * cosD);
    return away >= cosHours_ * std::sqrt(std::max(0.0, 1 - wide * wide)) - sinHours_ * wide - slack;
  }

private:
  Vec3 pole_, meridian_, west_;
  double sinLow_, cosLow_, sinHigh_, cosHigh_, sinMiddle_, cosMiddle_, halfHours_, sinHours_, cosHours_;
};

template <class Take> void SweepBvh::shade(Vec3 p, const SunPath& path, const Intervals& spans, Take&& take) const {
  if (nodes_.empty() || spans.empty()) return;
  const SunBand band(path, spans);
  std::uint32_t stack[96];
  int top = 0;
  stack[top++] = 0;
  Intervals found;
  while (top > 0) {
    const std::uint32_t at = stack[--top];
    const Node& n = nodes_[at];
    if (double(n.high[2]) <= p.z) continue; // the sun is above the horizon, this is not
    const Vec3 lo{n.low[0], n.low[1], n.low[2]}, hi{n.high[0], n.high[1], n.high[2]};
    if (!band.touches((lo + hi) * 0.5 - p, length(hi - lo) * 0.5 * 1.000001)) continue;
    if (n.count == 0) {
      stack[top++] = n.first;
      stack[top++] = at + 1;
      continue;
    }
    for (std::uint32_t i = n.first; i < n.first + n.count; ++i) {
      found.clear();
      for (const Interval& span : spans) trianglesShade(triangles_[i], p, path, span, found);
      for (const Interval& f : found) take(number_[i], f);
    }
  }
}

} // namespace noonward
