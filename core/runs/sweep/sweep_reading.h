#pragma once
// What a sweep says: how much each variable moves each figure, which rows meet what is aimed for, which of them is best
// and how flat it is around it, and where two aims part.

#include "core/files/results/workbook.h"
#include "core/runs/sweep/sweep_run.h"

namespace noonward {

struct LevelEffect {
  VaryValue value;
  double figure = NAN, error = 0; ///< the outcome at this value, the other variables in the mean; standard error
  std::size_t rows = 0;
};
/// By least squares over all rows with a figure: figure = mean + Σ effect of each variable's value. Exact where the
/// variables act apart, whatever rows there are.
struct VariableEffect {
  std::size_t variable = 0;
  std::vector<LevelEffect> levels; ///< in the order of the values
  double range = 0, rangeError = 0;
  double share = 0;     ///< 0…1, of what varies between the rows
  bool matters = false; ///< range beyond twice its error
};
struct OutcomeEffects {
  std::vector<VariableEffect> variables;
  double together = 0; ///< 0…1, of what varies: what the variables do together and not apart
  std::size_t rows = 0;
};
OutcomeEffects effectsOn(const SweepTable& table, std::size_t outcome);

/// How far a figure lies within a bound, in its unit; below 0 it misses. Nothing for goals without a bound.
std::optional<double> marginOf(const SweepGoal& goal, double figure);
/// The least margin of a row over all bounds, as a share of what each outcome varies by; −∞ where a figure is missing.
double leastMargin(const SweepTable& table, const SweepRow& row);
bool meetsBounds(const SweepTable& table, const SweepRow& row);

/// The best row for one goal.
struct SweepBest {
  std::optional<std::size_t> goal; ///< index of the goal that is most or least; nothing: the largest least margin
  std::size_t row = 0;             ///< index of the table's rows
  bool meets = false;              ///< all bounds; else it is what comes nearest
  std::vector<std::size_t> alike;  ///< rows that meet as well and whose figure lies within the errors of both
  std::string text; ///< "12: windows 40 %, depth 0.6 m: 61.2 % (± 0.4) …; 5 others can't be told from it"
};
/// For each goal without a bound one; where there is none, one for the margins. Empty where no row has figures.
std::vector<SweepBest> bestOf(const SweepTable& table);
/// Why the two part, in a sentence; empty where they are the same row.
std::string whyPart(const SweepTable& table, const SweepBest& a, const SweepBest& b);

/// Rows that no other beats in both figures, by the first; `more`: is more better?
std::vector<std::size_t> edgeOf(const SweepTable& table, std::size_t one, bool moreOfOne, std::size_t other,
                                bool moreOfOther);
/// The runs, what moves each figure, and the best of each aim: sheets of a workbook.
std::vector<WorkSheet> sweepSheets(const SweepTable& table);
/// The table, by the file's ending: .csv, .json, or .xlsx with all sheets.
Outcome saveSweepTable(const SweepTable& table, const std::filesystem::path& file);
/// "windows 40 %, depth 0.6 m"
std::string pointText(const SweepTable& table, const VaryPoint& values);

} // namespace noonward
