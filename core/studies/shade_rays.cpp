#include "core/studies/shade_rays.h"

namespace noonward {

Scene sceneOfParts(LightModel model, const std::function<bool(const LightPart&)>& takes) {
  std::erase_if(model.parts, [&](const LightPart& p) { return !takes(p); });
  return buildScene(model);
}

ShadeScenes shadeScenes(const LightModel& model) {
  return {sceneOfParts(model, [](const LightPart& p) { return !isShading(p); }), sceneOfParts(model, isShading)};
}

std::vector<GlassPane> glassPanes(const Project& p, const OpeningLayout& layout, int n,
                                  const std::function<bool(const PlacedOpening&)>& takes) {
  std::vector<GlassPane> out;
  for (std::size_t i = 0; i < layout.openings.size(); ++i) {
    const PlacedOpening& o = layout.openings[i];
    if (!takes(o)) continue;
    const auto c = paneOf(o, p.rooms[o.room]);
    GlassPane pane{i, frameOf(o, p.rooms[o.room]), {}};
    for (int j = 0; j < n; ++j)
      for (int k = 0; k < n; ++k) {
        const double u = (k + 0.5) / n, v = (j + 0.5) / n;
        pane.points.push_back(c[0] * ((1 - u) * (1 - v)) + c[1] * (u * (1 - v)) + c[2] * (u * v) +
                              c[3] * ((1 - u) * v));
      }
    out.push_back(std::move(pane));
  }
  return out;
}

SunBlocks::SunBlocks(std::vector<SunMoment> of) : moments(std::move(of)) {
  moments.resize((moments.size() + 7) / 8 * 8);
  blocks.resize(moments.size() / 8);
  for (std::size_t k = 0; k < moments.size(); ++k) {
    Rays8& b = blocks[k / 8];
    b.x[k % 8] = float(moments[k].direction.x);
    b.y[k % 8] = float(moments[k].direction.y);
    b.z[k % 8] = float(moments[k].direction.z);
    b.active[k % 8] = moments[k].hours > 0 ? -1 : 0;
  }
}

unsigned lanesInFront(const Rays8& block, const SunMoment* moments, Vec3 outward) {
  unsigned lanes = 0;
  for (unsigned k = 0; k < 8; ++k) lanes |= unsigned(block.active[k] && dot(moments[k].direction, outward) > 1e-9) << k;
  return lanes;
}

unsigned litLanes(const Scene& scene, Vec3 from, Rays8& block, unsigned lanes) {
  if (lanes == 0) return 0;
  for (unsigned k = 0; k < 8; ++k) block.active[k] = lanes >> k & 1 ? -1 : 0;
  scene.hidden8(from, block);
  for (unsigned k = 0; k < 8; ++k)
    if (block.hidden[k]) lanes &= ~(1u << k);
  return lanes;
}

} // namespace noonward
