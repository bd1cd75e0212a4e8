#pragma once
// SQLite, wrapped once: every return code is looked at, every transaction rolls back unless it was committed. Faults
// are thrown within the store and become messages at its border. Other programs may use the same file: a lock is waited
// for.

#include <cstdint>
#include <filesystem>
#include <memory>
#include <stdexcept>
#include <string>
#include <string_view>

struct sqlite3;
struct sqlite3_stmt;

namespace noonward {

struct SqliteFault : std::runtime_error {
  SqliteFault(int code, const std::string& text);
  int code;              ///< SQLite's primary result code
  bool isDamage() const; ///< the file is no database, or a broken one: nothing else is a reason to put it aside
  bool isLock() const;   ///< another program is at it: later it may go
};

class Sqlite {
public:
  /// Untouched: read as it lies, without locks and without what other programs write meanwhile.
  enum class Mode { ReadWrite, ReadOnly, Untouched };
  /// An empty path: in memory. Throws SqliteFault.
  explicit Sqlite(const std::filesystem::path& path, Mode mode = Mode::ReadWrite);
  ~Sqlite();
  Sqlite(const Sqlite&) = delete;
  Sqlite& operator=(const Sqlite&) = delete;
  void run(const std::string& sql); ///< one or several statements without parameters

  class Statement {
  public:
    Statement(Sqlite& db, const char* sql);
    ~Statement();
    Statement(const Statement&) = delete;
    Statement& operator=(const Statement&) = delete;
    Statement& bind(std::string_view text); ///< parameters in their order
    Statement& bind(double v);
    Statement& bind(std::int64_t v);
    Statement& bindBytes(std::string_view bytes);
    bool next(); ///< a row is there
    void done() {
      while (next()) {
      }
    }
    std::string text(int column) const; ///< bytes too
    double number(int column) const;
    std::int64_t integer(int column) const;

  private:
    sqlite3* db_;
    sqlite3_stmt* s_ = nullptr;
    int bound_ = 0;
  };

  /// Begins at once for writing; undone at the end unless committed.
  class Transaction {
  public:
    explicit Transaction(Sqlite& db) : db_(db) { db_.run("BEGIN IMMEDIATE"); }
    ~Transaction();
    void commit();

  private:
    Sqlite& db_;
    bool committed_ = false;
  };

private:
  sqlite3* db_ = nullptr;
};

} // namespace noonward
