#pragma once
// Projects made by putting values at the places that a sweep varies. A place is a way through the project file, keys
// and names parted by "/": "shading/Overhang/depth", "rooms/*/height" (every entry of a list), "openings/type:W2/sill"
// (entries whose key says so), "studies/Daylight year/threshold". Beside those of the file: "option" (by name),
// "proposal/bearing" (degrees, what is proposed turned clockwise about its middle), "proposal/east", "/north", "/up"
// (m, along the drawing's axes). What stands in and on an element that a value changes goes with it
// (core/model/form/carry.h).

#include "core/base/json.h"
#include "core/model/project.h"
#include <memory>

namespace noonward {

using VaryPoint = std::vector<VaryValue>; ///< a value for each variable

std::string valueText(const VaryValue& value); ///< "0.6", "Clear double", "yes"
/// Nothing for a text.
std::optional<double> numberOf(const VaryValue& value);

class Variation {
public:
  /// Errors: no variable, a name that is none or taken, no values, a range turned round or without a step, a place that
  /// is not there or a key that nobody reads, a share where % are meant, a condition that can't be read.
  static Expected<Variation> of(const Project& project, const Sweep& sweep);

  const Project& project() const { return *project_; }
  const Sweep& sweep() const { return *sweep_; }
  const std::vector<std::vector<VaryValue>>& values() const { return values_; } ///< by variable, in order
  const std::string& unit(std::size_t variable) const { return units_[variable]; }
  /// As the project stands: the value at the variable's first place; nothing where a file leaves it out.
  const std::vector<std::optional<VaryValue>>& now() const { return now_; }
  /// Do all conditions hold?
  bool allowed(const VaryPoint& point) const;
  /// Errors: a value that the place does not take, an opening that no longer fits its wall, elements that break.
  Expected<Project> at(const VaryPoint& point) const;
  /// The same without the check of what it does to rooms and openings: to ask what an answer depends on.
  Expected<Project> unchecked(const VaryPoint& point) const;

private:
  struct Base;
  Variation() = default;
  Outcome takeValues();
  Outcome takePlaces();
  Outcome takeConditions() const;
  const Base* baseOf(const VaryPoint& point) const;
  std::shared_ptr<const Project> project_;
  std::shared_ptr<const Sweep> sweep_;
  std::vector<std::vector<VaryValue>> values_;
  std::vector<std::string> units_;
  std::vector<std::optional<VaryValue>> now_;
  std::vector<std::shared_ptr<const Base>> bases_; ///< by option that a variable names; the first: as in hand
};

} // namespace noonward
