#include "app/stage/stage_geometry.h"
#include "core/model/form/facades.h"
#include "core/model/form/layers.h"
#include "core/model/light_model.h"
#include "picture/face_tint.h"
#include <algorithm>

namespace noonward {

namespace {
void set(std::uint8_t (&out)[4], const QColor& c, int alpha) {
  out[0] = std::uint8_t(c.red()), out[1] = std::uint8_t(c.green()), out[2] = std::uint8_t(c.blue()),
  out[3] = std::uint8_t(alpha);
}
void addMesh(StageGeometry& g, const Mesh& m, const QColor& lit, const QColor& shade, const QColor& accent,
             std::optional<std::uint32_t> face) {
  g.index.reserve(g.index.size() + 3 * m.triangles.size());
  g.vertices.reserve(g.vertices.size() + 2 * m.triangles.size());
  constexpr std::uint32_t none = ~0u;
  struct Slot { // the stage's corner last made for a point of the mesh, and for which face
    std::uint32_t face = none, at = 0;
  };
  std::vector<Slot> made(m.points.size());
  for (std::size_t t = 0; t < m.triangles.size(); ++t) {
    const Vec3 n = normalized(m.areaVector(t));
    const std::uint32_t its = m.faceOf(t);
    const bool marked = face && its == *face;
    const std::int8_t nx = std::int8_t(n.x * 127), ny = std::int8_t(n.y * 127), nz = std::int8_t(n.z * 127);
    for (std::uint32_t k : m.triangles[t]) {
      Slot& slot = made[k];
      if (slot.face == its) {
        const StageVertex& old = g.vertices[slot.at];
        if (old.nx == nx && old.ny == ny && old.nz == nz) {
          g.index.push_back(slot.at);
          continue;
        }
      }
      const Vec3 p = m.points[k];
      StageVertex v{float(p.x), float(p.y), float(p.z), nx, ny, nz, 0, {}, {}};
      set(v.lit, marked ? mixed(lit, accent, 0.45) : lit, 255);
      set(v.shade, marked ? mixed(shade, accent, 0.45) : shade, 0);
      slot = {its, std::uint32_t(g.vertices.size())};
      g.index.push_back(slot.at);
      g.vertices.push_back(v);
    }
  }
}
} // namespace

QColor reflectanceTint(double r) { // as bright as it is to the eye: lightness goes with the root
  return mixed(QColor("#2A2E38"), QColor("#FFFDF8"), std::sqrt(std::clamp(r, 0.0, 1.0)));
}
QColor transmittanceTint(double t) {
  return mixed(QColor("#1F4A5C"), QColor("#CDEBEA"), std::clamp(t, 0.0, 1.0));
}

namespace {
/// Of an element by its finish, or its glass.
QColor finishTint(const Project& p, const Element& e) {
  SurfaceQuestion q;
  q.role = e.role;
  q.element = e.id.value;
  q.layer = e.layer;
  q.own = e.finish;
  const std::string name = finishFor(p, q).name;
  if (const Glazing* g = findGlazing(p.glazings, name); g || (g = findGlazing(libraryGlazings(), name)))
    return transmittanceTint(g->transmittance);
  if (const Finish* f = findFinish(p.finishes, name); f || (f = findFinish(libraryFinishes(), name)))
    return reflectanceTint(f->reflectance);
  return reflectanceTint(0);
}
} // namespace

namespace {
/// Its walls by the side they look to, the rest as it is.
void addByFacing(StageGeometry& g, const Mesh& m, const FaceTint& rest, double northAngle, const Theme& t) {
  std::array<Mesh, 5> parts;
  for (std::size_t k = 0; k < m.triangles.size(); ++k) {
    const Vec3 n = m.areaVector(k);
    const auto f = std::abs(n.z) > 0.1 * length(n) ? std::nullopt : facingOf(n, northAngle);
    Mesh& into = parts[f ? std::size_t(*f) : 4];
    for (std::uint32_t i : m.triangles[k]) into.points.push_back(m.points[i]);
    const auto first = std::uint32_t(into.points.size() - 3);
    into.triangles.push_back({first, first + 1, first + 2});
    into.face.push_back(m.faceOf(k));
  }
  for (std::size_t k = 0; k < parts.size(); ++k) {
    const FaceTint tint = k < 4 ? facingTint(t, allFacings[k]) : rest;
    if (!parts[k].triangles.empty()) addMesh(g, parts[k], tint.lit, tint.shade, t.noon, std::nullopt);
  }
}
} // namespace

std::size_t triangleCount(const Project& p) {
  std::size_t n = 0;
  for (const ElementPtr& e : p.elements) n += std::visit([](const auto& s) { return trianglesOf(s); }, e->shape);
  return n;
}

StageGeometry stageGeometry(const Project& p, const StageLook& look, const std::vector<ElementId>& only,
                            const std::vector<ElementId>& except) {
  const Theme& t = look.dark ? Theme::darkTheme() : Theme::light();
  StageGeometry g;
  const auto in = [](const std::vector<ElementId>& list, ElementId id) {
    return std::find(list.begin(), list.end(), id) != list.end();
  };
  const bool edges = triangleCount(p) < 150'000; // lines of a whole city would hide it and cost more than its faces
  for (const ElementPtr& e : p.elements) {
    if (e->hidden || (only.empty() ? in(except, e->id) : !in(only, e->id))) continue;
    const auto mesh = elementMesh(*e);
    if (!mesh) continue;
    const bool selected = in(look.selected, e->id);
    if (e->ghost || e->demolished) { // edges alone
      g.box.addBox((*mesh)->box());
      if (edges || selected)
        for (const auto& [a, b] : featureEdges(**mesh))
          for (const Vec3& q : {a, b})
            (selected ? g.strongEdges : g.edges)
                .insert((selected ? g.strongEdges : g.edges).end(), {float(q.x), float(q.y), float(q.z)});
      continue;
    }
    const bool stands = e->counted;
    auto [lit, shade] = stands ? withOwnColour(faceTint(t, e->role, e->proposed), layerColour(p, e->layer))
                               : faceTint(t, e->role, e->proposed, false);
    if (look.byFinish && stands && e->role != Role::Ignore) {
      lit = finishTint(p, *e);
      shade = mixed(lit, QColor("#23283A"), 0.16);
    }
    if (selected && !look.face) {
      lit = mixed(lit, t.noon, 0.22);
      shade = mixed(shade, t.noon, 0.22);
    }
    if (look.byFacing && isFacade(p, *e))
      addByFacing(g, **mesh, {lit, shade}, p.site.northAngle, t);
    else
      addMesh(g, **mesh, lit, shade, t.noon, selected ? look.face : std::nullopt);
    g.box.addBox((*mesh)->box());
    if ((!edges && !selected) || e->tree()) continue; // the lines of every leaf would be a scribble
    std::vector<float>& list = selected ? g.strongEdges : g.edges;
    const auto line = [&](Vec3 a, Vec3 b) {
      for (const Vec3& q : {a, b}) list.insert(list.end(), {float(q.x), float(q.y), float(q.z)});
    };
    for (const auto& [a, b] : featureEdges(**mesh)) line(a, b);
    if (const Mass* m = e->mass(); m && m->storeys > 1 && e->proposed) // storeys of what is being designed
      for (int s = 1; s < m->storeys; ++s) {
        const double z = m->base + m->height * s / m->storeys;
        for (std::size_t i = 0; i < m->outline.outer.size(); ++i) {
          const Vec2 a = m->outline.outer[i], b = m->outline.outer[(i + 1) % m->outline.outer.size()];
          for (const Vec2& q : {a, b}) g.edges.insert(g.edges.end(), {float(q.x), float(q.y), float(z)});
        }
      }
  }
  return g;
}

StageGeometry casterGeometry(const std::vector<LightPart>& parts) {
  StageGeometry g;
  for (const LightPart& part : parts) {
    if (part.glazed) continue;
    const auto first = std::uint32_t(g.vertices.size());
    for (const Vec3& p : part.mesh->points)
      g.vertices.push_back({float(p.x), float(p.y), float(p.z), 0, 0, 127, 0, {}, {}});
    for (const Triangle& t : part.mesh->triangles)
      for (std::uint32_t k : t) g.index.push_back(first + k);
    g.box.addBox(part.mesh->box());
  }
  return g;
}

StageGeometry tintGeometry(const Project& project, const RoomTints& tints, double storey, const Theme& theme) {
  StageGeometry g;
  const Mesh m = roomFloors(project, storey);
  for (std::size_t t = 0; t < m.triangles.size(); ++t) {
    const double v = m.face[t] < tints.value.size() ? tints.value[m.face[t]] : std::nan("");
    const QColor c = std::isnan(v) ? theme.rule : colorOf(tints.scale, v);
    for (std::uint32_t i : m.triangles[t]) {
      StageVertex x{float(m.points[i].x), float(m.points[i].y), float(m.points[i].z), 0, 0, 127, 0, {}, {}};
      set(x.lit, c, 0);
      set(x.shade, c, 0);
      g.index.push_back(std::uint32_t(g.vertices.size()));
      g.vertices.push_back(x);
    }
  }
  g.box = m.box();
  return g;
}

StageGeometry cellGeometry(const SensorField& painted, const Theme& theme) {
  StageGeometry g;
  for (std::size_t k = 0; k < painted.sensors.groups.size(); ++k) {
    const Mesh m = cellMesh(painted, k);
    const std::size_t first = painted.sensors.groups[k].first;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
      const double v = double(painted.values()[first + m.face[t]]);
      const QColor c = std::isnan(v) ? theme.rule : colorOf(painted.scale, v);
      const bool dotted = painted.scale.dotBelow && v < painted.scale.threshold - 1e-6;
      const bool above = v > painted.scale.high + 1e-6;
      const auto& n = painted.sensors.sensors[first + m.face[t]].normal;
      for (std::uint32_t i : m.triangles[t]) {
        StageVertex x{float(m.points[i].x),
                      float(m.points[i].y),
                      float(m.points[i].z),
                      std::int8_t(n[0] * 127),
                      std::int8_t(n[1] * 127),
                      std::int8_t(n[2] * 127),
                      0,
                      {},
                      {}};
        set(x.lit, c, 0);
        set(x.shade, c, dotted ? 255 : above ? 128 : 0);
        g.index.push_back(std::uint32_t(g.vertices.size()));
        g.vertices.push_back(x);
      }
    }
    g.box.addBox(m.box());
  }
  return g;
}

} // namespace noonward
