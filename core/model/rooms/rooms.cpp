#include "core/model/rooms/rooms.h"
#include "core/base/tolerances.h"
#include "core/model/derived_memory.h"
#include "core/model/light_model.h"
#include "core/model/project.h"
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
  if (o.edge < 0) { // counter-clockwise seen from above
    const double z = ceiling + into;
    return {Vec3{o.along, o.sill, z},
            {o.along + o.width, o.sill, z},
            {o.along + o.width, o.sill + o.height, z},
            {o.along, o.sill + o.height, z}};
  }
  const Vec2 p = a + this->along * (o.along - before * into) + outward * into,
             q = a + this->along * (o.along + o.width + after * into) + outward * into;
  const double low = floor + o.sill, high = low + o.height;
  return {Vec3{p.x, p.y, low}, {q.x, q.y, low}, {q.x, q.y, high}, {p.x, p.y, high}};
}

namespace {

struct Edge {
  Vec2 a, b, along, outward;
  double length = 0;
};
Edge edgeOf(const Room& r, std::size_t i) {
  const Ring& ring = r.outline.outer;
  Edge e;
  e.a = ring[i];
  e.b = ring[(i + 1) % ring.size()];
  e.length = length(e.b - e.a);
  e.along = e.length > 0 ? (e.b - e.a) * (1 / e.length) : Vec2{1, 0};
  e.outward = {e.along.y, -e.along.x};
  return e;
}

bool sameHeight(const Room& a, const Room& b) {
  return std::min(a.floor + a.height, b.floor + b.height) - std::max(a.floor, b.floor) > 0.05;
}

constexpr int mostBays = 500;    // in a wall
constexpr double rim = 0.05;     // m, that an opening keeps from the ends of its wall
constexpr double farthest = 2.0; // m, of a mass's face behind a wall for the window to pierce it

class Placer {
public:
  explicit Placer(const Project& p) : p_(p) {
    for (std::size_t r = 0; r < p.rooms.size(); ++r)
      outer_.push_back(checkOutline(p.rooms[r].outline).fault == OutlineFault::None ? outerEdges(p, r)
                                                                                    : std::vector<bool>());
  }

  OpeningLayout run() {
    for (const Opening& o : p_.openings) {
      const auto r = indexOf(o.room);
      if (!r) {
        find(Rank::BendsResult, "opening.room",
             fmt::format("The opening \"{}\" belongs to a room that is not there.", o.name), o.id.value);
        continue;
      }
      if (!outer_[*r].empty()) row(o, *r);
    }
    for (const WindowRule& w : p_.windowRules)
      for (std::size_t r = 0; r < p_.rooms.size(); ++r) {
        if (outer_[r].empty() ||
            (!w.rooms.empty() && std::find(w.rooms.begin(), w.rooms.end(), p_.rooms[r].id) == w.rooms.end()))
          continue;
        w.ceiling ? ceilingRule(w, r) : wallRule(w, r);
      }
    openCorners();
    return std::move(out_);
  }

private:
  std::optional<std::size_t> indexOf(RoomId id) const {
    for (std::size_t i = 0; i < p_.rooms.size(); ++i)
      if (p_.rooms[i].id == id) return i;
    return {};
  }
  void find(Rank rank, const char* code, std::string text, std::uint64_t id, const char* mend = "",
            const char* mendText = "") {
    out_.findings.push_back({rank, code, std::move(text), 1, {id}, mend, mendText});
  }

  /// Two windows of one height that reach a corner from both sides leave no pillar there.
  void openCorners() {
    constexpr double near = 0.011; // m
    std::vector<std::vector<std::size_t>> ofRoom(p_.rooms.size());
    for (std::size_t k = 0; k < out_.openings.size(); ++k) ofRoom[out_.openings[k].room].push_back(k);
    for (PlacedOpening& one : out_.openings)
      for (std::size_t k : ofRoom[one.room]) {
        PlacedOpening& next = out_.openings[k];
        const Room& room = p_.rooms[one.room];
        const int edges = int(room.outline.outer.size());
        if (one.opening.edge < 0 || next.opening.edge != (one.opening.edge + 1) % edges) continue;
        const double end = length(next.a - one.a) - one.opening.along - one.opening.width;
        if (end > near || next.opening.along > near || std::abs(one.opening.sill - next.opening.sill) > 1e-3 ||
            std::abs(one.opening.height - next.opening.height) > 1e-3 || one.mass != next.mass || !(one.depth > 1e-3) ||
            !(next.depth > 1e-3))
          continue;
        const double turn = std::atan2(cross(one.along, next.along), dot(one.along, next.along));
        if (turn < radians(30) || turn > radians(150)) continue; // an inner corner, or hardly one
        // Where the two outer faces meet, seen from the inner corner.
        one.after = (next.depth / one.depth - std::cos(turn)) / std::sin(turn);
        next.before = (one.depth / next.depth - std::cos(turn)) / std::sin(turn);
        one.opening.width += end; // to the corner itself
        next.opening.width += next.opening.along;
        next.opening.along = 0;
      }
  }

  /// One, or several alike beside each other.
  void row(const Opening& first, std::size_t r) {
    if (first.repeat <= 1) return place(first, r, {});
    for (int k = 0; k < std::min(first.repeat, 1000); ++k) {
      Opening o = first;
      o.along += k * (first.width + std::max(0.0, first.gap));
      if (k > 0) o.id = {derivedId(first.id.text() + "/" + std::to_string(k))};
      o.name = fmt::format("{} {}", first.name.empty() ? "Window" : first.name, k + 1);
      place(o, r, {});
    }
  }

  void wallRule(const WindowRule& w, std::size_t r) {
    const Room& room = p_.rooms[r];
    for (std::size_t i = 0; i < room.outline.outer.size(); ++i) {
      const Edge e = edgeOf(room, i);
      if (!outer_[r][i]) continue;
      const auto facing = facingOf({e.outward.x, e.outward.y, 0}, p_.site.northAngle);
      if (!w.facings.empty() && (!facing || std::find(w.facings.begin(), w.facings.end(), *facing) == w.facings.end()))
        continue;
      const double free = e.length - 2 * std::max(0.0, w.ends);
      const int n = w.module > 0 ? std::min(mostBays, int(free / w.module + 1e-6)) : std::max(1, w.count);
      if (n < 1) continue;
      const double bay = w.module > 0 ? w.module : free / n, begin = (e.length - n * bay) / 2;
      if (bay < 4 * rim) continue;
      double sill = std::clamp(w.sill, 0.0, room.height), head = std::clamp(w.head, sill, room.height), width = w.width;
      if (w.kind == WindowRule::Kind::Ratio) {
        const double wanted = std::clamp(w.ratio, 0.0, 0.95) * e.length * room.height / n;
        if (wanted <= 0) continue;
        const double widest = bay - 2 * rim;
        width = wanted / std::max(1e-9, head - sill);
        if (width > widest) { // too much for the sill and head asked for: taller, then as wide as it goes
          width = widest;
          const double tall = std::min(room.height - 2 * 0.01, wanted / widest);
          sill = std::max(0.01, std::min(sill, room.height - 0.01 - tall));
          head = sill + tall;
        }
      }
      if (w.kind == WindowRule::Kind::Curtain)
        width = bay - std::max(0.0, w.mullion);
      else
        width = std::min(width, bay - 2 * rim);
      for (int k = 0; k < n; ++k) {
        Opening o;
        o.id = {derivedId(w.id.text() + room.id.text() + fmt::format("/{}/{}", i, k))};
        o.name = fmt::format("{} {}", w.name.empty() ? "Window" : w.name, k + 1);
        o.type = w.type;
        o.room = room.id;
        o.edge = int(i);
        o.width = width;
        o.along = begin + bay * (k + 0.5) - o.width / 2;
        o.sill = sill;
        o.height = head - sill;
        o.glazing = w.glazing;
        o.frame = w.frame;
        o.paneAt = w.paneAt;
        if (o.height > 0.01 && o.width > 0.01) place(o, r, w.id);
      }
    }
  }

  void ceilingRule(const WindowRule& w, std::size_t r) {
    const Room& room = p_.rooms[r];
    Box3 box;
    for (Vec2 q : room.outline.outer) box.add({q.x, q.y, 0});
    const int n = std::clamp(w.count, 1, 50);
    const Vec3 size = box.size();
    // One opening of equal proportions in each field; the ratio is of the room's own area.
    const double share = w.kind == WindowRule::Kind::Ratio
                             ? std::sqrt(std::clamp(w.ratio, 0.0, 0.9) * area(room.outline) / (size.x * size.y))
                             : 0;
    for (int i = 0; i < n; ++i)
      for (int j = 0; j < n; ++j) {
        Opening o;
        o.id = {derivedId(w.id.text() + room.id.text() + fmt::format("/top/{}/{}", i, j))};
        o.name = fmt::format("{} {}", w.name.empty() ? "Rooflight" : w.name, i * n + j + 1);
        o.type = w.type;
        o.room = room.id;
        o.edge = -1;
        o.width = w.kind == WindowRule::Kind::Ratio ? share * size.x / n : w.width;
        o.height = w.kind == WindowRule::Kind::Ratio ? share * size.y / n : w.width;
        o.along = box.low.x + size.x * (i + 0.5) / n - o.width / 2;
        o.sill = box.low.y + size.y * (j + 0.5) / n - o.height / 2;
        o.glazing = w.glazing;
        o.frame = w.frame;
        o.paneAt = w.paneAt;
        if (o.width > 0.01) place(o, r, w.id);
      }
  }

  void place(const Opening& o, std::size_t r, RuleId rule) {
    const Room& room = p_.rooms[r];
    PlacedOpening q;
    q.opening = o;
    q.room = r;
    q.rule = rule;
    q.depth = std::max(0.0, room.wall);
    const std::string who = fmt::format("\"{}\" of \"{}\"", o.name.empty() ? "An opening" : o.name, room.name);
    if (!(o.width > 0.01) || !(o.height > 0.01) || !std::isfinite(o.along) || !std::isfinite(o.sill))
      return find(Rank::BendsResult, "opening.size", who + " has no size and is left out.", o.id.value);
    if (o.edge >= int(room.outline.outer.size()))
      return find(Rank::BendsResult, "opening.edge", who + " is in a wall that the room does not have.", o.id.value);
    if (o.edge >= 0) {
      const Edge e = edgeOf(room, std::size_t(o.edge));
      q.a = e.a;
      q.along = e.along;
      q.outward = e.outward;
      q.facing = facingOf({e.outward.x, e.outward.y, 0}, p_.site.northAngle);
      if (o.along < -1e-6 || o.along + o.width > e.length + 1e-6 || o.sill < -1e-6 ||
          o.sill + o.height > room.height + 1e-6)
        return find(Rank::BendsResult, "opening.outside", who + " reaches beyond its wall and is left out.", o.id.value,
                    rule ? "" : "opening.fit", rule ? "" : "Move it into its wall, smaller where it must be");
      if (!outer_[r][std::size_t(o.edge)])
        find(Rank::BendsResult, "opening.nowhere", who + " looks into another room's wall, not outdoors.", o.id.value);
      pierce(q, room);
    } else {
      const Ring field = rectangle(o.along, o.sill, o.along + o.width, o.sill + o.height).outer;
      if (std::any_of(field.begin(), field.end(),
                      [&](Vec2 c) { return !contains(room.outline, c) || distanceToEdge(room.outline, c) < 0.01; }))
        return find(Rank::BendsResult, "opening.outside", who + " reaches beyond the ceiling and is left out.",
                    o.id.value);
      pierceRoof(q, room);
    }
    for (const PlacedOpening& other : out_.openings)
      if (other.room == r && other.opening.edge == o.edge && other.opening.along < o.along + o.width - 1e-6 &&
          o.along < other.opening.along + other.opening.width - 1e-6 && other.opening.sill < o.sill + o.height - 1e-6 &&
          o.sill < other.opening.sill + other.opening.height - 1e-6)
        return find(Rank::BendsResult, "opening.overlap",
                    who +
                        fmt::format(" lies over \"{}\" and is left out: two panes in one opening.", other.opening.name),
                    o.id.value);
    out_.openings.push_back(std::move(q));
  }

  /// The face of the mass around the room that lies behind the opening: the reveal goes as far.
  void pierce(PlacedOpening& q, const Room& room) {
    const Vec2 middle = q.a + q.along * (q.opening.along + q.opening.width / 2);
    const double z = room.floor + q.opening.sill + q.opening.height / 2;
    for (const ElementPtr& e : p_.elements) {
      const Mass* m = e->mass();
      if (!m || !e->counted || e->demolished || z < m->base || z > m->base + m->height || !contains(m->outline, middle))
        continue;
      std::uint32_t face = firstWallFace;
      double nearest = farthest;
      const auto ring = [&](const Ring& points) {
        for (std::size_t i = 0; i < points.size(); ++i, ++face) {
          const Vec2 a = points[i], b = points[(i + 1) % points.size()], along = normalizedOr(b - a);
          if (std::abs(dot(along, q.along)) < 0.9995) continue; // not parallel: a hole would be skewed
          const double d = dot(a - middle, q.outward), s = dot(middle - a, along);
          if (d < -1e-6 || d > nearest || s < 0 || s > length(b - a)) continue;
          nearest = d;
          q.mass = e->id.value;
          q.massFace = face;
          q.depth = d;
        }
      };
      const Outline tidy = tidied(m->outline);
      ring(tidy.outer);
      for (const Ring& h : tidy.holes) ring(h);
      if (q.mass == 0)
        find(Rank::BendsResult, "opening.buried",
             fmt::format("\"{}\" of \"{}\" stands more than {:g} m inside \"{}\": no face of it can be opened.",
                         q.opening.name, room.name, farthest, e->name),
             q.opening.id.value);
      return;
    }
  }

  void pierceRoof(PlacedOpening& q, const Room& room) {
    const double top = room.floor + room.height;
    const Vec2 middle{q.opening.along + q.opening.width / 2, q.opening.sill + q.opening.height / 2};
    for (const ElementPtr& e : p_.elements) {
      const Mass* m = e->mass();
      if (!m || !e->counted || e->demolished || top < m->base || top > m->base + m->height + 1e-6 ||
          !contains(m->outline, middle))
        continue;
      if (!m->roof.flat()) {
        find(Rank::BendsResult, "opening.sloped",
             fmt::format("\"{}\" of \"{}\" lies under the sloping roof of \"{}\", which no rooflight opens.",
                         q.opening.name, room.name, e->name),
             q.opening.id.value);
        return;
      }
      if (m->base + m->height - top > farthest) {
        find(Rank::BendsResult, "opening.buried",
             fmt::format("\"{}\" of \"{}\" lies more than {:g} m under the roof of \"{}\".", q.opening.name, room.name,
                         farthest, e->name),
             q.opening.id.value);
        return;
      }
      q.mass = e->id.value;
      q.massFace = roofFace;
      q.depth = m->base + m->height - top;
      return;
    }
  }
  static Vec2 normalizedOr(Vec2 v) {
    const double l = length(v);
    return l > 0 ? v * (1 / l) : Vec2{1, 0};
  }

  const Project& p_;
  std::vector<std::vector<bool>> outer_;
  OpeningLayout out_;
};

} // namespace

std::optional<WallSpot> wallBehind(const Project& p, Vec3 point, Vec3 outward) {
  std::optional<WallSpot> best;
  double nearest = farthest;
  const Vec2 n = xy(outward) * (1 / std::max(1e-12, length(xy(outward))));
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    if (point.z < room.floor - 1e-6 || point.z > room.floor + room.height + 1e-6 ||
        checkOutline(room.outline).fault != OutlineFault::None)
      continue;
    std::vector<bool> outer;
    for (std::size_t i = 0; i < room.outline.outer.size(); ++i) {
      const Edge e = edgeOf(room, i);
      if (std::abs(dot(e.outward, n)) < 0.9995) continue;
      const double s = dot(xy(point) - e.a, e.along), d = dot(xy(point) - e.a, e.outward);
      if (s < 0 || s > e.length || d < -0.02 || d > nearest) continue;
      if (outer.empty()) outer = outerEdges(p, r);
      if (!outer[i]) continue;
      nearest = d;
      best = WallSpot{r, int(i), s, point.z - room.floor, e.length, room.height};
    }
  }
  return best;
}

Vec3 pointOnWall(const Project& p, const WallSpot& w, double along, double height) {
  const Room& room = p.rooms[w.room];
  const Edge e = edgeOf(room, std::size_t(w.edge));
  const Vec2 q = e.a + e.along * along;
  return {q.x, q.y, room.floor + height};
}

std::string openingName(const Project& p, const PlacedOpening& o) {
  return fmt::format("{}: {}", p.rooms[o.room].name, o.opening.name.empty() ? "Window" : o.opening.name);
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
      if (o.id == room_.id || !sameHeight(o, room_)) continue;
      const Box3 b = plan(o);
      const double far = reach_ + 0.01;
      if (b.low.x <= own.high.x + far && b.high.x >= own.low.x - far && b.low.y <= own.high.y + far &&
          b.high.y >= own.low.y - far)
        near_.push_back({r, &o});
    }
  }
  /// The room behind the k-th of n spots along a side.
  std::optional<std::size_t> at(std::size_t edge, int k, int n) const {
    const Edge e = edgeOf(room_, edge);
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

OpeningLayout placedOpenings(const Project& project) {
  auto state = derivedState(project, true);
  if (const auto known = project.derived->openings(state)) return *known;
  const auto made = std::make_shared<const OpeningLayout>(Placer(project).run());
  project.derived->keep(std::move(state), made);
  return *made;
}

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
    f.volume = f.area * room.height;
    if (checkOutline(room.outline).fault == OutlineFault::None) {
      const auto outer = outerEdges(p, r);
      for (std::size_t i = 0; i < outer.size(); ++i)
        if (outer[i]) f.exposedArea += edgeOf(room, i).length * room.height;
    }
    for (const PlacedOpening& o : laid.openings) {
      if (o.room != r) continue;
      if (o.facing)
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
      if (out1 > 0 || room.floor < m.base - 0.01 || room.floor + room.height > m.base + m.height + 0.01)
        put(Rank::BendsResult, "room.outside",
            fmt::format("\"{}\" reaches beyond \"{}\", in which it lies: its walls would stand in the open.", room.name,
                        host->name),
            "room.fit", "Cut it at the walls");
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
      if (checkOutline(other.outline).fault == OutlineFault::None && sameHeight(room, other) &&
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

template <> const Fields<WindowRule>& fieldsOf<WindowRule>() {
  static const auto described = [] {
    FieldsOf<WindowRule> d;
    WindowRule::describe(d);
    return d.list;
  }();
  return described;
}

std::string windowFieldsAsMarkdown() {
  return fieldsByKindAsMarkdown<WindowRule>("");
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
  return out;
}

} // namespace noonward
