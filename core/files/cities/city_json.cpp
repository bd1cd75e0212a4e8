// CityJSON 1.0, 1.1 and 2.0 (cityjson.org/specs): vertices with their transform, objects with boundaries of several
// levels of detail. The finest is taken. Windows and doors become parts of their own; kinds of objects and surfaces
// become roles and face names.

#include "core/base/json.h"
#include "core/base/units.h"
#include "core/base/words.h"
#include "core/files/cities/city_parts.h"
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <set>

namespace noonward {

namespace {

struct CityJsonReader {
  const Json& root;
  const std::string& file;
  const std::string level; ///< wanted; empty: the finest
  Model model;
  std::set<std::string> levels;
  std::vector<Vec3> points;
  std::size_t uncut = 0, badIndices = 0, templates = 0, otherLevel = 0;
  std::string firstBad;

  /// One polygon with its holes; `kind` of its surface.
  void surface(const Json& rings, const std::string& kind, CityObject& into, const std::string& who) {
    if (!rings.is_array()) return;
    std::vector<std::vector<Vec3>> polygon;
    for (const Json& r : rings) {
      if (!r.is_array()) return;
      polygon.emplace_back();
      for (const Json& i : r) {
        if (!i.is_number_integer() || i.get<std::int64_t>() < 0 ||
            i.get<std::int64_t>() >= std::int64_t(points.size())) {
          if (badIndices++ == 0)
            firstBad = fmt::format("{} names vertex {}; there are {}", who, i.dump().substr(0, 20), points.size());
          return;
        }
        polygon.back().push_back(points[i.get<std::size_t>()]);
      }
    }
    if (!into.face(polygon, kind)) ++uncut;
  }

  /// Boundaries nest deeper the more a geometry holds; values of semantics nest alike, one level less.
  void walk(const Json& boundaries, int depth, const Json* values, const Json& surfaces, CityObject& into,
            const std::string& who) {
    if (!boundaries.is_array()) return;
    for (std::size_t k = 0; k < boundaries.size(); ++k) {
      const Json* value = values && values->is_array() && k < values->size() ? &(*values)[k] : nullptr;
      if (depth > 1) {
        walk(boundaries[k], depth - 1, value, surfaces, into, who);
        continue;
      }
      std::string kind;
      if (value && value->is_number_integer() && surfaces.is_array()) {
        const auto s = value->get<std::int64_t>();
        if (s >= 0 && s < std::int64_t(surfaces.size()) && surfaces[std::size_t(s)].is_object())
          kind = textOf(surfaces[std::size_t(s)], "type");
      }
      surface(boundaries[k], kind, into, who);
    }
  }

  static std::string textOf(const Json& o, const char* key) {
    return o.is_object() && o.contains(key) && o[key].is_string() ? o[key].get<std::string>() : std::string();
  }
  static double detailFrom(const std::string& text) { return numberFromText(text).value_or(0); }
  static double detailOf(const Json& g) {
    if (!g.is_object() || !g.contains("lod")) return -1;
    if (g["lod"].is_number()) return g["lod"].get<double>();
    return g["lod"].is_string() ? detailFrom(g["lod"].get<std::string>()) : -1;
  }

  Outcome vertices() {
    if (!root.contains("vertices") || !root["vertices"].is_array())
      return fail("The list of vertices is missing.", file);
    Vec3 scale{1, 1, 1}, translate;
    if (root.contains("transform")) {
      const Json& t = root["transform"];
      const auto triple = [](const Json& v) {
        return v.is_array() && v.size() == 3 && v[0].is_number() && v[1].is_number() && v[2].is_number();
      };
      if (!t.is_object() || !t.contains("scale") || !t.contains("translate") || !triple(t["scale"]) ||
          !triple(t["translate"]))
        return fail("\"scale\" and \"translate\" of three numbers are expected.", file + ": transform");
      scale = {t["scale"][0].get<double>(), t["scale"][1].get<double>(), t["scale"][2].get<double>()};
      translate = {t["translate"][0].get<double>(), t["translate"][1].get<double>(), t["translate"][2].get<double>()};
    }
    const Json& list = root["vertices"];
    points.reserve(list.size());
    for (std::size_t i = 0; i < list.size(); ++i) {
      const Json& v = list[i];
      if (!v.is_array() || v.size() != 3 || !v[0].is_number() || !v[1].is_number() || !v[2].is_number())
        return fail("A vertex needs three numbers.", fmt::format("{}: vertices[{}]", file, i));
      const Vec3 p{v[0].get<double>() * scale.x + translate.x, v[1].get<double>() * scale.y + translate.y,
                   v[2].get<double>() * scale.z + translate.z};
      if (!finite(p))
        return fail("A vertex has a coordinate that is not a number.", fmt::format("{}: vertices[{}]", file, i));
      points.push_back(p);
    }
    return {};
  }

  void object(const std::string& id, const Json& o) {
    const std::string kind = textOf(o, "type");
    if (!o.is_object() || !o.contains("geometry") || !o["geometry"].is_array()) return;
    double finest = -2;
    bool has = false;
    for (const Json& g : o["geometry"])
      if (g.is_object() && textOf(g, "type") != "GeometryInstance") {
        finest = std::max(finest, detailOf(g));
        if (detailOf(g) >= 0) levels.insert(fmt::format("{:g}", detailOf(g)));
        has |= fmt::format("{:g}", detailOf(g)) == level;
      } else {
        ++templates;
      }
    if (!level.empty() && has)
      finest = detailFrom(level);
    else if (!level.empty() && finest > -2)
      ++otherLevel; // what has none of it keeps its finest
    CityObject into;
    for (const Json& g : o["geometry"]) {
      if (!g.is_object() || textOf(g, "type") == "GeometryInstance" || detailOf(g) != finest ||
          !g.contains("boundaries"))
        continue;
      const std::string type = textOf(g, "type");
      const int depth = type == "MultiSurface" || type == "CompositeSurface" ? 1
                        : type == "Solid"                                    ? 2
                        : type == "MultiSolid" || type == "CompositeSolid"   ? 3
                                                                             : 0;
      if (depth == 0) continue; // points and lines cast no shadow
      const Json none;
      const Json& semantics = g.contains("semantics") ? g["semantics"] : none;
      const bool known = semantics.is_object() && semantics.contains("values") && semantics.contains("surfaces");
      walk(g["boundaries"], depth, known ? &semantics["values"] : nullptr, known ? semantics["surfaces"] : none, into,
           id);
    }
    std::string name = id;
    if (o.contains("attributes") && !textOf(o["attributes"], "name").empty())
      name = textOf(o["attributes"], "name") + " (" + id + ")";
    const std::optional<Role> stated =
        o.contains("attributes") ? roleFromKey(textOf(o["attributes"], "role")) : std::nullopt;
    into.putInto(model, name, kind, stated ? stated : roleOfCityObject(kind));
  }
};

} // namespace

Expected<Model> parseCityJson(std::string_view text, const std::string& file, const ReadWish& wish) {
  const auto read = parseJson(text, file);
  if (!read) return tl::unexpected(read.error());
  if (!read->is_object() || CityJsonReader::textOf(*read, "type") != "CityJSON")
    return fail("This is no CityJSON: \"type\": \"CityJSON\" is expected at its head.", file);
  CityJsonReader r{*read, file, wish.level, {}, {}, {}};
  if (const Outcome o = r.vertices(); !o) return tl::unexpected(o.error());
  if (!read->contains("CityObjects") || !(*read)["CityObjects"].is_object())
    return fail("The list \"CityObjects\" is missing.", file);
  r.model.file = file;
  r.model.statedUnit = LengthUnit::Metre;
  r.model.statedZUp = true;
  if (read->contains("metadata")) r.model.geo.system = CityJsonReader::textOf((*read)["metadata"], "referenceSystem");
  for (const auto& [id, o] : (*read)["CityObjects"].items()) r.object(id, o);
  if (r.model.parts.empty() && r.model.outlines.empty())
    return fail(r.badIndices > 0 ? "Nothing can be read: " + r.firstBad + "." : "The model has no faces.", file);
  r.model.levels.assign(r.levels.begin(), r.levels.end()); // "0", "1", "1.2", "2": as text they sort alike
  if (!wish.level.empty()) {
    if (!r.levels.contains(wish.level))
      return fail(
          fmt::format("No object has a level of detail {}; there are {}.", wish.level, fmt::join(r.model.levels, ", ")),
          file);
    r.model.level = wish.level;
  }
  const auto note = [&](std::size_t n, const char* one, const char* more, const std::string& rest) {
    if (n > 0) r.model.notes.push_back(counted(n, one, more) + rest);
  };
  note(r.badIndices, "surface was", "surfaces were", " left out: no such vertices (" + r.firstBad + ").");
  note(r.uncut, "surface was", "surfaces were", " left out: no area, or edges that cross.");
  note(r.otherLevel, "object has", "objects have", " no geometry of that level: the finest was taken.");
  note(r.templates, "repeated shape (template) was", "repeated shapes (templates) were", " passed over.");
  return std::move(r.model);
}

} // namespace noonward
