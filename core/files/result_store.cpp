#include "core/files/result_store.h"
#include "core/base/json_difference.h"
#include "core/files/project_file.h"
#include <algorithm>
#include <cstring>
#include <sqlite3.h>

namespace noonward {

namespace {

constexpr const char* schema = "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;"
                               "CREATE TABLE IF NOT EXISTS result (key TEXT PRIMARY KEY, kind TEXT NOT NULL, name TEXT,"
                               " asked TEXT, at TEXT, seconds REAL, body BLOB NOT NULL, digest TEXT NOT NULL);"
                               "CREATE TABLE IF NOT EXISTS run (number INTEGER PRIMARY KEY AUTOINCREMENT, key TEXT NOT NULL, study TEXT NOT NULL, name TEXT,"
                               " option TEXT, asked TEXT, at TEXT, seconds REAL, state TEXT, input TEXT);"
                               "CREATE TABLE IF NOT EXISTS input (digest TEXT PRIMARY KEY, text TEXT NOT NULL);";

constexpr const char *sunHoursKind = "sun-hours 1", *lightKind = "light 2", *yearKind = "year 1";

/// Body: counts and plain arrays, little-endian; its digest stands beside it.
template <class T> void put(std::string& out, const T& v) { out.append(reinterpret_cast<const char*>(&v), sizeof v); }
template <class T> void putAll(std::string& out, const std::vector<T>& v) {
  put(out, std::uint64_t(v.size()));
  out.append(reinterpret_cast<const char*>(v.data()), v.size() * sizeof(T));
}
struct Taker {
  std::string_view in;
  bool sound = true;
  template <class T> void take(T& v) {
    if (!(sound = sound && in.size() >= sizeof v)) return;
    std::memcpy(&v, in.data(), sizeof v);
    in.remove_prefix(sizeof v);
  }
  template <class T> void takeAll(std::vector<T>& v) {
    std::uint64_t n = 0;
    take(n);
    if (!(sound = sound && n <= in.size() / sizeof(T))) return;
    v.resize(n);
    std::memcpy(v.data(), in.data(), n * sizeof(T));
    in.remove_prefix(n * sizeof(T));
  }
};

std::string body(const SunHoursResult& r) {
  std::string out;
  putAll(out, r.hours);
  putAll(out, r.longest);
  putAll(out, r.first);
  putAll(out, r.last);
  putAll(out, r.dates);
  put(out, r.midnight);
  put(out, r.possible);
  put(out, r.seconds);
  return out;
}

struct Statement {
  sqlite3_stmt* s = nullptr;
  Statement(sqlite3* db, const char* sql) {
    if (sqlite3_prepare_v2(db, sql, -1, &s, nullptr) != SQLITE_OK) s = nullptr;
  }
  ~Statement() { sqlite3_finalize(s); }
  void text(int i, const std::string& t) { sqlite3_bind_text(s, i, t.data(), int(t.size()), SQLITE_TRANSIENT); }
  std::string text(int column) const {
    const auto* t = sqlite3_column_text(s, column);
    return t ? std::string(reinterpret_cast<const char*>(t), std::size_t(sqlite3_column_bytes(s, column))) : std::string();
  }
};

} // namespace

std::filesystem::path ResultStore::besideProject(const std::filesystem::path& project) {
  std::filesystem::path p = project;
  return p.replace_extension(".results.sqlite");
}

bool ResultStore::open(const std::string& path) {
  if (sqlite3_open(path.c_str(), &db_) == SQLITE_OK && sqlite3_exec(db_, schema, nullptr, nullptr, nullptr) == SQLITE_OK) {
    Statement check(db_, "SELECT key, kind, name, asked, at, seconds, body, digest FROM result LIMIT 1");
    if (check.s) {
      const int rc = sqlite3_step(check.s);
      if (rc == SQLITE_ROW || rc == SQLITE_DONE) return true;
    }
  }
  sqlite3_close(db_);
  db_ = nullptr;
  return false;
}

ResultStore::ResultStore(const std::filesystem::path& path) {
  if (!path.empty()) {
    if (open(path.string())) return;
    std::error_code error;
    std::filesystem::rename(path, path.string() + ".damaged", error);
    for (const char* tail : {"-wal", "-shm"}) std::filesystem::remove(path.string() + tail, error);
    if (open(path.string())) {
      notes_.push_back("The results file was damaged; it was put aside and begun anew. Studies run again when asked.");
      return;
    }
    notes_.push_back("No results file can be kept beside the project; results last until the program ends.");
  }
  require(open(":memory:"), "SQLite opens no store in memory");
}

ResultStore::~ResultStore() { sqlite3_close(db_); }

std::optional<std::string> ResultStore::load(const Digest& key, const char* kind) {
  const std::lock_guard lock(mutex_);
  Statement q(db_, "SELECT body, digest FROM result WHERE key = ? AND kind = ?");
  if (!q.s) return {};
  q.text(1, key.hex());
  q.text(2, kind);
  if (sqlite3_step(q.s) != SQLITE_ROW) return {};
  std::string bytes(static_cast<const char*>(sqlite3_column_blob(q.s, 0)), std::size_t(sqlite3_column_bytes(q.s, 0)));
  if (digestOf(bytes).hex() != q.text(1)) return {}; // damaged: run again
  return bytes;
}

Outcome ResultStore::store(const StoredRun& run, StudyKind study, const char* kind, const std::string& bytes) {
  const std::lock_guard lock(mutex_);
  // One step: a kill leaves either all of it or nothing.
  struct Transaction {
    sqlite3* db;
    explicit Transaction(sqlite3* d) : db(d) { sqlite3_exec(db, "BEGIN", nullptr, nullptr, nullptr); }
    ~Transaction() { sqlite3_exec(db, "COMMIT", nullptr, nullptr, nullptr); }
  } transaction(db_);
  std::string input;
  if (!run.wentIn.empty()) {
    input = digestOf(run.wentIn).hex();
    Statement i(db_, "INSERT OR IGNORE INTO input VALUES (?, ?)");
    i.text(1, input);
    i.text(2, run.wentIn);
    sqlite3_step(i.s);
  }
  Statement r(db_, "INSERT INTO run (key, study, name, option, asked, at, seconds, state, input) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)");
  int column = 0;
  for (const std::string& t : {run.key.hex(), std::string(studyKey(study)), run.name, run.option, run.asked, run.when}) r.text(++column, t);
  sqlite3_bind_double(r.s, ++column, run.seconds);
  r.text(++column, run.state.empty() ? "finished" : run.state);
  r.text(++column, input);
  if (!r.s || sqlite3_step(r.s) != SQLITE_DONE) return fail(std::string("The results file can't be written: ") + sqlite3_errmsg(db_));
  forget();
  Statement q(db_, "INSERT OR REPLACE INTO result VALUES (?, ?, ?, ?, ?, ?, ?, ?)");
  if (!q.s) return fail(std::string("The results file can't be written: ") + sqlite3_errmsg(db_));
  q.text(1, run.key.hex());
  q.text(2, kind);
  q.text(3, run.name);
  q.text(4, run.asked);
  q.text(5, run.when);
  sqlite3_bind_double(q.s, 6, run.seconds);
  sqlite3_bind_blob64(q.s, 7, bytes.data(), bytes.size(), SQLITE_TRANSIENT);
  q.text(8, digestOf(bytes).hex());
  if (sqlite3_step(q.s) != SQLITE_DONE)
    return fail(std::string("The results file can't be written: ") + sqlite3_errmsg(db_));
  return {};
}

/// Runs beyond the most that are kept, and what only they held.
void ResultStore::forget() {
  const std::string sql = "DELETE FROM run WHERE number <= (SELECT max(number) FROM run) - " + std::to_string(mostRuns) + " AND number IN (SELECT number FROM run ORDER BY number DESC LIMIT -1 OFFSET " + std::to_string(mostRuns) +
                          "); DELETE FROM result WHERE key NOT IN (SELECT key FROM run) AND rowid < (SELECT max(rowid) FROM result); DELETE FROM input WHERE digest NOT IN (SELECT input FROM run);";
  sqlite3_exec(db_, sql.c_str(), nullptr, nullptr, nullptr);
}

std::shared_ptr<const SunHoursResult> ResultStore::find(const Digest& key) {
  const auto bytes = load(key, sunHoursKind);
  if (!bytes) return nullptr;
  auto r = std::make_shared<SunHoursResult>();
  Taker t{*bytes};
  t.takeAll(r->hours);
  t.takeAll(r->longest);
  t.takeAll(r->first);
  t.takeAll(r->last);
  t.takeAll(r->dates);
  t.take(r->midnight);
  t.take(r->possible);
  t.take(r->seconds);
  if (!t.sound) return nullptr;
  r->key = key;
  return r;
}

Outcome ResultStore::keep(const SunHoursResult& r, StoredRun run) {
  if (r.end != RunEnd::Finished) return {}; // what was stopped early is no answer to the question
  run.key = r.key;
  run.seconds = r.seconds;
  return store(run, StudyKind::SunHours, sunHoursKind, body(r));
}

std::shared_ptr<const LightResult> ResultStore::findLight(const Digest& key) {
  const auto bytes = load(key, lightKind);
  if (!bytes) return nullptr;
  auto r = std::make_shared<LightResult>();
  Taker t{*bytes};
  std::int32_t kind = 0;
  std::uint64_t unsettled = 0;
  t.take(kind);
  t.takeAll(r->value);
  t.takeAll(r->standardError);
  t.takeAll(r->samples);
  t.takeAll(r->replicates);
  t.take(unsettled);
  t.take(r->seconds);
  if (!t.sound) return nullptr;
  r->kind = StudyKind(kind);
  r->unsettled = unsettled;
  r->key = key;
  return r;
}

Outcome ResultStore::keep(const LightResult& r, StoredRun run) {
  if (r.end != RunEnd::Finished) return {};
  run.key = r.key;
  run.seconds = r.seconds;
  std::string out;
  put(out, std::int32_t(r.kind));
  putAll(out, r.value);
  putAll(out, r.standardError);
  putAll(out, r.samples);
  putAll(out, r.replicates);
  put(out, std::uint64_t(r.unsettled));
  put(out, r.seconds);
  return store(run, r.kind, lightKind, out);
}

namespace {
/// Every field of a stored year in its order; `f` puts or takes it.
template <class R, class F, class L> void eachField(R& r, F one, L list) {
  list(r.sensors), list(r.beamHours), list(r.relativeError), list(r.spaces), list(r.sdaError), list(r.meanError), list(r.provision), list(r.provisionError), list(r.closedHours);
  one(r.building), one(r.buildingSdaError), one(r.scheduleHours), one(r.everySpace), one(r.rounds), one(r.certain), one(r.certainty), one(r.end), one(r.seconds), one(r.tracing);
}
} // namespace

std::shared_ptr<const YearResult> ResultStore::findYear(const Digest& key) {
  const auto bytes = load(key, yearKind);
  if (!bytes) return nullptr;
  auto r = std::make_shared<YearResult>();
  Taker t{*bytes};
  eachField(*r, [&](auto& v) { t.take(v); }, [&](auto& v) { t.takeAll(v); });
  if (!t.sound) return nullptr;
  r->key = key;
  return r;
}

Outcome ResultStore::keep(const YearResult& r, StoredRun run) {
  if (r.end != RunEnd::Finished && !(r.end == RunEnd::Enough && r.everySpace)) return {};
  run.key = r.key;
  run.seconds = r.seconds;
  run.state = r.end == RunEnd::Enough ? "stopped early" : r.certain ? "certain" : "finished";
  std::string out;
  eachField(r, [&](const auto& v) { put(out, v); }, [&](const auto& v) { putAll(out, v); });
  return store(run, StudyKind::Year, yearKind, out);
}

std::vector<StoredRun> ResultStore::runs() {
  const std::lock_guard lock(mutex_);
  std::vector<StoredRun> out;
  Statement q(db_, "SELECT key, study, name, option, asked, at, seconds, state, number FROM run ORDER BY number DESC");
  while (q.s && sqlite3_step(q.s) == SQLITE_ROW) {
    StoredRun r;
    const std::string key = q.text(0);
    if (key.size() == 32) r.key = {idFromText(key.substr(0, 16)).value_or(0), idFromText(key.substr(16)).value_or(0)};
    r.kind = studyFromKey(q.text(1)).value_or(StudyKind::SunHours);
    r.name = q.text(2);
    r.option = q.text(3);
    r.asked = q.text(4);
    r.when = q.text(5);
    r.seconds = sqlite3_column_double(q.s, 6);
    r.state = q.text(7);
    r.number = sqlite3_column_int64(q.s, 8);
    out.push_back(std::move(r));
  }
  return out;
}

std::string ResultStore::wentIn(std::int64_t run) {
  const std::lock_guard lock(mutex_);
  Statement q(db_, "SELECT text FROM input JOIN run ON run.input = input.digest WHERE run.number = ?");
  if (!q.s) return {};
  sqlite3_bind_int64(q.s, 1, run);
  return sqlite3_step(q.s) == SQLITE_ROW ? q.text(0) : std::string();
}

Outcome ResultStore::rename(std::int64_t run, const std::string& name) {
  const std::lock_guard lock(mutex_);
  Statement q(db_, "UPDATE run SET name = ? WHERE number = ?");
  q.text(1, name);
  sqlite3_bind_int64(q.s, 2, run);
  if (!q.s || sqlite3_step(q.s) != SQLITE_DONE) return fail(std::string("The results file can't be written: ") + sqlite3_errmsg(db_));
  return {};
}

void ResultStore::removeRun(std::int64_t run) {
  const std::lock_guard lock(mutex_);
  const std::string n = std::to_string(run);
  const std::string sql = "BEGIN; DELETE FROM result WHERE key = (SELECT key FROM run WHERE number = " + n + ") AND (SELECT count(*) FROM run WHERE key = result.key) < 2;"
                          "DELETE FROM run WHERE number = " + n + "; DELETE FROM input WHERE digest NOT IN (SELECT input FROM run); COMMIT;";
  sqlite3_exec(db_, sql.c_str(), nullptr, nullptr, nullptr);
}

void ResultStore::remove(const Digest& key) {
  const std::lock_guard lock(mutex_);
  for (const char* sql : {"DELETE FROM result WHERE key = ?", "DELETE FROM run WHERE key = ?"}) {
    Statement q(db_, sql);
    if (!q.s) return;
    q.text(1, key.hex());
    sqlite3_step(q.s);
  }
}

std::string wentInText(const Project& project, const Study& study) {
  Project p = project;
  p.options.clear();
  p.option = 0;
  p.studies = {study};
  p.judgements.clear();
  p.views.clear();
  p.seasons.clear();
  if (!study.groups.empty()) std::erase_if(p.groups, [&](const SensorGroup& g) { return std::find(study.groups.begin(), study.groups.end(), g.id) == study.groups.end(); });
  return projectText(p, "files");
}

std::vector<std::string> wentInDifferences(const std::string& from, const std::string& to) {
  const Json a = Json::parse(from, nullptr, false), b = Json::parse(to, nullptr, false);
  if (a.is_discarded() || b.is_discarded()) return {"What went in is not known."};
  std::vector<std::string> out;
  for (const JsonChange& c : differences(a, b)) out.push_back(changeText(c, a, b));
  return out;
}

} // namespace noonward
