#pragma once
// Files within a zip archive.

#include "core/base/error.h"
#include <filesystem>
#include <vector>

struct zip; ///< of libzip

namespace noonward {

class ZipFile {
public:
  /// Errors: no archive, damaged.
  static Expected<ZipFile> open(const std::filesystem::path& path);
  ZipFile(ZipFile&& other) noexcept;
  ZipFile& operator=(ZipFile&&) = delete;
  ZipFile(const ZipFile&) = delete;
  ~ZipFile();
  std::vector<std::string> names() const;
  /// Errors: not in it, damaged, more than `most` bytes.
  Expected<std::string> read(const std::string& name, std::size_t most) const;

private:
  ZipFile() = default;
  ::zip* archive_ = nullptr;
  std::string file_;
};

} // namespace noonward
