#pragma once
// The least change that passes: from the design in hand, over the values of a sweep's variables, the change of least
// weight with which every bound of its goals is kept with the confidence asked for.
//
// The change of a design is the sum over its variables of weight × the way gone, as a share of the variable's range; of
// choices and on/offs the whole weight. Method, for figures with errors and values in steps: each variable is first
// tried alone at both ends. The margin of every bound is then taken as the sum of what the variables do alone (straight
// between the ends and the design in hand), put right by what was found at designs tried nearby (Gaussian weights of
// the distance). The cheapest design that should pass is tried next, with a reserve that grows with every one that did
// not; from one that passes each variable goes back by halving the way, until no single step back passes; then cheaper
// designs that should pass are tried again. The search runs with fewer paths, the same random numbers for every
// design; what it finds is confirmed by a full run, or the search goes on. It is exact where the variables act apart
// and each one way; elsewhere no single step back passes, which is what is promised.

#include "core/runs/sweep/sweep_reading.h"

namespace noonward {

struct LeastChangeWish {
  double confidence = 0.95; ///< of each bound, 0.5…1
  int mostRuns = 80;
  double coarser = 4; ///< the error wanted of years, times this, while it searches
};

struct TriedDesign {
  VaryPoint values;
  double change = 0; ///< weighted
  std::vector<SweepFigure> figures;
  std::vector<double> margins; ///< by goal with a bound, in the outcome's unit; NaN where there is none
  bool passes = false;         ///< as far as the search knows; of full runs with the confidence
  bool full = false;
  std::string fault;
};

/// What one variable alone can do.
struct SingleChange {
  std::size_t variable = 0;
  VaryValue value; ///< the end that helps more
  double gain = 0; ///< of the least margin, as a share of what the outcomes vary by
  bool passes = false;
};

struct LeastChange {
  std::vector<TriedDesign> tried;
  std::optional<std::size_t> found; ///< of tried: a full run that passes
  std::size_t nearest = 0;          ///< of tried: with the largest least margin
  bool already = false;             ///< the design in hand passes
  std::vector<SingleChange> single; ///< the most helpful first
  std::vector<std::size_t> edge;    ///< of tried: no cheaper one has more margin
  int coarse = 0, full = 0;         ///< runs
  std::vector<std::string> units, outcomeUnits;
  RunEnd end = RunEnd::Finished;
  double seconds = 0;
  std::string text; ///< what came of it, in a sentence or two
};
/// Errors: what runSweep() refuses, no goal with a bound, nothing known of the design in hand.
Expected<LeastChange> leastChange(const Project& project, const Sweep& sweep, const YardstickShelf& shelf,
                                  StudyRunner& runner, RunControl& control, const LeastChangeWish& wish = {},
                                  const std::function<void(const LeastChange&)>& partial = {});

/// The project with the design of these values as an option of its own, in hand. What was varied of studies stays as it
/// is: options are designs.
Expected<Project> withPointAsOption(const Project& project, const Sweep& sweep, const VaryPoint& values,
                                    const std::string& name);

} // namespace noonward
