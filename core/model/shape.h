#pragma once
// What can stand there: `Shape` is one of a few structs, and whatever studies, findings, history, the stage and files
// ask of a shape is a function for each, here and in core/files/project/shape_json.h. A new shape is a struct, its row
// of functions and its entry in the list; the compiler names what is missing. Metres, radians, local coordinates.

#include "core/base/hash.h"
#include "core/base/units.h"
#include "core/geometry/healing.h"
#include "core/geometry/mesh_columns.h"
#include "core/geometry/roof.h"
#include <memory>
#include <optional>
#include <variant>

namespace noonward {

using MeshPtr = std::shared_ptr<const Mesh>;

/// A solid drawn from its outline. Its height is that of its walls: a roof stands on them.
struct Mass {
  Outline outline;   ///< m, local
  double base = 0;   ///< m
  double height = 3; ///< m
  int storeys = 1;
  Roof roof = {};
  double top() const { return base + height + roof.top(); } ///< m
  bool operator==(const Mass&) const = default;
};

/// A mesh brought in from a file, moved as a whole. Order: stretch in z from the box's foot, turn, move.
struct Imported {
  MeshPtr mesh;   ///< metres, z up, near the origin
  Digest content; ///< of the mesh
  Vec3 move;
  double turn = 0;    ///< rad, counter-clockwise about the middle of its box
  double stretch = 1; ///< of heights above the foot of its box
  std::shared_ptr<const LazyColumns> columns = std::make_shared<const LazyColumns>(); ///< of the mesh as it came
  std::shared_ptr<const LazyHealth> health = std::make_shared<const LazyHealth>();    ///< likewise
  bool operator==(const Imported& o) const {
    return content == o.content && move == o.move && turn == o.turn && stretch == o.stretch;
  }
};

/// A flat plate of no thickness, such as a free shading plane: its corners in order.
struct Plate {
  std::vector<Vec3> corners; ///< m, local; on one plane to a centimetre
  bool operator==(const Plate&) const = default;
};

using Shape = std::variant<Mass, Imported, Plate>;

/// Why a shape can't stand in a study, and the mend that is offered with the finding.
struct ShapeFault {
  const char* code; ///< of the finding: "element.height"
  std::string text; ///< a sentence that names the element
  const char* mend = "element.leave-out";
  const char* mendText = "Leave it out of studies";
};

/// Where it stands. An error where it is no sound surface; the import's mesh itself where nothing was moved.
Expected<MeshPtr> meshOf(const Mass& shape);
Expected<MeshPtr> meshOf(const Imported& shape);
Expected<MeshPtr> meshOf(const Plate& shape);

/// Also of a faulty one; empty where there is nothing.
Box3 boxOf(const Mass& shape);
Box3 boxOf(const Imported& shape);
Box3 boxOf(const Plate& shape);

/// Is a point in what the shape encloses, its foot included, its top not?
bool encloses(const Mass& shape, Vec3 point);
bool encloses(const Imported& shape, Vec3 point); ///< taken as a solid (core/geometry/mesh_columns.h)
bool encloses(const Plate& shape, Vec3 point);    ///< never

/// Middle of its plan, about which it is turned.
Vec2 middleOf(const Mass& shape);
Vec2 middleOf(const Imported& shape);
Vec2 middleOf(const Plate& shape);

/// Top above foot, as the user knows it.
double heightOf(const Mass& shape);
double heightOf(const Imported& shape);
double heightOf(const Plate& shape);

/// About how many a study meets.
std::size_t trianglesOf(const Mass& shape);
std::size_t trianglesOf(const Imported& shape);
std::size_t trianglesOf(const Plate& shape);

/// Memory beside its struct; of a mesh that copies share, nothing.
std::size_t bytesOf(const Mass& shape);
std::size_t bytesOf(const Imported& shape);
std::size_t bytesOf(const Plate& shape);

/// Whatever light meets of it: storeys do not count.
void hashShape(Hasher& into, const Mass& shape);
void hashShape(Hasher& into, const Imported& shape);
void hashShape(Hasher& into, const Plate& shape);

std::optional<ShapeFault> faultOf(const Mass& shape, const std::string& name);
std::optional<ShapeFault> faultOf(const Imported& shape, const std::string& name);
std::optional<ShapeFault> faultOf(const Plate& shape, const std::string& name);

/// What it is and how large, for people: "12.00 m × 8.00 m, footprint 96 m², floor area 288 m²".
std::string factsOf(const Mass& shape, LengthUnit unit);
std::string factsOf(const Imported& shape, LengthUnit unit);
std::string factsOf(const Plate& shape, LengthUnit unit);

void moveShape(Mass& shape, Vec3 by);
void moveShape(Imported& shape, Vec3 by);
void moveShape(Plate& shape, Vec3 by);

/// Counter-clockwise about a point of the plan.
void turnShape(Mass& shape, Vec2 about, double angle);
void turnShape(Imported& shape, Vec2 about, double angle);
void turnShape(Plate& shape, Vec2 about, double angle);

/// About the local zero, place and all.
void scaleShape(Mass& shape, double factor);
void scaleShape(Imported& shape, double factor);
void scaleShape(Plate& shape, double factor);

/// Its top so high above its foot. A plate that lies flat becomes a mass.
Shape withTop(Mass shape, double height);
Shape withTop(Imported shape, double height);
Shape withTop(Plate shape, double height);

/// Heights (m, local) of what was brought in over and under a point, in no order.
void columnOf(const Imported& import, Vec3 point, std::vector<double>& heights);

/// Another mesh in the same place, with nothing remembered of the old one.
Imported withMesh(const Imported& imported, MeshPtr mesh);

} // namespace noonward
