#pragma once
// The weather year as light: for every hour with light the luminance of each of 577 patches of the sky (all-weather model of
// 1993, scaled so that the patches give the horizontal diffuse illuminance exactly) and the beam, from irradiance and the
// efficacies of 1990. The sun stands for the middle of its hour (core/sky/weather.h). Axes of the model.

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
  /// Luminance of the beam spread over patches for light that has met a surface, cd/m², 577 × hours: a bell of 5° about the sun.
  /// A patch alone would be met by too few paths, and hours would come out darker than they are more often than brighter.
  Eigen::SparseMatrix<float> spreadBeam;
  std::vector<float> beamIrradiance, diffuseEfficacy; ///< W/m² facing the sun; lm/W of the sky's light
  std::vector<double> diffuse;      ///< lx on the horizontal, all 8760 records
};
/// An error where the project has no whole weather year, or radiation is missing from it.
Expected<std::shared_ptr<const HourlySky>> hourlySky(const Project& project);

} // namespace noonward
