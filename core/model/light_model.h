#pragma once
// The project as light sees it: meshes with finishes and glazings, made from elements, rooms, openings and shades. Walls
// have their thickness as reveals, and a mass around rooms is opened where their windows are.

#include "core/base/hash.h"
#include "core/model/project.h"

namespace noonward {

struct LightPart {
  std::uint64_t element = 0; ///< id value of the element, room or opening it is of
  std::shared_ptr<const Mesh> mesh;
  Role role = Role::Building;
  bool glazed = false;
  std::uint32_t material = 0; ///< index of finishes, or of glazings where glazed
  std::uint32_t group = 0;    ///< window group, 1…; 0 where it is no window
  int room = -1;              ///< index in the project; -1 where unknown
};

struct WindowGroup {
  std::string key;  ///< "r2, south": the room's id, side and type, or the element's id; stays when a room is renamed
  std::string name; ///< "Reading room, south"
  int room = -1;
  std::optional<Facing> facing;
  double area = 0;  ///< m² of glazing
};

struct LightModel {
  std::vector<LightPart> parts;
  std::vector<Finish> finishes;
  std::vector<Glazing> glazings;
  std::vector<WindowGroup> groups; ///< [0] stands for light through no window
  double groundLevel = 0, groundReflectance = 0.2;
  Findings findings; ///< defaults used, names that are not known, openings that don't fit
};
/// Faulty elements are an error; names of finishes that are not known are an error that names the element.
Expected<LightModel> lightModel(const Project& project, bool withProposed = true);

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
