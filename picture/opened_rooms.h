#pragma once
// The model opened for a look into its rooms: the masses around them are cut off above the rooms' floors, so that walls
// stand as a low relief with their windows as gaps, and grids lie open. For pictures alone; studies never see it.

#include "core/model/project.h"

namespace noonward {

/// Rooms on the storey whose floor is nearest `floor`; `cut` metres above it everything of their masses is taken off.
Project openedRooms(const Project& project, double floor, double cut = 1.3);
/// The lowest floor that has rooms; nothing where there are none.
std::optional<double> lowestFloor(const Project& project);

} // namespace noonward
