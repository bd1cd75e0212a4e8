#include "core/files/results/sqlite.h"
#include <cctype>
#include <sqlite3.h>

namespace noonward {

namespace {
constexpr int patience = 10'000; // ms, that a lock of another program is waited for

[[noreturn]] void complain(sqlite3* db, int code) {
  throw SqliteFault(code & 0xff, db ? sqlite3_errmsg(db) : sqlite3_errstr(code));
}
} // namespace

SqliteFault::SqliteFault(int c, const std::string& text) : std::runtime_error(text), code(c) {}
bool SqliteFault::isLock() const {
  return code == SQLITE_BUSY || code == SQLITE_LOCKED;
}

bool SqliteFault::isDamage() const {
  return code == SQLITE_NOTADB || code == SQLITE_CORRUPT;
}

Sqlite::Sqlite(const std::filesystem::path& path, Mode mode) {
  std::string name = path.empty() ? ":memory:" : path.string();
  if (mode == Mode::Untouched) {
    name = "file:";
    for (unsigned char c : std::filesystem::absolute(path).string()) {
      constexpr const char* hex = "0123456789abcdef";
      if (std::isalnum(c) || c == '/' || c == '-' || c == '_' || c == '.')
        name += char(c);
      else
        name += {'%', hex[c >> 4], hex[c & 15]};
    }
    name += "?immutable=1";
  }
  const int flags = path.empty()              ? SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE | SQLITE_OPEN_MEMORY
                    : mode != Mode::ReadWrite ? SQLITE_OPEN_READONLY | SQLITE_OPEN_URI
                                              : SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE;
  if (const int code = sqlite3_open_v2(name.c_str(), &db_, flags, nullptr); code != SQLITE_OK) {
    const SqliteFault fault(code & 0xff, db_ ? sqlite3_errmsg(db_) : sqlite3_errstr(code));
    sqlite3_close(db_);
    throw fault;
  }
  sqlite3_busy_timeout(db_, patience);
}

Sqlite::~Sqlite() {
  sqlite3_close(db_);
}

void Sqlite::run(const std::string& sql) {
  if (const int code = sqlite3_exec(db_, sql.c_str(), nullptr, nullptr, nullptr); code != SQLITE_OK)
    complain(db_, code);
}

Sqlite::Statement::Statement(Sqlite& db, const char* sql) : db_(db.db_) {
  if (const int code = sqlite3_prepare_v2(db_, sql, -1, &s_, nullptr); code != SQLITE_OK) complain(db_, code);
}
Sqlite::Statement::~Statement() {
  sqlite3_finalize(s_);
}

Sqlite::Statement& Sqlite::Statement::bind(std::string_view t) {
  if (const int code =
          sqlite3_bind_text64(s_, ++bound_, t.data() ? t.data() : "", t.size(), SQLITE_TRANSIENT, SQLITE_UTF8);
      code != SQLITE_OK)
    complain(db_, code);
  return *this;
}
Sqlite::Statement& Sqlite::Statement::bind(double v) {
  if (const int code = sqlite3_bind_double(s_, ++bound_, v); code != SQLITE_OK) complain(db_, code);
  return *this;
}
Sqlite::Statement& Sqlite::Statement::bind(std::int64_t v) {
  if (const int code = sqlite3_bind_int64(s_, ++bound_, v); code != SQLITE_OK) complain(db_, code);
  return *this;
}
Sqlite::Statement& Sqlite::Statement::bindBytes(std::string_view b) {
  if (const int code = sqlite3_bind_blob64(s_, ++bound_, b.data(), b.size(), SQLITE_TRANSIENT); code != SQLITE_OK)
    complain(db_, code);
  return *this;
}

bool Sqlite::Statement::next() {
  const int code = sqlite3_step(s_);
  if (code != SQLITE_ROW && code != SQLITE_DONE) complain(db_, code);
  return code == SQLITE_ROW;
}
std::string Sqlite::Statement::text(int column) const {
  const auto* t = static_cast<const char*>(sqlite3_column_blob(s_, column));
  return t ? std::string(t, std::size_t(sqlite3_column_bytes(s_, column))) : std::string();
}
double Sqlite::Statement::number(int column) const {
  return sqlite3_column_double(s_, column);
}
std::int64_t Sqlite::Statement::integer(int column) const {
  return sqlite3_column_int64(s_, column);
}

void Sqlite::Transaction::commit() {
  db_.run("COMMIT");
  committed_ = true;
}
Sqlite::Transaction::~Transaction() {
  if (!committed_)
    sqlite3_exec(db_.db_, "ROLLBACK", nullptr, nullptr, nullptr); // some faults have rolled back by themselves
}

} // namespace noonward
