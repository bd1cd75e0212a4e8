#pragma once
// The record's plan against the project: which of its parts are there, and what they are called.

#include "core/model/project.h"

namespace noonward {

const char* paperKey(Paper paper);  ///< "a4"
const char* paperName(Paper paper); ///< "A4"
std::optional<Paper> paperFromKey(std::string_view key);

/// The parts of the project's record: those it lists and that are still there; where it lists none, every study and
/// every rule laid, and what was measured.
std::vector<RecordPart> recordParts(const Project& project);
/// What a part is called: the study's name, the rule's title is for who knows the rules.
std::string partName(const Project& project, const RecordPart& part);

} // namespace noonward
