#pragma once
// "heat" in project files: constructions, thermal mass and uses of rooms. docs/project-format.md tells its keys.

#include "core/base/json.h"
#include "core/model/heat.h"

namespace noonward {

void readHeat(JsonObject& root, HeatDesign& heat);
/// Nothing where it is as it begins.
void writeHeat(Json& root, const HeatDesign& heat);

} // namespace noonward
