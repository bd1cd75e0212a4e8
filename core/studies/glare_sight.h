#pragma once
// What eyes in one room see in every direction, as sums of things whose brightness changes with the hour: patches of
// the sky, places on surfaces, panes with closed shade fabric. Eyes that see the same thing share it.

#include "core/base/parallel.h"
#include "core/base/run_control.h"
#include "core/light/light_scene.h"
#include "core/model/rooms/sensors.h"
#include "core/studies/glare_year.h"

namespace noonward {

/// Directions of equal weight over the whole sphere, model axes.
struct GlareSphere {
  static constexpr std::size_t count = 6144;
  static constexpr double solidAngle = 4 * 3.14159265358979323846 / double(count); ///< sr, of each
  std::vector<Vec3> directions;
  GlareSphere();
};

/// Lines of sight from one place.
struct GlareEye {
  Vec3 at;
  int room = -1;
  std::size_t first = 0, count = 0; ///< sensors: one a line of sight
};
/// Neighbouring sensors of one place, by the room they stand in.
std::vector<GlareEye> eyesOf(const SensorSet& sensors, const std::vector<Room>& rooms);

/// Something seen: its brightness in an hour, cd/m² or lx, is that of a patch, a place or a pane.
struct GlareSlot {
  enum class Kind { Sky, Place, Pane } kind = Kind::Sky;
  GlareCause cause = GlareCause::Sky;
  std::uint32_t index = 0; ///< patch; place in its space; unused
  std::uint32_t wide = 0;  ///< of places, in the same space of GlareSight::wide
  std::uint32_t space = 0; ///< of places, in GlareSight::places
  std::uint32_t group = 0; ///< window group of the model it is seen through; 0 none
};
struct GlareSeen {
  std::uint32_t slot;
  float weight; ///< cd/m² for 1 of the slot
};
struct GlareSight {
  std::vector<GlareSlot> slots;
  SensorSet places; ///< of surfaces, a group for each room whose light they have: where the beam is asked
  SensorSet wide;   ///< alike and three times as far apart: where all other light is
  /// By eye: where each direction's things begin (GlareSphere::count + 1), and the things.
  std::vector<std::vector<std::uint32_t>> from;
  std::vector<std::vector<GlareSeen>> seen;
};
/// Nothing where it was stopped.
std::optional<GlareSight> glareSight(const LightScene& scene, const GlareSphere& sphere, const SensorSet& sensors,
                                     std::span<const GlareEye> eyes, RunControl& control, Threads threads);

} // namespace noonward
