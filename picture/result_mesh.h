#pragma once
// A result for use elsewhere: its cells as a mesh, coloured as on the strip, with the value at each cell.

#include "picture/cells.h"

namespace noonward {

/// Binary PLY: doubles, a colour at each point, "value" at each face in the result's unit (NaN where not computed), the
/// unit and what was asked as comments. `origin` is put back on.
std::string resultPly(const SensorField& painted, Vec3 origin, const std::string& about);
/// Binary glTF, y up, metres from the project's origin; the value is in the colour alone.
std::string resultGlb(const SensorField& painted, const std::string& about);

} // namespace noonward
