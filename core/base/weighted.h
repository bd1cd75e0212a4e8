#pragma once
// Figures of values that count by weight: areas of sensors' cells, mostly.

#include <span>
#include <utility>
#include <vector>

namespace noonward {

/// Weights that add up to 1: from areas, or alike where they are not as many as the values or add up to nothing.
std::vector<double> weightsOf(std::span<const double> areas, std::size_t values);
/// The value below which half of the weight lies; with equal weights the usual median. 0 of nothing.
double weightedMedian(std::vector<std::pair<double, double>> valuesAndWeights);
/// The greatest value that at least `share` (0…1) of the weight reaches. 0 of nothing.
double reachedByShare(std::vector<std::pair<double, double>> valuesAndWeights, double share);

} // namespace noonward
