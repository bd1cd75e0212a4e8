#pragma once
// Results as coloured cells on the ground and on facades: one mesh a group, two triangles a cell; the face number is the
// sensor's place within its group.

#include "core/studies/sun_hours.h"
#include "picture/legend.h"

namespace noonward {

struct PaintedResult {
  SensorSet sensors;
  std::shared_ptr<const SunHoursResult> result;
  ResultScale scale;
};

/// Cells of one group as a mesh, lifted 3 cm off the surface so that they lie on top. Single points give small squares.
Mesh cellMesh(const SensorSet& sensors, std::size_t group);
/// Range of the strip for a result: 0 to the hours that the sky alone would give, rounded up.
ResultScale scaleFor(const SunHoursResult& result, double threshold = 2);

} // namespace noonward
