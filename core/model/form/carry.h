#pragma once
// What stands in or on a building goes with it: rooms with their windows, rooflights, points and grids, shading planes
// and balconies. After an edit of elements, whatever it was, the rest of the project is brought along:
//   moved or turned as a whole: all of it the same way;
//   a wall pulled, corners moved: walls of rooms that run along it keep their distance to it, windows stay on their
//   wall; raised or lowered: floors by storey, the thickness of slabs kept.
// Where a room can't follow (it would cross itself) it stays as it was, and a finding with a mend says so (rooms.h).

#include "core/model/project.h"

namespace noonward {

/// `after`: `before` with the elements of `ids` edited, and nothing else of them.
Project carried(const Project& before, Project after, const std::vector<ElementId>& ids);

/// A room as far as it lies within the element around it; an error where nothing is left.
Expected<Project> withRoomFitted(const Project& project, RoomId room);
/// An opening moved, and made smaller where it must be, so that it lies within its wall.
Project withOpeningFitted(Project project, OpeningId opening);

} // namespace noonward
