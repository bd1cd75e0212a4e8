#pragma once
// Tables of stations and loggers, row by row, however long: comma, semicolon, tab or bar between columns, points or
// commas in numbers, lines of talk before the head, a row of units below it. How the file is written is found from its
// first rows and told. The memory a table takes does not grow with its rows; a sheet of a workbook (XLSX) is held
// whole, up to 256 MB of it.

#include "core/base/error.h"
#include <filesystem>
#include <memory>
#include <string_view>
#include <vector>

namespace noonward {

struct TableHints {
  char separator = 0; ///< 0: found
  char decimal = 0;   ///< '.' or ','; 0: found
};

struct TableFacts {
  char separator = ',';
  bool decimalComma = false;
  std::string encoding = "UTF-8";               ///< "UTF-8", "UTF-16", "Latin-1"
  std::vector<std::string> names, units;        ///< of the columns, UTF-8; units as the file has them, may be empty
  std::size_t firstRow = 1;                     ///< line of the first row of values
  std::vector<std::vector<std::string>> sample; ///< first rows of values, at most 200
  std::vector<std::size_t> sampleLines;
  std::string text() const; ///< "semicolons, decimal commas, Latin-1"
};

class TableStream {
public:
  struct Row {
    std::vector<std::string_view> cells; ///< valid until the next row is asked for
    std::size_t line = 0;
  };
  virtual ~TableStream() = default;
  /// Errors: no such file, no table in it (no three rows with the same number of columns and numbers in them).
  static Expected<std::unique_ptr<TableStream>> open(const std::filesystem::path& path, const TableHints& hints = {});
  const TableFacts& facts() const { return facts_; }
  virtual bool next(Row& row) = 0;  ///< false at the end
  virtual double share() const = 0; ///< of the file read, 0…1

protected:
  TableFacts facts_;
};

/// A number of such a table. Nothing where it is none; NaN where the cell says that nothing was measured: empty, NaN,
/// NA, null, a dash, or a row of nines with a minus (−999, −9999).
std::optional<double> cellNumber(std::string_view cell, bool decimalComma);

} // namespace noonward
