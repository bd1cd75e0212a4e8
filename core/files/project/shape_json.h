#pragma once
// Shapes as project files hold them: {"mass": {"outline": …}}, {"mesh": {"file": …}}, {"plate": {"corners": …}}.
// docs/project-format.md tells the keys.

#include "core/base/json.h"
#include "core/model/shape.h"
#include <functional>

namespace noonward {

/// The mesh of a file named in a project, with what is already known of it.
using MeshReader = std::function<Expected<Imported>(const std::string& file)>;

/// The shape of an element; a fault names the key. Nothing where there was one.
std::optional<Shape> shapeFromJson(JsonObject& element, const MeshReader& readMesh);

/// `folder`: where meshes of the project lie, as named in its file.
void writeShape(Json& element, const Shape& shape, const std::string& folder);

/// "house.files/3f290ac4….ply"
std::string meshFile(const Imported& imported, const std::string& folder);

/// {"outline": [[x, y], …], "holes": […]}
Outline outlineFromJson(JsonObject& object);
void writeOutline(Json& into, const Outline& outline);
/// Degrees without the dust of the way through radians.
double tidyDegrees(double angle);
/// [x, y, z]
Json vectorJson(Vec3 v);
Vec3 vectorFromJson(JsonObject& object, const char* key, Vec3 otherwise);

} // namespace noonward
