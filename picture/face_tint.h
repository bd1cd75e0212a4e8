#pragma once
// The quiet tints of what stands on the stage and in pictures, by role and standing: the same in both.

#include "core/model/project.h"
#include "picture/theme.h"

namespace noonward {

struct FaceTint {
  QColor lit, shade; ///< in the sun, and out of it
};
/// `own`: the colour of its layer, where it has one.
FaceTint withOwnColour(FaceTint tint, const std::string& own);
/// Of a facade by the side it looks to.
FaceTint facingTint(const Theme& theme, Facing facing);
FaceTint faceTint(const Theme& theme, Role role, bool proposed, bool counted = true);

} // namespace noonward
