#pragma once
// Edits of a project: each takes a project and returns the changed one. Lengths in metres, angles in radians.

#include "core/model/project.h"
#include <functional>

namespace noonward {

Project withElement(Project project, Element element); ///< added, or put in place of the one with its id
Project withoutElements(Project project, const std::vector<ElementId>& ids);
/// Runs `edit` on a copy of each element named.
Project withEdited(Project project, const std::vector<ElementId>& ids, const std::function<void(Element&)>& edit);

void moveElement(Element& element, Vec3 by);
/// Takes its numbers as if written in another unit.
void scaleElement(Element& element, double factor);
/// Counter-clockwise about a point.
void turnElement(Element& element, Vec2 about, double angle);
/// Turns a plate about its first edge; positive lifts the far side.
void tiltPlate(Element& element, double angle);
/// Top of the element above its foot. Storeys of a mass keep their number.
void setHeight(Element& element, double height);
double heightOf(const Element& element);
Box3 boxOf(const Element& element);
/// Remembers a mend of its mesh, once.
void noteMend(Element& element, const std::string& mend);
Vec2 middleOf(const Element& element);
/// Moves one edge of a mass along its outward normal. Edges count through the outer ring, then the holes.
Outcome moveEdge(Element& element, std::size_t edge, double by);

/// One finish or glazing put wherever another is used, by name or as a role's default.
Project withFinishReplaced(Project project, const std::string& from, const std::string& to);

/// A balcony as its front is seen on a facade: a slab at the foot of the rectangle, and where it is 0.3 m high or more
/// a solid front and sides, all `depth` m out from the wall. Plates of the layer "Balconies".
Project withBalcony(Project project, const WallRectangle& seen, double depth, bool proposed,
                    std::vector<ElementId>* made = nullptr);

/// A name not yet taken: "Block 3".
std::string freshName(const Project& project, const std::string& stem);
Project withGroup(Project project, SensorGroup group);
/// A study or rule that named it alone would take all others from now on: it goes with the group.
Project withoutGroup(Project project, GroupId id);

} // namespace noonward
