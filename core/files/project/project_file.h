#pragma once
// The project on disc: one JSON file that a person or a script can write (docs/project-format.md), with meshes and
// mended weather beside it in "NAME.files/", named by their content. Saving is atomic; unknown keys are kept.

#include "core/base/hash.h"
#include "core/files/save_file.h"
#include "core/model/project.h"

namespace noonward {

inline constexpr int projectVersion = 1;

struct LoadedProject {
  Project project;
  std::vector<std::string> notes; ///< of weather and imports
  Digest content;                 ///< of the file's bytes; nothing where it came from no file
};
/// Of what stands in a file now; nothing where there is none.
std::optional<Digest> contentOf(const std::filesystem::path& path);
/// An error where a project file is no longer what was read or written last: another program has saved it since.
Outcome stillTheSame(const std::filesystem::path& path, const Digest& asKnown);
/// Faults name the path of the offending key: "elements[3].mass.height".
Expected<LoadedProject> readProject(const std::filesystem::path& path);
/// `folder`: where file names of the text are looked up.
Expected<LoadedProject> parseProject(std::string_view text, const std::string& file,
                                     const std::filesystem::path& folder);

/// Writes meshes and weather that are not there yet, then the project. Weather names in the project follow.
Outcome writeProject(Project& project, const std::filesystem::path& path, const DiscCalls& disc = DiscCalls::real());
/// The JSON alone.
std::string projectText(const Project& project, const std::string& filesFolder);

/// Beside the project: "NAME.noonward.autosave".
std::filesystem::path autosavePath(const std::filesystem::path& project);

} // namespace noonward
