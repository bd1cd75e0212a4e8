#pragma once
// Rooms coloured by a figure of theirs, on the stage and in pictures: how large, how high, how much glass.

#include "core/geometry/mesh.h"
#include "core/model/project.h"
#include "core/studies/sensor_field.h"

namespace noonward {

/// Facing is of the facades of the building, closed, rather than of its rooms.
enum class RoomFigure { None, Area, Volume, Height, Glass, GlassOfFloor, GlassOfWall, HeatLoss, Facing };
inline constexpr std::array<RoomFigure, 9> allRoomFigures{
    RoomFigure::None,         RoomFigure::Area,        RoomFigure::Volume,   RoomFigure::Height, RoomFigure::Glass,
    RoomFigure::GlassOfFloor, RoomFigure::GlassOfWall, RoomFigure::HeatLoss, RoomFigure::Facing};
const char* roomFigureName(RoomFigure figure); ///< "glass by floor area"

struct RoomTints {
  std::vector<double> value;      ///< by room, in the scale's unit; NaN where there is none
  std::vector<std::string> words; ///< "12.4 m²"
  FieldScale scale;               ///< over all rooms, from 0
};
RoomTints roomTints(const Project& project, RoomFigure figure);

/// The floors of the rooms of a storey, a little above them. The face of a triangle is the room's index.
Mesh roomFloors(const Project& project, double storey);

} // namespace noonward
