#pragma once
// What the hours of one space add up to, taken hour by hour as they lie in memory: to the last bit what
// annual_metrics.h makes of each sensor's series of 8760 hours, in a fraction of the time.

#include "core/base/parallel.h"
#include "core/studies/year_study.h"
#include <span>

namespace noonward {

struct SpaceSums {
  std::vector<SensorYear> sensors;
  ProvisionHours provision{}, provisionOwn{};
};
/// Which hours: the records that have light (the others are dark), the schedule, the 4380 with most diffuse light.
struct SummedHours {
  const std::vector<std::uint32_t>& lit;
  const std::vector<bool>&mask, &daylight; ///< 8760 each
};
/// `light`: lx, hour by hour along `hours.lit` one for each sensor; finite, none below 0. `areas`: m² of each sensor's
/// cell. Same bits for any number of threads.
SpaceSums spaceSums(std::span<const float> light, const SummedHours& hours, const MetricSettings& settings,
                    std::span<const double> areas, Threads threads);

} // namespace noonward
