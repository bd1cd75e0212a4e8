#pragma once
// "heat" in project files: constructions, thermal mass and uses of rooms. docs/project-format.md tells its keys.

#include "core/base/json.h"
#include "core/model/heat.h"
#include <filesystem>
#include <functional>

namespace noonward {

/// `room`: the room meant, by name or id.
void readHeat(JsonObject& root, HeatDesign& heat,
              const std::function<RoomId(const Json& room, const std::string& path)>& room);
/// Nothing where it is as it begins.
void writeHeat(Json& root, const HeatDesign& heat);

/// Weights of a file of their own: {"format": "noonward-energy-weights", "weights": [...]}, each as in a project.
Expected<std::vector<EnergyWeight>> readWeights(const std::filesystem::path& file);
/// A weight of energy: name, unit, heating, cooling, lighting by the kWh, source.
EnergyWeight readWeight(JsonObject& object);

} // namespace noonward
