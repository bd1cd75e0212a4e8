#include "core/model/form/arrange.h"
#include "core/base/tolerances.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/form/motion.h"
#include "core/model/form/outline_edit.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

using RoomPairs = std::vector<std::pair<RoomId, RoomId>>;

/// Adds to a list of rooms what became of those in it.
void joinCopy(std::vector<RoomId>& list, RoomId old, RoomId fresh) {
  if (!(old == fresh) && std::find(list.begin(), list.end(), old) != list.end()) list.push_back(fresh);
}

void give(Project& p, Assignment a) {
  if (std::find(p.assignments.begin(), p.assignments.end(), a) == p.assignments.end())
    p.assignments.push_back(std::move(a));
}

/// Whether what is not there yet keeps its id and name: brought over, and not copied.
enum class Identity { Fresh, Kept };

void copyRoom(const Project& from, Project& p, const Room& room, const Motion& shift, Identity identity,
              RoomPairs& copied) {
  Room next = room;
  if (identity == Identity::Fresh || p.room(room.id)) {
    next.id = RoomId::fresh();
    next.name = room.name + " copy";
    next.glare.clear();
  }
  for (const Opening& o : from.openings)
    if (o.room == room.id) {
      Opening n = o;
      if (!(next.id == room.id)) n.id = OpeningId::fresh();
      n.room = next.id;
      p.openings.push_back(std::move(n));
    }
  moveRoom(p, next, shift);
  for (WindowRule& w : p.windowRules) joinCopy(w.rooms, room.id, next.id);
  for (ShadeRule& s : p.shadeRules) joinCopy(s.rooms, room.id, next.id);
  for (SensorGroup& g : p.groups)
    if (auto* grid = std::get_if<RoomGrid>(&g.layout)) joinCopy(grid->rooms, room.id, next.id);
  for (const Assignment& given : from.assignments)
    if (Assignment a = given; a.element && a.element->value == room.id.value) {
      a.element = ElementId{next.id.value};
      give(p, std::move(a));
    }
  copied.emplace_back(room.id, next.id);
  p.rooms.push_back(std::move(next));
}

/// `from`: where they stand; often what `p` was before.
Project copiedInto(Project p, const Project& from, const std::vector<ElementId>& ids, Vec3 by,
                   std::vector<ElementId>* made, RoomPairs& copied, Identity identity = Identity::Fresh) {
  std::map<std::string, std::string> groups;
  Motion shift;
  shift.shift = xy(by);
  shift.lift = by.z;
  for (ElementId id : ids) {
    const ElementPtr e = from.element(id);
    if (!e) continue;
    Element copy = *e;
    const bool kept = identity == Identity::Kept && !p.element(id);
    if (!kept) {
      copy.id = ElementId::fresh();
      copy.name = freshName(p, e->name + " copy");
      copy.row.reset();
    }
    if (!kept && !e->group.empty()) {
      std::string& name = groups[e->group];
      if (name.empty()) name = freshGroup(p, e->group);
      copy.group = name;
    }
    moveElement(copy, by);
    const ElementId fresh = copy.id;
    if (made) made->push_back(fresh);
    p = withElement(std::move(p), std::move(copy));
    for (const Assignment& given : from.assignments)
      if (Assignment a = given; a.element == id) {
        a.element = fresh;
        give(p, std::move(a));
      }
    for (SensorGroup& g : p.groups)
      if (auto* f = std::get_if<FaceGrid>(&g.layout)) {
        const std::vector<FaceRef> refs = f->faces;
        for (FaceRef r : refs)
          if (r.element == id && !kept) {
            r.element = fresh;
            f->faces.push_back(r);
          }
      }
    for (const Room& room : from.rooms)
      if (hostOf(from, room) == e) copyRoom(from, p, room, shift, identity, copied);
  }
  return p;
}

} // namespace

Project withCopies(Project p, const std::vector<ElementId>& ids, Vec3 by, std::vector<ElementId>* made) {
  const Project from = p;
  RoomPairs copied;
  p = copiedInto(std::move(p), from, ids, by, made, copied);
  Motion shift;
  shift.shift = xy(by);
  shift.lift = by.z;
  shadeMatched(from, p, copied, shift);
  return p;
}

Project withPasted(Project p, const Project& from, const std::vector<ElementId>& ids, std::vector<ElementId>* made) {
  const auto bring = [](auto& into, const auto& list) {
    for (const auto& x : list)
      if (std::none_of(into.begin(), into.end(), [&](const auto& own) { return own.name == x.name; }))
        into.push_back(x);
  };
  bring(p.finishes, from.finishes);
  bring(p.glazings, from.glazings);
  // Rules of the other state that are not here are not brought: they are of all its rooms. Those that name the copied
  // rooms alone are.
  RoomPairs copied;
  p = copiedInto(std::move(p), from, ids, {}, made, copied, Identity::Kept);
  const auto ofCopies = [&](const std::vector<RoomId>& rooms) {
    std::vector<RoomId> out;
    for (const auto& [old, fresh] : copied)
      if (std::find(rooms.begin(), rooms.end(), old) != rooms.end()) out.push_back(fresh);
    return out;
  };
  const auto add = [](std::vector<RoomId>& into, const std::vector<RoomId>& rooms) {
    for (RoomId id : rooms)
      if (std::find(into.begin(), into.end(), id) == into.end()) into.push_back(id);
  };
  const auto bringRules = [&](auto& into, const auto& list) {
    for (const auto& rule : list) {
      const std::vector<RoomId> rooms = ofCopies(rule.rooms);
      if (rooms.empty()) continue;
      const auto known = std::find_if(into.begin(), into.end(), [&](const auto& own) { return own.id == rule.id; });
      if (known != into.end()) {
        if (!known->rooms.empty()) add(known->rooms, rooms);
        continue;
      }
      auto own = rule;
      own.rooms = rooms;
      own.id = RuleId::fresh();
      into.push_back(std::move(own));
    }
  };
  for (const SensorGroup& g : from.groups)
    if (const auto* grid = std::get_if<RoomGrid>(&g.layout))
      for (SensorGroup& own : p.groups)
        if (auto* into = std::get_if<RoomGrid>(&own.layout); into && own.id == g.id && !into->rooms.empty())
          add(into->rooms, ofCopies(grid->rooms));
  bringRules(p.windowRules, from.windowRules);
  bringRules(p.shadeRules, from.shadeRules);
  shadeMatched(from, p, copied, {});
  return p;
}

// ---- rows and grids -----------------------------------------------------------------------------------------------

std::optional<RowOf> rowOf(const Project& p, ElementId id) {
  const ElementPtr e = p.element(id);
  if (!e) return {};
  RowOf out;
  out.first = e->row ? e->row->of : id;
  if (!p.element(out.first)) return {};
  bool any = false;
  for (const ElementPtr& c : p.elements)
    if (c->row && c->row->of == out.first) {
      any = true;
      out.layout.right = std::max(out.layout.right, c->row->right + 1);
      out.layout.up = std::max(out.layout.up, c->row->up + 1);
      out.layout.stepRight = c->row->stepRight;
      out.layout.stepUp = c->row->stepUp;
    }
  return any ? std::optional(out) : std::nullopt;
}

Project withoutHosts(Project p, const std::vector<ElementId>& ids) {
  std::vector<RoomId> rooms;
  for (const Room& r : p.rooms)
    if (const ElementPtr host = hostOf(p, r); host && std::find(ids.begin(), ids.end(), host->id) != ids.end())
      rooms.push_back(r.id);
  const auto gone = [&](RoomId id) { return std::find(rooms.begin(), rooms.end(), id) != rooms.end(); };
  std::erase_if(p.rooms, [&](const Room& r) { return gone(r.id); });
  std::erase_if(p.openings, [&](const Opening& o) { return gone(o.room); });
  std::erase_if(p.assignments, [&](const Assignment& a) {
    return a.element && (gone({a.element->value}) || std::find(ids.begin(), ids.end(), *a.element) != ids.end());
  });
  // A list of rooms that ran empty would mean all rooms.
  const auto shorten = [&](auto& list) {
    std::erase_if(list, [&](auto& rule) {
      const bool some = !rule.rooms.empty();
      std::erase_if(rule.rooms, gone);
      return some && rule.rooms.empty();
    });
  };
  shorten(p.windowRules);
  shorten(p.shadeRules);
  for (SensorGroup& g : p.groups)
    if (auto* grid = std::get_if<RoomGrid>(&g.layout); grid && !grid->rooms.empty()) {
      const std::vector<RoomId> were = grid->rooms;
      std::erase_if(grid->rooms, gone);
      if (grid->rooms.empty()) grid->rooms = were; // a grid of rooms that are gone: a finding says so
    }
  return withoutElements(std::move(p), ids);
}

Expected<Project> withRow(const Project& project, const std::vector<ElementId>& ids, const RowLayout& l,
                          std::vector<ElementId>* made) {
  if (l.right < 1 || l.up < 1 || l.right * l.up > mostInARow + 1)
    return fail(fmt::format("A row or grid holds 1 to {} of each.", mostInARow + 1));
  if ((l.right > 1 && length(l.stepRight) < 0.01) || (l.up > 1 && length(l.stepUp) < 0.01))
    return fail("Copies in the same place would lie in each other.");
  const auto placeOf = [](int i, int j, Vec2 right, Vec2 up) { return right * double(i) + up * double(j); };
  std::vector<ElementId> firsts;
  for (ElementId id : ids) {
    const auto row = rowOf(project, id);
    const ElementId first = row ? row->first : id;
    if (project.element(first) && std::find(firsts.begin(), firsts.end(), first) == firsts.end())
      firsts.push_back(first);
  }
  Project p = project;
  std::vector<ElementId> surplus;
  std::map<std::pair<int, int>, std::vector<ElementId>> missing;
  for (ElementId first : firsts) {
    std::vector<std::pair<int, int>> there{{0, 0}};
    for (const ElementPtr& e : project.elements) {
      if (!e->row || e->row->of != first) continue;
      const RowPlace& at = *e->row;
      if (at.right >= l.right || at.up >= l.up) {
        surplus.push_back(e->id);
        continue;
      }
      there.emplace_back(at.right, at.up);
      const Vec2 by =
          placeOf(at.right, at.up, l.stepRight, l.stepUp) - placeOf(at.right, at.up, at.stepRight, at.stepUp);
      const Project before = p;
      p = carried(before,
                  withEdited(before, {e->id},
                             [&](Element& c) {
                               moveElement(c, {by.x, by.y, 0});
                               c.row->stepRight = l.stepRight;
                               c.row->stepUp = l.stepUp;
                             }),
                  {e->id});
    }
    for (int i = 0; i < l.right; ++i)
      for (int j = 0; j < l.up; ++j)
        if (std::find(there.begin(), there.end(), std::pair{i, j}) == there.end()) missing[{i, j}].push_back(first);
  }
  if (!surplus.empty()) p = withoutHosts(std::move(p), surplus);
  for (const auto& [at, list] : missing) {
    const Vec2 by = placeOf(at.first, at.second, l.stepRight, l.stepUp);
    std::vector<ElementId> fresh;
    p = withCopies(std::move(p), list, {by.x, by.y, 0}, &fresh);
    for (std::size_t k = 0; k < fresh.size(); ++k)
      p = withEdited(std::move(p), {fresh[k]}, [&](Element& e) {
        e.row = RowPlace{list[k], at.first, at.second, l.stepRight, l.stepUp};
      });
    if (made) made->insert(made->end(), fresh.begin(), fresh.end());
  }
  return p;
}

// ---- mirrored -------------------------------------------------------------------------------------------------------

namespace {

void mirrorShape(Mass& m, const Motion& by) {
  m.outline = tidied(m.outline);
  moveRing(m.outline.outer, by);
  for (Ring& h : m.outline.holes) moveRing(h, by);
  // A mono roof rises to the left of its ridge's way; mirrored that is the right.
  const Vec2 ridge = by.direction({std::cos(m.roof.along), std::sin(m.roof.along)}) * -1.0;
  if (!m.roof.flat()) m.roof.along = std::atan2(ridge.y, ridge.x);
}
void mirrorShape(Plate& plate, const Motion& by) {
  for (Vec3& c : plate.corners) {
    const Vec2 q = by(xy(c));
    c = {q.x, q.y, c.z};
  }
  if (plate.corners.size() > 1) std::reverse(plate.corners.begin() + 1, plate.corners.end());
}
void mirrorShape(Tree& tree, const Motion& by) {
  const Vec2 q = by(xy(tree.foot));
  tree.foot = {q.x, q.y, tree.foot.z};
}
void mirrorShape(Imported& i, const Motion& by) {
  const auto stands = meshOf(i);
  if (!stands) return;
  auto mesh = std::make_shared<Mesh>(**stands);
  for (Vec3& c : mesh->points) {
    const Vec2 q = by(xy(c));
    c = {q.x, q.y, c.z};
  }
  for (Triangle& t : mesh->triangles) std::swap(t[1], t[2]);
  i = withMesh(Imported{}, std::move(mesh));
}

/// The wall that one of an element or room is, once it is mirrored; faces count from the base and the roof on.
std::uint32_t faceAfter(const Outline& o, std::uint32_t face, const Motion& by) {
  if (face < firstWallFace) return face;
  std::uint32_t first = firstWallFace;
  const auto in = [&](const Ring& r) -> std::optional<std::uint32_t> {
    if (face < first + r.size()) return first + std::uint32_t(wallAfter(face - first, r.size(), by));
    first += std::uint32_t(r.size());
    return {};
  };
  if (const auto f = in(o.outer)) return *f;
  for (const Ring& h : o.holes)
    if (const auto f = in(h)) return *f;
  return face;
}

} // namespace

Expected<Project> withMirrored(const Project& project, const std::vector<ElementId>& given, Vec2 a, Vec2 b, bool copies,
                               std::vector<ElementId>* made) {
  if (!(length(b - a) > 0.01)) return fail("A mirror needs two points apart from each other.");
  const Motion by = mirrorIn(a, b);
  Project p = project;
  std::vector<ElementId> ids = given;
  RoomPairs rooms; // as they were, and as they are now
  if (copies) {
    ids.clear();
    p = copiedInto(std::move(p), project, given, {}, &ids, rooms);
  } else {
    for (const Room& r : project.rooms)
      if (const ElementPtr host = hostOf(project, r); host && std::find(ids.begin(), ids.end(), host->id) != ids.end())
        rooms.emplace_back(r.id, r.id);
  }
  if (made) *made = ids;
  std::map<std::uint64_t, Outline> outlines; // of what has faces by number, before
  std::vector<ElementPtr> were;
  for (ElementPtr& e : p.elements) {
    if (std::find(ids.begin(), ids.end(), e->id) == ids.end()) continue;
    were.push_back(e);
    if (const Mass* m = e->mass()) outlines[e->id.value] = tidied(m->outline);
    auto next = std::make_shared<Element>(*e);
    std::visit([&](auto& s) { mirrorShape(s, by); }, next->shape);
    if (next->imported()) {
      next->source.clear();
      next->mends.clear();
    }
    next->row.reset();
    e = std::move(next);
  }
  std::vector<RoomId> moved;
  for (const auto& pair : rooms)
    for (Room& r : p.rooms)
      if (r.id == pair.second) {
        outlines[r.id.value] = r.outline;
        moveRoom(p, r, by);
        moved.push_back(r.id);
      }
  for (Assignment& x : p.assignments)
    if (x.element && x.face)
      if (const auto at = outlines.find(x.element->value); at != outlines.end())
        x.face = faceAfter(at->second, *x.face, by);
  for (SensorGroup& g : p.groups)
    if (auto* f = std::get_if<FaceGrid>(&g.layout))
      for (FaceRef& r : f->faces)
        if (const auto at = outlines.find(r.element.value); at != outlines.end() && r.face)
          r.face = faceAfter(at->second, *r.face, by);
  moveRules(p, moved, by);
  shadeMatched(project, p, rooms, by);
  if (!copies)
    for (const ElementPtr& was : were)
      if (!was->plate()) moveAttached(project, p, *was, by, ids);
  return p;
}

// ---- in line --------------------------------------------------------------------------------------------------------

Project withAligned(const Project& project, const std::vector<ElementId>& ids, Align how) {
  if (ids.empty() || !project.element(ids.front())) return project;
  const auto spot = [&](const Box3& box) -> Vec3 {
    switch (how) {
    case Align::Left:
      return {box.low.x, 0, 0};
    case Align::MiddleX:
      return {box.center().x, 0, 0};
    case Align::Right:
      return {box.high.x, 0, 0};
    case Align::Lower:
      return {0, box.low.y, 0};
    case Align::MiddleY:
      return {0, box.center().y, 0};
    case Align::Upper:
      return {0, box.high.y, 0};
    case Align::Base:
      return {0, 0, box.low.z};
    case Align::Top:
      return {0, 0, box.high.z};
    }
    return {};
  };
  const Vec3 wanted = spot(boxOf(*project.element(ids.front())));
  const Project before = project;
  Project p = project;
  for (std::size_t k = 1; k < ids.size(); ++k) {
    const ElementPtr e = project.element(ids[k]);
    if (!e) continue;
    const Vec3 by = wanted - spot(boxOf(*e));
    if (!(length(by) > tolerance::weld)) continue;
    p = withEdited(std::move(p), {ids[k]}, [&](Element& x) { moveElement(x, by); });
  }
  return carried(before, std::move(p), ids);
}

Project withGroupNamed(Project p, const std::vector<ElementId>& ids, const std::string& name) {
  return withEdited(std::move(p), ids, [&](Element& e) { e.group = name; });
}

std::vector<ElementId> withTheirGroups(const Project& p, const std::vector<ElementId>& ids) {
  std::vector<std::string> groups;
  for (ElementId id : ids)
    if (const ElementPtr e = p.element(id); e && !e->group.empty()) groups.push_back(e->group);
  if (groups.empty()) return ids;
  std::vector<ElementId> out = ids;
  for (const ElementPtr& e : p.elements)
    if (!e->group.empty() && std::find(groups.begin(), groups.end(), e->group) != groups.end() &&
        std::find(out.begin(), out.end(), e->id) == out.end())
      out.push_back(e->id);
  return out;
}

std::string freshGroup(const Project& p, const std::string& stem) {
  for (int n = 1;; ++n) {
    std::string name = n == 1 ? stem : fmt::format("{} {}", stem, n);
    if (std::none_of(p.elements.begin(), p.elements.end(), [&](const ElementPtr& e) { return e->group == name; }))
      return name;
  }
}

} // namespace noonward
