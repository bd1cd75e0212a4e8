// What rooms are: their figures, their faults, and those that a mass makes.

#include "core/geometry/plan_cut.h"
#include "core/model/light_model.h"
#include "core/model/project.h"
#include "core/model/rooms/room_form.h"
#include "core/model/rooms/walls.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

std::vector<RoomFacts> roomFacts(const Project& p) {
  const OpeningLayout laid = placedOpenings(p);
  std::vector<RoomFacts> out;
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    RoomFacts f;
    f.id = room.id;
    f.name = room.name;
    f.use = room.use;
    f.counted = room.counted;
    f.reason = room.reason;
    f.area = area(room.outline);
    const RoomForm form = roomForm(p, room);
    f.height = form.level ? room.height : form.top - form.floor;
    f.volume = form.level ? f.area * room.height : form.volume();
    if (checkOutline(room.outline).fault == OutlineFault::None) {
      const auto outer = outerEdges(p, r);
      for (std::size_t i = 0; i < outer.size(); ++i)
        if (outer[i]) {
          const RoomEdge e = edgeOf(room, i);
          f.exposedArea += form.level ? e.length * room.height : form.wallArea(e.a, e.b);
        }
    }
    for (const PlacedOpening& o : laid.openings) {
      if (o.room != r) continue;
      if (o.facing && !o.raised)
        f.windowArea[std::size_t(*o.facing)] += o.area();
      else
        f.rooflightArea += o.area();
    }
    out.push_back(std::move(f));
  }
  return out;
}

bool hasGrid(const Project& p, const Room& room) {
  return std::any_of(p.groups.begin(), p.groups.end(), [&](const SensorGroup& g) {
    const auto* grid = std::get_if<RoomGrid>(&g.layout);
    return grid &&
           (grid->rooms.empty() ? room.counted
                                : std::find(grid->rooms.begin(), grid->rooms.end(), room.id) != grid->rooms.end());
  });
}

Findings checkRooms(const Project& p) {
  const OpeningLayout laid = placedOpenings(p);
  Findings out = laid.findings;
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    const auto put = [&](Rank rank, const char* code, std::string text, const char* mend = "",
                         const char* mendText = "") {
      out.push_back({rank, code, std::move(text), 1, {room.id.value}, mend, mendText});
    };
    if (const OutlineCheck c = checkOutline(room.outline); c.fault != OutlineFault::None) {
      put(Rank::StopsStudy, "room.outline",
          fmt::format("The outline of the room \"{}\" {} at ({:.2f}, {:.2f}).", room.name, faultText(c.fault), c.at.x,
                      c.at.y));
      continue;
    }
    if (const ElementPtr host = shelterOf(p, room); host && host->mass()) {
      const Mass& m = *host->mass();
      const auto out1 = std::count_if(room.outline.outer.begin(), room.outline.outer.end(), [&](Vec2 q) {
        return !contains(m.outline, q) && distanceToEdge(m.outline, q) > 0.01;
      });
      if (out1 > 0 || room.floor < m.base - 0.01 || room.floor + room.height > m.top() + 0.01)
        put(Rank::BendsResult, "room.outside",
            fmt::format("\"{}\" reaches beyond \"{}\", in which it lies: its walls would stand in the open.", room.name,
                        host->name),
            "room.fit", "Cut it at the walls");
    }
    if (const RoomForm form = roomForm(p, room); !form.level) {
      double shut = 0;
      for (const CeilingPiece& c : form.ceiling)
        if (c.face == 0 && c.plane.level < room.floor + 0.1) shut += area(c.outline);
      if (shut > 0.01)
        put(Rank::WorthKnowing, "room.under-roof",
            fmt::format(
                "The roof comes down to the floor over {:.1f} m² of \"{}\": nobody stands there, and it counts as "
                "floor.",
                shut, room.name),
            "room.knee", "Cut it where the roof is 1 m high");
    }
    if (!(room.height > 0.1))
      put(Rank::StopsStudy, "room.height", fmt::format("The room \"{}\" has no height.", room.name));
    if (room.counted &&
        std::none_of(laid.openings.begin(), laid.openings.end(), [&](const PlacedOpening& o) { return o.room == r; }))
      put(Rank::BendsResult, "room.no-glazing", fmt::format("\"{}\" has no glazing: it stays dark.", room.name),
          "room.not-counted", "Don't count it: dark by intent");
    if (room.counted && !hasGrid(p, room))
      put(Rank::WorthKnowing, "room.no-grid",
          fmt::format("\"{}\" is regularly occupied, but no sensor grid lies in it.", room.name), "room.grid",
          "Lay a grid in it");
    if (!room.counted && room.reason.empty())
      put(Rank::WorthKnowing, "room.no-reason",
          fmt::format("\"{}\" is not regularly occupied, and no reason is given.", room.name));
    for (std::size_t s = 0; s < r; ++s) {
      const Room& other = p.rooms[s];
      if (checkOutline(other.outline).fault == OutlineFault::None && standBeside(room, other) &&
          (contains(other.outline, centroid(room.outline)) || contains(room.outline, centroid(other.outline))) &&
          contains(room.outline, centroid(room.outline))) {
        put(Rank::BendsResult, "room.overlap",
            fmt::format("\"{}\" and \"{}\" lie over each other.", room.name, other.name), "room.overlap",
            "Cut the smaller out of the larger");
        out.back().elements.push_back(other.id.value);
      }
    }
  }
  return out;
}

std::vector<Room> roomsOfMass(const Project& p, std::uint64_t mass, double wall, double slab) {
  std::vector<Room> out;
  const ElementPtr e = p.element({mass});
  if (!e || !e->mass()) return out;
  const Mass& m = *e->mass();
  const double storey = m.height / std::max(1, m.storeys);
  for (int k = 0; k < m.storeys; ++k) {
    const std::vector<Outline> inner = offset(m.outline, -wall);
    for (std::size_t i = 0; i < inner.size(); ++i) {
      Room r;
      r.id = RoomId::fresh();
      r.name = m.storeys > 1 ? fmt::format("{}, storey {}", e->name, k + 1) : e->name;
      if (inner.size() > 1) r.name += fmt::format(" {}", char('a' + i));
      r.outline = tidied(inner[i]);
      r.floor = m.base + k * storey;
      r.height = std::max(0.5, storey - slab);
      r.wall = wall;
      out.push_back(std::move(r));
    }
  }
  constexpr double knee = 1, headroom = 2.2; // m
  const std::vector<Outline> attics = underRoof(p, mass, wall, knee, headroom);
  for (std::size_t i = 0; i < attics.size(); ++i) {
    Room r;
    r.id = RoomId::fresh();
    r.name = e->name + ", attic";
    if (attics.size() > 1) r.name += fmt::format(" {}", char('a' + i));
    r.outline = attics[i];
    r.floor = m.base + m.height;
    r.height = m.roof.top(); // its ceiling is the roof's underside
    r.wall = wall;
    out.push_back(std::move(r));
  }
  return out;
}

std::vector<Room> roomsOfImport(const Project& p, std::uint64_t id, double wall, double slab) {
  constexpr double storey = 3, sliver = 1; // m, m²
  std::vector<Room> out;
  const ElementPtr e = p.element({id});
  if (!e || !e->imported()) return out;
  const auto mesh = elementMesh(*e);
  if (!mesh) return out;
  const Box3 box = (*mesh)->box();
  const double height = box.high.z - box.low.z;
  if (!(height > 0.5)) return out;
  const int n = std::max(1, int(std::lround(height / storey)));
  std::vector<double> levels;
  for (int k = 0; k < n; ++k) levels.push_back(box.low.z + (k + 0.5) * height / n);
  std::vector<std::vector<CutLine>> cuts(levels.size());
  cutAt(**mesh, levels, cuts);
  for (int k = 0; k < n; ++k) {
    const auto regions = regionsBetween(joined(cuts[std::size_t(k)], 0.005), 0.01);
    const auto whole = regions ? unionOf(*regions) : regions;
    if (!whole) continue;
    int part = 0;
    for (const Outline& around : *whole)
      for (const Outline& inner : offset(around, -wall)) {
        if (area(inner) < sliver) continue;
        Room r;
        r.id = RoomId::fresh();
        r.name = n > 1 ? fmt::format("{}, storey {}", e->name, k + 1) : e->name;
        if (part++ > 0) r.name += fmt::format(" {}", char('a' + std::min(part - 1, 25)));
        r.outline = tidied(straightened(inner));
        r.floor = box.low.z + k * height / n;
        r.height = std::max(0.5, height / n - slab);
        r.wall = wall;
        out.push_back(std::move(r));
      }
  }
  return out;
}

} // namespace noonward
