// gbXML (gbxml.org schema 0.37 to 6.01): surfaces, openings and shading as polygons. Spaces give names; constructions are not read.

#include "core/base/units.h"
#include "core/base/words.h"
#include "core/files/mesh_files.h"
#include "core/files/save_file.h"
#include "core/geometry/mesh_build.h"
#include <algorithm>
#include <cmath>
#include <pugixml.hpp>
#include <set>

namespace noonward {

namespace {

Role roleOfSurface(const std::string& kind) {
  if (kind == "InteriorWall") return Role::Partition;
  if (kind == "Roof") return Role::Roof;
  if (kind.ends_with("Ceiling")) return Role::Ceiling;
  if (kind.ends_with("Floor") || kind.starts_with("Slab") || kind == "UndergroundSlab") return Role::Floor;
  if (kind == "Shade") return Role::Shading;
  return Role::Wall;
}

/// Corners of the first loop; nothing where a number is missing.
std::optional<std::vector<Vec3>> loopOf(const pugi::xml_node& owner) {
  std::vector<Vec3> out;
  for (const pugi::xml_node& point : owner.child("PlanarGeometry").child("PolyLoop").children("CartesianPoint")) {
    double v[3] = {0, 0, 0};
    int k = 0;
    for (const pugi::xml_node& c : point.children("Coordinate")) {
      const auto n = numberFromText(c.child_value());
      if (!n || !std::isfinite(*n) || k > 2) return {};
      v[k++] = *n;
    }
    if (k != 3) return {};
    out.push_back({v[0], v[1], v[2]});
  }
  if (out.size() > 1 && out.front() == out.back()) out.pop_back();
  if (out.size() < 3) return {};
  return out;
}

} // namespace

Expected<Model> parseGbXml(std::string_view text, const std::string& file) {
  pugi::xml_document document;
  const pugi::xml_parse_result read = document.load_buffer(text.data(), text.size()); // knows UTF-16 and Latin-1 by their heads
  if (!read) {
    const auto at = std::min<std::size_t>(std::size_t(std::max<std::ptrdiff_t>(0, read.offset)), text.size());
    return fail(fmt::format("This is no sound XML: {}.", read.description()), fmt::format("{}:{}", file, 1 + std::count(text.begin(), text.begin() + std::ptrdiff_t(at), '\n')));
  }
  const pugi::xml_node root = document.child("gbXML");
  if (!root) return fail("This is no gbXML: its first element is not called so.", file);
  Model model;
  model.file = file;
  model.statedZUp = true;
  const std::string unit = root.attribute("lengthUnit").as_string("Meters");
  if (unit == "Meters") model.statedUnit = LengthUnit::Metre;
  else if (unit == "Feet") model.statedUnit = LengthUnit::Foot;
  else if (unit == "Inches") model.statedUnit = LengthUnit::Inch;
  else if (unit == "Centimeters") model.statedUnit = LengthUnit::Centimetre;
  else if (unit == "Millimeters") model.statedUnit = LengthUnit::Millimetre;
  else model.notes.push_back("The unit \"" + unit.substr(0, 40) + "\" is not known; it is guessed.");

  std::set<std::string> spaces, missing, taken;
  std::size_t faulty = 0, air = 0, openings = 0;
  for (const pugi::xml_node& campus : root.children("Campus")) {
    const pugi::xml_node location = campus.child("Location");
    const auto number = [&](const char* key) { return numberFromText(location.child_value(key)); };
    if (const auto latitude = number("Latitude"), longitude = number("Longitude"); latitude && longitude && std::abs(*latitude) <= 90 && std::abs(*longitude) <= 180 && (*latitude != 0 || *longitude != 0))
      model.geo.place = Place{radians(*latitude), radians(*longitude), number("Elevation").value_or(0)};
    if (const auto north = number("CADModelAzimuth"); north && std::abs(*north) <= 360) {
      model.geo.northAngle = radians(*north);
      if (*north != 0) model.notes.push_back(fmt::format("The drawing's up is taken to point {:g}° clockwise from north, as the file has it: check it in Site.", *north));
    }
    for (const pugi::xml_node& building : campus.children("Building"))
      for (const pugi::xml_node& space : building.children("Space")) spaces.insert(space.attribute("id").as_string());
    for (const pugi::xml_node& surface : campus.children("Surface")) {
      const std::string kind = surface.attribute("surfaceType").as_string("ExteriorWall"), id = surface.attribute("id").as_string();
      for (const pugi::xml_node& next : surface.children("AdjacentSpaceId"))
        if (const std::string space = next.attribute("spaceIdRef").as_string(); !spaces.contains(space)) missing.insert(space);
      if (kind == "Air") {
        ++air;
        continue;
      }
      std::string name = surface.child_value("Name");
      if (name.empty()) name = id.empty() ? kind : id;
      int again = 0;
      for (int k = 2; !taken.insert(k == 2 ? name : fmt::format("{} ({})", name, k - 1)).second; ++k) again = k;
      if (again > 0) name = fmt::format("{} ({})", name, again);
      const auto outer = loopOf(surface);
      if (!outer) {
        ++faulty;
        continue;
      }
      std::vector<std::vector<Vec3>> cuts;
      std::uint32_t opening = 0;
      for (const pugi::xml_node& o : surface.children("Opening")) {
        ++opening;
        const auto loop = loopOf(o);
        if (!loop) {
          ++openings;
          continue;
        }
        cuts.push_back(*loop);
        const std::string way = o.attribute("openingType").as_string("FixedWindow");
        if (way == "Air") continue;
        ModelPart part{name + ": " + std::string(o.attribute("id").as_string(fmt::format("opening {}", opening).c_str())), {}, way, way == "NonSlidingDoor" ? Role::Wall : Role::Glazing, 0};
        if (!taken.insert(part.name).second) part.name += fmt::format(" #{}", opening);
        if (!addPolygon(part.mesh, {*loop}, 0)) ++openings;
        else model.parts.push_back(std::move(part));
      }
      ModelPart part{name, {}, kind, roleOfSurface(kind), 0};
      if (addPolygonWithout(part.mesh, *outer, cuts, 0)) model.parts.push_back(std::move(part));
      else if (cuts.empty()) ++faulty; // else it is all opening
    }
  }
  if (model.parts.empty()) return fail(faulty > 0 ? "No surface can be read: corners are missing or no numbers." : "There are no surfaces in the file.", file);
  const auto note = [&](std::size_t n, const char* one, const char* more, const std::string& rest) {
    if (n > 0) model.notes.push_back(counted(n, one, more) + rest);
  };
  note(faulty, "surface was", "surfaces were", " left out: corners are missing, no numbers or without area.");
  note(openings, "opening was", "openings were", " left out for the same.");
  note(air, "air boundary was", "air boundaries were", " passed over.");
  if (!missing.empty()) model.notes.push_back(fmt::format("Surfaces name spaces that there are not: \"{}\"{}.", *missing.begin(), missing.size() > 1 ? " and others" : ""));
  return model;
}

} // namespace noonward
