#pragma once
// A weather file by its address: a file, a zip archive with one in it, or http(s). What came is looked at before it is
// taken; a page, half a file or no answer is an error of its own.

#include "core/base/run_control.h"
#include "core/sky/weather.h"
#include <vector>

namespace noonward {

struct FetchedWeather {
  Weather weather;
  std::string name;  ///< of the file: "brevholm.epw"
  std::string bytes; ///< of it, as it came
  std::string from;  ///< the address asked for, after redirections
};
/// At most 64 MB; http(s) alone beside files, five redirections, a minute without a byte ends it. Errors name what
/// came: no such address or file, no answer, an answer that refuses, a page (with the weather files it links to), a
/// part of what was promised, no weather file, several in an archive.
Expected<FetchedWeather> fetchWeather(const std::string& address, RunControl& control);

/// Addresses of weather files and archives that a page links to, absolute.
std::vector<std::string> linkedWeather(std::string_view page, const std::string& address);

} // namespace noonward
