#pragma once
// One rigid motion of the plan, with a lift: what goes along with an element that was moved, turned or mirrored.
// Metres, radians.

#include "core/model/project.h"

namespace noonward {

/// Mirrored in the line through `about` along x (if at all), turned about `about`, then shifted and lifted.
struct Motion {
  Vec2 about, shift;
  double turn = 0, lift = 0;
  bool mirrored = false;
  Vec2 direction(Vec2 d) const;
  Vec2 operator()(Vec2 p) const { return about + shift + direction(p - about); }
  bool nothing() const { return turn == 0 && lift == 0 && shift == Vec2{} && !mirrored; }
};
/// In the line through two points.
Motion mirrorIn(Vec2 a, Vec2 b);

/// A mirrored ring runs the other way round: its points are taken in the order that keeps its direction.
void moveRing(Ring& ring, const Motion& by);
/// Which wall of so many the wall `k` of a ring is afterwards.
std::size_t wallAfter(std::size_t k, std::size_t walls, const Motion& by);

/// A room with its windows and rooflights.
void moveRoom(Project& project, Room& room, const Motion& by);

/// Rules that say "south" go on meaning the same walls: for the rooms that moved, a rule of their own. Mirrored, fins
/// at the left are at the right, and blades turned left are turned right.
void moveRules(Project& project, const std::vector<RoomId>& rooms, const Motion& by);

/// Shading that names windows one by one names those that stand, after the motion, where theirs stood. `pairs`: rooms
/// before, and what became of each; a copy's windows are added, a moved room's put in place of the old.
void shadeMatched(const Project& before, Project& after, const std::vector<std::pair<RoomId, RoomId>>& pairs,
                  const Motion& by);

/// Points, free shading plates and panes that touch an element as it was in `before`, and whole balconies of which a
/// part does; `ids` themselves are not moved again.
void moveAttached(const Project& before, Project& after, const Element& host, const Motion& by,
                  const std::vector<ElementId>& ids);

} // namespace noonward
