#include "core/files/station/table_stream.h"
#include "core/base/utf8.h"
#include "core/files/save_file.h"
#include "core/files/station/workbook_rows.h"
#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <fstream>
#include <map>

namespace noonward {

namespace {
std::string_view trimmedCell(std::string_view s) {
  while (!s.empty() && (s.front() == ' ' || s.front() == '\t')) s.remove_prefix(1);
  while (!s.empty() && (s.back() == ' ' || s.back() == '\t' || s.back() == '\r')) s.remove_suffix(1);
  if (s.size() >= 2 && s.front() == '"' && s.back() == '"') s = s.substr(1, s.size() - 2);
  return s;
}

void cut(std::string_view line, char separator, std::vector<std::string_view>& cells) {
  cells.clear();
  if (line.find('"') == std::string_view::npos) {
    while (true) {
      const auto at = line.find(separator);
      cells.push_back(trimmedCell(line.substr(0, at)));
      if (at == std::string_view::npos) return;
      line.remove_prefix(at + 1);
    }
  }
  std::size_t from = 0;
  bool quoted = false;
  for (std::size_t i = 0; i <= line.size(); ++i) {
    if (i < line.size() && line[i] == '"') quoted = !quoted;
    if (i < line.size() && (line[i] != separator || quoted)) continue;
    cells.push_back(trimmedCell(line.substr(from, i - from)));
    from = i + 1;
  }
}

bool hasDigit(std::string_view s) {
  return std::any_of(s.begin(), s.end(), [](char c) { return c >= '0' && c <= '9'; });
}
bool looksLikeStamp(std::string_view s) {
  return hasDigit(s) && s.size() >= 6 && s.find_first_of("-/.:") != std::string_view::npos;
}
/// Does a row hold values: something with digits, and nothing but numbers, stamps and gaps in most of it?
bool holdsValues(const std::vector<std::string_view>& cells, bool decimalComma) {
  std::size_t good = 0, digits = 0;
  for (const std::string_view c : cells) {
    good += cellNumber(c, decimalComma).has_value() || looksLikeStamp(c);
    digits += hasDigit(c) && (cellNumber(c, decimalComma).has_value() || looksLikeStamp(c));
  }
  return digits > 0 && 2 * good > cells.size();
}
} // namespace

std::optional<double> cellNumber(std::string_view cell, bool decimalComma) {
  while (!cell.empty() && cell.front() == ' ') cell.remove_prefix(1);
  if (cell.empty()) return std::nan("");
  std::array<char, 48> small{};
  if (cell.size() >= small.size()) return {};
  const char* from = cell.data();
  const char* to = from + cell.size();
  if (decimalComma && cell.find(',') != std::string_view::npos) {
    if (cell.find('.') != std::string_view::npos) return {}; // thousands are not written in tables of values
    std::memcpy(small.data(), cell.data(), cell.size());
    *std::find(small.begin(), small.end(), ',') = '.';
    from = small.data();
    to = from + cell.size();
  }
  if (from != to && *from == '+') ++from;
  double v = 0;
  const auto [end, ec] = std::from_chars(from, to, v);
  if (ec == std::errc{} && end == to) {
    if (!std::isfinite(v)) return std::nan("");
    if (v <= -999 && (v == -999 || v == -9999 || v == -99999 || v == -999.9 || v == -9999.9)) return std::nan("");
    return v;
  }
  std::string word;
  for (char c : cell) word += char(c >= 'A' && c <= 'Z' ? c + 32 : c);
  for (const char* none : {"nan", "na", "n/a", "null", "none", "-", "--", "---", "#n/a", "inf", "-inf"})
    if (word == none) return std::nan("");
  return {};
}

std::string TableFacts::text() const {
  const char* between = separator == ';'    ? "semicolons"
                        : separator == '\t' ? "tabs"
                        : separator == '|'  ? "bars"
                                            : "commas";
  return fmt::format("{} between columns, decimal {}, {}", between, decimalComma ? "commas" : "points", encoding);
}

namespace {

/// Finds how the rows are written, from the first of them.
Expected<TableFacts> factsOf(const std::vector<std::string_view>& lines, const TableHints& hints,
                             const std::string& file) {
  TableFacts out;
  std::vector<std::string_view> cells;
  struct Try {
    char separator;
    bool comma;
    std::size_t first = 0, rows = 0, columns = 0;
  };
  std::optional<Try> best;
  for (const char separator : {';', '\t', ',', '|'}) {
    if (hints.separator != 0 && hints.separator != separator) continue;
    for (const bool comma : {false, true}) {
      if (comma && separator == ',') continue;
      if (hints.decimal != 0 && comma != (hints.decimal == ',')) continue;
      std::map<std::size_t, std::size_t> counts; // columns of rows of values
      for (const std::string_view line : lines) {
        cut(line, separator, cells);
        if (cells.size() > 1 && holdsValues(cells, comma)) ++counts[cells.size()];
      }
      Try t{separator, comma};
      for (const auto& [columns, rows] : counts)
        if (rows > t.rows) t.rows = rows, t.columns = columns;
      if (t.rows > 0 && (!best || t.rows > best->rows || (t.rows == best->rows && t.columns > best->columns))) best = t;
    }
  }
  if (!best || best->rows < std::min<std::size_t>(3, lines.size()))
    return fail("No table of values is in this file: rows with the same number of columns, a time and numbers in them.",
                file);
  out.separator = best->separator;
  out.decimalComma = best->comma;
  if (!best->comma && best->separator != ',') { // whole numbers alone tell nothing; a comma in any of them does
    for (const std::string_view line : lines) {
      cut(line, out.separator, cells);
      for (const std::string_view c : cells)
        if (const auto v = cellNumber(c, true);
            v && std::isfinite(*v) && c.find(',') != std::string_view::npos && hints.decimal == 0)
          out.decimalComma = true;
    }
  }
  std::size_t first = 0;
  for (; first < lines.size(); ++first) {
    cut(lines[first], out.separator, cells);
    if (cells.size() == best->columns && holdsValues(cells, out.decimalComma)) break;
  }
  const auto row = [&](std::size_t k) {
    cut(lines[k], out.separator, cells);
    std::vector<std::string> text;
    for (const std::string_view c : cells) text.push_back(nameAsUtf8(std::string(c)));
    return text;
  };
  std::size_t head = first;
  while (head > 0) { // rows of words just above, as wide as the table
    cut(lines[head - 1], out.separator, cells);
    const bool wide = cells.size() == best->columns || cells.size() + 1 == best->columns;
    const auto words = std::count_if(cells.begin(), cells.end(), [](std::string_view c) { return !c.empty(); });
    if (!wide || words == 0 || head + 3 == first) break;
    --head;
  }
  if (head < first) out.names = row(head);
  if (head + 1 < first) out.units = row(head + 1);
  out.names.resize(best->columns);
  for (std::size_t k = 0; k < out.names.size(); ++k)
    if (out.names[k].empty()) out.names[k] = fmt::format("column {}", k + 1);
  out.units.resize(best->columns);
  out.firstRow = first + 1;
  for (std::size_t k = first; k < lines.size() && out.sample.size() < 200; ++k) {
    if (lines[k].find_first_not_of(" \t\r,;") == std::string_view::npos) continue;
    out.sample.push_back(row(k));
    out.sampleLines.push_back(k + 1);
  }
  return out;
}

std::vector<std::string_view> linesOf(std::string_view text, std::size_t most) {
  std::vector<std::string_view> out;
  while (!text.empty() && out.size() < most) {
    const auto at = text.find('\n');
    std::string_view line = text.substr(0, at);
    if (!line.empty() && line.back() == '\r') line.remove_suffix(1);
    out.push_back(line);
    if (at == std::string_view::npos) break;
    text.remove_prefix(at + 1);
  }
  return out;
}

/// Lines from text held, or from a file a piece at a time.
class LineTable : public TableStream {
public:
  static Expected<std::unique_ptr<TableStream>> open(const std::filesystem::path& path, const TableHints& hints) {
    auto out = std::make_unique<LineTable>();
    const std::string file = path.filename().string();
    out->in_.open(path, std::ios::binary);
    if (!out->in_) return fail("The file can't be opened for reading.", path.string());
    std::error_code ignored;
    out->size_ = double(std::filesystem::file_size(path, ignored));
    out->buffer_.resize(std::size_t(1) << 20);
    out->more();
    std::string_view have = out->held();
    std::string encoding = "UTF-8";
    if (have.starts_with("\xFF\xFE") || have.starts_with("\xFE\xFF")) {
      auto whole = loadFile(path, std::size_t(256) << 20);
      if (!whole) return tl::unexpected(whole.error());
      out->whole_ = asUtf8(*whole);
      out->in_.close();
      out->inWhole_ = true;
      have = out->whole_;
      encoding = "UTF-16";
    } else if (have.starts_with("\xEF\xBB\xBF")) {
      out->at_ = 3;
      have.remove_prefix(3);
    }
    auto lines = linesOf(have.substr(0, std::min<std::size_t>(have.size(), 200000)), 400);
    if (lines.size() > 1 && have.size() > 200000) lines.pop_back(); // cut short
    if (std::any_of(lines.begin(), lines.end(),
                    [](std::string_view l) { return l.find('\0') != std::string_view::npos; }))
      return fail("This is no table of text: it holds bytes that no text has.", file);
    auto facts = factsOf(lines, hints, file);
    if (!facts) return tl::unexpected(facts.error());
    facts->encoding = encoding == "UTF-16"                                 ? encoding
                      : std::all_of(lines.begin(), lines.end(), validUtf8) ? "UTF-8"
                                                                           : "Latin-1";
    out->facts_ = std::move(*facts);
    std::string_view line;
    for (std::size_t k = 1; k < out->facts_.firstRow; ++k) (void)out->line(line);
    return out;
  }

  bool next(Row& row) override {
    std::string_view text;
    while (line(text))
      if (text.find_first_not_of(" \t\r,;|") != std::string_view::npos) {
        cut(text, facts_.separator, row.cells);
        row.line = line_;
        return true;
      }
    return false;
  }
  double share() const override { return size_ > 0 ? std::min(1.0, (inWhole_ ? double(at_) : read_) / size_) : 1; }

private:
  std::string_view held() const {
    return inWhole_ ? std::string_view(whole_).substr(at_) : std::string_view(buffer_).substr(at_, end_ - at_);
  }
  /// Moves what is left to the front and reads on; false where nothing more came.
  bool more() {
    if (inWhole_ || !in_.is_open()) return false;
    std::memmove(buffer_.data(), buffer_.data() + at_, end_ - at_);
    end_ -= at_;
    at_ = 0;
    if (end_ == buffer_.size()) {
      if (buffer_.size() > (std::size_t(64) << 20)) return false; // a line of 64 MB is none
      buffer_.resize(2 * buffer_.size());
    }
    in_.read(buffer_.data() + end_, std::streamsize(buffer_.size() - end_));
    const auto got = std::size_t(in_.gcount());
    end_ += got;
    read_ += double(got);
    return got > 0;
  }
  bool line(std::string_view& out) {
    while (true) {
      const std::string_view have = held();
      const auto at = have.find('\n');
      if (at == std::string_view::npos && more()) continue;
      if (at == std::string_view::npos && have.empty()) return false;
      out = held().substr(0, at);
      at_ += std::min(out.size() + 1, held().size());
      if (!out.empty() && out.back() == '\r') out.remove_suffix(1);
      ++line_;
      return true;
    }
  }
  std::ifstream in_;
  std::string buffer_, whole_;
  bool inWhole_ = false;
  std::size_t at_ = 0, end_ = 0, line_ = 0;
  double size_ = 0, read_ = 0;
};

class SheetTable : public TableStream {
public:
  static Expected<std::unique_ptr<TableStream>> open(const std::filesystem::path& path, const TableHints& hints) {
    auto rows = workbookRows(path);
    if (!rows) return tl::unexpected(rows.error());
    auto out = std::make_unique<SheetTable>();
    out->rows_ = std::move(*rows);
    std::vector<std::string> joined; // the head is found as in text, with a mark that no cell holds
    for (std::size_t k = 0; k < out->rows_.size() && k < 400; ++k) {
      std::string line;
      for (std::size_t c = 0; c < out->rows_[k].size(); ++c) {
        std::string cell = out->rows_[k][c];
        std::replace(cell.begin(), cell.end(), '|', '/');
        line += (c > 0 ? "|" : "") + cell;
      }
      joined.push_back(std::move(line));
    }
    auto facts =
        factsOf({joined.begin(), joined.end()}, {'|', hints.decimal == ',' ? ',' : '.'}, path.filename().string());
    if (!facts) return tl::unexpected(facts.error());
    facts->encoding = "workbook";
    out->facts_ = std::move(*facts);
    out->at_ = out->facts_.firstRow - 1;
    return out;
  }
  bool next(Row& row) override {
    while (at_ < rows_.size()) {
      const auto& cells = rows_[at_++];
      if (std::all_of(cells.begin(), cells.end(), [](const std::string& c) { return c.empty(); })) continue;
      row.cells.assign(cells.begin(), cells.end());
      row.line = at_;
      return true;
    }
    return false;
  }
  double share() const override { return rows_.empty() ? 1 : double(at_) / double(rows_.size()); }

private:
  std::vector<std::vector<std::string>> rows_;
  std::size_t at_ = 0;
};

} // namespace

Expected<std::unique_ptr<TableStream>> TableStream::open(const std::filesystem::path& path, const TableHints& hints) {
  std::ifstream in(path, std::ios::binary);
  std::array<char, 4> start{};
  in.read(start.data(), 4);
  if (in.gcount() == 4 && start == std::array<char, 4>{'P', 'K', 3, 4}) return SheetTable::open(path, hints);
  return LineTable::open(path, hints);
}

} // namespace noonward
