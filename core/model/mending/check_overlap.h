#pragma once
// Buildings that stand in one another: a proposal in what is there (which is then to be demolished for it, or it stands
// in the wrong place), and one building brought in twice, from two files that meet. Part of checkProject().

#include "core/base/finding.h"
#include "core/model/project.h"

namespace noonward {

/// Share of the smaller footprint, m² and m of common height from which two buildings stand in one another: walls that
/// touch and eaves that reach over do not.
inline constexpr double overlapShare = 0.2, overlapArea = 4, overlapHeight = 1;

void checkOverlaps(const Project& project, Findings& out);

} // namespace noonward
