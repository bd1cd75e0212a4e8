// A trace put into a project, and taken out of it.

#include "core/model/form/edit.h"
#include "core/model/form/storeys.h"
#include "core/model/mending/check_source.h"
#include "core/model/tracing/tracing.h"
#include <algorithm>
#include <set>

namespace noonward {

namespace {
bool building(Role r) {
  return r == Role::Building || r == Role::Wall || r == Role::Partition || r == Role::Roof || r == Role::Floor ||
         r == Role::Ceiling || r == Role::Glazing;
}
} // namespace

bool isTraced(const Element& e) {
  return e.mass() && e.source == simplifiedModelName;
}
bool isTraced(const Room& r) {
  return r.source == simplifiedModelName;
}

std::vector<ElementId> traceSources(const Project& p) {
  std::vector<ElementId> out;
  for (const ElementPtr& e : p.elements)
    if (e->imported() && e->imported()->mesh && (e->counted || e->ghost) &&
        std::find(e->mends.begin(), e->mends.end(), splitMend) == e->mends.end() && building(e->role))
      out.push_back(e->id);
  return out;
}

std::vector<TracedStorey> storeysFound(const Project& p, const std::vector<ElementId>& sources) {
  std::vector<TracedStorey> out;
  for (FoundStorey& l : storeysOf(sourceParts(p, sources), {})) out.push_back(std::move(l.storey));
  return out;
}

namespace {
Project withoutTraced(Project p) {
  std::erase_if(p.elements, [](const ElementPtr& e) { return isTraced(*e); });
  std::set<RoomId> gone;
  for (const Room& r : p.rooms)
    if (isTraced(r)) gone.insert(r.id);
  std::erase_if(p.openings, [&](const Opening& o) { return gone.contains(o.room); });
  std::erase_if(p.rooms, [](const Room& r) { return isTraced(r); });
  return p;
}
} // namespace

Project withTrace(Project p, const Trace& t) {
  p = withoutTraced(std::move(p));
  p = withEdited(std::move(p), t.sources, [](Element& e) {
    e.counted = false;
    e.ghost = true;
  });
  for (const Element& e : t.masses) p = withElement(std::move(p), e);
  p.rooms.insert(p.rooms.end(), t.rooms.begin(), t.rooms.end());
  p.openings.insert(p.openings.end(), t.openings.begin(), t.openings.end());
  return p;
}

Project withoutTrace(Project p) {
  p = withoutTraced(std::move(p));
  std::vector<ElementId> ghosts;
  for (const ElementPtr& e : p.elements)
    if (e->ghost && std::find(e->mends.begin(), e->mends.end(), splitMend) == e->mends.end()) ghosts.push_back(e->id);
  return withEdited(std::move(p), ghosts, [](Element& e) {
    e.counted = true;
    e.ghost = false;
  });
}

} // namespace noonward
