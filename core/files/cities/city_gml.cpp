// CityGML 2.0 and 3.0 (OGC 12-019, 20-010): buildings, their parts and what else casts shade, by the faces of their
// finest level of detail. Elements are known by their names without prefix, so that both editions and their modules are
// read alike. Faces that a solid only refers to are taken where they stand; the kind of surface that refers to a face
// is the face's.

#include "core/base/words.h"
#include "core/files/buildings/xml.h"
#include "core/files/cities/city_parts.h"
#include "core/files/cities/reference_system.h"
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <map>
#include <set>

namespace noonward {

namespace {

std::string_view localName(const pugi::xml_node& n) {
  std::string_view name = n.name();
  const auto colon = name.find(':');
  return colon == name.npos ? name : name.substr(colon + 1);
}

std::string attributeOf(const pugi::xml_node& n, std::string_view local) {
  for (const pugi::xml_attribute& a : n.attributes()) {
    std::string_view name = a.name();
    if (const auto colon = name.find(':'); colon != name.npos) name = name.substr(colon + 1);
    if (name == local) return a.value();
  }
  return {};
}

/// 0…4 of "lod2MultiSurface"; −1 for other names.
int levelOf(std::string_view name) {
  return name.size() > 4 && name.starts_with("lod") && name[3] >= '0' && name[3] <= '9' ? name[3] - '0' : -1;
}

bool isObject(std::string_view n) {
  return n == "Building" || n == "BuildingPart" || n == "BuildingInstallation" || n == "BuildingConstructiveElement" ||
         n == "Bridge" || n == "BridgePart" || n == "BridgeConstructionElement" || n == "BridgeInstallation" ||
         n == "Tunnel" || n == "TunnelPart" || n == "OtherConstruction" || n == "ReliefFeature" || n == "TINRelief" ||
         n == "LandUse" || n == "Road" || n == "Railway" || n == "Track" || n == "Square" || n == "WaterBody" ||
         n == "PlantCover" || n == "SolitaryVegetationObject" || n == "CityFurniture" || n == "GenericCityObject" ||
         n == "GenericOccupiedSpace";
}
bool isSurface(std::string_view n) {
  return n.ends_with("Surface") && !n.starts_with("lod") && n != "MultiSurface" && n != "CompositeSurface" &&
         n != "OrientableSurface" && n != "TriangulatedSurface" && n != "PolyhedralSurface" && n != "Surface";
}
bool isFace(std::string_view n) {
  return n == "Polygon" || n == "PolygonPatch" || n == "Triangle" || n == "Rectangle";
}

/// "urn:adv:crs:ETRS89_UTM32*DE_DHHN2016_NH" of the surveys' own names, or an EPSG number in any of its spellings.
std::string systemOf(const std::string& name) {
  for (const char* key : {"ETRS89_UTM", "ETRS89/UTM"})
    if (const auto at = name.find(key); at != name.npos && at + 12 <= name.size())
      return "EPSG:258" + name.substr(at + 10, 2);
  const auto at = name.find("EPSG");
  if (at == name.npos) return name;
  std::string digits;
  for (char c : name.substr(at + 4)) {
    if (c >= '0' && c <= '9')
      digits += c;
    else if (!digits.empty() && (c == ',' || c == '+' || c == '*'))
      break; // a compound: the first is the plane's
    else if (!digits.empty())
      digits.clear(); // an edition between the colons
  }
  return digits.empty() ? name : "EPSG:" + digits;
}

class GmlReader {
public:
  GmlReader(const std::string& file, std::string level) : file_(file), level_(std::move(level)) {}

  Expected<Model> read(const pugi::xml_node& root) {
    model_.file = file_;
    model_.statedUnit = LengthUnit::Metre;
    model_.statedZUp = true;
    kindsOfReferred(root, "");
    for (const pugi::xml_node& member : root.children()) {
      if (localName(member) == "boundedBy") system(member);
      if (localName(member) == "cityObjectMember" || localName(member) == "featureMember") walk(member, nullptr, "");
    }
    for (Object& o : objects_) take(o);
    if (model_.parts.empty() && model_.outlines.empty())
      return fail(faulty_ > 0 ? "Nothing can be read: every face lacks coordinates." : "The model has no faces.",
                  file_);
    if (inDegrees())
      return fail("Its coordinates are degrees; a projected reference system in metres is needed.", file_);
    model_.levels.assign(levels_.begin(), levels_.end());
    if (!level_.empty()) {
      if (!levels_.contains(level_))
        return fail(
            fmt::format("No object has a level of detail {}; there are {}.", level_, fmt::join(model_.levels, ", ")),
            file_);
      model_.level = level_;
    }
    const auto note = [&](std::size_t n, const char* one, const char* more, const char* rest) {
      if (n > 0) model_.notes.push_back(counted(n, one, more) + rest);
    };
    note(uncut_, "face was", "faces were", " left out: no area, or edges that cross.");
    note(faulty_, "face was", "faces were", " left out: coordinates are missing or no numbers.");
    note(otherLevel_, "object has", "objects have", " no geometry of that level: the finest was taken.");
    note(templates_, "repeated shape (implicit geometry) was", "repeated shapes (implicit geometries) were",
         " passed over.");
    if (!unknown_.empty()) {
      std::string list;
      for (const auto& [kind, n] : unknown_) list += (list.empty() ? "" : ", ") + fmt::format("{} {}", n, kind);
      model_.notes.push_back("Kinds of objects that are not read: " + list + ".");
    }
    return std::move(model_);
  }

private:
  struct Geometry {
    pugi::xml_node face;
    int level;
    std::string kind; ///< of the surface it bounds
  };
  struct Object {
    std::string name, kind;
    std::vector<Geometry> faces;
  };

  /// Faces that stand elsewhere and are referred to by a wall, a roof, a window.
  void kindsOfReferred(const pugi::xml_node& n, const std::string& kind) {
    for (const pugi::xml_node& c : n.children()) {
      const std::string own(isSurface(localName(c)) || localName(c) == "Window" || localName(c) == "Door"
                                ? localName(c)
                                : std::string_view(kind));
      if (const std::string to = attributeOf(c, "href"); to.size() > 1 && to[0] == '#' && !own.empty())
        referred_[to.substr(1)] = own;
      kindsOfReferred(c, own);
    }
  }

  void system(const pugi::xml_node& member) {
    for (const pugi::xml_node& envelope : member.children())
      if (localName(envelope) == "Envelope") {
        model_.geo.system = systemOf(envelope.attribute("srsName").as_string());
        dimension_ = envelope.attribute("srsDimension").as_int(3);
      }
  }

  void walk(const pugi::xml_node& n, Object* object, const std::string& kind) {
    for (const pugi::xml_node& c : n.children()) {
      const std::string_view name = localName(c);
      if (isObject(name)) {
        const std::size_t at = objects_.size();
        objects_.push_back({nameOf(c, object), std::string(name), {}});
        Object own = std::move(objects_.back());
        walk(c, &own, "");
        objects_[at] = std::move(own);
      } else if (object) {
        if (const int level = levelOf(name); level >= 0) {
          if (name.find("Implicit") != name.npos)
            ++templates_;
          else
            faces(c, level, kind, *object);
        } else if (name == "tin") { // relief has no level in its name
          faces(c, 1, "", *object);
        } else {
          walk(c, object, isSurface(name) || name == "Window" || name == "Door" ? std::string(name) : kind);
        }
      } else if (n.type() == pugi::node_element &&
                 (localName(n) == "cityObjectMember" || localName(n) == "featureMember") &&
                 c.type() == pugi::node_element) {
        ++unknown_[std::string(name.substr(0, 60))];
      }
    }
  }

  static std::string nameOf(const pugi::xml_node& n, const Object* within) {
    std::string id = attributeOf(n, "id"), name;
    for (const pugi::xml_node& c : n.children())
      if (localName(c) == "name") name = c.child_value();
    if (id.empty()) id = std::string(localName(n));
    if (!name.empty()) return name + " (" + id + ")";
    return within && attributeOf(n, "id").empty() ? within->name + ", " + id : id;
  }

  void faces(const pugi::xml_node& n, int level, const std::string& kind, Object& object) {
    for (const pugi::xml_node& c : n.children()) {
      if (isFace(localName(c)))
        object.faces.push_back({c, level, kind});
      else
        faces(c, level, kind, object);
    }
  }

  void take(Object& o) {
    int finest = -1;
    bool has = false;
    for (const Geometry& g : o.faces) {
      levels_.insert(std::to_string(g.level));
      finest = std::max(finest, g.level);
      has |= std::to_string(g.level) == level_;
    }
    if (finest < 0) return;
    if (!level_.empty() && has)
      finest = std::atoi(level_.c_str());
    else if (!level_.empty())
      ++otherLevel_;
    CityObject into;
    for (const Geometry& g : o.faces) {
      if (g.level != finest) continue;
      std::string kind = g.kind;
      if (const auto at = referred_.find(attributeOf(g.face, "id")); kind.empty() && at != referred_.end())
        kind = at->second;
      std::vector<std::vector<Vec3>> rings;
      if (!ringsOf(g.face, rings))
        ++faulty_;
      else if (!into.face(rings, kind))
        ++uncut_;
    }
    std::string name = o.name;
    for (int k = 2; !taken_.insert(name).second; ++k) name = fmt::format("{} #{}", o.name, k);
    into.putInto(model_, name, o.kind, roleOfCityObject(o.kind));
  }

  bool ringsOf(const pugi::xml_node& face, std::vector<std::vector<Vec3>>& rings) const {
    for (const char* side : {"exterior", "interior"})
      for (const pugi::xml_node& c : face.children()) {
        if (localName(c) != side) continue;
        std::vector<double> numbers;
        if (!numbersOf(c, numbers)) return false;
        const int dimension = dimension_ == 2 ? 2 : 3;
        if (numbers.empty() || numbers.size() % std::size_t(dimension) != 0) return false;
        std::vector<Vec3>& ring = rings.emplace_back();
        for (std::size_t i = 0; i < numbers.size(); i += std::size_t(dimension))
          ring.push_back({numbers[i], numbers[i + 1], dimension == 3 ? numbers[i + 2] : 0});
        if (ring.size() > 1 && ring.front() == ring.back()) ring.pop_back();
        if (ring.size() < 3) return false;
      }
    return !rings.empty();
  }

  /// Of every posList, pos and coordinates below, in order.
  static bool numbersOf(const pugi::xml_node& n, std::vector<double>& into) {
    for (const pugi::xml_node& c : n.children()) {
      const std::string_view name = localName(c);
      if (name != "posList" && name != "pos" && name != "coordinates") {
        if (!numbersOf(c, into)) return false;
        continue;
      }
      const std::string_view text = c.child_value();
      for (std::size_t at = 0; at < text.size();) {
        if (text[at] == ' ' || text[at] == '\n' || text[at] == '\r' || text[at] == '\t' || text[at] == ',') {
          ++at;
          continue;
        }
        double v = 0;
        const auto [end, fault] = std::from_chars(text.data() + at + (text[at] == '+'), text.data() + text.size(), v);
        if (fault != std::errc() || !std::isfinite(v)) return false;
        into.push_back(v);
        at = std::size_t(end - text.data());
      }
    }
    return true;
  }

  bool inDegrees() const {
    const int number = epsgNumber(model_.geo.system);
    if (number == 4326 || number == 4979 || number == 4258 || number == 4937) return true;
    const Box3 b = model_.box();
    const Vec3 s = b.size();
    return model_.parts.size() > 2 && s.x < 0.5 && s.y < 0.5 && s.z > 2 && std::abs(b.low.x) <= 180 &&
           std::abs(b.low.y) <= 180;
  }

  const std::string& file_;
  const std::string level_; ///< wanted; empty: the finest
  Model model_;
  std::vector<Object> objects_;
  std::map<std::string, std::string> referred_;
  std::set<std::string> levels_, taken_;
  std::map<std::string, std::size_t> unknown_;
  int dimension_ = 3;
  std::size_t uncut_ = 0, faulty_ = 0, otherLevel_ = 0, templates_ = 0;
};

int depthOf(const pugi::xml_node& root, int most) {
  int depth = 0;
  for (pugi::xml_node n = root; n;) {
    if (n.first_child() && depth < most) {
      n = n.first_child();
      if (++depth >= most) return depth;
      continue;
    }
    while (n && !n.next_sibling()) {
      n = n.parent();
      --depth;
      if (n == root) return 0;
    }
    if (n) n = n.next_sibling();
  }
  return 0;
}

} // namespace

Expected<Model> parseCityGml(std::string_view text, const std::string& file, const ReadWish& wish) {
  pugi::xml_document document;
  if (const Outcome o = openXml(document, text, file); !o) return tl::unexpected(o.error());
  const pugi::xml_node root = document.document_element();
  if (localName(root) != "CityModel")
    return fail(fmt::format("This is no city model: its root is \"{}\", and \"CityModel\" is expected.",
                            std::string(localName(root)).substr(0, 60)),
                file);
  constexpr int deepest = 200; // real files nest some 25 deep
  if (depthOf(root, deepest) >= deepest) return fail("Its elements nest more than 200 deep.", file);
  return GmlReader(file, wish.level).read(root);
}

} // namespace noonward
