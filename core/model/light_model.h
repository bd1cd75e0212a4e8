#pragma once
// The one building that every study, the probe, the stage's shadows and the pictures stand on: named surfaces with
// their finishes and glazings, made from elements, rooms, openings and shading rules. Walls have their thickness as
// reveals, and a mass around rooms is opened where their windows are.

#include "core/base/hash.h"
#include "core/model/project.h"
#include "core/model/rooms/placing.h"

namespace noonward {

/// What a surface came from, so that it can be named and what it takes of the light charged to it.
enum class SurfaceSource : std::uint8_t { Element, Room, Opening, ShadeRule };

struct LightPart {
  std::uint64_t element = 0; ///< id value of the element, room, opening or shading rule it came from
  std::shared_ptr<const Mesh> mesh;
  Role role = Role::Building;
  bool glazed = false;
  std::uint32_t material = 0; ///< index of finishes, or of glazings where glazed
  std::uint32_t group = 0;    ///< window group, 1…; 0 where it is no window
  int room = -1;              ///< index in the project; -1 where unknown
  SurfaceSource source = SurfaceSource::Element;
  std::uint64_t host = 0; ///< id value of the element around the room it is of, or of the element itself; 0 for none
};

struct WindowGroup {
  std::string key;  ///< "r2, south": the room's id, side and type, or the element's id; stays when a room is renamed
  std::string name; ///< "Reading room, south"
  int room = -1;
  std::optional<Facing> facing;
  double area = 0; ///< m² of glazing
};

struct LightModel {
  std::vector<LightPart> parts;
  std::vector<Finish> finishes;
  std::vector<Glazing> glazings;
  std::vector<WindowGroup> groups; ///< [0] stands for light through no window
  double groundLevel = 0, groundReflectance = 0.2;
  Findings findings;                 ///< defaults used, openings that don't fit
  std::vector<Error> geometryFaults; ///< elements and rooms that could not be made, and are missing
  std::optional<Error> finishFault;  ///< the first finish or glazing that is not known
};
/// The building as it stands, with what could not be made told beside it. Without the proposal: without elements marked
/// as proposed and the rooms in them, and with what is demolished; rooms that no element encloses belong to the
/// proposal where there is one.
LightModel derivedModel(const Project& project, bool withProposed = true);
/// The same for light: faulty elements are an error; names of finishes that are not known are an error that names the
/// element.
Expected<LightModel> lightModel(const Project& project, bool withProposed = true);

/// Does any study meet it, with or without the proposal? What is demolished for it stands without it alone.
bool standsInTheLight(const Element& element, bool withProposed);
/// Is anything that counts proposed, or demolished for it? Then there is a state before.
bool hasProposal(const Project& project);
/// The element that encloses a room: the first whose mass, or mesh taken as a solid, holds its middle; null where there
/// is none.
ElementPtr hostOf(const Project& project, const Room& room);
/// The same; where its middle lies in none, the mass that still holds most of it.
ElementPtr shelterOf(const Project& project, const Room& room);
/// Is the room part of the proposal?
bool isProposed(const Project& project, const Room& room);
/// Does it go with a building that is demolished?
bool isDemolished(const Project& project, const Room& room);

bool anyDemolished(const Project& project);
/// With what is demolished for the proposal still standing: half of the state before.
Project withDemolishedStanding(Project project);

/// The name of what a surface came from: "Kiln Row", "Reading room", "Reading room: window 2", "Deep fins". Empty where
/// it is unknown.
std::string surfaceName(const Project& project, std::uint64_t source);

/// What stands in the light, by what it is made from (not by names, colours or finishes), cheaply: nothing is derived.
void hashGeometry(Hasher& hash, const Project& project, bool withProposed = true);

/// What light depends on, by content; sky exposure depends on the geometry alone.
void hashLightModel(Hasher& hash, const LightModel& model, bool withFinishes = true);

/// The finish or glazing a surface has: by face, element, type, layer, orientation, role, then the role's default.
/// `isDefault` says whether it was only the last.
struct SurfaceQuestion {
  Role role = Role::Wall;
  std::uint64_t element = 0;
  std::optional<std::uint32_t> face;
  std::string layer, type, own; ///< own: the name given at the element itself
  std::optional<Facing> facing;
};
struct SurfaceAnswer {
  std::string name;
  bool isDefault = false;
};
SurfaceAnswer finishFor(const Project& project, const SurfaceQuestion& question);
const char* defaultFinish(Role role);

/// Every surface with its question, for choosing and for showing what follows an assignment.
struct SurfaceEntry {
  SurfaceQuestion question;
  std::string name; ///< "Reading room: south window 2", "Kiln Row"
  double area = 0;  ///< m²
};
std::vector<SurfaceEntry> surfaces(const Project& project);
/// Does what an assignment states fit the surface? (Whether it wins there is another matter.)
bool fits(const Assignment& assignment, const SurfaceQuestion& question);
/// Surfaces that an assignment fits but that have another finish, by something more exact or later.
std::vector<std::pair<std::string, std::string>> notFollowing(const Project& project, const Assignment& assignment);

} // namespace noonward
