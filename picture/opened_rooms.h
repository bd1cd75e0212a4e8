#pragma once
// The model opened for a look into its rooms: the masses around them are cut off above the rooms' floors, so that walls
// stand as a low relief with their windows as gaps, and grids lie open. For pictures alone; studies never see it.

#include "core/model/project.h"

namespace noonward {

/// Rooms on the storey whose floor is nearest `floor`; `cut` metres above it everything of their masses is taken off.
Project openedRooms(const Project& project, double floor, double cut = 1.3);
/// The lowest floor that has rooms; nothing where there are none.
std::optional<double> lowestFloor(const Project& project);

/// Floors that have rooms, rising, those within half a metre taken as one.
std::vector<double> storeys(const Project& project);
/// The one nearest to what is wanted, else the lowest; 0 where there are no rooms.
double storeyNear(const Project& project, std::optional<double> wanted);
inline bool onStorey(const Room& room, double storey) {
  return std::abs(room.floor - storey) < 0.5;
}

} // namespace noonward
