#pragma once
// Results in SQLite beside the project ("NAME.results.sqlite"), addressed by the hash of their inputs. Disposable: a
// store that is missing, damaged or of another kind is begun anew, and only time is lost.

#include "core/studies/light_study.h"
#include "core/studies/sun_hours.h"
#include <filesystem>
#include <mutex>

struct sqlite3;

namespace noonward {

struct StoredRun {
  Digest key;
  std::string name;    ///< as the user sees it
  std::string asked;   ///< settings in words
  std::string when;    ///< local time, ISO
  double seconds = 0;
};

class ResultStore {
public:
  /// Never fails to open: with nothing usable at the path it keeps results in memory and says so in notes().
  explicit ResultStore(const std::filesystem::path& path);
  ~ResultStore();
  ResultStore(const ResultStore&) = delete;
  ResultStore& operator=(const ResultStore&) = delete;

  std::shared_ptr<const SunHoursResult> find(const Digest& key);
  std::shared_ptr<const LightResult> findLight(const Digest& key);
  /// Key and seconds are the result's own. What was stopped early is not kept.
  Outcome keep(const SunHoursResult& result, StoredRun run);
  Outcome keep(const LightResult& result, StoredRun run);
  std::vector<StoredRun> runs();
  void remove(const Digest& key);
  const std::vector<std::string>& notes() const { return notes_; }
  static std::filesystem::path besideProject(const std::filesystem::path& project);

private:
  bool open(const std::string& path);
  std::optional<std::string> load(const Digest& key, const char* kind);
  Outcome store(const StoredRun& run, const char* kind, const std::string& bytes);
  std::mutex mutex_;
  sqlite3* db_ = nullptr;
  std::vector<std::string> notes_;
};

} // namespace noonward
