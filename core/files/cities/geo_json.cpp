// GeoJSON (RFC 7946): Polygon and MultiPolygon footprints with a height property. Coordinates are longitude and
// latitude unless they can't be; then metres.

#include "core/base/json.h"
#include "core/base/units.h"
#include "core/base/words.h"
#include "core/files/meshes/mesh_files.h"
#include "core/geometry/plan_cut.h"
#include "core/sun/earth.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// The first property that is a number, or text that begins with one.
std::optional<double> property(const Json& properties, std::initializer_list<const char*> keys) {
  if (!properties.is_object()) return {};
  for (const char* wanted : keys)
    for (const auto& [key, value] : properties.items()) {
      std::string small = key;
      for (char& c : small) c = char(std::tolower(static_cast<unsigned char>(c)));
      if (small != wanted) continue;
      if (value.is_number()) return value.get<double>();
      if (value.is_string()) {
        std::string t = value.get<std::string>();
        if (const auto end = t.find_first_not_of("0123456789.,+-"); end != std::string::npos) t.resize(end);
        if (const auto v = numberFromText(t)) return v;
      }
    }
  return {};
}

/// The polygons of a geometry, and of what a collection holds; false where there are none.
bool gather(const Json& geometry, int deep, Json& polygons) {
  const std::string kind = geometry.is_object() && geometry.contains("type") && geometry["type"].is_string()
                               ? geometry["type"].get<std::string>()
                               : "";
  if (kind == "GeometryCollection" && deep > 0 && geometry.contains("geometries") &&
      geometry["geometries"].is_array()) {
    bool any = false;
    for (const Json& g : geometry["geometries"]) any |= gather(g, deep - 1, polygons);
    return any;
  }
  if (kind != "Polygon" && kind != "MultiPolygon") return false;
  if (!geometry.contains("coordinates")) return true;
  const Json& c = geometry["coordinates"];
  if (kind == "Polygon")
    polygons.push_back(c);
  else if (c.is_array())
    polygons.insert(polygons.end(), c.begin(), c.end());
  return true;
}

struct Footprint {
  std::string name;
  std::vector<std::vector<Vec2>> rings;
  double base = 0, height = 0;
  std::optional<Role> role = {};
};

} // namespace

Expected<Model> parseGeoJson(std::string_view text, const std::string& file) {
  const auto read = parseJson(text, file);
  if (!read) return tl::unexpected(read.error());
  const Json& j = *read;
  const std::string type =
      j.is_object() && j.contains("type") && j["type"].is_string() ? j["type"].get<std::string>() : "";
  Json list = Json::array();
  if (type == "FeatureCollection" && j.contains("features") && j["features"].is_array())
    list = j["features"];
  else if (type == "Feature" || type == "GeometryCollection" || type == "Polygon" || type == "MultiPolygon" ||
           type == "Point" || type == "MultiPoint" || type == "LineString" || type == "MultiLineString")
    list.push_back(j);
  else
    return fail("This is no GeoJSON: a FeatureCollection, a Feature or a geometry is expected.", file);

  std::vector<Footprint> prints;
  std::size_t others = 0, faulty = 0, byStoreys = 0, flat = 0, overBase = 0, mended = 0;
  std::string firstFault;
  for (std::size_t i = 0; i < list.size(); ++i) {
    const Json& f = list[i];
    const Json none;
    const Json& properties = f.is_object() && f.contains("properties") ? f["properties"] : none;
    const Json& geometry = f.is_object() && f.contains("geometry") ? f["geometry"] : f;
    Json polygons = Json::array();
    if (!gather(geometry, 8, polygons)) {
      ++others;
      continue;
    }
    Footprint print;
    const auto height = property(properties, {"height", "building:height", "hoehe", "höhe", "hauteur", "altura",
                                              "altezza", "hoogte", "wysokosc", "h", "roof_height", "measuredheight"});
    const auto storeys = property(
        properties, {"building:levels", "levels", "storeys", "stories", "floors", "geschosse", "etages", "num_floors"});
    print.base = property(properties, {"min_height", "base", "base_height", "building:min_height"}).value_or(0);
    if (height && (print.base <= 0 || *height > print.base))
      print.height = *height - print.base; // heights count from the ground, whatever the base is
    else if (height) {
      print.height = *height;
      ++overBase;
    } else if (storeys) {
      print.height = 3.2 * *storeys;
      ++byStoreys;
    }
    if (!(print.height > 0 && print.height < 2000)) print.height = 0;
    if (properties.is_object())
      for (const char* key : {"name", "id", "addr:housenumber"})
        if (print.name.empty() && properties.contains(key))
          print.name = properties[key].is_string()   ? properties[key].get<std::string>()
                       : properties[key].is_number() ? properties[key].dump()
                                                     : "";
    if (properties.is_object() && properties.contains("role") && properties["role"].is_string())
      print.role = roleFromKey(properties["role"].get<std::string>());
    if (print.name.empty() && f.is_object() && f.contains("id"))
      print.name = f["id"].is_string() ? f["id"].get<std::string>() : f["id"].dump();
    if (print.name.empty()) print.name = fmt::format("footprint {}", i + 1);
    bool sound = polygons.is_array() && !polygons.empty();
    for (std::size_t k = 0; sound && k < polygons.size(); ++k) {
      Footprint one = print;
      if (polygons.size() > 1) one.name += fmt::format(" ({})", k + 1);
      sound = polygons[k].is_array() && !polygons[k].empty();
      for (std::size_t r = 0; sound && r < polygons[k].size(); ++r) {
        const Json& ring = polygons[k][r];
        sound = ring.is_array();
        one.rings.emplace_back();
        for (std::size_t n = 0; sound && n < ring.size(); ++n) {
          sound = ring[n].is_array() && ring[n].size() >= 2 && ring[n][0].is_number() && ring[n][1].is_number();
          if (sound) one.rings.back().push_back({ring[n][0].get<double>(), ring[n][1].get<double>()});
          sound = sound && std::isfinite(one.rings.back().back().x) && std::isfinite(one.rings.back().back().y);
        }
        if (one.rings.back().size() > 1 && one.rings.back().front() == one.rings.back().back())
          one.rings.back().pop_back();
      }
      if (sound) prints.push_back(std::move(one));
    }
    if (!sound && faulty++ == 0) firstFault = fmt::format("features[{}]", i);
  }
  if (prints.empty())
    return fail(faulty > 0 ? "No footprint can be read: coordinates are missing or no numbers."
                           : "There is no polygon in the file.",
                faulty > 0 ? file + ": " + firstFault : file);

  Box3 box;
  for (const Footprint& p : prints)
    for (const auto& ring : p.rings)
      for (Vec2 q : ring) box.add({q.x, q.y, 0});
  // Degrees, unless they can't be: beyond ±180 and ±90, or wider than any site is (1° is 111 km).
  const bool degreesGiven = box.low.x >= -180 && box.high.x <= 180 && box.low.y >= -90 && box.high.y <= 90 &&
                            box.size().x < 1 && box.size().y < 1;
  Model model;
  model.file = file;
  model.statedZUp = true;
  const Vec2 middle{0.5 * (box.low.x + box.high.x), 0.5 * (box.low.y + box.high.y)};
  if (degreesGiven) {
    model.statedUnit = LengthUnit::Metre;
    model.geo.place = Place{radians(middle.y), radians(middle.x), 0};
    model.geo.northAngle = 0;
    model.notes.push_back(fmt::format(
        "Longitude and latitude, laid on a plane that touches the Earth at {:.5f}° N, {:.5f}° E.", middle.y, middle.x));
  } else {
    model.notes.push_back("Coordinates are no degrees: taken as lengths.");
    if (j.contains("crs")) {
      const Json& crs = j["crs"];
      if (crs.is_object() && crs.contains("properties") && crs["properties"].is_object() &&
          crs["properties"].contains("name") && crs["properties"]["name"].is_string())
        model.geo.system = crs["properties"]["name"].get<std::string>();
    }
  }
  // Earth-centred WGS 84, seen from the middle: exact to a millimetre over a site.
  const auto onEarth = [&](double longitude, double latitude) {
    const double s = std::sin(latitude), n = earth::major / std::sqrt(1 - earth::e2 * s * s);
    return Vec3{n * std::cos(latitude) * std::cos(longitude), n * std::cos(latitude) * std::sin(longitude),
                n * (1 - earth::e2) * s};
  };
  const double lon = radians(middle.x), lat = radians(middle.y);
  const Vec3 zero = onEarth(lon, lat), east{-std::sin(lon), std::cos(lon), 0},
             north{-std::sin(lat) * std::cos(lon), -std::sin(lat) * std::sin(lon), std::cos(lat)};
  std::map<std::string, int> seen;
  std::vector<std::string> broken;
  for (const Footprint& p : prints) {
    ModelOutline o;
    o.name = p.name;
    if (const int k = ++seen[o.name]; k > 1) o.name += fmt::format(" #{}", k);
    o.layer = "footprints";
    o.base = p.base;
    o.height = p.height;
    o.role = p.role.value_or(Role::Neighbour);
    for (std::size_t r = 0; r < p.rings.size(); ++r) {
      Ring ring;
      for (Vec2 q : p.rings[r]) {
        if (degreesGiven) {
          const Vec3 d = onEarth(radians(q.x), radians(q.y)) - zero;
          q = {dot(d, east), dot(d, north)};
        }
        ring.push_back(q);
      }
      if (r == 0)
        o.outline.outer = std::move(ring);
      else
        o.outline.holes.push_back(std::move(ring));
    }
    o.outline = tidied(o.outline);
    std::vector<Outline> pieces{o.outline};
    if (checkOutline(o.outline).fault != OutlineFault::None) { // edges that cross, courtyards that touch the edge
      pieces = repaired(o.outline);
      if (pieces.empty()) {
        broken.push_back(o.name);
        continue;
      }
      ++mended;
    }
    flat += o.height <= 0;
    for (std::size_t k = 0; k < pieces.size(); ++k) {
      ModelOutline one = o;
      one.outline = std::move(pieces[k]);
      if (k > 0) one.name += fmt::format(", part {}", k + 1);
      model.outlines.push_back(std::move(one));
    }
  }
  if (model.outlines.empty())
    return fail("No footprint is an area: all outlines cross themselves or have no area.", file);
  const auto note = [&](std::size_t n, const char* one, const char* more, const char* rest) {
    if (n > 0) model.notes.push_back(counted(n, one, more) + rest);
  };
  note(flat, "footprint says", "footprints say", " no height: to trace or to raise, left out of studies until then.");
  note(byStoreys, "height follows", "heights follow", " from storeys, 3.2 m each.");
  note(faulty, "feature", "features", " could not be read: coordinates are missing or no numbers.");
  note(overBase, "footprint says", "footprints say", " a height below its base: taken as counted from the base.");
  note(mended, "outline", "outlines",
       " with edges that cross or touch repaired: the same area covered, in as many pieces as that needs.");
  if (!broken.empty()) {
    std::string names;
    for (std::size_t k = 0; k < std::min<std::size_t>(broken.size(), 8); ++k) names += (k ? ", " : "") + broken[k];
    note(broken.size(), "outline has", "outlines have", " no area that can be built on, left out: ");
    model.notes.back() += names + (broken.size() > 8 ? fmt::format(" and {} more.", broken.size() - 8) : ".");
  }
  note(others, "feature is", "features are", " no polygon, passed over.");
  return model;
}

} // namespace noonward
