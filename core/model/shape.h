#pragma once
// What can stand there: `Shape` is one of a few structs, and whatever studies, findings, history, the stage and files
// ask of a shape is a function for each, here and in core/files/project/shape_json.h. A new shape is a struct, its row
// of functions and its entry in the list; the compiler names what is missing. Metres, radians, local coordinates.

#include "core/base/hash.h"
#include "core/base/units.h"
#include "core/geometry/crown.h"
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

/// A tree: a stem, and a crown that lets a share of the light pass. It stands in one state, which every study meets.
struct Tree {
  enum class Leaves { InLeaf, Bare, Solid };
  Vec3 foot;                    ///< m, local
  double height = 9, width = 6; ///< m
  double stem = 2.5;            ///< m, clear below the crown
  Crown crown = Crown::Ball;
  Leaves leaves = Leaves::InLeaf;
  double inLeaf = 0.2, bare = 0.6; ///< 0…1, of the light that meets its crown, what passes
  CrownSize size() const { return {crown, width, height - stem}; } ///< of the crown
  bool operator==(const Tree&) const = default;

  /// Its numbers, for files, the sheet and the docs (core/model/settings/fields.h).
  template <class D> static void describe(D& d) {
    using S = Tree;
    d.choice("crown", "Crown",
             {{Crown::Ball, {"ball", "ball"}},
              {Crown::Cone, {"cone", "cone"}},
              {Crown::Column, {"column", "column"}},
              {Crown::Umbrella, {"umbrella", "umbrella"}}},
             &S::crown, "Its form")
        .spoken("Form of the crown");
    d.number("height", "Tree height", "m", 0.1, 150, &S::height, "Of the whole tree").quiet();
    d.number("width", "Crown width", "m", 0.1, 100, &S::width, "Across its widest part");
    d.number("stem", "Clear stem", "m", 0, 149, &S::stem, "Below the crown");
    d.choice("leaves", "Stands",
             {{Leaves::InLeaf, {"in-leaf", "in leaf"}},
              {Leaves::Bare, {"bare", "bare"}},
              {Leaves::Solid, {"solid", "as a solid body"}}},
             &S::leaves, "What every study meets of it: leaves with gaps, bare branches, or nothing passing at all")
        .spoken("State of the tree");
    d.share("in-leaf", "Passes in leaf", 1, 99, &S::inLeaf, "Of the light that meets the crown");
    d.share("bare", "Passes bare", 1, 99, &S::bare, "Of the light that meets the crown, between the branches");
  }
};

using Shape = std::variant<Mass, Imported, Plate, Tree>;

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
Expected<MeshPtr> meshOf(const Tree& shape);

/// Also of a faulty one; empty where there is nothing.
Box3 boxOf(const Mass& shape);
Box3 boxOf(const Imported& shape);
Box3 boxOf(const Plate& shape);
Box3 boxOf(const Tree& shape);

/// Is a point in what the shape encloses, its foot included, its top not?
bool encloses(const Mass& shape, Vec3 point);
bool encloses(const Imported& shape, Vec3 point); ///< taken as a solid (core/geometry/mesh_columns.h)
bool encloses(const Plate& shape, Vec3 point);    ///< never
bool encloses(const Tree& shape, Vec3 point);

/// Middle of its plan, about which it is turned.
Vec2 middleOf(const Mass& shape);
Vec2 middleOf(const Imported& shape);
Vec2 middleOf(const Plate& shape);
Vec2 middleOf(const Tree& shape);

/// Top above foot, as the user knows it.
double heightOf(const Mass& shape);
double heightOf(const Imported& shape);
double heightOf(const Plate& shape);
double heightOf(const Tree& shape);

/// About how many a study meets.
std::size_t trianglesOf(const Mass& shape);
std::size_t trianglesOf(const Imported& shape);
std::size_t trianglesOf(const Plate& shape);
std::size_t trianglesOf(const Tree& shape);

/// Memory beside its struct; of a mesh that copies share, nothing.
std::size_t bytesOf(const Mass& shape);
std::size_t bytesOf(const Imported& shape);
std::size_t bytesOf(const Plate& shape);
std::size_t bytesOf(const Tree& shape);

/// Whatever light meets of it: storeys do not count.
void hashShape(Hasher& into, const Mass& shape);
void hashShape(Hasher& into, const Imported& shape);
void hashShape(Hasher& into, const Plate& shape);
void hashShape(Hasher& into, const Tree& shape);

std::optional<ShapeFault> faultOf(const Mass& shape, const std::string& name);
std::optional<ShapeFault> faultOf(const Imported& shape, const std::string& name);
std::optional<ShapeFault> faultOf(const Plate& shape, const std::string& name);
std::optional<ShapeFault> faultOf(const Tree& shape, const std::string& name);

/// What it is and how large, for people: "12.00 m × 8.00 m, footprint 96 m², floor area 288 m²".
std::string factsOf(const Mass& shape, LengthUnit unit);
std::string factsOf(const Imported& shape, LengthUnit unit);
std::string factsOf(const Plate& shape, LengthUnit unit);
std::string factsOf(const Tree& shape, LengthUnit unit);

void moveShape(Mass& shape, Vec3 by);
void moveShape(Imported& shape, Vec3 by);
void moveShape(Plate& shape, Vec3 by);
void moveShape(Tree& shape, Vec3 by);

/// Counter-clockwise about a point of the plan.
void turnShape(Mass& shape, Vec2 about, double angle);
void turnShape(Imported& shape, Vec2 about, double angle);
void turnShape(Plate& shape, Vec2 about, double angle);
void turnShape(Tree& shape, Vec2 about, double angle);

/// About the local zero, place and all.
void scaleShape(Mass& shape, double factor);
void scaleShape(Imported& shape, double factor);
void scaleShape(Plate& shape, double factor);
void scaleShape(Tree& shape, double factor);

/// Its top so high above its foot. A plate that lies flat becomes a mass.
Shape withTop(Mass shape, double height);
Shape withTop(Imported shape, double height);
Shape withTop(Plate shape, double height);
Shape withTop(Tree shape, double height);

/// Heights (m, local) of what was brought in over and under a point, in no order.
void columnOf(const Imported& import, Vec3 point, std::vector<double>& heights);

/// The numbers of a tree as a table in Markdown: part of docs/project-format.md.
std::string treeFieldsAsMarkdown();

/// Another mesh in the same place, with nothing remembered of the old one.
Imported withMesh(const Imported& imported, MeshPtr mesh);

} // namespace noonward
