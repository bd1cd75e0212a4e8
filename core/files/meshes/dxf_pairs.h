#pragma once
// Groups of a DXF file, a code and a value each, and the axes of entities.

#include "core/base/units.h"
#include "core/base/vec.h"
#include <charconv>
#include <cmath>
#include <optional>
#include <string>
#include <vector>

namespace noonward::dxf {

struct Pair {
  int code = 0;
  std::string_view value;
  std::size_t line = 0; ///< of the value, from 1
};

/// An entity with all its pairs; polylines carry their vertices.
struct Entity {
  std::string_view kind;
  std::size_t line = 0;
  std::vector<Pair> pairs;
  std::vector<std::vector<Pair>> vertices;
  std::string_view text(int code, std::string_view fallback = {}) const {
    for (const Pair& p : pairs)
      if (p.code == code) return p.value;
    return fallback;
  }
};

inline std::optional<double> real(std::string_view t) {
  double v = 0;
  if (!t.empty() && t.front() == '+') t.remove_prefix(1);
  const auto [stop, ec] = std::from_chars(t.data(), t.data() + t.size(), v);
  if (ec != std::errc{} || !std::isfinite(v)) return {};
  return v;
}

inline double realOf(const std::vector<Pair>& pairs, int code, double fallback = 0) {
  for (const Pair& p : pairs)
    if (p.code == code) return real(p.value).value_or(fallback);
  return fallback;
}
inline int wholeOf(const std::vector<Pair>& pairs, int code, int fallback = 0) {
  const double v = realOf(pairs, code, fallback);
  return std::abs(v) < 1e9 ? int(v) : fallback;
}
inline Vec3 pointOf(const std::vector<Pair>& pairs, int code) {
  return {realOf(pairs, code), realOf(pairs, code + 10), realOf(pairs, code + 20)};
}

/// Where an insert puts a block: x → axes·x + move.
struct Frame {
  Vec3 x{1, 0, 0}, y{0, 1, 0}, z{0, 0, 1}, move;
  Vec3 operator()(Vec3 p) const { return x * p.x + y * p.y + z * p.z + move; }
  Vec3 turned(Vec3 v) const { return x * v.x + y * v.y + z * v.z; }
  Frame of(const Frame& inner) const {
    return {turned(inner.x), turned(inner.y), turned(inner.z), (*this)(inner.move)};
  }
  double handed() const { return dot(cross(x, y), z); }
};

/// Axes of an entity whose extrusion direction is n: the arbitrary axis rule of the format.
inline Frame axesOf(Vec3 n) {
  n = normalized(n);
  if (!(length(n) > 0)) return {};
  const Vec3 x =
      normalized(std::abs(n.x) < 1.0 / 64 && std::abs(n.y) < 1.0 / 64 ? cross({0, 1, 0}, n) : cross({0, 0, 1}, n));
  return {x, cross(n, x), n, {}};
}
inline Frame axesOf(const std::vector<Pair>& pairs) {
  return axesOf({realOf(pairs, 210, 0), realOf(pairs, 220, 0), realOf(pairs, 230, 1)});
}

} // namespace noonward::dxf
