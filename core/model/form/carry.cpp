#include "core/model/form/carry.h"
#include "core/base/tolerances.h"
#include "core/model/form/edit.h"
#include "core/model/form/motion.h"
#include "core/model/form/outline_edit.h"
#include "core/model/light_model.h"
#include "core/model/rooms/room_form.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

std::vector<Vec2> cornersOf(const Element& e) {
  if (const Mass* m = e.mass()) return points(m->outline);
  std::vector<Vec2> out;
  if (const Plate* plate = e.plate())
    for (Vec3 c : plate->corners) out.push_back(xy(c));
  return out;
}

/// The one motion that takes all corners along; nothing where there is none.
std::optional<Motion> motionOf(const Element& a, const Element& b) {
  Motion r;
  if (a.imported() && b.imported()) {
    if (a.imported()->stretch != b.imported()->stretch) return {};
    r.about = middleOf(a);
    r.shift = middleOf(b) - r.about;
    r.turn = wrapPi(b.imported()->turn - a.imported()->turn);
    r.lift = b.imported()->move.z - a.imported()->move.z;
    return r;
  }
  const std::vector<Vec2> from = cornersOf(a), to = cornersOf(b);
  if (from.size() < 2 || from.size() != to.size()) return {};
  std::size_t far = 1;
  for (std::size_t i = 2; i < from.size(); ++i)
    if (length(from[i] - from[0]) > length(from[far] - from[0])) far = i;
  const Vec2 u = from[far] - from[0], v = to[far] - to[0];
  if (length(u) < tolerance::weld) return {};
  r.about = from[0];
  r.shift = to[0] - from[0];
  r.turn = std::atan2(cross(u, v), dot(u, v));
  if (std::abs(r.turn) < 1e-12) r.turn = 0;
  if (const Mass* m = a.mass(), *n = b.mass(); m && n) {
    if (std::abs(m->height - n->height) > tolerance::weld || m->roof.kind != n->roof.kind ||
        m->roof.rise != n->roof.rise)
      return {};
    r.lift = n->base - m->base;
  }
  for (std::size_t i = 0; i < from.size(); ++i)
    if (length(r(from[i]) - to[i]) > 1e-4) return {};
  return r;
}

struct Line {
  Vec2 a, along; ///< unit
  Vec2 outward() const { return {along.y, -along.x}; }
};
std::vector<Line> linesOf(const Ring& ring) {
  std::vector<Line> out;
  for (std::size_t i = 0; i < ring.size(); ++i) {
    const Vec2 d = ring[(i + 1) % ring.size()] - ring[i];
    const double l = length(d);
    out.push_back({ring[i], l > 0 ? d * (1 / l) : Vec2{1, 0}});
  }
  return out;
}
std::vector<Ring> ringsOf(const Outline& o) {
  std::vector<Ring> out{o.outer};
  out.insert(out.end(), o.holes.begin(), o.holes.end());
  return out;
}

/// Where two lines meet; nothing where they run alike.
std::optional<Vec2> meeting(const Line& a, const Line& b) {
  const double d = cross(a.along, b.along);
  if (std::abs(d) < 1e-6) return {};
  return a.a + a.along * (cross(b.a - a.a, b.along) / d);
}

constexpr double nearWall = 1.2; // m, of a room's wall behind the mass's for the two to go together

/// A room whose mass changed its shape: its edges keep their distance to the mass's edge they run along. Which of its
/// edges moved is told.
bool followShape(Outline& room, const Mass& before, const Mass& after, std::vector<Vec2>& shifts) {
  const std::vector<Ring> was = ringsOf(before.outline), is = ringsOf(after.outline);
  if (was.size() != is.size()) return false;
  for (std::size_t k = 0; k < was.size(); ++k)
    if (was[k].size() != is[k].size()) return false; // corners put in or taken out: nothing moves
  std::vector<Line> edges = linesOf(room.outer);
  std::vector<bool> free(edges.size(), true);
  shifts.assign(edges.size(), {});
  for (std::size_t i = 0; i < edges.size(); ++i) {
    const Vec2 middle = room.outer[i] + (room.outer[(i + 1) % room.outer.size()] - room.outer[i]) * 0.5;
    double nearest = nearWall;
    for (std::size_t k = 0; k < was.size(); ++k) {
      const std::vector<Line> old = linesOf(was[k]), now = linesOf(is[k]);
      for (std::size_t j = 0; j < old.size(); ++j) {
        if (dot(old[j].along, edges[i].along) < 0.9995) continue;
        const double behind = dot(old[j].a - middle, old[j].outward()),
                     l = length(was[k][(j + 1) % was[k].size()] - was[k][j]);
        const double s = dot(middle - old[j].a, old[j].along);
        if (behind < -0.02 || behind > nearest || s < -0.01 || s > l + 0.01) continue;
        nearest = behind;
        free[i] = false;
        const Vec2 on = now[j].a + now[j].along * s; // where its middle's foot went along the wall's new line
        edges[i] = {on - now[j].outward() * behind, now[j].along};
        shifts[i] = (edges[i].a - middle);
        shifts[i] = now[j].outward() * dot(shifts[i], now[j].outward());
      }
    }
  }
  Ring out;
  for (std::size_t i = 0; i < edges.size(); ++i) {
    const std::size_t before1 = (i + edges.size() - 1) % edges.size();
    if (const auto corner = meeting(edges[before1], edges[i]))
      out.push_back(*corner);
    else
      out.push_back(room.outer[i] + (free[i] ? shifts[before1] : shifts[i]));
  }
  Outline next = room;
  next.outer = std::move(out);
  if (checkOutline(next).fault != OutlineFault::None || area(next) < 0.5 ||
      (signedArea(next.outer) > 0) != (signedArea(room.outer) > 0))
    return false;
  room = std::move(next);
  return true;
}

/// Windows keep their place on their wall where the wall changed its ends.
void reseatAlong(Project& p, const Room& old, const Room& now, const std::vector<Vec2>& shifts) {
  for (Opening& o : p.openings) {
    if (o.room != now.id || o.edge < 0 || o.edge >= int(old.outline.outer.size())) continue;
    const auto i = std::size_t(o.edge);
    const Ring &a = old.outline.outer, &b = now.outline.outer;
    const Line was = linesOf(a)[i], is = linesOf(b)[i];
    const double whole = o.width * o.repeat + std::max(0.0, o.gap) * (o.repeat - 1);
    const Vec2 middle = was.a + was.along * (o.along + whole / 2) + shifts[i];
    o.along = dot(middle - is.a, is.along) - whole / 2;
  }
}

bool underTheRoof(const Room& room, const Mass& m) {
  const double eaves = m.base + m.height;
  return !m.roof.flat() && room.floor > eaves - 0.5 && room.floor + room.height > eaves + 0.01;
}

/// The same ring, begun where its sides run most alike to those of another.
Ring begunLike(const Ring& ring, const Ring& like) {
  const std::vector<Line> own = linesOf(ring), other = linesOf(like);
  const std::size_t n = ring.size();
  std::size_t best = 0;
  double most = -1e300;
  for (std::size_t k = 0; k < n; ++k) {
    double alike = 0;
    for (std::size_t i = 0; i < n; ++i)
      alike += dot(own[(i + k) % n].along, other[i].along) - 1e-3 * length(ring[(i + k) % n] - like[i]);
    if (alike > most) {
      most = alike;
      best = k;
    }
  }
  Ring out = ring;
  std::rotate(out.begin(), out.begin() + std::ptrdiff_t(best), out.end());
  return out;
}

/// How far a side of a room went, square to itself.
Vec2 midpointShift(const Room& old, const Room& now, std::size_t i) {
  const Line was = linesOf(old.outline.outer)[i], is = linesOf(now.outline.outer)[i];
  return was.outward() * dot(is.a - was.a, was.outward());
}

/// An attic whose walls stand where the roof comes down to them stands there again under the roof as it is now. False
/// where it is none, or would have other walls.
bool followRoof(Room& room, const Project& before, const Project& after, const Room& old, std::uint64_t mass) {
  const ElementPtr e = before.element({mass});
  if (!e || !e->mass() || !underTheRoof(old, *e->mass())) return false;
  const RoomForm form = roomForm(before, old);
  if (form.level) return false;
  const Ring& ring = old.outline.outer;
  double knee = 1e300;
  for (std::size_t i = 0; i < ring.size(); ++i)
    knee = std::min(knee, form.clearHeight(ring[i], ring[(i + 1) % ring.size()], 0, 1e9));
  const auto was = underRoof(before, mass, old.wall, knee, 0), is = underRoof(after, mass, old.wall, knee, 0);
  if (was.size() != 1 || is.size() != 1 || is[0].outer.size() != ring.size() ||
      std::abs(area(was[0]) - area(old.outline)) > 1e-3 * area(old.outline))
    return false;
  room.outline.outer = begunLike(is[0].outer, ring);
  return true;
}

/// Rooms that fill a storey follow it where the mass is raised, lowered or set on another foot; what lies between a
/// ceiling and the next floor stays. Others, and all where no storey would be left to stand in, keep their height and
/// go along with the foot.
void followHeight(Room& room, const Mass& a, const Mass& b) {
  if (underTheRoof(room, a)) { // it stands on the eaves and reaches up with the roof
    room.floor += b.base + b.height - a.base - a.height;
    room.height = std::max(0.5, room.height + b.roof.top() - a.roof.top());
    return;
  }
  constexpr double slabs = 0.8, standing = 2.2; // m
  const double was = a.height / std::max(1, a.storeys), is = b.height / std::max(1, b.storeys);
  const double below = std::round((room.floor - a.base) / was), step = room.floor - (a.base + below * was);
  const double above = std::ceil((room.floor + room.height - a.base) / was - 1e-6),
               slab = a.base + above * was - (room.floor + room.height);
  const bool fills = std::abs(step) < slabs && slab >= 0 && slab < slabs;
  if (!fills || a.storeys != b.storeys || is < standing) {
    room.floor += b.base - a.base;
    return;
  }
  room.floor = b.base + below * is + step;
  room.height = std::max(0.5, b.base + above * is - slab - room.floor);
}

} // namespace

Project carried(const Project& before, Project after, const std::vector<ElementId>& ids) {
  std::vector<ElementPtr> hosts; // of rooms, as they were
  for (const Room& r : before.rooms) hosts.push_back(hostOf(before, r));
  for (ElementId id : ids) {
    const ElementPtr a = before.element(id), b = after.element(id);
    if (!a || !b || a == b || a->shape == b->shape || a->shape.index() != b->shape.index()) continue;
    const auto rigid = motionOf(*a, *b);
    if (rigid && rigid->nothing()) continue;
    std::vector<RoomId> together;
    for (std::size_t k = 0; k < before.rooms.size(); ++k) {
      if (hosts[k] != a) continue;
      const Room& old = before.rooms[k];
      const auto room =
          std::find_if(after.rooms.begin(), after.rooms.end(), [&](const Room& r) { return r.id == old.id; });
      if (room == after.rooms.end()) continue;
      if (rigid) {
        moveRoom(after, *room, *rigid);
        together.push_back(room->id);
        continue;
      }
      const Mass *m = a->mass(), *n = b->mass();
      if (!m || !n) continue;
      if (m->base != n->base || m->height != n->height || !(m->roof == n->roof)) followHeight(*room, *m, *n);
      std::vector<Vec2> shifts;
      if (followRoof(*room, before, after, old, a->id.value)) {
        for (std::size_t i = 0; i < room->outline.outer.size(); ++i) shifts.push_back(midpointShift(old, *room, i));
        reseatAlong(after, old, *room, shifts);
      } else if (!(m->outline == n->outline) && followShape(room->outline, *m, *n, shifts)) {
        reseatAlong(after, old, *room, shifts);
      }
    }
    if (!rigid) continue;
    moveRules(after, together, *rigid);
    if (rigid->turn != 0) { // windows by rules are named by their walls' sides, which may be others now
      std::vector<std::pair<RoomId, RoomId>> same;
      for (RoomId id : together) same.emplace_back(id, id);
      shadeMatched(before, after, same, *rigid);
    }
    if (!a->plate()) moveAttached(before, after, *a, *rigid, ids);
  }
  return after;
}

Expected<Project> withRoomFitted(const Project& p, RoomId id) {
  const Room* room = p.room(id);
  if (!room) return fail("The room is gone.");
  const ElementPtr host = shelterOf(p, *room);
  if (!host || !host->mass()) return fail(fmt::format("Nothing stands around \"{}\" to fit it to.", room->name));
  const double wall = std::max(0.0, room->wall);
  std::vector<Outline> best;
  for (const Outline& inner :
       wall > 0 ? offset(host->mass()->outline, -wall) : std::vector<Outline>{host->mass()->outline}) {
    // What of the room lies within: the room less what the room has outside.
    std::vector<Ring> outside;
    for (const Outline& o : difference(room->outline, {inner.outer})) outside.push_back(o.outer);
    for (Outline& o : outside.empty() ? std::vector<Outline>{room->outline} : difference(room->outline, outside))
      best.push_back(std::move(o));
  }
  if (best.empty()) return fail(fmt::format("\"{}\" would have nothing left.", room->name));
  std::sort(best.begin(), best.end(), [](const Outline& a, const Outline& b) { return area(a) > area(b); });
  auto fitted = withRoomOutline(p, id, tidied(best.front()));
  if (!fitted) return fitted;
  for (Room& r : fitted->rooms)
    if (r.id == id) {
      const Mass& m = *host->mass();
      r.floor = std::max(r.floor, m.base);
      r.height = std::max(0.5, std::min(r.height, m.top() - r.floor));
    }
  return fitted;
}

Project withOpeningFitted(Project p, OpeningId id) {
  for (Opening& o : p.openings) {
    const Room* room = o.id == id ? p.room(o.room) : nullptr;
    if (!room || o.edge < 0 || o.edge >= int(room->outline.outer.size())) continue;
    const Ring& ring = room->outline.outer;
    const double l = length(ring[(std::size_t(o.edge) + 1) % ring.size()] - ring[std::size_t(o.edge)]);
    const double rim = std::min(0.05, l / 10);
    if (o.repeat > 1)
      o.repeat =
          std::max(1, std::min(o.repeat, int((l - 2 * rim + std::max(0.0, o.gap)) / (o.width + std::max(0.0, o.gap)))));
    if (o.repeat == 1) o.width = std::min(o.width, l - 2 * rim);
    const double whole = o.width * o.repeat + std::max(0.0, o.gap) * (o.repeat - 1);
    o.along = std::clamp(o.along, rim, std::max(rim, l - rim - whole));
    o.sill = std::clamp(o.sill, 0.0, std::max(0.0, room->height - 0.1));
    o.height = std::min(o.height, room->height - o.sill);
  }
  return p;
}

} // namespace noonward
