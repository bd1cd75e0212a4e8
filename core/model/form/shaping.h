#pragma once
// Masses cut, set back and joined. A mass that becomes several stays masses, with outline, base, height and storeys of
// their own, so that every number can still be edited; what was in and on it goes with the piece it lies in: rooms
// whole or cut at the new walls, their windows to the walls they stood in, finishes and grids to the faces that stayed.
// Metres.

#include "core/model/form/outline_edit.h"
#include "core/model/project.h"

namespace noonward {

/// `made`: all the pieces there are afterwards, the ones that kept an id first.
/// Cut at a level: what is above becomes a mass of its own, held together with the lower one. Errors: no mass, the
/// level not inside its walls.
Expected<Project> withCutAtLevel(const Project& project, ElementId mass, double level,
                                 std::vector<ElementId>* made = nullptr);

/// Storeys from `storey` on (1 is the lowest) pulled in by a distance: from all edges, or from the ones named (counted
/// through all rings). Errors: no such storey, nothing left.
struct SetBack {
  int storey = 2;
  double by = 2;                  ///< m
  std::vector<std::size_t> edges; ///< empty: all
};
Expected<Project> withSetBack(const Project& project, ElementId mass, const SetBack& how,
                              std::vector<ElementId>* made = nullptr);

/// Masses cut by the upright plane through two points of the plan; those it misses stay. Errors: it meets none, a
/// sliver thinner than 10 cm would be left, a sloping roof would be cut.
Expected<Project> withMassesCut(const Project& project, const std::vector<ElementId>& masses, Vec2 a, Vec2 b,
                                std::vector<ElementId>* made = nullptr);

/// Joined into one, or, where they differ in height, into one for each run of levels, held together. Errors: fewer than
/// two masses, a sloping roof.
Expected<Project> withMassesJoined(const Project& project, const std::vector<ElementId>& masses,
                                   std::vector<ElementId>* made = nullptr);

/// What of a mass lies outside the others; the others stay, or go with `takeAway`. Errors: they do not meet it, nothing
/// is left, a sloping roof.
Expected<Project> withMassCutOut(const Project& project, ElementId mass, const std::vector<ElementId>& others,
                                 bool takeAway, std::vector<ElementId>* made = nullptr);

/// A corner replaced by a straight piece whose ends lie so far from it. Errors: longer than half of a wall beside it.
Expected<Project> withCornerCut(const Project& project, const CornerRef& corner, double by);

} // namespace noonward
