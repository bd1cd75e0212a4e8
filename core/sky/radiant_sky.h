#pragma once
// A sky as energy: the radiance of each direction and the suns that shine from it, of one moment (W/m²) or summed over
// the hours of a weather year (kWh/m²). The distribution of an hour is that of its luminance (Perez, Seals, Michalsky
// 1993, sky_luminance.h), scaled so that the horizontal diffuse irradiance is met exactly; a sum keeps the mean of each
// of 577 patches, so that every plane's share of a patch counts.
//
// Suns are never spread over patches. Those of one hour of the day on days that follow each other are taken together
// while none of them is moved by more than `farthestMoved`, less than the sun's own radius; the sum of their vectors
// is kept, so that a plane that sees all of them gets exactly what they bring. Axes of the model.

#include "core/base/parallel.h"
#include "core/sky/sky_bins.h"
#include "core/sky/sky_luminance.h"
#include "core/sky/weather.h"
#include <optional>
#include <span>

namespace noonward {

class RadiantSky {
public:
  struct Sun {
    Vec3 direction;    ///< unit, toward it
    double energy = 0; ///< on a plane facing it
  };
  static constexpr double farthestMoved = 0.25 * radiansPerDegree;

  /// One moment: `shape` gives the distribution, `diffuse` the horizontal irradiance, W/m²; `beam` on a plane facing
  /// the sun.
  static RadiantSky ofMoment(const SkyLuminance& shape, double diffuse, std::optional<Vec3> sun, double beam);
  /// The hours chosen (8760 of them, by slot) of a whole weather year, in kWh/m². `northAngle`: rad, true azimuth of
  /// the axes' +y. `missingYear`: of rows without one. An error names the first hour without radiation.
  static Expected<RadiantSky> ofHours(const Weather& weather, const std::vector<bool>& chosen, double northAngle,
                                      int missingYear, double farthestMoved = RadiantSky::farthestMoved,
                                      Threads threads = {});

  double operator()(Vec3 direction) const; ///< radiance, per sr; 0 below the horizon
  const std::vector<Sun>& suns() const { return suns_; }
  double diffuse() const { return diffuse_; } ///< on the unobstructed horizontal
  double beam() const { return beam_; }       ///< of all suns, on planes that face them
  double beamOnHorizontal() const;
  double horizontal() const { return diffuse_ + beamOnHorizontal(); }
  double brightest() const; ///< the most that a plane could get if all it saw were the brightest of the sky
  /// On a plane with nothing in the way but the horizon; no light from the ground.
  double diffuseOn(Vec3 normal) const;
  double beamOn(Vec3 normal) const;
  /// One of the suns, each as likely as the energy it brings; `u` in [0, 1).
  Vec3 pick(double u) const;
  std::size_t hours() const { return hours_; } ///< with light; 0: of a moment

private:
  void gatherSuns();
  std::optional<SkyLuminance> shape_;
  double shapeScale_ = 0;
  std::vector<double> bins_;
  std::vector<Sun> suns_;
  std::vector<double> upTo_; ///< energy of the suns up to each
  static constexpr std::size_t guides = 1024;
  std::vector<std::uint32_t> guide_; ///< where to look for a share of the energy
  double diffuse_ = 0, beam_ = 0;
  std::size_t hours_ = 0;
};

} // namespace noonward
