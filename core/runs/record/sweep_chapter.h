#pragma once
// What the record tells of many designs: a sweep with what moves each figure and the best for each aim; designs laid
// beside each other. Whole tables go into the record as files; the claims are the best runs and some spread over all.

#include "core/base/json.h"
#include "core/runs/beside.h"
#include "core/runs/sweep/sweep_reading.h"

namespace noonward {

struct SweepChapter {
  Sweep sweep;
  std::string fault; ///< why there is none; all else is empty then
  std::shared_ptr<const SweepTable> table;
};
SweepChapter sweepChapter(const Project& project, const Sweep& sweep, const YardstickShelf& shelf, StudyRunner& runner,
                          RunControl& control);
Json sweepClaim(const SweepChapter& chapter);
/// Runs that are computed anew when a record is checked: the best of each aim, the first, the last and some spread
/// evenly between, a dozen at most. Indices of the table's rows, rising.
std::vector<std::size_t> checkedRows(const SweepTable& table);

struct BesideChapter {
  std::string fault;
  std::shared_ptr<const Beside> found;
};
BesideChapter besideChapter(const Project& project, const YardstickShelf& shelf, StudyRunner& runner,
                            RunControl& control);
Json besideClaim(const BesideChapter& chapter);

/// How far a figure may lie from what it is claimed to be: six of its standard errors; of an exact one a hundredth.
double allowedApart(const SweepFigure& figure);

} // namespace noonward
