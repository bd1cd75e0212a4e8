#include "core/light/light_paths.h"

namespace noonward {

Aim makeAim(const LightScene& scene, std::vector<std::uint32_t> pieces, const std::optional<Vec3>& sun) {
  Aim aim;
  std::sort(pieces.begin(), pieces.end());
  aim.pieces = std::move(pieces);
  for (std::uint32_t k : aim.pieces) {
    const LightScene::Piece& p = scene.pieces()[k];
    const Vec3 c = p.center();
    aim.x.push_back(float(c.x)), aim.y.push_back(float(c.y)), aim.z.push_back(float(c.z));
    aim.nx.push_back(float(p.normal.x)), aim.ny.push_back(float(p.normal.y)), aim.nz.push_back(float(p.normal.z));
    aim.area.push_back(float(p.area));
    const double facing = sun ? std::abs(dot(p.normal, *sun)) : 0;
    aim.sun.push_back(p.area * facing * scene.optics(p.optics).straight(facing));
    aim.sunSum += aim.sun.back();
  }
  return aim;
}

} // namespace noonward
