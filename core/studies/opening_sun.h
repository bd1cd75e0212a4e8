#pragma once
// Sun at openings, as EN 17037 judges exposure to sunlight: at the inner face of the wall, in the middle of the
// opening's width, at the greater of a least height above the floor and the sill with a margin; reveals and what stands
// outside obstruct. Glass does not. Enter and leave times to a second, by steps of 20 s (the shortest gap that can't be
// missed) and bisection.

#include "core/base/parallel.h"
#include "core/light/light_scene.h"
#include "core/model/rooms/placing.h"
#include "core/sun/intervals.h"

namespace noonward {

struct OpeningSun {
  std::size_t room = 0; ///< index in the project
  std::string opening;
  Vec3 position; ///< m, local
  double hours = 0;
  Intervals stretches; ///< s from the civil midnight of the date
};
struct RoomSun {
  std::size_t room = 0;
  double hours = 0; ///< union of its openings' stretches
  std::size_t openings = 0;
  std::vector<OpeningSun> each;
};
struct OpeningSunSettings {
  Date date;
  double minAltitude = 0;               ///< rad, true
  double height = 1.2, aboveSill = 0.3; ///< m
};
/// Rooms with openings in their walls or ceilings, in the project's order; rooms without any have no hours.
Expected<std::vector<RoomSun>> openingSun(const Project& project, const OpeningSunSettings& settings,
                                          Threads threads = {});

} // namespace noonward
