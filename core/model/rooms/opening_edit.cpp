#include "core/model/rooms/opening_edit.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
struct Stretch {
  Vec2 a, b;
  double length = 0;
  Vec2 along() const { return length > 0 ? (b - a) * (1 / length) : Vec2{1, 0}; }
};
std::optional<Stretch> stretchOf(const Project& p, WallRef w) {
  const Room* room = p.room(w.room);
  if (!room || w.edge < 0 || w.edge >= int(room->outline.outer.size())) return {};
  const Ring& r = room->outline.outer;
  const auto k = std::size_t(w.edge);
  Stretch s{r[k], r[(k + 1) % r.size()]};
  s.length = length(s.b - s.a);
  return s;
}
std::size_t indexOf(const Project& p, RoomId id) {
  return std::size_t(std::find_if(p.rooms.begin(), p.rooms.end(), [&](const Room& r) { return r.id == id; }) -
                     p.rooms.begin());
}
double wholeOf(const Opening& o) {
  return o.width * o.repeat + std::max(0.0, o.gap) * (o.repeat - 1);
}
/// Does another drawn window of the wall stand where this one would?
bool taken(const Project& p, const Opening& o) {
  return std::any_of(p.openings.begin(), p.openings.end(), [&](const Opening& x) {
    return x.room == o.room && x.edge == o.edge && x.along < o.along + wholeOf(o) - 1e-6 &&
           o.along < x.along + wholeOf(x) - 1e-6 && x.sill < o.sill + o.height - 1e-6 &&
           o.sill < x.sill + x.height - 1e-6;
  });
}
} // namespace

Project withWindowsOfWall(const Project& project, WallRef from, WallRef to, int* missed) {
  Project p = project;
  const auto target = stretchOf(p, to);
  const Room* room = p.room(to.room);
  if (!target || !room || from == to) return p;
  for (const Opening& o : project.openings) {
    if (o.room != from.room || o.edge != from.edge) continue;
    Opening n = o;
    n.id = OpeningId::fresh();
    n.room = to.room;
    n.edge = to.edge;
    while (n.repeat > 1 && n.along + wholeOf(n) > target->length) --n.repeat; // as many of a row as there is room for
    if (missed) *missed += o.repeat - n.repeat;
    if (n.along + wholeOf(n) > target->length + 1e-6 || n.sill + n.height > room->height + 1e-6 || taken(p, n)) {
      if (missed) *missed += n.repeat;
      continue;
    }
    p.openings.push_back(std::move(n));
  }
  return p;
}

std::optional<WallRef> wallBeside(const Project& p, WallRef w, bool right) {
  const std::size_t r = indexOf(p, w.room);
  if (r >= p.rooms.size()) return {};
  const std::vector<bool> outer = outerEdges(p, r);
  const int n = int(outer.size());
  // Rings run counter-clockwise: seen from outside the next edge is to the right.
  for (int k = 1; k < n; ++k) {
    const int edge = ((w.edge + (right ? k : -k)) % n + n) % n;
    if (outer[std::size_t(edge)]) return WallRef{w.room, edge};
  }
  return {};
}

std::vector<WallRef> wallsInLine(const Project& p, WallRef w, bool aboveAlone) {
  const auto own = stretchOf(p, w);
  const Room* room = p.room(w.room);
  if (!own || !room) return {};
  std::vector<std::pair<double, WallRef>> found;
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& other = p.rooms[r];
    if (std::abs(other.floor - room->floor) < 0.5 || (aboveAlone && other.floor < room->floor)) continue;
    const std::vector<bool> outer = outerEdges(p, r);
    for (int e = 0; e < int(outer.size()); ++e) {
      const auto s = stretchOf(p, {other.id, e});
      if (!outer[std::size_t(e)] || !(s->length > 0) || dot(s->along(), own->along()) < 0.999) continue;
      const double off = std::abs(cross(own->along(), s->a - own->a)), begin = dot(s->a - own->a, own->along()),
                   end = begin + s->length;
      if (off < 0.5 && std::min(end, own->length) - std::max(begin, 0.0) > 0.5 * std::min(s->length, own->length))
        found.push_back({other.floor, {other.id, e}});
    }
  }
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<WallRef> out;
  for (const auto& [floor, wall] : found)
    if (!aboveAlone || floor < found.front().first + 0.5) out.push_back(wall);
  return out;
}

Project withTypeAsOne(Project p, OpeningId id) {
  const auto like = std::find_if(p.openings.begin(), p.openings.end(), [&](const Opening& o) { return o.id == id; });
  if (like == p.openings.end() || like->type.empty()) return p;
  const Opening one = *like;
  for (Opening& o : p.openings) {
    if (o.type != one.type || o.id == id || (o.edge < 0) != (one.edge < 0)) continue;
    const double middle = o.along + o.width / 2;
    if (o.repeat == 1) o.along = middle - one.width / 2; // single ones stay about their middle
    o.width = one.width;
    o.height = one.height;
    if (o.edge >= 0) o.sill = one.sill;
    o.glazing = one.glazing;
    o.frame = one.frame;
    o.paneAt = one.paneAt;
  }
  return p;
}

Expected<Project> withCornerWindow(const Project& project, OpeningId id, bool right) {
  Project p = project;
  const auto at = std::find_if(p.openings.begin(), p.openings.end(), [&](const Opening& o) { return o.id == id; });
  if (at == p.openings.end() || at->edge < 0) return fail("Choose a window in a wall first.");
  const WallRef own{at->room, at->edge};
  const auto wall = stretchOf(p, own);
  const std::size_t r = indexOf(p, at->room);
  if (!wall || r >= p.rooms.size()) return fail("The wall of this window is gone.");
  const std::vector<bool> outer = outerEdges(p, r);
  const int n = int(outer.size()), edge = ((at->edge + (right ? 1 : -1)) % n + n) % n;
  const auto beside = stretchOf(p, {at->room, edge});
  if (!outer[std::size_t(edge)] || !(beside->length > 0.1)) return fail("The wall round that corner is not outdoors.");
  const double turn = right ? cross(wall->along(), beside->along()) : cross(beside->along(), wall->along());
  if (turn < 0.5) return fail("That corner turns inward, or hardly turns: no window goes round it.");
  at->repeat = 1;
  at->width = std::min(at->width, wall->length);
  at->along = right ? wall->length - at->width : 0;
  Opening twin = *at;
  twin.id = OpeningId::fresh();
  twin.name = at->name + ", round the corner";
  twin.edge = edge;
  twin.width = std::min(at->width, beside->length);
  twin.along = right ? 0 : beside->length - twin.width;
  p.openings.push_back(std::move(twin));
  return p;
}

Expected<Project> withDoor(const Project& p, RoomId id, OpeningId* made) {
  const std::size_t r = indexOf(p, id);
  if (r >= p.rooms.size()) return fail("There is no room yet to put a door into.");
  const std::vector<bool> outer = outerEdges(p, r);
  Opening door;
  door.id = OpeningId::fresh();
  door.name = "Door";
  door.type = "door";
  door.room = id;
  door.sill = 0;
  door.width = 0.9;
  door.height = std::min(2.1, p.rooms[r].height - 0.02);
  door.frame = 0.4;
  const OpeningLayout laid = placedOpenings(p);
  for (int e = 0; e < int(outer.size()); ++e) {
    if (!outer[std::size_t(e)]) continue;
    const double l = stretchOf(p, {id, e})->length;
    door.edge = e;
    for (door.along = 0.2; door.along + door.width + 0.2 <= l; door.along += 0.1) {
      const bool free = std::none_of(laid.openings.begin(), laid.openings.end(), [&](const PlacedOpening& o) {
        const Opening& x = o.opening;
        return o.room == r && x.edge == e && x.along < door.along + door.width && door.along < x.along + x.width &&
               x.sill < door.height;
      });
      if (!free) continue;
      Project out = p;
      if (made) *made = door.id;
      out.openings.push_back(door);
      return out;
    }
  }
  return fail(fmt::format("No outer wall of \"{}\" has 0.9 m free for a door.", p.rooms[r].name));
}

Expected<Project> withRoomsForWindows(const Project& p, ElementId id) {
  const ElementPtr e = p.element(id);
  constexpr std::size_t most = 100'000; // faces
  const bool solid = e && e->imported() && e->imported()->mesh && e->imported()->mesh->triangles.size() <= most &&
                     (e->role == Role::Building || e->role == Role::Neighbour);
  if (!e || (!e->mass() && !solid))
    return fail("Select a drawn mass or an imported building for its windows; of other imports, rooms are traced or "
                "drawn.");
  for (const Room& r : p.rooms)
    if (hostOf(p, r) == e) return fail(fmt::format("\"{}\" has rooms already: their walls take windows.", e->name));
  Project out = p;
  for (Room& r : solid ? roomsOfImport(p, id.value, 0.35, 0.4) : roomsOfMass(p, id.value, 0.35, 0.4)) {
    r.counted = false;
    r.reason = "early mass: for windows alone";
    out.rooms.push_back(std::move(r));
  }
  if (out.rooms.size() == p.rooms.size())
    return fail(fmt::format("\"{}\" is too small to have rooms behind its walls.", e->name));
  return out;
}

} // namespace noonward
