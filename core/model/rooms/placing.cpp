// Where openings stand: drawn ones and those of rules, seated in their walls and ceilings, and the faces of masses that
// they pierce.

#include "core/base/tolerances.h"
#include "core/model/derived_memory.h"
#include "core/model/light_model.h"
#include "core/model/project.h"
#include "core/model/rooms/room_form.h"
#include "core/model/rooms/walls.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

constexpr int mostBays = 500; // in a wall
constexpr double rim = 0.05;  // m, that an opening keeps from the ends of its wall

class Placer {
public:
  explicit Placer(const Project& p) : p_(p) {
    for (std::size_t r = 0; r < p.rooms.size(); ++r) {
      outer_.push_back(checkOutline(p.rooms[r].outline).fault == OutlineFault::None ? outerEdges(p, r)
                                                                                    : std::vector<bool>());
      forms_.push_back(roomForm(p, p.rooms[r]));
    }
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
      const RoomEdge e = edgeOf(room, i);
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
      const double whole = forms_[r].level ? 0 : forms_[r].wallArea(e.a, e.b);
      for (int k = 0; k < n; ++k) {
        const double middle = begin + bay * (k + 0.5);
        if (!forms_[r].level && !underSlope(w, e, forms_[r], middle, bay, whole / n, sill, head, width)) continue;
        Opening o;
        o.id = {derivedId(w.id.text() + room.id.text() + fmt::format("/{}/{}", i, k))};
        o.name = fmt::format("{} {}", w.name.empty() ? "Window" : w.name, k + 1);
        o.type = w.type;
        o.room = room.id;
        o.edge = int(i);
        o.width = width;
        o.along = middle - o.width / 2;
        o.sill = sill;
        o.height = head - sill;
        o.glazing = w.glazing;
        o.frame = w.frame;
        o.paneAt = w.paneAt;
        if (o.height > 0.01 && o.width > 0.01) place(o, r, w.id);
      }
    }
  }

  /// Of a bay in a wall that ends at the roof: the head comes down to it, and the width makes up for that where it can.
  /// False where no window is left.
  static bool underSlope(const WindowRule& w, const RoomEdge& e, const RoomForm& form, double middle, double bay,
                         double wall, double& sill, double& head, double& width) {
    constexpr double least = 0.2; // m of glass
    const double widest = w.kind == WindowRule::Kind::Curtain ? bay - std::max(0.0, w.mullion) : bay - 2 * rim;
    sill = std::max(0.0, w.sill);
    head = std::min(w.head, form.clearHeight(e.a, e.b, middle - bay / 4, middle + bay / 4) - rim);
    if (head - sill < least) return false;
    width = w.kind == WindowRule::Kind::Ratio ? std::clamp(w.ratio, 0.0, 0.95) * wall / (head - sill)
            : w.kind == WindowRule::Kind::Row ? w.width
                                              : widest;
    width = std::min(width, widest);
    head = std::min(head, form.clearHeight(e.a, e.b, middle - width / 2, middle + width / 2) - rim);
    return head - sill >= least && width > 0;
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
        o.raised = w.raised;
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
      const RoomEdge e = edgeOf(room, std::size_t(o.edge));
      q.a = e.a;
      q.along = e.along;
      q.outward = e.outward;
      q.facing = facingOf({e.outward.x, e.outward.y, 0}, p_.site.northAngle);
      if (o.along < -1e-6 || o.along + o.width > e.length + 1e-6 || o.sill < -1e-6 ||
          o.sill + o.height > forms_[r].clearHeight(e.a, e.b, o.along, o.along + o.width) + 1e-6)
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
      if (!forms_[r].level && !underRoofAlone(q, forms_[r], field, who)) return;
      if (!q.slope) pierceRoof(q, room);
    }
    for (const PlacedOpening& other : out_.openings)
      if (other.room == r && !other.raised && other.opening.edge == o.edge &&
          other.opening.along < o.along + o.width - 1e-6 &&
          o.along < other.opening.along + other.opening.width - 1e-6 && other.opening.sill < o.sill + o.height - 1e-6 &&
          o.sill < other.opening.sill + other.opening.height - 1e-6)
        return find(Rank::BendsResult, "opening.overlap",
                    who +
                        fmt::format(" lies over \"{}\" and is left out: two panes in one opening.", other.opening.name),
                    o.id.value);
    if (o.edge < 0)
      for (const Lantern& l : out_.lanterns)
        if (l.room == r &&
            !common({l.plan, {}}, rectangle(o.along, o.sill, o.along + o.width, o.sill + o.height)).empty())
          return find(Rank::BendsResult, "opening.overlap", who + " lies over another rooflight and is left out.",
                      o.id.value);
    if (o.edge < 0 && o.raised.kind != Raised::Kind::Flat) return raise(q, room, who);
    out_.openings.push_back(std::move(q));
  }

  /// A rooflight in a ceiling that follows the roof: seated in the one slope it lies in. False where there is none.
  bool underRoofAlone(PlacedOpening& q, const RoomForm& form, const Ring& field, const std::string& who) {
    for (const CeilingPiece& c : form.ceiling) {
      if (std::any_of(field.begin(), field.end(), [&](Vec2 v) { return !contains(c.outline, v); })) continue;
      if (c.face == 0) return true; // level there
      q.slope = c.plane;
      q.depth = c.over;
      q.mass = form.mass;
      q.massFace = c.face;
      if (q.opening.raised.kind == Raised::Kind::Flat) return true;
      find(Rank::BendsResult, "opening.sloped",
           who + " stands up above the roof, which only a flat roof carries: it is left out.", q.opening.id.value);
      return false;
    }
    find(Rank::BendsResult, "opening.outside", who + " reaches over an edge of the sloping ceiling and is left out.",
         q.opening.id.value);
    return false;
  }

  /// The box of a monitor or sawtooth, its glass an opening for each side.
  void raise(const PlacedOpening& flat, const Room& room, const std::string& who) {
    const Opening& o = flat.opening;
    if (!(o.raised.rise > 0.01))
      return find(Rank::BendsResult, "opening.size", who + " has glass of no height and is left out.", o.id.value);
    const Ring plan = rectangle(o.along, o.sill, o.along + o.width, o.sill + o.height).outer;
    const auto sideways = [&](std::size_t k) {
      const Vec2 d = plan[(k + 1) % 4] - plan[k];
      return Vec2{d.y, -d.x} * (1 / length(d));
    };
    const double azimuth =
        double(std::find(allFacings.begin(), allFacings.end(), o.raised.toward) - allFacings.begin()) * (pi / 2);
    const Vec2 wanted = xy(skyDirection(0, azimuth, p_.site.northAngle));
    std::size_t first = 0;
    for (std::size_t k = 1; k < 4; ++k)
      if (dot(sideways(k), wanted) > dot(sideways(first), wanted) + 1e-9) first = k;
    Lantern l;
    l.room = flat.room;
    l.opening = o.id;
    for (std::size_t k = 0; k < 4; ++k) l.plan.push_back(plan[(first + k) % 4]);
    l.foot = room.floor + room.height;
    l.roof = l.foot + flat.depth;
    l.rise = o.raised.rise;
    l.bothSides = o.raised.kind == Raised::Kind::Monitor;
    l.mass = flat.mass;
    for (std::size_t side = 0; side < (l.bothSides ? 3u : 1u); side += 2) {
      PlacedOpening q = flat;
      q.raised = true;
      q.a = l.plan[side];
      const Vec2 d = l.plan[side + 1] - q.a;
      q.opening.width = length(d);
      q.opening.height = l.rise;
      q.along = d * (1 / q.opening.width);
      q.outward = {q.along.y, -q.along.x};
      q.level = l.roof;
      q.depth = 0;
      q.facing = facingOf({q.outward.x, q.outward.y, 0}, p_.site.northAngle);
      if (side > 0) q.opening.id = {derivedId(o.id.text() + "/other side")};
      if (l.bothSides && q.facing) q.opening.name += std::string(", ") + facingKey(*q.facing);
      out_.openings.push_back(std::move(q));
    }
    out_.lanterns.push_back(std::move(l));
  }

  /// The face of the mass around the room that lies behind the opening: the reveal goes as far.
  void pierce(PlacedOpening& q, const Room& room) {
    const Vec2 middle = q.a + q.along * (q.opening.along + q.opening.width / 2);
    const double z = room.floor + q.opening.sill + q.opening.height / 2;
    for (const ElementPtr& e : p_.elements) {
      const Mass* m = e->mass();
      if (!m || !e->counted || e->demolished || z < m->base || z > m->top() || !contains(m->outline, middle)) continue;
      std::uint32_t face = firstWallFace;
      double nearest = deepestWall;
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
                         q.opening.name, room.name, deepestWall, e->name),
             q.opening.id.value);
      else if (behindSlope(q, room, *m))
        find(Rank::BendsResult, "opening.buried",
             fmt::format("\"{}\" of \"{}\" stands behind the slope of the roof of \"{}\", not in a wall of it.",
                         q.opening.name, room.name, e->name),
             q.opening.id.value);
      return;
    }
    pierceImport(q, room, {middle.x, middle.y, z});
  }
  /// The nearest face of the imported solid around the room, square to the way out.
  void pierceImport(PlacedOpening& q, const Room& room, Vec3 middle) {
    const ElementPtr host = solidAround(q.room);
    if (!host) return;
    const auto mesh = elementMesh(*host);
    if (!mesh) return;
    const Vec3 out{q.outward.x, q.outward.y, 0}, along{q.along.x, q.along.y, 0};
    double nearest = deepestWall;
    for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) {
      const Vec3 n = (*mesh)->areaVector(t);
      if (std::abs(dot(n, out)) < 0.9995 * length(n) || !(length(n) > 0)) continue;
      const Triangle& k = (*mesh)->triangles[t];
      const double d = dot((*mesh)->points[k[0]] - middle, out);
      if (d < -1e-6 || d > nearest) continue;
      Ring flat;
      for (std::uint32_t i : k) {
        const Vec3 c = (*mesh)->points[i] - middle;
        flat.push_back({dot(c, along), c.z});
      }
      if (!contains(flat, Vec2{0, 0})) continue;
      nearest = d;
      q.mass = host->id.value;
      q.massFace = (*mesh)->faceOf(t);
      q.depth = d;
    }
    if (q.mass == 0)
      find(Rank::BendsResult, "opening.buried",
           fmt::format("\"{}\" of \"{}\" has no upright face of \"{}\" before it within {:g} m: nothing is opened.",
                       q.opening.name, room.name, host->name, deepestWall),
           q.opening.id.value);
  }
  /// The import, taken as a solid, that a room stands in; null where it stands in none, or in one of very many faces.
  ElementPtr solidAround(std::size_t r) {
    constexpr std::size_t most = 100'000; // triangles
    if (solids_.empty()) solids_.resize(p_.rooms.size());
    if (!solids_[r]) {
      const ElementPtr host = hostOf(p_, p_.rooms[r]);
      const Imported* i = host && host->counted && !host->demolished ? host->imported() : nullptr;
      solids_[r] = i && i->mesh && i->mesh->triangles.size() <= most ? host : nullptr;
    }
    return *solids_[r];
  }
  /// Does it reach above the eaves where no gable stands?
  static bool behindSlope(const PlacedOpening& q, const Room& room, const Mass& m) {
    const double eaves = m.base + m.height, head = room.floor + q.opening.sill + q.opening.height;
    if (head <= eaves + 1e-6) return false;
    const auto corners = q.corners(room.floor, room.floor + room.height, q.depth);
    return std::any_of(corners.begin(), corners.begin() + 2, [&](Vec3 c) {
      return head > eaves + (m.roof.flat() ? 0 : roofHeight(m.roof, m.outline, xy(c))) + 1e-6;
    });
  }

  void pierceRoof(PlacedOpening& q, const Room& room) {
    const double top = room.floor + room.height;
    const Vec2 middle{q.opening.along + q.opening.width / 2, q.opening.sill + q.opening.height / 2};
    for (const ElementPtr& e : p_.elements) {
      const Mass* m = e->mass();
      if (!m || !e->counted || e->demolished || top < m->base || top > m->top() + 1e-6 || !contains(m->outline, middle))
        continue;
      if (!m->roof.flat()) {
        find(Rank::BendsResult, "opening.sloped",
             fmt::format("\"{}\" of \"{}\" lies in a level ceiling under the sloping roof of \"{}\", which it does not "
                         "open: a ceiling that reaches the roof follows it, and its rooflights do.",
                         q.opening.name, room.name, e->name),
             q.opening.id.value);
        return;
      }
      if (m->base + m->height - top > deepestWall) {
        find(Rank::BendsResult, "opening.buried",
             fmt::format("\"{}\" of \"{}\" lies more than {:g} m under the roof of \"{}\".", q.opening.name, room.name,
                         deepestWall, e->name),
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
  std::vector<RoomForm> forms_;
  std::vector<std::optional<ElementPtr>> solids_; ///< by room, once asked for
  OpeningLayout out_;
};

} // namespace

OpeningLayout placedOpenings(const Project& project) {
  auto state = derivedState(project, true);
  if (const auto known = project.derived->openings(state)) return *known;
  const auto made = std::make_shared<const OpeningLayout>(Placer(project).run());
  project.derived->keep(std::move(state), made);
  return *made;
}

} // namespace noonward
