#pragma once
// XML by pugixml, with its faults as ours.

#include "core/base/error.h"
#include <algorithm>
#include <fmt/format.h>
#include <pugixml.hpp>

namespace noonward {

/// Knows UTF-16 and Latin-1 by their heads. An error names the line.
inline Outcome openXml(pugi::xml_document& document, std::string_view text, const std::string& file) {
  const pugi::xml_parse_result read = document.load_buffer(text.data(), text.size());
  if (read) return {};
  const auto at = std::min<std::size_t>(std::size_t(std::max<std::ptrdiff_t>(0, read.offset)), text.size());
  return fail(fmt::format("This is no sound XML: {}.", read.description()),
              fmt::format("{}:{}", file, 1 + std::count(text.begin(), text.begin() + std::ptrdiff_t(at), '\n')));
}

} // namespace noonward
