#pragma once
// Corners of the outlines of masses and rooms, moved, put in and taken out. Windows of a room stay where they are in
// space.

#include "core/geometry/plan_cut.h"
#include "core/model/project.h"

namespace noonward {

/// A corner of an outline, or the edge that begins there.
struct CornerRef {
  std::uint64_t owner = 0; ///< id of the room or element
  bool room = false;
  std::size_t ring = 0; ///< 0 the outer one, then the holes
  std::size_t corner = 0;
  bool operator==(const CornerRef&) const = default;
};
/// Null where there is none.
const Ring* ringOf(const Project& project, const CornerRef& ref);
/// m: where the outline lies, the floor of a room or the foot of a mass.
double levelOf(const Project& project, const CornerRef& ref);

/// Errors: no such corner, or the outline would cross itself or lose its area.
Expected<Project> withCornerAt(const Project& project, const CornerRef& ref, Vec2 at);
/// Into the edge that begins at `edge`; the new corner is the next one.
Expected<Project> withCornerAdded(const Project& project, const CornerRef& edge, Vec2 at);
Expected<Project> withCornerTaken(const Project& project, const CornerRef& ref);

/// A room with another outline.
Expected<Project> withRoomOutline(const Project& project, RoomId room, const Outline& outline);

/// Seats a window of a wall of `old` in the nearest wall of `now` that runs alike (by the cosine `alike` or more),
/// where it stood. How far off that wall was, m; nothing, and no change, where there is none.
std::optional<double> seatOn(Opening& opening, const Ring& old, const Ring& now, double alike);

/// What a plane cuts of the ghosts that light models were traced from, to draw after (tracing.h).
std::vector<CutLine> cutOfGhosts(const Project& project, double level);

} // namespace noonward
