#include "core/files/meshes/model_export.h"
#include "core/base/json.h"
#include "core/base/words.h"
#include "core/files/meshes/geo_rings.h"
#include "core/files/meshes/glb.h"
#include "core/files/results/tables.h"
#include "core/sun/earth.h"
#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <fmt/format.h>

namespace noonward {

namespace {

struct Body {
  const Element* element;
  std::shared_ptr<const Mesh> mesh;
  std::string name; ///< no two alike, no line ends
};

std::string cleaned(std::string name) {
  for (char& c : name)
    if (static_cast<unsigned char>(c) < ' ') c = ' ';
  return name.empty() ? "unnamed" : name;
}

/// The shortest text that reads back to a tenth of a millimetre.
std::string length4(double v) {
  std::string t = fmt::format("{:.4f}", v);
  t.erase(t.find_last_not_of('0') + 1);
  if (t.back() == '.') t.pop_back();
  return t == "-0" ? "0" : t;
}

template <class T> void putRaw(std::string& out, T v) {
  static_assert(std::endian::native == std::endian::little);
  out.append(reinterpret_cast<const char*>(&v), sizeof v);
}

std::string obj(const std::vector<Body>& bodies, Vec3 origin) {
  std::string out = "# metres, z up\n";
  std::size_t from = 1;
  for (const Body& b : bodies) {
    out += "o " + b.name + "\nusemtl " + roleKey(b.element->role) + "\n";
    for (Vec3 p : b.mesh->points)
      out += fmt::format("v {} {} {}\n", length4(p.x + origin.x), length4(p.y + origin.y), length4(p.z + origin.z));
    for (const Triangle& t : b.mesh->triangles)
      out += fmt::format("f {} {} {}\n", t[0] + from, t[1] + from, t[2] + from);
    from += b.mesh->points.size();
  }
  return out;
}

std::string stl(const std::vector<Body>& bodies, std::size_t triangles) {
  std::string out(80, ' ');
  const std::string head = "binary STL, metres, z up";
  std::copy(head.begin(), head.end(), out.begin());
  putRaw(out, std::uint32_t(triangles));
  for (const Body& b : bodies)
    for (std::size_t t = 0; t < b.mesh->triangles.size(); ++t) {
      const Vec3 n = normalized(b.mesh->areaVector(t));
      for (double v : {n.x, n.y, n.z}) putRaw(out, float(v));
      for (std::uint32_t k : b.mesh->triangles[t])
        for (double v : {b.mesh->points[k].x, b.mesh->points[k].y, b.mesh->points[k].z}) putRaw(out, float(v));
      putRaw(out, std::uint16_t(0));
    }
  return out;
}

std::string dxf(const std::vector<Body>& bodies, Vec3 origin) {
  std::string out = "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n6\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n";
  for (const Body& b : bodies)
    for (const Triangle& t : b.mesh->triangles) {
      out += fmt::format("0\n3DFACE\n8\n{}\n", roleKey(b.element->role));
      for (std::size_t k = 0; k < 4; ++k) {
        const Vec3 p = b.mesh->points[t[std::min<std::size_t>(k, 2)]] + origin;
        out +=
            fmt::format("{}\n{}\n{}\n{}\n{}\n{}\n", 10 + k, length4(p.x), 20 + k, length4(p.y), 30 + k, length4(p.z));
      }
    }
  return out + "0\nENDSEC\n0\nEOF\n";
}

/// glTF 2.0 in one file: a node and a mesh for each element, a material for each role; y up, as the format wants.
std::string glb(const std::vector<Body>& bodies) {
  Json nodes = Json::array(), meshes = Json::array(), views = Json::array(), accessors = Json::array(),
       materials = Json::array(), scene = Json::array();
  std::string data;
  for (Role r : allRoles) {
    const bool glass = r == Role::Glazing;
    Json m{{"name", roleKey(r)},
           {"doubleSided", true},
           {"pbrMetallicRoughness",
            {{"baseColorFactor", glass ? Json::array({0.6, 0.8, 0.85, 0.4}) : Json::array({0.8, 0.78, 0.74, 1.0})},
             {"metallicFactor", 0}}}};
    if (glass) m["alphaMode"] = "BLEND";
    materials.push_back(std::move(m));
  }
  for (const Body& b : bodies) {
    Box3 box;
    const std::size_t points = data.size();
    for (Vec3 p : b.mesh->points) {
      const float q[3] = {float(p.x), float(p.z), float(-p.y)};
      for (float v : q) putRaw(data, v);
      box.add({double(q[0]), double(q[1]), double(q[2])});
    }
    const std::size_t indices = data.size();
    for (const Triangle& t : b.mesh->triangles)
      for (std::uint32_t k : t) putRaw(data, k);
    views.push_back(Json{{"buffer", 0}, {"byteOffset", points}, {"byteLength", indices - points}, {"target", 34962}});
    views.push_back(
        Json{{"buffer", 0}, {"byteOffset", indices}, {"byteLength", data.size() - indices}, {"target", 34963}});
    accessors.push_back(Json{{"bufferView", views.size() - 2},
                             {"componentType", 5126},
                             {"count", b.mesh->points.size()},
                             {"type", "VEC3"},
                             {"min", Json::array({box.low.x, box.low.y, box.low.z})},
                             {"max", Json::array({box.high.x, box.high.y, box.high.z})}});
    accessors.push_back(Json{{"bufferView", views.size() - 1},
                             {"componentType", 5125},
                             {"count", 3 * b.mesh->triangles.size()},
                             {"type", "SCALAR"}});
    const auto material = std::size_t(std::find(allRoles.begin(), allRoles.end(), b.element->role) - allRoles.begin());
    meshes.push_back(Json{{"name", b.name},
                          {"primitives", Json::array({Json{{"attributes", {{"POSITION", accessors.size() - 2}}},
                                                           {"indices", accessors.size() - 1},
                                                           {"material", material}}})}});
    scene.push_back(nodes.size());
    nodes.push_back(Json{{"name", b.name}, {"mesh", meshes.size() - 1}});
  }
  Json root{{"asset", {{"version", "2.0"}, {"generator", "Noonward"}}},
            {"scene", 0},
            {"scenes", Json::array({Json{{"nodes", scene}}})},
            {"nodes", nodes},
            {"meshes", meshes},
            {"materials", materials},
            {"accessors", accessors},
            {"bufferViews", views},
            {"buffers", Json::array({Json{{"byteLength", data.size()}}})}};
  return glbFile(root, data);
}

const char* cityKind(Role r) {
  switch (r) {
  case Role::Ground:
    return "TINRelief";
  case Role::Planting:
    return "SolitaryVegetationObject";
  case Role::Building:
  case Role::Neighbour:
  case Role::Wall:
  case Role::Roof:
  case Role::Floor:
  case Role::Ceiling:
  case Role::Partition:
  case Role::Glazing:
    return "Building";
  case Role::Shading:
  case Role::Ignore:
    break;
  }
  return "OtherConstruction";
}

/// Of a face of a building: glass is a window, else it goes by how steep it is.
int cityFace(Role r, Vec3 n) {
  return r == Role::Glazing ? 3 : n.z > 0.1 * length(n) ? 1 : n.z < -0.9 * length(n) ? 0 : 2;
}

std::string cityJson(const std::vector<Body>& bodies, const Project& p) {
  constexpr double step = 1e-4; // m
  Json vertices = Json::array(), objects = Json::object();
  for (const Body& b : bodies) {
    const auto from = vertices.size();
    for (Vec3 q : b.mesh->points)
      vertices.push_back(Json::array({std::llround(q.x / step), std::llround(q.y / step), std::llround(q.z / step)}));
    Json faces = Json::array(), values = Json::array();
    for (std::size_t t = 0; t < b.mesh->triangles.size(); ++t) {
      const Triangle& k = b.mesh->triangles[t];
      faces.push_back(Json::array({Json::array({from + k[0], from + k[1], from + k[2]})}));
      values.push_back(cityFace(b.element->role, b.mesh->areaVector(t)));
    }
    const std::string kind = cityKind(b.element->role);
    Json geometry{
        {"type", kind == "TINRelief" ? "CompositeSurface" : "MultiSurface"}, {"lod", "2"}, {"boundaries", faces}};
    if (kind == "Building")
      geometry["semantics"] =
          Json{{"surfaces", Json::array({Json{{"type", "GroundSurface"}}, Json{{"type", "RoofSurface"}},
                                         Json{{"type", "WallSurface"}}, Json{{"type", "Window"}}})},
               {"values", values}};
    objects[b.element->id.text()] = Json{{"type", kind},
                                         {"attributes", {{"name", b.name}, {"role", roleKey(b.element->role)}}},
                                         {"geometry", Json::array({geometry})}};
  }
  const Vec3 o = p.site.origin;
  Json root{{"type", "CityJSON"},
            {"version", "2.0"},
            {"transform", {{"scale", Json::array({step, step, step})}, {"translate", Json::array({o.x, o.y, o.z})}}}};
  if (p.site.referenceSystem.starts_with("https://"))
    root["metadata"] = Json{{"referenceSystem", p.site.referenceSystem}};
  root["CityObjects"] = std::move(objects);
  root["vertices"] = std::move(vertices);
  return root.dump(-1, ' ', false, Json::error_handler_t::replace);
}

/// Outlines of drawn masses in longitude and latitude, with height and foot.
std::string geoJson(const Project& p, bool everything, std::size_t& count) {
  const GeoRings rings(p);
  Json features = Json::array();
  for (const ElementPtr& e : p.elements) {
    const Mass* m = e->mass();
    if (!m || (!everything && (!e->counted || e->role == Role::Ignore))) continue;
    const Outline o = tidied(m->outline);
    Json properties{{"name", cleaned(e->name)},
                    {"role", roleKey(e->role)},
                    {"height", m->base != 0 ? m->top() : m->top() - m->base},
                    {"storeys", m->storeys}};
    if (m->base != 0) properties["min_height"] = m->base;
    features.push_back(Json{{"type", "Feature"},
                            {"id", e->id.text()},
                            {"properties", properties},
                            {"geometry", {{"type", "Polygon"}, {"coordinates", rings.polygon(o)}}}});
    ++count;
  }
  return Json{{"type", "FeatureCollection"}, {"features", features}}.dump(1, ' ', false,
                                                                          Json::error_handler_t::replace);
}

} // namespace

std::optional<ExportFormat> exportFormatOf(const std::filesystem::path& file) {
  std::string kind = file.extension().string();
  std::transform(kind.begin(), kind.end(), kind.begin(), [](unsigned char c) { return std::tolower(c); });
  if (kind == ".obj") return ExportFormat::Obj;
  if (kind == ".stl") return ExportFormat::Stl;
  if (kind == ".dxf") return ExportFormat::Dxf;
  if (kind == ".glb") return ExportFormat::Glb;
  if (kind == ".json") return ExportFormat::CityJson;
  if (kind == ".geojson") return ExportFormat::GeoJson;
  if (kind == ".xml" || kind == ".gbxml") return ExportFormat::GbXml;
  return {};
}

Expected<ExportedModel> exportModel(const Project& p, ExportFormat format, bool everything) {
  if (format == ExportFormat::GbXml) return exportGbXml(p);
  ExportedModel out;
  if (format == ExportFormat::GeoJson) {
    out.bytes = geoJson(p, everything, out.elements);
    if (out.elements == 0) return fail("There is no drawn mass to write: footprints come from masses alone.");
    if (const auto rest = p.elements.size() - out.elements; rest > 0)
      out.notes.push_back(counted(rest, "element is", "elements are") +
                          " no drawn mass that counts, and not in the file.");
    return out;
  }
  std::vector<Body> bodies;
  std::map<std::string, int> seen;
  std::size_t left = 0;
  for (const ElementPtr& e : p.elements) {
    if (!everything && (!e->counted || e->role == Role::Ignore)) {
      ++left;
      continue;
    }
    auto mesh = elementMesh(*e);
    if (!mesh) return tl::unexpected(mesh.error());
    if ((*mesh)->triangles.empty()) continue;
    Body b{e.get(), *mesh, cleaned(e->name.empty() ? e->id.text() : e->name)};
    if (const int k = ++seen[b.name]; k > 1) b.name += fmt::format(" ({})", k);
    out.triangles += b.mesh->triangles.size();
    bodies.push_back(std::move(b));
  }
  out.elements = bodies.size();
  if (bodies.empty()) return fail("There is nothing to write: no element counts.");
  if (left > 0)
    out.notes.push_back(counted(left, "element is", "elements are") + " left out of studies, and not in the file.");
  if (!p.rooms.empty())
    out.notes.push_back("Rooms and their windows are not in the file: this is the model that stands there.");
  if ((format == ExportFormat::Stl || format == ExportFormat::Glb) && !(p.site.origin == Vec3{}))
    out.notes.push_back("Coordinates count from the project's origin, since the format has too few digits for more.");
  switch (format) {
  case ExportFormat::Obj:
    out.bytes = obj(bodies, p.site.origin);
    break;
  case ExportFormat::Stl:
    out.bytes = stl(bodies, out.triangles);
    break;
  case ExportFormat::Dxf:
    out.bytes = dxf(bodies, p.site.origin);
    break;
  case ExportFormat::Glb:
    out.bytes = glb(bodies);
    break;
  case ExportFormat::CityJson:
    out.bytes = cityJson(bodies, p);
    break;
  case ExportFormat::GeoJson:
  case ExportFormat::GbXml:
    break;
  }
  return out;
}

std::string changesCsv(const Project& project) {
  const std::map<std::string, std::string> words{{"mesh.duplicates", "faces that stood twice removed"},
                                                 {"mesh.slivers", "faces without area removed"},
                                                 {"mesh.flipped", "faces turned outward"},
                                                 {"mesh.gaps", "edges within 5 mm welded"},
                                                 {"mesh.holes", "holes patched"},
                                                 {"element.heavy", "thinned out"},
                                                 {"walls.skins", "walls collapsed to one skin"},
                                                 {"glass.doubled", "doubled panes made single"},
                                                 {"glass.doubled:outer", "doubled panes made single, the outer kept"},
                                                 {"glass.doubled:inner", "doubled panes made single, the inner kept"},
                                                 {"glass.closed", "openings cut behind panes"}};
  std::string out = "file,part,layer,role,done\n";
  for (const ElementPtr& e : project.elements) {
    if (e->source.empty()) continue;
    std::vector<std::string> done;
    for (const std::string& m : e->mends) done.push_back(words.contains(m) ? words.at(m) : m);
    if (e->ghost)
      done.push_back("replaced by a simplified model in studies");
    else if (!e->counted && e->layer != spacesLayer)
      done.push_back("left out of studies");
    else if (e->role == Role::Ignore)
      done.push_back("ignored in studies");
    for (const std::string& d : done)
      out += csvField(e->source) + "," + csvField(e->name) + "," + csvField(e->layer) + "," + roleKey(e->role) + "," +
             csvField(d) + "\n";
  }
  return out;
}

} // namespace noonward
