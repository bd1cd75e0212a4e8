#pragma once
// Reading and writing whole files. Every writer goes through saveFile(): a new file beside the old one, forced to disc,
// then put in its place in one step, so that a full disc or a kill leaves the old file as it was.

#include "core/base/error.h"
#include "core/base/utf8.h"
#include <cstddef>
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace noonward {

/// The system calls of a save, replaceable so that tests can make the disc fail at a named step.
struct DiscCalls {
  std::function<long(int, const void*, std::size_t)> write;
  std::function<int(int)> sync;
  std::function<int(const char*, const char*)> rename;
  static DiscCalls real();
};

Outcome saveFile(const std::filesystem::path& path, std::string_view bytes, const DiscCalls& disc = DiscCalls::real());
Expected<std::string> loadFile(const std::filesystem::path& path, std::size_t limit = std::size_t{4} << 30);

} // namespace noonward
