#pragma once
// What the record tells of a measured series laid beside a daylight year: figures of agreement, by sensor and by the
// sun, what would bring both nearer. Files of loggers go into the record with the project.

#include "core/base/json.h"
#include "core/files/station/guideline.h"
#include "core/runs/measuring.h"

namespace noonward {

struct MeasuredChapter {
  MeasuredSeries series;
  std::string study; ///< name of the daylight year it is laid against
  std::string fault; ///< why there is none; all else is empty then
  std::shared_ptr<const Measuring> found;
  std::optional<AgreementGuideline> guideline;
  std::optional<AgreementVerdict> verdict;
};
/// `guidelines`: those that a series may be judged by.
MeasuredChapter measuredChapter(const Project& project, const MeasuredSeries& series,
                                const std::vector<AgreementGuideline>& guidelines, RunControl& control,
                                Threads threads = {});

Json measuredClaim(const MeasuredChapter& chapter);
/// "1 204 sensor hours of 2025: MBE +12.1 lx (+3.1 %), …"
std::string measuredText(const Measuring& measuring);

} // namespace noonward
