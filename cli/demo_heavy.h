#pragma once
// The branch library of the demo as an architect might send it: correct underneath, and as untidy as such files are.

#include "core/model/project.h"

namespace noonward::cli {

struct HeavyModel {
  std::string obj, mtl;
};
/// Millimetres, drawn square to the page with true north at 38°: walls with thickness and reveals, panes doubled, every
/// third face turned, faces repeated and without area, an upper floor without windows, furniture of 20 000 faces, a
/// survey mark far off, a triangle missing in a ceiling and a wall that ends 25 mm short of the next. `mtlName`: as the
/// OBJ calls its material file.
Expected<HeavyModel> heavyLibrary(const Project& demo, const std::string& mtlName);
inline constexpr double heavyLibraryNorth = 38; ///< degrees, true azimuth of its +y

} // namespace noonward::cli
