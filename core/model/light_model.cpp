#include "core/model/light_model.h"
#include "core/base/tolerances.h"
#include "core/geometry/mesh_build.h"
#include "core/model/derived_memory.h"
#include "core/model/rooms/room_form.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

namespace {

/// A wall in its own plane: u along, z up; what openings take is left out cell by cell, so that sills may lie on edges.
/// `top`: its upper end where that is no level, (u, z) from one side to the other; openings lie below it.
struct Rectangle {
  double u0, z0, u1, z1;
};
void wallWithHoles(Mesh& m, Vec2 a, Vec2 along, const Rectangle& wall, const std::vector<Rectangle>& holes,
                   const std::vector<Vec2>& top = {}) {
  std::vector<double> us{wall.u0, wall.u1}, zs{wall.z0, wall.z1};
  for (Vec2 t : top) us.push_back(std::clamp(t.x, wall.u0, wall.u1));
  for (const Rectangle& h : holes) {
    us.insert(us.end(), {std::clamp(h.u0, wall.u0, wall.u1), std::clamp(h.u1, wall.u0, wall.u1)});
    zs.insert(zs.end(), {std::clamp(h.z0, wall.z0, wall.z1), std::clamp(h.z1, wall.z0, wall.z1)});
  }
  for (auto* v : {&us, &zs}) {
    std::sort(v->begin(), v->end());
    v->erase(std::unique(v->begin(), v->end(), [](double x, double y) { return y - x < 1e-9; }), v->end());
  }
  const auto topAt = [&](double u) {
    for (std::size_t k = 0; k + 1 < top.size(); ++k)
      if (u <= top[k + 1].x + 1e-9) {
        const double w = top[k + 1].x - top[k].x;
        return w > 0 ? top[k].y + (top[k + 1].y - top[k].y) * (u - top[k].x) / w : top[k].y;
      }
    return top.empty() ? wall.z1 : top.back().y;
  };
  for (std::size_t i = 0; i + 1 < us.size(); ++i) {
    const double left = topAt(us[i]), right = topAt(us[i + 1]), lower = std::min(left, right);
    for (std::size_t j = 0; j + 1 < zs.size() && (top.empty() || zs[j] < lower - 1e-9 || j == 0); ++j) {
      const bool last = !top.empty() && (zs[j + 1] >= lower - 1e-9 || j + 2 == zs.size());
      const double u = 0.5 * (us[i] + us[i + 1]), z = last ? 0.5 * (zs[j] + lower) : 0.5 * (zs[j] + zs[j + 1]);
      if (std::any_of(holes.begin(), holes.end(),
                      [&](const Rectangle& h) { return u > h.u0 && u < h.u1 && z > h.z0 && z < h.z1; }))
        continue;
      const auto n = std::uint32_t(m.points.size());
      for (const auto& [x, y] : {std::pair{us[i], zs[j]},
                                 {us[i + 1], zs[j]},
                                 {us[i + 1], last ? right : zs[j + 1]},
                                 {us[i], last ? left : zs[j + 1]}}) {
        const Vec2 q = a + along * x;
        m.points.push_back({q.x, q.y, y});
      }
      m.triangles.push_back({n, n + 1, n + 2});
      m.triangles.push_back({n, n + 2, n + 3});
      if (last) break;
    }
  }
}

void addQuad(Mesh& m, Vec3 a, Vec3 b, Vec3 c, Vec3 d) {
  const auto n = std::uint32_t(m.points.size());
  m.points.insert(m.points.end(), {a, b, c, d});
  m.triangles.push_back({n, n + 1, n + 2});
  m.triangles.push_back({n, n + 2, n + 3});
}

Expected<Mesh> flat(const Outline& outline, double z, const std::vector<Ring>& more) {
  Outline o = outline;
  o.holes.insert(o.holes.end(), more.begin(), more.end());
  o = tidied(o);
  const auto t = triangulate(o);
  if (!t) return tl::unexpected(t.error());
  Mesh m;
  for (Vec2 q : points(o)) m.points.push_back({q.x, q.y, z});
  for (const auto& x : *t) m.triangles.push_back({x[0], x[1], x[2]});
  return m;
}

class Maker {
public:
  Maker(const Project& p, bool withProposed) : p_(p), withProposed_(withProposed), openings_(placedOpenings(p)) {
    out.groundLevel = p.site.groundLevel;
    out.groundReflectance = p.site.groundReflectance;
    out.groups.push_back({"", "no window", -1, {}, 0});
    out.findings = openings_.findings;
    for (Finish& f : libraryFinishes())
      if (!findFinish(p.finishes, f.name)) library_.push_back(std::move(f));
    for (Glazing& g : libraryGlazings())
      if (!findGlazing(p.glazings, g.name)) libraryGlazing_.push_back(std::move(g));
    opaque({defaultFinish(Role::Building), true}, "");
  }

  LightModel make() {
    const auto note = [&](const Outcome& done) {
      if (!done) out.geometryFaults.push_back(done.error());
    };
    for (const ElementPtr& e : p_.elements)
      if (standsInTheLight(*e, withProposed_)) note(element(*e));
    for (std::size_t r = 0; r < p_.rooms.size(); ++r) {
      const ElementPtr host = hostOf(p_, p_.rooms[r]);
      hosts_.push_back(host ? host->id.value : 0);
      there_.push_back(withProposed_ ? !(host && host->demolished) : !isProposed(p_, p_.rooms[r]));
      if (there_[r]) note(room(r));
    }
    for (const PlacedOpening& o : openings_.openings)
      if (there_[o.room]) opening(o);
    for (const Lantern& l : openings_.lanterns)
      if (there_[l.room]) lantern(l);
    out.finishFault = unknown_;
    if (!defaults_.empty()) {
      std::string list;
      for (const auto& [name, n] : defaults_) list += fmt::format("{}{} ({}×)", list.empty() ? "" : ", ", name, n);
      out.findings.push_back(
          {Rank::WorthKnowing, "finish.default", "Finishes by default only: " + list + ".", 1, {}, "", ""});
    }
    return std::move(out);
  }
  LightModel out;

private:
  std::uint32_t opaque(const SurfaceAnswer& a, const std::string& who) {
    if (a.isDefault && !who.empty()) ++defaults_[a.name];
    if (const auto at = opaque_.find(a.name); at != opaque_.end()) return at->second;
    const Finish* f = findFinish(p_.finishes, a.name);
    if (!f) f = findFinish(library_, a.name);
    if (!f) {
      if (!unknown_) unknown_ = Error{fmt::format("There is no finish called \"{}\".", a.name), who};
      return 0;
    }
    if (f->reflectance > 0.95)
      out.findings.push_back(
          {Rank::BendsResult,
           "finish.bright",
           fmt::format("\"{}\" reflects {:.0f} % of the light: no real surface does.", f->name, 100 * f->reflectance),
           1,
           {},
           "",
           ""});
    out.finishes.push_back(*f);
    return opaque_[a.name] = std::uint32_t(out.finishes.size() - 1);
  }

  /// `frame`: share of the opening that frames take beside the glazing's own.
  std::uint32_t glass(const SurfaceAnswer& a, const std::string& who, double frame = 0) {
    if (a.isDefault) ++defaults_[a.name];
    const std::pair key{a.name, frame};
    if (const auto at = glazed_.find(key); at != glazed_.end()) return at->second;
    const Glazing* g = findGlazing(p_.glazings, a.name);
    if (!g) g = findGlazing(libraryGlazing_, a.name);
    if (!g) {
      if (!unknown_) unknown_ = Error{fmt::format("There is no glazing called \"{}\".", a.name), who};
      return 0;
    }
    out.glazings.push_back(*g);
    out.glazings.back().frame *= 1 - std::clamp(frame, 0.0, 0.95);
    return glazed_[key] = std::uint32_t(out.glazings.size() - 1);
  }

  void add(std::uint64_t id, std::map<std::uint32_t, Mesh>&& byMaterial, Role role, int room, SurfaceSource source,
           std::uint64_t host) {
    for (auto& [material, mesh] : byMaterial)
      if (!mesh.triangles.empty())
        out.parts.push_back(
            {id, std::make_shared<const Mesh>(std::move(mesh)), role, false, material, 0, room, source, host});
  }

  std::uint32_t groupOf(const std::string& key, int room, std::optional<Facing> facing, const std::string& name,
                        double area) {
    for (std::size_t i = 1; i < out.groups.size(); ++i)
      if (out.groups[i].name == name && out.groups[i].room == room) {
        out.groups[i].area += area;
        return std::uint32_t(i);
      }
    out.groups.push_back({key, name, room, facing, area});
    return std::uint32_t(out.groups.size() - 1);
  }

  Outcome element(const Element& e) {
    const std::string who = e.name.empty() ? e.id.text() : e.name;
    auto mesh = elementMesh(e);
    if (!mesh) return tl::unexpected(mesh.error());
    SurfaceQuestion q{e.role, e.id.value, {}, e.layer, {}, e.finish, {}};
    if (e.role == Role::Glazing) {
      const std::uint32_t material = glass(finishFor(p_, q), who);
      const std::uint32_t group = groupOf(e.id.text(), -1, {}, who, surfaceArea(**mesh));
      out.parts.push_back({e.id.value, *mesh, e.role, true, material, group, -1, SurfaceSource::Element, e.id.value});
      return {};
    }
    // Faces whose openings pierce them are drawn anew with their holes.
    std::map<std::uint32_t, std::vector<const PlacedOpening*>> pierced;
    for (const PlacedOpening& o : openings_.openings)
      if (o.mass == e.id.value && !o.raised) pierced[o.massFace].push_back(&o);
    for (const Lantern& l : openings_.lanterns)
      if (l.mass == e.id.value) pierced[roofFace];
    const bool byFace = std::any_of(p_.assignments.begin(), p_.assignments.end(),
                                    [&](const Assignment& a) { return a.face || a.facing; });
    if (pierced.empty() && !byFace) {
      out.parts.push_back(
          {e.id.value, *mesh, e.role, false, opaque(finishFor(p_, q), who), 0, -1, SurfaceSource::Element, e.id.value});
      return {};
    }
    std::map<std::uint32_t, Mesh> by;
    std::map<std::uint32_t, std::uint32_t> materialOf;
    const Mesh& m = **mesh;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
      const std::uint32_t face = m.faceOf(t);
      auto at = materialOf.find(face);
      if (at == materialOf.end()) {
        q.face = face;
        q.facing = facingOf(m.areaVector(t), p_.site.northAngle);
        at = materialOf.emplace(face, opaque(finishFor(p_, q), who)).first;
      }
      if (e.imported()) {
        if (addPierced(m, t, face, pierced, by[at->second])) continue;
      } else if (pierced.contains(face) && (reachesRoof(e, pierced[face]) || !aboveEaves(e, m, t)))
        continue;
      Mesh& into = by[at->second];
      const auto n = std::uint32_t(into.points.size());
      for (std::uint32_t k : m.triangles[t]) into.points.push_back(m.points[k]);
      into.triangles.push_back({n, n + 1, n + 2});
      into.face.push_back(face);
    }
    if (const Mass* mass = e.mass())
      for (const auto& [face, list] : pierced) {
        Mesh& into = by[materialOf[face]];
        if (reachesRoof(e, list))
          pierceSloping(m, face, list, into);
        else if (Outcome o = piercedFace(*mass, face, list, into, e.id.value); !o)
          return o;
        into.face.resize(into.triangles.size(), face);
      }
    add(e.id.value, std::move(by), e.role, -1, SurfaceSource::Element, e.id.value);
    return {};
  }

  /// A triangle of an imported solid with what openings in its plane take of it. False where none does.
  bool addPierced(const Mesh& m, std::size_t t, std::uint32_t face,
                  const std::map<std::uint32_t, std::vector<const PlacedOpening*>>& pierced, Mesh& into) const {
    const Triangle& k = m.triangles[t];
    const std::vector<Vec3> corners{m.points[k[0]], m.points[k[1]], m.points[k[2]]};
    const Vec3 n = m.areaVector(t);
    std::vector<std::vector<Vec3>> cuts;
    for (const auto& [of, list] : pierced)
      for (const PlacedOpening* o : list) {
        const Vec3 out{o->outward.x, o->outward.y, 0};
        const Room& room = p_.rooms[o->room];
        const auto hole = o->corners(room.floor, room.floor + room.height, o->depth);
        if (std::abs(dot(n, out)) < 0.9995 * length(n) || std::abs(dot(corners[0] - hole[0], out)) > 2e-3) continue;
        cuts.emplace_back(hole.begin(), hole.end());
      }
    if (cuts.empty()) return false;
    addPolygonWithout(into, corners, cuts, face);
    return true;
  }

  static bool aboveEaves(const Element& e, const Mesh& m, std::size_t triangle) {
    const Mass* mass = e.mass();
    if (!mass || mass->roof.flat()) return false;
    const Triangle& t = m.triangles[triangle];
    const double eaves = mass->base + mass->height - 1e-9;
    return m.points[t[0]].z >= eaves && m.points[t[1]].z >= eaves && m.points[t[2]].z >= eaves;
  }

  /// Is the face a slope, or a wall with an opening that reaches into its gable?
  bool reachesRoof(const Element& e, const std::vector<const PlacedOpening*>& list) const {
    const Mass* mass = e.mass();
    if (!mass || mass->roof.flat()) return false;
    return std::any_of(list.begin(), list.end(), [&](const PlacedOpening* q) {
      const Room& room = p_.rooms[q->room];
      return q->slope || room.floor + q->opening.sill + q->opening.height > mass->base + mass->height - 1e-6;
    });
  }
  void pierceSloping(const Mesh& m, std::uint32_t face, const std::vector<const PlacedOpening*>& list, Mesh& into) {
    std::vector<std::vector<Vec3>> cuts;
    for (const PlacedOpening* q : list) {
      const Room& room = p_.rooms[q->room];
      const auto c = q->corners(room.floor, room.floor + room.height, q->depth);
      cuts.emplace_back(c.begin(), c.end());
    }
    addFaceWithout(into, m, face, cuts);
  }

  Outcome piercedFace(const Mass& mass, std::uint32_t face, const std::vector<const PlacedOpening*>& list, Mesh& into,
                      std::uint64_t id) {
    const Outline o = tidied(mass.outline);
    if (face == roofFace) {
      std::vector<Ring> holes;
      for (const Lantern& l : openings_.lanterns)
        if (l.mass == id) holes.push_back(l.plan);
      for (const PlacedOpening* q : list) {
        Ring r;
        for (const Vec3& c : q->corners(0, 0, 0)) r.push_back(xy(c));
        holes.push_back(std::move(r));
      }
      const auto roof = flat(o, mass.base + mass.height, holes);
      if (!roof) return tl::unexpected(roof.error());
      const auto n = std::uint32_t(into.points.size());
      into.points.insert(into.points.end(), roof->points.begin(), roof->points.end());
      for (const Triangle& t : roof->triangles) into.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
      return {};
    }
    std::uint32_t at = firstWallFace;
    const auto ring = [&](const Ring& points) {
      for (std::size_t i = 0; i < points.size(); ++i, ++at) {
        if (at != face) continue;
        const Vec2 a = points[i], b = points[(i + 1) % points.size()];
        const double l = length(b - a);
        const Vec2 along = (b - a) * (1 / l);
        std::vector<Rectangle> holes;
        for (const PlacedOpening* q : list) {
          const Room& room = p_.rooms[q->room];
          const auto c = q->corners(room.floor, room.floor + room.height, q->depth);
          const double u = dot(xy(c[0]) - a, along), v = dot(xy(c[1]) - a, along);
          holes.push_back({std::min(u, v), c[0].z, std::max(u, v), c[2].z});
        }
        wallWithHoles(into, a, along, {0, mass.base, l, mass.base + mass.height}, holes);
      }
    };
    ring(o.outer);
    for (const Ring& h : o.holes) ring(h);
    return {};
  }

  /// Piece by piece, each with the holes that lie in it.
  static Expected<Mesh> slopingCeiling(const RoomForm& form, double skin, const std::vector<Ring>& holes) {
    Mesh out;
    for (const CeilingPiece& c : form.ceiling) {
      std::vector<Ring> own;
      for (const Ring& h : holes)
        if (std::all_of(h.begin(), h.end(), [&](Vec2 q) { return contains(c.outline, q); })) own.push_back(h);
      const auto piece = flat(c.outline, 0, own);
      if (!piece) return tl::unexpected(piece.error());
      const auto n = std::uint32_t(out.points.size());
      for (Vec3 q : piece->points) out.points.push_back({q.x, q.y, c.plane.at(xy(q)) - skin});
      for (const Triangle& t : piece->triangles) out.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
    }
    return out;
  }

  /// The box above a flat roof, and the shaft down to the ceiling: all that is not glass.
  void lantern(const Lantern& l) {
    const Room& room = p_.rooms[l.room];
    Mesh m;
    const auto at = [&](std::size_t k, double z) { return Vec3{l.plan[k % 4].x, l.plan[k % 4].y, z}; };
    const double top = l.roof + l.rise;
    for (std::size_t k = 0; k < 4; ++k) {
      if (l.roof - l.foot > 1e-6) addQuad(m, at(k, l.foot), at(k + 1, l.foot), at(k + 1, l.roof), at(k, l.roof));
      if (k == 0 || (l.bothSides && k == 2)) continue; // glass
      if (l.bothSides) {
        addQuad(m, at(k, l.roof), at(k + 1, l.roof), at(k + 1, top), at(k, top));
      } else if (k != 2) { // from the head of the glass down to the far side
        const auto n = std::uint32_t(m.points.size());
        m.points.insert(m.points.end(), {at(k, l.roof), at(k + 1, l.roof), at(k == 1 ? 1 : 0, top)});
        m.triangles.push_back({n, n + 1, n + 2});
      }
    }
    const double far = l.bothSides ? top : l.roof;
    addQuad(m, at(0, top), at(1, top), at(2, far), at(3, far));
    add(l.opening.value,
        {{opaque(finishFor(p_, {Role::Ceiling, room.id.value, roofFace, "", "", "", {}}), room.name), std::move(m)}},
        Role::Ceiling, int(l.room), SurfaceSource::Opening, hosts_[l.room]);
  }

  Outcome room(std::size_t r) {
    const Room& room = p_.rooms[r];
    const auto ask = [&](Role role, std::optional<Facing> facing, std::uint32_t face) {
      return opaque(finishFor(p_, {role, room.id.value, face, "", "", "", facing}), room.name);
    };
    std::vector<Ring> roofHoles;
    std::map<int, std::vector<Rectangle>> holes;
    for (const PlacedOpening& o : openings_.openings) {
      if (o.room != r || o.raised) continue;
      if (o.opening.edge >= 0) {
        holes[o.opening.edge].push_back({o.opening.along, room.floor + o.opening.sill,
                                         o.opening.along + o.opening.width,
                                         room.floor + o.opening.sill + o.opening.height});
        continue;
      }
      Ring ring;
      for (const Vec3& c : o.corners(0, 0, 0)) ring.push_back(xy(c));
      roofHoles.push_back(std::move(ring));
    }
    for (const Lantern& l : openings_.lanterns)
      if (l.room == r) roofHoles.push_back(l.plan);
    const RoomForm form = roomForm(p_, room);
    const double skin = std::min(tolerance::roomSkin, room.height / 4);
    auto floor = flat(room.outline, room.floor + skin, {}),
         ceiling = form.level ? flat(room.outline, room.floor + room.height - skin, roofHoles)
                              : slopingCeiling(form, skin, roofHoles);
    if (!floor || !ceiling) return fail((!floor ? floor : ceiling).error().message, room.name);
    floor->face.assign(floor->triangles.size(), baseFace);
    ceiling->face.assign(ceiling->triangles.size(), roofFace);
    add(room.id.value, {{ask(Role::Floor, {}, baseFace), *floor}}, Role::Floor, int(r), SurfaceSource::Room, hosts_[r]);
    add(room.id.value, {{ask(Role::Ceiling, {}, roofFace), *ceiling}}, Role::Ceiling, int(r), SurfaceSource::Room,
        hosts_[r]);
    const auto outer = outerEdges(p_, r);
    std::map<std::uint32_t, Mesh> walls, partitions;
    std::uint32_t face = firstWallFace;
    const auto ring = [&](const Ring& points, bool isOuter) {
      for (std::size_t i = 0; i < points.size(); ++i, ++face) {
        const Vec2 a = points[i], b = points[(i + 1) % points.size()];
        const double l = length(b - a);
        if (l < 1e-6) continue;
        const Vec2 along = (b - a) * (1 / l);
        const bool wall = !isOuter || outer[i];
        const std::uint32_t material =
            ask(wall ? Role::Wall : Role::Partition, facingOf({along.y, -along.x, 0}, p_.site.northAngle), face);
        const auto list = isOuter ? holes.find(int(i)) : holes.end();
        Mesh& into = (wall ? walls : partitions)[material];
        wallWithHoles(into, a, along, {0, room.floor, l, form.top},
                      list == holes.end() ? std::vector<Rectangle>{} : list->second,
                      form.level ? std::vector<Vec2>{} : form.wallTop(a, b));
        into.face.resize(into.triangles.size(), face);
      }
    };
    ring(room.outline.outer, true);
    for (const Ring& h : room.outline.holes) ring(h, false);
    add(room.id.value, std::move(walls), Role::Wall, int(r), SurfaceSource::Room, hosts_[r]);
    add(room.id.value, std::move(partitions), Role::Partition, int(r), SurfaceSource::Room, hosts_[r]);
    return {};
  }

  void opening(const PlacedOpening& o) {
    const Room& room = p_.rooms[o.room];
    const double low = room.floor, high = room.floor + room.height;
    const auto in = o.corners(low, high, 0), out4 = o.corners(low, high, o.depth), g = paneOf(o, room);
    Mesh reveal;
    if (o.depth > 1e-6) // cut at the pane: what lies before it and behind it is never one piece
      for (std::size_t i = 0; i < 4; ++i) {
        if ((i == 1 && o.after != 0) || (i == 3 && o.before != 0)) continue; // at a corner the other window goes on
        addQuad(reveal, in[i], in[(i + 1) % 4], g[(i + 1) % 4], g[i]);
        addQuad(reveal, g[i], g[(i + 1) % 4], out4[(i + 1) % 4], out4[i]);
      }
    add(o.opening.id.value,
        {{opaque(finishFor(p_, {Role::Wall, room.id.value, {}, "", "", "", o.facing}), room.name), std::move(reveal)}},
        Role::Wall, int(o.room), SurfaceSource::Opening, hosts_[o.room]);
    Mesh pane;
    addQuad(pane, g[0], g[1], g[2], g[3]);
    const std::uint32_t material =
        glass(finishFor(p_, {Role::Glazing, o.opening.id.value, {}, "", o.opening.type, o.opening.glazing, o.facing}),
              room.name, o.opening.frame);
    const std::string side =
        fmt::format("{}{}{}{}", o.raised ? "above, " : "", o.facing ? facingKey(*o.facing) : "above",
                    o.opening.type.empty() ? "" : ", ", o.opening.type);
    const std::uint32_t group =
        groupOf(room.id.text() + ", " + side, int(o.room), o.facing, room.name + ", " + side, o.area());
    out.parts.push_back({o.opening.id.value, std::make_shared<const Mesh>(std::move(pane)), Role::Glazing, true,
                         material, group, int(o.room), SurfaceSource::Opening, hosts_[o.room]});
    for (const ShadeRule& s : p_.shadeRules)
      if (standsAt(s, o, room.id)) shade(s, o, room);
  }

  void shade(const ShadeRule& s, const PlacedOpening& o, const Room& room) {
    const std::uint32_t material = opaque(finishFor(p_, {Role::Shading, s.id.value, {}, "", "", s.finish, o.facing}),
                                          s.name.empty() ? "shade" : s.name);
    add(s.id.value, {{material, shadeMesh(s, frameOf(o, room))}}, Role::Shading, -1, SurfaceSource::ShadeRule,
        hosts_[o.room]);
  }

  const Project& p_;
  bool withProposed_;
  OpeningLayout openings_;
  std::vector<Finish> library_;
  std::vector<Glazing> libraryGlazing_;
  std::map<std::string, std::uint32_t> opaque_;
  std::map<std::pair<std::string, double>, std::uint32_t> glazed_;
  std::map<std::string, int> defaults_;
  std::optional<Error> unknown_;
  std::vector<std::uint64_t> hosts_; ///< of rooms
  std::vector<bool> there_;          ///< rooms that stand, and are not of the proposal left out
};

} // namespace

LightModel derivedModel(const Project& project, bool withProposed) {
  if (!withProposed && anyDemolished(project)) return derivedModel(withDemolishedStanding(project), false);
  auto state = derivedState(project, withProposed);
  if (const auto known = project.derived->model(state)) return *known;
  auto made = std::make_shared<const LightModel>(Maker(project, withProposed).make());
  project.derived->keep(std::move(state), made);
  return *made;
}

Expected<LightModel> lightModel(const Project& p, bool withProposed) {
  LightModel model = derivedModel(p, withProposed);
  if (!model.geometryFaults.empty()) return tl::unexpected(model.geometryFaults.front());
  if (model.finishFault) return tl::unexpected(*model.finishFault);
  for (const LightPart& part : model.parts) { // beyond, float32 rays miss by centimetres
    const Box3 b = part.mesh->box();
    const double far = std::max({std::abs(b.low.x), std::abs(b.low.y), std::abs(b.high.x), std::abs(b.high.y)});
    if (b.empty() || far <= tolerance::largestExtent) continue;
    return fail(
        fmt::format(
            "\"{}\" lies {:.1f} km from the project's origin; 5 km is the most. Give \"site.origin\", or leave it out.",
            surfaceName(p, part.element), far / 1000),
        "elements");
  }
  return model;
}

} // namespace noonward
