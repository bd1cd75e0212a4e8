#include "core/files/cities/city_parts.h"
#include "core/geometry/mesh_build.h"
#include "core/geometry/prism.h"

namespace noonward {

std::optional<Role> roleOfCityObject(const std::string& kind) {
  if (kind.starts_with("Building")) return Role::Neighbour;
  for (const char* ground : {"TINRelief", "ReliefFeature", "LandUse", "Road", "Track", "Square", "Railway",
                             "TransportSquare", "WaterBody", "Waterway", "TransportationComplex"})
    if (kind == ground) return Role::Ground;
  if (kind == "PlantCover" || kind == "SolitaryVegetationObject") return Role::Planting;
  if (kind.starts_with("Bridge") || kind.starts_with("Tunnel") || kind == "OtherConstruction" ||
      kind == "GenericCityObject" || kind == "+GenericCityObject")
    return Role::Neighbour;
  return {};
}

bool CityObject::face(const std::vector<std::vector<Vec3>>& rings, const std::string& kind) {
  Mesh& mesh = kind == "Window" || kind == "Door" || kind == "WindowSurface" || kind == "DoorSurface" ? glass_ : solid_;
  const auto face = std::uint32_t(mesh.faceGroup.size());
  if (!addPolygon(mesh, rings, face)) return false;
  mesh.faceGroup.push_back(kind);
  return true;
}

void CityObject::putInto(Model& model, const std::string& name, const std::string& layer, std::optional<Role> role) {
  const auto add = [&](Mesh& mesh, const std::string& called, std::optional<Role> as) {
    if (mesh.triangles.empty()) return;
    std::size_t dropped = 0;
    const std::vector<std::string> groups = std::move(mesh.faceGroup);
    Mesh own = withOwnPoints(mesh.points, mesh, dropped);
    if (own.triangles.empty()) return;
    own.faceGroup = groups;
    model.parts.push_back({called, std::move(own), layer, as, 0});
  };
  if (const auto prism = role == Role::Neighbour && glass_.triangles.empty() ? asPrism(solid_) : std::nullopt) {
    model.outlines.push_back({name, layer, prism->outline, prism->base, prism->height, role});
    return;
  }
  add(solid_, name, role);
  add(glass_, name + ", windows and doors", Role::Glazing);
}

} // namespace noonward
