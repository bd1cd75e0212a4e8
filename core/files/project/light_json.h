#pragma once
// The parts of a project file that belong to light in rooms: rooms, openings, rules, shades, finishes, glazings,
// assignments and room grids. docs/project-format.md tells the keys.

#include "core/base/json.h"
#include "core/files/save_file.h"
#include "core/model/project.h"

namespace noonward {

/// "finishes" and "glazings"; before the elements, whose names refer to them.
void readFinishes(JsonObject& root, Project& project);
/// "rooms", "openings", "window-rules", "shading".
void readRooms(JsonObject& root, Project& project);
/// "assign"; after elements and rooms.
void readAssignments(JsonObject& root, Project& project);
/// The "rooms" of a sensor group.
RoomGrid readRoomGrid(JsonObject o, const Project& project);

void writeRooms(Json& root, const Design& design);
Json roomGridJson(const RoomGrid& grid);

/// Finishes and glazings that a user keeps between projects: a JSON file of "finishes" and "glazings". A missing file
/// is an empty shelf; a faulty one is an error that names the line or key.
struct FinishShelf {
  std::vector<Finish> finishes;
  std::vector<Glazing> glazings;
};
Expected<FinishShelf> readFinishShelf(const std::filesystem::path& file);
Outcome writeFinishShelf(const FinishShelf& shelf, const std::filesystem::path& file);

/// Points [[x, y], …]; a fault names the entry.
Ring ringFromJson(const Json& value, const std::string& path, JsonFault& fault);
Json ringJson(const Ring& ring);

} // namespace noonward
