#pragma once
// What the readers of city models share: faces of one object gathered by what they are, and kinds of objects as roles.

#include "core/files/meshes/mesh_files.h"

namespace noonward {

/// Of "Building", "TINRelief" and the like, as the standards name them; nothing for kinds that are not known.
std::optional<Role> roleOfCityObject(const std::string& kind);

/// The faces of one object; windows and doors apart.
class CityObject {
public:
  /// `kind` of the surface: "RoofSurface", "Window". False where the rings enclose nothing, or cross.
  bool face(const std::vector<std::vector<Vec3>>& rings, const std::string& kind);
  /// As one or two parts of the model; a building that is an outline raised from one level to another as that outline.
  void putInto(Model& model, const std::string& name, const std::string& layer, std::optional<Role> role);

private:
  Mesh solid_, glass_;
};

} // namespace noonward
