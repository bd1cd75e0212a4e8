#pragma once
// What a ray of sight meets: sky seen through glass, and surfaces whose illuminance makes what is seen of them. Clear
// panes mirror once; cloth and opal panes scatter what falls on either side of them. The mirrored part of finishes
// counts as diffuse.

#include "core/light/light_scene.h"
#include "core/light/ray_offset.h"
#include "core/light/sampler.h"
#include <cmath>
#include <limits>

namespace noonward {

/// A place that is seen: luminance is `factor` times its illuminance on the side of `normal`.
struct SightTerm {
  Vec3 at, normal;           ///< m; unit, toward the light it reflects or scatters
  double factor = 0;         ///< cd/m² for 1 lx, all panes before it counted
  int room = -1;             ///< whose light it has; −1 none
  std::uint64_t key = 0;     ///< of the surface and its side
  std::uint32_t group = 0;   ///< window group it is seen through (LightScene::charged); 0 none
  std::uint64_t element = 0; ///< of the element or room; 0 ground and panes
};

/// Is what it sees nearly everywhere less than a centimetre away?
inline bool buried(const LightScene& scene, Vec3 eye) {
  int near = 0;
  constexpr int rays = 64;
  for (int k = 0; k < rays; ++k) {
    const double z = 1 - 2 * (k + 0.5) / rays, r = std::sqrt(1 - z * z), turn = k * 2.399963229728653;
    near += scene.opaque(eye, {r * std::cos(turn), r * std::sin(turn), z}, 0, 0.01).any();
  }
  return near > rays / 2;
}

/// `Sink` has: sky(Vec3 direction, double share, std::uint32_t group); surface(const SightTerm&, bool mirrored);
/// pane(std::uint32_t group, double share): a pane of a window group, and what glass before it leaves.
template <class Sink> class Sight {
public:
  explicit Sight(const LightScene& scene) : scene_(scene) {}
  /// From `o` along the unit vector `d`.
  void look(Vec3 o, Vec3 d, Sink& sink) const { trace(o, d, 1, false, sink); }

private:
  static std::uint64_t keyOf(std::uint64_t part, Vec3 n, int side) {
    std::uint64_t k = mixed(part * 8 + std::uint64_t(side));
    for (double v : {n.x, n.y, n.z}) k = mixed(k + std::uint64_t(std::int64_t(std::lround(v * 1000)) + 4000));
    return k;
  }
  void trace(Vec3 o, Vec3 d, double weight, bool mirrored, Sink& sink) const {
    const LightScene::Hit wall = scene_.opaque(o, d, 0, 1e30);
    double ground = std::numeric_limits<double>::infinity(), from = 0;
    if (d.z < 0 && o.z > scene_.groundLevel()) ground = (scene_.groundLevel() - o.z) / d.z;
    const double stop = std::min(wall.distance, ground);
    std::uint32_t group = 0;
    for (int guard = 0; guard < 64 && weight > 1e-5; ++guard) {
      const LightScene::Hit g = scene_.glass(o, d, from, std::min(stop, 1e30));
      if (!g.any()) break;
      const LightScene::Piece& pane = scene_.pieces()[g.triangle];
      const GlazingOptics& op = scene_.optics(pane.optics);
      const double facing = std::abs(dot(pane.normal, d));
      const Vec3 at = o + d * g.distance, toward = dot(pane.normal, d) < 0 ? pane.normal : -pane.normal;
      if (const double back = op.diffuseReflectance(); back > 0)
        sink.surface({at, toward, weight * back / pi, pane.room, keyOf(pane.part, toward, 1), group, 0}, mirrored);
      const std::uint32_t next = scene_.charged(group, pane);
      if (next != group && !mirrored) sink.pane(next, weight);
      group = next;
      if (const double through = op.scattered(facing); through > 0)
        sink.surface({at, -toward, weight * through / pi, -1, keyOf(pane.part, toward, 2), group, 0}, mirrored);
      if (const double mirror = op.mirrored(facing); mirror > 0 && !mirrored)
        trace(at + toward * rayOffsetAt(at), normalized(d - toward * (2 * dot(d, toward))), weight * mirror, true,
              sink);
      weight *= op.straight(facing);
      from = g.distance + rayOffsetAt(at);
    }
    if (!(weight > 1e-5)) return;
    if (!std::isfinite(stop)) {
      if (d.z > 0) sink.sky(d, weight, group);
      return;
    }
    const Vec3 p = o + d * stop;
    if (ground < wall.distance) {
      sink.surface({p, {0, 0, 1}, weight * scene_.groundReflectance() / pi, -1, 3, group, 0}, mirrored);
      return;
    }
    const auto& s = scene_.surfaces()[wall.triangle];
    Vec3 n{s.normal[0], s.normal[1], s.normal[2]};
    if (dot(n, d) > 0) n = -n;
    sink.surface({p, n, weight * scene_.finishOf(wall.triangle).reflectance / pi, scene_.roomOf(wall.triangle),
                  keyOf(s.part + 1, n, 0), group, scene_.elementOf(wall.triangle)},
                 mirrored);
  }
  const LightScene& scene_;
};

} // namespace noonward
