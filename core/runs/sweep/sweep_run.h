#pragma once
// A sweep run: a row for each combination, its values and the figures of that design. Rows whose years ask for the same
// rays are run one after the other, so that they are traced once; every answer is an ordinary one in the store. A part
// k of n takes every n-th of those batches, knows nothing of the others, and merges with them to the same bits.

#include "core/runs/sweep/sweep_outcomes.h"
#include "core/runs/sweep/sweep_points.h"

namespace noonward {

struct SweepRow {
  std::size_t number = 0; ///< in the sweep, from 0 on
  VaryPoint values;
  std::vector<SweepFigure> figures; ///< by outcome
  std::string fault;                ///< why this design could not be run at all
  double seconds = 0;
};

struct SweepTable {
  Sweep sweep;
  std::string project; ///< its name
  Digest key;          ///< of project and sweep: tables of equal keys can be merged
  std::vector<std::string> units, outcomeUnits;
  std::vector<std::optional<VaryValue>> now; ///< values of the design in hand
  std::vector<SweepRow> rows;                ///< by number
  std::size_t all = 0;                       ///< rows of the whole sweep
  std::size_t leftOut = 0;                   ///< by conditions
  int traced = 0;                            ///< batches; the rows of one share the rays of their years
  RunEnd end = RunEnd::Finished;
  double seconds = 0;

  std::optional<std::size_t> outcome(const std::string& name) const;
  std::optional<std::size_t> variable(const std::string& name) const;
};

struct SweepPart {
  std::size_t part = 1, of = 1;
};

/// `partial`: told after each row. Errors: what Variation, sweepPoints() and outcomeUnits() refuse; dropped before a
/// row was done. Stopped early it keeps the rows there are.
Expected<SweepTable> runSweep(const Project& project, const Sweep& sweep, const YardstickShelf& shelf,
                              StudyRunner& runner, RunControl& control, SweepPart part = {},
                              const std::function<void(const SweepTable&)>& partial = {});

/// What it would cost: rows, and in how many batches.
struct SweepCost {
  std::size_t rows = 0, batches = 0, leftOut = 0;
  double combinations = 0;
};
Expected<SweepCost> sweepCost(const Project& project, const Sweep& sweep, const YardstickShelf& shelf);

/// Errors: tables of different sweeps. Rows that two have are taken once; `missing`: numbers of rows that none has.
Expected<SweepTable> mergedSweep(const std::vector<SweepTable>& parts, std::vector<std::size_t>* missing = nullptr);

/// number,VARIABLE…,OUTCOME,OUTCOME_error,…,fault
std::string sweepCsv(const SweepTable& table);
/// "noonward-sweep-table": everything, to be read again. Seconds are left out, so that equal runs are equal bytes.
std::string sweepTableText(const SweepTable& table);
Expected<SweepTable> sweepTableFromText(std::string_view text, const std::string& file);

} // namespace noonward
