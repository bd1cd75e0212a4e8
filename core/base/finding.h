#pragma once
// Findings: faults of the input, returned as values by whoever checks. Equal ones are merged; a new check of the same
// source replaces the old ones. A mend is an action known by its key; the model folder carries it out.

#include "core/base/vec.h"
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace noonward {

enum class Rank { StopsStudy, BendsResult, WorthKnowing };

/// Another way to mend the same fault.
struct MendWay {
  std::string mend, text;
  bool operator==(const MendWay&) const = default;
};

struct Finding {
  Rank rank = Rank::WorthKnowing;
  std::string code;                    ///< stable key: "weather.missing", "element.zero-height"
  std::string text;                    ///< one sentence for people
  int count = 1;                       ///< how many places share it
  std::vector<std::uint64_t> elements; ///< ids of the elements concerned
  std::string mend;                    ///< key of the mend, empty where there is none
  std::string mendText;                ///< what the mend does: "Take the place from the weather file"
  std::optional<Vec3> at;              ///< the place, local m, where it is not an element's
  std::vector<MendWay> ways;           ///< other mends of it, each with its key
  bool operator==(const Finding&) const = default;
};

using Findings = std::vector<Finding>;

const char* rankText(Rank rank);
/// Findings of one code and text become one, with counts and elements added up; more than five that differ only by a
/// name and by numbers become one that names the first few. Sorted by rank, order kept.
Findings merged(Findings findings);
bool anyStops(const Findings& findings);

} // namespace noonward
