#pragma once
// What goes where when masses become other masses (shaping.h).

#include "core/model/project.h"

namespace noonward {

/// A mass that takes the place of others, or of a part of one.
struct Piece {
  ElementId from; ///< whose name, role and finish it has
  Mass mass;
};
/// `old` replaced by pieces. The largest piece of each old one keeps its id; `group`: a name that holds the pieces
/// together; empty: theirs stay as they are. Rooms are cut where they stood in several pieces, with a wall of their own
/// thickness along the cut; a room of which nothing is left stays as it was, and a finding says so (rooms.h).
Project withPieces(const Project& project, const std::vector<ElementId>& old, const std::vector<Piece>& pieces,
                   const std::string& group, std::vector<ElementId>* made = nullptr);

} // namespace noonward
