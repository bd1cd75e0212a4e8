#include "core/model/form/outline_edit.h"
#include "core/model/form/edit.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

const Outline* outlineOf(const Project& p, const CornerRef& ref) {
  if (ref.room) {
    const Room* r = p.room({ref.owner});
    return r ? &r->outline : nullptr;
  }
  for (const ElementPtr& e : p.elements)
    if (e->id.value == ref.owner) return e->mass() ? &e->mass()->outline : nullptr;
  return nullptr;
}

Ring* ringOf(Outline& o, std::size_t ring) {
  return ring == 0 ? &o.outer : ring <= o.holes.size() ? &o.holes[ring - 1] : nullptr;
}

/// Windows, and what is said of walls, go to the edge of the new outline that lies where theirs was.
void reseat(Project& p, RoomId room, const Ring& old, const Ring& now) {
  for (Opening& o : p.openings)
    if (o.room == room) seatOn(o, old, now, 0.5);
  std::vector<HeatSurface> moved; // what was said of walls goes with them; of two in one place the first stays
  for (HeatSurface s : p.heat.surfaces) {
    if (s.room == room && s.edge >= 0) {
      if (std::size_t(s.edge) >= old.size()) continue;
      Opening middle; // of the wall
      middle.edge = s.edge;
      middle.width = 0;
      middle.along = length(old[(std::size_t(s.edge) + 1) % old.size()] - old[std::size_t(s.edge)]) / 2;
      if (!seatOn(middle, old, now, 0.5)) continue;
      s.edge = middle.edge;
    }
    if (std::none_of(moved.begin(), moved.end(),
                     [&](const HeatSurface& o) { return o.room == s.room && o.edge == s.edge; }))
      moved.push_back(std::move(s));
  }
  p.heat.surfaces = std::move(moved);
}

Expected<Project> withOutline(const Project& p, const CornerRef& ref, const std::function<void(Ring&)>& change) {
  const Outline* found = outlineOf(p, ref);
  if (!found) return fail("There is no such outline any more.");
  Outline o = *found;
  Ring* ring = ringOf(o, ref.ring);
  if (!ring || ref.corner >= ring->size()) return fail("There is no such corner any more.");
  change(*ring);
  if (const OutlineCheck c = checkOutline(o); c.fault != OutlineFault::None)
    return fail(fmt::format("The outline then {}.", faultText(c.fault)));
  Project out = p;
  if (ref.room) {
    for (Room& r : out.rooms)
      if (r.id.value == ref.owner) r.outline = o;
    if (ref.ring == 0) reseat(out, {ref.owner}, found->outer, o.outer);
    return out;
  }
  return withEdited(std::move(out), {{ref.owner}}, [&](Element& e) { std::get<Mass>(e.shape).outline = o; });
}

} // namespace

std::optional<double> seatOn(Opening& o, const Ring& old, const Ring& now, double alike) {
  if (o.edge < 0 || o.edge >= int(old.size())) return {};
  const Vec2 a = old[std::size_t(o.edge)], b = old[(std::size_t(o.edge) + 1) % old.size()];
  const double l = length(b - a);
  if (!(l > 0)) return {};
  const double whole = o.width * o.repeat + std::max(0.0, o.gap) * (o.repeat - 1);
  const Vec2 middle = a + (b - a) * ((o.along + whole / 2) / l);
  std::optional<double> best;
  for (std::size_t i = 0; i < now.size(); ++i) {
    const Vec2 c = now[i], d = now[(i + 1) % now.size()] - c;
    const double n = length(d);
    if (!(n > 0) || dot(d, b - a) < alike * n * l) continue;
    const double along = dot(middle - c, d) / n, off = length(middle - c - d * (std::clamp(along, 0.0, n) / n));
    if (best && off >= *best) continue;
    best = off;
    o.edge = int(i);
    o.along = whole <= n ? std::clamp(along - whole / 2, 0.0, n - whole) : along - whole / 2;
  }
  return best;
}

const Ring* ringOf(const Project& p, const CornerRef& ref) {
  const Outline* o = outlineOf(p, ref);
  return !o ? nullptr : ref.ring == 0 ? &o->outer : ref.ring <= o->holes.size() ? &o->holes[ref.ring - 1] : nullptr;
}

double levelOf(const Project& p, const CornerRef& ref) {
  if (ref.room) {
    const Room* r = p.room({ref.owner});
    return r ? r->floor : 0;
  }
  const ElementPtr e = p.element({ref.owner});
  return e && e->mass() ? e->mass()->base : 0;
}

Expected<Project> withCornerAt(const Project& p, const CornerRef& ref, Vec2 at) {
  if (!std::isfinite(at.x) || !std::isfinite(at.y)) return fail("A corner needs a place.");
  return withOutline(p, ref, [&](Ring& r) { r[ref.corner] = at; });
}

namespace {
/// Where the walls of a mass, or of a room, go in the count of faces when a corner comes or goes: what was given to one
/// stays on it. `becomes`: the walls (0… through all rings) that a wall is afterwards.
Project withWallsRenumbered(Project p, std::uint64_t owner,
                            const std::function<std::vector<std::uint32_t>(std::uint32_t)>& becomes) {
  const auto faces = [&](std::uint32_t face) {
    if (face < firstWallFace) return std::vector<std::uint32_t>{face};
    std::vector<std::uint32_t> out = becomes(face - firstWallFace);
    for (std::uint32_t& f : out) f += firstWallFace;
    return out;
  };
  std::vector<Assignment> assignments;
  for (const Assignment& a : p.assignments) {
    if (!a.element || a.element->value != owner || !a.face) {
      assignments.push_back(a);
      continue;
    }
    for (std::uint32_t f : faces(*a.face)) {
      Assignment b = a;
      b.face = f;
      if (std::find(assignments.begin(), assignments.end(), b) == assignments.end())
        assignments.push_back(std::move(b));
    }
  }
  p.assignments = std::move(assignments);
  for (SensorGroup& g : p.groups)
    if (auto* grid = std::get_if<FaceGrid>(&g.layout)) {
      std::vector<FaceRef> refs;
      for (const FaceRef& r : grid->faces) {
        if (r.element.value != owner || !r.face) {
          refs.push_back(r);
          continue;
        }
        for (std::uint32_t f : faces(*r.face))
          if (std::none_of(refs.begin(), refs.end(),
                           [&](const FaceRef& o) { return o.element == r.element && o.face == f; }))
            refs.push_back({r.element, f});
      }
      grid->faces = std::move(refs);
    }
  return p;
}

/// The first wall of a ring, counted through all of them.
std::uint32_t firstWallOf(const Outline& o, std::size_t ring) {
  std::size_t n = ring == 0 ? 0 : o.outer.size();
  for (std::size_t k = 1; k < ring; ++k) n += o.holes[k - 1].size();
  return std::uint32_t(n);
}
} // namespace

Expected<Project> withCornerAdded(const Project& p, const CornerRef& edge, Vec2 at) {
  if (!std::isfinite(at.x) || !std::isfinite(at.y)) return fail("A corner needs a place.");
  auto out = withOutline(p, edge, [&](Ring& r) { r.insert(r.begin() + std::ptrdiff_t(edge.corner) + 1, at); });
  if (!out) return out;
  const std::uint32_t split = firstWallOf(*outlineOf(p, edge), edge.ring) + std::uint32_t(edge.corner);
  return withWallsRenumbered(std::move(*out), edge.owner, [&](std::uint32_t wall) {
    if (wall == split) return std::vector<std::uint32_t>{wall, wall + 1}; // both halves
    return std::vector<std::uint32_t>{wall > split ? wall + 1 : wall};
  });
}

Expected<Project> withCornerTaken(const Project& p, const CornerRef& ref) {
  auto out = withOutline(p, ref, [&](Ring& r) { r.erase(r.begin() + std::ptrdiff_t(ref.corner)); });
  if (!out) return out;
  const Outline& o = *outlineOf(p, ref);
  const std::uint32_t first = firstWallOf(o, ref.ring),
                      size = std::uint32_t(ref.ring == 0 ? o.outer.size() : o.holes[ref.ring - 1].size()),
                      gone = first + std::uint32_t(ref.corner);
  return withWallsRenumbered(std::move(*out), ref.owner, [&](std::uint32_t wall) {
    // The two walls at the corner become the one that began before it; without the first corner that is the ring's
    // last.
    if (wall == gone) return std::vector<std::uint32_t>{ref.corner > 0 ? gone - 1 : first + size - 2};
    return std::vector<std::uint32_t>{wall > gone ? wall - 1 : wall};
  });
}

Expected<Project> withRoomOutline(const Project& p, RoomId id, const Outline& outline) {
  if (const OutlineCheck c = checkOutline(outline); c.fault != OutlineFault::None)
    return fail(fmt::format("The outline then {}.", faultText(c.fault)));
  Project out = p;
  for (Room& r : out.rooms) {
    if (r.id != id) continue;
    reseat(out, id, r.outline.outer, outline.outer);
    r.outline = outline;
    return out;
  }
  return fail("There is no such room any more.");
}

std::vector<CutLine> cutOfGhosts(const Project& p, double level) {
  std::vector<std::vector<CutLine>> lines(1);
  for (const ElementPtr& e : p.elements)
    if (e->ghost && e->imported())
      if (const auto mesh = elementMesh(*e)) cutAt(**mesh, std::span(&level, 1), lines);
  return joined(std::move(lines[0]), 0.005);
}

} // namespace noonward
