#pragma once
// Light followed backward from a sensor: where each path ends on the sky, through which window group, with what weight.
//
// A sensor's illuminance is ∫ L cos θ dω. Two strategies look at it at every surface: directions aimed at the panes
// that matter (a piece by its likely share, a point on it by area), and directions by the cosine. What comes straight
// through an aimed-at pane is seen by both and weighed by the balance heuristic (Veach 1997, 9.2.4); everything else by
// the cosine alone. Paths end by Russian roulette, so interreflections are complete and nothing is biased. Sunlight is
// added at every surface by a ray toward a point of the sun's disc; and since its patches in a room are small and
// bright, they are aimed at too, by following the beam in through a pane, weighted against meeting them by the cosine.
// The mirrored part of a finish spreads sunlight as if it were diffuse. docs/methods.md gives the reasoning.
//
// Vectors point away from the surface they start at. Weights are illuminance for each unit of luminance (sr), or for
// each unit of beam illuminance on a plane facing the sun.

#include "core/light/light_scene.h"
#include "core/light/patches.h"
#include "core/light/ray_offset.h"
#include "core/light/sampler.h"
#include "core/sky/radiant_sky.h"
#include <cmath>
#include <optional>

namespace noonward {

/// The panes a sensor's paths aim at, sorted, with what is asked of them at every surface; empty where the sky is open.
struct Aim {
  std::vector<std::uint32_t> pieces;
  std::vector<float> x, y, z, nx, ny, nz, area;
  std::vector<double> sun; ///< area facing the sun times transmittance
  double sunSum = 0;
  bool empty() const { return pieces.empty(); }
  std::size_t indexOf(std::uint32_t piece) const {
    const auto at = std::lower_bound(pieces.begin(), pieces.end(), piece);
    return at != pieces.end() && *at == piece ? std::size_t(at - pieces.begin()) : none;
  }
  static constexpr std::size_t none = ~std::size_t{0};
};
/// `pieces` in any order, once each.
Aim makeAim(const LightScene& scene, std::vector<std::uint32_t> pieces, const std::optional<Vec3>& sun);

/// Half angle of the sun's disc, rad: 0.533° across.
inline constexpr double sunRadius = 0.2665 * radiansPerDegree;

struct Frame {
  Vec3 u, v;
  explicit Frame(Vec3 n) {
    u = normalized(cross(std::abs(n.z) < 0.9 ? Vec3{0, 0, 1} : Vec3{1, 0, 0}, n));
    v = cross(n, u);
  }
};
inline Vec3 cosineDirection(Vec3 n, double a, double b) {
  const Frame f(n);
  const double r = std::sqrt(a), turn = 2 * pi * b;
  return f.u * (r * std::cos(turn)) + f.v * (r * std::sin(turn)) + n * std::sqrt(std::max(0.0, 1 - a));
}
inline Vec3 inDisc(Vec3 axis, double radius, double a, double b) {
  const Frame f(axis);
  const double r = radius * std::sqrt(a), turn = 2 * pi * b;
  return normalized(axis + f.u * (r * std::cos(turn)) + f.v * (r * std::sin(turn)));
}

/// Sink: void sky(group, direction, weight, straight), `straight` where no surface has reflected or scattered it; void
/// sun(group, weight); void pane(group, weight), illuminance for each unit of luminance that a pane first met from
/// inside might have; and bool known(patch, group, weight), which takes what is remembered of a patch (illuminance
/// without the beam that falls on it, times weight) or refuses, and the path goes on.
template <class Sink> class LightPaths {
public:
  LightPaths(const LightScene& scene, std::optional<Vec3> sun, bool reflections, const Patches* patches = nullptr)
      : scene_(scene), sun_(sun), reflections_(reflections), patches_(patches) {}
  /// Under the suns of many hours; none is aimed at, and what falls on the sensor straight is left to whoever asks.
  LightPaths(const LightScene& scene, const RadiantSky& suns)
      : scene_(scene), suns_(suns.beam() > 0 ? &suns : nullptr), reflections_(true), patches_(nullptr) {}

  /// One sample of the sensor at x looking along n. `q` holds the first decisions, `random` all later ones.
  /// `beam`: with the sun that falls on x itself.
  void sample(Vec3 x, Vec3 n, const Aim& aim, const ScrambledPoint& q, HashStream& random, Sink& sink,
              bool beam = true) {
    const Vec3 o = x + n * offset(x);
    if (sun_ && beam) {
      const Vec3 s = inDisc(*sun_, sunRadius, q[5], q[6]);
      const double c = dot(n, s);
      if (c > 0) {
        const Straight way = along(o, s, 0, aim);
        if (way.share > 0) sink.sun(way.group, c * way.share);
      }
    }
    if (&aim != sensorAim_ || !(x == sensorAt_) || !(n == sensorNormal_)) { // many samples share a sensor
      sensorAim_ = &aim;
      sensorAt_ = x;
      sensorNormal_ = n;
      weigh(o, n, aim, sensor_);
    }
    const bool patches = beamPatch(o, n, aim, {pi, 1}, random, sink);
    if (sensor_.sum > 0) aimed(o, n, aim, sensor_, {pi, 1}, q[0], q[1], q[2], true, random, sink);
    if (suns_) first_ = {q[7], q[5], q[6]};
    Mode m;
    m.straight = true;
    m.counted = sensor_.sum > 0;
    m.indoors = !aim.empty();
    m.normal = n;
    m.weights = &sensor_;
    m.patches = patches;
    travel(o, cosineDirection(n, q[3], q[4]), 0, {pi, 1}, 0, m, aim, random, sink);
  }

  /// A path from outside a pane of `group`: what falls on it along d, times weight.
  void follow(Vec3 o, Vec3 d, double weight, std::uint32_t group, HashStream& random, Sink& sink) {
    const Aim nothing{};
    Mode m;
    m.straight = true;
    travel(o, d, 0, {weight, 1}, group, m, nothing, random, sink);
  }

  /// The first panes met by short cosine walks, and whether the sky is in plain sight: for choosing an aim.
  template <class Seen> double pilot(Vec3 x, Vec3 n, HashStream& random, int walks, Seen&& seen) const {
    int open = 0;
    for (int w = 0; w < walks; ++w) {
      Vec3 o = x + n * offset(x), face = n;
      for (int depth = 0; depth < 4; ++depth) {
        const Vec3 d = cosineDirection(face, random.next(), random.next());
        const LightScene::Hit wall = scene_.opaque(o, d, 0, 1e30), pane = scene_.glass(o, d, 0, wall.distance);
        if (pane.any()) {
          seen(pane.triangle);
          break;
        }
        if (!wall.any()) {
          open += depth == 0 && d.z > 0;
          break;
        }
        const auto& s = scene_.surfaces()[wall.triangle];
        face = Vec3{s.normal[0], s.normal[1], s.normal[2]};
        if (dot(face, d) > 0) face = -face;
        const Vec3 p = o + d * wall.distance;
        o = p + face * offset(p);
      }
    }
    return double(open) / walks;
  }

  double weightOf(Vec3 x, Vec3 n, const LightScene::Piece& p) const {
    if (dot(n, p.a - x) <= 0 && dot(n, p.b - x) <= 0 && dot(n, p.c - x) <= 0) return 0;
    const Vec3 c = p.center() - x;
    const double r2 = dot(c, c), r = std::sqrt(r2);
    if (!(r > 0)) return 0;
    return p.area * std::max(0.05, dot(n, c) / r) * std::max(0.02, std::abs(dot(p.normal, c)) / r) /
           (r2 + 0.3 * p.area);
  }

  static double offset(Vec3 p) { return rayOffsetAt(p); }

private:
  /// How likely each piece of an aim is taken from one place.
  struct Weights {
    std::vector<float> each;
    double sum = 0;
  };
  static void weigh(Vec3 at, Vec3 n, const Aim& aim, Weights& out) {
    const std::size_t size = aim.pieces.size();
    out.each.resize(size);
    const float px = float(at.x), py = float(at.y), pz = float(at.z), ax = float(n.x), ay = float(n.y), az = float(n.z);
    float* w = out.each.data();
    const float *qx = aim.x.data(), *qy = aim.y.data(), *qz = aim.z.data(), *mx = aim.nx.data(), *my = aim.ny.data(),
                *mz = aim.nz.data(), *area = aim.area.data();
    for (std::size_t k = 0; k < size; ++k) {
      const float cx = qx[k] - px, cy = qy[k] - py, cz = qz[k] - pz, r2 = cx * cx + cy * cy + cz * cz + 1e-6f;
      const float inverse = 1 / std::sqrt(r2), ahead = (ax * cx + ay * cy + az * cz) * inverse;
      const float facing = std::abs(mx[k] * cx + my[k] * cy + mz[k] * cz) * inverse;
      const float margin = std::sqrt(area[k]) * inverse; // part of it may stand above the surface's own plane
      const float value = area[k] * std::max(0.05f, ahead) * std::max(0.02f, facing) / (r2 + 0.3f * area[k]);
      w[k] = ahead + margin > 0 ? value : 0.0f;
    }
    out.sum = 0;
    for (std::size_t k = 0; k < size; ++k) out.sum += double(w[k]);
  }

  /// Density per solid angle with which aiming from x meets pane k of the aim at y.
  static double density(const LightScene::Piece& p, std::size_t k, const Weights& w, Vec3 d, double distance) {
    const double facing = std::abs(dot(p.normal, d));
    return facing > 1e-9 ? double(w.each[k]) / w.sum * distance * distance / (p.area * facing) : 0;
  }

  /// What is left of light coming straight down a ray, the group it is charged to (LightScene::charged), and the first
  /// aimed-at pane from here.
  struct Straight {
    double share = 0;
    std::uint32_t group = 0;
    std::size_t first = Aim::none;
  };
  Straight along(Vec3 o, Vec3 d, std::uint32_t group, const Aim& aim) const {
    Straight out{0, group, Aim::none};
    if (d.z < 0 && o.z > scene_.groundLevel()) return out;
    if (scene_.blocked(o, d, 0, 1e30)) return out;
    out.share = 1;
    double from = 0;
    for (int guard = 0; guard < 64 && out.share > 0; ++guard) {
      const LightScene::Hit g = scene_.glass(o, d, from, 1e30);
      if (!g.any()) break;
      const LightScene::Piece& p = scene_.pieces()[g.triangle];
      if (out.first == Aim::none) out.first = aim.indexOf(g.triangle);
      out.share *= scene_.optics(p.optics).straight(std::abs(dot(p.normal, d)));
      out.group = scene_.charged(out.group, p);
      from = g.distance + offset(o + d * g.distance);
    }
    return out;
  }

  /// What a path carries: its weight, and what is left of its light by reflectances and panes alone, for the roulette.
  struct Load {
    double weight, left;
  };

  /// A direction aimed at a pane; x reflects (or a sensor takes) `load` by the cosine over π.
  void aimed(Vec3 x, Vec3 n, const Aim& aim, const Weights& w, Load load, double a, double b, double c, bool straight,
             HashStream& random, Sink& sink) {
    double left = a * w.sum;
    std::size_t k = 0;
    while (k + 1 < aim.pieces.size() && left >= double(w.each[k])) left -= double(w.each[k++]);
    const LightScene::Piece& p = scene_.pieces()[aim.pieces[k]];
    const double s = std::sqrt(b), t = c * s;
    const Vec3 y = p.a * (1 - s) + p.b * (s - t) + p.c * t;
    const Vec3 to = y - x;
    const double distance = length(to);
    if (!(distance > 1e-6)) return;
    const Vec3 d = to * (1 / distance);
    const double cosine = dot(n, d);
    if (cosine <= 0) return;
    const double pa = density(p, k, w, d, distance), pb = cosine / pi;
    if (!(pa > 0)) return;
    // Nothing opaque before the pane, and no other pane of the aim: that one would be met first.
    const double reach = distance + 2 * offset(y);
    if (scene_.blocked(x, d, 0, distance)) return;
    double share = 1, from = 0;
    std::uint32_t group = 0;
    for (int guard = 0; guard < 64; ++guard) {
      const LightScene::Hit g = scene_.glass(x, d, from, reach);
      if (!g.any()) return; // slipped past its edge
      const LightScene::Piece& met = scene_.pieces()[g.triangle];
      const std::size_t at = aim.indexOf(g.triangle);
      const std::uint32_t next = scene_.charged(group, met);
      if (at == k && next != group) sink.pane(next, load.weight / pi * cosine * share / (pa + pb));
      group = next;
      share *= scene_.optics(met.optics).straight(std::abs(dot(met.normal, d)));
      from = g.distance + offset(y);
      if (at == k) {
        Mode m;
        m.straight = straight;
        if (share > 0)
          travel(x, d, from, {load.weight / pi * cosine * share / (pa + pb), load.left * share}, group, m, aim, random,
                 sink);
        return;
      }
      if (at != Aim::none) return;
    }
  }

  /// Density per solid angle with which following the beam in through pane k meets a surface at distance r from x.
  double patchDensity(std::size_t k, const Aim& aim, Vec3 sun, double facingSun, double facingX, double r) const {
    const LightScene::Piece& p = scene_.pieces()[aim.pieces[k]];
    const double w = std::abs(dot(p.normal, sun));
    return w > 1e-9 && facingX > 1e-9 ? aim.sun[k] / aim.sunSum / p.area * facingSun / w * r * r / facingX : 0;
  }

  /// Light of a sun patch on x: the beam is followed in through an aimed-at pane to what it falls on. False where no
  /// pane has sun, and then nothing need be weighted against it.
  bool beamPatch(Vec3 x, Vec3 n, const Aim& aim, Load load, HashStream& random, Sink& sink) {
    if (!sun_ || !(aim.sunSum > 0) || !reflections_) return false;
    double left = random.next() * aim.sunSum;
    std::size_t k = 0;
    while (k + 1 < aim.pieces.size() && left >= aim.sun[k]) left -= aim.sun[k++];
    const LightScene::Piece& p = scene_.pieces()[aim.pieces[k]];
    const double b = std::sqrt(random.next()), t = random.next() * b;
    const Vec3 y0 = p.a * (1 - b) + p.b * (b - t) + p.c * t;
    const Vec3 s = inDisc(*sun_, sunRadius, random.next(), random.next());
    const double facingPane = std::abs(dot(p.normal, s));
    const Straight outside = along(y0 + s * offset(y0), s, p.group, aim);
    if (!(outside.share > 0) || facingPane < 1e-6) return true;
    // Inward: what it falls on, with no aimed-at pane in between (that one would be the first seen from there).
    const Vec3 in = -s;
    const double start = offset(y0);
    const LightScene::Hit wall = scene_.opaque(y0, in, start, 1e30);
    if (!wall.any()) return true;
    if (in.z < 0 && y0.z > scene_.groundLevel() && (scene_.groundLevel() - y0.z) / in.z < wall.distance) return true;
    double share = outside.share * scene_.optics(p.optics).straight(facingPane), from = start;
    for (int guard = 0; guard < 64; ++guard) {
      const LightScene::Hit g = scene_.glass(y0, in, from, wall.distance);
      if (!g.any()) break;
      if (aim.indexOf(g.triangle) != Aim::none) return true;
      const LightScene::Piece& other = scene_.pieces()[g.triangle];
      share *= scene_.optics(other.optics).straight(std::abs(dot(other.normal, in)));
      from = g.distance + offset(y0);
    }
    const auto& surface = scene_.surfaces()[wall.triangle];
    Vec3 face{surface.normal[0], surface.normal[1], surface.normal[2]};
    if (dot(face, s) < 0) face = -face;
    Vec3 y = y0 + in * wall.distance;
    y = y + face * offset(y);
    const Vec3 to = y - x;
    const double r = length(to);
    if (!(r > 1e-6)) return true;
    const Vec3 d = to * (1 / r);
    const double facingX = dot(n, d), facingY = -dot(face, d), facingSun = dot(face, s);
    if (facingX <= 0 || facingY <= 1e-9 || facingSun <= 0) return true;
    if (scene_.blocked(x, d, 0, r * (1 - 1e-6)) || scene_.glass(x, d, 0, r).any()) return true;
    const double pp = patchDensity(k, aim, s, facingSun, facingY, r), pc = facingX / pi;
    const double flux = share * facingPane * p.area * aim.sunSum / aim.sun[k];
    sink.sun(outside.group, load.weight / pi * scene_.finishOf(wall.triangle).reflectance / pi * facingX * facingY /
                                (r * r) * flux * pp / (pp + pc));
    return true;
  }

  /// How a ray is taken on: whether an aimed-at pane may still be its first, and whether new aims are taken.
  struct Mode {
    bool counted = false;             ///< passing an aimed-at pane straight must be weighted against aiming
    bool indoors = false;             ///< surfaces met aim at panes
    bool straight = false;            ///< nothing has reflected or scattered it yet
    bool patches = false;             ///< sunlight on the next surface must be weighted against following the beam in
    Vec3 normal{};                    ///< at the start, for the density of the cosine strategy
    const Weights* weights = nullptr; ///< of the pieces seen from there
  };

  void travel(Vec3 o, Vec3 d, double from, Load load, std::uint32_t group, Mode mode, const Aim& aim,
              HashStream& random, Sink& sink) {
    for (int events = 0; events < 400; ++events) {
      // ---- along the ray to what stops it
      LightScene::Hit wall = scene_.opaque(o, d, from, 1e30);
      double ground = std::numeric_limits<double>::infinity();
      if (d.z < 0 && o.z > scene_.groundLevel()) ground = (scene_.groundLevel() - o.z) / d.z;
      const double stop = std::min(wall.distance, ground);
      Vec3 p, n;
      double reflectance = 1, specular = 0, roughness = 0, reached = 0;
      std::uint32_t patch = Patches::none;
      bool scattered = false;
      for (;;) {
        const LightScene::Hit g = scene_.glass(o, d, from, std::min(stop, 1e30));
        if (!g.any()) break;
        const LightScene::Piece& pane = scene_.pieces()[g.triangle];
        const GlazingOptics& op = scene_.optics(pane.optics);
        const double facing = std::abs(dot(pane.normal, d));
        const double straight = op.straight(facing);
        const double mirrored = reflections_ ? op.mirrored(facing) : 0,
                     through = reflections_ ? op.scattered(facing) : 0,
                     back = reflections_ ? op.diffuseReflectance() : 0;
        const double all = straight + mirrored + through + back;
        if (!(all > 0)) return;
        mode.patches = false; // seen through glass, or in it
        const std::uint32_t next = scene_.charged(group, pane);
        if (next != group) { // the pane whose light this is, seen from inside
          const std::size_t k = mode.counted ? aim.indexOf(g.triangle) : Aim::none;
          const double pb = dot(mode.normal, d) / pi;
          sink.pane(pane.group, k == Aim::none
                                    ? load.weight
                                    : load.weight * pb / (density(pane, k, *mode.weights, d, g.distance) + pb));
        }
        const double pick = random.next() * all;
        load.weight *= all;
        load.left *= all;
        const Vec3 at = o + d * g.distance;
        if (pick < straight) {
          if (mode.counted) {
            const std::size_t k = aim.indexOf(g.triangle);
            if (k != Aim::none) {
              const double pb = dot(mode.normal, d) / pi, pa = density(pane, k, *mode.weights, d, g.distance);
              load.weight *= pb / (pa + pb);
              mode.counted = false;
            }
          }
          mode.indoors = false;
          group = next;
          from = g.distance + offset(at);
          continue;
        }
        const Vec3 toward = dot(pane.normal, d) < 0 ? pane.normal : -pane.normal; // the side we came from
        mode.counted = false;
        mode.straight = false;
        if (pick < straight + mirrored) {
          d = normalized(d - toward * (2 * dot(d, toward)));
          o = at + toward * offset(at);
          from = 0;
          scattered = true;
          p = Vec3{};
          n = Vec3{};
          break;
        }
        const bool goesOn = pick < straight + mirrored + through;
        if (goesOn) {
          group = next;
          mode.indoors = false;
        }
        n = goesOn ? -toward : toward;
        p = at;
        break;
      }
      if (scattered) continue; // mirrored by glass: a new ray
      if (length(n) == 0) {
        if (!std::isfinite(stop)) {
          if (d.z > 0) sink.sky(group, d, load.weight, mode.straight);
          return;
        }
        if (!reflections_) return;
        p = o + d * stop;
        reached = stop;
        if (ground < wall.distance) {
          mode.patches = false;
          n = {0, 0, 1};
          reflectance = scene_.groundReflectance();
        } else {
          const auto& s = scene_.surfaces()[wall.triangle];
          n = Vec3{s.normal[0], s.normal[1], s.normal[2]};
          const bool front = dot(n, d) <= 0;
          if (!front) n = -n;
          if (patches_) patch = patches_->of(wall.triangle, double(wall.u), double(wall.v), front);
          const Finish& f = scene_.finishOf(wall.triangle);
          reflectance = f.reflectance;
          specular = f.specular;
          roughness = f.roughness;
        }
      }
      // ---- at a surface
      mode.straight = false;
      load.weight *= reflectance;
      load.left *= reflectance;
      if (!(load.weight > 0)) return;
      const bool mirrors = specular > 0 && random.next() < specular;
      const bool ends = patch != Patches::none && !mirrors && sink.known(patch, group, load.weight / pi);
      const double keep = ends ? 1 : std::min(1.0, load.left / 0.2);
      if (keep < 1) {
        if (random.next() >= keep) return;
        load.weight /= keep;
        load.left = 0.2;
      }
      const Vec3 x = p + n * offset(p);
      if (sun_ || suns_) {
        // Many suns: the first surface's choice is among the decisions that are spread evenly.
        const std::array<double, 3> u = suns_ && events == 0 && first_
                                            ? *first_
                                            : std::array{suns_ ? random.next() : 0.0, random.next(), random.next()};
        const Vec3 s = inDisc(suns_ ? suns_->pick(u[0]) : *sun_, sunRadius, u[1], u[2]);
        const double c = dot(n, s);
        if (c > 0) {
          const Straight way = along(x, s, group, aim);
          double kept = 1;
          if (mode.patches && way.first != Aim::none) {
            const double pc = dot(mode.normal, d) / pi, pp = patchDensity(way.first, aim, s, c, -dot(n, d), reached);
            kept = pc / (pp + pc);
          }
          if (way.share > 0) sink.sun(way.group, load.weight / pi * c * way.share * kept);
        }
      }
      if (ends) return;
      mode.patches = false;
      mode.counted = false;
      if (mirrors) {
        d = lobe(normalized(d - n * (2 * dot(d, n))), n, roughness, random);
        o = x;
        from = 0;
        continue;
      }
      if (mode.indoors) {
        mode.patches = beamPatch(x, n, aim, load, random, sink);
        mode.normal = n;
        weigh(x, n, aim, vertex_);
        if (vertex_.sum > 0) {
          const double a = random.next(), b = random.next(), c = random.next();
          aimed(x, n, aim, vertex_, load, a, b, c, false, random,
                sink); // meets no surface that aims, so the weights stay
          mode.counted = true;
          mode.weights = &vertex_;
        }
      }
      d = cosineDirection(n, random.next(), random.next());
      o = x;
      from = 0;
    }
  }

  /// Around the mirror direction: a cosine power lobe, drawn again where it points into the surface.
  static Vec3 lobe(Vec3 mirror, Vec3 n, double roughness, HashStream& random) {
    if (roughness <= 0) return mirror;
    const double power = 2 / (roughness * roughness);
    const Frame f(mirror);
    for (int k = 0; k < 16; ++k) {
      const double c = std::pow(random.next(), 1 / (power + 1)), s = std::sqrt(std::max(0.0, 1 - c * c)),
                   turn = 2 * pi * random.next();
      const Vec3 d = f.u * (s * std::cos(turn)) + f.v * (s * std::sin(turn)) + mirror * c;
      if (dot(d, n) > 0) return d;
    }
    return mirror;
  }

  const LightScene& scene_;
  std::optional<Vec3> sun_;
  const RadiantSky* suns_ = nullptr;
  std::optional<std::array<double, 3>> first_; ///< of the sample in hand: its first sun, and where on the disc
  bool reflections_;
  const Patches* patches_;
  Weights sensor_, vertex_;
  const Aim* sensorAim_ = nullptr;
  Vec3 sensorAt_, sensorNormal_;
};

} // namespace noonward
