#pragma once
// A question to a study and its answer, whatever its kind: what the window shows, a picture paints and the command line
// tells. Answering knows the store, what was traced before and the rules laid beside the study.

#include "core/files/results/result_store.h"
#include "core/light/scene.h"
#include "core/studies/change.h"
#include "core/studies/coefficients.h"
#include "core/studies/probe.h"
#include "core/studies/sensor_field.h"
#include "core/yardsticks/yardstick.h"

namespace noonward {

struct StudyQuestion {
  std::uint64_t number = 0; ///< given by the queue: a later question has a larger one
  Project project;          ///< a snapshot
  Study study;
  Digest key;                    ///< studyDigest() of it
  std::optional<Instant> moment; ///< for skies without one of their own
  YearMetric metric = YearMetric::Autonomy;
  DesignState state = DesignState::Proposed; ///< what is painted; not of a year
  std::vector<ElementId> moving;             ///< kept in a layer of the scene of their own
  bool quick = false;                        ///< stepped or rough, while something is dragged
  bool trial = false;                        ///< a part of the work, never judged, never kept (core/runs/trial.h)
  bool onlyStored = false;                   ///< it is looked for in the store, not run
  bool wantsStudy = true;
  std::optional<ProbeSpot> probe;              ///< beside the study, or alone
  std::shared_ptr<ResultStore> store;          ///< none: nothing is looked up or kept
  std::shared_ptr<const YardstickShelf> shelf; ///< none: nothing is judged
};

struct StudyAnswer {
  StudyId study;
  Digest key;                                   ///< of the question
  std::shared_ptr<const SensorField> painted;   ///< what is shown of it
  std::shared_ptr<const SunHoursInput> input;   ///< of sun hours, for the stretches behind a sensor
  std::shared_ptr<const LightInput> lightInput; ///< of light: why a value is what it is
  std::shared_ptr<const YearFacts> facts;       ///< of a year
  std::shared_ptr<const YearInput> yearInput;   ///< with its scene; null where the year came from the store
  std::shared_ptr<const YearResult> year;
  std::vector<std::pair<Judgement, Verdict>> verdicts;
  DesignState state = DesignState::Proposed; ///< of what is painted
  bool quick = false;
  bool trial = false;
  bool reused = false;  ///< a year that asked for no rays: known ones served
  bool stored = false;  ///< it was found in the store
  bool partial = false; ///< a round of a run that goes on
  double seconds = 0;
  std::string asked; ///< what was asked, in words
  std::string fault; ///< why there is none
  /// What is doubtful about the input; empty where it was not made.
  Findings findings() const;
};
using AnswerPtr = std::shared_ptr<const StudyAnswer>;

/// The key of a study's answer to a project as it stands; equal keys, equal answers. No scene is built.
Digest studyDigest(const Project& project, const Study& study, std::optional<Instant> moment = {});
/// May the study follow every change, with so many sensors?
bool followsChanges(const Project& project, const Study& study, std::size_t sensors);

/// Answers questions one after the other and remembers what the next may need: the last scene, rays, results.
class Answerer {
public:
  explicit Answerer(Threads threads = {}) : threads_(threads) {}
  /// Null where the run was dropped. `soFar` is told values of a run that goes on.
  AnswerPtr answer(const StudyQuestion& question, RunControl& control, const std::function<void(AnswerPtr)>& soFar);
  /// What stands around the question's spot.
  std::shared_ptr<const ProbeResult> probe(const StudyQuestion& question);
  /// After something broke: nothing half made is kept.
  void forget();
  KeptCoefficients& kept() { return kept_; }

private:
  AnswerPtr sunHours(const StudyQuestion& q, RunControl& control, const std::function<void(AnswerPtr)>& soFar);
  AnswerPtr light(const StudyQuestion& q, RunControl& control, const std::function<void(AnswerPtr)>& soFar);
  AnswerPtr year(const StudyQuestion& q, RunControl& control, const std::function<void(AnswerPtr)>& soFar);
  /// What the question's study gives without the proposal; an error where it can't be asked or was dropped.
  Expected<std::shared_ptr<const SensorField>> before(const StudyQuestion& q, RunControl& control);
  /// The answer with what is painted of it replaced by the state asked for.
  AnswerPtr inState(AnswerPtr answer, const StudyQuestion& q, RunControl& control);
  Threads threads_;
  std::map<Digest, std::shared_ptr<const SensorField>> before_; ///< of the last few questions
  KeptCoefficients kept_;                         ///< another glass traces again, another blind or schedule does not
  std::shared_ptr<struct EnergyKept> energyKept_; ///< other g, U, constructions or uses trace nothing again
  Scene scene_;                                   ///< of the last question: layers are taken over
  std::map<Digest, std::shared_ptr<const SunHoursResult>> recent_; ///< so that a drag asks nothing twice
};

/// Verdicts of the rules laid beside a year that is there, after those of `before` where they cost rays of their own.
std::vector<std::pair<Judgement, Verdict>> yearVerdicts(const Project& project, const YardstickShelf& shelf,
                                                        const StudyAnswer& answer, ResultStore* store,
                                                        RunControl& control);

} // namespace noonward
