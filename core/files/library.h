#pragma once
// What ships with the program: yardsticks, cities. Found beside the source tree, beside the installed program, or where
// NOONWARD_RESOURCES points.

#include "core/files/save_file.h"
#include "core/yardsticks/yardstick.h"

namespace noonward {

/// The resources folder; empty if none is found. `program`: path of the running program.
std::filesystem::path resourcesFolder(const std::filesystem::path& program);

/// Faulty files become notes.
YardstickShelf readYardsticks(const std::vector<std::filesystem::path>& folders);

struct City {
  std::string name, ascii, country, zone;
  double latitude = 0, longitude = 0, elevation = 0; ///< degrees, metres
  int population = 0;
};
Expected<std::vector<City>> readCities(const std::filesystem::path& file);
/// Names that begin with the words first, then those that hold them; large ones first.
std::vector<const City*> searchCities(const std::vector<City>& cities, std::string_view words, std::size_t most = 40);

} // namespace noonward
