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

/// Pieces smaller than `least` m² left out: seams of 0.1 mm between what was joined.
Region withoutSlivers(Region region, double least);

} // namespace noonward
