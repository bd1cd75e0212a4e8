#pragma once
// The record's plan in project files; docs/project-format.md tells its keys.

#include "core/base/json.h"
#include "core/model/project.h"

namespace noonward {

/// Nothing where the plan is as it begins.
void writeRecordPlan(Json& into, const Project& project);
void readRecordPlan(JsonObject& from, Project& project);

} // namespace noonward
