#pragma once
// The frame of a light study whose values come from a function of the sensor: chunks on all threads, progress,
// stopping.

#include "core/studies/light_study.h"

namespace noonward {

/// Values without an error of their own. `value` may be called from any thread; `samples`: rays it sends for a sensor,
/// about, for the result to tell.
LightResult bySensor(const LightInput& input, RunControl& control, Threads threads, std::uint32_t samples,
                     const std::function<double(std::size_t sensor)>& value);
/// The same where more than a value comes out of a sensor: `body` fills [begin, end) of the result's columns, each of
/// which has a place for every sensor (values NaN, errors 0 until then).
LightResult bySensors(const LightInput& input, RunControl& control, Threads threads,
                      const std::function<void(LightResult&, std::size_t begin, std::size_t end)>& body);

} // namespace noonward
