#pragma once
// Meshes in: OBJ, STL and PLY by readers of our own in double precision, glTF and the like through Assimp in a child
// process. A model keeps the file's own units and axes until it is placed.

#include "core/files/save_file.h"
#include "core/geometry/mesh.h"
#include "core/model/project.h"

namespace noonward {

struct ModelPart {
  std::string name; ///< group or object of the file
  Mesh mesh;        ///< file units, file axes
};

struct Model {
  std::string file;
  std::vector<ModelPart> parts;
  std::vector<std::string> notes; ///< dropped faces, negative sizes, …
  std::optional<LengthUnit> statedUnit; ///< where the format fixes it
  bool statedYUp = false;
  Box3 box() const;
  std::size_t triangleCount() const;
};

Expected<Model> readModel(const std::filesystem::path& path);
Expected<Model> parseObj(std::string_view text, const std::string& file);
Expected<Model> parseStl(std::string_view bytes, const std::string& file);
Expected<Model> parsePly(std::string_view bytes, const std::string& file);
/// glTF, Collada and others; runs in a child process, so that a crash there is a message here.
Expected<Model> readForeign(const std::filesystem::path& path);

struct Placement {
  LengthUnit unit = LengthUnit::Metre;
  bool yUp = false;
  Vec3 origin; ///< m, taken off
};
struct PlacementGuess {
  Placement placement;
  Vec3 size;          ///< m, as guessed
  std::string reason; ///< "largest side 24 000: millimetres, since 24 km is no building site"
  bool suspicious = false;
};
/// `projectOrigin`: of a project that has elements already; else an origin is proposed for far coordinates.
PlacementGuess guessPlacement(const Model& model, const std::optional<Vec3>& projectOrigin);

/// Elements in local metres; ids follow from file and part name, so that bringing it again finds them.
std::vector<Element> placedElements(const Model& model, const Placement& placement, Role role);

/// Binary PLY with doubles and a face number per triangle: how the project keeps imported meshes.
std::string plyBytes(const Mesh& mesh);

} // namespace noonward
