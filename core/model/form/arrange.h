#pragma once
// Elements set in order, with everything in and on them: copied, laid out in rows, mirrored, aligned, brought over from
// another option, held together in groups. Metres, radians.

#include "core/model/project.h"

namespace noonward {

/// Copies of elements with everything in and on them, shifted; rules that name rooms, grids and assignments name the
/// copies too. Elements of one group form a group of their own. `made`: the new elements, in the order of `ids`.
Project withCopies(Project project, const std::vector<ElementId>& ids, Vec3 by, std::vector<ElementId>* made = nullptr);

/// The same from another state of a project (another option), to the same place. Finishes and glazings they use come
/// along where there is none of that name.
Project withPasted(Project project, const Project& from, const std::vector<ElementId>& ids,
                   std::vector<ElementId>* made = nullptr);

/// How many there are of each element, itself counted, and how far apart from middle to middle.
struct RowLayout {
  int right = 1, up = 1;
  Vec2 stepRight, stepUp; ///< m
};
inline constexpr int mostInARow = 200;
/// Elements laid out in a row or grid that stays editable: asked again with other numbers, copies are moved, added and
/// taken away; what was changed on a copy since stays. Errors: fewer than one or too many, copies in one place.
Expected<Project> withRow(const Project& project, const std::vector<ElementId>& ids, const RowLayout& layout,
                          std::vector<ElementId>* made = nullptr);
/// The row that an element is in, as first or as copy, and its first element. Nothing where it is in none.
struct RowOf {
  ElementId first;
  RowLayout layout;
};
std::optional<RowOf> rowOf(const Project& project, ElementId id);
/// Elements with the rooms in them and their windows.
Project withoutHosts(Project project, const std::vector<ElementId>& ids);

/// Mirrored in the line through two points of the plan: shapes, rooms, windows, shading and what is given to faces.
/// With `copies` beside the ones there are. An import becomes a mesh of its own, no longer its file's.
Expected<Project> withMirrored(const Project& project, const std::vector<ElementId>& ids, Vec2 a, Vec2 b, bool copies,
                               std::vector<ElementId>* made = nullptr);

enum class Align { Left, MiddleX, Right, Lower, MiddleY, Upper, Base, Top };
/// Moved so that a side of their boxes, or the middle, lies where that of the first one does.
Project withAligned(const Project& project, const std::vector<ElementId>& ids, Align how);

/// Held together under a name; an empty name frees them.
Project withGroupNamed(Project project, const std::vector<ElementId>& ids, const std::string& name);
/// These, and all that are held together with any of them, in the order of the project.
std::vector<ElementId> withTheirGroups(const Project& project, const std::vector<ElementId>& ids);
std::string freshGroup(const Project& project, const std::string& stem);

} // namespace noonward
