#include "core/studies/energy/envelope.h"
#include "core/geometry/polygon.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {

constexpr double slab = 0.8;      ///< m: so far apart a ceiling and the floor above still belong together
constexpr double roofDepth = 1.2; ///< m, of a roof over the ceiling
constexpr double onGround = 0.5;  ///< m above the ground

/// m² of the outline that none of the others covers.
double uncovered(const Outline& outline, const std::vector<Outline>& others) {
  std::vector<Ring> cuts;
  for (const Outline& o : others.empty() ? std::vector<Outline>{} : united(others)) cuts.push_back(o.outer);
  double left = 0;
  for (const Outline& o : difference(outline, cuts)) left += area(o);
  return left;
}

} // namespace

std::vector<RoomEnvelope> roomEnvelopes(const Project& p) {
  std::vector<RoomEnvelope> out;
  const OpeningLayout laid = placedOpenings(p);
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    RoomEnvelope e;
    e.room = room.id;
    if (checkOutline(room.outline).fault != OutlineFault::None) {
      out.push_back(e);
      continue;
    }
    e.floorArea = area(room.outline);
    e.volume = e.floorArea * room.height;
    const auto outer = outerEdges(p, r);
    for (std::size_t k = 0; k < outer.size(); ++k)
      if (outer[k]) e.wall += length(room.outline.outer[(k + 1) % outer.size()] - room.outline.outer[k]) * room.height;
    double above = 0;
    for (const PlacedOpening& o : laid.openings)
      if (o.room == r && o.opening.room == room.id) {
        e.openings += o.area();
        if (o.opening.edge < 0)
          above += o.area();
        else
          e.wall -= o.area();
      }
    e.wall = std::max(0.0, e.wall);
    const double ceiling = room.floor + room.height;
    std::vector<Outline> over, under;
    for (const Room& o : p.rooms) {
      if (o.id == room.id || checkOutline(o.outline).fault != OutlineFault::None) continue;
      if (o.floor > room.floor && std::abs(o.floor - ceiling) <= slab) over.push_back(o.outline);
      if (o.floor < room.floor && std::abs(o.floor + o.height - room.floor) <= slab) under.push_back(o.outline);
    }
    const ElementPtr host = shelterOf(p, room);
    const Mass* mass = host ? host->mass() : nullptr;
    const double top = mass ? mass->base + mass->height : ceiling, base = mass ? mass->base : room.floor;
    if (top <= ceiling + roofDepth) e.roof = std::max(0.0, uncovered(room.outline, over) - above);
    const double bare = uncovered(room.outline, under);
    if (room.floor <= p.site.groundLevel + onGround)
      e.ground = bare;
    else if (base >= room.floor - roofDepth)
      e.exposedFloor = bare;
    out.push_back(e);
  }
  return out;
}

} // namespace noonward
