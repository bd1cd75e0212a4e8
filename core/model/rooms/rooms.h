#pragma once
// Rooms, their openings, and the rules that make openings and shades and stay editable afterwards. Metres; a room's
// outline follows the inner faces of its walls, counter-clockwise; edge i runs from corner i to corner i + 1, outer
// ring only. Orientation is by the true azimuth of the outward normal, ± 45° of north, east, south, west, by name.

#include "core/base/id.h"
#include "core/geometry/polygon.h"
#include <algorithm>
#include <array>
#include <optional>
#include <string>
#include <vector>

namespace noonward {

struct Project;

enum class Facing { North, East, South, West };
inline constexpr std::array<Facing, 4> allFacings{Facing::North, Facing::East, Facing::South, Facing::West};
const char* facingKey(Facing facing); ///< "north"
std::optional<Facing> facingFromKey(std::string_view key);
/// Of an outward direction in the drawing's axes; nothing where it looks up or down.
std::optional<Facing> facingOf(Vec3 outward, double northAngle);

using RoomId = Id<struct RoomTag>;
using OpeningId = Id<struct OpeningTag>;
using RuleId = Id<struct RuleTag>;

struct Room {
  RoomId id;
  std::string name;
  std::string use; ///< "reading room", "corridor", …
  Outline outline;
  double floor = 0;    ///< m, local
  double height = 2.7; ///< m, floor to ceiling
  double wall = 0.3;   ///< m, thickness of its outer walls where no mass around it tells
  bool counted = true; ///< regularly occupied: counts for rules
  std::string reason;  ///< why it does not count
  std::string source;  ///< "simplified model" where it was traced (core/model/tracing/tracing.h); empty: drawn
  std::string glare;   ///< the user's remark on how glare is dealt with, for the record
  std::string extra;
  bool operator==(const Room&) const = default;
};

/// Glass that stands up above a flat roof instead of lying in it.
struct Raised {
  enum class Kind { Flat, Monitor, Sawtooth };
  Kind kind = Kind::Flat; ///< Monitor: upright on two sides, a level lid; Sawtooth: upright on one, the lid slopes
  double rise = 1.2;      ///< m, of the glass above the roof
  Facing toward = Facing::North; ///< which side its glass looks to; a monitor's also to the other side
  bool operator==(const Raised&) const = default;

  template <class D> static void describe(D& d) {
    using S = Raised;
    const auto stands = [](const S& s) { return s.kind != Kind::Flat; };
    d.choice("rooflight", "Glass lies",
             {{Kind::Flat, {"flat", "in the roof"}},
              {Kind::Monitor, {"monitor", "upright, both sides (monitor)"}},
              {Kind::Sawtooth, {"sawtooth", "upright, one side (sawtooth)"}}},
             &S::kind, "Of rooflights: in the roof itself, or upright on a box above it; flat roofs alone carry boxes")
        .spoken("Form of the rooflights")
        .unlessDefault();
    d.number("rise", "Glass height", "m", 0.05, 20, &S::rise,
             "Of rooflights whose glass stands upright, above the roof")
        .matters(stands)
        .unlessDefault();
    d.choice("toward", "Glass looks",
             {{Facing::North, {"north", "north"}},
              {Facing::East, {"east", "east"}},
              {Facing::South, {"south", "south"}},
              {Facing::West, {"west", "west"}}},
             &S::toward,
             "Of such rooflights: the side of the box nearest to it; a monitor's glass looks to the other side too")
        .spoken("Side the raised glass looks to")
        .matters(stands)
        .unlessDefault();
  }
};

/// One window or rooflight.
struct Opening {
  OpeningId id;
  std::string name, type;
  RoomId room;
  int edge = -1;     ///< of the room's outline; -1: in the ceiling
  double along = 0;  ///< m, from the edge's first corner to the near side; in a ceiling x of the low corner, local
  double sill = 0.9; ///< m above the floor; in a ceiling y of the low corner
  double width = 1.2, height = 1.4; ///< m; in a ceiling of its plan, also under a slope
  int repeat = 1;                   ///< so many alike in a row along the wall, or in x in a ceiling
  double gap = 0.6;                 ///< m, between them
  std::string glazing;
  double frame = 0;        ///< 0…0.95, share of it that frames, mullions and panels take, beside the glazing's own
  double paneAt = 1.0 / 3; ///< 0…1, of the wall's depth: how far the pane stands in from the outer face
  Raised raised;           ///< in a ceiling alone
  std::string extra;
  bool operator==(const Opening&) const = default;
};

/// Windows by ratio, in rows or as a curtain wall, for rooms and orientations.
struct WindowRule {
  enum class Kind { Ratio, Row, Curtain };
  RuleId id;
  std::string name, type;
  Kind kind = Kind::Ratio;
  std::vector<RoomId> rooms;     ///< empty: all
  std::vector<Facing> facings;   ///< empty: all
  bool ceiling = false;          ///< rooflights instead of windows
  double ratio = 0.4;            ///< 0…0.95, of the inner wall (or ceiling) area
  int count = 1;                 ///< windows in each wall, evenly divided; in a ceiling a side of the field: n × n
  double module = 0;             ///< m, width of a bay, as many as fit, in the middle of the wall; 0: by count
  double ends = 0;               ///< m, kept free at both ends of a wall
  double width = 1.2;            ///< m, rows only
  double mullion = 0.06;         ///< m, between the panes of a curtain wall and beside the outermost
  double sill = 0.9, head = 2.4; ///< m above the floor; a ratio that needs more takes the whole height first
  double frame = 0;              ///< as Opening::frame
  double paneAt = 1.0 / 3;       ///< as Opening::paneAt
  Raised raised;                 ///< of rooflights
  std::string glazing;
  std::string extra;
  bool operator==(const WindowRule&) const = default;

  /// Its numbers, for files, the sheet and the docs (core/model/settings/fields.h).
  template <class D> static void describe(D& d) {
    using S = WindowRule;
    using K = Kind;
    const auto onWalls = [](const S& s) { return !s.ceiling; };
    d.choice("kind", "Laid out",
             {{K::Ratio, {"ratio", "by glazed share"}},
              {K::Row, {"row", "in rows"}},
              {K::Curtain, {"curtain", "as a curtain wall"}}},
             &S::kind, "By a share of the wall, as windows of one width, or glass from post to post")
        .spoken("Layout of the windows");
    d.part("ratio", "Glass share", 0, 95, &S::ratio, "Of the inner wall, or of the ceiling")
        .matters([](const S& s) { return s.kind == K::Ratio; })
        .keptWhen([](const S& s) { return s.kind == K::Ratio; });
    d.count("count", "Windows per wall", "", 1, 500, &S::count, "Evenly divided").matters([](const S& s) {
      return s.ceiling || s.module == 0;
    });
    d.number("module", "Bay width", "m", 0, 1000, &S::module,
             "As many bays of this width as fit, in the middle of the wall; 0: by the count")
        .matters(onWalls)
        .unlessDefault();
    d.number("ends", "Free at the ends", "m", 0, 1000, &S::ends, "Of each wall, on both sides")
        .matters(onWalls)
        .unlessDefault();
    d.number("width", "Width", "m", 0, 1000, &S::width, "Of one window, where they are not given by glazed share")
        .matters([](const S& s) { return s.kind == K::Row; });
    d.number("mullion", "Mullion", "m", 0, 10, &S::mullion, "Between the panes and beside the outermost")
        .matters([](const S& s) { return s.kind == K::Curtain && !s.ceiling; })
        .unlessDefault();
    d.number("sill", "Sill", "m", 0, 1000, &S::sill, "Above the floor").matters(onWalls);
    d.number("head", "Head", "m", 0, 1000, &S::head, "Above the floor; a large share takes more height first")
        .matters(onWalls);
    d.share("frame", "Frame share", 0, 95, &S::frame,
            "Of each window, taken by frames, mullions and panels beside what its glazing states")
        .unlessDefault();
    d.share("pane-at", "Pane stands at", 0, 100, &S::paneAt, "Of the wall's depth, in from its outer face")
        .unlessDefault();
  }
};

} // namespace noonward
