#pragma once
// Options: designs of one project beside each other. A file states each by what it changes against the first, by id and field
// (docs/project-format.md); in memory each is a whole design that shares what is the same.

#include "core/base/json_difference.h"
#include "core/files/project_file.h"

namespace noonward {

/// The same project with another of its options in hand; what the options share (place, sensors, studies) stays.
Project withOption(Project project, std::size_t option);
/// A new option, alike to the one in hand, which becomes the one in hand. The first call also names the design there is.
Project withNewOption(Project project, const std::string& name);
Project withoutOption(Project project, std::size_t option); ///< with one left, the list goes too
std::optional<std::size_t> optionNamed(const Project& project, const std::string& nameOrNumber);
/// The design of an option, in hand or not.
const Design& designOf(const Project& project, std::size_t option);

/// What the designs hold, as in project files.
Json designJson(const Design& design, const std::string& filesFolder = "files");
/// Read again; meshes are taken from `known`.
Expected<Design> designFromJson(const Json& json, const Project& project, const std::vector<const Design*>& known);

/// After an edit of the first option: the others keep what they change. `before`: the project before the edit.
Project withOthersRebased(Project project, const Project& before);

/// How two options differ, in words: "openings · Window 3 · glazing: Clear double → Solar double".
std::vector<std::string> optionDifferences(const Project& project, std::size_t from, std::size_t to);

} // namespace noonward
