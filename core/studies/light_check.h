#pragma once
// Faults of a model that only rays can see: panes that light would pass twice or that stand against a wall; rooms that
// are not closed; sensors of a room's grid that stand outdoors.

#include "core/light/light_scene.h"
#include "core/model/rooms/sensors.h"

namespace noonward {

/// By short rays from the pieces of every pane.
Findings checkGlazing(const Project& project, const LightScene& scene, const LightModel& model);

/// Twelve sensors of each group look round with 256 rays each: a way out that meets no pane is a leak where most of the
/// rest is closed. It is placed by what stands beside it, to some decimetres. A slit that fills less than about a
/// thousandth of the sphere around the sensors can be missed.
Findings checkLeaks(const LightScene& scene, const SensorSet& sensors);

} // namespace noonward
