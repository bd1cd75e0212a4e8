#include "core/files/save_file.h"
#include <cerrno>
#include <chrono>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

namespace noonward {

DiscCalls DiscCalls::real() {
  return {[](int f, const void* p, std::size_t n) { return long(::write(f, p, n)); }, [](int f) { return ::fsync(f); },
          [](const char* a, const char* b) { return ::rename(a, b); }};
}

namespace {
std::string why(int error) {
  switch (error) {
  case ENOSPC:
  case EDQUOT:
    return "the disc is full";
  case EACCES:
  case EPERM:
    return "writing there is not allowed";
  case EROFS:
    return "the disc is read-only";
  case ENOENT:
    return "the folder does not exist";
  default:
    return std::strerror(error);
  }
}
} // namespace

namespace {
/// What saves of this file left that were killed half-way: an hour old, so that no save under way is meant.
void removeLeftovers(const std::filesystem::path& path) {
  std::error_code e;
  const std::string stem = path.filename().string() + ".part-";
  const std::filesystem::path folder = path.has_parent_path() ? path.parent_path() : ".";
  std::vector<std::filesystem::path> old;
  for (const auto& entry : std::filesystem::directory_iterator(folder, e)) {
    const std::string name = entry.path().filename().string();
    std::error_code ignored;
    if (name.size() == stem.size() + 6 && name.starts_with(stem) &&
        std::filesystem::file_time_type::clock::now() - entry.last_write_time(ignored) > std::chrono::hours(1) &&
        !ignored)
      old.push_back(entry.path());
  }
  for (const auto& file : old) std::filesystem::remove(file, e);
}
} // namespace

Outcome saveFile(const std::filesystem::path& path, std::string_view bytes, const DiscCalls& disc) {
  const std::string target = path.string();
  const auto failed = [&](int error) {
    return fail(fmt::format("Could not save: {}. The file on disc is as it was before.", why(error)), target);
  };
  struct stat old {};
  const bool exists = ::stat(target.c_str(), &old) == 0;
  if (exists && (old.st_mode & S_IWUSR) == 0) return failed(EACCES); // a file made read-only stays so, for root too
  removeLeftovers(path);
  std::string fresh = target + ".part-XXXXXX";
  const int file = ::mkstemp(fresh.data());
  if (file < 0) return failed(errno);
  const auto giveUp = [&](int error) {
    ::close(file);
    ::unlink(fresh.c_str());
    return failed(error);
  };
  for (std::size_t at = 0; at < bytes.size();) {
    const long n = disc.write(file, bytes.data() + at, bytes.size() - at);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) return giveUp(n < 0 ? errno : ENOSPC);
    at += std::size_t(n);
  }
  ::fchmod(file, exists ? old.st_mode & 0777 : 0644);
  if (disc.sync(file) != 0) return giveUp(errno);
  ::close(file);
  if (disc.rename(fresh.c_str(), target.c_str()) != 0) {
    const int error = errno;
    ::unlink(fresh.c_str());
    return failed(error);
  }
  if (const int folder = ::open(path.has_parent_path() ? path.parent_path().c_str() : ".", O_RDONLY | O_DIRECTORY);
      folder >= 0) {
    ::fsync(folder);
    ::close(folder);
  }
  return {};
}

Expected<std::string> loadFile(const std::filesystem::path& path, std::size_t limit) {
  const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
  const auto failed = [&](int error) {
    return fail(error == ENOENT ? "There is no such file."
                                : fmt::format("The file can't be read: {}.", std::strerror(error)),
                path.string());
  };
  if (file < 0) return failed(errno);
  struct stat s {};
  ::fstat(file, &s);
  if (S_ISDIR(s.st_mode)) {
    ::close(file);
    return fail("This is a folder, not a file.", path.string());
  }
  if (std::size_t(s.st_size) > limit) {
    ::close(file);
    return fail(fmt::format("The file is larger than {} MB.", limit >> 20), path.string());
  }
  std::string bytes(std::size_t(s.st_size), '\0');
  std::size_t at = 0;
  while (at < bytes.size()) {
    const ssize_t n = ::read(file, bytes.data() + at, bytes.size() - at);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) {
      const int error = errno;
      ::close(file);
      return failed(error);
    }
    if (n == 0) break;
    at += std::size_t(n);
  }
  ::close(file);
  bytes.resize(at);
  return bytes;
}

} // namespace noonward
