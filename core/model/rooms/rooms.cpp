#include "core/model/rooms/rooms.h"
#include "core/base/tolerances.h"
#include "core/model/project.h"
#include "core/model/rooms/room_form.h"
#include "core/model/rooms/walls.h"
#include "core/model/settings/fields.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

const char* facingKey(Facing f) {
  switch (f) {
  case Facing::North:
    return "north";
  case Facing::East:
    return "east";
  case Facing::South:
    return "south";
  case Facing::West:
    return "west";
  }
  return "";
}

std::optional<Facing> facingFromKey(std::string_view key) {
  for (Facing f : allFacings)
    if (key == facingKey(f)) return f;
  return {};
}

std::optional<Facing> facingOf(Vec3 n, double northAngle) {
  if (std::hypot(n.x, n.y) < 0.5 * length(n) || !(length(n) > 0)) return {};
  const double azimuth = wrapTwoPi(std::atan2(n.x, n.y) + northAngle + pi / 4);
  return allFacings[std::size_t(azimuth / (pi / 2)) % 4];
}

std::array<Vec3, 4> PlacedOpening::corners(double floor, double ceiling, double into) const {
  const Opening& o = opening;
  if (raised) {
    const Vec2 p = a + outward * into, q = p + this->along * o.width;
    return {Vec3{p.x, p.y, level}, {q.x, q.y, level}, {q.x, q.y, level + o.height}, {p.x, p.y, level + o.height}};
  }
  if (o.edge < 0) { // counter-clockwise seen from above
    const auto at = [&](double x, double y) { return Vec3{x, y, (slope ? slope->at({x, y}) : ceiling) + into}; };
    return {at(o.along, o.sill), at(o.along + o.width, o.sill), at(o.along + o.width, o.sill + o.height),
            at(o.along, o.sill + o.height)};
  }
  const Vec2 p = a + this->along * (o.along - before * into) + outward * into,
             q = a + this->along * (o.along + o.width + after * into) + outward * into;
  const double low = floor + o.sill, high = low + o.height;
  return {Vec3{p.x, p.y, low}, {q.x, q.y, low}, {q.x, q.y, high}, {p.x, p.y, high}};
}

RoomEdge edgeOf(const Room& r, std::size_t i) {
  const Ring& ring = r.outline.outer;
  RoomEdge e;
  e.a = ring[i];
  e.b = ring[(i + 1) % ring.size()];
  e.length = length(e.b - e.a);
  e.along = e.length > 0 ? (e.b - e.a) * (1 / e.length) : Vec2{1, 0};
  e.outward = {e.along.y, -e.along.x};
  return e;
}

bool standBeside(const Room& a, const Room& b) {
  return std::min(a.floor + a.height, b.floor + b.height) - std::max(a.floor, b.floor) > 0.05;
}

std::optional<WallSpot> wallBehind(const Project& p, Vec3 point, Vec3 outward) {
  std::optional<WallSpot> best;
  double nearest = deepestWall;
  const Vec2 n = xy(outward) * (1 / std::max(1e-12, length(xy(outward))));
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    if (point.z < room.floor - 1e-6 || point.z > room.floor + room.height + 1e-6 ||
        checkOutline(room.outline).fault != OutlineFault::None)
      continue;
    std::vector<bool> outer;
    for (std::size_t i = 0; i < room.outline.outer.size(); ++i) {
      const RoomEdge e = edgeOf(room, i);
      if (std::abs(dot(e.outward, n)) < 0.9995) continue;
      const double s = dot(xy(point) - e.a, e.along), d = dot(xy(point) - e.a, e.outward);
      if (s < 0 || s > e.length || d < -0.02 || d > nearest) continue;
      if (outer.empty()) outer = outerEdges(p, r);
      if (!outer[i]) continue;
      const double clear = roomForm(p, room).clearHeight(e.a, e.b, s, s);
      if (point.z > room.floor + clear + 1e-6) continue; // in the roof above it
      nearest = d;
      best = WallSpot{r, int(i), s, point.z - room.floor, e.length, clear};
    }
  }
  return best;
}

Vec3 pointOnWall(const Project& p, const WallSpot& w, double along, double height) {
  const Room& room = p.rooms[w.room];
  const RoomEdge e = edgeOf(room, std::size_t(w.edge));
  const Vec2 q = e.a + e.along * along;
  return {q.x, q.y, room.floor + height};
}

std::string openingName(const Project& p, const PlacedOpening& o) {
  return fmt::format("{}: {}", p.rooms[o.room].name, o.opening.name.empty() ? "Window" : o.opening.name);
}

Vec3 PlacedOpening::facingOutward() const {
  if (slope) return normalized({-slope->rise.x, -slope->rise.y, 1});
  return upright() ? Vec3{outward.x, outward.y, 0} : Vec3{0, 0, 1};
}

namespace {
/// What stands behind the sides of one room.
class Behind {
public:
  Behind(const Project& p, std::size_t index) : room_(p.rooms[index]), reach_(std::max(0.4, room_.wall + 0.05)) {
    const auto plan = [](const Room& r) {
      Box3 b;
      for (Vec2 q : r.outline.outer) b.add({q.x, q.y, 0});
      return b;
    };
    const Box3 own = plan(room_);
    for (std::size_t r = 0; r < p.rooms.size(); ++r) {
      const Room& o = p.rooms[r];
      if (o.id == room_.id || !standBeside(o, room_)) continue;
      const Box3 b = plan(o);
      const double far = reach_ + 0.01;
      if (b.low.x <= own.high.x + far && b.high.x >= own.low.x - far && b.low.y <= own.high.y + far &&
          b.high.y >= own.low.y - far)
        near_.push_back({r, &o});
    }
  }
  /// The room behind the k-th of n spots along a side.
  std::optional<std::size_t> at(std::size_t edge, int k, int n) const {
    const RoomEdge e = edgeOf(room_, edge);
    const Vec2 on = e.a + e.along * (e.length * (k + 0.5) / n);
    for (const double d : {0.06, 0.13, 0.25, reach_})
      for (const auto& [r, o] : near_)
        if (contains(o->outline, on + e.outward * d)) return r;
    return {};
  }

private:
  const Room& room_;
  double reach_; ///< m behind a wall
  std::vector<std::pair<std::size_t, const Room*>> near_;
};
} // namespace

std::vector<bool> outerEdges(const Project& p, std::size_t index) {
  const Behind behind(p, index);
  std::vector<bool> out;
  for (std::size_t i = 0; i < p.rooms[index].outline.outer.size(); ++i) {
    int shut = 0;
    for (int k = 0; k < 5; ++k) shut += behind.at(i, k, 5).has_value();
    out.push_back(shut < 3);
  }
  return out;
}

std::vector<std::map<std::size_t, double>> roomsBehind(const Project& p, std::size_t index) {
  const Behind behind(p, index);
  constexpr int spots = 40;
  std::vector<std::map<std::size_t, double>> out(p.rooms[index].outline.outer.size());
  for (std::size_t i = 0; i < out.size(); ++i)
    for (int k = 0; k < spots; ++k)
      if (const auto r = behind.at(i, k, spots)) out[i][*r] += 1.0 / spots;
  return out;
}

template <> const Fields<Raised>& fieldsOf<Raised>() {
  static const auto described = [] {
    FieldsOf<Raised> d;
    Raised::describe(d);
    return std::move(d.list);
  }();
  return described;
}

template <> const Fields<WindowRule>& fieldsOf<WindowRule>() {
  static const auto described = [] {
    FieldsOf<WindowRule> d;
    WindowRule::describe(d);
    for (const Field<Raised>& f : fieldsOf<Raised>()) {
      auto above = lifted(f, &WindowRule::raised);
      above.matters = [inner = above.matters](const WindowRule& w) { return w.ceiling && (!inner || inner(w)); };
      d.list.push_back(std::move(above));
    }
    return std::move(d.list);
  }();
  return described;
}

std::string windowFieldsAsMarkdown() {
  return fieldsByKindAsMarkdown<WindowRule>("");
}

} // namespace noonward
