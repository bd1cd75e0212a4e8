#include "core/geometry/region.h"
#include "core/geometry/clipper_grid.h"

namespace noonward {

namespace {

/// The point that Clipper's integers count from: near the first there is, so that far models stay tight; on a whole
/// metre, so that corners which two regions share fall on one integer, whichever region comes first.
Vec2 wholeMetres(Vec2 p) {
  return {std::round(p.x), std::round(p.y)};
}
Vec2 originOf(const Region& a, const Region& b) {
  for (const Region* r : {&a, &b})
    for (const Outline& o : *r)
      if (!o.outer.empty()) return wholeMetres(o.outer.front());
  return {};
}

void addTo(ClipperLib::Clipper& work, const ClipperGrid& grid, const Region& region, ClipperLib::PolyType as) {
  for (const Outline& o : region) {
    if (!grid.holds(o.outer)) continue;
    work.AddPath(grid.path(o.outer), as, true);
    for (const Ring& h : o.holes) work.AddPath(grid.path(h), as, true);
  }
}

Region worked(ClipperLib::ClipType how, const Region& a, const Region& b) {
  const ClipperGrid grid(originOf(a, b));
  ClipperLib::Clipper work;
  addTo(work, grid, a, ClipperLib::ptSubject);
  addTo(work, grid, b, ClipperLib::ptClip);
  ClipperLib::Paths rings; // its tree asks every ring of every other
  // Outer rings run one way and holes the other, as Clipper gives them itself: their windings add up.
  work.Execute(how, rings, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  return grid.outlines(rings);
}

Region ofRings(const std::vector<Ring>& rings, bool odd) {
  Vec2 from;
  for (const Ring& r : rings)
    if (!r.empty()) {
      from = wholeMetres(r.front());
      break;
    }
  const ClipperGrid grid(from);
  ClipperLib::Clipper work;
  for (const Ring& r : rings) {
    if (r.size() < 3 || !grid.holds(r)) continue;
    ClipperLib::Path path = grid.path(r);
    if (!odd && !ClipperLib::Orientation(path)) ClipperLib::ReversePath(path);
    work.AddPath(path, ClipperLib::ptSubject, true);
  }
  const auto fill = odd ? ClipperLib::pftEvenOdd : ClipperLib::pftNonZero;
  ClipperLib::Paths made; // its tree asks every ring of every other
  work.Execute(ClipperLib::ctUnion, made, fill, fill);
  return grid.outlines(made);
}
} // namespace

Region covered(const std::vector<Ring>& rings) {
  return ofRings(rings, false);
}

Region oddlyCovered(const std::vector<Ring>& rings) {
  return ofRings(rings, true);
}

Region regionUnion(const Region& a, const Region& b) {
  return worked(ClipperLib::ctUnion, a, b);
}

Region regionMinus(const Region& a, const Region& b) {
  return a.empty() || b.empty() ? a : worked(ClipperLib::ctDifference, a, b);
}

Region regionCommon(const Region& a, const Region& b) {
  return a.empty() || b.empty() ? Region{} : worked(ClipperLib::ctIntersection, a, b);
}

double area(const Region& region) {
  double sum = 0;
  for (const Outline& o : region) sum += area(o);
  return sum;
}

bool contains(const Region& region, Vec2 p) {
  return std::any_of(region.begin(), region.end(), [&](const Outline& o) { return contains(o, p); });
}

Region withoutSlivers(Region region, double least) {
  std::erase_if(region, [&](const Outline& o) {
    const double own = area(o);
    return own < least || own < 0.5 * seamWidth * perimeter(o.outer);
  });
  return region;
}

} // namespace noonward
