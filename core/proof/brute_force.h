#pragma once
// A plain path tracer, slow on purpose: every triangle tried, directions by the cosine alone, roulette of its own. It
// shares the meshes and the optics of glazing with the engine and nothing else, so that the engine can be held against
// it.

#include "core/model/light_model.h"
#include <utility>

namespace noonward {

/// Daylight factor at a point, %, and its standard error, from so many paths; seeded.
std::pair<double, double> bruteForce(const LightModel& model, Vec3 position, Vec3 normal, int paths);

} // namespace noonward
