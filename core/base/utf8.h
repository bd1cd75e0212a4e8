#pragma once
// Text from outside is made UTF-8 at the border of every reader; inside there is nothing else.

#include <string>
#include <string_view>
#include <vector>

namespace noonward {

bool validUtf8(std::string_view text);
/// Text that may be UTF-8 with a byte order mark, UTF-16 or Latin-1, as UTF-8 with \n line ends. Notes what it did.
std::string asUtf8(std::string_view bytes, std::vector<std::string>* notes = nullptr);
/// A name or a path as UTF-8: what is not is taken as Latin-1, and control characters as spaces.
std::string nameAsUtf8(std::string name);

} // namespace noonward
