#include "picture/opened_rooms.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <cmath>

namespace noonward {

std::optional<double> lowestFloor(const Project& p) {
  std::optional<double> low;
  for (const Room& r : p.rooms) low = std::min(low.value_or(r.floor), r.floor);
  return low;
}

std::vector<double> storeys(const Project& p) {
  std::vector<double> floors, out;
  for (const Room& r : p.rooms) floors.push_back(r.floor);
  std::sort(floors.begin(), floors.end());
  for (double f : floors)
    if (out.empty() || f - out.back() >= 0.5) out.push_back(f);
  return out;
}

double storeyNear(const Project& p, std::optional<double> wanted) {
  const std::vector<double> all = storeys(p);
  if (all.empty()) return 0;
  if (!wanted) return all.front();
  return *std::min_element(all.begin(), all.end(),
                           [&](double a, double b) { return std::abs(a - *wanted) < std::abs(b - *wanted); });
}

Project openedRooms(const Project& p, double wanted, double cut) {
  if (p.rooms.empty()) return p;
  double floor = p.rooms.front().floor;
  for (const Room& r : p.rooms)
    if (std::abs(r.floor - wanted) < std::abs(floor - wanted)) floor = r.floor;
  Project out = p;
  out.elements.clear();
  const OpeningLayout laid = placedOpenings(p);
  const auto onStorey = [&](const Room& r) { return std::abs(r.floor - floor) < 0.5; };
  std::vector<bool> hosted(p.rooms.size(), false);
  // Walls between `low` and `high` with gaps where openings reach through.
  const auto walls = [&](const Element& like, const Outline& outline, const std::vector<Ring>& rooms, double low,
                         double high, std::uint64_t salt) {
    std::vector<Ring> cuts = rooms;
    for (const PlacedOpening& o : laid.openings) {
      const Room& r = p.rooms[o.room];
      if (!onStorey(r) || o.opening.edge < 0 || r.floor + o.opening.sill > low + 1e-6 ||
          r.floor + o.opening.sill + o.opening.height < high - 1e-6)
        continue;
      const auto in = o.corners(r.floor, r.floor + r.height, -0.01),
                 outer = o.corners(r.floor, r.floor + r.height, o.depth + 0.01);
      cuts.push_back({xy(in[0]), xy(in[1]), xy(outer[1]), xy(outer[0])});
    }
    std::uint64_t n = 0;
    for (Outline& piece : difference(outline, cuts)) {
      if (checkOutline(piece).fault != OutlineFault::None || high - low < 0.01) continue;
      Element e = like;
      if (n + salt > 0) e.id = {derivedId(like.id.text() + "/opened/" + std::to_string(salt * 1000 + n))};
      ++n;
      e.shape = Mass{std::move(piece), low, high - low, 1};
      out.elements.push_back(std::make_shared<const Element>(std::move(e)));
    }
  };
  const auto stand = [&](const Element& like, const Outline& outline, const std::vector<Ring>& rooms, double base) {
    double sill = cut; // the lowest sill above the floor; below it walls are whole
    for (const PlacedOpening& o : laid.openings)
      if (onStorey(p.rooms[o.room]) && o.opening.edge >= 0) sill = std::min(sill, o.opening.sill);
    walls(like, outline, rooms, base, floor + sill, 0);
    walls(like, outline, rooms, floor + sill, floor + cut, 1);
  };
  for (const ElementPtr& e : p.elements) {
    if (e->imported() && (!e->counted || e->role == Role::Ignore))
      continue; // ghosts and furniture would hide what lies in the rooms
    const Mass* m = e->mass();
    std::vector<Ring> inside;
    for (std::size_t r = 0; m && r < p.rooms.size(); ++r)
      if (onStorey(p.rooms[r]) && p.rooms[r].floor >= m->base - 0.5 && p.rooms[r].floor < m->top() - 0.01 &&
          contains(m->outline, centroid(p.rooms[r].outline))) {
        inside.push_back(p.rooms[r].outline.outer);
        hosted[r] = true;
      }
    if (inside.empty() && m && m->base + m->height > floor + cut) {
      // What stands around is cut at the same height, so that nothing stands before the rooms.
      Element low = *e;
      std::get<Mass>(low.shape).height = floor + cut - m->base;
      std::get<Mass>(low.shape).storeys = 1;
      std::get<Mass>(low.shape).roof = {};
      if (m->base < floor + cut - 0.01) out.elements.push_back(std::make_shared<const Element>(std::move(low)));
    } else if (inside.empty())
      out.elements.push_back(e);
    else
      stand(*e, m->outline, inside, m->base);
  }
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    if (hosted[r] || !onStorey(room) || checkOutline(room.outline).fault != OutlineFault::None) continue;
    Element e;
    e.id = {room.id.value};
    e.name = room.name;
    e.role = Role::Wall;
    for (const Outline& around : offset(room.outline, std::max(0.05, room.wall)))
      stand(e, around, {room.outline.outer}, room.floor);
  }
  for (const Room& room : p.rooms) { // the sun on a floor lies on the floor
    if (!onStorey(room) || checkOutline(room.outline).fault != OutlineFault::None) continue;
    const auto t = triangulate(tidied(room.outline));
    if (!t) continue;
    auto mesh = std::make_shared<Mesh>();
    for (Vec2 q : points(tidied(room.outline))) mesh->points.push_back({q.x, q.y, room.floor});
    for (const auto& k : *t) mesh->triangles.push_back({k[0], k[1], k[2]});
    mesh->face.assign(mesh->triangles.size(), baseFace);
    Element e;
    e.id = {derivedId(room.id.text() + "/opened/floor")};
    e.name = room.name;
    e.role = Role::Floor;
    if (const ElementPtr host = hostOf(p, room)) {
      e.proposed = host->proposed;
      e.hidden = host->hidden;
    }
    Imported shape;
    shape.mesh = std::move(mesh);
    e.shape = std::move(shape);
    out.elements.push_back(std::make_shared<const Element>(std::move(e)));
  }
  return out;
}

} // namespace noonward
