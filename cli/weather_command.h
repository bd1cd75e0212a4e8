#pragma once
// What the weather commands share.

#include "core/base/finding.h"
#include "core/base/json.h"

namespace noonward::cli {

/// Each with rank, code, text, count and the words of its mend.
Json weatherFindings(const Findings& findings);

} // namespace noonward::cli
