#pragma once
// Meshes with fewer triangles.

#include "core/geometry/mesh.h"

namespace noonward {

Mesh withoutTriangles(const Mesh& mesh, const std::vector<std::uint32_t>& drop);
/// With far fewer triangles where that moves no surface by more than `by` (m); shapes smaller than that may go.
Mesh thinned(const Mesh& mesh, double by);

} // namespace noonward
