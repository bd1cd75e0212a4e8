#include "core/studies/shadow_plan.h"
#include "core/geometry/plan_cut.h"
#include "core/light/scene.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

namespace {

constexpr double seam = 1e-4; ///< m² below which a piece is a seam between what was joined

/// Part of the plan that is asked for.
struct PlanBox {
  Vec2 low{-1e300, -1e300}, high{1e300, 1e300};
  bool bounded() const { return low.x > -1e200; }
  bool meets(Vec2 otherLow, Vec2 otherHigh) const {
    return otherLow.x <= high.x && otherHigh.x >= low.x && otherLow.y <= high.y && otherHigh.y >= low.y;
  }
};

struct Caster {
  std::shared_ptr<const Mesh> mesh;
  Box3 box;
};

/// A plane piece that faces up: n·x = d. Without a shape it has no end.
struct Receiver {
  Vec3 normal{0, 0, 1};
  double d = 0;
  Region shape;
  Vec2 low, high;   ///< of the shape
  double floor = 0; ///< m, its lowest point
  bool proposed = false, roof = false, endless = false;
};

/// What stands there, with or without the proposal, and where it stands on the ground.
struct Standing {
  std::vector<Caster> casters;
  Region footprint;
};

/// What of `now` casts and did not before; nothing where something of before is gone or stands otherwise.
std::optional<Standing> added(const Standing& now, const Standing& before) {
  std::multiset<Digest> was; // by what they are: they may have been made apart
  for (const Caster& c : before.casters) was.insert(digestOf(*c.mesh));
  Standing out;
  for (const Caster& c : now.casters) {
    if (const auto at = was.find(digestOf(*c.mesh)); at != was.end())
      was.erase(at);
    else
      out.casters.push_back(c);
  }
  if (!was.empty()) return {};
  return out;
}

std::vector<Ring> ringsOf(const std::vector<CutLine>& lines) {
  using Key = std::pair<long long, long long>;
  const auto key = [](Vec2 p) { return Key{std::llround(p.x * 1e4), std::llround(p.y * 1e4)}; };
  std::multimap<Key, std::size_t> from;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    from.emplace(key(lines[i].a), i);
    from.emplace(key(lines[i].b), i);
  }
  std::vector<bool> used(lines.size(), false);
  std::vector<Ring> out;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    if (used[i]) continue;
    Ring ring;
    std::size_t at = i;
    Vec2 end = lines[i].a;
    while (at < lines.size()) {
      used[at] = true;
      ring.push_back(end);
      end = key(lines[at].a) == key(end) ? lines[at].b : lines[at].a;
      const auto [first, last] = from.equal_range(key(end));
      at = lines.size();
      for (auto k = first; k != last; ++k)
        if (!used[k->second]) at = k->second;
    }
    if (ring.size() >= 3 && key(end) == key(ring.front())) out.push_back(std::move(ring));
  }
  return out;
}

/// Where a solid stands on the ground: its cut a hand above it.
Region footprintOf(const Element& e, const Mesh& mesh, double ground) {
  constexpr double hand = 0.02;
  const Box3 box = mesh.box();
  if (box.high.z <= ground + hand || box.low.z > ground + hand) return {};
  if (const Mass* m = e.mass()) return {tidied(m->outline)};
  if (e.plate() || e.tree()) return {};
  std::vector<std::vector<CutLine>> cuts(1);
  const double level = ground + hand;
  cutAt(mesh, std::span(&level, 1), cuts);
  return oddlyCovered(ringsOf(cuts[0]));
}

Expected<Standing> standing(const Project& p, bool withProposed, const PlanBox& wanted,
                            const std::function<double(Vec2)>& groundAt) {
  auto model = lightModel(p, withProposed);
  if (!model) return tl::unexpected(model.error());
  Standing out;
  const auto add = [&](std::shared_ptr<const Mesh> mesh) {
    if (mesh->triangles.empty()) return;
    const Box3 box = mesh->box();
    out.casters.push_back({std::move(mesh), box});
  };
  std::map<std::uint64_t, bool> trees;
  for (const ElementPtr& e : p.elements) trees[e->id.value] = e->tree() != nullptr;
  for (const LightPart& part : model->parts) {
    const bool leaves = part.source == SurfaceSource::Element && trees[part.element];
    if (!part.glazed && part.role != Role::Ground && !leaves) add(part.mesh);
  }
  std::vector<Ring> stands;
  for (const ElementPtr& e : p.elements) {
    if (!standsInTheLight(*e, withProposed) || e->role == Role::Ground) continue;
    if (const Tree* tree = e->tree()) { // its crown as a whole
      Tree solid = *tree;
      solid.leaves = Tree::Leaves::Solid;
      auto mesh = meshOf(solid);
      if (!mesh) return fail(mesh.error().message, nameOf(*e));
      add(std::move(*mesh));
      continue;
    }
    auto mesh = elementMesh(*e);
    if (!mesh) return tl::unexpected(mesh.error());
    if ((*mesh)->triangles.empty()) continue;
    const Box3 box = (*mesh)->box();
    if (!wanted.meets(xy(box.low), xy(box.high))) continue;
    const double ground = groundAt({(box.low.x + box.high.x) / 2, (box.low.y + box.high.y) / 2});
    for (const Outline& o : footprintOf(*e, **mesh, ground)) {
      if (!o.holes.empty()) {
        out.footprint = regionUnion(out.footprint, {o});
        continue;
      }
      stands.push_back(o.outer);
    }
  }
  out.footprint = regionUnion(out.footprint, covered(stands));
  return out;
}

void bound(Receiver& r, const std::vector<Vec3>& corners) {
  r.low = r.high = {corners[0].x, corners[0].y};
  r.floor = corners[0].z;
  for (Vec3 c : corners) {
    r.low = {std::min(r.low.x, c.x), std::min(r.low.y, c.y)};
    r.high = {std::max(r.high.x, c.x), std::max(r.high.y, c.y)};
    r.floor = std::min(r.floor, c.z);
  }
}

/// A face of a mesh, or one triangle of it, as a receiver; nothing where it does not face up, or where nobody asks.
std::optional<Receiver> receiverOf(const Mesh& mesh, const std::vector<std::size_t>& triangles, double leastUp,
                                   const PlanBox& wanted) {
  Vec3 sum{};
  std::vector<Ring> rings;
  std::vector<Vec3> corners;
  for (std::size_t t : triangles) {
    sum = sum + mesh.areaVector(t);
    Ring ring;
    for (std::uint32_t k : mesh.triangles[t]) {
      corners.push_back(mesh.points[k]);
      ring.push_back({mesh.points[k].x, mesh.points[k].y});
    }
    rings.push_back(std::move(ring));
  }
  if (!(length(sum) > 1e-9)) return {};
  Receiver r;
  r.normal = normalized(sum);
  if (r.normal.z < leastUp) return {};
  r.d = dot(r.normal, corners.front());
  bound(r, corners);
  if (!wanted.meets(r.low, r.high)) return {};
  r.shape = covered(rings);
  return r;
}

struct Receivers {
  std::vector<Receiver> list;
  bool terrain = false;
};

Expected<Receivers> receiversOf(const Project& p, bool roofs, const PlanBox& wanted) {
  Receivers out;
  std::vector<Ring> ground;
  for (const ElementPtr& e : p.elements) {
    if (!standsInTheLight(*e, true) || e->role != Role::Ground) continue;
    const auto mesh = elementMesh(*e);
    if (!mesh) return tl::unexpected(mesh.error());
    // Triangles beside each other in one plane are one receiver, whatever the file made of them.
    Mesh joined = **mesh;
    findFaces(joined, 1e-6);
    std::map<std::uint32_t, std::vector<std::size_t>> faces;
    for (std::size_t t = 0; t < joined.triangles.size(); ++t) faces[joined.faceOf(t)].push_back(t);
    out.terrain = out.terrain || !faces.empty();
    for (const auto& [face, triangles] : faces) {
      auto r = receiverOf(joined, triangles, 0.05, wanted);
      if (!r) continue;
      for (const Outline& o : r->shape) ground.push_back(o.outer);
      out.list.push_back(std::move(*r));
    }
  }
  Receiver level;
  level.d = p.site.groundLevel;
  level.floor = p.site.groundLevel;
  level.endless = true;
  level.shape = covered(ground); // what is taken off it
  const Region asked{rectangle(wanted.low.x, wanted.low.y, wanted.high.x, wanted.high.y)};
  if (!wanted.bounded() || area(regionMinus(asked, level.shape)) > seam) out.list.push_back(std::move(level));
  if (!roofs) return out;
  const Scene scene = buildScene(p);
  for (const ElementPtr& e : p.elements) {
    if (!standsInTheLight(*e, true) || e->role == Role::Ground || e->role == Role::Glazing || e->tree()) continue;
    const auto mesh = elementMesh(*e);
    if (!mesh) return tl::unexpected(mesh.error());
    std::map<std::uint32_t, std::vector<std::size_t>> faces;
    for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) faces[(*mesh)->faceOf(t)].push_back(t);
    for (const auto& [face, triangles] : faces) {
      auto r = receiverOf(**mesh, triangles, 0.2, wanted);
      if (!r) continue;
      const Vec3 a = (*mesh)->points[(*mesh)->triangles[triangles[0]][0]],
                 b = (*mesh)->points[(*mesh)->triangles[triangles[0]][1]],
                 c = (*mesh)->points[(*mesh)->triangles[triangles[0]][2]];
      const Vec3 middle = (a + b + c) * (1.0 / 3) + r->normal * 0.01;
      if (scene.hidden(middle, {0, 0, 1})) continue; // a floor under a roof
      r->roof = true;
      r->proposed = e->proposed;
      out.list.push_back(std::move(*r));
    }
  }
  return out;
}

/// The shadow that a mesh casts along the sun onto a plane, as rings in plan that may overlap.
void cast(const Mesh& mesh, const Receiver& on, Vec3 sun, std::vector<Ring>& into) {
  const double facing = dot(on.normal, sun);
  for (const Triangle& t : mesh.triangles) {
    std::array<Vec3, 3> p;
    std::array<double, 3> h;
    int above = 0;
    for (std::size_t k = 0; k < 3; ++k) {
      p[k] = mesh.points[t[k]];
      h[k] = dot(on.normal, p[k]) - on.d;
      above += h[k] > 1e-6;
    }
    if (above == 0) continue;
    Ring ring;
    const auto put = [&](Vec3 q, double height) {
      const Vec3 at = q - sun * (height / facing);
      ring.push_back({at.x, at.y});
    };
    for (std::size_t k = 0; k < 3; ++k) { // what lies above the plane
      const std::size_t next = (k + 1) % 3;
      if (h[k] >= 0) put(p[k], h[k]);
      if ((h[k] > 0 && h[next] < 0) || (h[k] < 0 && h[next] > 0))
        put(p[k] + (p[next] - p[k]) * (h[k] / (h[k] - h[next])), 0);
    }
    if (ring.size() >= 3 && std::abs(signedArea(ring)) > 1e-9) into.push_back(std::move(ring));
  }
}

/// Outlines that may meet a box in plan.
Region near(const Region& region, Vec2 low, Vec2 high) {
  const PlanBox box{low, high};
  Region out;
  for (const Outline& o : region) {
    Vec2 a{1e300, 1e300}, b{-1e300, -1e300};
    for (Vec2 p : o.outer) {
      a = {std::min(a.x, p.x), std::min(a.y, p.y)};
      b = {std::max(b.x, p.x), std::max(b.y, p.y)};
    }
    if (box.meets(a, b)) out.push_back(o);
  }
  return out;
}

/// May the shadow of a box fall into a receiver's plan, and where it is asked for?
bool mayReach(const Box3& box, const Receiver& r, Vec3 sun, const PlanBox& wanted) {
  // What falls on the receiver falls no lower than its lowest point.
  const double drop = box.high.z - r.floor;
  if (drop <= 0) return false;
  const Vec2 fall{-sun.x / sun.z * drop, -sun.y / sun.z * drop};
  const Vec2 low{box.low.x + std::min(0.0, fall.x), box.low.y + std::min(0.0, fall.y)},
      high{box.high.x + std::max(0.0, fall.x), box.high.y + std::max(0.0, fall.y)};
  if (!wanted.meets(low, high)) return false;
  if (r.endless) return true;
  if (!PlanBox{r.low, r.high}.meets(low, high)) return false;
  double most = 0;
  for (int k = 0; k < 8; ++k) {
    const Vec3 c{k & 1 ? box.high.x : box.low.x, k & 2 ? box.high.y : box.low.y, k & 4 ? box.high.z : box.low.z};
    most = std::max(most, dot(r.normal, c) - r.d);
  }
  if (most <= 1e-6) return false;
  const double far = most / dot(r.normal, sun);
  const Vec2 shift{-sun.x * far, -sun.y * far};
  return box.low.x + std::min(0.0, shift.x) <= r.high.x && box.high.x + std::max(0.0, shift.x) >= r.low.x &&
         box.low.y + std::min(0.0, shift.y) <= r.high.y && box.high.y + std::max(0.0, shift.y) >= r.low.y;
}

/// All shadow on one receiver.
Region shadowOn(const Receiver& r, const Standing& s, Vec3 sun, const PlanBox& wanted, Threads threads) {
  if (!r.endless && dot(r.normal, sun) <= 1e-3) return r.shape; // it turns away from the sun
  constexpr std::size_t chunk = 32;
  std::vector<std::vector<Ring>> parts((s.casters.size() + chunk - 1) / chunk);
  const auto gather = [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      if (!mayReach(s.casters[i].box, r, sun, wanted)) continue;
      std::vector<Ring> rings;
      cast(*s.casters[i].mesh, r, sun, rings);
      for (Outline& o : covered(rings)) {
        if (o.holes.empty()) {
          parts[a / chunk].push_back(std::move(o.outer));
          continue;
        }
        // A shadow with holes in it: cut in triangles, so that rings alone tell it.
        if (const auto triangles = triangulate(o)) {
          const std::vector<Vec2> p = points(tidied(o));
          for (const auto& t : *triangles) parts[a / chunk].push_back({p[t[0]], p[t[1]], p[t[2]]});
        } else {
          parts[a / chunk].push_back(std::move(o.outer));
        }
      }
    }
  };
  if (r.endless)
    forChunks(s.casters.size(), chunk, threads, gather);
  else
    for (std::size_t a = 0; a < s.casters.size(); a += chunk) gather(a, std::min(s.casters.size(), a + chunk));
  std::vector<Ring> all;
  for (auto& part : parts)
    for (Ring& ring : part) all.push_back(std::move(ring));
  Region out = covered(all);
  return r.endless ? regionMinus(out, r.shape) : regionCommon(out, r.shape);
}

void append(Region& to, Region&& more) {
  for (Outline& o : more) to.push_back(std::move(o));
}

} // namespace

double ShadowPlan::freshAreaHours() const {
  double sum = 0;
  for (const ShadowMoment& m : moments) sum += m.ground.freshArea * hoursEach;
  return sum;
}

double ShadowPlan::freshAreaHours(GroupId area) const {
  double sum = 0;
  for (const ShadowMoment& m : moments)
    for (const ShadowArea& a : m.areas)
      if (a.group == area) sum += a.fresh * hoursEach;
  return sum;
}

double ShadowPlan::mostFresh(GroupId area, Instant* when) const {
  double most = 0;
  for (const ShadowMoment& m : moments)
    for (const ShadowArea& a : m.areas)
      if (a.group == area && a.fresh > most) {
        most = a.fresh;
        if (when) *when = m.at;
      }
  return most;
}

std::vector<Instant> stepMoments(const Project& p, Date date, double beginMinute, double endMinute,
                                 double stepMinutes) {
  std::vector<Instant> out;
  const Zone zone = p.zone();
  for (double m = beginMinute + stepMinutes / 2; m < endMinute; m += stepMinutes)
    out.push_back(zone.instant({date, m * 60}));
  return out;
}

Expected<ShadowPlan> shadowPlan(const Project& p, const ShadowPlanSettings& s, RunControl& control, Threads threads) {
  const auto start = std::chrono::steady_clock::now();
  if (s.moments.empty()) return fail("A shadow plan needs a moment.", "moments");
  if (const auto zone = Zone::named(p.site.zone); !zone) return tl::unexpected(zone.error());
  std::vector<const SensorGroup*> areas;
  for (const SensorGroup& g : p.groups) {
    const bool named = std::find(s.areas.begin(), s.areas.end(), g.id) != s.areas.end();
    const bool isArea = std::holds_alternative<GroundArea>(g.layout);
    if (named && !isArea)
      return fail(fmt::format("\"{}\" is no area on the ground, so that no shadow on it can be measured.", g.name),
                  "areas");
    if (isArea && (named || s.areas.empty())) areas.push_back(&g);
  }
  PlanBox wanted;
  if (s.onlyAreas) {
    std::swap(wanted.low, wanted.high);
    for (const SensorGroup* g : areas)
      for (Vec2 q : std::get<GroundArea>(g->layout).outline.outer) {
        wanted.low = {std::min(wanted.low.x, q.x), std::min(wanted.low.y, q.y)};
        wanted.high = {std::max(wanted.high.x, q.x), std::max(wanted.high.y, q.y)};
      }
  }
  auto receivers = receiversOf(p, s.roofs, wanted);
  if (!receivers) return tl::unexpected(receivers.error());
  ShadowPlan out;
  Hasher key;
  key.add("shadow plan 1")
      .add(s.roofs)
      .add(s.onlyAreas)
      .add(s.hoursEach)
      .add(p.site.northAngle)
      .add(p.site.groundLevel);
  key.add(p.site.place.latitude).add(p.site.place.longitude);
  for (const bool with : {true, false}) hashGeometry(key, p, with);
  for (const Instant& at : s.moments) key.add(isoText(at, 0));
  for (const SensorGroup* g : areas) key.add(g->id.value);
  out.key = key.digest();
  out.hoursEach = s.hoursEach;
  out.hasTerrain = receivers->terrain;
  out.hasProposal = hasProposal(p);
  const auto groundAt = [&](Vec2 at) {
    double z = p.site.groundLevel;
    for (const Receiver& r : receivers->list)
      if (!r.endless && !r.roof && at.x >= r.low.x && at.x <= r.high.x && at.y >= r.low.y && at.y <= r.high.y &&
          contains(r.shape, at))
        z = std::max(z, (r.d - r.normal.x * at.x - r.normal.y * at.y) / r.normal.z);
    return z;
  };
  auto now = standing(p, true, wanted, groundAt);
  if (!now) return tl::unexpected(now.error());
  Standing then;
  if (out.hasProposal) {
    auto without = standing(p, false, wanted, groundAt);
    if (!without) return tl::unexpected(without.error());
    then = std::move(*without);
  }
  const std::optional<Standing> more = out.hasProposal ? added(*now, then) : std::nullopt;
  for (const Instant& at : s.moments) {
    if (!control.goesOn()) break;
    ShadowMoment m;
    m.at = at;
    const SolarPosition position = solarPosition(sunOfDate(at), p.site.place);
    m.altitude = position.altitude;
    m.azimuth = position.azimuth;
    m.up = m.altitude > leastShadowAltitude;
    const Vec3 sun = toModel(position.direction, p.site.northAngle);
    if (m.up) {
      std::vector<ShadowOn> pieces(receivers->list.size());
      const auto shade = [&](std::size_t k) {
        const Receiver& r = receivers->list[k];
        ShadowOn& on = pieces[k];
        const auto offGround = [&](Region shadow, const Region& footprint) {
          if (r.roof || shadow.empty()) return shadow;
          return regionMinus(shadow, r.endless ? footprint : near(footprint, r.low, r.high));
        };
        const bool wasThere = out.hasProposal && !r.proposed; // a roof of the proposal was not there before
        const Region raw = wasThere ? shadowOn(r, then, sun, wanted, threads) : Region{};
        // What is added alone can be new: what the others cast is the same to the last digit, and leaves no seams.
        const Region extra = wasThere && more ? shadowOn(r, *more, sun, wanted, threads) : Region{};
        const Region all = !wasThere || !more ? shadowOn(r, *now, sun, wanted, threads)
                           : extra.empty()    ? raw
                                              : regionUnion(raw, extra);
        on.all = offGround(all, now->footprint);
        if (!wasThere) return;
        if (more) {
          on.fresh = withoutSlivers(offGround(regionMinus(extra, raw), now->footprint), seam);
          on.before = offGround(raw, then.footprint);
          return;
        }
        on.fresh = withoutSlivers(regionMinus(on.all, raw), seam);
        on.before = offGround(raw, then.footprint);
      };
      // The endless ground shares its casters out, the many faces of terrain and roofs are shared out themselves.
      for (std::size_t k = 0; k < pieces.size(); ++k)
        if (receivers->list[k].endless) shade(k);
      forChunks(pieces.size(), 8, threads, [&](std::size_t a, std::size_t b) {
        for (std::size_t k = a; k < b && control.goesOn(); ++k)
          if (!receivers->list[k].endless) shade(k);
      });
      for (std::size_t k = 0; k < pieces.size(); ++k) {
        ShadowOn& on = receivers->list[k].roof ? m.roofs : m.ground;
        append(on.all, std::move(pieces[k].all));
        append(on.before, std::move(pieces[k].before));
        append(on.fresh, std::move(pieces[k].fresh));
      }
      if (!control.goesOn()) break;
    }
    for (ShadowOn* on : {&m.ground, &m.roofs}) {
      if (!out.hasProposal) on->before = on->all;
      if (out.hasTerrain) // faces beside each other become one
        for (Region* r : {&on->all, &on->before, &on->fresh}) *r = regionUnion(*r, {});
      on->allArea = area(on->all);
      on->beforeArea = area(on->before);
      on->freshArea = area(on->fresh);
    }
    for (const SensorGroup* g : areas) {
      const Region shape{tidied(std::get<GroundArea>(g->layout).outline)};
      ShadowArea a{g->id, g->name, area(shape), 0, 0, 0, {}};
      a.all = area(regionCommon(m.ground.all, shape));
      a.before = area(regionCommon(m.ground.before, shape));
      a.freshParts = regionCommon(m.ground.fresh, shape);
      a.fresh = area(a.freshParts);
      m.areas.push_back(std::move(a));
    }
    out.moments.push_back(std::move(m));
    if (control.progress) control.progress(double(out.moments.size()) / double(s.moments.size()));
  }
  // What lies in shadow for k moments: each new shadow lifts what it shares with k − 1 of the former.
  constexpr std::size_t mostLasting = 24;
  if (out.moments.size() > 1 && out.moments.size() <= mostLasting)
    for (const ShadowMoment& m : out.moments) {
      const Region& shadow = out.hasProposal ? m.ground.fresh : m.ground.all;
      if (shadow.empty()) continue;
      std::vector<Region> next = out.lasting;
      next.emplace_back();
      for (std::size_t k = next.size(); k-- > 0;) {
        const Region more = k == 0 ? shadow : regionCommon(out.lasting[k - 1], shadow);
        next[k] = withoutSlivers(regionUnion(next[k], more), seam);
      }
      while (!next.empty() && next.back().empty()) next.pop_back();
      out.lasting = std::move(next);
    }
  out.end = control.end(out.moments.size() == s.moments.size());
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return out;
}

} // namespace noonward
