#include "core/model/form/facades.h"
#include "core/model/rooms/placing.h"
#include <algorithm>

namespace noonward {

namespace {
bool hasFacades(const Element& e) {
  return e.counted && !e.ghost && !e.demolished && (e.mass() || e.imported()) &&
         (e.role == Role::Building || e.role == Role::Wall);
}
} // namespace

bool isFacade(const Project& p, const Element& e) {
  const bool some = std::any_of(p.elements.begin(), p.elements.end(),
                                [](const ElementPtr& x) { return x->proposed && hasFacades(*x); });
  return hasFacades(e) && (e.proposed || !some);
}

std::array<FacadeFacts, 4> facadeFacts(const Project& p) {
  std::array<FacadeFacts, 4> out;
  for (const ElementPtr& e : p.elements) {
    if (!isFacade(p, *e)) continue;
    const auto mesh = elementMesh(*e);
    if (!mesh) continue;
    for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) {
      const Vec3 n = (*mesh)->areaVector(t);
      if (std::abs(n.z) > 0.1 * length(n)) continue; // no wall
      if (const auto f = facingOf(n, p.site.northAngle)) out[std::size_t(*f)].area += length(n) / 2;
    }
  }
  for (const PlacedOpening& o : placedOpenings(p).openings) {
    if (!o.facing || o.opening.edge < 0 || o.mass == 0) continue;
    if (const ElementPtr e = p.element({o.mass}); e && isFacade(p, *e)) out[std::size_t(*o.facing)].glass += o.area();
  }
  return out;
}

} // namespace noonward
