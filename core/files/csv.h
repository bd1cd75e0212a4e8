#pragma once
// Tables of text, read in one place: RFC 4180 and its dialects. Separator comma, semicolon or tab, found in the first
// line; quotes with doubled quotes and line breaks within; any encoding that asUtf8() knows and any line ends. Empty
// lines are none. Writing is core/files/results/tables.h.

#include "core/base/error.h"
#include <string>
#include <string_view>
#include <vector>

namespace noonward {

struct CsvTable {
  struct Row {
    std::vector<std::string> cells;
    std::size_t line = 0; ///< of the text, from 1 on: where the row begins
  };
  std::vector<Row> rows;
  char separator = ',';
};
struct CsvDialect {
  char separator = 0; ///< 0: found by the first line
  bool quotes = true; ///< false: they are letters like others
  char comment = 0;   ///< lines that begin with it are none; 0: no such thing
};
/// Errors: a quote that is never closed, with its line.
Expected<CsvTable> parseCsv(std::string_view bytes, const std::string& file, const CsvDialect& dialect = {});

/// Columns of numbers with a head; a first column called hour, time, date, record or timestamp is none of them. Without
/// a head the columns are called "sensor 1", ….
struct NumberTable {
  std::vector<std::string> names;
  std::vector<std::vector<float>> columns; ///< NaN: an empty cell
};
/// Errors name row and column: another number of cells, what is no number, what is negative, no rows.
Expected<NumberTable> parseIlluminances(std::string_view bytes, const std::string& file);

} // namespace noonward
