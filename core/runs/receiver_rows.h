#pragma once
// Receivers as rows of a table: where each belongs, what a study gives for it, and what the rules say of it.

#include "core/model/form/receivers.h"
#include "core/studies/sensor_field.h"
#include "core/yardsticks/yardstick.h"

namespace noonward {

struct ReceiverRow {
  ReceiverRef ref;
  std::size_t sensor = 0; ///< index in the set
  std::string receiver, group, dwelling, building;
  Subject subject = Subject::None;
  ProbeSpot spot;
  double value = NAN, error = NAN; ///< of the study, in the field's unit
  std::optional<Outcome3> outcome; ///< of the rules that name it or its dwelling: the worst
  std::string verdict;             ///< "Skylight at windows: falls short, VSC 18.2 ± 0.05 %"
};
/// `painted`: of the same sensors, or null; `verdicts`: whose rows are looked up by name.
std::vector<ReceiverRow> receiverRows(const Project& project, const SensorSet& sensors, const SensorField* painted,
                                      const std::vector<std::pair<Judgement, Verdict>>& verdicts);
/// number,receiver,group,dwelling,building,subject,x,y,z,azimuth_deg,value,standard_error,unit,outcome,verdict
std::string receiverRowsCsv(const Project& project, const std::vector<ReceiverRow>& rows, const std::string& unit);
const char* subjectName(Subject subject); ///< "living room", "open space", ""

} // namespace noonward
