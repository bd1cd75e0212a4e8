#pragma once
// A sweep: what is varied, what is looked at, what is aimed for. Values are as a project file has them, at places of
// that file (docs/project-format.md), so that whatever a file can say can be varied.

#include "core/base/id.h"
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace noonward {

using SweepId = Id<struct SweepTag>;
using VaryValue = std::variant<bool, double, std::string>;

/// From one end to the other, both within; the last step may be shorter.
struct VaryRange {
  double from = 0, to = 1, step = 0.1;
  bool operator==(const VaryRange&) const = default;
};

struct Variable {
  std::string name; ///< letters, digits, _; as conditions have it
  /// Places that all get the value: "shading/Overhang/depth", "rooms/*/height", "studies/Daylight year/threshold",
  /// "proposal/bearing" (degrees clockwise), "option".
  std::vector<std::string> at;
  std::optional<VaryRange> range;
  std::vector<VaryValue> values; ///< where there is no range
  double weight = 1;             ///< how dear a change is, of the whole range; 0: free
  bool operator==(const Variable&) const = default;
};

/// A figure of a study, of a rule, or of the model itself.
struct SweepOutcome {
  enum class Of { Study, Rule, Model };
  std::string name;
  Of of = Of::Model;
  std::string source; ///< name or id of the study; key of the rule laid; empty for the model
  std::string figure; ///< "sda", "mean", "figure"; of the model "glass-area"
  std::string group;  ///< name of a room or group; empty: all of it
  bool operator==(const SweepOutcome&) const = default;
};

struct SweepGoal {
  enum class Kind { AtLeast, AtMost, Most, Least };
  std::string outcome; ///< by name
  Kind kind = Kind::AtLeast;
  double value = 0; ///< of the first two
  bool operator==(const SweepGoal&) const = default;
};

struct Sweep {
  SweepId id;
  std::string name;
  std::vector<Variable> variables;
  std::vector<std::string> conditions; ///< "sill + height <= head": runs that break one are left out
  std::vector<SweepOutcome> outcomes;
  std::vector<SweepGoal> goals;
  int sample = 0; ///< so many well-spread runs; 0: every combination
  bool operator==(const Sweep&) const = default;
};

/// A design to be laid beside others: an option, or one that a sweep has tried, told by its values.
struct DesignRef {
  std::string name;                                      ///< as columns have it; empty: what it is
  std::string option;                                    ///< id or name; empty, and no sweep: the design in hand
  std::string sweep;                                     ///< id or name
  std::vector<std::pair<std::string, VaryValue>> values; ///< of the sweep's variables, by name
  bool operator==(const DesignRef&) const = default;
};

} // namespace noonward
