#pragma once
// What the hours of one space add up to, taken hour by hour as they lie in memory: to the last bit what
// annual_metrics.h makes of each sensor's series of 8760 hours, in a fraction of the time.

#include "core/base/parallel.h"
#include "core/studies/year_study.h"
#include <Eigen/Core>

namespace noonward {

struct SpaceSums {
  std::vector<SensorYear> sensors;
  ProvisionHours provision{}, provisionOwn{};
};
/// `light`: lx, sensors × hours with light, finite, none below 0; `hours`: their records; the others are dark. `mask`,
/// `daylight`: of 8760 records. `areas`: m² of each sensor's cell; empty: all alike. Same bits for any number of
/// threads.
SpaceSums spaceSums(const Eigen::MatrixXf& light, const std::vector<std::uint32_t>& hours,
                    const std::vector<bool>& mask, const std::vector<bool>& daylight, const MetricSettings& settings,
                    std::span<const double> areas, Threads threads);

} // namespace noonward
