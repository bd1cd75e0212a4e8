#pragma once
// Triangle meshes in double precision, and the solids drawn from outlines.

#include "core/base/hash.h"
#include "core/geometry/polygon.h"
#include <memory>
#include <span>
#include <string>

namespace noonward {

using Triangle = std::array<std::uint32_t, 3>;

/// Triangles over shared points; counter-clockwise seen from outside. `face` says which flat face of the element a
/// triangle belongs to, so that a wall of two triangles is selected, measured and gridded as one.
struct Mesh {
  std::vector<Vec3> points;
  std::vector<Triangle> triangles;
  std::vector<std::uint32_t> face;    ///< one per triangle, or empty: every triangle a face of its own
  std::vector<std::string> faceGroup; ///< optional name per face from the source file

  Box3 box() const;
  std::uint32_t faceOf(std::size_t triangle) const { return face.empty() ? std::uint32_t(triangle) : face[triangle]; }
  std::size_t faceCount() const;
  /// Not normalised: twice the area long.
  Vec3 areaVector(std::size_t triangle) const;
};
Digest digestOf(const Mesh& mesh);
double surfaceArea(const Mesh& mesh);
/// Signed volume of a closed mesh, m³; positive where faces point outward.
double volume(const Mesh& mesh);

/// Faces of an extruded outline: 0 the base, 1 the roof, 2… one wall for each edge, outer ring first.
inline constexpr std::uint32_t baseFace = 0, roofFace = 1, firstWallFace = 2;
/// Vertical solid over an outline from `base` to `base + height`.
Expected<Mesh> extrude(const Outline& outline, double base, double height);

/// One face over corners in space, counter-clockwise seen from its front; an error where they lie on no plane (1 cm).
Expected<Mesh> flatPlate(const std::vector<Vec3>& corners);

/// Neighbouring triangles in one plane become one face; done for imports that know no faces. Angle in rad.
void findFaces(Mesh& mesh, double angle = 0.01);

/// Edges to draw: those between different faces, or of one triangle only. Pairs of points.
std::vector<std::pair<Vec3, Vec3>> featureEdges(const Mesh& mesh);

} // namespace noonward
