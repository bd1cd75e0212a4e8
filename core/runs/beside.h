#pragma once
// Designs beside each other, any number, in the user's order: the inputs in which each differs from the first, the
// figures of all studies asked for with their errors, and how far each moved from the first.

#include "core/files/results/workbook.h"
#include "core/runs/sweep/sweep_outcomes.h"

namespace noonward {

/// The design that is meant. Errors: an option or a sweep that is not there, a variable that the sweep does not have, a
/// design that breaks.
Expected<Project> designOf(const Project& project, const DesignRef& ref);
/// Its own name; else the option's, or "Windows: ratio 40 %, depth 0.6 m".
std::string designName(const Project& project, const DesignRef& ref);
/// The designs that the project keeps, in order; where it keeps none its options, or the one design there is.
std::vector<DesignRef> designsBeside(const Project& project);
/// What a person writes: an option's name or letter, or "Windows:12", the twelfth run of a sweep. Errors: neither.
Expected<DesignRef> designRefFromText(const Project& project, const std::string& text);
DesignRef refOfRun(const Sweep& sweep, const VaryPoint& values);

struct BesideFigure {
  std::string study; ///< its name; title of a rule; "Model"
  std::string space; ///< room or group; empty: all of it
  std::string figure, unit;
  std::vector<SweepFigure> of; ///< by design
  /// From the first design; NaN where either has none. `error`: standard error of the difference, numerical alone.
  double moved(std::size_t design) const;
  double error(std::size_t design) const;
  bool sure(std::size_t design) const; ///< moved by more than twice the error
};

struct BesideDesign {
  std::string name;
  std::string fault; ///< why there is no such design; all else is empty then
  Project project;
  std::vector<std::string> inputs; ///< in which it differs from the first, in words
  // Of the study whose maps are laid beside each other:
  std::optional<YearAnswered> year;
  std::shared_ptr<const SensorField> field; ///< SI
};

struct Beside {
  std::vector<DesignRef> refs;
  std::vector<BesideDesign> designs;
  std::optional<Study> mapped; ///< the study of the maps
  std::vector<BesideFigure> figures;
  RunEnd end = RunEnd::Finished;
};

/// `study`: name or id of one; "*": all, with all rules laid; empty: daylight years, glare and energy with the rules of
/// the year, or all where there are none of these. Years run until they have as many rays each, so that rooms in which
/// nothing changed do not differ. Errors: no design, no such study, no study at all, dropped. A design that can't be
/// had stands there with its fault.
Expected<Beside> laidBeside(const Project& project, const std::vector<DesignRef>& refs, const std::string& study,
                            const YardstickShelf& shelf, StudyRunner& runner, RunControl& control);

/// study,space,figure,unit, then of each design its figure, its standard error, how far it moved and that error.
std::string besideCsv(const Beside& beside);
WorkSheet besideSheet(const Beside& beside, std::string name);
/// The figures, and the inputs that differ.
Outcome besideWorkbook(const Beside& beside, const std::filesystem::path& file);

/// Difference of two sensor maps where both have a sensor at the same place (to 1 cm); NaN elsewhere. Along `to`.
std::vector<float> differenceMap(const SensorSet& from, const std::vector<float>& values, const SensorSet& to,
                                 const std::vector<float>& other);

} // namespace noonward
