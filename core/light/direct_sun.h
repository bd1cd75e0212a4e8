#pragma once
// When the sun reaches a point: exactly, or by counting samples.
//
// Exact: the sun's way of a day is a smooth curve (sun_path.h); for every triangle that could come between, the two
// times at which the sun passes its edges are solved for. No step is taken, so no gap is overlooked; what is shorter
// than tolerance::shortestStretch (0.1 s) is joined to its neighbours, for the seam between two triangles is no gap.

#include "core/light/scene.h"
#include "core/model/rooms/sensors.h"

namespace noonward {

/// One date's sun and the part of it that counts.
struct SunWindow {
  Date date;
  SunPath path;
  Intervals counts; ///< seconds from path.start(): inside the clock window and above the least altitude
};

/// Sun at one sensor within a window; seconds from path.start().
Intervals sunAt(const Scene& scene, Vec3 position, Vec3 normal, const SunWindow& window);

/// What takes how much: for every element, room, opening and shading rule the stretches it alone or with others hides,
/// within the window and in front of the surface.
struct Shader {
  std::uint64_t source = 0; ///< id value; surfaceName() names it
  Intervals hidden;
};
std::vector<Shader> shadersOf(const Scene& scene, Vec3 position, Vec3 normal, const SunWindow& window);

/// Samples for stepped counting, prepared once for a study: directions in blocks of eight.
struct SunSamples {
  struct Sample {
    std::uint32_t window; ///< index of the date
    double begin, end;    ///< s from the path's start: the stretch it stands for
    double weight;        ///< s
  };
  std::vector<Sample> samples;
  std::vector<Rays8> blocks; ///< padded with inactive lanes
};
SunSamples sampleWindows(const std::vector<SunWindow>& windows, const std::vector<Intervals>& clockParts, double step,
                         bool atEnds);

} // namespace noonward
