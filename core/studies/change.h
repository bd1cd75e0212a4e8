#pragma once
// What the proposal changes: values of the same sensors with it and without it, shown as they are, as the difference,
// or as the share that is kept.

#include "core/studies/sensor_field.h"

namespace noonward {

enum class DesignState { Proposed, Before, Difference, Ratio };
inline constexpr std::array<DesignState, 4> allDesignStates{DesignState::Proposed, DesignState::Before,
                                                            DesignState::Difference, DesignState::Ratio};
const char* designStateKey(DesignState state);  ///< "proposed", "before", "difference", "ratio"
const char* designStateName(DesignState state); ///< "with the proposal", …
std::optional<DesignState> designStateFromKey(std::string_view key);

/// `now` and `before` have the same sensors in the same order. Before is on the scale of now, so that both can be laid
/// beside each other. Difference is now less before, on a scale as far below nothing as above; Ratio is now in % of
/// before, not known where there was nothing before. Standard errors are those of two independent estimates.
SensorField stateField(const SensorField& now, const SensorField& before, DesignState state);

/// Values as changes of `of`, on a scale around nothing: "points" for what is told in %.
SensorField asChange(SensorField of, std::vector<float> values, std::vector<float> errors);

} // namespace noonward
