#pragma once
// Counts in sentences, and words that were meant.

#include <cstddef>
#include <fmt/format.h>
#include <string>
#include <string_view>
#include <vector>

namespace noonward {

/// "1 face has", "3 faces have".
inline std::string counted(std::size_t n, const char* one, const char* more) {
  return fmt::format("{} {}", n, n == 1 ? one : more);
}

/// Letters to put in, take out, change or swap with their neighbour to come from one word to the other; small and
/// capital letters alike.
std::size_t lettersApart(std::string_view a, std::string_view b);
/// The known word that was probably meant: at most two letters apart, and less than half of it. Empty where none is
/// near.
std::string meantWord(std::string_view word, const std::vector<std::string>& known);

} // namespace noonward
