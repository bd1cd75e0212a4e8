#include "core/model/rooms/room_form.h"
#include "core/base/tolerances.h"
#include "core/model/project.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace noonward {

namespace {

constexpr double leastClear = 0.02; // m, of a ceiling above the floor: where the roof comes down to it
constexpr double inFrom = 2e-3;     // m, from a wall into the room, where its ceiling is looked up

struct Slope {
  std::uint32_t face = 0;
  std::vector<Outline> plan;
  SlopePlane outside;
  double upright = 1; ///< m up through a layer 1 m thick
};

/// The sloping faces of a roof, seen from above.
std::vector<Slope> slopesOf(const Mass& mass) {
  const auto mesh = meshOf(mass);
  if (!mesh) return {};
  const Mesh& m = **mesh;
  struct Gathered {
    std::vector<Outline> triangles;
    Vec3 normal; ///< twice the area long
    Vec3 at;
    double largest = 0;
  };
  std::map<std::uint32_t, Gathered> faces;
  for (std::size_t t = 0; t < m.triangles.size(); ++t) {
    const Vec3 n = m.areaVector(t);
    if (!(n.z > 1e-9)) continue; // walls, gable ends and the base
    Gathered& g = faces[m.faceOf(t)];
    const Triangle& k = m.triangles[t];
    g.triangles.push_back({{xy(m.points[k[0]]), xy(m.points[k[1]]), xy(m.points[k[2]])}, {}});
    if (n.z > g.largest) {
      g.largest = n.z;
      g.normal = n;
      g.at = m.points[k[0]];
    }
  }
  std::vector<Slope> out;
  for (auto& [face, g] : faces) {
    Slope s;
    s.face = face;
    s.plan = united(g.triangles);
    s.outside.rise = {-g.normal.x / g.normal.z, -g.normal.y / g.normal.z};
    s.outside.level = g.at.z - dot(s.outside.rise, xy(g.at));
    s.upright = std::sqrt(1 + dot(s.outside.rise, s.outside.rise));
    out.push_back(std::move(s));
  }
  return out;
}

/// What of an outline lies where a plane is above a level, and where it is not.
std::array<std::vector<Outline>, 2> cutAtLevel(const Outline& o, const SlopePlane& plane, double level) {
  const double steep = dot(plane.rise, plane.rise);
  if (steep < 1e-12) {
    if (plane.level > level) return {std::vector{o}, {}};
    return {std::vector<Outline>{}, {o}};
  }
  const Vec2 on = plane.rise * ((level - plane.level) / steep);
  return sidesOf(o, on, on + Vec2{plane.rise.y, -plane.rise.x} * (1 / std::sqrt(steep))); // uphill at its left
}

/// The mass whose sloping roof a room reaches into.
const Element* roofedOver(const Project& p, const Room& room) {
  for (const ElementPtr& e : p.elements) {
    const Mass* m = e->mass();
    if (!m || !e->counted || e->demolished || m->roof.flat()) continue;
    const double eaves = m->base + m->height;
    if (room.floor + room.height > eaves + 0.01 && room.floor < m->top() && room.floor > m->base - 0.01 &&
        contains(m->outline, centroid(room.outline)))
      return e.get();
  }
  return nullptr;
}

double away(const Outline& o, Vec2 p) {
  return contains(o, p) ? 0 : distanceToEdge(o, p);
}

} // namespace

RoomForm roomForm(const Project& p, const Room& room) {
  RoomForm form;
  form.floor = room.floor;
  form.top = room.floor + room.height;
  const auto level = [&] {
    form.level = true;
    form.mass = 0;
    form.top = room.floor + room.height;
    form.ceiling = {{room.outline, {form.top, {}}, 0, 0}};
    return form;
  };
  if (checkOutline(room.outline).fault != OutlineFault::None) return level();
  const Element* over = roofedOver(p, room);
  if (!over) return level();
  const double cap = form.top, low = room.floor + leastClear;
  std::vector<Outline> capped, down, left{room.outline};
  for (const Slope& s : slopesOf(*over->mass())) {
    const double thick = std::max(0.0, room.wall) * s.upright;
    const SlopePlane plane{s.outside.level - thick, s.outside.rise};
    for (const Outline& plan : s.plan) {
      for (const Outline& part : common(room.outline, plan)) {
        auto [above, under] = cutAtLevel(part, plane, cap);
        capped.insert(capped.end(), above.begin(), above.end());
        for (const Outline& u : under) {
          auto [free, touching] = cutAtLevel(u, plane, low);
          down.insert(down.end(), touching.begin(), touching.end());
          for (Outline& f : free)
            if (area(f) > 1e-6) form.ceiling.push_back({std::move(f), plane, s.face, thick});
        }
      }
      std::vector<Outline> rest;
      for (const Outline& l : left) {
        auto more = difference(l, {plan.outer});
        rest.insert(rest.end(), more.begin(), more.end());
      }
      left = std::move(rest);
    }
  }
  if (form.ceiling.empty() && down.empty()) return level(); // the roof stands clear of it
  form.level = false;
  form.mass = over->id.value;
  const auto flat = [&](const std::vector<Outline>& parts, double z) {
    if (parts.empty()) return;
    for (Outline& o : united(parts))
      if (area(o) > 1e-6) form.ceiling.push_back({std::move(o), {z, {}}, 0, 0});
  };
  flat(capped, cap);
  flat(down, low);
  flat(left, cap); // beyond the roof: a finding tells
  form.top = low;
  for (const CeilingPiece& c : form.ceiling)
    for (Vec2 q : c.outline.outer) form.top = std::max(form.top, c.plane.at(q));
  return form;
}

double RoomForm::ceilingAt(Vec2 p) const {
  const CeilingPiece* best = nullptr;
  double nearest = 1e300;
  for (const CeilingPiece& c : ceiling) {
    const double d = away(c.outline, p);
    if (d < nearest) {
      nearest = d;
      best = &c;
    }
    if (d <= 0) break;
  }
  return best ? best->plane.at(p) : top;
}

std::vector<Outline> RoomForm::standing(double clear) const {
  std::vector<Outline> parts;
  for (const CeilingPiece& c : ceiling) {
    const auto cut = cutAtLevel(c.outline, c.plane, floor + clear);
    parts.insert(parts.end(), cut[0].begin(), cut[0].end());
  }
  return parts.empty() ? parts : united(parts);
}

double RoomForm::ceilingArea() const {
  double sum = 0;
  for (const CeilingPiece& c : ceiling) sum += area(c.outline) * std::sqrt(1 + dot(c.plane.rise, c.plane.rise));
  return sum;
}

double RoomForm::volume() const {
  double sum = 0;
  for (const CeilingPiece& c : ceiling) sum += area(c.outline) * (c.plane.at(centroid(c.outline)) - floor);
  return sum;
}

std::vector<Vec2> RoomForm::wallTop(Vec2 a, Vec2 b) const {
  const double l = length(b - a);
  if (level || l < 1e-9) return {{0, top}, {l, top}};
  const Vec2 along = (b - a) * (1 / l), in{-along.y, along.x};
  const Vec2 from = a + in * inFrom;
  std::vector<double> cuts{0, l};
  for (const CeilingPiece& c : ceiling) {
    std::vector<Ring> rings{c.outline.outer};
    rings.insert(rings.end(), c.outline.holes.begin(), c.outline.holes.end());
    for (const Ring& r : rings)
      for (std::size_t i = 0; i < r.size(); ++i) {
        const double d = dot(r[i] - from, in), e = dot(r[(i + 1) % r.size()] - from, in);
        if ((d > 0) == (e > 0)) continue;
        const Vec2 x = r[i] + (r[(i + 1) % r.size()] - r[i]) * (d / (d - e));
        const double u = dot(x - from, along);
        if (u > 2 * inFrom && u < l - 2 * inFrom) cuts.push_back(u);
      }
  }
  std::sort(cuts.begin(), cuts.end());
  cuts.erase(std::unique(cuts.begin(), cuts.end(), [](double x, double y) { return y - x < inFrom; }), cuts.end());
  if (cuts.back() < l) cuts.back() = l;
  std::vector<Vec2> out;
  double before = 0; // the height at which the stretch before ended
  for (std::size_t i = 0; i + 1 < cuts.size(); ++i) {
    const Vec2 middle = from + along * (0.5 * (cuts[i] + cuts[i + 1]));
    const CeilingPiece* on = &ceiling.front();
    double nearest = 1e300;
    for (const CeilingPiece& c : ceiling)
      if (const double d = away(c.outline, middle); d < nearest) {
        nearest = d;
        on = &c;
      }
    const double begin = on->plane.at(a + along * cuts[i]), end = on->plane.at(a + along * cuts[i + 1]);
    out.push_back({cuts[i], i == 0 ? begin : 0.5 * (before + begin)});
    before = end;
  }
  out.push_back({l, before});
  for (std::size_t i = 1; i + 1 < out.size();) { // without corners at which nothing turns
    const Vec2 &p = out[i - 1], &q = out[i], &r = out[i + 1];
    const double straight = p.y + (r.y - p.y) * (q.x - p.x) / std::max(1e-12, r.x - p.x);
    if (std::abs(straight - q.y) < 1e-4)
      out.erase(out.begin() + std::ptrdiff_t(i));
    else
      ++i;
  }
  return out;
}

double RoomForm::wallArea(Vec2 a, Vec2 b) const {
  if (level) return length(b - a) * (top - floor);
  const auto line = wallTop(a, b);
  double sum = 0;
  for (std::size_t i = 0; i + 1 < line.size(); ++i)
    sum += (line[i + 1].x - line[i].x) * (0.5 * (line[i].y + line[i + 1].y) - floor);
  return sum;
}

double RoomForm::clearHeight(Vec2 a, Vec2 b, double from, double to) const {
  if (level) return top - floor;
  const auto line = wallTop(a, b);
  double least = 1e300;
  const auto at = [&](double u) {
    for (std::size_t i = 0; i + 1 < line.size(); ++i)
      if (u <= line[i + 1].x + 1e-9) {
        const double w = line[i + 1].x - line[i].x;
        return w > 0 ? line[i].y + (line[i + 1].y - line[i].y) * (u - line[i].x) / w : line[i].y;
      }
    return line.back().y;
  };
  least = std::min(at(std::max(0.0, from)), at(std::min(to, line.back().x)));
  for (Vec2 q : line)
    if (q.x > from && q.x < to) least = std::min(least, q.y);
  return least - floor;
}

std::vector<Outline> underRoof(const Project& p, std::uint64_t id, double wall, double least, double headroom) {
  const ElementPtr e = p.element({id});
  const Mass* m = e ? e->mass() : nullptr;
  if (!m || m->roof.flat()) return {};
  const double eaves = m->base + m->height;
  double highest = 0;
  std::vector<Outline> parts;
  for (const Slope& s : slopesOf(*m)) {
    const SlopePlane under{s.outside.level - wall * s.upright, s.outside.rise};
    for (const Outline& plan : s.plan) {
      const auto cut = cutAtLevel(plan, under, eaves + least);
      for (const Outline& o : cut[0]) {
        for (Vec2 q : o.outer) highest = std::max(highest, under.at(q) - eaves);
        parts.push_back(o);
      }
    }
  }
  std::vector<Outline> out;
  if (parts.empty() || highest < headroom) return out;
  for (const Outline& inner : offset(m->outline, -wall))
    for (const Outline& whole : united(parts))
      for (Outline& o : common(inner, whole))
        if (area(o) > 1) out.push_back(tidied(straightened(std::move(o))));
  return out;
}

} // namespace noonward
