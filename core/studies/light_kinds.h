#pragma once
// The kinds of study that give a value to each sensor from a scene and a sky: one row each. A new one is a row here, a
// row of core/model/settings/study_kind.h, and the function that computes it.

#include "core/studies/light_study.h"

namespace noonward {

class Hasher;

struct LightKind {
  StudyKind kind;
  /// What panes do: let through by their glass, are seen through whatever they let through, or are not there (sky
  /// exposure is that of the outer plane).
  enum class Panes { Transmit, SeenThrough, Absent } panes;
  bool reflections; ///< what surfaces reflect counts
  bool ofMoment;    ///< under the sky of a moment, with its sun
  double brightest; ///< in the study's unit: a way straight to the brightest of the sky; 0: looked for in the sky
  /// The sky, or the sun's hours, of the input; what they depend on goes into the hash.
  Outcome (*prepare)(const Project&, const Study&, std::optional<Instant> moment, LightInput&, Hasher&);
  /// What is dear to make and follows from what was hashed; null: nothing.
  Outcome (*fill)(const Project&, const Study&, std::optional<Instant> moment, LightInput&);
  /// Computes it; null: by samples of the sky (SensorRun in light_study.cpp).
  LightResult (*run)(const LightInput&, RunControl&, Threads);
};
const LightKind& lightKind(StudyKind kind);

} // namespace noonward
