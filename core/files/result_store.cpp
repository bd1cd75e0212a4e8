#include "core/files/result_store.h"
#include <cstring>
#include <sqlite3.h>

namespace noonward {

namespace {

constexpr const char* schema = "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;"
                               "CREATE TABLE IF NOT EXISTS result (key TEXT PRIMARY KEY, kind TEXT NOT NULL, name TEXT,"
                               " asked TEXT, at TEXT, seconds REAL, body BLOB NOT NULL, digest TEXT NOT NULL);";

constexpr const char *sunHoursKind = "sun-hours 1", *lightKind = "light 2";

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

Outcome ResultStore::store(const StoredRun& run, const char* kind, const std::string& bytes) {
  const std::lock_guard lock(mutex_);
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
  return store(run, sunHoursKind, body(r));
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
  return store(run, lightKind, out);
}

std::vector<StoredRun> ResultStore::runs() {
  const std::lock_guard lock(mutex_);
  std::vector<StoredRun> out;
  Statement q(db_, "SELECT key, name, asked, at, seconds FROM result ORDER BY at DESC, rowid DESC");
  while (q.s && sqlite3_step(q.s) == SQLITE_ROW) {
    StoredRun r;
    const std::string key = q.text(0);
    if (key.size() == 32) r.key = {idFromText(key.substr(0, 16)).value_or(0), idFromText(key.substr(16)).value_or(0)};
    r.name = q.text(1);
    r.asked = q.text(2);
    r.when = q.text(3);
    r.seconds = sqlite3_column_double(q.s, 4);
    out.push_back(std::move(r));
  }
  return out;
}

void ResultStore::remove(const Digest& key) {
  const std::lock_guard lock(mutex_);
  Statement q(db_, "DELETE FROM result WHERE key = ?");
  if (!q.s) return;
  q.text(1, key.hex());
  sqlite3_step(q.s);
}

} // namespace noonward
