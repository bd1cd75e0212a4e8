#include "core/files/zip_file.h"
#include <fmt/format.h>
#include <memory>
#include <zip.h>

namespace noonward {

namespace {
std::string words(zip_error_t& error) {
  std::string text = zip_error_strerror(&error);
  zip_error_fini(&error);
  return text;
}
} // namespace

Expected<ZipFile> ZipFile::open(const std::filesystem::path& path) {
  ZipFile out;
  int code = 0;
  out.file_ = path.filename().string();
  out.archive_ = zip_open(path.c_str(), ZIP_RDONLY, &code);
  if (out.archive_ != nullptr) return out;
  zip_error_t error;
  zip_error_init_with_code(&error, code);
  return fail(fmt::format("The archive can't be read: {}.", words(error)), out.file_);
}

Expected<ZipFile> ZipFile::ofBytes(std::string bytes, const std::string& name) {
  ZipFile out;
  out.file_ = name;
  out.held_ = std::make_shared<std::string>(std::move(bytes));
  zip_error_t error;
  zip_error_init(&error);
  zip_source_t* source = zip_source_buffer_create(out.held_->data(), out.held_->size(), 0, &error);
  out.archive_ = source != nullptr ? zip_open_from_source(source, ZIP_RDONLY, &error) : nullptr;
  if (out.archive_ != nullptr) {
    zip_error_fini(&error);
    return out;
  }
  if (source != nullptr) zip_source_free(source);
  return fail(fmt::format("The archive can't be read: {}.", words(error)), name);
}

ZipFile::ZipFile(ZipFile&& other) noexcept
    : archive_(other.archive_), file_(std::move(other.file_)), held_(std::move(other.held_)) {
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
  bool good = in != nullptr;
  for (std::size_t have = 0; good && have < out.size();) {
    const zip_int64_t got = zip_fread(in, out.data() + have, out.size() - have);
    good = got > 0;
    have += good ? std::size_t(got) : 0;
  }
  if (in != nullptr) good = zip_fclose(in) == 0 && good; // a wrong check sum is told here
  if (!good) return fail(fmt::format("\"{}\" is damaged.", name), file_);
  return out;
}

Expected<std::string> zipped(const std::string& name, const std::string& bytes) {
  zip_error_t error;
  zip_error_init(&error);
  zip_source_t* into = zip_source_buffer_create(nullptr, 0, 0, &error);
  if (into == nullptr) return fail(words(error));
  zip_source_keep(into);
  zip_t* archive = zip_open_from_source(into, ZIP_TRUNCATE, &error);
  zip_source_t* file = archive != nullptr ? zip_source_buffer(archive, bytes.data(), bytes.size(), 0) : nullptr;
  if (file == nullptr || zip_file_add(archive, name.c_str(), file, ZIP_FL_ENC_UTF_8) < 0 || zip_close(archive) != 0) {
    zip_source_free(into);
    return fail("The archive could not be made.", name);
  }
  std::string out;
  zip_source_open(into);
  zip_source_seek(into, 0, SEEK_END);
  out.resize(std::size_t(std::max<zip_int64_t>(0, zip_source_tell(into))));
  zip_source_seek(into, 0, SEEK_SET);
  const zip_int64_t got = zip_source_read(into, out.data(), out.size());
  zip_source_close(into);
  zip_source_free(into);
  if (got != zip_int64_t(out.size())) return fail("The archive could not be made.", name);
  return out;
}

} // namespace noonward
