// What is asked of the one building: whose a room is, what a surface is called, what of it enters a hash.

#include "core/base/tolerances.h"
#include "core/model/light_model.h"
#include "core/model/settings/fields.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

bool standsInTheLight(const Element& e, bool withProposed) {
  return e.counted && e.role != Role::Ignore && !(withProposed ? e.demolished : e.proposed);
}

bool hasProposal(const Project& p) {
  return std::any_of(p.elements.begin(), p.elements.end(), [](const ElementPtr& e) {
    return e->counted && e->role != Role::Ignore && (e->proposed || e->demolished);
  });
}

ElementPtr hostOf(const Project& p, const Room& room) {
  if (checkOutline(room.outline).fault != OutlineFault::None) return nullptr;
  const Vec2 middle = centroid(room.outline);
  const double z = room.floor + room.height / 2;
  ElementPtr solid, gone;
  for (const ElementPtr& e : p.elements) {
    if (e->role == Role::Ignore && !e->ghost) continue;
    if (const Mass* m = e->mass(); m && encloses(*m, {middle.x, middle.y, z})) {
      if (!e->demolished) return e;
      gone = e; // its own, unless what takes its place holds the room
    }
    if (!solid && e->imported() && (e->role == Role::Building || e->role == Role::Neighbour) &&
        encloses(*e->imported(), {middle.x, middle.y, z}))
      solid = e;
  }
  if (!solid && !gone) // an attic: where its middle lies over the slope, its foot does not
    for (const ElementPtr& e : p.elements)
      if (const Mass* m = e->mass(); m && !m->roof.flat() && !(e->role == Role::Ignore && !e->ghost) &&
                                     encloses(*m, {middle.x, middle.y, room.floor + std::min(0.5, room.height / 4)}))
        return e;
  return solid ? solid : gone;
}

ElementPtr shelterOf(const Project& p, const Room& room) {
  if (const ElementPtr host = hostOf(p, room)) return host;
  if (checkOutline(room.outline).fault != OutlineFault::None) return nullptr;
  const double whole = area(room.outline), z = room.floor + room.height / 2;
  ElementPtr best;
  double most = 0.01 * whole;
  for (const ElementPtr& e : p.elements) {
    const Mass* m = e->mass();
    if (!m || (e->role == Role::Ignore && !e->ghost) || z <= m->base || z >= m->top()) continue;
    double outside = 0;
    for (const Outline& o : difference(room.outline, {m->outline.outer})) outside += area(o);
    if (whole - outside > most) {
      most = whole - outside;
      best = e;
    }
  }
  return best;
}

bool isProposed(const Project& p, const Room& room) {
  if (const ElementPtr host = hostOf(p, room)) return host->proposed;
  return std::any_of(p.elements.begin(), p.elements.end(), [](const ElementPtr& e) { return e->proposed; });
}

bool isDemolished(const Project& p, const Room& room) {
  const ElementPtr host = hostOf(p, room);
  return host && host->demolished;
}

bool anyDemolished(const Project& p) {
  return std::any_of(p.elements.begin(), p.elements.end(), [](const ElementPtr& e) { return e->demolished; });
}

Project withDemolishedStanding(Project p) {
  for (ElementPtr& e : p.elements)
    if (e->demolished) {
      auto standing = std::make_shared<Element>(*e);
      standing->demolished = false;
      e = std::move(standing);
    }
  return p;
}

std::string surfaceName(const Project& p, std::uint64_t source) {
  if (const ElementPtr e = p.element({source})) return e->name.empty() ? e->id.text() : e->name;
  for (const Room& r : p.rooms)
    if (r.id.value == source) return r.name;
  for (const ShadeRule& s : p.shadeRules)
    if (s.id.value == source) return s.name.empty() ? shadeKindName(s.kind) : s.name;
  for (const PlacedOpening& o : placedOpenings(p).openings)
    if (o.opening.id.value == source)
      return fmt::format("{}: {}", p.rooms[o.room].name, o.opening.name.empty() ? "window" : o.opening.name);
  return {};
}

void hashGeometry(Hasher& hash, const Project& p, bool withProposed) {
  const auto outline = [&](const Outline& o) {
    hash.add(std::uint64_t(o.outer.size()));
    for (Vec2 q : o.outer) hash.add(q);
    for (const Ring& h : o.holes) {
      hash.add(std::uint64_t(h.size()));
      for (Vec2 q : h) hash.add(q);
    }
  };
  const auto shape = [&](const Element& e) { std::visit([&](const auto& s) { hashShape(hash, s); }, e.shape); };
  if (!withProposed && anyDemolished(p)) return hashGeometry(hash, withDemolishedStanding(p), false);
  // 3: floors and ceilings stand clear of what lies in their plane; 4: ceilings follow roofs, imported solids are
  // pierced
  hash.add("scene 4");
  for (const ElementPtr& e : p.elements) {
    if (!standsInTheLight(*e, withProposed) || e->role == Role::Glazing) continue;
    shape(*e);
  }
  const bool some = withProposed && anyDemolished(p);
  const auto there = [&](const Room& r) { return withProposed ? !some || !isDemolished(p, r) : !isProposed(p, r); };
  if (std::none_of(p.rooms.begin(), p.rooms.end(), there)) return;
  // Openings pierce masses, and reveals go as far, whether or not the mass itself is of this state.
  for (const ElementPtr& e : p.elements)
    if (e->mass() && e->counted && !standsInTheLight(*e, withProposed)) shape(*e);
  hash.add("rooms").add(p.site.northAngle);
  std::map<RoomId, int> number;
  for (const Room& r : p.rooms) {
    number.emplace(r.id, int(number.size()));
    hash.add(there(r)).add(r.floor).add(r.height).add(r.wall);
    outline(r.outline);
  }
  const auto rooms = [&](const std::vector<RoomId>& list) {
    hash.add(std::uint64_t(list.size()));
    for (RoomId id : list) hash.add(number.contains(id) ? number.at(id) : -1);
  };
  const auto facings = [&](const std::vector<Facing>& list) {
    hash.add(std::uint64_t(list.size()));
    for (Facing f : list) hash.add(int(f));
  };
  // What is as usual adds nothing, so that answers from before there was a choice are found again.
  const auto pane = [&](double frame, double at) {
    if (frame != 0) hash.add("frame").add(tidyNumber(100 * frame));
    if (at != Opening{}.paneAt) hash.add("pane at").add(tidyNumber(100 * at));
  };
  const auto raised = [&](const Raised& r) {
    if (r.kind != Raised::Kind::Flat) hash.add("raised").add(int(r.kind)).add(tidyNumber(r.rise)).add(int(r.toward));
  };
  for (const Opening& o : p.openings) {
    rooms({o.room});
    hash.add("opening").add(o.type).add(o.edge).add(o.along).add(o.sill).add(o.width).add(o.height).add(o.repeat).add(
        o.gap);
    pane(o.frame, o.paneAt);
    if (o.edge < 0) raised(o.raised);
  }
  for (const WindowRule& w : p.windowRules) {
    hash.add("windows")
        .add(w.type)
        .add(int(w.kind))
        .add(w.ceiling)
        .add(tidyNumber(w.ratio)) // as files hold them, so that what was computed before saving is found again
        .add(w.count)
        .add(tidyNumber(w.width))
        .add(tidyNumber(w.sill))
        .add(tidyNumber(w.head));
    if (w.module != 0 || w.ends != 0) hash.add("bays").add(tidyNumber(w.module)).add(tidyNumber(w.ends));
    if (w.kind == WindowRule::Kind::Curtain) hash.add("mullion").add(tidyNumber(w.mullion));
    pane(w.frame, w.paneAt);
    if (w.ceiling) raised(w.raised);
    rooms(w.rooms);
    facings(w.facings);
  }
  for (const ShadeRule& s : p.shadeRules) {
    hashShade(hash, s);
    facings(s.facings);
    if (!s.rooms.empty()) rooms(s.rooms);
    for (OpeningId w : s.windows) hash.add(w.value);
  }
}

void hashLightModel(Hasher& h, const LightModel& m, bool withFinishes) {
  h.add("light model 1").add(m.groundLevel).add(withFinishes ? m.groundReflectance : 0.0);
  for (const LightPart& p : m.parts) {
    const Digest d = digestOf(*p.mesh);
    h.add(d).add(p.glazed).add(std::uint64_t(p.group)).add(p.room);
    if (!withFinishes) continue;
    if (p.glazed) {
      const Glazing& g = m.glazings[p.material];
      h.add(g.transmittance).add(g.panes).add(g.diffuse).add(g.reflectance).add(g.frame).add(g.dirt);
    } else {
      const Finish& f = m.finishes[p.material];
      h.add(f.reflectance).add(f.specular).add(f.roughness);
    }
  }
}

} // namespace noonward
