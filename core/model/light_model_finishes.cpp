// Which finish or glazing a surface has, and the list of all surfaces that may be given one.

#include "core/model/light_model.h"
#include "core/model/rooms/room_form.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

const char* defaultFinish(Role role) {
  switch (role) {
  case Role::Wall:
  case Role::Partition:
    return "Wall, standard";
  case Role::Ceiling:
    return "Ceiling, standard";
  case Role::Floor:
    return "Floor, standard";
  case Role::Ground:
    return "Ground, standard";
  case Role::Glazing:
    return "Low-emissivity double";
  case Role::Planting:
    return "Foliage";
  case Role::Building:
  case Role::Neighbour:
  case Role::Roof:
  case Role::Shading:
  case Role::Ignore:
    return "Facade, standard";
  }
  return "";
}

bool fits(const Assignment& a, const SurfaceQuestion& q) {
  return (!a.element || a.element->value == q.element) && (!a.face || a.face == q.face) &&
         (a.layer.empty() || a.layer == q.layer) && (a.type.empty() || a.type == q.type) &&
         (!a.facing || a.facing == q.facing) && (!a.role || *a.role == q.role);
}

SurfaceAnswer finishFor(const Project& p, const SurfaceQuestion& q) {
  int best = -1;
  SurfaceAnswer answer{defaultFinish(q.role), true};
  if (!q.own.empty()) {
    best = 50;
    answer = {q.own, false};
  }
  for (const Assignment& a : p.assignments) {
    if (!fits(a, q)) continue;
    if (!a.role && (q.role == Role::Glazing) != (findGlazing(p.glazings, a.finish) != nullptr))
      continue; // paint does not go on glass
    const int rank = a.face && a.element ? 60
                     : a.element         ? 50
                     : !a.type.empty()   ? 40
                     : !a.layer.empty()  ? 30
                     : a.facing          ? 20
                     : a.role            ? 10
                                         : 0;
    if (rank >= best) {
      best = rank;
      answer = {a.finish, false};
    }
  }
  return answer;
}

std::vector<SurfaceEntry> surfaces(const Project& p) {
  std::vector<SurfaceEntry> out;
  for (const ElementPtr& e : p.elements) {
    if (!e->counted || e->role == Role::Ignore) continue;
    const auto mesh = elementMesh(*e);
    out.push_back({{e->role, e->id.value, {}, e->layer, {}, e->finish, {}},
                   e->name.empty() ? e->id.text() : e->name,
                   mesh ? surfaceArea(**mesh) : 0});
  }
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    if (checkOutline(room.outline).fault != OutlineFault::None) continue;
    const auto put = [&](Role role, std::optional<Facing> facing, std::uint32_t face, const std::string& part,
                         double area) {
      out.push_back({{role, room.id.value, face, "", "", "", facing}, room.name + ": " + part, area});
    };
    put(Role::Floor, {}, baseFace, "floor", area(room.outline));
    const RoomForm form = roomForm(p, room);
    put(Role::Ceiling, {}, roofFace, "ceiling", form.level ? area(room.outline) : form.ceilingArea());
    const auto outer = outerEdges(p, r);
    const Ring& ring = room.outline.outer;
    for (std::size_t i = 0; i < ring.size(); ++i) {
      const Vec2 d = ring[(i + 1) % ring.size()] - ring[i];
      const auto facing = facingOf({d.y, -d.x, 0}, p.site.northAngle);
      put(outer[i] ? Role::Wall : Role::Partition, facing, firstWallFace + std::uint32_t(i),
          fmt::format("{} wall", facing ? facingKey(*facing) : "a"),
          form.level ? length(d) * room.height : form.wallArea(ring[i], ring[(i + 1) % ring.size()]));
    }
  }
  for (const PlacedOpening& o : placedOpenings(p).openings)
    out.push_back({{Role::Glazing, o.opening.id.value, {}, "", o.opening.type, o.opening.glazing, o.facing},
                   fmt::format("{}: {}", p.rooms[o.room].name, o.opening.name),
                   o.area()});
  for (const ShadeRule& s : p.shadeRules)
    out.push_back({{Role::Shading, s.id.value, {}, "", "", s.finish, {}}, s.name.empty() ? "shade" : s.name, 0});
  return out;
}

std::vector<std::pair<std::string, std::string>> notFollowing(const Project& p, const Assignment& a) {
  std::vector<std::pair<std::string, std::string>> out;
  const bool isGlass = findGlazing(p.glazings, a.finish) != nullptr;
  for (const SurfaceEntry& s : surfaces(p)) {
    if (!fits(a, s.question) || (s.question.role == Role::Glazing) != isGlass) continue;
    if (const SurfaceAnswer is = finishFor(p, s.question); is.name != a.finish) out.emplace_back(s.name, is.name);
  }
  return out;
}

} // namespace noonward
