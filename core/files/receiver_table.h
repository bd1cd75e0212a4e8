#pragma once
// Receivers from a table: CSV or GeoJSON with names. What has a place becomes a point that is judged; what has none
// gives the receivers and groups that are there already their dwelling, building and subject, by name.
//
// CSV: columns by name, in any order, small or capital letters alike: receiver (or name); x, y, z in metres of the
// drawing, or longitude, latitude in degrees with z; azimuth in degrees (true) or nx, ny, nz for the way it looks (else
// up); group, dwelling, building, subject ("living room" or "open space"). Decimal points, or commas where the columns
// are parted by semicolons. GeoJSON: points with these as properties, the height in z, height or height_m.

#include "core/base/error.h"
#include "core/model/form/receivers.h"
#include <filesystem>

namespace noonward {

/// Errors: no known column, a cell that is no number or subject (with line and column), neither place nor name.
Expected<ReceiverTable> receiversFromCsv(const Project& project, std::string_view text, const std::string& file);
Expected<ReceiverTable> receiversFromGeoJson(const Project& project, std::string_view text, const std::string& file);
/// By the file's ending.
Expected<ReceiverTable> readReceivers(const Project& project, const std::filesystem::path& file);

} // namespace noonward
