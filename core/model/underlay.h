#pragma once
// Pictures to trace over: a plan laid flat by two points, a map sheet or aerial picture by its coordinates, a
// photograph of a facade straightened by four corners. A picture is kept as the bytes of its file; only who draws it
// decodes it. Pixels count from the picture's upper left corner, x right, y down; places are local metres. Underlays
// never reach a study.

#include "core/base/error.h"
#include "core/base/hash.h"
#include "core/base/id.h"
#include "core/base/vec.h"
#include <array>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace noonward {

using UnderlayId = Id<struct UnderlayTag>;

struct Picture {
  std::string bytes;  ///< of the file: PNG, JPEG or what else the drawing side reads
  std::string suffix; ///< ".png"
  Digest content;
};

/// A spot of the picture and where it lies.
struct UnderlayPin {
  Vec2 pixel;
  Vec3 place;
  bool operator==(const UnderlayPin&) const = default;
};

struct Underlay {
  UnderlayId id;
  std::string name;
  std::shared_ptr<const Picture> picture; ///< null where its file is gone
  std::string file;                       ///< as the project file has it, relative to it
  std::vector<UnderlayPin>
      pins;           ///< two on one level (plan), or four on one plane in order round it (map sheet, facade)
  bool scaled = true; ///< false: its size is a guess so far
  bool shown = true;
  double strength = 0.65; ///< 0 … 1
  std::string extra;
  bool operator==(const Underlay&) const = default;
};

enum class UnderlayKind { Plan, Sheet, Facade }; ///< by two pins; by four on one level; by four on another plane
UnderlayKind kindOf(const Underlay& underlay);

/// Between a picture and the plane it lies on, both ways.
struct PlaneMap {
  Vec3 origin, right, up;            ///< of the plane; unit vectors
  std::array<double, 9> toPlane{};   ///< pixel (x, y, 1) to plane (u, v, w), m after division; row by row
  std::array<double, 9> toPicture{}; ///< the other way
  Vec3 normal() const { return cross(right, up); }
  /// Nothing for pixels at or beyond the horizon of a photograph.
  std::optional<Vec3> place(Vec2 pixel) const;
  std::optional<Vec2> pixel(Vec3 place) const; ///< of the foot of the perpendicular
};
/// Two pins: turned, scaled and moved, never mirrored. Four: the projective map through all of them.
/// Errors: pins that coincide, lie on a line, not on one level or plane, or not in one order round the picture and the
/// plane.
Expected<PlaneMap> planeMapOf(const std::vector<UnderlayPin>& pins);

/// The same picture with another distance (m) between its two pins; the first stays where it is.
Expected<Underlay> withTrueDistance(Underlay underlay, double metres);

/// An upright rectangle as seen from outside: its lower left corner, the direction to the right, and its size.
struct WallRectangle {
  Vec3 corner, right;           ///< m; unit vector, level
  double width = 0, height = 0; ///< m
  bool operator==(const WallRectangle&) const = default;
};
/// Four pins of a photograph: its corners lower left, lower right, upper right, upper left on those of the rectangle.
std::vector<UnderlayPin> facadePins(const std::array<Vec2, 4>& pixels, const WallRectangle& wall);
/// The rectangle that four pins stand on; nothing where they are no upright rectangle.
std::optional<WallRectangle> wallOf(const std::vector<UnderlayPin>& pins);

struct Project;
/// The upright rectangle round all of an element that lies in the plane through `at` with this normal, within 2 cm;
/// seen from where the normal points. Nothing where the plane is level or the element is gone.
std::optional<WallRectangle> wallOf(const Project& project, ElementId element, Vec3 at, Vec3 normal);

/// An endless line of the plan that drawn and moved points snap to; no study sees it.
struct Guide {
  Vec2 a, b; ///< m, local: two points of it, apart
  bool operator==(const Guide&) const = default;
};
/// The point of a guide nearest to another.
Vec2 onGuide(const Guide& guide, Vec2 p);

} // namespace noonward
