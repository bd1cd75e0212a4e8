#pragma once
// A sweep in words that a person types and reads, and what a project offers to vary and to look at.

#include "core/runs/sweep/sweep_outcomes.h"

namespace noonward {

/// "0 to 1.2 by 0.1", "Clear double, Solar double", "yes, no".
std::string valuesText(const Variable& variable);
/// What valuesText() gives, decimal commas apart by ";". Errors: neither a range nor a list.
Outcome takeValues(Variable& variable, std::string_view text);

/// "at least 40", "at most 10", "most", "least".
std::string goalText(const SweepGoal& goal);
/// Nothing for an empty text: no goal. Errors: what is none of these.
Expected<std::optional<SweepGoal>> goalFromText(std::string_view text, const std::string& outcome);
/// The goals of one outcome, "; " between them, and the other way round.
std::string goalsText(const Sweep& sweep, const std::string& outcome);
Outcome takeGoals(Sweep& sweep, const std::string& outcome, std::string_view text);

/// A variable that the project offers, with values to begin with.
struct VariableOffer {
  std::string words; ///< "Overhang: depth"
  Variable variable;
};
std::vector<VariableOffer> variableOffers(const Project& project);
/// Those of what is selected: the parts themselves, the rooms that stand in selected masses, their windows and the
/// shading on these; of a drawn window itself.
std::vector<VariableOffer> variableOffersOf(const Project& project, const std::vector<ElementId>& selected,
                                            OpeningId opening);
struct OutcomeOffer {
  std::string words; ///< "Library year: sDA, %"
  SweepOutcome outcome;
};
std::vector<OutcomeOffer> outcomeOffers(const Project& project, const YardstickShelf& shelf);

/// A name not taken in the sweep, of letters, digits and _.
std::string freshColumn(const Sweep& sweep, const std::string& stem);

} // namespace noonward
