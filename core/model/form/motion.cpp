#include "core/model/form/motion.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include <algorithm>
#include <cmath>

namespace noonward {

Vec2 Motion::direction(Vec2 d) const {
  if (mirrored) d.y = -d.y;
  const double c = std::cos(turn), s = std::sin(turn);
  return {d.x * c - d.y * s, d.x * s + d.y * c};
}

Motion mirrorIn(Vec2 a, Vec2 b) {
  Motion m;
  m.about = a;
  m.turn = 2 * std::atan2(b.y - a.y, b.x - a.x);
  m.mirrored = true;
  return m;
}

void moveRing(Ring& ring, const Motion& by) {
  for (Vec2& p : ring) p = by(p);
  if (by.mirrored && ring.size() > 1) std::reverse(ring.begin() + 1, ring.end()); // the first stays the first
}

std::size_t wallAfter(std::size_t k, std::size_t walls, const Motion& by) {
  return by.mirrored && walls > 0 ? walls - 1 - k : k;
}

namespace {
/// A rooflight lies square to the drawing: its middle goes along, and by quarter turns its sides change places.
void moveRooflight(Opening& o, const Motion& by) {
  const double whole = o.width * o.repeat + std::max(0.0, o.gap) * (o.repeat - 1);
  const Vec2 middle = by({o.along + whole / 2, o.sill + o.height / 2});
  if (o.repeat == 1 && std::abs(std::sin(by.turn)) > std::abs(std::cos(by.turn))) std::swap(o.width, o.height);
  o.along = middle.x - (o.repeat == 1 ? o.width : whole) / 2;
  o.sill = middle.y - o.height / 2;
}

Facing facingAfter(Facing f, const Motion& by, double northAngle) {
  if (!by.mirrored) {
    const int quarters = int(std::lround(by.turn / (pi / 2))) % 4; // counter-clockwise
    return allFacings[std::size_t(((int(f) - quarters) % 4 + 4) % 4)];
  }
  const double azimuth = int(f) * (pi / 2) - northAngle;
  const Vec2 d = by.direction({std::sin(azimuth), std::cos(azimuth)});
  return facingOf({d.x, d.y, 0}, northAngle).value_or(f);
}

void turnRaised(WindowRule& w, const Motion& by, double northAngle) {
  if (w.ceiling) w.raised.toward = facingAfter(w.raised.toward, by, northAngle);
}
void turnRaised(ShadeRule&, const Motion&, double) {}

bool leansToASide(const ShadeRule& s) {
  return (s.kind == ShadeRule::Kind::Fins && (s.sides != ShadeRule::Sides::Spread || s.angle != 0)) ||
         (s.kind == ShadeRule::Kind::UprightLouvres && s.angle != 0);
}
bool leansToASide(const WindowRule&) {
  return false;
}
void otherHand(ShadeRule& s) {
  if (!leansToASide(s)) return;
  s.angle = -s.angle;
  if (s.sides != ShadeRule::Sides::Spread)
    s.sides = s.sides == ShadeRule::Sides::Left ? ShadeRule::Sides::Right : ShadeRule::Sides::Left;
}
void otherHand(WindowRule&) {}
} // namespace

void moveRoom(Project& p, Room& room, const Motion& by) {
  const Ring was = room.outline.outer;
  moveRing(room.outline.outer, by);
  for (Ring& h : room.outline.holes) moveRing(h, by);
  room.floor += by.lift;
  if (by.mirrored)
    for (HeatSurface& s : p.heat.surfaces)
      if (s.room == room.id && s.edge >= 0 && s.edge < int(was.size()))
        s.edge = int(wallAfter(std::size_t(s.edge), was.size(), by));
  for (Opening& o : p.openings) {
    if (o.room != room.id) continue;
    if (o.edge < 0) {
      moveRooflight(o, by);
      o.raised.toward = facingAfter(o.raised.toward, by, p.site.northAngle);
    } else if (by.mirrored && o.edge < int(was.size())) {
      const auto k = std::size_t(o.edge);
      const double l = length(was[(k + 1) % was.size()] - was[k]);
      const double whole = o.width * o.repeat + std::max(0.0, o.gap) * (o.repeat - 1);
      o.edge = int(wallAfter(k, was.size(), by));
      o.along = l - o.along - whole;
    }
  }
}

void moveRules(Project& p, const std::vector<RoomId>& rooms, const Motion& by) {
  if (rooms.empty()) return;
  const auto turns = [&](RoomId id) { return std::find(rooms.begin(), rooms.end(), id) != rooms.end(); };
  const auto turnThose = [&](auto& list, const auto& upright) {
    std::remove_reference_t<decltype(list)> more;
    for (auto& rule : list) {
      if (!upright(rule)) continue;
      auto own = rule;
      for (Facing& f : own.facings) f = facingAfter(f, by, p.site.northAngle);
      if (by.mirrored) otherHand(own);
      turnRaised(own, by, p.site.northAngle);
      if (own == rule && !(by.mirrored && leansToASide(rule))) continue;
      std::vector<RoomId> those, others;
      for (const Room& r : p.rooms)
        if (rule.rooms.empty() || std::find(rule.rooms.begin(), rule.rooms.end(), r.id) != rule.rooms.end())
          (turns(r.id) ? those : others).push_back(r.id);
      if (those.empty()) continue;
      if (others.empty()) {
        own.rooms = rule.rooms;
        rule = std::move(own);
        continue;
      }
      own.id = RuleId::fresh();
      own.rooms = those;
      rule.rooms = others;
      more.push_back(std::move(own));
    }
    list.insert(list.end(), more.begin(), more.end());
  };
  turnThose(p.windowRules, [](const WindowRule& w) { return !w.ceiling || w.raised.kind != Raised::Kind::Flat; });
  turnThose(p.shadeRules, [](const ShadeRule& s) { return !s.rooflights && s.windows.empty(); });
}

void shadeMatched(const Project& before, Project& p, const std::vector<std::pair<RoomId, RoomId>>& pairs,
                  const Motion& by) {
  if (std::all_of(p.shadeRules.begin(), p.shadeRules.end(), [](const ShadeRule& s) { return s.windows.empty(); }))
    return;
  const auto middleOf = [](const Project& of, const PlacedOpening& o) {
    const Room& room = of.rooms[o.room];
    const auto c = o.corners(room.floor, room.floor + room.height, 0);
    return (c[0] + c[2]) * 0.5;
  };
  std::vector<std::pair<OpeningId, OpeningId>> same;
  const OpeningLayout was = placedOpenings(before), is = placedOpenings(p);
  for (const PlacedOpening& o : was.openings)
    for (const auto& [from, to] : pairs) {
      if (before.rooms[o.room].id != from) continue;
      const Vec3 m = middleOf(before, o);
      const Vec2 at = by(xy(m));
      for (const PlacedOpening& n : is.openings)
        if (p.rooms[n.room].id == to)
          if (length(middleOf(p, n) - Vec3{at.x, at.y, m.z + by.lift}) < 0.01)
            same.emplace_back(o.opening.id, n.opening.id);
    }
  const bool copied = std::any_of(pairs.begin(), pairs.end(), [](const auto& x) { return x.first != x.second; });
  std::vector<ShadeRule> more;
  for (ShadeRule& s : p.shadeRules) {
    if (s.windows.empty()) continue;
    const std::vector<OpeningId> were = s.windows;
    ShadeRule own = s; // fins of mirrored windows stand at the other side
    own.windows.clear();
    std::vector<OpeningId>& into = by.mirrored && leansToASide(s) ? own.windows : s.windows;
    const auto became = [&](OpeningId id) {
      return std::find_if(same.begin(), same.end(), [&](const auto& x) { return x.first == id; });
    };
    if (!copied) std::erase_if(s.windows, [&](OpeningId id) { return became(id) != same.end(); });
    for (OpeningId id : were)
      if (const auto to = became(id); to != same.end() && std::find(into.begin(), into.end(), to->second) == into.end())
        into.push_back(to->second);
    if (own.windows.empty()) continue;
    otherHand(own);
    if (s.windows.empty()) {
      s = std::move(own);
      continue;
    }
    own.id = RuleId::fresh();
    more.push_back(std::move(own));
  }
  p.shadeRules.insert(p.shadeRules.end(), more.begin(), more.end());
}

void moveAttached(const Project& before, Project& after, const Element& host, const Motion& by,
                  const std::vector<ElementId>& ids) {
  const Box3 box = boxOf(host);
  const auto mass = host.mass();
  const auto touches = [&](Vec3 q, double reach) {
    if (q.z < box.low.z - reach || q.z > box.high.z + reach) return false;
    if (mass) return contains(mass->outline, xy(q)) || distanceToEdge(mass->outline, xy(q)) <= reach;
    return q.x > box.low.x - reach && q.x < box.high.x + reach && q.y > box.low.y - reach && q.y < box.high.y + reach;
  };
  for (SensorGroup& g : after.groups)
    if (auto* list = std::get_if<std::vector<PointSensor>>(&g.layout))
      for (PointSensor& x : *list) {
        if (!finite(x.position) || !touches(x.position, 0.1)) continue;
        const Vec2 to = by(xy(x.position)), n = by.direction(xy(x.normal));
        x.position = {to.x, to.y, x.position.z + by.lift};
        x.normal = {n.x, n.y, x.normal.z};
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
    auto& moved = std::get<Plate>(copy->shape).corners;
    for (Vec3& q : moved) {
      const Vec2 to = by(xy(q));
      q = {to.x, to.y, q.z + by.lift};
    }
    if (by.mirrored) std::reverse(moved.begin() + 1, moved.end());
    e = std::move(copy);
  }
}

} // namespace noonward
