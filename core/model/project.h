#pragma once
// The project: what the user made, as a value. Large parts are shared and never change, so a copy costs little and undo
// is a stack of whole copies. Metres and radians inside; local coordinates, with the far origin kept apart in double.
// `extra` keeps the keys of a file that this version does not know, as JSON text, so that they survive a save.

#include "core/base/id.h"
#include "core/base/units.h"
#include "core/model/finish.h"
#include "core/model/heat.h"
#include "core/model/measured_series.h"
#include "core/model/record_plan.h"
#include "core/model/rooms/room_grid.h"
#include "core/model/rooms/rooms.h"
#include "core/model/rooms/shading.h"
#include "core/model/settings/light_settings.h"
#include "core/model/settings/study_kind.h"
#include "core/model/settings/sun_hours_settings.h"
#include "core/model/settings/sun_wishes.h"
#include "core/model/settings/year_settings.h"
#include "core/model/shape.h"
#include "core/model/sweep.h"
#include "core/model/underlay.h"
#include "core/sky/weather.h"
#include <array>
#include <map>
#include <memory>
#include <variant>

namespace noonward {

// ---- what stands there ------------------------------------------------------------------------------------------

enum class Role {
  Building,
  Neighbour,
  Ground,
  Wall,
  Roof,
  Floor,
  Ceiling,
  Partition,
  Glazing,
  Shading,
  Planting,
  Ignore
};
const char* roleKey(Role role);  ///< as in files: "neighbour"
const char* roleName(Role role); ///< as shown: "Neighbour"
std::optional<Role> roleFromKey(std::string_view key);
inline constexpr std::array<Role, 12> allRoles{Role::Building, Role::Neighbour, Role::Ground,   Role::Wall,
                                               Role::Roof,     Role::Floor,     Role::Ceiling,  Role::Partition,
                                               Role::Glazing,  Role::Shading,   Role::Planting, Role::Ignore};

/// Layer of flat outlines that say where a model's spaces lie and what they are called.
inline constexpr const char *spacesLayer = "Spaces", *spaceUseKey = "use"; ///< the key among a space's further ones

/// Where a copy stands in a row or grid: so many steps from the element it is a copy of.
struct RowPlace {
  ElementId of;
  int right = 0, up = 0;
  Vec2 stepRight, stepUp; ///< m
  bool operator==(const RowPlace&) const = default;
};

struct Element {
  ElementId id;
  std::string name;
  std::string layer;
  Role role = Role::Building;
  bool proposed = false;   ///< part of the proposal: "before" is the scene without it
  bool demolished = false; ///< there before, and gone when the proposal stands
  bool counted = true;     ///< false: left out of every study, and shown so
  bool hidden = false;     ///< on the stage only; never changes a study
  bool ghost =
      false; ///< a simplified model stands for it (core/model/tracing/tracing.h): not counted, drawn as edges alone
  std::string source; ///< file it came from, if any
  std::vector<std::string>
      mends;                   ///< keys of those its mesh has had, to be done again when its file is brought in again
  std::string finish;          ///< name of its finish, or of its glazing; empty: by assignment or role
  std::string group;           ///< name of what is selected and moved together with it; empty: nothing
  std::optional<RowPlace> row; ///< of a copy laid out in a row (core/model/form/arrange.h)
  Shape shape;
  std::string extra;
  const Mass* mass() const { return std::get_if<Mass>(&shape); }
  const Imported* imported() const { return std::get_if<Imported>(&shape); }
  const Plate* plate() const { return std::get_if<Plate>(&shape); }
  const Tree* tree() const { return std::get_if<Tree>(&shape); }
  bool operator==(const Element&) const = default;
};
/// Gives a finish or glazing to whatever fits all that is stated. A face goes before an element, then type, layer,
/// orientation, role; of two of one kind the later.
struct Assignment {
  std::string finish;
  std::optional<ElementId> element;
  std::optional<std::uint32_t> face;
  std::string layer, type;
  std::optional<Facing> facing;
  std::optional<Role> role;
  bool operator==(const Assignment&) const = default;
};
using ElementPtr = std::shared_ptr<const Element>;

// ---- where it is judged -----------------------------------------------------------------------------------------

struct PointSensor {
  Vec3 position;
  Vec3 normal{0, 0, 1};
  std::string name;
  bool operator==(const PointSensor&) const = default;
};
struct GroundArea { ///< horizontal grid over an outline
  Outline outline;
  double level = 0;   ///< m above the local zero
  double spacing = 1; ///< m
  bool operator==(const GroundArea&) const = default;
};
struct GroundAround { ///< horizontal grid fitted round chosen elements, which are left out of it
  std::vector<ElementId> elements;
  double margin = 20, level = 0, spacing = 1; ///< m
  bool operator==(const GroundAround&) const = default;
};
struct FaceRef {
  ElementId element;
  std::optional<std::uint32_t> face; ///< one face, or all faces of the kinds below
  bool operator==(const FaceRef&) const = default;
};
struct FaceGrid { ///< on facades and roofs
  std::vector<FaceRef> faces;
  bool walls = true, roofs = false; ///< which faces are meant where a reference names none
  double spacing = 1;               ///< m
  double bay = 0;                   ///< m; above 0: one receiver a bay about so wide and storey instead of a grid
  double height = 1.6;              ///< m, of those above their floor
  bool operator==(const FaceGrid&) const = default;
};
struct RoomGrid {            ///< on the working plane of rooms, a group of sensors of its own for each
  std::vector<RoomId> rooms; ///< empty: every room that counts
  double height = 0.85, spacing = 0.5, wallDistance = 0.5; ///< m; spacing at most
  GridLayout layout = GridLayout::FromWalls;
  /// Of eyes: level lines of sight at each point, evenly round from the first; 0: sensors that look up.
  int directions = 0;
  double firstDirection = 0; ///< rad, true azimuth
  bool operator==(const RoomGrid&) const = default;
};
const char* gridLayoutKey(GridLayout layout);  ///< "from-walls"
const char* gridLayoutText(GridLayout layout); ///< "points begin at the distance from the walls"
std::optional<GridLayout> gridLayoutFromKey(std::string_view key);
using SensorLayout = std::variant<GroundArea, GroundAround, FaceGrid, std::vector<PointSensor>, RoomGrid>;

/// What a group stands for in rules that count dwellings.
enum class Subject { None, LivingRoom, OpenSpace };

struct SensorGroup {
  GroupId id;
  std::string name;
  SensorLayout layout;
  std::string dwelling; ///< name of the dwelling it belongs to, for rules by dwelling
  Subject subject = Subject::None;
  std::string extra;
  std::string building; ///< name of the building or plot it is told with; empty: none
  bool eyes = false;    ///< places and lines of sight, for glare and view: no other study takes them unasked
  bool operator==(const SensorGroup&) const = default;
};

// ---- what is asked -----------------------------------------------------------------------------------------------

struct Study {
  StudyId id;
  StudyKind kind = StudyKind::SunHours;
  std::string name = "Sun hours";
  std::vector<GroupId> groups; ///< empty: all
  SunHoursSettings sunHours;
  LightSettings light;
  YearSettings year;
  std::string extra;
};

/// A yardstick laid against groups, with the parameters the user changed.
struct Judgement {
  JudgementId id;
  std::string yardstick; ///< key of the rule file: "amenity-ground"
  std::vector<GroupId> groups;
  std::map<std::string, std::string> changed; ///< parameter -> value as text
  std::string extra;
};

// ---- the whole --------------------------------------------------------------------------------------------------

struct Site {
  std::string name;
  Place place;
  std::string zone = "UTC"; ///< IANA name or UTC+hh:mm
  int year = 2026;          ///< whose calendar and clock changes count
  double northAngle = 0;    ///< rad: true azimuth of the drawing's +y
  std::shared_ptr<const Weather> weather;
  std::string weatherFile;        ///< as in the project file, relative to it
  double groundLevel = 0;         ///< m, local: the endless ground around the model
  double groundReflectance = 0.2; ///< of light on it
  Vec3 origin;                    ///< m, taken off imported coordinates before anything else
  std::string referenceSystem;
  std::string extra;
};

/// A file that elements came from, and how it was taken: so that it is found again, watched, and brought in the same
/// way.
struct SourceFile {
  std::string name; ///< as `Element.source` has it
  std::string path; ///< where it lay, absolute or relative to the project file
  LengthUnit unit = LengthUnit::Metre;
  bool yUp = false;
  double scale = 1;                 ///< of everything, beside the unit
  std::optional<double> northAngle; ///< rad, where the user said it
  Vec3 origin;                      ///< m, taken off
  std::string level;                ///< level of detail chosen, where the file has several
  Digest content;                   ///< of the file's bytes as they were brought in
  bool operator==(const SourceFile&) const = default;
};

struct SavedView {
  ViewId id;
  std::string name;
  std::string camera; ///< JSON text (picture/saved_view.h)
  std::string moment; ///< "2026-06-21T14:00:00+02:00"; empty: none
  std::string option; ///< id of the option it shows; empty: whichever is in hand
  std::string study;  ///< id of the study painted; empty: none
};

/// What an option may change: what stands there, and what it is made of.
struct Design {
  std::vector<ElementPtr> elements;
  std::vector<Room> rooms;
  std::vector<Opening> openings;
  std::vector<WindowRule> windowRules;
  std::vector<ShadeRule> shadeRules;
  std::vector<Finish> finishes; ///< its own, and copies of what it uses of the library
  std::vector<Glazing> glazings;
  std::vector<Assignment> assignments;
  HeatDesign heat;
  bool operator==(const Design&) const = default; ///< elements by identity: those that are shared are the same
};

/// A design alternative. Files keep what it changes against the first one (core/files/project/design_json.h).
struct Option {
  OptionId id;
  std::string name;
  std::shared_ptr<const Design> design; ///< null for the one in hand: its design is the project's
  std::vector<std::string> orphans;     ///< changes that no longer find what they changed, in words
};

/// What was derived from the last states of a project (core/model/derived_memory.h): shared by its copies, never part
/// of what it is.
class DerivedMemory;
std::shared_ptr<DerivedMemory> freshDerivedMemory();

/// A key of a project file that nobody reads.
struct UnknownKey {
  std::string path;    ///< "studies[0].eror"
  std::string nearest; ///< the known key it most looks like; empty where none is near
  bool operator==(const UnknownKey&) const = default;
};

struct Project : Design {
  ProjectId id;
  std::string name = "Untitled";
  DisplayUnits units;
  Site site;
  std::vector<SensorGroup> groups;
  std::vector<Season> seasons; ///< saved by the user, beside the built-in ones
  SunWishes sunWishes;         ///< when sun on glass is not wanted and when it is; empty: as proposed for the latitude
  std::vector<Study> studies;
  std::vector<Judgement> judgements;
  std::vector<MeasuredSeries> measured; ///< loggers' files laid beside studies
  std::vector<Sweep> sweeps;
  std::vector<DesignRef> beside; ///< designs laid beside each other, in the user's order
  std::vector<SavedView> views;
  std::vector<Underlay> underlays;                 ///< to trace over
  std::vector<Guide> guides;                       ///< to draw along
  std::vector<SourceFile> sources;                 ///< one a file brought in
  std::map<std::string, std::string> layerColours; ///< of layers with one of their own: "#6A8F5B"
  std::map<std::string, std::string> accepted;     ///< codes of findings the user has said yes to, and by which words
  std::vector<Option> options;                     ///< empty: one design alone
  std::size_t option = 0;                          ///< the one in hand
  std::string preparedBy, client;
  RecordPlan record;
  std::string extra;
  std::vector<UnknownKey> unknownKeys; ///< of the file it was read from; not of the project itself
  std::shared_ptr<DerivedMemory> derived = freshDerivedMemory(); ///< never null

  ElementPtr element(ElementId id) const;
  const SensorGroup* group(GroupId id) const;
  const Room* room(RoomId id) const;
  Zone zone() const; ///< the site's zone; UTC if its name is not known (a finding says so)
};

/// The mesh of an element where it stands, in local metres. Shares the import's mesh where nothing was moved.
Expected<MeshPtr> elementMesh(const Element& element);
/// Its name; its id where it has none.
std::string nameOf(const Element& element);

/// project north in words: "project north points 7.5° east of north".
std::string northText(double northAngle);

/// Built-in seasons for a latitude: longest day, equinox, shortest day, winter half, working hours.
std::vector<Season> builtInSeasons(double latitude);

} // namespace noonward
