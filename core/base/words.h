#pragma once
// Counts in sentences.

#include <cstddef>
#include <fmt/format.h>
#include <string>

namespace noonward {

/// "1 face has", "3 faces have".
inline std::string counted(std::size_t n, const char* one, const char* more) { return fmt::format("{} {}", n, n == 1 ? one : more); }

} // namespace noonward
