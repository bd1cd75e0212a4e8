#pragma once
// How far modelled values agree with measured ones. m modelled, o observed: MBE = Σ(m − o)/n; RMSE; NMBE = MBE/mean(o)
// and CV(RMSE) = RMSE/mean(o), both as shares; R² the squared Pearson correlation; slope of m = slope · o through zero
// (least squares). Pairs without either value are left out and counted (ASHRAE Guideline 14 divides by n − 1 in its
// CV(RMSE); here by n, as RMSE itself).

#include <cstddef>
#include <span>

namespace noonward {

struct Agreement {
  std::size_t n = 0, leftOut = 0; ///< pairs that count; those that do not
  double meanModelled = 0, meanObserved = 0;
  double mbe = 0, rmse = 0;    ///< in the unit of the values
  double nmbe = 0, cvRmse = 0; ///< shares of the mean observed; NaN where that is zero
  double r2 = 0;               ///< NaN where either does not vary
  double slope = 0;            ///< NaN where nothing is observed
};

/// Pair by pair; NaN is no value, and pairs beyond the shorter list are left out. All figures NaN where nothing counts.
Agreement agreement(std::span<const double> modelled, std::span<const double> observed);

} // namespace noonward
