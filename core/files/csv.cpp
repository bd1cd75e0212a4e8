#include "core/files/csv.h"
#include "core/base/units.h"
#include "core/base/utf8.h"
#include <algorithm>
#include <cctype>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
/// The first of ; tab , that stands outside quotes in the first line with any: a comma may be a decimal mark.
char separatorOf(std::string_view text) {
  bool quoted = false, comma = false, tab = false;
  for (char c : text) {
    if (c == '"') quoted = !quoted;
    if (quoted) continue;
    if (c == ';') return ';';
    comma |= c == ',';
    tab |= c == '\t';
    if (c == '\n' && (comma || tab)) break;
  }
  return tab ? '\t' : ',';
}
} // namespace

Expected<CsvTable> parseCsv(std::string_view bytes, const std::string& file, const CsvDialect& dialect) {
  const std::string text = asUtf8(bytes);
  CsvTable out;
  out.separator = dialect.separator ? dialect.separator : separatorOf(text);
  CsvTable::Row row;
  std::string cell;
  std::size_t line = 1, quoteLine = 0;
  bool quoted = false, begun = false;
  const auto endCell = [&] { row.cells.push_back(std::exchange(cell, {})); };
  const auto endRow = [&] {
    endCell();
    const bool blank = row.cells.size() == 1 && row.cells[0].find_first_not_of(" \t") == std::string::npos;
    if (!blank) out.rows.push_back(std::exchange(row, {}));
    row = {};
    begun = false;
  };
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (!begun) {
      if (dialect.comment && c == dialect.comment) { // to the end of the line
        i = std::min(text.find('\n', i), text.size());
        ++line;
        continue;
      }
      begun = true;
      row.line = line;
    }
    if (c == '"' && dialect.quotes) {
      if (quoted && i + 1 < text.size() && text[i + 1] == '"')
        cell += text[++i];
      else {
        quoted = !quoted;
        quoteLine = line;
      }
    } else if (c == out.separator && !quoted) {
      endCell();
    } else if (c == '\n') {
      ++line;
      if (quoted)
        cell += c;
      else
        endRow();
    } else {
      cell += c;
    }
  }
  if (quoted) return fail("A quote is never closed.", fmt::format("{}: line {}", file, quoteLine));
  if (begun) endRow();
  return out;
}

Expected<NumberTable> parseIlluminances(std::string_view bytes, const std::string& file) {
  const auto table = parseCsv(bytes, file);
  if (!table) return tl::unexpected(table.error());
  NumberTable out;
  std::size_t skip = 0;
  for (const CsvTable::Row& row : table->rows) {
    const std::vector<std::string>& c = row.cells;
    if (out.names.empty()) {
      const bool head =
          std::any_of(c.begin(), c.end(), [](const std::string& t) { return !t.empty() && !numberFromText(t); });
      if (head) {
        std::string first = c[0];
        for (char& ch : first) ch = char(std::tolower(static_cast<unsigned char>(ch)));
        for (const char* word : {"hour", "time", "date", "record", "timestamp"}) skip |= first == word;
        out.names.assign(c.begin() + std::ptrdiff_t(skip), c.end());
      } else {
        for (std::size_t k = 0; k < c.size(); ++k) out.names.push_back(fmt::format("sensor {}", k + 1));
      }
      out.columns.resize(out.names.size());
      if (head) continue;
    }
    if (c.size() != out.names.size() + skip)
      return fail(fmt::format("Row {} has {} fields, {} expected.", row.line, c.size(), out.names.size() + skip), file);
    for (std::size_t k = 0; k < out.columns.size(); ++k) {
      const std::string& t = c[k + skip];
      const auto v = numberFromText(t);
      if (!t.empty() && !v)
        return fail(fmt::format("Row {}, \"{}\": \"{}\" is no number.", row.line, out.names[k], t), file);
      if (v && *v < 0)
        return fail(fmt::format("Row {}, \"{}\": an illuminance of {} lx.", row.line, out.names[k], t), file);
      out.columns[k].push_back(v ? float(*v) : std::nanf(""));
    }
  }
  if (out.columns.empty() || out.columns[0].empty()) return fail("The file holds no hours.", file);
  return out;
}

} // namespace noonward
