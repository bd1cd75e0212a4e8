#pragma once
// Regions of the plane: any number of outlines that don't overlap, with holes. Sets of points, joined, cut and shared,
// to 0.1 mm; made for thousands of outlines at once (shadows of a quarter). Metres.

#include "core/geometry/polygon.h"

namespace noonward {

using Region = std::vector<Outline>;

/// Whatever any of the rings covers, whichever way round they run.
Region covered(const std::vector<Ring>& rings);
/// What an odd number of the rings covers: closed cuts through solids, courts left out.
Region oddlyCovered(const std::vector<Ring>& rings);
Region regionUnion(const Region& a, const Region& b);
Region regionMinus(const Region& a, const Region& b);
Region regionCommon(const Region& a, const Region& b);
double area(const Region& region); ///< m²
bool contains(const Region& region, Vec2 p);

/// m. A piece narrower than this is a seam between what was joined, which is kept to 0.1 mm.
inline constexpr double seamWidth = 2e-3;
/// Pieces smaller than `least` m², or narrower than a seam, left out.
Region withoutSlivers(Region region, double least);

} // namespace noonward
