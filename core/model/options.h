#pragma once
// Options: designs of one project beside each other, each a whole design that shares what is the same. Files state them
// by what they change against the first (core/files/project/design_json.h).

#include "core/model/project.h"

namespace noonward {

/// The same project with another of its options in hand; what the options share (place, sensors, studies) stays.
Project withOption(Project project, std::size_t option);
/// A new option, alike to the one in hand, which becomes the one in hand. The first call also names the design there
/// is.
Project withNewOption(Project project, const std::string& name);
Project withoutOption(Project project, std::size_t option); ///< with one left, the list goes too
std::optional<std::size_t> optionNamed(const Project& project, const std::string& nameOrNumber);
/// The design of an option, in hand or not.
const Design& designOf(const Project& project, std::size_t option);

} // namespace noonward
