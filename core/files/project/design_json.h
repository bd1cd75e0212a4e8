#pragma once
// What the designs of a project hold, as in its file, and what follows from it: how options differ, by id and field
// (docs/project-format.md).

#include "core/base/json_difference.h"
#include "core/files/project/project_file.h"
#include "core/model/options.h"

namespace noonward {

/// What the designs hold, as in project files.
Json designJson(const Design& design, const std::string& filesFolder = "files");
/// Read again; meshes are taken from `known`. `unknown`: keys that nobody reads.
Expected<Design> designFromJson(const Json& json, const Project& project, const std::vector<const Design*>& known,
                                std::vector<UnknownKey>* unknown = nullptr);

/// After an edit of the first option: the others keep what they change. `before`: the project before the edit.
Project withOthersRebased(Project project, const Project& before);

/// How two designs differ, in words: "openings · Window 3 · glazing: Clear double → Solar double".
std::vector<std::string> designDifferences(const Design& from, const Design& to);
/// The same of two options.
std::vector<std::string> optionDifferences(const Project& project, std::size_t from, std::size_t to);

} // namespace noonward
