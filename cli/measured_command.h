#pragma once
// Figures of agreement as scripts count on them.

#include "core/base/json.h"
#include "core/studies/agreement.h"

namespace noonward::cli {

/// {"n", "mbe", "nmbe", "rmse", "cv_rmse", "r2", "slope", "left_out"}; null where a figure means nothing.
Json agreementJson(const Agreement& agreement);
/// "n 4100, left out 12 / MBE …" in two lines.
std::string agreementText(const Agreement& agreement);

} // namespace noonward::cli
