#pragma once
// Results in SQLite beside the project ("NAME.results.sqlite"), addressed by the hash of their inputs. Disposable: a
// store that is missing, damaged or of another kind is begun anew, and only time is lost. Beside the results a list of runs
// tells what was asked, when, and exactly what went in.

#include "core/studies/light_study.h"
#include "core/studies/sun_hours.h"
#include "core/studies/year_study.h"
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
  std::string option;  ///< the design alternative, by name; empty where there is one alone
  std::string state;   ///< "finished", "certain", "stopped early"
  std::string wentIn;  ///< the project and study as computed, JSON text (wentInText); only for keep()
  StudyKind kind = StudyKind::SunHours;
  std::int64_t number = 0; ///< in the list of runs
};

/// The whole of what a study goes by, as JSON text: the design in hand, the place, the study and its sensors.
std::string wentInText(const Project& project, const Study& study);
/// How two such texts differ, a sentence each.
std::vector<std::string> wentInDifferences(const std::string& from, const std::string& to);

class ResultStore {
public:
  /// Never fails to open: with nothing usable at the path it keeps results in memory and says so in notes().
  explicit ResultStore(const std::filesystem::path& path);
  ~ResultStore();
  ResultStore(const ResultStore&) = delete;
  ResultStore& operator=(const ResultStore&) = delete;

  std::shared_ptr<const SunHoursResult> find(const Digest& key);
  std::shared_ptr<const LightResult> findLight(const Digest& key);
  std::shared_ptr<const YearResult> findYear(const Digest& key);
  /// Key and seconds are the result's own. What was stopped early is not kept; but a year is, for it says how far it came.
  Outcome keep(const SunHoursResult& result, StoredRun run);
  Outcome keep(const LightResult& result, StoredRun run);
  Outcome keep(const YearResult& result, StoredRun run);
  /// The newest first; at most `mostRuns` are kept, older ones go with their results.
  std::vector<StoredRun> runs();
  static constexpr int mostRuns = 300;
  std::string wentIn(std::int64_t run);
  Outcome rename(std::int64_t run, const std::string& name);
  /// The run, and its result unless another run has the same.
  void removeRun(std::int64_t run);
  void remove(const Digest& key); ///< a result with all its runs
  const std::vector<std::string>& notes() const { return notes_; }
  static std::filesystem::path besideProject(const std::filesystem::path& project);

private:
  bool open(const std::string& path);
  std::optional<std::string> load(const Digest& key, const char* kind);
  Outcome store(const StoredRun& run, StudyKind study, const char* kind, const std::string& bytes);
  void forget();
  std::mutex mutex_;
  sqlite3* db_ = nullptr;
  std::vector<std::string> notes_;
};

} // namespace noonward
