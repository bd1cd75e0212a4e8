#pragma once
// Files within a zip archive, and an archive of one file.

#include "core/base/error.h"
#include <filesystem>
#include <memory>
#include <vector>

struct zip; ///< of libzip

namespace noonward {

class ZipFile {
public:
  /// Errors: no archive, damaged.
  static Expected<ZipFile> open(const std::filesystem::path& path);
  /// Of bytes in memory; `name` for errors.
  static Expected<ZipFile> ofBytes(std::string bytes, const std::string& name);
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
  std::shared_ptr<std::string> held_; ///< what the archive reads from
};

/// An archive with one file in it. Errors: no memory.
Expected<std::string> zipped(const std::string& name, const std::string& bytes);

} // namespace noonward
