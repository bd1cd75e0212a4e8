#pragma once
// Results in SQLite beside the project ("NAME.results.sqlite"), addressed by the hash of their inputs. Disposable: a
// store that is missing, damaged or of another kind is begun anew, and only time is lost. Beside the results a list of
// runs tells what was asked, when, and exactly what went in.

#include "core/studies/light_study.h"
#include "core/studies/sun_hours.h"
#include "core/studies/year_study.h"
#include <filesystem>
#include <mutex>

namespace noonward {

struct StoredRun {
  Digest key;
  std::string name;  ///< as the user sees it
  std::string asked; ///< settings in words
  std::string when;  ///< local time, ISO
  double seconds = 0;
  std::string option; ///< the design alternative, by name; empty where there is one alone
  std::string state;  ///< "finished", "certain", "stopped early"
  std::string wentIn; ///< the project and study as computed, JSON text (wentInText); only for keep()
  StudyKind kind = StudyKind::SunHours;
  std::int64_t number = 0; ///< in the list of runs
};

class Sqlite;

/// The whole of what a study goes by, as JSON text: the design in hand, the place, the study and its sensors.
std::string wentInText(const Project& project, const Study& study);
/// How two such texts differ, a sentence each.
std::vector<std::string> wentInDifferences(const std::string& from, const std::string& to);

class ResultStore {
public:
  /// Never fails to open. A damaged file is put aside; one that is locked, read only or on a full disc stays untouched,
  /// is read where it can be, and new results are kept in memory: notes() says so. Several programs may use one file at
  /// once.
  explicit ResultStore(const std::filesystem::path& path);
  ~ResultStore();
  ResultStore(const ResultStore&) = delete;
  ResultStore& operator=(const ResultStore&) = delete;

  std::shared_ptr<const SunHoursResult> find(const Digest& key);
  std::shared_ptr<const LightResult> findLight(const Digest& key);
  std::shared_ptr<const YearResult> findYear(const Digest& key);
  /// An error says that the file could not be written; the result is kept for the session all the same. Key and seconds
  /// are the result's own. What was stopped early is not kept; but a year is, for it says how far it came.
  Outcome keep(const SunHoursResult& result, StoredRun run);
  Outcome keep(const LightResult& result, StoredRun run);
  Outcome keep(const YearResult& result, StoredRun run);
  /// The newest first; none is dropped unasked.
  std::vector<StoredRun> runs();
  std::string wentIn(std::int64_t run);
  Outcome rename(std::int64_t run, const std::string& name);
  /// The run, and its result unless another run has the same.
  Outcome removeRun(std::int64_t run);
  Outcome remove(const Digest& key); ///< a result with all its runs
  std::vector<std::string> notes() const;
  static std::filesystem::path besideProject(const std::filesystem::path& project);

private:
  std::optional<std::string> load(const Digest& key, const char* kind);
  Outcome store(const StoredRun& run, StudyKind study, const char* kind, const std::string& bytes);
  Outcome change(std::int64_t run, const std::function<void(Sqlite&, std::int64_t)>& how);
  std::int64_t numbered(const Sqlite* db, std::int64_t number) const;
  Sqlite& holder(std::int64_t run);
  mutable std::mutex mutex_;
  std::unique_ptr<Sqlite> file_, memory_; ///< beside the project; of the session
  bool writable_ = false;
  std::vector<std::string> notes_;
};

} // namespace noonward
