#pragma once
// The quiet tints of what stands on the stage and in pictures, by role and standing: the same in both.

#include "core/model/project.h"
#include "picture/theme.h"

namespace noonward {

struct FaceTint {
  QColor lit, shade; ///< in the sun, and out of it
};
FaceTint faceTint(const Theme& theme, Role role, bool proposed, bool counted = true);

} // namespace noonward
