#pragma once
// Shading as parts with parameters: overhangs, fins, louvres, egg-crates, awnings, balconies, light shelves and
// perforated screens at the openings of a side, a type, some rooms, or one by one. The parameters stay; the planes are
// made from them wherever a derived model is (core/model/light_model.h), so that every study, picture and probe meets
// the same ones.
//
// All planes are thin. A part is made in the opening's own frame: along (to the right, seen from outside), up and
// outward, metres from the opening's low left corner on the wall's outer face.

#include "core/base/hash.h"
#include "core/base/id.h"
#include "core/geometry/mesh.h"
#include "core/model/rooms/rooms.h"
#include <algorithm>
#include <array>
#include <optional>
#include <string>
#include <vector>

namespace noonward {

struct PlacedOpening; ///< placing.h

struct ShadeRule {
  enum class Kind { Overhang, Fins, Louvres, UprightLouvres, EggCrate, Awning, Balcony, LightShelf, Screen };
  enum class Sides { Spread, Left, Right };
  RuleId id;
  std::string name;
  Kind kind = Kind::Overhang;
  std::vector<Facing> facings;    ///< empty: all
  std::string type;               ///< of window; empty: all
  std::vector<RoomId> rooms;      ///< empty: all
  std::vector<OpeningId> windows; ///< these alone, as placed; empty: all
  bool rooflights = false;        ///< at rooflights instead of windows; louvres and egg-crates alone
  double depth = 0.6;             ///< m, from the outer face; of a blade from edge to edge; of an awning its projection
  double offset = 0;              ///< m: overhang, awning above the head; light shelf below it; balcony below the sill;
                     ///< fins beside the opening; louvres beyond it above and below (upright: left and right)
  double beyond = 0;           ///< m, how far it goes on at both ends
  int count = 2;               ///< fins over the width, 2 = one at each side; blades where no spacing is given
  double angle = 0;            ///< rad: overhang and blades tilted down at their outer edge; fins and upright blades
                               ///< turned toward the left seen from outside
  double spacing = 0;          ///< m, between blades; 0: by count
  double standOff = 0;         ///< m, between the wall's outer face and a blade's inner edge
  double drop = 0;             ///< m: overhang: edge hanging from its front; awning: its front below its back
  Sides sides = Sides::Spread; ///< of fins
  bool ends = false;           ///< awning: closed at both ends
  double parapet = 1.1;        ///< m, of a balcony
  double openness = 0;         ///< 0…1, of the parapet: upright bars with as much between them
  bool drawnIn = false;        ///< awning, screen: out of the way, and nothing of it is there
  double inward = 0;           ///< m, of a light shelf, from the wall's inner face into the room
  std::string finish;
  std::string extra;
  bool operator==(const ShadeRule&) const = default;

  /// Its parameters, for files, the sheet and the docs (core/model/settings/fields.h).
  template <class D> static void describe(D& d) {
    using S = ShadeRule;
    using K = Kind;
    const auto of = [](std::initializer_list<K> kinds) {
      return [list = std::vector<K>(kinds)](const S& s) {
        return std::find(list.begin(), list.end(), s.kind) != list.end();
      };
    };
    d.choice("kind", "Kind",
             {{K::Overhang, {"overhang", "overhang"}},
              {K::Fins, {"fins", "fins"}},
              {K::Louvres, {"louvres", "louvres"}},
              {K::UprightLouvres, {"upright-louvres", "upright louvres"}},
              {K::EggCrate, {"egg-crate", "egg-crate"}},
              {K::Awning, {"awning", "awning"}},
              {K::Balcony, {"balcony", "balcony"}},
              {K::LightShelf, {"light-shelf", "light shelf"}},
              {K::Screen, {"screen", "screen"}}},
             &S::kind, "What stands before the glass")
        .spoken("Kind of shading");
    d.number("depth", "Depth", "m", 0, 100, &S::depth,
             "From the outer face; of a blade from edge to edge; of an awning how far it comes out")
        .matters([](const S& s) { return s.kind != K::Screen; });
    d.number("spacing", "Spacing", "m", 0, 100, &S::spacing,
             "Between blades; 0: as many as the count says; of a screen's holes from middle to middle, 0: 10 cm")
        .matters(of({K::Louvres, K::UprightLouvres, K::EggCrate, K::Screen}))
        .unlessDefault();
    d.count("count", "Count", "", 1, 500, &S::count, "Fins over a window's width; blades where no spacing is given")
        .matters([](const S& s) {
          return (s.kind == K::Fins && s.sides == Sides::Spread) || (s.isBladed() && s.spacing == 0);
        });
    d.choice("sides", "Stand",
             {{Sides::Spread, {"spread", "over the width"}},
              {Sides::Left, {"left", "left alone"}},
              {Sides::Right, {"right", "right alone"}}},
             &S::sides, "Seen from outside; two over the width are one at each side")
        .spoken("Side of the fins")
        .matters(of({K::Fins}))
        .unlessDefault();
    d.angle("angle", "Angle", -89, 89, &S::angle,
            "Outer edge tilted down; fins and upright louvres turned to the left seen from outside")
        .matters([](const S& s) {
          return s.kind != K::Awning && s.kind != K::Balcony && s.kind != K::LightShelf && s.kind != K::Screen;
        });
    d.number("offset", "Offset", "m", -100, 100, &S::offset,
             "Above the head, beside the opening; a light shelf below the head, a balcony below the sill");
    d.number("beyond", "Side extension", "m", -100, 100, &S::beyond, "How far it goes on at both ends")
        .matters([](const S& s) { return s.kind != K::Fins; });
    d.number("stand-off", "Stand-off", "m", 0, 100, &S::standOff,
             "Between the outer face and the blades' inner edges, or the screen")
        .matters(of({K::Louvres, K::UprightLouvres, K::EggCrate, K::Screen}))
        .unlessDefault();
    d.number("drop", "Drop", "m", 0, 100, &S::drop,
             "An overhang's edge that hangs down at its front; how far an awning's front lies below its back")
        .matters(of({K::Overhang, K::Awning}))
        .unlessDefault();
    d.flag("ends", "Ends", "open", "closed", &S::ends, "An awning's two ends").matters(of({K::Awning})).unlessDefault();
    d.flag("drawn-in", "Drawn", "out", "in", &S::drawnIn, "In, nothing of it stands before the glass, in any study")
        .spoken("Position of the shade")
        .matters(of({K::Awning, K::Screen}))
        .unlessDefault();
    d.number("parapet", "Parapet", "m", 0, 10, &S::parapet, "Height at a balcony's three free sides")
        .matters(of({K::Balcony}))
        .unlessDefault();
    d.share("openness", "Openness", 0, 100, &S::openness,
            "Of the parapet: 0 is solid, more are upright bars with as much between them; of a screen its holes")
        .matters(of({K::Balcony, K::Screen}))
        .unlessDefault();
    d.number("inward", "Into the room", "m", 0, 20, &S::inward, "Of a light shelf, from the wall's inner face")
        .matters(of({K::LightShelf}))
        .unlessDefault();
  }

  bool isBladed() const { return kind == Kind::Louvres || kind == Kind::UprightLouvres || kind == Kind::EggCrate; }
};

/// "overhang", "fins": as in files and in words.
const char* shadeKindName(ShadeRule::Kind kind);

/// An opening's own frame.
struct OpeningFrame {
  Vec3 origin;                              ///< low left corner on the outer face, seen from outside
  Vec3 along, up, outward;                  ///< unit
  double width = 0, height = 0, reveal = 0; ///< m
  double pane = 0;                          ///< m, of the pane in from the outer face
  Vec3 at(double u, double v, double w) const { return origin + along * u + up * v + outward * w; }
};
OpeningFrame frameOf(const PlacedOpening& opening, const Room& room);
/// The pane's corners.
std::array<Vec3, 4> paneOf(const PlacedOpening& opening, const Room& room);

/// Does the rule stand at the opening?
bool standsAt(const ShadeRule& rule, const PlacedOpening& opening, RoomId room);

/// Its planes at an opening, local metres.
Mesh shadeMesh(const ShadeRule& rule, const OpeningFrame& frame);

/// The sun's shadow angles at which none of the glass is in sun any more, were the part endless; rad. Profile: of the
/// sun's height in the upright plane square to the wall (VSA); left, right: of its azimuth from the wall's normal
/// (HSA), seen from outside. Nothing for kinds and sides that have no such angle. Formulas: docs/methods.md, Shading.
struct CutOff {
  std::optional<double> profile;     ///< all in shade from here up …
  std::optional<double> profileEnds; ///< … to here, where a stand-off lets steeper sun in behind the top blade
  std::optional<double> left, right; ///< all in shade where the sun stands as far or farther to that side
};
CutOff cutOffOf(const ShadeRule& rule, const OpeningFrame& frame);

/// Adds what a study meets of it to a hash: not its name or finish, nor the rooms and windows it is at.
void hashShade(Hasher& hash, const ShadeRule& rule);

/// The parameters as a table in Markdown: part of docs/project-format.md.
std::string shadeFieldsAsMarkdown();

} // namespace noonward
