#pragma once
// Eyes set by hand: places with one line of sight each, kept in groups of points (SensorGroup::eyes). Azimuths are
// true, rad, clockwise from north; altitudes of a line of sight −π/2 … π/2.

#include "core/model/project.h"

namespace noonward {

inline constexpr double seatedEye = 1.2, standingEye = 1.7; ///< m above the floor

struct EyeRef {
  GroupId group;
  std::size_t index = 0; ///< in the group's points
  bool operator==(const EyeRef&) const = default;
};
std::vector<EyeRef> eyesSet(const Project& project);
/// Null where there is none any more.
const PointSensor* eyeAt(const Project& project, const EyeRef& eye);

struct LineOfSight {
  double azimuth = 0, altitude = 0;
};
LineOfSight lineOfSight(const Project& project, const PointSensor& eye);

/// m: seated above the floor of the room there on the storey looked into, standing above ground or terrain outdoors.
double eyeLevel(const Project& project, Vec2 at, std::optional<double> storey);
/// Toward the biggest window of the room there; south where it has none, or outdoors.
double towardTheWindow(const Project& project, Vec3 at);

/// The project with one more eye, in the group given or the first group of eyes set by hand, or a new one. Names count
/// on ("Eye 3"). `made`: where it is.
Project withEye(Project project, Vec3 at, LineOfSight sight, std::optional<GroupId> group = {}, EyeRef* made = nullptr);
Project withEyeChanged(Project project, const EyeRef& eye, const std::function<void(PointSensor&)>& change);
/// Without the eye; a group that is left empty goes too (withoutGroup).
Project withoutEye(Project project, const EyeRef& eye);
/// Looking `sight` from where it is.
Project withEyeTurned(Project project, const EyeRef& eye, LineOfSight sight);
/// A row of `count` eyes at the distance given (m), the first being this one, the others to the right of its line of
/// sight, to the left where the distance is below 0. Error: a row that is none, or too long.
Expected<Project> withRowOfEyes(Project project, const EyeRef& eye, int count, double distance);

} // namespace noonward
