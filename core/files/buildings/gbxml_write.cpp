// gbXML out: rooms as spaces with their surfaces and openings, what these border on and are made of, uses as zones;
// shading and what stands around as shade. Metres; inner faces of walls. A surface that borders on several things is
// told by the largest.

#include "core/base/words.h"
#include "core/files/meshes/model_export.h"
#include "core/geometry/plan_cut.h"
#include "core/model/light_model.h"
#include "core/model/rooms/room_form.h"
#include "core/studies/energy/envelope.h"
#include <fmt/format.h>
#include <pugixml.hpp>
#include <sstream>

namespace noonward {

namespace {

class GbXml {
public:
  explicit GbXml(const Project& p) : p_(p) {}

  Expected<ExportedModel> write() {
    if (p_.rooms.empty()) return fail("There are no rooms: gbXML carries rooms, their surfaces and openings.");
    pugi::xml_node declaration = document_.append_child(pugi::node_declaration);
    declaration.append_attribute("version") = "1.0";
    declaration.append_attribute("encoding") = "UTF-8";
    root_ = document_.append_child("gbXML");
    for (const auto& [key, value] : {std::pair{"xmlns", "http://www.gbxml.org/schema"},
                                     {"version", "6.01"},
                                     {"temperatureUnit", "C"},
                                     {"lengthUnit", "Meters"},
                                     {"areaUnit", "SquareMeters"},
                                     {"volumeUnit", "CubicMeters"},
                                     {"useSIUnitsForResults", "true"}})
      root_.append_attribute(key) = value;
    campus_ = root_.append_child("Campus");
    campus_.append_attribute("id") = "campus";
    pugi::xml_node location = campus_.append_child("Location");
    add(location, "Name", p_.site.name);
    add(location, "Latitude", fmt::format("{:.7f}", degrees(p_.site.place.latitude)));
    add(location, "Longitude", fmt::format("{:.7f}", degrees(p_.site.place.longitude)));
    add(location, "Elevation", fmt::format("{:.3f}", p_.site.place.elevation));
    add(location, "CADModelAzimuth", fmt::format("{:.6f}", degrees(p_.site.northAngle)));
    building_ = campus_.append_child("Building");
    building_.append_attribute("id") = "building";
    building_.append_attribute("buildingType") = "Unknown";
    double all = 0;
    for (const Room& r : p_.rooms) all += area(r.outline);
    add(building_, "Area", fmt::format("{:.3f}", all));
    layout_ = placedOpenings(p_);
    envelopes_ = roomEnvelopes(p_);
    for (std::size_t r = 0; r < p_.rooms.size(); ++r) room(r);
    for (const ElementPtr& e : p_.elements)
      if (Outcome o = shade(*e); !o) return tl::unexpected(o.error());
    for (const auto& [name, id] : types_) {
      pugi::xml_node type = root_.append_child("WindowType");
      type.append_attribute("id") = id.c_str();
      add(type, "Name", name);
      pugi::xml_node t = add(type, "Transmittance", fmt::format("{:.4f}", transmittance(name)));
      t.append_attribute("unit") = "Fraction";
      t.append_attribute("type") = "Visible";
      t.append_attribute("incidentAngle") = "0";
      const Glazing glass = glazing(name);
      if (glass.uValue > 0) unit(add(type, "U-value", fmt::format("{:.4f}", glass.uValue)), "WPerSquareMeterK");
      if (glass.solarFactor > 0) {
        pugi::xml_node g = add(type, "SolarHeatGainCoeff", fmt::format("{:.4f}", glass.solarFactor));
        unit(g, "Fraction");
        g.append_attribute("solarIncidentAngle") = "0";
      }
    }
    for (const auto& [name, id] : constructions_) construction(name, id);
    for (const auto& [name, id] : zones_) zone(name, id);
    std::ostringstream text;
    document_.save(text, " ");
    out_.bytes = text.str();
    out_.elements = p_.rooms.size();
    if (left_ > 0)
      out_.notes.push_back(counted(left_, "element is", "elements are") + " left out of studies, and not in the file.");
    if (raised_ > 0)
      out_.notes.push_back(counted(raised_, "pane of a raised rooflight is", "panes of raised rooflights are") +
                           " not in the file: it has no boxes above roofs.");
    if (skipped_ > 0)
      out_.notes.push_back(counted(skipped_, "mesh has", "meshes have") +
                           fmt::format(" more than {} faces: too fine for gbXML, and not in the file.", mostFaces));
    return std::move(out_);
  }

private:
  static constexpr std::size_t mostFaces = 5000;

  static pugi::xml_node add(pugi::xml_node to, const char* key, const std::string& text) {
    pugi::xml_node n = to.append_child(key);
    n.text().set(text.c_str());
    return n;
  }
  void loop(pugi::xml_node to, const std::vector<Vec3>& corners) {
    pugi::xml_node poly = to.append_child("PlanarGeometry").append_child("PolyLoop");
    for (const Vec3& q : corners) {
      pugi::xml_node point = poly.append_child("CartesianPoint");
      const Vec3 v = q + p_.site.origin;
      for (double c : {v.x, v.y, v.z}) add(point, "Coordinate", fmt::format("{:.6f}", c));
    }
    ++out_.triangles;
  }
  pugi::xml_node surface(const char* kind, const std::string& id, const std::string& name,
                         const std::vector<std::size_t>& rooms, const std::vector<Vec3>& corners) {
    pugi::xml_node s = campus_.append_child("Surface");
    s.append_attribute("id") = id.c_str();
    s.append_attribute("surfaceType") = kind;
    add(s, "Name", name);
    for (std::size_t r : rooms) s.append_child("AdjacentSpaceId").append_attribute("spaceIdRef") = spaceId(r).c_str();
    loop(s, corners);
    return s;
  }
  std::string spaceId(std::size_t r) const { return "space-" + p_.rooms[r].id.text(); }

  static void unit(pugi::xml_node n, const char* name) { n.append_attribute("unit") = name; }
  Glazing glazing(const std::string& name) const {
    if (const Glazing* g = findGlazing(p_.glazings, name)) return *g;
    const auto library = libraryGlazings();
    const Glazing* g = findGlazing(library, name);
    return g ? *g : Glazing{};
  }
  double transmittance(const std::string& name) const {
    const Glazing g = glazing(name);
    return g.name.empty() ? 0.7 : g.transmittance;
  }
  void construction(const std::string& name, const std::string& id) {
    const auto c = findConstruction(p_.heat, name);
    pugi::xml_node n = root_.append_child("Construction");
    n.append_attribute("id") = id.c_str();
    if (!c) return;
    unit(add(n, "U-value", fmt::format("{:.5f}", uValueOf(*c, flowOf_[name]))), "WPerSquareMeterK");
    std::vector<std::string> materials;
    for (std::size_t k = 0; k < c->layers.size(); ++k) {
      const std::string own = fmt::format("{}-layer-{}", id, k + 1);
      n.append_child("LayerId").append_attribute("layerIdRef") = own.c_str();
      materials.push_back(own);
    }
    add(n, "Name", name);
    for (std::size_t k = 0; k < c->layers.size(); ++k) {
      const ConstructionLayer& l = c->layers[k];
      pugi::xml_node layer = root_.append_child("Layer");
      layer.append_attribute("id") = materials[k].c_str();
      layer.append_child("MaterialId").append_attribute("materialIdRef") = (materials[k] + "-material").c_str();
      pugi::xml_node m = root_.append_child("Material");
      m.append_attribute("id") = (materials[k] + "-material").c_str();
      add(m, "Name", l.name);
      unit(add(m, "Thickness", fmt::format("{:.5f}", l.thickness)), "Meters");
      unit(add(m, "Conductivity", fmt::format("{:.5f}", l.conductivity)), "WPerMeterK");
      unit(add(m, "Density", fmt::format("{:.3f}", l.density)), "KgPerCubicM");
      unit(add(m, "SpecificHeat", fmt::format("{:.3f}", l.heatCapacity)), "JPerKgK");
    }
  }
  void zone(const std::string& name, const std::string& id) {
    const auto u = findUse(p_.heat, name);
    pugi::xml_node n = root_.append_child("Zone");
    n.append_attribute("id") = id.c_str();
    add(n, "Name", name);
    if (!u || !u->conditioned) return;
    unit(add(n, "DesignHeatT", fmt::format("{:.2f}", u->heatTo)), "C");
    unit(add(n, "DesignCoolT", fmt::format("{:.2f}", u->coolTo)), "C");
  }
  /// What happens in a room: power by floor area, set-points by its zone.
  void use(pugi::xml_node space, const Room& room) {
    const UseOfRoom u = useOfRoom(p_.heat, room.use);
    if (!u.own) return; // nobody said
    const std::string id = zones_.emplace(u.use.name, "zone-" + std::to_string(zones_.size() + 1)).first->second;
    space.append_attribute("zoneIdRef") = id.c_str();
    space.append_attribute("conditionType") = u.use.conditioned ? "HeatedAndCooled" : "Unconditioned";
    constexpr double each = 75; // W, of a person who sits
    if (u.use.people > 0) {
      unit(add(space, "PeopleNumber", fmt::format("{:.6f}", each / u.use.people)), "SquareMPerPerson");
      unit(add(space, "PeopleHeatGain", fmt::format("{:.1f}", each)), "WattPerPerson");
    } else {
      unit(add(space, "PeopleNumber", "0"), "NumberOfPeople");
    }
    unit(add(space, "LightPowerPerArea", fmt::format("{:.4f}", u.use.lighting)), "WattPerSquareMeter");
    unit(add(space, "EquipPowerPerArea", fmt::format("{:.4f}", u.use.equipment)), "WattPerSquareMeter");
  }
  /// The largest of the parts of one surface: what the file says it borders on.
  const EnvelopeSurface* facing(std::size_t r, int edge) const {
    const EnvelopeSurface* best = nullptr;
    for (const EnvelopeSurface& s : envelopes_[r].surfaces)
      if (s.edge == edge && (!best || s.area > best->area)) best = &s;
    return best;
  }
  /// Kind of surface, its construction and the room behind it.
  pugi::xml_node bordering(std::size_t r, int edge, const std::string& id, const std::string& name,
                           const std::vector<Vec3>& corners) {
    const EnvelopeSurface* s = facing(r, edge);
    const Beyond beyond = s ? s->beyond : Beyond::Alike;
    const bool out = beyond == Beyond::Outdoors, ground = beyond == Beyond::Ground;
    const char* kind = edge == ceilingEdge ? (out ? "Roof" : "Ceiling")
                       : edge == floorEdge ? (out      ? "RaisedFloor"
                                              : ground ? "SlabOnGrade"
                                                       : "InteriorFloor")
                       : out               ? "ExteriorWall"
                       : ground            ? "UndergroundWall"
                                           : "InteriorWall";
    std::vector<std::size_t> rooms{r};
    if (s && s->neighbour) rooms.push_back(*s->neighbour);
    pugi::xml_node n = surface(kind, id, name, rooms, corners);
    if (s && (s->neighbour || beyond != Beyond::Alike)) {
      flowOf_.emplace(s->construction, s->flow);
      n.append_attribute("constructionIdRef") =
          constructions_.emplace(s->construction, "construction-" + std::to_string(constructions_.size() + 1))
              .first->second.c_str();
    }
    return n;
  }
  std::string typeOf(const PlacedOpening& o) {
    const std::string name =
        finishFor(p_, {Role::Glazing, o.opening.id.value, {}, "", o.opening.type, o.opening.glazing, o.facing}).name;
    return types_.emplace(name, "window-type-" + std::to_string(types_.size() + 1)).first->second;
  }

  void room(std::size_t r) {
    const Room& room = p_.rooms[r];
    if (checkOutline(room.outline).fault != OutlineFault::None) return;
    pugi::xml_node space = building_.append_child("Space");
    space.append_attribute("id") = spaceId(r).c_str();
    add(space, "Name", room.name);
    add(space, "Area", fmt::format("{:.4f}", area(room.outline)));
    const RoomForm form = roomForm(p_, room);
    add(space, "Volume", fmt::format("{:.4f}", form.level ? area(room.outline) * room.height : form.volume()));
    const std::string id = "s-" + room.id.text();
    const double low = room.floor, high = room.floor + room.height;
    const Outline o = tidied(room.outline);
    std::vector<Vec3> floor, ceiling;
    for (Vec2 q : o.outer) ceiling.push_back({q.x, q.y, high});
    for (auto q = o.outer.rbegin(); q != o.outer.rend(); ++q) floor.push_back({q->x, q->y, low});
    use(space, room);
    bordering(r, floorEdge, id + "-floor", room.name + ": floor", floor);
    std::vector<pugi::xml_node> tops;
    for (std::size_t k = 0; k < form.ceiling.size() && !form.level; ++k) {
      std::vector<Vec3> piece;
      for (Vec2 q : form.ceiling[k].outline.outer) piece.push_back({q.x, q.y, form.ceiling[k].plane.at(q)});
      tops.push_back(bordering(r, ceilingEdge, fmt::format("{}-ceiling-{}", id, k + 1),
                               fmt::format("{}: ceiling {}", room.name, k + 1), piece));
    }
    if (form.level) tops.push_back(bordering(r, ceilingEdge, id + "-ceiling", room.name + ": ceiling", ceiling));
    if (!o.holes.empty())
      out_.notes.push_back(fmt::format("The holes in the floor of \"{}\" are not in the file.", room.name));
    std::map<int, pugi::xml_node> walls;
    for (std::size_t i = 0; i < room.outline.outer.size(); ++i) {
      const Vec2 a = room.outline.outer[i], b = room.outline.outer[(i + 1) % room.outline.outer.size()];
      std::vector<Vec3> corners{{a.x, a.y, low}, {b.x, b.y, low}};
      const auto line = form.wallTop(a, b);
      for (auto t = line.rbegin(); t != line.rend(); ++t) {
        const Vec2 at = t == line.rbegin() ? b : t + 1 == line.rend() ? a : a + (b - a) * (t->x / length(b - a));
        corners.push_back({at.x, at.y, t->y});
      }
      walls[int(i)] = bordering(r, int(i), fmt::format("{}-wall-{}", id, i + 1),
                                fmt::format("{}: wall {}", room.name, i + 1), corners);
    }
    std::size_t n = 0;
    for (const PlacedOpening& q : layout_.openings) {
      if (q.room != r) continue;
      if (q.raised) {
        ++raised_;
        continue;
      }
      std::size_t over = 0;
      for (std::size_t k = 0; k < form.ceiling.size() && q.slope; ++k)
        if (form.ceiling[k].plane == *q.slope && contains(form.ceiling[k].outline, {q.opening.along, q.opening.sill}))
          over = k;
      pugi::xml_node into = q.opening.edge >= 0 ? walls[q.opening.edge] : tops[over];
      pugi::xml_node opening = into.append_child("Opening");
      opening.append_attribute("id") = fmt::format("{}-opening-{}", id, ++n).c_str();
      opening.append_attribute("openingType") = q.opening.edge >= 0 ? "FixedWindow" : "FixedSkylight";
      opening.append_attribute("windowTypeIdRef") = typeOf(q).c_str();
      const auto c = q.corners(low, high, 0);
      loop(opening, {c.begin(), c.end()});
    }
  }

  /// Shades, neighbours and ground; the mass around rooms stands for their walls and is left away.
  Outcome shade(const Element& e) {
    if (!e.counted || e.role == Role::Ignore) {
      left_ += !e.ghost;
      return {};
    }
    if (const Mass* m = e.mass())
      for (const Room& r : p_.rooms)
        if (r.floor >= m->base - 0.5 && r.floor < m->base + m->height && contains(m->outline, pointInside(r.outline)))
          return {};
    const auto mesh = elementMesh(e);
    if (!mesh) return tl::unexpected(mesh.error());
    if ((*mesh)->triangles.size() > mostFaces) {
      ++skipped_;
      return {};
    }
    const std::string name = e.name.empty() ? e.id.text() : e.name;
    for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) {
      const Triangle& k = (*mesh)->triangles[t];
      surface("Shade", fmt::format("e-{}-{}", e.id.text(), t + 1), fmt::format("{} {}", name, t + 1), {},
              {(*mesh)->points[k[0]], (*mesh)->points[k[1]], (*mesh)->points[k[2]]});
    }
    return {};
  }

  const Project& p_;
  pugi::xml_document document_;
  pugi::xml_node root_, campus_, building_;
  OpeningLayout layout_;
  std::vector<RoomEnvelope> envelopes_;
  std::map<std::string, std::string> constructions_, zones_; ///< name → id; zones by use
  std::map<std::string, HeatFlow> flowOf_;                   ///< of a construction, where it is first met
  std::map<std::string, std::string> types_;                 ///< name of the glazing -> id
  ExportedModel out_;
  std::size_t left_ = 0, skipped_ = 0, raised_ = 0;
};

} // namespace

Expected<ExportedModel> exportGbXml(const Project& p) {
  return GbXml(p).write();
}

} // namespace noonward
