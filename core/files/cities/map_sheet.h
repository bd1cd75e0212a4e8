#pragma once
// Aerial pictures and map sheets that know where they lie: by a world file beside them, or by the tags of a GeoTIFF.
// They become underlays whose four corners lie by coordinates, beside city models, terrain and footprints.
// World file: six lines a, d, b, e, c, f with x = a·col + b·row + c and y = d·col + e·row + f for the middle of the
// pixel in that column and row, counted from 0 at the upper left. GeoTIFF: OGC 19-008r4, ModelPixelScale and
// ModelTiepoint or ModelTransformation, and the code of a projected or geographic system.

#include "core/model/project.h"
#include <filesystem>

namespace noonward {

/// Where the pixels of a picture lie in a reference system. Pixels count from the picture's upper left corner, so that
/// the middle of the first is (0.5, 0.5).
struct MapSheet {
  std::array<double, 6> grid{}; ///< x = g0·px + g1·py + g2, y = g3·px + g4·py + g5
  std::string system;           ///< "EPSG:25832", the text of a .prj file, or nothing
  std::string by;               ///< "harbour.pgw", "its own tags"
  Vec2 at(Vec2 pixel) const {
    return {grid[0] * pixel.x + grid[1] * pixel.y + grid[2], grid[3] * pixel.x + grid[4] * pixel.y + grid[5]};
  }
};

/// The text of a world file. Errors name the line.
Expected<std::array<double, 6>> worldFileFrom(std::string_view text);

/// Nothing where neither a world file lies beside the picture (harbour.pgw, .pngw, .wld; and a .prj for the system) nor
/// its own tags say where it lies. Errors: a world file or tags that can't be followed.
Expected<std::optional<MapSheet>> mapSheetOf(const std::filesystem::path& file, const Picture& picture);

struct LaidSheet {
  Underlay underlay; ///< pinned at its four corners, on the ground's level
  Site site;         ///< an empty project takes place, zone, north and origin from the sheet
  std::string told;  ///< by what it lies, its size, and what it covers, in two or three sentences
};
/// Lays a sheet of so many pixels by its coordinates. A sheet without a system is taken to be in the project's. Errors:
/// a system that is not known, or that it lies further from the model than a model can reach (the text gives how far).
Expected<LaidSheet> laidSheet(const Project& project, Underlay underlay, Vec2 pixels, const MapSheet& sheet);

/// How much of what stands in the project a sheet covers, and which other sheets it lies over.
std::string coveredTold(const Project& project, const Underlay& sheet);

} // namespace noonward
