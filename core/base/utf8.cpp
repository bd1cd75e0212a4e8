#include "core/base/utf8.h"
#include <cstdint>
#include <utf8.h>

namespace noonward {

namespace {
/// A code point that is none (half of a pair, beyond the last) becomes the sign for that.
void put(std::string& out, std::uint32_t c) {
  utf8::append(char32_t(c > 0x10FFFF || (c >= 0xD800 && c < 0xE000) ? 0xFFFD : c), out);
}
} // namespace

bool validUtf8(std::string_view s) {
  return utf8::is_valid(s);
}

std::string asUtf8(std::string_view b, std::vector<std::string>* notes) {
  const auto note = [&](const char* text) {
    if (notes) notes->push_back(text);
  };
  std::string text;
  if (b.starts_with("\xEF\xBB\xBF")) {
    note("A byte order mark was skipped.");
    text = b.substr(3);
  } else if (b.starts_with("\xFF\xFE") || b.starts_with("\xFE\xFF")) {
    const bool little = b[0] == '\xFF';
    note("The text was UTF-16.");
    for (std::size_t i = 2; i + 1 < b.size(); i += 2) {
      const auto unit = [&](std::size_t k) {
        const auto x = static_cast<unsigned char>(b[k]), y = static_cast<unsigned char>(b[k + 1]);
        return std::uint32_t(little ? x | y << 8 : x << 8 | y);
      };
      std::uint32_t c = unit(i);
      if (c >= 0xD800 && c < 0xDC00 && i + 3 < b.size() && unit(i + 2) >= 0xDC00 && unit(i + 2) < 0xE000) {
        c = 0x10000 + ((c - 0xD800) << 10) + (unit(i + 2) - 0xDC00);
        i += 2;
      }
      put(text, c);
    }
  } else if (!validUtf8(b)) {
    note("The text was read as Latin-1.");
    for (char c : b) put(text, static_cast<unsigned char>(c));
  } else {
    text = b;
  }
  std::string out;
  out.reserve(text.size());
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '\r') {
      if (i + 1 >= text.size() || text[i + 1] != '\n') out += '\n';
    } else {
      out += text[i];
    }
  }
  return out;
}

std::string nameAsUtf8(std::string name) {
  if (!validUtf8(name)) {
    std::string out;
    for (char c : name) put(out, static_cast<unsigned char>(c));
    name = std::move(out);
  }
  for (char& c : name)
    if (static_cast<unsigned char>(c) < 0x20 || c == 0x7f) c = ' ';
  return name;
}

} // namespace noonward
