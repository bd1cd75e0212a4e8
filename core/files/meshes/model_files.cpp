// Choosing the reader, guessing units and axes.

#include "core/base/tolerances.h"
#include "core/files/meshes/mesh_files.h"
#include "core/model/heat_library.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

Box3 Model::box() const {
  Box3 b;
  for (const ModelPart& p : parts) b.addBox(p.mesh.box());
  for (const ModelOutline& o : outlines)
    for (Vec2 p : o.outline.outer)
      for (double z : {o.base, o.base + o.height}) b.add({p.x, p.y, z});
  return b;
}

std::size_t Model::triangleCount() const {
  std::size_t n = 0;
  for (const ModelPart& p : parts) n += p.mesh.triangles.size();
  return n;
}

namespace {

/// Marks of encodings and lines that end in a carriage return alone are no reader's matter. What is no UTF-8 stays: its
/// names alone are mended, later. Formats that may be binary lose a mark before their first word, and no more.
void plainText(std::string& bytes, bool mayBeBinary) {
  const std::string_view mark = "\xef\xbb\xbf";
  if (mayBeBinary) {
    const std::string_view rest = std::string_view(bytes).substr(bytes.starts_with(mark) ? mark.size() : 0);
    if (!rest.starts_with("solid") && !rest.starts_with("ply")) return;
    if (bytes.size() > rest.size()) bytes.erase(0, mark.size());
    const bool words = bytes.find('\0') == bytes.npos;
    if (words && bytes.find('\n') == bytes.npos) std::replace(bytes.begin(), bytes.end(), '\r', '\n');
    return;
  }
  if (bytes.starts_with("\xff\xfe") || bytes.starts_with("\xfe\xff")) bytes = asUtf8(bytes);
  if (bytes.starts_with(mark)) bytes.erase(0, mark.size());
  if (bytes.find('\n') == bytes.npos) std::replace(bytes.begin(), bytes.end(), '\r', '\n');
}

Expected<Model> readByKind(const std::filesystem::path& path, RunControl* control, const ReadWish& wish,
                           Digest& content) {
  std::string kind = path.extension().string();
  std::transform(kind.begin(), kind.end(), kind.begin(), [](unsigned char c) { return std::tolower(c); });
  const std::string name = path.filename().string();
  using Parse = Expected<Model> (*)(std::string_view, const std::string&);
  const std::map<std::string, Parse> own{
      {".obj", parseObj},        {".stl", parseStl},         {".ply", parsePly},
      {".dxf", parseDxf},        {".geojson", parseGeoJson}, {".asc", parseHeightGrid},
      {".grd", parseHeightGrid}, {".xml", parseGbXml},       {".gbxml", parseGbXml}};
  const bool json = kind == ".json" || kind == ".cityjson";
  const bool xml = kind == ".xml" || kind == ".gml" || kind == ".citygml";
  if (json || xml || own.contains(kind)) {
    auto bytes = loadFile(path);
    if (!bytes) return tl::unexpected(bytes.error());
    content = digestOf(*bytes);
    plainText(*bytes, kind == ".stl" || kind == ".ply");
    if (kind == ".obj") {
      auto model = parseObj(*bytes, name);
      if (!model) return model;
      // The first of its material files, where it lies beside it.
      if (const auto at = bytes->find("mtllib "); at != std::string::npos && (at == 0 || (*bytes)[at - 1] == '\n')) {
        std::string library = bytes->substr(at + 7, std::min(bytes->find_first_of("\r\n", at), bytes->size()) - at - 7);
        const auto beside = path.parent_path() / std::filesystem::path(library).filename();
        if (const auto text = loadFile(beside))
          readMtl(*text, *model);
        else
          model->notes.push_back("Its material file \"" + library.substr(0, 100) +
                                 "\" is not there: how transparent things are is not known.");
      }
      return model;
    }
    if (xml && (kind != ".xml" || std::string_view(*bytes).substr(0, 4096).find("CityModel") != std::string_view::npos))
      return parseCityGml(*bytes, name, wish);
    if (!json) return own.at(kind)(*bytes, name);
    // "model.json" may be either; what it says of itself decides.
    const auto says = [&](std::string_view word) { return bytes->find(word) != std::string::npos; };
    return kind == ".json" && !says("\"CityJSON\"") && says("\"FeatureCollection\"")
               ? parseGeoJson(*bytes, name)
               : parseCityJson(*bytes, name, wish);
  }
  if (kind == ".gltf" || kind == ".glb" || kind == ".dae" || kind == ".3ds") return readForeign(path, kind, control);
  if (kind == ".ifc") return readIfc(path, control);
  return fail(fmt::format("Models of the kind \"{}\" can't be read. OBJ, STL, PLY, glTF, DAE, 3DS, DXF, IFC, gbXML, "
                          "CityJSON, CityGML, GeoJSON and height grids (ASC) can.",
                          kind),
              name);
}

/// The one border for every reader: whatever a file calls things goes on as UTF-8.
void namesAsUtf8(Model& model) {
  bool latin = false;
  const auto put = [&](std::string& name) {
    latin |= !validUtf8(name);
    name = nameAsUtf8(std::move(name));
  };
  put(model.file);
  for (ModelPart& p : model.parts) {
    for (std::string* name : {&p.name, &p.layer, &p.material}) put(*name);
    for (std::string& group : p.mesh.faceGroup) put(group);
  }
  for (ModelOutline& o : model.outlines)
    for (std::string* name : {&o.name, &o.layer, &o.use}) put(*name);
  for (Glazing& g : model.glazings)
    for (std::string* name : {&g.name, &g.source}) put(*name);
  for (Construction& c : model.heat.constructions) {
    for (std::string* name : {&c.name, &c.source}) put(*name);
    for (ConstructionLayer& l : c.layers) put(l.name);
  }
  for (RoomUse& u : model.heat.uses)
    for (std::string* name : {&u.name, &u.source}) put(*name);
  for (std::size_t f = 0; f < heatFlows; ++f) put(model.heat.*constructionOf(HeatFlow(f)));
  for (std::string& level : model.levels) put(level);
  for (std::string* name : {&model.level, &model.geo.system}) put(*name);
  for (std::string& note : model.notes) note = nameAsUtf8(std::move(note));
  if (latin) model.notes.push_back("Its names are no UTF-8; they were read as Latin-1.");
}

} // namespace

Expected<Model> readModel(const std::filesystem::path& path, RunControl* control, const ReadWish& wish) {
  Digest content;
  auto model = readByKind(path, control, wish, content);
  if (!model) return model;
  namesAsUtf8(*model);
  std::error_code e;
  model->path = nameAsUtf8(std::filesystem::absolute(path, e).lexically_normal().string());
  if (content == Digest{})
    if (const auto bytes = loadFile(path)) content = digestOf(*bytes);
  model->content = content;
  return model;
}

PlacementGuess guessPlacement(const Model& model, const std::optional<Vec3>& projectOrigin) {
  PlacementGuess g;
  const Box3 box = model.box();
  const Vec3 s = box.size();
  const double largest = std::max({s.x, s.y, s.z});
  // A site is flat: its height is its smallest side, and heights begin near one level for most parts.
  g.placement.yUp = model.statedYUp || (!model.statedZUp && s.y < 0.6 * s.x && s.y < 0.6 * s.z && s.z > 0);
  if (model.statedUnit) {
    g.placement.unit = *model.statedUnit;
    g.reason = fmt::format("the file says {}", unitName(*model.statedUnit));
    const double metres = largest * metresPer(*model.statedUnit);
    if (metres > 2 * tolerance::largestExtent || metres < 0.5) {
      g.suspicious = true;
      g.reason += fmt::format(", which makes it {:.4g} m long: is that right?", metres);
    }
  } else if (largest > 4000) {
    g.placement.unit = largest / 1000 >= 2 ? LengthUnit::Millimetre : LengthUnit::Metre;
    g.reason = fmt::format("the largest side counts {:.0f}: millimetres, since {:.1f} km would be no site", largest,
                           largest / 1000);
    if (largest / 1000 > 4000) {
      g.suspicious = true;
      g.reason = fmt::format("the largest side counts {:.0f}: no unit gives a size that suits a site", largest);
    }
  } else if (largest < 0.5) {
    g.suspicious = true;
    g.reason = fmt::format("the largest side counts {:.3f}: very small in any unit", largest);
  } else {
    g.reason = fmt::format("the largest side counts {:.1f}: metres", largest);
  }
  const double f = metresPer(g.placement.unit);
  g.size = g.placement.yUp ? Vec3{s.x * f, s.z * f, s.y * f} : s * f;
  const Vec3 c = box.center() * f;
  const Vec3 middle = g.placement.yUp ? Vec3{c.x, -c.z, c.y} : c;
  if (projectOrigin) {
    g.placement.origin = *projectOrigin;
  } else if (std::max({std::abs(middle.x), std::abs(middle.y)}) > 2000) {
    g.placement.origin = {std::round(middle.x / 100) * 100, std::round(middle.y / 100) * 100, 0};
    g.reason +=
        fmt::format("; it lies {:.1f} km from the origin, which is taken off", std::hypot(middle.x, middle.y) / 1000);
  }
  return g;
}

} // namespace noonward
