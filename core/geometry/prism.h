#pragma once
// Is a mesh nothing but an outline raised from one level to another? Most blocks of city models are. Then the outline
// says it better than its faces: it can be pushed and pulled, has storeys, and costs less.

#include "core/geometry/mesh.h"
#include "core/geometry/polygon.h"
#include <optional>

namespace noonward {

struct Prism {
  Outline outline;
  double base = 0, height = 0; ///< in the mesh's unit
};
/// Nothing where a point lies between the two levels, a wall leans or is missing, the roof has holes through which no
/// wall goes, or comes in several pieces. A floor may be missing. `tolerance`: of levels and places, in the mesh's
/// unit.
std::optional<Prism> asPrism(const Mesh& mesh, double tolerance = 1e-3);

} // namespace noonward
