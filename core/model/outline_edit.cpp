#include "core/model/outline_edit.h"
#include "core/model/edit.h"
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

Ring* ringOf(Outline& o, std::size_t ring) { return ring == 0 ? &o.outer : ring <= o.holes.size() ? &o.holes[ring - 1] : nullptr; }

/// Windows go to the edge of the new outline that lies where theirs was.
void reseat(std::vector<Opening>& openings, RoomId room, const Ring& old, const Ring& now) {
  for (Opening& o : openings) {
    if (o.room != room || o.edge < 0 || o.edge >= int(old.size())) continue;
    const Vec2 a = old[std::size_t(o.edge)], b = old[(std::size_t(o.edge) + 1) % old.size()];
    const double l = length(b - a);
    if (!(l > 0)) continue;
    const double whole = o.width * o.repeat + o.gap * (o.repeat - 1);
    const Vec2 middle = a + (b - a) * ((o.along + whole / 2) / l);
    double best = 1e300;
    for (std::size_t i = 0; i < now.size(); ++i) {
      const Vec2 c = now[i], d = now[(i + 1) % now.size()] - c;
      const double n = length(d);
      if (!(n > 0) || dot(d, b - a) < 0.5 * n * l) continue;
      const double along = dot(middle - c, d) / n, off = length(middle - c - d * (std::clamp(along, 0.0, n) / n));
      if (off >= best) continue;
      best = off;
      o.edge = int(i);
      o.along = whole <= n ? std::clamp(along - whole / 2, 0.0, n - whole) : along - whole / 2;
    }
  }
}

Expected<Project> withOutline(const Project& p, const CornerRef& ref, const std::function<void(Ring&)>& change) {
  const Outline* found = outlineOf(p, ref);
  if (!found) return fail("There is no such outline any more.");
  Outline o = *found;
  Ring* ring = ringOf(o, ref.ring);
  if (!ring || ref.corner >= ring->size()) return fail("There is no such corner any more.");
  change(*ring);
  if (const OutlineCheck c = checkOutline(o); c.fault != OutlineFault::None) return fail(fmt::format("The outline then {}.", faultText(c.fault)));
  Project out = p;
  if (ref.room) {
    for (Room& r : out.rooms)
      if (r.id.value == ref.owner) r.outline = o;
    if (ref.ring == 0) reseat(out.openings, {ref.owner}, found->outer, o.outer);
    return out;
  }
  return withEdited(std::move(out), {{ref.owner}}, [&](Element& e) { std::get<Mass>(e.shape).outline = o; });
}

} // namespace

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

Expected<Project> withCornerAdded(const Project& p, const CornerRef& edge, Vec2 at) {
  if (!std::isfinite(at.x) || !std::isfinite(at.y)) return fail("A corner needs a place.");
  return withOutline(p, edge, [&](Ring& r) { r.insert(r.begin() + std::ptrdiff_t(edge.corner) + 1, at); });
}

Expected<Project> withCornerTaken(const Project& p, const CornerRef& ref) {
  return withOutline(p, ref, [&](Ring& r) { r.erase(r.begin() + std::ptrdiff_t(ref.corner)); });
}

Expected<Project> withRoomOutline(const Project& p, RoomId id, const Outline& outline) {
  if (const OutlineCheck c = checkOutline(outline); c.fault != OutlineFault::None) return fail(fmt::format("The outline then {}.", faultText(c.fault)));
  Project out = p;
  for (Room& r : out.rooms) {
    if (r.id != id) continue;
    reseat(out.openings, id, r.outline.outer, outline.outer);
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
