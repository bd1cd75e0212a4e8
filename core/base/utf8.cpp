#include "core/base/utf8.h"
#include <cstdint>

namespace noonward {

namespace {
void put(std::string& out, std::uint32_t c) {
  if (c < 0x80) {
    out += char(c);
  } else if (c < 0x800) {
    out += char(0xC0 | c >> 6);
    out += char(0x80 | (c & 63));
  } else if (c < 0x10000) {
    out += char(0xE0 | c >> 12);
    out += char(0x80 | (c >> 6 & 63));
    out += char(0x80 | (c & 63));
  } else {
    out += char(0xF0 | c >> 18);
    out += char(0x80 | (c >> 12 & 63));
    out += char(0x80 | (c >> 6 & 63));
    out += char(0x80 | (c & 63));
  }
}
} // namespace

bool validUtf8(std::string_view s) {
  for (std::size_t i = 0; i < s.size();) {
    const auto c = static_cast<unsigned char>(s[i]);
    const std::size_t n = c < 0x80                ? 1
                          : c >= 0xC2 && c < 0xE0 ? 2
                          : c >= 0xE0 && c < 0xF0 ? 3
                          : c >= 0xF0 && c < 0xF5 ? 4
                                                  : 0;
    if (n == 0 || i + n > s.size()) return false;
    for (std::size_t k = 1; k < n; ++k)
      if ((static_cast<unsigned char>(s[i + k]) & 0xC0) != 0x80) return false;
    i += n;
  }
  return true;
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
      if (c >= 0xD800 && c < 0xDC00 && i + 3 < b.size()) {
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
