#pragma once
// Every tolerance of the core, with its unit and how they relate. Local geometry stays within 5 km of the origin.

namespace noonward::tolerance {

/// m. Two points nearer than this are one: outlines, snapping, welding. Above double noise at 5 km (1e-12) by far.
inline constexpr double weld = 1e-5;
/// m. Sensors stand this far in front of the surface they belong to; > float32 spacing at 5 km (0.5 mm).
inline constexpr double sensorOffset = 2e-3;
/// m. A room's floor lies this far above its level and its ceiling below its height, so that neither lies in one plane
/// with the base or roof of the building, the ground, or the room above: which of two such faces a ray meets is chance.
/// Above float32 spacing at 5 km, below sensorOffset.
inline constexpr double roomSkin = 1e-3;
/// m. Rays of single precision begin this far in front of the surface that a point may lie on, and farther where
/// coordinates are large, or it would hide its own sky. Exact sun hours are of double precision and begin at the point
/// itself.
inline constexpr double rayOffset = 1e-4, rayOffsetOfCoordinate = 4e-7;
/// Relative: a triangle whose plane passes within this sine of a sensor is seen edge-on and hides nothing.
inline constexpr double edgeOn = 1e-10;
/// s. Sun or shade shorter than this is joined to its neighbours: the seam between two triangles is no gap. Stated
/// wherever exact times are shown; 0.1 s is 1/270 of the sun's way past a 0.1 m pole at 50 m.
inline constexpr double shortestStretch = 0.1;
/// m. Extent around the origin beyond which float32 geometry is refused.
inline constexpr double largestExtent = 5000;
/// m². A face smaller than this is no face.
inline constexpr double smallestFace = 1e-8;

} // namespace noonward::tolerance
