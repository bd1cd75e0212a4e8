#include "core/studies/model_parts.h"
#include "core/model/rooms/placing.h"
#include <array>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

namespace {
/// Points that are the same made one, and coplanar neighbours one face where none are named: or every triangle of a
/// pierced wall were outlined.
Mesh whole(const Mesh& m) {
  Mesh out;
  std::map<std::array<double, 3>, std::uint32_t> known;
  for (const Triangle& t : m.triangles) {
    Triangle fresh;
    for (std::size_t k = 0; k < 3; ++k) {
      const Vec3 p = m.points[t[k]];
      const auto [at, isNew] = known.try_emplace({p.x, p.y, p.z}, std::uint32_t(out.points.size()));
      if (isNew) out.points.push_back(p);
      fresh[k] = at->second;
    }
    out.triangles.push_back(fresh);
  }
  out.face = m.face;
  if (out.face.empty()) findFaces(out);
  return out;
}
} // namespace

Project modelParts(const Project& p, const std::function<bool(const LightModel&, const LightPart&)>& wanted) {
  Project out = p;
  out.elements.clear();
  const LightModel model = derivedModel(p);
  std::set<std::uint64_t> used;
  for (std::size_t i = 0; i < model.parts.size(); ++i) {
    const LightPart& part = model.parts[i];
    if (!wanted(model, part)) continue;
    Element e;
    const ElementPtr own = p.element({part.element});
    e.id = {part.element};
    if (!used.insert(part.element).second)
      e.id = {derivedId(fmt::format("{}/part/{}", ElementId{part.element}.text(), i))};
    e.name = own ? own->name : part.room >= 0 ? p.rooms[std::size_t(part.room)].name : std::string("shade");
    if (part.glazed && part.material < model.glazings.size()) e.name += ", " + model.glazings[part.material].name;
    e.role = part.role;
    const ElementPtr host = own ? own : p.element({part.host});
    e.proposed = host && host->proposed;
    e.hidden = host && host->hidden;
    Imported shape;
    shape.mesh = part.mesh;
    if (part.mesh->triangles.size() < 20'000) shape.mesh = std::make_shared<const Mesh>(whole(*part.mesh));
    e.shape = std::move(shape);
    out.elements.push_back(std::make_shared<const Element>(std::move(e)));
  }
  return out;
}

Project partsOfRole(const Project& p, Role role) {
  return modelParts(p, [role](const LightModel&, const LightPart& part) { return part.role == role; });
}

Project panesOf(const Project& p, const std::string& glazing) {
  return modelParts(p, [&](const LightModel& m, const LightPart& part) {
    return part.glazed && part.material < m.glazings.size() && m.glazings[part.material].name == glazing;
  });
}

Project withFittings(const Project& p) {
  Project out = p;
  const OpeningLayout laid = placedOpenings(p);
  for (const PlacedOpening& o : laid.openings) {
    const Room& room = p.rooms[o.room];
    Element e;
    e.id = {o.opening.id.value};
    e.name = room.name + ": " + (o.opening.name.empty() ? "window" : o.opening.name);
    e.role = Role::Glazing;
    if (const ElementPtr host = o.mass ? p.element({o.mass}) : hostOf(p, room)) {
      e.proposed = host->proposed;
      e.hidden = host->hidden;
    }
    Plate plate;
    for (const Vec3& c : o.corners(room.floor, room.floor + room.height, o.depth + 0.02)) plate.corners.push_back(c);
    e.shape = std::move(plate);
    out.elements.push_back(std::make_shared<const Element>(std::move(e)));
  }
  if (!p.shadeRules.empty() || !laid.lanterns.empty())
    for (const ElementPtr& e : modelParts(p, [&](const LightModel&, const LightPart& part) {
                                 const bool box = part.source == SurfaceSource::Opening && part.role == Role::Ceiling;
                                 return (part.role == Role::Shading || box) && !p.element({part.element});
                               }).elements)
      out.elements.push_back(e);
  return out;
}

Project opaqueParts(const Project& p) {
  return modelParts(p, [](const LightModel&, const LightPart& part) { return !part.glazed; });
}

Project allParts(const Project& p) {
  return modelParts(p, [](const LightModel&, const LightPart&) { return true; });
}

ProbeResult probeProject(const Project& p, const ProbeInput& spot, const Scene& scene) {
  int room = -1;
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& o = p.rooms[r];
    if (spot.position.z >= o.floor - 0.05 && spot.position.z < o.floor + o.height &&
        contains(o.outline, xy(spot.position)))
      room = int(r);
  }
  if (room < 0) return probe(scene, spot);
  const Scene glass = paneScene(derivedModel(p));
  ProbeResult out = probe(scene, spot, &glass);
  out.room = room;
  return out;
}

} // namespace noonward
