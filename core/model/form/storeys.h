#pragma once
// Storeys of a source model, found from its horizontal faces. Part of the tracing (tracing.h).

#include "core/model/tracing/tracing.h"

namespace noonward {

/// A part of the source where it stands.
struct SourcePart {
  ElementPtr element;
  std::shared_ptr<const Mesh> mesh;
};
std::vector<SourcePart> sourceParts(const Project& project, const std::vector<ElementId>& ids);
Box3 boxOf(const std::vector<SourcePart>& sources);

/// m of clear height, the least of a storey.
inline constexpr double leastStorey = 1.9;
struct FoundStorey {
  TracedStorey storey;  ///< floor, ceiling and top
  double floorArea = 0; ///< m² of wide horizontal face
  bool flat = true;     ///< its ceiling is a level; else it goes up to the top of the model, as under a roof
};
/// `given`: levels of floors; empty: found.
std::vector<FoundStorey> storeysOf(const std::vector<SourcePart>& sources, const std::vector<double>& given);

} // namespace noonward
