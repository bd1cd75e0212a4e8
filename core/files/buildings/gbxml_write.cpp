// gbXML out: rooms as spaces with their surfaces and openings, shading and what stands around as shade. Metres; inner
// faces of walls.

#include "core/base/words.h"
#include "core/files/meshes/model_export.h"
#include "core/geometry/plan_cut.h"
#include "core/model/light_model.h"
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
    }
    std::ostringstream text;
    document_.save(text, " ");
    out_.bytes = text.str();
    out_.elements = p_.rooms.size();
    if (left_ > 0)
      out_.notes.push_back(counted(left_, "element is", "elements are") + " left out of studies, and not in the file.");
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

  double transmittance(const std::string& name) const {
    if (const Glazing* g = findGlazing(p_.glazings, name)) return g->transmittance;
    const auto library = libraryGlazings();
    const Glazing* g = findGlazing(library, name);
    return g ? g->transmittance : 0.7;
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
    add(space, "Volume", fmt::format("{:.4f}", area(room.outline) * room.height));
    const std::string id = "s-" + room.id.text();
    const double low = room.floor, high = room.floor + room.height;
    const Outline o = tidied(room.outline);
    std::vector<Vec3> floor, ceiling;
    for (Vec2 q : o.outer) ceiling.push_back({q.x, q.y, high});
    for (auto q = o.outer.rbegin(); q != o.outer.rend(); ++q) floor.push_back({q->x, q->y, low});
    surface("InteriorFloor", id + "-floor", room.name + ": floor", {r}, floor);
    pugi::xml_node top = surface("Ceiling", id + "-ceiling", room.name + ": ceiling", {r}, ceiling);
    if (!o.holes.empty())
      out_.notes.push_back(fmt::format("The holes in the floor of \"{}\" are not in the file.", room.name));
    const std::vector<bool> outer = outerEdges(p_, r);
    std::map<int, pugi::xml_node> walls;
    for (std::size_t i = 0; i < room.outline.outer.size(); ++i) {
      const Vec2 a = room.outline.outer[i], b = room.outline.outer[(i + 1) % room.outline.outer.size()];
      walls[int(i)] = surface(outer[i] ? "ExteriorWall" : "InteriorWall", fmt::format("{}-wall-{}", id, i + 1),
                              fmt::format("{}: wall {}", room.name, i + 1), {r},
                              {{a.x, a.y, low}, {b.x, b.y, low}, {b.x, b.y, high}, {a.x, a.y, high}});
    }
    std::size_t n = 0;
    for (const PlacedOpening& q : layout_.openings) {
      if (q.room != r) continue;
      pugi::xml_node into = q.opening.edge >= 0 ? walls[q.opening.edge] : top;
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
  std::map<std::string, std::string> types_; ///< name of the glazing -> id
  ExportedModel out_;
  std::size_t left_ = 0, skipped_ = 0;
};

} // namespace

Expected<ExportedModel> exportGbXml(const Project& p) {
  return GbXml(p).write();
}

} // namespace noonward
