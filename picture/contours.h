#pragma once
// Lines of equal value over sensor grids, by marching squares between the middles of cells. Sensors of a group that lie
// in one plane form a grid; a square with a corner missing or not computed has no line.

#include "core/model/rooms/sensors.h"

namespace noonward {

struct ContourPiece {
  double level = 0;
  Vec3 a, b; ///< local metres, 4 cm off the surface
};
std::vector<ContourPiece> contours(const SensorSet& sensors, const std::vector<float>& values,
                                   const std::vector<double>& levels);

} // namespace noonward
