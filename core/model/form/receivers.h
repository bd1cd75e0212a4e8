#pragma once
// Receivers as people count them: points grouped into dwellings and buildings, by a table, by hand, or made from the
// facades of bare masses.

#include "core/model/project.h"

namespace noonward {

/// What a table says of one receiver.
struct ReceiverLine {
  std::string name, group, dwelling, building;
  std::optional<Subject> subject;
  std::optional<PointSensor> point; ///< where and which way; nothing: by name alone
  std::size_t line = 0;             ///< of the table, or the feature's number, from 1 on
};
struct ReceiverTable {
  std::vector<ReceiverLine> lines;
  std::vector<std::string> notes; ///< what was left out, and why
};

struct ReceiversLaid {
  Project project;
  std::vector<GroupId> groups; ///< new, or changed
  std::size_t added = 0, named = 0;
  std::vector<std::string> lost; ///< names that match nothing
  std::string told;              ///< "Laid 120 receivers in 40 groups; 3 names match nothing (first: …)."
};
/// Points of one group, dwelling, building and subject stand together in a group of sensors; a group of points that is
/// there under the same name and dwelling gets them, a point of the same name in it is moved. A name alone: a group of
/// that name takes dwelling, building and subject; else a point of that name goes with them into a group of its own.
/// Studies and rules that asked for an emptied group ask for those that have its points.
ReceiversLaid withReceivers(Project project, const ReceiverTable& table);

/// One receiver of those laid out: a point of its group, or the group as a whole where it is a grid.
struct ReceiverRef {
  GroupId group;
  std::size_t point = 0; ///< index within its group
  bool operator==(const ReceiverRef&) const = default;
};
struct Grouping {
  std::optional<std::string> dwelling, building; ///< empty text: none
  std::optional<Subject> subject;
};
/// Gives what is stated to the receivers chosen. Points of a group that are not all of it move into a group of their
/// own; of a grid the whole group takes it.
Project regrouped(Project project, const std::vector<ReceiverRef>& chosen, const Grouping& grouping);

struct DwellingWish {
  double bay = 3;      ///< m of facade for a window, about
  int bays = 3;        ///< windows of one dwelling
  double height = 1.6; ///< m of a window's middle above its floor
};
struct DwellingsMade {
  Project project;
  std::vector<GroupId> groups;
  std::size_t buried = 0; ///< places on walls that others stand against: left out
};
/// Dwellings of bare masses and of buildings brought in (storeys of 3 m): of every storey and side, so many bays each
/// are one dwelling's living room, named by building, storey, side and number. Those of the same buildings made before
/// are made anew. Errors: no mass with an upright wall.
Expected<DwellingsMade> dwellingsFromFacades(Project project, const std::vector<ElementId>& masses,
                                             const DwellingWish& wish = {});

} // namespace noonward
