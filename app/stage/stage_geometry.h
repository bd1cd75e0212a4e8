#pragma once
// Vertices for the stage, made from a project: flat-shaded triangles, element edges, result cells. Pure data, so that a
// large model can be prepared in the background.

#include "picture/cells.h"
#include "picture/room_tint.h"

namespace noonward {

struct StageVertex {
  float x, y, z;
  std::int8_t nx, ny, nz, pad;
  std::uint8_t lit[4];   ///< colour in sun; alpha 255: shaded by the sun, 0: flat (result cells)
  std::uint8_t shade[4]; ///< colour out of the sun; alpha of cells 255: dotted (below the threshold), 128: hatched
                         ///< (above the range)
};

struct StageGeometry {
  std::vector<StageVertex> vertices;
  std::vector<std::uint32_t> index; ///< three a triangle; corners of one flat face are shared
  std::vector<float> edges;         ///< x y z per end
  std::vector<float> strongEdges;   ///< of selected elements
  Box3 box;
  std::size_t triangleCount() const { return index.size() / 3; }
};

struct StageLook {
  std::vector<ElementId> selected;
  std::optional<std::uint32_t> face;
  bool dark = false;
  bool byFinish = false; ///< tinted by reflectance, glass by transmittance
  bool byFacing = false; ///< facades tinted by the side they look to
};

/// The tint of a surface that reflects, or of glass that lets through, such a share of the light.
QColor reflectanceTint(double reflectance);
QColor transmittanceTint(double transmittance);
/// `only` empty: all elements but those in `except`; else just these.
StageGeometry stageGeometry(const Project& project, const StageLook& look, const std::vector<ElementId>& only,
                            const std::vector<ElementId>& except);
/// What casts shade: the opaque parts of the derived model, faces alone.
StageGeometry casterGeometry(const std::vector<LightPart>& parts);
/// Floors of the rooms of a storey in the colours of their figures.
StageGeometry tintGeometry(const Project& project, const RoomTints& tints, double storey, const Theme& theme);
StageGeometry cellGeometry(const SensorField& painted, const Theme& theme);
std::size_t triangleCount(const Project& project);

} // namespace noonward
