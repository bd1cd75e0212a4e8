#include "core/files/project/shape_json.h"
#include "core/files/project/light_json.h"
#include "core/model/settings/fields.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
void write(Json& into, const Mass& m, const std::string&) {
  Json& o = into["mass"];
  writeOutline(o, m.outline);
  o["base"] = m.base;
  o["height"] = m.height;
  o["storeys"] = m.storeys;
  if (m.roof.flat()) return;
  o["roof"] = Json{{"kind", roofKey(m.roof.kind)}, {"rise", m.roof.rise}};
  if (m.roof.kind != Roof::Kind::Hip) o["roof"]["along"] = tidyDegrees(m.roof.along);
}
std::optional<Shape> readMass(JsonObject& m, const MeshReader&) {
  Mass mass;
  mass.outline = outlineFromJson(m);
  mass.base = m.number("base", 0, -1e6, 1e6);
  mass.height = m.requiredNumber("height", -1e6, 1e6);
  mass.storeys = m.integer("storeys", std::max(1, int(mass.height / 3)), 1, 500);
  if (m.has("roof")) {
    JsonObject r = m.object("roof");
    if (const auto kind = roofFromKey(r.requiredText("kind")))
      mass.roof.kind = *kind;
    else
      r.fault("kind", "flat, mono, gable or hip is expected here.");
    mass.roof.rise = r.number("rise", 2, 0, 1e4);
    mass.roof.along = radians(r.number("along", 0, -360, 360));
  }
  return mass;
}

void write(Json& into, const Imported& i, const std::string& folder) {
  Json& o = into["mesh"];
  o["file"] = meshFile(i, folder);
  if (!(i.move == Vec3{})) o["move"] = vectorJson(i.move);
  if (i.turn != 0) o["turn"] = tidyDegrees(i.turn);
  if (i.stretch != 1) o["stretch"] = i.stretch;
}
std::optional<Shape> readImported(JsonObject& m, const MeshReader& readMesh) {
  Imported place;
  const std::string name = m.requiredText("file");
  place.move = vectorFromJson(m, "move", {});
  place.turn = radians(m.number("turn", 0, -360, 360));
  place.stretch = m.number("stretch", 1, 1e-6, 1e6);
  if (!m.sound()) return place;
  auto read = readMesh(name);
  if (!read) {
    m.fault("file", read.error().text());
    return {};
  }
  read->move = place.move;
  read->turn = place.turn;
  read->stretch = place.stretch;
  return std::move(*read);
}

void write(Json& into, const Plate& plate, const std::string&) {
  Json& corners = into["plate"]["corners"] = Json::array();
  for (Vec3 c : plate.corners) corners.push_back(vectorJson(c));
}
std::optional<Shape> readPlate(JsonObject& m, const MeshReader&) {
  Plate plate;
  const Json& corners = m.raw("corners");
  bool sound = corners.is_array() && corners.size() >= 3;
  for (const Json& c : corners) {
    sound = sound && c.is_array() && c.size() == 3 && c[0].is_number() && c[1].is_number() && c[2].is_number();
    if (sound) plate.corners.push_back({c[0].get<double>(), c[1].get<double>(), c[2].get<double>()});
  }
  if (!sound) m.fault("corners", "Three corners or more, each [x, y, z], are expected here.");
  return plate;
}

void write(Json& into, const Tree& tree, const std::string&) {
  Json& o = into["tree"];
  o["foot"] = vectorJson(tree.foot);
  writeFields(o, tree);
}
std::optional<Shape> readTree(JsonObject& o, const MeshReader&) {
  Tree tree;
  tree.foot = vectorFromJson(o, "foot", {});
  readFields(o, tree);
  return tree;
}

constexpr struct {
  const char* key;
  std::optional<Shape> (*read)(JsonObject&, const MeshReader&);
} readers[] = {{"mass", readMass}, {"mesh", readImported}, {"plate", readPlate}, {"tree", readTree}};
static_assert(std::size(readers) == std::variant_size_v<Shape>, "a shape has no reader");
} // namespace

std::optional<Shape> shapeFromJson(JsonObject& element, const MeshReader& readMesh) {
  for (const auto& r : readers)
    if (element.has(r.key)) {
      JsonObject o = element.object(r.key);
      return r.read(o, readMesh);
    }
  element.fault("An element needs a \"mass\", a \"mesh\", a \"plate\" or a \"tree\".");
  return {};
}

void writeShape(Json& element, const Shape& shape, const std::string& folder) {
  std::visit([&](const auto& s) { write(element, s, folder); }, shape);
}

std::string meshFile(const Imported& i, const std::string& folder) {
  return folder + "/" + i.content.hex() + ".ply";
}

Outline outlineFromJson(JsonObject& o) {
  Outline out;
  if (!o.has("outline")) o.fault("outline", "This key is missing.");
  out.outer = ringFromJson(o.raw("outline"), o.pathOf("outline"), o.faults());
  o.array("holes",
          [&](const Json& v, const std::string& path) { out.holes.push_back(ringFromJson(v, path, o.faults())); });
  return out;
}

void writeOutline(Json& into, const Outline& o) {
  into["outline"] = ringJson(o.outer);
  for (const Ring& h : o.holes) into["holes"].push_back(ringJson(h));
}

double tidyDegrees(double angle) {
  return std::round(degrees(angle) * 1e10) / 1e10;
}

Json vectorJson(Vec3 v) {
  return Json::array({v.x, v.y, v.z});
}

Vec3 vectorFromJson(JsonObject& o, const char* key, Vec3 otherwise) {
  const Json& v = o.raw(key);
  if (v.is_null()) return otherwise;
  if (!v.is_array() || v.size() != 3 || !v[0].is_number() || !v[1].is_number() || !v[2].is_number()) {
    o.fault(key, "Three numbers [x, y, z] are expected here.");
    return otherwise;
  }
  return {v[0].get<double>(), v[1].get<double>(), v[2].get<double>()};
}

} // namespace noonward
