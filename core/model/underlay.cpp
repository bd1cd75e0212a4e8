#include "core/model/underlay.h"
#include "core/model/project.h"
#include <Eigen/LU>
#include <fmt/format.h>

namespace noonward {

namespace {

using Matrix = Eigen::Matrix3d;

std::array<double, 9> rows(const Matrix& m) {
  std::array<double, 9> out;
  for (int r = 0; r < 3; ++r)
    for (int c = 0; c < 3; ++c) out[std::size_t(3 * r + c)] = m(r, c);
  return out;
}

/// Nothing where the point goes beyond the horizon.
std::optional<Vec2> through(const std::array<double, 9>& m, Vec2 p) {
  const double w = m[6] * p.x + m[7] * p.y + m[8];
  if (!(w > 1e-12)) return {};
  return Vec2{(m[0] * p.x + m[1] * p.y + m[2]) / w, (m[3] * p.x + m[4] * p.y + m[5]) / w};
}

/// The projective map of four points to four others; w is positive at all of them.
Matrix quadToQuad(const std::array<Vec2, 4>& from, const std::array<Vec2, 4>& to) {
  Eigen::Matrix<double, 8, 8> a = Eigen::Matrix<double, 8, 8>::Zero();
  Eigen::Matrix<double, 8, 1> b;
  for (int i = 0; i < 4; ++i) {
    const Vec2 p = from[std::size_t(i)], q = to[std::size_t(i)];
    a.row(2 * i) << p.x, p.y, 1, 0, 0, 0, -q.x * p.x, -q.x * p.y;
    a.row(2 * i + 1) << 0, 0, 0, p.x, p.y, 1, -q.y * p.x, -q.y * p.y;
    b(2 * i) = q.x, b(2 * i + 1) = q.y;
  }
  const Eigen::Matrix<double, 8, 1> h = a.fullPivLu().solve(b);
  Matrix m;
  m << h(0), h(1), h(2), h(3), h(4), h(5), h(6), h(7), 1;
  if (m(2, 0) * from[0].x + m(2, 1) * from[0].y + 1 < 0) m = -m;
  return m;
}

/// Twice the area of each corner's triangle: all of one sign where the ring is convex and nothing lies on a line.
int turns(const std::array<Vec2, 4>& ring) {
  double all = 0;
  for (const Vec2& p : ring) all = std::max(all, length(p - ring[0]));
  int sign = 0;
  for (std::size_t i = 0; i < 4; ++i) {
    const double c = cross(ring[(i + 1) % 4] - ring[i], ring[(i + 2) % 4] - ring[(i + 1) % 4]);
    if (!(std::abs(c) > 1e-4 * all * all)) return 0;
    const int s = c > 0 ? 1 : -1;
    if (sign != 0 && s != sign) return 0;
    sign = s;
  }
  return sign;
}

} // namespace

UnderlayKind kindOf(const Underlay& u) {
  if (u.pins.size() != 4) return UnderlayKind::Plan;
  const auto [low, high] = std::minmax_element(u.pins.begin(), u.pins.end(),
                                               [](const auto& a, const auto& b) { return a.place.z < b.place.z; });
  return high->place.z - low->place.z < 0.01 ? UnderlayKind::Sheet : UnderlayKind::Facade;
}

std::optional<Vec3> PlaneMap::place(Vec2 pixel) const {
  const auto p = through(toPlane, pixel);
  if (!p) return {};
  return origin + right * p->x + up * p->y;
}

std::optional<Vec2> PlaneMap::pixel(Vec3 place) const {
  return through(toPicture, {dot(place - origin, right), dot(place - origin, up)});
}

Expected<PlaneMap> planeMapOf(const std::vector<UnderlayPin>& pins) {
  for (const UnderlayPin& p : pins)
    if (!finite(p.place) || !std::isfinite(p.pixel.x) || !std::isfinite(p.pixel.y))
      return fail("A pin of the picture has no number for its place.");
  PlaneMap out;
  Matrix m;
  if (pins.size() == 2) {
    const Vec2 a = pins[0].pixel, d = {pins[1].pixel.x - a.x, a.y - pins[1].pixel.y}; // y turned up
    const Vec3 way = pins[1].place - pins[0].place;
    if (!(length(d) >= 1)) return fail("The two spots of the picture lie on one another.");
    if (std::abs(way.z) > 0.01) return fail("The two places of a plan have to lie on one level.");
    if (!(length(way) > 1e-3)) return fail("The two places lie on one another.");
    out.origin = pins[0].place;
    out.right = {1, 0, 0};
    out.up = {0, 1, 0};
    // As complex numbers: way = s * d.
    const double l2 = dot(d, d), re = (way.x * d.x + way.y * d.y) / l2, im = (way.y * d.x - way.x * d.y) / l2;
    m << re, im, -re * a.x - im * a.y, im, -re, re * a.y - im * a.x, 0, 0, 1;
  } else if (pins.size() == 4) {
    const Vec3 o = pins[0].place, along = pins[1].place - o;
    Vec3 n; // by the diagonals, so that every corner counts
    n = cross(pins[2].place - o, pins[3].place - pins[1].place);
    if (!(length(along) > 1e-3) || !(length(n) > 1e-6)) return fail("The four places lie on one another or on a line.");
    n = normalized(n);
    for (const UnderlayPin& p : pins)
      if (std::abs(dot(p.place - o, n)) > 0.02) return fail("The four places do not lie on one plane.");
    out.origin = o;
    out.right = normalized(along - n * dot(along, n));
    out.up = cross(n, out.right);
    std::array<Vec2, 4> from, to;
    for (std::size_t i = 0; i < 4; ++i) {
      from[i] = pins[i].pixel;
      to[i] = {dot(pins[i].place - o, out.right), dot(pins[i].place - o, out.up)};
    }
    const int a = turns(from), b = turns(to);
    if (a == 0)
      return fail(
          "The four corners in the picture have to go round in order, with none on the line of its neighbours.");
    if (b == 0) return fail("The four places have to go round in order, with none on the line of its neighbours.");
    if (a == b)
      return fail("The corners in the picture go round the other way than their places: the picture would be "
                  "mirrored."); // y goes down in one and up in the other
    m = quadToQuad(from, to);
  } else {
    return fail(fmt::format("A picture lies by two pins or by four; this one has {}.", pins.size()));
  }
  out.toPlane = rows(m);
  Matrix back = m.inverse();
  if (!back.allFinite()) return fail("The picture can't be laid by these pins.");
  // Positive in front of the horizon, where the pins are.
  if (const Vec3 p = pins[0].place - out.origin;
      back(2, 0) * dot(p, out.right) + back(2, 1) * dot(p, out.up) + back(2, 2) < 0)
    back = -back;
  out.toPicture = rows(back);
  return out;
}

Expected<Underlay> withTrueDistance(Underlay u, double metres) {
  if (u.pins.size() != 2) return fail("Only a plan laid by two points is scaled by their distance.");
  if (!(metres > 0.001 && metres < 1e5)) return fail("The distance has to lie between a millimetre and 100 km.");
  const Vec3 way = u.pins[1].place - u.pins[0].place;
  u.pins[1].place = u.pins[0].place + (length(way) > 1e-9 ? normalized(way) : Vec3{1, 0, 0}) * metres;
  u.scaled = true;
  return u;
}

std::vector<UnderlayPin> facadePins(const std::array<Vec2, 4>& pixels, const WallRectangle& w) {
  const Vec3 up{0, 0, w.height}, right = w.right * w.width;
  return {{pixels[0], w.corner},
          {pixels[1], w.corner + right},
          {pixels[2], w.corner + right + up},
          {pixels[3], w.corner + up}};
}

std::optional<WallRectangle> wallOf(const std::vector<UnderlayPin>& pins) {
  if (pins.size() != 4) return {};
  const Vec3 right = pins[1].place - pins[0].place, up = pins[3].place - pins[0].place;
  if (std::abs(right.z) > 0.01 || std::hypot(up.x, up.y) > 0.01 || up.z < 1e-3 || length(right) < 1e-3) return {};
  if (length(pins[0].place + right + up - pins[2].place) > 0.01) return {};
  return WallRectangle{pins[0].place, normalized(right), length(right), up.z};
}

std::optional<WallRectangle> wallOf(const Project& project, ElementId id, Vec3 at, Vec3 normal) {
  const ElementPtr e = project.element(id);
  if (!e || std::hypot(normal.x, normal.y) < 0.7 * length(normal)) return {};
  const auto mesh = elementMesh(*e);
  if (!mesh) return {};
  // The wall's own plane: a click knows it to a few hundredths of a millimetre.
  const Vec3 towards = normalized(Vec3{normal.x, normal.y, 0});
  Vec3 sum;
  double depth = 0;
  std::size_t met = 0;
  for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) {
    const Triangle& k = (*mesh)->triangles[t];
    const auto off = [&](std::uint32_t v) { return dot((*mesh)->points[v] - at, towards); };
    if (std::max({std::abs(off(k[0])), std::abs(off(k[1])), std::abs(off(k[2]))}) > 0.02) continue;
    const Vec3 a = (*mesh)->areaVector(t);
    sum = sum + (dot(a, towards) < 0 ? -a : a);
    depth += off(k[0]) + off(k[1]) + off(k[2]);
    met += 3;
  }
  if (std::hypot(sum.x, sum.y) < 1e-9) return {};
  const Vec3 n = normalized(Vec3{sum.x, sum.y, 0}), right{-n.y, n.x, 0};
  at = at + towards * (depth / double(met));
  double low = 1e300, high = -1e300, foot = 1e300, head = -1e300;
  for (const Triangle& t : (*mesh)->triangles) {
    const auto off = [&](std::uint32_t v) { return std::abs(dot((*mesh)->points[v] - at, n)); };
    if (std::max({off(t[0]), off(t[1]), off(t[2])}) > 0.02) continue;
    for (std::uint32_t v : t) {
      const Vec3 p = (*mesh)->points[v];
      low = std::min(low, dot(p - at, right));
      high = std::max(high, dot(p - at, right));
      foot = std::min(foot, p.z);
      head = std::max(head, p.z);
    }
  }
  if (!(high - low > 0.05) || !(head - foot > 0.05)) return {};
  const Vec3 foot3 = at + right * low;
  return WallRectangle{{foot3.x, foot3.y, foot}, right, high - low, head - foot};
}

Vec2 onGuide(const Guide& g, Vec2 p) {
  const Vec2 d = g.b - g.a;
  const double l2 = dot(d, d);
  return l2 > 0 ? g.a + d * (dot(p - g.a, d) / l2) : g.a;
}

} // namespace noonward
