#pragma once
// The figures that a sweep looks at, of one design: of its studies, of rules laid on it, of the model itself.

#include "core/runs/runner.h"
#include "core/runs/sweep/variation.h"

namespace noonward {

struct SweepFigure {
  double value = NAN;
  double error = 0;  ///< standard error, numerical alone; 0 where it is exact
  std::string fault; ///< why there is none
};

/// What of the model can be looked at: key, unit, what it is.
struct ModelFigure {
  const char *key, *unit, *words;
};
extern const std::array<ModelFigure, 7> modelFigures;

/// The unit of each outcome, SI. Errors: an outcome that no study, rule or figure of the project answers to; two of one
/// name; a goal for an outcome that is not looked at.
Expected<std::vector<std::string>> outcomeUnits(const Project& project, const Sweep& sweep,
                                                const YardstickShelf& shelf);

/// By outcome; one that can't be had carries the reason.
std::vector<SweepFigure> figuresOf(const Project& project, const Sweep& sweep, const YardstickShelf& shelf,
                                   StudyRunner& runner, RunControl& control);

/// What the rays of the design's years depend on: designs with equal digests are run one after the other.
Digest raysOf(const Project& project, const Sweep& sweep, const YardstickShelf& shelf);

} // namespace noonward
