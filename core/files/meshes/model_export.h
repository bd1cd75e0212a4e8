#pragma once
// The model out again, for others to use: meshes by element with roles as layers, footprints, city objects. Metres.
// Formats that keep doubles (OBJ, DXF, CityJSON, GeoJSON) get the coordinates that imports came with, the project's
// origin put back; STL and glTF are float32 and stay near it.

#include "core/model/project.h"
#include <filesystem>

namespace noonward {

enum class ExportFormat { Obj, Stl, Dxf, Glb, CityJson, GeoJson, GbXml };
/// By the ending: .obj, .stl, .dxf, .glb, .city.json and .json, .geojson, .xml and .gbxml.
std::optional<ExportFormat> exportFormatOf(const std::filesystem::path& file);

struct ExportedModel {
  std::string bytes;
  std::size_t elements = 0, triangles = 0;
  std::vector<std::string> notes; ///< what the format can't hold
};
/// `everything`: with elements left out of studies and those ignored. An error where there is nothing to write, or an
/// element is faulty.
Expected<ExportedModel> exportModel(const Project& project, ExportFormat format, bool everything = false);

/// Rooms as spaces with surfaces, openings and their glazing; all else that counts as shade, by triangles. Error
/// without rooms.
Expected<ExportedModel> exportGbXml(const Project& project);

/// What was done to what others drew, for them to take up: a line of CSV for each part of a file that was mended, left
/// out or replaced by a simplified model ("file,part,layer,role,done"). Empty but for its head where nothing was.
std::string changesCsv(const Project& project);

} // namespace noonward
