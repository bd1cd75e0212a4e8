#pragma once
// The frame of a light study whose values come from a function of the sensor: chunks on all threads, progress,
// stopping.

#include "core/studies/light_study.h"

namespace noonward {

/// Values without an error of their own. `value` may be called from any thread; `samples`: rays it sends for a sensor,
/// about, for the result to tell.
LightResult bySensor(const LightInput& input, RunControl& control, Threads threads, std::uint32_t samples,
                     const std::function<double(std::size_t sensor)>& value);

} // namespace noonward
