#pragma once
// Where openings stand, and what rooms are by them: drawn windows and those of rules, seated in their walls and
// ceilings, and the faces of masses that they pierce. Metres, local.

#include "core/base/finding.h"
#include "core/model/rooms/rooms.h"
#include <cmath>

namespace noonward {

/// A plane over the plan.
struct SlopePlane {
  double level = 0; ///< m, over the local zero
  Vec2 rise;        ///< m for each m of the plan
  double at(Vec2 p) const { return level + dot(rise, p); }
  bool operator==(const SlopePlane&) const = default;
};

/// The box of a monitor or sawtooth, on a flat roof. Its panes are openings of their own.
struct Lantern {
  std::size_t room = 0;      ///< index in the project
  OpeningId opening;         ///< that it is of
  Ring plan;                 ///< m, its rectangle, counter-clockwise; the first side is glass
  double foot = 0;           ///< m, of the ceiling it opens
  double roof = 0, rise = 0; ///< m: level of the roof; of the glass above it
  bool bothSides = false;    ///< a monitor: the third side is glass too, the lid level
  std::uint64_t mass = 0;    ///< element whose roof it pierces, 0 for none
};

/// An opening where it stands, with the wall it is in.
struct PlacedOpening {
  Opening opening;        ///< edge, along, sill, width, height as resolved
  std::size_t room = 0;   ///< index in the project
  RuleId rule;            ///< that made it, if any
  Vec2 a, along, outward; ///< corner and unit vectors of the edge; walls only
  std::optional<Facing> facing;
  std::optional<SlopePlane> slope; ///< of a rooflight under a slope: the ceiling there; `depth` is upright
  bool raised = false;             ///< upright glass of a lantern: a its low corner, along its side
  double level = 0;                ///< m, of the foot of such glass
  double depth = 0.3;              ///< m, of the reveal: to the outer face
  double before = 0, after = 0; ///< of a corner window: m that it widens at its first or second side for each m outward
  std::uint64_t mass = 0;       ///< element whose face it pierces, 0 for none
  std::uint32_t massFace = 0;
  /// m, from the outer face in to the pane.
  double paneDepth() const { return depth * std::clamp(opening.paneAt, 0.0, 1.0); }
  /// Corners on the plane at `into` metres outward from the inner face, counter-clockwise seen from outside.
  std::array<Vec3, 4> corners(double floor, double ceiling, double into) const;
  /// Does its glass stand upright, in a wall or on a box?
  bool upright() const { return opening.edge >= 0 || raised; }
  Vec3 facingOutward() const; ///< unit, square to its glass
  /// m², of its pane.
  double area() const {
    return (opening.width + (before + after) * (depth - paneDepth())) * opening.height *
           (slope ? std::sqrt(1 + dot(slope->rise, slope->rise)) : 1);
  }
};

/// "Reading room: Window 2".
std::string openingName(const Project& project, const PlacedOpening& opening);

/// Which edges of a room stand outdoors: no other room of overlapping height lies right behind them.
std::vector<bool> outerEdges(const Project& project, std::size_t room);

struct OpeningLayout {
  std::vector<PlacedOpening> openings;
  std::vector<Lantern> lanterns;
  Findings findings; ///< openings that do not fit, overlap, or look nowhere
};
/// All openings, drawn and made by rules, where they stand. Those that do not fit are left out and found.
OpeningLayout placedOpenings(const Project& project);

/// One line of the rooms table.
struct RoomFacts {
  RoomId id;
  std::string name, use;
  double area = 0, volume = 0, exposedArea = 0; ///< m², m³, m² of outer wall with its openings
  double height = 0;                            ///< m, clear, where it is highest
  std::array<double, 4> windowArea{};           ///< m² by Facing
  double rooflightArea = 0;
  bool counted = true;
  std::string reason;
  double allWindows() const { return windowArea[0] + windowArea[1] + windowArea[2] + windowArea[3] + rooflightArea; }
};
std::vector<RoomFacts> roomFacts(const Project& project);

/// Does a sensor grid of the project lie in the room?
bool hasGrid(const Project& project, const Room& room);

/// Faults of rooms and openings: no glazing, overlapping rooms, outlines, openings that do not fit.
Findings checkRooms(const Project& project);

/// What is wrong with shading rules as they stand at a project's openings: at no window, deeper than the blades are
/// apart.
Findings checkShading(const Project& project);

/// Its description as a table in Markdown: part of docs/project-format.md.
std::string windowFieldsAsMarkdown();

/// Rooms of an imported solid, one for each storey of about 3 m: what a level cut through its middle encloses, pulled
/// in by the wall. Empty where a cut closes nothing off.
std::vector<Room> roomsOfImport(const Project& project, std::uint64_t element, double wall, double slab);

/// Rooms from a mass: one a storey, its outline pulled in by the wall; under a sloping roof with headroom an attic too,
/// from where the roof comes down to a metre above its floor.
std::vector<Room> roomsOfMass(const Project& project, std::uint64_t mass, double wall, double slab);

} // namespace noonward
