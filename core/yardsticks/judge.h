#pragma once
// What the judging files share.

#include "core/yardsticks/yardstick.h"

namespace noonward {

Verdict notJudged(Verdict verdict, const std::string& why);
/// A sentence as part of another: small first letter, no full stop.
std::string lowered(std::string sentence);
/// The measures of rooms: credit, provision, sun at openings.
Verdict judgeRooms(const Project& project, const Yardstick& yardstick, const std::vector<GroupId>& groups, const JudgeRuns& runs);

} // namespace noonward
