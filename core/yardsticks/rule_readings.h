#pragma once
// How robust is a verdict? The same rule under the readings that a reviewer may contest: the clock, the lowest sun,
// steps or exact times, refraction, trees, terrain, the clause on what was there before. Readings that change nothing
// in this project (no trees, no terrain) are left out. For rules that are judged by studies of sun, light or shadow;
// the daylight year has readings of its own (year_hours.h).

#include "core/yardsticks/yardstick.h"

namespace noonward {

struct RuleReading {
  std::string name;    ///< "Trees left out"
  std::string changed; ///< what differs, in words; empty for the verdict as asked
  Verdict verdict;
};
/// Judges a project by a rule, groups as laid.
using JudgeBy = std::function<Verdict(const Project&, const Yardstick&)>;

/// The first is the verdict as asked. `yardstick`: with the user's changes.
std::vector<RuleReading> ruleReadings(const Project& project, const Yardstick& yardstick, const JudgeBy& judge);

/// Do all readings come to the same outcome?
bool robust(const std::vector<RuleReading>& readings);

} // namespace noonward
