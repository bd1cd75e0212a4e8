#pragma once
// The rays that shading is judged by: points on panes, the sun's directions eight by eight, and what hides them with
// and without what is there for shade.

#include "core/studies/shade.h"

namespace noonward {

/// What hides the sun, apart by whether it has the role of shading.
struct ShadeScenes {
  Scene bare, shading;
};
ShadeScenes shadeScenes(const LightModel& model);
/// Of those parts of a model that a test takes.
Scene sceneOfParts(LightModel model, const std::function<bool(const LightPart&)>& takes);
inline bool isShading(const LightPart& part) {
  return part.role == Role::Shading;
}

/// A pane to look from.
struct GlassPane {
  std::size_t at = 0; ///< in the layout
  OpeningFrame frame;
  std::vector<Vec3> points; ///< the middles of n × n cells
};
std::vector<GlassPane> glassPanes(const Project& project, const OpeningLayout& layout, int n,
                                  const std::function<bool(const PlacedOpening&)>& takes);

/// Directions eight by eight, with what they stand for.
struct SunBlocks {
  std::vector<Rays8> blocks;
  std::vector<SunMoment> moments; ///< padded to eight a block
  explicit SunBlocks(std::vector<SunMoment> of);
};
/// Lanes of a block in front of a wall: bit k for lane k.
unsigned lanesInFront(const Rays8& block, const SunMoment* moments, Vec3 outward);
/// Those of `lanes` that nothing hides.
unsigned litLanes(const Scene& scene, Vec3 from, Rays8& block, unsigned lanes);

} // namespace noonward
