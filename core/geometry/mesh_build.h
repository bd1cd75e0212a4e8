#pragma once
// Putting meshes together from polygons in space, as files give them.

#include "core/geometry/mesh.h"

namespace noonward {

/// Normal of a ring in space (Newell's), twice its area long; counter-clockwise seen from its tip.
Vec3 ringNormal(std::span<const Vec3> ring);

/// A polygon over points that are there already: a fan where it is convex, cut in its plane else. `face` is given to
/// each triangle.
void addPolygon(const std::vector<Vec3>& points, const std::vector<std::uint32_t>& corners, std::uint32_t face,
                Mesh& mesh);

/// A polygon with holes, its points added: rings in either direction, the first is the outer one. False where it has no
/// area or can't be cut; nothing is added then.
bool addPolygon(Mesh& mesh, const std::vector<std::vector<Vec3>>& rings, std::uint32_t face);

/// A polygon with rings of its plane cut out, which may touch or cross its edge. False where nothing is left.
bool addPolygonWithout(Mesh& mesh, const std::vector<Vec3>& outer, const std::vector<std::vector<Vec3>>& cuts,
                       std::uint32_t face);

/// A flat face of another mesh with polygons of its plane cut out of it. False where nothing is left.
bool addFaceWithout(Mesh& mesh, const Mesh& from, std::uint32_t face, const std::vector<std::vector<Vec3>>& cuts);

/// The triangles of `gathered` with only the points they use; those without area are dropped and counted.
Mesh withOwnPoints(const std::vector<Vec3>& points, const Mesh& gathered, std::size_t& dropped);

} // namespace noonward
