#pragma once
// Two results side by side: how far and which way each figure moved, with its error.

#include "core/runs/runner.h"

namespace noonward {

struct FigureMove {
  std::string space;  ///< "Building" for the whole
  std::string figure; ///< "sDA", "ASE", "mean"
  std::string unit;   ///< "%", "lx"
  double from = 0, to = 0;
  double error = 0; ///< standard error of the difference, numerical alone; 0 where both are exact
  bool sure() const { return std::abs(to - from) > 2 * error + 1e-9; }
};
struct YearComparison {
  std::vector<FigureMove> moves;             ///< of the building, then of spaces that both have, by name
  std::vector<std::string> onlyFrom, onlyTo; ///< spaces that only one has
};
YearComparison compareYears(const YearAnswered& from, const YearAnswered& to);

/// A study of any other kind in both: of energy heating, cooling and lighting of each room and of all; of glare the
/// share of the schedule above its limit at the worst line of sight and in the mean; else the mean of each group.
/// Groups that both have, by name.
std::vector<FigureMove> compareFields(const Study& study, const SensorField& from, const SensorField& to);

/// What can be laid beside each other of two options.
struct OptionsFigures {
  std::optional<std::array<YearAnswered, 2>> years; ///< of the daylight year, where the project has one
  YearComparison moves;                             ///< of all studies, the year first
};
/// The daylight year (`study`, or the first), then all studies of glare and of energy; a `study` of another kind alone.
/// Faults name the option; without any such study there is one.
Expected<OptionsFigures> figuresOfOptions(const Project& project, std::size_t from, std::size_t to, const Study* study,
                                          StudyRunner& runner, RunControl& control);

/// The years of two options, from as many rays each: where one stopped by itself sooner it goes on, so that rooms in
/// which nothing changed do not differ. Faults name the option.
Expected<std::array<YearAnswered, 2>> yearsOfOptions(const Project& project, std::size_t from, std::size_t to,
                                                     const Study& study, StudyRunner& runner, RunControl& control);

/// Difference of two sensor maps where both have a sensor at the same place (to 1 cm); NaN elsewhere. Along `to`.
std::vector<float> differenceMap(const SensorSet& from, const std::vector<float>& values, const SensorSet& to,
                                 const std::vector<float>& other);

} // namespace noonward
