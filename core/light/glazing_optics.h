#pragma once
// How much light a glazing lets through and throws back, by angle: flat panes of index 1.52 with absorption, both
// polarisations, all reflections between and within the panes. The absorption is solved so that normal incidence gives
// the stated transmittance (science: Light transport). Fresnel's equations; panes added as in ISO 9050.
//
// Cosines are of the angle of incidence, 0…1. Frame and dirt take the same share at every angle.

#include "core/model/finish.h"
#include <array>

namespace noonward {

class GlazingOptics {
public:
  explicit GlazingOptics(const Glazing& glazing);
  /// Straight through, and scattered into the far side; frame and dirt included.
  double straight(double cosine) const { return straightShare_ * at(transmittance_, cosine); }
  double scattered(double cosine) const { return scatteredShare_ * at(transmittance_, cosine); }
  /// Mirrored by clear glass; a scattering glazing reflects diffusely instead.
  double mirrored(double cosine) const { return diffusing_ ? 0 : at(reflectance_, cosine); }
  double diffuseReflectance() const { return diffusing_ ? innerReflectance_ : 0; }
  bool diffusing() const { return diffusing_; }
  /// Of light that comes equally from everywhere, straight and scattered together.
  double hemispherical() const;
  /// Thrown back of such light.
  double hemisphericalBack() const;

private:
  static constexpr int steps = 512;
  using Table = std::array<float, steps + 1>;
  static double at(const Table& t, double cosine) {
    const double x = (cosine < 0 ? 0 : cosine > 1 ? 1 : cosine) * steps;
    const int i = x >= steps ? steps - 1 : int(x);
    return double(t[std::size_t(i)]) + (x - i) * double(t[std::size_t(i) + 1] - t[std::size_t(i)]);
  }
  Table transmittance_{}, reflectance_{};
  double straightShare_ = 1, scatteredShare_ = 0, innerReflectance_ = 0;
  bool diffusing_ = false;
};

} // namespace noonward
