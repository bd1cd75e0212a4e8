#pragma once
// Studies of what a sensor sees without sampling light: probable sunlight hours, and whether any sky is seen (no-sky
// line). Both are taken by runLight(). Glazing hides nothing, whatever it lets through.

#include "core/studies/light_study.h"

namespace noonward {

/// % of the hours of sunshine, of the whole year or of its winter half, in which the sun reaches the sensor: both of
/// the whole year's unobstructed total. By one position of the sun for each hour.
LightResult runSunlight(const LightInput& input, RunControl& control, Threads threads);

/// What of a sky falls straight on each sensor, its luminance as the input has it: VSC under the overcast sky, sky view
/// factor under a uniform one, both in %. One standard error of 0.07 points is asked for (sky_share.h).
LightResult runSkyExposure(const LightInput& input, RunControl& control, Threads threads);

/// 100 where a sensor sees any sky, 0 where it sees none, so that the mean of a plane by area is the share in front of
/// its no-sky line. Looked for in the whole hemisphere first (4096 directions), then through every pane it may see: a
/// net of 24 steps along each piece of glass and 256 points along its edges. A strip of sky narrower than a
/// twenty-fourth of a piece (6 cm of the largest) that keeps off its edges may be missed; so may one through a hole
/// without glass that is narrower than 2°.
LightResult runSkySeen(const LightInput& input, RunControl& control, Threads threads);

} // namespace noonward
