#pragma once
// What a mend will change, before it does: faces that go, come and turn, parts left out, rooms and windows that come.

#include "core/model/project.h"

namespace noonward {

struct MendPreview {
  using Corners = std::array<Vec3, 3>; ///< m, local
  std::vector<Corners> going, coming, turned;
  std::vector<Ring> rooms;    ///< outlines of rooms that come or change, with their floors
  std::vector<double> floors; ///< m, of `rooms`
  std::size_t facesGoing = 0, facesComing = 0, facesTurned = 0; ///< all, where more than mostShown are not listed
  std::size_t partsOut = 0, partsBack = 0, roles = 0,
              windows = 0; ///< left out, counted again, with another role; windows that come
  bool other = false;      ///< something that is not of the model: the site, the weather, a grid
  bool empty() const {
    return facesGoing + facesComing + facesTurned + partsOut + partsBack + roles + windows == 0 && rooms.empty() &&
           !other;
  }
  std::string text() const; ///< "12 faces go, 3 come, 5 turn"
  Box3 box() const;
};
inline constexpr std::size_t mostShown = 4000; ///< triangles of each kind that are listed

/// Triangles count as the same where their corners lie within 0.1 mm; linear in the triangles of the parts that differ.
MendPreview previewOf(const Project& before, const Project& after);

} // namespace noonward
