#pragma once
// Surfaces of rooms cut into small triangles, so that light which has been reflected can be remembered where it falls:
// a path that meets a patch takes what is known there instead of going on. Each side of a surface has patches of its
// own.

#include "core/base/parallel.h"
#include "core/light/light_scene.h"
#include "core/model/rooms/sensors.h"
#include <span>
#include <vector>

namespace noonward {

class Patches {
public:
  static constexpr std::uint32_t none = ~0u;
  /// Surfaces of parts with a room, and those marked in `also` (by triangle); no edge of a patch is longer than `size`,
  /// m.
  Patches(const LightScene& scene, double size, const std::vector<bool>& also = {});
  /// The patch at barycentric coordinates of a triangle; none where it has none.
  std::uint32_t of(std::uint32_t triangle, double u, double v, bool front) const {
    const std::uint32_t first = first_[triangle];
    if (first == none) return none;
    const std::uint32_t m = cuts_[triangle];
    const double fu = u * m, fv = v * m;
    const std::uint32_t i = std::min(m - 1, std::uint32_t(fu)), j = std::min(m - 1, std::uint32_t(fv));
    const bool upper = (fu - i) + (fv - j) > 1 && i + j + 2 <= m;
    return first + 2 * (2 * (i * m + j) + upper) + (front ? 0 : 1);
  }
  struct Place {
    Vec3 position, normal; ///< on the surface; away from the side that is meant
    int room = -1;
  };
  /// A point of the patch, even over its area for a, b in [0, 1).
  Place at(std::uint32_t patch, double a, double b) const;
  std::size_t count() const { return count_; }

private:
  const LightScene& scene_;
  std::vector<std::uint32_t> first_, cuts_; ///< by triangle
  std::vector<std::uint32_t> with_;         ///< triangles that have patches, in order of their first
  std::size_t count_ = 0;
};

/// The patches that sensors of rooms see, told by so many rays each; the same for any number of threads.
struct SeenPatches {
  std::vector<std::int32_t> slot;    ///< by patch; −1 where it was not seen
  std::vector<std::uint32_t> wanted; ///< patches, by slot
};
/// Which of the sensors are shut in: less than so much of what they look at is open sky, panes not counted.
std::vector<bool> shutIn(const LightScene& scene, std::span<const Sensor> sensors, std::uint64_t seed, Threads threads,
                         double share = 1.0 / 3);
/// The surfaces (by triangle) that sensors see before any pane: what encloses them, drawn as a room or not.
std::vector<bool> surroundings(const LightScene& scene, std::span<const Sensor> sensors, std::uint32_t rays,
                               std::uint64_t seed, Threads threads);
/// `least`: not those that fewer rays met, of all sensors together.
SeenPatches seenPatches(const LightScene& scene, const Patches& patches, std::span<const Sensor> sensors,
                        std::uint32_t rays, std::uint64_t seed, Threads threads, std::uint32_t least = 1);

} // namespace noonward
