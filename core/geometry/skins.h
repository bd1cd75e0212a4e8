#pragma once
// Walls modelled with both their skins, made single where a study needs no reveal.

#include "core/geometry/mesh.h"

namespace noonward {

inline constexpr double thickestWall = 0.6; ///< m, between the skins

/// Closed upright slabs of a mesh, each a shell of its own whose two large faces lie no farther apart than `thickest`.
/// Walls that are one solid round a corner are none. Linear in the number of triangles.
std::size_t slabsIn(const Mesh& mesh, double thickest = thickestWall);

/// Each of them as one face in its middle, with the openings that go through it; everything else as it is. `made`: how
/// many. A slab whose middle closes nothing off stays.
Mesh withSingleSkins(const Mesh& mesh, std::size_t& made, double thickest = thickestWall);

} // namespace noonward
