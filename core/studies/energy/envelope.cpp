#include "core/studies/energy/envelope.h"
#include "core/geometry/polygon.h"
#include "core/model/light_model.h"
#include "core/model/rooms/room_form.h"
#include "core/model/rooms/walls.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

constexpr double slab = 0.8;      ///< m: so far apart a ceiling and the floor above still belong together
constexpr double roofDepth = 1.2; ///< m, of a roof over the ceiling
constexpr double onGround = 0.5;  ///< m above the ground
constexpr double least = 1e-6;    ///< m², of a surface

/// m² of the outline that none of the others covers.
double uncovered(const Outline& outline, const std::vector<Outline>& others) {
  std::vector<Ring> cuts;
  for (const Outline& o : others.empty() ? std::vector<Outline>{} : united(others)) cuts.push_back(o.outer);
  double left = 0;
  for (const Outline& o : difference(outline, cuts)) left += area(o);
  return left;
}

/// Surfaces of one room by geometry, as it is drawn.
class Drawn {
public:
  Drawn(const Project& p, std::size_t index, const OpeningLayout& laid, RoomEnvelope& e)
      : p_(p), index_(index), room_(p.rooms[index]), form_(roomForm(p, room_)), laid_(laid), e_(e) {}

  void walls() {
    const auto outer = outerEdges(p_, index_);
    const auto behind = roomsBehind(p_, index_);
    const Ring& ring = room_.outline.outer;
    for (std::size_t k = 0; k < outer.size(); ++k) {
      const Vec2 along = ring[(k + 1) % ring.size()] - ring[k];
      const double all = form_.wallArea(ring[k], ring[(k + 1) % ring.size()]), holes = openings(int(k));
      const double azimuth = wrapTwoPi(std::atan2(along.y, -along.x) + p_.site.northAngle);
      if (outer[k]) {
        put(int(k), std::max(0.0, all - holes), Beyond::Outdoors, {}, azimuth);
        continue;
      }
      double left = 1;
      for (const auto& [r, share] : behind[k]) {
        put(int(k), std::max(0.0, all - holes) * share, Beyond::Alike, r, azimuth);
        left -= share;
      }
      put(int(k), std::max(0.0, all - holes) * left, Beyond::Alike, {}, azimuth);
    }
  }

  void ceilingAndFloor() {
    const double ceiling = room_.floor + room_.height;
    const ElementPtr host = shelterOf(p_, room_);
    const Mass* mass = host ? host->mass() : nullptr;
    const double top = mass ? mass->base + mass->height : ceiling, base = mass ? mass->base : room_.floor;
    const double free = towards(
        ceilingEdge, [&](const Room& o) { return o.floor > room_.floor && std::abs(o.floor - ceiling) <= slab; });
    const double slanted = form_.level || !(e_.floorArea > 0) ? 1 : form_.ceilingArea() / e_.floorArea;
    put(ceilingEdge, std::max(0.0, free * slanted - openings(-1)),
        top <= ceiling + roofDepth || !form_.level ? Beyond::Outdoors : Beyond::Alike);
    const double bare = towards(floorEdge, [&](const Room& o) {
      return o.floor < room_.floor && std::abs(o.floor + o.height - room_.floor) <= slab;
    });
    put(floorEdge, bare,
        room_.floor <= p_.site.groundLevel + onGround ? Beyond::Ground
        : base >= room_.floor - roofDepth             ? Beyond::Outdoors
                                                      : Beyond::Alike);
  }

private:
  double openings(int edge) const {
    double sum = 0;
    for (const PlacedOpening& o : laid_.openings)
      if (o.room == index_ && !o.raised && o.opening.room == room_.id &&
          (edge < 0 ? o.opening.edge < 0 : o.opening.edge == edge))
        sum += o.area();
    return sum;
  }
  void put(int edge, double area, Beyond drawn, std::optional<std::size_t> neighbour = {}, double azimuth = 0) {
    if (area <= least) return;
    EnvelopeSurface s;
    s.edge = edge;
    s.area = area;
    s.drawn = s.beyond = drawn;
    s.neighbour = neighbour;
    s.azimuth = azimuth;
    e_.surfaces.push_back(std::move(s));
  }
  /// What rooms above or below cover; m² that none does.
  double towards(int edge, const std::function<bool(const Room&)>& lies) {
    std::vector<Outline> covers;
    double left = area(room_.outline);
    for (std::size_t r = 0; r < p_.rooms.size(); ++r) {
      const Room& o = p_.rooms[r];
      if (r == index_ || !lies(o) || checkOutline(o.outline).fault != OutlineFault::None) continue;
      covers.push_back(o.outline);
      const double now = uncovered(room_.outline, covers); // where two overlap it is the first's
      put(edge, left - now, Beyond::Alike, r);
      left = now;
    }
    return left;
  }

  const Project& p_;
  std::size_t index_;
  const Room& room_;
  RoomForm form_;
  const OpeningLayout& laid_;
  RoomEnvelope& e_;
};

/// U of openings, each glazing looked up once.
class GlassOf {
public:
  explicit GlassOf(const Project& p) : p_(p), library_(libraryGlazings()) {}
  double of(const PlacedOpening& o) {
    const std::string name =
        finishFor(p_, {Role::Glazing, o.opening.id.value, {}, "", o.opening.type, o.opening.glazing, o.facing}).name;
    const auto [at, fresh] = known_.try_emplace(name, 0);
    if (fresh) {
      const Glazing* g = findGlazing(p_.glazings, name);
      if (!g) g = findGlazing(library_, name);
      at->second = uValueOf(g ? *g : Glazing{});
    }
    return at->second;
  }

private:
  const Project& p_;
  std::vector<Glazing> library_;
  std::map<std::string, double> known_;
};

HeatFlow flowOf(const EnvelopeSurface& s) {
  if (s.beyond == Beyond::Alike) return HeatFlow::Inside;
  if (s.edge >= 0) return HeatFlow::Wall;
  if (s.edge == ceilingEdge) return HeatFlow::Roof;
  return s.beyond == Beyond::Ground ? HeatFlow::Ground : HeatFlow::ExposedFloor;
}

} // namespace

std::vector<RoomEnvelope> roomEnvelopes(const Project& p) {
  std::vector<RoomEnvelope> out;
  const OpeningLayout laid = placedOpenings(p);
  GlassOf glass(p);
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    RoomEnvelope& e = out.emplace_back();
    e.room = room.id;
    if (checkOutline(room.outline).fault != OutlineFault::None) continue;
    e.floorArea = area(room.outline);
    const RoomForm form = roomForm(p, room);
    e.volume = form.level ? e.floorArea * room.height : form.volume();
    for (const PlacedOpening& o : laid.openings)
      if (o.room == r && o.opening.room == room.id) {
        e.openings += o.area();
        e.windows += o.area() * glass.of(o);
      }
    Drawn drawn(p, r, laid, e);
    drawn.walls();
    drawn.ceilingAndFloor();
    for (EnvelopeSurface& s : e.surfaces) {
      const HeatSurface* said = heatSurface(p.heat, room.id, s.edge);
      if (said && said->beyond != Beyond::AsDrawn) {
        s.beyond = said->beyond;
        if (said->beyond != s.drawn || said->beyond == Beyond::Alike) s.neighbour.reset();
      }
      s.flow = flowOf(s);
      const std::string& usual = p.heat.*constructionOf(s.flow);
      s.construction = said && !said->construction.empty() ? said->construction
                       : !usual.empty()                    ? usual
                                                           : usualConstruction(s.flow);
      if (s.neighbour) e.inside += s.area;
      if (s.beyond == Beyond::Outdoors)
        (s.edge >= 0 ? e.wall : s.edge == ceilingEdge ? e.roof : e.exposedFloor) += s.area;
      if (s.beyond == Beyond::Ground) e.ground += s.area;
    }
  }
  return out;
}

double uValueOf(const Glazing& g) {
  constexpr std::array<double, 4> byPanes{5.8, 5.8, 2.8, 1.9}; // typical values of the trade
  return g.uValue > 0 ? g.uValue : byPanes[std::size_t(std::clamp(g.panes, 0, 3))];
}

double lossShare(const HeatDesign& d, Beyond beyond) {
  constexpr double ground = 0.5;
  return beyond == Beyond::Ground     ? ground
         : beyond == Beyond::Unheated ? d.unheatedShare
         : beyond == Beyond::Alike    ? 0
                                      : 1;
}

double heatLoss(const Project& p, const RoomEnvelope& e) {
  double sum = e.windows;
  for (const EnvelopeSurface& s : e.surfaces) {
    if (s.beyond == Beyond::Alike) continue;
    auto c = findConstruction(p.heat, s.construction);
    if (!c) c = findConstruction({}, usualConstruction(s.flow));
    sum += s.area * uValueOf(*c, s.flow) * lossShare(p.heat, s.beyond);
  }
  return sum;
}

std::string surfaceName(const Project& p, const EnvelopeSurface& s) {
  if (s.edge == ceilingEdge) return "Ceiling";
  if (s.edge == floorEdge) return "Floor";
  const Vec3 out = skyDirection(0, s.azimuth, p.site.northAngle);
  const auto facing = facingOf(out, p.site.northAngle);
  std::string name = facing ? facingKey(*facing) : "side";
  name[0] = char(name[0] - 'a' + 'A');
  return fmt::format("{} wall {}", name, s.edge + 1);
}

std::string beyondText(const Project& p, const EnvelopeSurface& s) {
  switch (s.beyond) {
  case Beyond::Outdoors:
    return "the outdoors";
  case Beyond::Ground:
    return "the ground";
  case Beyond::Unheated:
    return "an unheated space";
  case Beyond::Alike:
  case Beyond::AsDrawn:
    break;
  }
  return s.neighbour ? p.rooms[*s.neighbour].name : "what is as warm";
}

} // namespace noonward
