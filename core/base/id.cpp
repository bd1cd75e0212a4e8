#include "core/base/id.h"
#include "core/base/hash.h"
#include <fmt/format.h>
#include <random>

namespace noonward {

std::uint64_t randomId() {
  std::random_device device; // the kernel's generator: no state of ours, no seed to repeat
  std::uint64_t v = 0;
  while (v == 0) v = (std::uint64_t{device()} << 32) | device();
  return v;
}

std::string idText(std::uint64_t value) {
  return fmt::format("{:016x}", value);
}

std::optional<std::uint64_t> idFromText(std::string_view text) {
  if (text.size() != 16) return {};
  std::uint64_t v = 0;
  for (char c : text) {
    int d = -1;
    if (c >= '0' && c <= '9') d = c - '0';
    if (c >= 'a' && c <= 'f') d = c - 'a' + 10;
    if (c >= 'A' && c <= 'F') d = c - 'A' + 10;
    if (d < 0) return {};
    v = v << 4 | static_cast<std::uint64_t>(d);
  }
  return v;
}

std::uint64_t derivedId(std::string_view key) {
  const std::uint64_t v = digestOf(key).low;
  return v ? v : 1;
}

} // namespace noonward
