#pragma once
// Ties studies, yardsticks and the store together: the same question is never computed twice.

#include "core/files/results/result_store.h"
#include "core/studies/coefficients.h"
#include "core/studies/sensor_field.h"
#include "core/yardsticks/rule_readings.h"

namespace noonward {

/// Looks the question up in the store (if any), else runs it and keeps the answer.
class StudyRunner {
public:
  StudyRunner(ResultStore* store, Threads threads = {}) : store_(store), threads_(threads) {}
  /// Dropped runs and faulty inputs are errors; an early stop comes back with end = Enough.
  Expected<std::shared_ptr<const SunHoursResult>> sunHours(const Project& project, const std::vector<GroupId>& groups,
                                                           const SunHoursSettings& settings, bool before,
                                                           double leastStretch, RunControl& control,
                                                           const std::string& name = "Sun hours");
  /// What the last year of energy learnt, for lightInput().
  std::shared_ptr<struct EnergyKept> energyKept();
  Expected<std::shared_ptr<const LightResult>> light(const LightInput& input, RunControl& control,
                                                     const std::string& name);
  /// The year's facts and figures. Rays of the last question are kept, so that blinds and thresholds ask for none.
  Expected<YearAnswered> year(const Project& project, const std::vector<GroupId>& groups, const YearSettings& settings,
                              RunControl& control, const std::string& name = "Daylight year");
  /// What a study of sun hours or light gives, with the proposal or without it.
  Expected<SensorField> field(const Project& project, const Study& study, bool before, std::optional<Instant> moment,
                              RunControl& control);
  KeptCoefficients& kept() { return *kept_; }
  Verdict judgement(const Project& project, const Yardstick& yardstick, const Judgement& judgement,
                    RunControl& control);
  /// The same under the readings that a reviewer may contest; the first is as asked.
  std::vector<RuleReading> readings(const Project& project, const Yardstick& yardstick, const Judgement& judgement,
                                    RunControl& control);
  int computed() const { return computed_; } ///< how many runs were not found in the store

private:
  ResultStore* store_;
  Threads threads_;
  int computed_ = 0;
  std::map<Digest, std::shared_ptr<const SunHoursResult>> sun_; ///< of this runner: a rule asks what a study asked
  std::map<Digest, std::shared_ptr<const LightResult>> light_;
  std::shared_ptr<struct EnergyKept> energyKept_; ///< of the last year of energy
  std::unique_ptr<KeptCoefficients> kept_ = std::make_unique<KeptCoefficients>();
};

/// What a run is called in the list: option, what was asked, what went in.
StoredRun runOf(const Project& project, const Study& study);
std::string askedText(const YearSettings& settings); ///< "8:00 to 18:00, 300 lx, blinds by the standard"
std::string askedText(const Study& study);           ///< the same of any study

} // namespace noonward
