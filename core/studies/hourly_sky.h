#pragma once
// The weather year as light: for every hour with light the luminance of each of 577 patches of the sky (all-weather
// model of 1993, scaled so that the patches give the horizontal diffuse illuminance exactly) and the beam, from
// irradiance and the efficacies of 1990. The sun stands for the middle of its hour (core/sky/weather.h). Axes of the
// model.

#include "core/model/project.h"
#include "core/sky/sky_bins.h"
#include <Eigen/Core>
#include <Eigen/SparseCore>
#include <memory>

namespace noonward {

struct HourlySky {
  std::vector<std::uint32_t> hours; ///< records 0…8759 with light, in order; everything below counts along these
  Eigen::MatrixXf luminance;        ///< cd/m², 577 × hours
  std::vector<Vec3> sun;            ///< unit, toward the sun; below the horizon where there is none
  std::vector<float> beam;          ///< lx facing the sun; 0 without
  /// Luminance of the beam spread over patches for light that has met a surface, cd/m², 577 × hours: a bell of 5° about
  /// the sun. A patch alone would be met by too few paths, and hours would come out darker than they are more often
  /// than brighter.
  Eigen::SparseMatrix<float> spreadBeam;
  std::vector<float> beamIrradiance, diffuseEfficacy; ///< W/m² facing the sun; lm/W of the sky's light
  std::vector<double> diffuse;                        ///< lx on the horizontal, all 8760 records
  std::vector<bool> unknown; ///< records without radiation, of a year made of a part of one; else empty
};
/// An error where the project has no whole weather year, or radiation is missing from it.
/// `ownIlluminance`: direct and diffuse illuminance of the weather file in hours where they are plausible, if they
/// mostly are.
Expected<std::shared_ptr<const HourlySky>> hourlySky(const Project& project, bool ownIlluminance = false);

/// Are the illuminance columns of a weather year fit for use? An hour is plausible where what it says for the diffuse
/// and the beam lies between 40 and 200 lm/W (the beam: 10 and 160) of the irradiance beside it, or where there is as
/// good as none of either.
struct IlluminanceColumns {
  std::size_t lit = 0, plausible = 0; ///< hours with radiation; those of them that are plausible
  bool usable() const { return lit > 0 && 20 * plausible >= 19 * lit; }
};
IlluminanceColumns illuminanceColumns(const Weather& weather);
/// What the year's light is made from, in words: "irradiance × efficacy", "the weather file's illuminances (…)".
std::string illuminanceText(const Weather& weather, bool ownIlluminance);

} // namespace noonward
