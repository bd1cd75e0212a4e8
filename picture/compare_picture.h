#pragma once
// Two options' plans at one scale and one legend, and the difference between them.

#include "core/runs/compare.h"
#include "picture/cells.h"
#include <QPainter>

namespace noonward {

struct ComparedPlans {
  Project from, to; ///< each with its option in hand
  std::string fromName, toName;
  const YearAnswered* years[2] = {}; ///< of from, of to
  YearMetric metric = YearMetric::Autonomy;
  std::optional<double> storey; ///< m; the lowest where absent
};
void paintComparison(QPainter& painter, QRectF area, const ComparedPlans& plans, const Theme& theme);

} // namespace noonward
