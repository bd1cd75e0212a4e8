#pragma once
// The parts of a project file that ask something beside the studies: measured series and sweeps. docs/project-format.md
// tells the keys.

#include "core/base/json.h"
#include "core/model/project.h"
#include <filesystem>

namespace noonward {

/// "measured"; file names become absolute.
void readMeasured(JsonObject& root, Project& project, const std::filesystem::path& folder);
void writeMeasured(Json& root, const Project& project);
/// "sweeps", "beside".
void readSweeps(JsonObject& root, Project& project);
void writeSweeps(Json& root, const Project& project);
/// A number, a text or a yes or no; nothing for anything else.
std::optional<VaryValue> varyValue(const Json& value);
Json varyJson(const VaryValue& value);
/// One entry of "sweeps".
Sweep sweepFromJson(JsonObject& o);
Json sweepJson(const Sweep& sweep);

} // namespace noonward
