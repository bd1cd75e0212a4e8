#pragma once
// Drawn windows copied: round the corner, to the storeys above and below, from wall to wall. Metres.

#include "core/model/project.h"

namespace noonward {

/// One wall of a room.
struct WallRef {
  RoomId room;
  int edge = 0;
  bool operator==(const WallRef&) const = default;
};

/// The drawn windows of a wall on another too, as far from its left corner seen from outside as on their own, at the
/// same height above the floor. `missed`: how many found no room there.
Project withWindowsOfWall(const Project& project, WallRef from, WallRef to, int* missed = nullptr);

/// The next outer wall of the same room to the right, or to the left, seen from outside; none where there is no other.
std::optional<WallRef> wallBeside(const Project& project, WallRef wall, bool right);

/// Walls in line with it (to half a metre) in rooms of other storeys, lowest first. `above`: that of the next storey
/// with one alone.
std::vector<WallRef> wallsInLine(const Project& project, WallRef wall, bool aboveAlone);

/// The size, sill, glazing, frame and pane of one drawn window given to all of its type.
Project withTypeAsOne(Project project, OpeningId like);

/// A window taken to the end of its wall, with another round the corner that it meets without a pillar. Errors: the
/// other wall does not stand outdoors, or turns inward.
Expected<Project> withCornerWindow(const Project& project, OpeningId opening, bool right);

/// A door in a room's wall: from the floor, 0.9 m × 2.1 m, glazed to 60 %, in its first outer wall that has a place for
/// it. Error where none has.
Expected<Project> withDoor(const Project& project, RoomId room, OpeningId* made = nullptr);

/// Rooms for windows alone in a mass or an imported building without rooms: one a storey, not counted, so that windows
/// can be laid out, seen, and asked for sun before there is a plan. Error: no such element, or it has rooms.
Expected<Project> withRoomsForWindows(const Project& project, ElementId mass);

} // namespace noonward
