// gbXML (gbxml.org schema 0.37 to 6.01): surfaces, openings and shading as polygons; transmittance, g and U of windows;
// constructions by layers or U-value, and which of them most walls, roofs and floors have; spaces by their floors as
// outlines with names. What surfaces border on follows from the rooms.

#include "core/base/units.h"
#include "core/base/words.h"
#include "core/files/buildings/xml.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/save_file.h"
#include "core/geometry/mesh_build.h"
#include "core/geometry/plan_cut.h"
#include "core/model/heat_library.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
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

/// In SI; nothing where it is missing, no number or in an unknown unit.
std::optional<double> quantity(const pugi::xml_node& of, const char* key,
                               std::initializer_list<std::pair<const char*, double>> units) {
  const pugi::xml_node n = of.child(key);
  const auto v = numberFromText(n.child_value());
  if (!v || !std::isfinite(*v) || *v <= 0) return {};
  const std::string unit = n.attribute("unit").as_string(units.begin()->first);
  for (const auto& [name, si] : units)
    if (unit == name) return *v * si;
  return {};
}
constexpr double britishU = 5.678263; ///< W/(m²K) for each Btu/(h ft² °F)

/// Visible transmittance, g and U of each kind of window, by its id.
std::map<std::string, Glazing> windowTypes(const pugi::xml_node& root, const std::string& file) {
  std::map<std::string, Glazing> out;
  for (const pugi::xml_node& type : root.children("WindowType")) {
    std::optional<double> best;
    double angle = 90;
    for (const pugi::xml_node& t : type.children("Transmittance")) {
      if (t.attribute("type").as_string() != std::string("Visible")) continue;
      const auto v = numberFromText(t.child_value());
      const auto at = numberFromText(t.attribute("incidentAngle").as_string("0")).value_or(0);
      if (!v || *v <= 0 || *v > 1 || at > angle) continue;
      best = *v;
      angle = at;
    }
    const std::string id = type.attribute("id").as_string();
    if (!best || id.empty()) continue;
    Glazing g;
    g.name = type.child_value("Name");
    if (g.name.empty()) g.name = id;
    g.transmittance = *best;
    g.uValue = std::min(
        10.0, quantity(type, "U-value", {{"WPerSquareMeterK", 1}, {"BtuPerHourSquareFtF", britishU}}).value_or(0));
    double from = 90; // g at the least angle that is told
    for (const pugi::xml_node& s : type.children("SolarHeatGainCoeff")) {
      const auto v = numberFromText(s.child_value());
      const double here = numberFromText(s.attribute("solarIncidentAngle").as_string("0")).value_or(0);
      if (!v || !(*v > 0) || *v > 1 || here > from) continue;
      from = here;
      g.solarFactor = *v;
    }
    g.source = "stated by " + file;
    out.emplace(id, std::move(g));
  }
  return out;
}

/// Constructions by id: layers where all of them are whole, else the U-value.
std::map<std::string, Construction> constructionsOf(const pugi::xml_node& root, const std::string& file,
                                                    std::size_t& faulty) {
  std::map<std::string, ConstructionLayer> materials;
  for (const pugi::xml_node& m : root.children("Material")) {
    const auto thickness =
        quantity(m, "Thickness",
                 {{"Meters", 1}, {"Centimeters", 0.01}, {"Millimeters", 1e-3}, {"Feet", 0.3048}, {"Inches", 0.0254}});
    const auto conducts = quantity(m, "Conductivity", {{"WPerMeterK", 1}, {"BtuPerHourFtF", 1.730735}});
    if (!thickness || !conducts || *thickness > 5 || *conducts > 500) continue;
    ConstructionLayer l;
    l.name = m.child_value("Name");
    l.thickness = *thickness;
    l.conductivity = *conducts;
    l.density = quantity(m, "Density", {{"KgPerCubicM", 1}, {"LbsPerCubicFt", 16.01846}, {"GramsPerCubicCm", 1000}})
                    .value_or(l.density);
    l.heatCapacity = quantity(m, "SpecificHeat", {{"JPerKgK", 1}, {"BTUPerLbF", 4186.8}}).value_or(l.heatCapacity);
    materials[m.attribute("id").as_string()] = std::move(l);
  }
  std::map<std::string, std::vector<std::string>> layers;
  for (const pugi::xml_node& l : root.children("Layer"))
    for (const pugi::xml_node& m : l.children("MaterialId"))
      layers[l.attribute("id").as_string()].push_back(m.attribute("materialIdRef").as_string());
  std::map<std::string, Construction> out;
  for (const pugi::xml_node& c : root.children("Construction")) {
    const std::string id = c.attribute("id").as_string();
    Construction made;
    made.name = c.child_value("Name");
    if (made.name.empty()) made.name = id;
    made.source = "stated by " + file;
    const auto u = quantity(c, "U-value", {{"WPerSquareMeterK", 1}, {"BtuPerHourSquareFtF", britishU}});
    bool whole = true;
    for (const pugi::xml_node& l : c.children("LayerId"))
      for (const std::string& m : layers[l.attribute("layerIdRef").as_string()])
        if (const auto at = materials.find(m); at != materials.end())
          made.layers.push_back(at->second);
        else
          whole = false;
    if (!whole) made.layers.clear();
    if (id.empty() || ((!u || *u > 20) && made.layers.empty())) {
      faulty += !id.empty();
      continue;
    }
    if (u && *u <= 20) made.uValue = *u;
    out.emplace(id, std::move(made));
  }
  return out;
}

/// Which construction most of the walls, roofs and floors have.
class Usual {
public:
  void count(const std::string& kind, const std::string& construction, double area) {
    const auto flow = flowOf(kind);
    if (flow && !construction.empty()) areas_[std::size_t(*flow)][construction] += area;
  }
  void put(HeatDesign& d) const {
    for (std::size_t f = 0; f < heatFlows; ++f) {
      double most = 0;
      for (const auto& [name, area] : areas_[f])
        if (area > most) {
          most = area;
          d.*constructionOf(HeatFlow(f)) = name;
        }
    }
  }

private:
  static std::optional<HeatFlow> flowOf(const std::string& kind) {
    if (kind == "ExteriorWall" || kind == "UndergroundWall") return HeatFlow::Wall;
    if (kind == "Roof") return HeatFlow::Roof;
    if (kind == "SlabOnGrade" || kind == "UndergroundSlab") return HeatFlow::Ground;
    if (kind == "RaisedFloor" || kind == "ExposedFloor") return HeatFlow::ExposedFloor;
    if (kind == "InteriorWall" || kind == "InteriorFloor" || kind == "Ceiling") return HeatFlow::Inside;
    return {};
  }
  std::array<std::map<std::string, double>, heatFlows> areas_;
};

/// Uses of spaces: power by floor area of the space, set-points of its zone; called after the zone.
class Uses {
public:
  explicit Uses(const pugi::xml_node& root) {
    const bool fahrenheit = root.attribute("temperatureUnit").as_string() == std::string("F");
    for (const pugi::xml_node& zone : root.children("Zone")) {
      Zone z;
      z.name = zone.child_value("Name");
      if (z.name.empty()) z.name = zone.attribute("id").as_string();
      z.heat = temperature(zone.child("DesignHeatT"), fahrenheit);
      z.cool = temperature(zone.child("DesignCoolT"), fahrenheit);
      zones_[zone.attribute("id").as_string()] = std::move(z);
    }
  }
  /// Its name, once it is among the design's; empty where the file says nothing of the space.
  std::string of(const pugi::xml_node& space, const std::string& file, HeatDesign& into) {
    const auto zone = zones_.find(space.attribute("zoneIdRef").as_string());
    const auto per = [&](const char* key) {
      return power(space, key, {{"WattPerSquareMeter", 1}, {"WattPerSquareFoot", 1 / 0.09290304}});
    };
    const auto lighting = per("LightPowerPerArea"), equipment = per("EquipPowerPerArea");
    std::optional<double> people;
    const auto each = power(space, "PeopleHeatGain", {{"WattPerPerson", 1}, {"BtuPerHourPerson", 0.29307107}}),
               room = power(space, "PeopleNumber", {{"SquareMPerPerson", 1}, {"SquareFtPerPerson", 0.09290304}}),
               number = power(space, "PeopleNumber", {{"NumberOfPeople", 1}}),
               area = numberFromText(space.child_value("Area"));
    if (number && *number == 0) people = 0;
    if (each && room && *room > 0) people = *each / *room;
    if (each && number && area && *area > 0) people = *each * *number / *area;
    const bool free = space.attribute("conditionType").as_string() == std::string("Unconditioned");
    if (!lighting && !equipment && !people && !free && (zone == zones_.end() || !zone->second.heat)) return {};
    RoomUse u;
    u.name = zone != zones_.end() ? zone->second.name : free ? "unheated" : "stated";
    if (const auto known = findUse({}, u.name)) u = *known; // what the file does not tell, the library does
    u.copyOf.clear();
    u.locked = false;
    u.conditioned = !free;
    u.source = "stated by " + file;
    u.lighting = lighting.value_or(u.lighting);
    u.equipment = equipment.value_or(u.equipment);
    u.people = people.value_or(u.people);
    if (zone != zones_.end()) {
      u.heatTo = zone->second.heat.value_or(u.heatTo);
      u.coolTo = zone->second.cool.value_or(u.coolTo);
      u.heatBack = std::min(u.heatBack, u.heatTo);
      u.coolBack = std::max(u.coolBack, u.coolTo);
    }
    if (!faultOf(u).empty() || u.lighting > 500 || u.equipment > 2000 || u.people > 500 || std::abs(u.heatTo) > 50 ||
        std::abs(u.coolTo) > 50)
      return {};
    const std::string stem = u.name;
    for (int n = 2;; ++n) {
      const auto same =
          std::find_if(into.uses.begin(), into.uses.end(), [&](const RoomUse& o) { return o.name == u.name; });
      if (same == into.uses.end()) break;
      if (*same == u) return u.name;
      u.name = fmt::format("{} ({})", stem, n);
    }
    into.uses.push_back(u);
    return into.uses.back().name;
  }

private:
  struct Zone {
    std::string name;
    std::optional<double> heat, cool; ///< °C
  };
  static std::optional<double> temperature(const pugi::xml_node& n, bool fahrenheit) {
    const auto v = numberFromText(n.child_value());
    if (!v || !std::isfinite(*v)) return {};
    const std::string unit = n.attribute("unit").as_string(fahrenheit ? "F" : "C");
    return unit == "F" ? std::optional((*v - 32) / 1.8) : unit == "C" ? v : std::nullopt;
  }
  static std::optional<double> power(const pugi::xml_node& of, const char* key,
                                     std::initializer_list<std::pair<const char*, double>> units) {
    if (const auto v = numberFromText(of.child(key).child_value()); v && *v == 0) // nothing is a statement too
      for (const auto& [name, si] : units)
        if (of.child(key).attribute("unit").as_string() == std::string(name)) return 0.0;
    return of.child(key).attribute("unit") ? quantity(of, key, units) : std::nullopt;
  }
  std::map<std::string, Zone> zones_;
};

/// What looks up or down in a space and lies lowest is its floor.
struct SpaceFloor {
  std::string name, use;
  std::optional<double> area; ///< m², as the file states it
  std::vector<std::vector<Vec3>> loops;
};
void addSpaces(Model& model, const std::map<std::string, SpaceFloor>& spaces) {
  std::map<std::string, int> taken;
  std::size_t contradicting = 0;
  std::string first;
  for (const auto& [id, space] : spaces) {
    double low = 1e300;
    for (const auto& loop : space.loops)
      for (const Vec3& p : loop) low = std::min(low, p.z);
    std::vector<Outline> faces;
    for (const auto& loop : space.loops) {
      double most = -1e300;
      Outline o;
      for (const Vec3& p : loop) {
        most = std::max(most, p.z);
        o.outer.push_back(xy(p));
      }
      o = tidied(std::move(o));
      if (most - low <= 0.02 * std::sqrt(std::abs(area(o))) && checkOutline(o).fault == OutlineFault::None)
        faces.push_back(std::move(o));
    }
    const auto whole = unionOf(faces);
    if (!whole) continue;
    // Floors of another size than the file itself states: its unit is not what it says.
    if (space.area && *space.area > 0 && model.statedUnit) {
      double is = 0;
      for (const Outline& o : *whole) is += std::abs(area(o)) * std::pow(metresPer(*model.statedUnit), 2);
      if (is > 0 && (is > 4 * *space.area || 4 * is < *space.area) && contradicting++ == 0)
        first = fmt::format("\"{}\" is stated with {:.4g} m², and its floor measures {:.4g} m²",
                            space.name.empty() ? id : space.name, *space.area, is);
    }
    for (const Outline& o : *whole) {
      ModelOutline out;
      out.name = space.name.empty() ? id : space.name;
      if (const int n = ++taken[out.name]; n > 1) out.name += fmt::format(" ({})", n);
      out.layer = spacesLayer;
      out.use = space.use;
      out.outline = o;
      out.base = low;
      out.role = Role::Floor;
      model.outlines.push_back(std::move(out));
    }
  }
  if (contradicting > 0)
    model.notes.push_back(fmt::format("The file contradicts itself in {}: {}. Are its units right?",
                                      counted(contradicting, "space", "spaces"), first));
}

} // namespace

Expected<Model> parseGbXml(std::string_view text, const std::string& file) {
  pugi::xml_document document;
  if (const Outcome o = openXml(document, text, file); !o) return tl::unexpected(o.error());
  const pugi::xml_node root = document.child("gbXML");
  if (!root)
    return fail(fmt::format("This is no gbXML: its first element is called \"{}\".",
                            std::string(document.document_element().name()).substr(0, 60)),
                file);
  Model model;
  model.file = file;
  model.statedZUp = true;
  const std::string unit = root.attribute("lengthUnit").as_string("Meters");
  if (unit == "Meters")
    model.statedUnit = LengthUnit::Metre;
  else if (unit == "Feet")
    model.statedUnit = LengthUnit::Foot;
  else if (unit == "Inches")
    model.statedUnit = LengthUnit::Inch;
  else if (unit == "Centimeters")
    model.statedUnit = LengthUnit::Centimetre;
  else if (unit == "Millimeters")
    model.statedUnit = LengthUnit::Millimetre;
  else
    model.notes.push_back("The unit \"" + unit.substr(0, 40) + "\" is not known; it is guessed.");

  const std::map<std::string, Glazing> types = windowTypes(root, file);
  std::size_t faultyConstructions = 0;
  const std::map<std::string, Construction> constructions = constructionsOf(root, file, faultyConstructions);
  Usual usual;
  Uses uses(root);
  std::set<std::string> missing, taken, glazings, built;
  std::map<std::string, SpaceFloor> spaces;
  std::size_t faulty = 0, air = 0, openings = 0;
  for (const pugi::xml_node& campus : root.children("Campus")) {
    const pugi::xml_node location = campus.child("Location");
    const auto number = [&](const char* key) { return numberFromText(location.child_value(key)); };
    if (const auto latitude = number("Latitude"), longitude = number("Longitude");
        latitude && longitude && std::abs(*latitude) <= 90 && std::abs(*longitude) <= 180 &&
        (*latitude != 0 || *longitude != 0))
      model.geo.place = Place{radians(*latitude), radians(*longitude), number("Elevation").value_or(0)};
    if (const auto north = number("CADModelAzimuth"); north && std::abs(*north) <= 360) {
      model.geo.northAngle = radians(*north);
      if (*north != 0)
        model.notes.push_back(fmt::format(
            "project north is taken to point {:g}° clockwise from north, as the file has it: check it in Site.",
            *north));
    }
    for (const pugi::xml_node& building : campus.children("Building"))
      for (const pugi::xml_node& space : building.children("Space")) {
        SpaceFloor& floor = spaces[space.attribute("id").as_string()];
        floor.name = space.child_value("Name");
        floor.use = uses.of(space, file, model.heat);
        const std::string per = root.attribute("areaUnit").as_string("SquareMeters");
        if (const auto stated = numberFromText(space.child_value("Area"));
            stated && (per == "SquareMeters" || per == "SquareFeet"))
          floor.area = *stated * (per == "SquareFeet" ? 0.09290304 : 1);
      }
    for (const pugi::xml_node& surface : campus.children("Surface")) {
      const std::string kind = surface.attribute("surfaceType").as_string("ExteriorWall"),
                        id = surface.attribute("id").as_string();
      for (const pugi::xml_node& next : surface.children("AdjacentSpaceId"))
        if (const std::string space = next.attribute("spaceIdRef").as_string(); !spaces.contains(space))
          missing.insert(space);
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
      if (const auto c = constructions.find(surface.attribute("constructionIdRef").as_string());
          c != constructions.end()) {
        usual.count(kind, c->second.name, length(ringNormal(*outer)));
        if (built.insert(c->second.name).second) model.heat.constructions.push_back(c->second);
      }
      if (const Vec3 n = ringNormal(*outer); std::abs(n.z) > 0.9 * length(n))
        for (const pugi::xml_node& next : surface.children("AdjacentSpaceId"))
          if (const auto at = spaces.find(next.attribute("spaceIdRef").as_string()); at != spaces.end())
            at->second.loops.push_back(*outer);
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
        ModelPart part{name + ": " +
                           std::string(o.attribute("id").as_string(fmt::format("opening {}", opening).c_str())),
                       {},
                       way,
                       way == "NonSlidingDoor" ? Role::Wall : Role::Glazing,
                       0};
        if (!taken.insert(part.name).second) part.name += fmt::format(" #{}", opening);
        if (const auto type = types.find(o.attribute("windowTypeIdRef").as_string());
            type != types.end() && part.role == Role::Glazing) {
          part.material = type->second.name;
          if (glazings.insert(part.material).second) model.glazings.push_back(type->second);
        }
        if (!addPolygon(part.mesh, {*loop}, 0))
          ++openings;
        else
          model.parts.push_back(std::move(part));
      }
      ModelPart part{name, {}, kind, roleOfSurface(kind), 0};
      if (addPolygonWithout(part.mesh, *outer, cuts, 0))
        model.parts.push_back(std::move(part));
      else if (cuts.empty())
        ++faulty; // else it is all opening
    }
  }
  addSpaces(model, spaces);
  usual.put(model.heat);
  if (model.parts.empty())
    return fail(faulty > 0 ? "No surface can be read: corners are missing or no numbers."
                           : "There are no surfaces in the file.",
                file);
  const auto note = [&](std::size_t n, const char* one, const char* more, const std::string& rest) {
    if (n > 0) model.notes.push_back(counted(n, one, more) + rest);
  };
  note(faulty, "surface was", "surfaces were", " left out: corners are missing, no numbers or without area.");
  note(openings, "opening was", "openings were", " left out for the same.");
  note(faultyConstructions, "construction was", "constructions were", " left out: neither a U-value nor whole layers.");
  note(air, "air boundary was", "air boundaries were", " passed over.");
  if (!missing.empty())
    model.notes.push_back(fmt::format("Surfaces name spaces that there are not: \"{}\"{}.", *missing.begin(),
                                      missing.size() > 1 ? " and others" : ""));
  return model;
}

} // namespace noonward
