#include "core/files/save_file.h"
#include <cerrno>
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
  case EDQUOT: return "the disc is full";
  case EACCES:
  case EPERM: return "writing there is not allowed";
  case EROFS: return "the disc is read-only";
  case ENOENT: return "the folder does not exist";
  default: return std::strerror(error);
  }
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
    return fail(error == ENOENT ? "There is no such file." : fmt::format("The file can't be read: {}.", std::strerror(error)),
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
bool validUtf8(std::string_view s) {
  for (std::size_t i = 0; i < s.size();) {
    const auto c = static_cast<unsigned char>(s[i]);
    const std::size_t n = c < 0x80 ? 1 : c >= 0xC2 && c < 0xE0 ? 2 : c >= 0xE0 && c < 0xF0 ? 3 : c >= 0xF0 && c < 0xF5 ? 4 : 0;
    if (n == 0 || i + n > s.size()) return false;
    for (std::size_t k = 1; k < n; ++k)
      if ((static_cast<unsigned char>(s[i + k]) & 0xC0) != 0x80) return false;
    i += n;
  }
  return true;
}
} // namespace

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

} // namespace noonward
