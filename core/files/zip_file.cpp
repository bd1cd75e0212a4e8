#include "core/files/zip_file.h"
#include <fmt/format.h>
#include <zip.h>

namespace noonward {

Expected<ZipFile> ZipFile::open(const std::filesystem::path& path) {
  ZipFile out;
  int code = 0;
  out.file_ = path.filename().string();
  out.archive_ = zip_open(path.c_str(), ZIP_RDONLY, &code);
  if (out.archive_ != nullptr) return out;
  zip_error_t error;
  zip_error_init_with_code(&error, code);
  std::string text = zip_error_strerror(&error);
  zip_error_fini(&error);
  return fail(fmt::format("The archive can't be read: {}.", text), out.file_);
}

ZipFile::ZipFile(ZipFile&& other) noexcept : archive_(other.archive_), file_(std::move(other.file_)) {
  other.archive_ = nullptr;
}

ZipFile::~ZipFile() {
  if (archive_ != nullptr) zip_discard(archive_);
}

std::vector<std::string> ZipFile::names() const {
  std::vector<std::string> out;
  const zip_int64_t n = zip_get_num_entries(archive_, 0);
  for (zip_int64_t k = 0; k < n; ++k)
    if (const char* name = zip_get_name(archive_, zip_uint64_t(k), 0)) out.emplace_back(name);
  return out;
}

Expected<std::string> ZipFile::read(const std::string& name, std::size_t most) const {
  zip_stat_t facts;
  zip_stat_init(&facts);
  if (zip_stat(archive_, name.c_str(), 0, &facts) != 0 || (facts.valid & ZIP_STAT_SIZE) == 0)
    return fail(fmt::format("The archive holds no \"{}\".", name), file_);
  if (facts.size > most)
    return fail(fmt::format("\"{}\" is {} MB; at most {} are read.", name, facts.size >> 20, most >> 20), file_);
  zip_file_t* in = zip_fopen(archive_, name.c_str(), 0);
  std::string out(facts.size, '\0');
  zip_int64_t got = in != nullptr ? 0 : -1;
  for (std::size_t have = 0; in != nullptr && have < out.size(); have += std::size_t(got))
    if (got = zip_fread(in, out.data() + have, out.size() - have); got <= 0) break;
  if (in != nullptr) zip_fclose(in);
  if (got < 0 || (got == 0 && !out.empty())) return fail(fmt::format("\"{}\" is damaged.", name), file_);
  return out;
}

} // namespace noonward
