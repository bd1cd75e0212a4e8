#include "core/model/form/carry.h"
#include "core/base/tolerances.h"
#include "core/model/form/edit.h"
#include "core/model/form/outline_edit.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// Turned about a point, then moved.
struct Rigid {
  Vec2 about, shift;
  double turn = 0, lift = 0;
  Vec2 operator()(Vec2 p) const {
    const Vec2 d = p - about;
    const double c = std::cos(turn), s = std::sin(turn);
    return about + shift + Vec2{d.x * c - d.y * s, d.x * s + d.y * c};
  }
  bool nothing() const { return turn == 0 && lift == 0 && shift == Vec2{}; }
};

std::vector<Vec2> cornersOf(const Element& e) {
  if (const Mass* m = e.mass()) return points(m->outline);
  std::vector<Vec2> out;
  if (const Plate* plate = e.plate())
    for (Vec3 c : plate->corners) out.push_back(xy(c));
  return out;
}

/// The one motion that takes all corners along; nothing where there is none.
std::optional<Rigid> motionOf(const Element& a, const Element& b) {
  Rigid r;
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

void moved(Ring& ring, const Rigid& by) {
  for (Vec2& p : ring) p = by(p);
}

/// A rooflight lies square to the drawing: its middle goes along, and by quarter turns its sides change places.
void moveRooflight(Opening& o, const Rigid& by) {
  const double whole = o.width * o.repeat + std::max(0.0, o.gap) * (o.repeat - 1);
  const Vec2 middle = by({o.along + whole / 2, o.sill + o.height / 2});
  if (o.repeat == 1 && std::abs(std::sin(by.turn)) > std::abs(std::cos(by.turn))) std::swap(o.width, o.height);
  o.along = middle.x - (o.repeat == 1 ? o.width : whole) / 2;
  o.sill = middle.y - o.height / 2;
}

void moveRoom(Project& p, Room& room, const Rigid& by) {
  moved(room.outline.outer, by);
  for (Ring& h : room.outline.holes) moved(h, by);
  room.floor += by.lift;
  for (Opening& o : p.openings)
    if (o.room == room.id && o.edge < 0) moveRooflight(o, by);
}

Facing turnedFacing(Facing f, int quarters) {
  return allFacings[std::size_t(((int(f) - quarters) % 4 + 4) % 4)];
} // counter-clockwise

/// Rules that say "south" go on meaning the same walls: for the rooms that turned, a rule of their own.
void turnRules(Project& p, const std::vector<RoomId>& rooms, double turn) {
  const int quarters = int(std::lround(turn / (pi / 2))) % 4;
  if (quarters == 0 || rooms.empty()) return;
  const auto turns = [&](RoomId id) { return std::find(rooms.begin(), rooms.end(), id) != rooms.end(); };
  const auto turnThose = [&](auto& list, const auto& upright) {
    std::remove_reference_t<decltype(list)> more;
    for (auto& rule : list) {
      if (rule.facings.empty() || !upright(rule)) continue;
      std::vector<RoomId> those, others;
      for (const Room& r : p.rooms)
        if (rule.rooms.empty() || std::find(rule.rooms.begin(), rule.rooms.end(), r.id) != rule.rooms.end())
          (turns(r.id) ? those : others).push_back(r.id);
      if (those.empty()) continue;
      auto own = rule;
      for (Facing& f : own.facings) f = turnedFacing(f, quarters);
      if (others.empty()) {
        rule.facings = own.facings;
        continue;
      }
      own.id = RuleId::fresh();
      own.rooms = those;
      rule.rooms = others;
      more.push_back(std::move(own));
    }
    list.insert(list.end(), more.begin(), more.end());
  };
  turnThose(p.windowRules, [](const WindowRule& w) { return !w.ceiling; });
  turnThose(p.shadeRules, [](const ShadeRule& s) { return !s.rooflights && s.windows.empty(); });
}

/// Points and free plates at the element's surface.
void carryAttached(const Project& before, Project& after, const Element& host, const Rigid& by,
                   const std::vector<ElementId>& ids) {
  const Box3 box = boxOf(host);
  const auto mass = host.mass();
  const auto touches = [&](Vec3 q, double reach) {
    if (q.z < box.low.z - reach || q.z > box.high.z + reach) return false;
    if (mass) return contains(mass->outline, xy(q)) || distanceToEdge(mass->outline, xy(q)) <= reach;
    return q.x > box.low.x - reach && q.x < box.high.x + reach && q.y > box.low.y - reach && q.y < box.high.y + reach;
  };
  const double c = std::cos(by.turn), s = std::sin(by.turn);
  for (SensorGroup& g : after.groups)
    if (auto* list = std::get_if<std::vector<PointSensor>>(&g.layout))
      for (PointSensor& x : *list) {
        if (!finite(x.position) || !touches(x.position, 0.1)) continue;
        const Vec2 to = by(xy(x.position));
        x.position = {to.x, to.y, x.position.z + by.lift};
        x.normal = {x.normal.x * c - x.normal.y * s, x.normal.x * s + x.normal.y * c, x.normal.z};
      }
  for (ElementPtr& e : after.elements) {
    if (!e->plate() || std::find(ids.begin(), ids.end(), e->id) != ids.end() ||
        (e->role != Role::Shading && e->role != Role::Glazing))
      continue;
    const auto& corners = e->plate()->corners;
    if (std::count_if(corners.begin(), corners.end(), [&](Vec3 q) { return touches(q, 0.05); }) == 0 &&
        e->layer != "Balconies")
      continue;
    // A balcony's front touches nothing itself: it goes with whatever of it does.
    const std::string stem = e->name.substr(0, e->name.find_last_of(' '));
    const bool hangs = std::any_of(before.elements.begin(), before.elements.end(), [&](const ElementPtr& o) {
      return o->plate() &&
             (o->id == e->id || (e->layer == "Balconies" && o->layer == e->layer && o->name.starts_with(stem))) &&
             std::any_of(o->plate()->corners.begin(), o->plate()->corners.end(),
                         [&](Vec3 q) { return touches(q, 0.05); });
    });
    if (!hangs) continue;
    auto copy = std::make_shared<Element>(*e);
    for (Vec3& q : std::get<Plate>(copy->shape).corners) {
      const Vec2 to = by(xy(q));
      q = {to.x, to.y, q.z + by.lift};
    }
    e = std::move(copy);
  }
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

/// Rooms that fill a storey follow it where the mass is raised, lowered or set on another foot; what lies between a
/// ceiling and the next floor stays. Others, and all where no storey would be left to stand in, keep their height and
/// go along with the foot.
void followHeight(Room& room, const Mass& a, const Mass& b) {
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
      if (m->base != n->base || m->height != n->height) followHeight(*room, *m, *n);
      std::vector<Vec2> shifts;
      if (!(m->outline == n->outline) && followShape(room->outline, *m, *n, shifts))
        reseatAlong(after, old, *room, shifts);
    }
    if (!rigid) continue;
    turnRules(after, together, rigid->turn);
    if (!a->plate()) carryAttached(before, after, *a, *rigid, ids);
  }
  return after;
}

namespace {
/// Shading at some windows alone is at the windows of copied rooms too: copies come in the same order.
void shadeCopies(const Project& before, Project& p, const std::vector<std::pair<RoomId, RoomId>>& copies) {
  if (std::all_of(p.shadeRules.begin(), p.shadeRules.end(), [](const ShadeRule& s) { return s.windows.empty(); }))
    return;
  const auto windowsOf = [](const Project& of, const OpeningLayout& laid, RoomId room) {
    std::vector<OpeningId> out;
    for (const PlacedOpening& o : laid.openings)
      if (of.rooms[o.room].id == room) out.push_back(o.opening.id);
    return out;
  };
  const OpeningLayout was = placedOpenings(before), is = placedOpenings(p);
  for (const auto& [old, fresh] : copies) {
    const std::vector<OpeningId> from = windowsOf(before, was, old), to = windowsOf(p, is, fresh);
    if (from.size() != to.size()) continue;
    for (ShadeRule& s : p.shadeRules)
      for (std::size_t k = 0; k < from.size(); ++k)
        if (std::find(s.windows.begin(), s.windows.end(), from[k]) != s.windows.end()) s.windows.push_back(to[k]);
  }
}
} // namespace

Project withCopies(Project p, const std::vector<ElementId>& ids, Vec3 by, std::vector<ElementId>* made) {
  std::vector<std::pair<RoomId, RoomId>> copied;
  const Project before = p;
  for (ElementId id : ids) {
    const ElementPtr e = before.element(id);
    if (!e) continue;
    Element copy = *e;
    copy.id = ElementId::fresh();
    copy.name = freshName(p, e->name + " copy");
    moveElement(copy, by);
    const ElementId fresh = copy.id;
    if (made) made->push_back(fresh);
    p = withElement(std::move(p), std::move(copy));
    const std::size_t assignments = p.assignments.size();
    for (std::size_t k = 0; k < assignments; ++k)
      if (Assignment a = p.assignments[k]; a.element == id) {
        a.element = fresh;
        p.assignments.push_back(std::move(a));
      }
    for (SensorGroup& g : p.groups)
      if (auto* f = std::get_if<FaceGrid>(&g.layout)) {
        const std::vector<FaceRef> refs = f->faces;
        for (FaceRef r : refs)
          if (r.element == id) {
            r.element = fresh;
            f->faces.push_back(r);
          }
      }
    for (const Room& room : before.rooms) {
      if (hostOf(before, room) != e) continue;
      Room next = room;
      next.id = RoomId::fresh();
      next.name = room.name + " copy";
      next.glare.clear();
      Rigid shift;
      shift.shift = xy(by);
      shift.lift = by.z;
      for (const Opening& o : before.openings)
        if (o.room == room.id) {
          Opening n = o;
          n.id = OpeningId::fresh();
          n.room = next.id;
          p.openings.push_back(std::move(n));
        }
      moveRoom(p, next, shift);
      const auto join = [&](std::vector<RoomId>& list) {
        if (std::find(list.begin(), list.end(), room.id) != list.end()) list.push_back(next.id);
      };
      for (WindowRule& w : p.windowRules) join(w.rooms);
      for (ShadeRule& s : p.shadeRules) join(s.rooms);
      copied.emplace_back(room.id, next.id);
      for (SensorGroup& g : p.groups)
        if (auto* grid = std::get_if<RoomGrid>(&g.layout)) join(grid->rooms);
      const std::size_t n = p.assignments.size();
      for (std::size_t k = 0; k < n; ++k)
        if (Assignment a = p.assignments[k]; a.element && a.element->value == room.id.value) {
          a.element = ElementId{next.id.value};
          p.assignments.push_back(std::move(a));
        }
      p.rooms.push_back(std::move(next));
    }
  }
  shadeCopies(before, p, copied);
  return p;
}

Project withRow(Project p, const std::vector<ElementId>& ids, int copies, Vec3 step, std::vector<ElementId>* made) {
  for (int k = 1; k <= copies; ++k) p = withCopies(std::move(p), ids, step * double(k), made);
  return p;
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
      r.height = std::max(0.5, std::min(r.height, m.base + m.height - r.floor));
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
