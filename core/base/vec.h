#pragma once
// Vectors in double precision. Axes of every project: x east, y north (before the north angle), z up. Metres.

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace noonward {

struct Vec2 {
  double x = 0, y = 0;
  bool operator==(const Vec2&) const = default;
};
inline Vec2 operator+(Vec2 a, Vec2 b) {
  return {a.x + b.x, a.y + b.y};
}
inline Vec2 operator-(Vec2 a, Vec2 b) {
  return {a.x - b.x, a.y - b.y};
}
inline Vec2 operator*(Vec2 a, double s) {
  return {a.x * s, a.y * s};
}
inline double dot(Vec2 a, Vec2 b) {
  return a.x * b.x + a.y * b.y;
}
/// z of the cross product: positive where b lies to the left of a.
inline double cross(Vec2 a, Vec2 b) {
  return a.x * b.y - a.y * b.x;
}
inline double length(Vec2 a) {
  return std::hypot(a.x, a.y);
}

struct Vec3 {
  double x = 0, y = 0, z = 0;
  bool operator==(const Vec3&) const = default;
};
inline Vec3 operator+(Vec3 a, Vec3 b) {
  return {a.x + b.x, a.y + b.y, a.z + b.z};
}
inline Vec3 operator-(Vec3 a, Vec3 b) {
  return {a.x - b.x, a.y - b.y, a.z - b.z};
}
inline Vec3 operator-(Vec3 a) {
  return {-a.x, -a.y, -a.z};
}
inline Vec3 operator*(Vec3 a, double s) {
  return {a.x * s, a.y * s, a.z * s};
}
inline double dot(Vec3 a, Vec3 b) {
  return a.x * b.x + a.y * b.y + a.z * b.z;
}
inline Vec3 cross(Vec3 a, Vec3 b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline double length(Vec3 a) {
  return std::sqrt(dot(a, a));
}
/// Unit vector; the zero vector stays zero.
inline Vec3 normalized(Vec3 a) {
  const double l = length(a);
  return l > 0 ? a * (1 / l) : a;
}
inline Vec2 xy(Vec3 a) {
  return {a.x, a.y};
}
inline bool finite(Vec3 a) {
  return std::isfinite(a.x) && std::isfinite(a.y) && std::isfinite(a.z);
}

/// Axis-aligned box; empty until something is added.
struct Box3 {
  Vec3 low{std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity(),
           std::numeric_limits<double>::infinity()};
  Vec3 high{-std::numeric_limits<double>::infinity(), -std::numeric_limits<double>::infinity(),
            -std::numeric_limits<double>::infinity()};
  bool empty() const { return low.x > high.x; }
  void add(Vec3 p) {
    low = {std::min(low.x, p.x), std::min(low.y, p.y), std::min(low.z, p.z)};
    high = {std::max(high.x, p.x), std::max(high.y, p.y), std::max(high.z, p.z)};
  }
  void addBox(const Box3& b) {
    if (!b.empty()) {
      add(b.low);
      add(b.high);
    }
  }
  Vec3 size() const { return empty() ? Vec3{} : high - low; }
  Vec3 center() const { return empty() ? Vec3{} : (low + high) * 0.5; }
};

inline constexpr double pi = std::numbers::pi;
inline constexpr double radiansPerDegree = pi / 180;
inline double radians(double degrees) {
  return degrees * radiansPerDegree;
}
inline double degrees(double radians) {
  return radians / radiansPerDegree;
}
/// Angle in [0, 2π).
inline double wrapTwoPi(double a) {
  a = std::fmod(a, 2 * pi);
  return a < 0 ? a + 2 * pi : a;
}
/// Angle in (-π, π].
inline double wrapPi(double a) {
  a = wrapTwoPi(a);
  return a > pi ? a - 2 * pi : a;
}

} // namespace noonward
