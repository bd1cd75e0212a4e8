#pragma once
// Weather files (EPW): eight header lines, then a row of 35 columns an hour. All columns are kept; byte order marks,
// CRLF, Latin-1, and files saved by a spreadsheet with semicolons and decimal commas are read. Errors carry the row.

#include "core/files/save_file.h"
#include "core/sky/weather.h"

namespace noonward {

/// Fatal: not a weather file, or fewer than a day of rows. Everything lesser is a note or a finding of checkWeather().
Expected<Weather> parseEpw(std::string_view bytes, const std::string& file);
Expected<Weather> readEpw(const std::filesystem::path& path);
/// Commas, points, CRLF, as the format has it; missing values with their markers.
std::string epwText(const Weather& weather);

} // namespace noonward
