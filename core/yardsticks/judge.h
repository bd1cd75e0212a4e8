#pragma once
// What the judging files share.

#include "core/yardsticks/yardstick.h"

namespace noonward {

Verdict notJudged(Verdict verdict, const std::string& why);
/// A sentence as part of another: small first letter, no full stop.
std::string lowered(std::string sentence);
/// "certain", "99.3 % certain".
std::string certainText(double certainty);
/// Of so many that each pass or not with a certainty of their own: how certain is it that as many pass as must? Counted
/// by those whose turning over would turn the verdict: at least 1 − Σ(1 − p) / margin (Markov), where margin of them
/// would have to turn together.
class TogetherCertain {
public:
  void add(bool passes, double certain);
  /// `needed`: how many must pass; all of them where absent.
  double certainty(std::optional<std::size_t> needed = {}) const;

private:
  std::size_t pass_ = 0, fall_ = 0;
  double unsurePass_ = 0, unsureFall_ = 0, surestFall_ = 0;
};

/// The measures of rooms: credit, provision, sun at openings.
Verdict judgeRooms(const Project& project, const Yardstick& yardstick, const std::vector<GroupId>& groups,
                   const JudgeRuns& runs);
/// Of ground and roofs: irradiation, and shadow that the proposal adds.
Verdict judgeAccess(const Project& project, const Yardstick& yardstick, const std::vector<GroupId>& groups,
                    const JudgeRuns& runs);
/// The measures of what stands opposite: sky and sunlight at windows, the no-sky line in rooms.
Verdict judgeExposure(const Project& project, const Yardstick& yardstick, const std::vector<GroupId>& groups,
                      const JudgeRuns& runs);
/// What eyes see: glare in the year, the view out. Groups: those given, else those of the first study of the kind.
Verdict judgeEyes(const Project& project, const Yardstick& yardstick, const std::vector<GroupId>& groups,
                  const JudgeRuns& runs);

} // namespace noonward
