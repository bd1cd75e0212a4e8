#pragma once
// What a sensor gets straight from a sky, and how sure that is: patch by patch, with many rays only where they tell
// something.
//
// Each of the 577 patches weighs what it would bring with nothing in the way (its luminance and the cosine, integrated
// over it). A first look sends one ray into each patch in front, and tells which patches lie at the edge of what hides
// the sky: those that differ from a neighbour. Second looks, with rays of their own, send sixteen into those, one in
// each cell of 4 × 4, and one into every other; the share seen comes from them alone, so that choosing where to look
// biases nothing. There are two at least, and more while the standard error is larger than asked: that of stratified
// samples, from the spread of the looks within each cell (Cochran, Sampling Techniques, 1977, 5.3). Where the first
// look alone is sure enough, by patches beside each other in pairs (5A.12, too large rather than too small), it is
// taken.

#include "core/light/light_scene.h"
#include "core/sky/sky_bins.h"
#include <array>
#include <functional>

namespace noonward {

class SkyShare {
public:
  /// `luminance` of a direction; `seed` of the banks of directions, which all sensors draw on.
  SkyShare(const std::function<double(Vec3)>& luminance, std::uint64_t seed);

  struct Seen {
    double value = 0, error = 0; ///< luminance × sr by the cosine; one standard error
    double open = 0;             ///< with nothing in the way
    std::uint32_t rays = 0;
  };
  /// At a point in front of its surface. `key` of the sensor; `wanted`: standard error to stop at, given what is seen;
  /// `most`: rays after which no further look is taken, whatever the error (the first look is always whole).
  Seen at(const LightScene& scene, Vec3 at, Vec3 normal, std::uint64_t key,
          const std::function<double(double value)>& wanted, std::size_t most = 1 << 18) const;

private:
  static constexpr int cuts = 4, cells = cuts * cuts;
  static constexpr std::size_t firsts = 32, seconds = 16; ///< banks
  static constexpr int mostLooks = 12;
  static constexpr double leastError = 5e-4; ///< of the open sky
  static constexpr double caution = 1.15;    ///< for stopping where the spread looks small (figures: docs/methods.md)
  void weigh(Vec3 normal, std::array<float, SkyBins::count>& weights) const;
  std::vector<float> px_, py_, pz_, pl_;               ///< cell middles: direction, luminance × solid angle
  std::vector<std::vector<std::uint16_t>> neighbours_; ///< by patch
  std::vector<std::vector<Vec3>> first_, second_;      ///< banks: a direction a patch; one a cell
};

} // namespace noonward
