#pragma once
// The parts of a project file about what was brought from outside: pictures to trace over, and the files that elements
// came from.

#include "core/base/json.h"
#include "core/files/save_file.h"
#include "core/model/project.h"

namespace noonward {

/// A picture as the bytes of its file. Errors: no such file, larger than 256 MB, or no picture by its first bytes (PNG,
/// JPEG, TIFF, WebP, BMP, GIF).
Expected<std::shared_ptr<const Picture>> readPicture(const std::filesystem::path& file);

/// "underlays"; a picture whose file is gone is a note, its pins stay.
void readUnderlays(JsonObject& root, Project& project, const std::filesystem::path& folder,
                   std::vector<std::string>& notes);
/// "sources"; paths become absolute.
void readSources(JsonObject& root, Project& project, const std::filesystem::path& folder);
void writeUnderlays(Json& root, const Project& project);
/// "guides".
void readGuides(JsonObject& root, Project& project);
void writeGuides(Json& root, const Project& project);
void writeSources(Json& root, const Project& project);

} // namespace noonward
