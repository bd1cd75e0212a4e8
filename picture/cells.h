#pragma once
// Results as coloured cells on the ground and on facades: one mesh a group, two triangles a cell; the face number is
// the sensor's place within its group.

#include "core/studies/sensor_field.h"
#include "picture/legend.h"

namespace noonward {

/// Cells of one group as a mesh, lifted 3 cm off the surface so that they lie on top. Single points give small squares.
/// The needle of a line of sight is as long as its value asks: whole at the largest of all that are painted, less than
/// half at 0 or where there is none.
Mesh cellMesh(const SensorField& painted, std::size_t group);

} // namespace noonward
