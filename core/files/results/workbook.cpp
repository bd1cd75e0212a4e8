#include "core/files/results/workbook.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <xlsxwriter.h>

namespace noonward {

Outcome writeWorkbook(const std::filesystem::path& path, const std::vector<WorkSheet>& sheets,
                      const std::string& title) {
  const std::filesystem::path beside = path.string() + ".part";
  lxw_workbook* book = workbook_new(beside.c_str());
  if (!book) return fail("The spreadsheet can't be begun.", path.string());
  lxw_doc_properties properties{};
  std::string named = title, by = "Noonward " NOONWARD_VERSION;
  properties.title = named.data();
  properties.comments = by.data();
  properties.created = 946684800; // fixed, so that the same numbers give the same file
  workbook_set_properties(book, &properties);
  lxw_format* bold = workbook_add_format(book);
  format_set_bold(bold);
  format_set_text_wrap(bold);
  for (const WorkSheet& s : sheets) {
    lxw_worksheet* sheet = workbook_add_worksheet(book, s.name.substr(0, 31).c_str());
    if (!sheet) continue;
    std::vector<std::size_t> widths(s.head.size(), 8);
    for (std::size_t c = 0; c < s.head.size(); ++c) {
      worksheet_write_string(sheet, 0, lxw_col_t(c), s.head[c].c_str(), bold);
      widths[c] = std::max(widths[c], std::min<std::size_t>(s.head[c].size() + 2, 24));
    }
    for (std::size_t r = 0; r < s.rows.size(); ++r)
      for (std::size_t c = 0; c < s.rows[r].size(); ++c) {
        if (const double* v = std::get_if<double>(&s.rows[r][c])) {
          if (std::isfinite(*v)) worksheet_write_number(sheet, lxw_row_t(r + 1), lxw_col_t(c), *v, nullptr);
          continue;
        }
        const std::string& text = std::get<std::string>(s.rows[r][c]);
        worksheet_write_string(sheet, lxw_row_t(r + 1), lxw_col_t(c), text.c_str(), nullptr);
        if (c < widths.size()) widths[c] = std::max(widths[c], std::min<std::size_t>(text.size() + 2, 60));
      }
    for (std::size_t c = 0; c < widths.size(); ++c)
      worksheet_set_column(sheet, lxw_col_t(c), lxw_col_t(c), double(widths[c]), nullptr);
    worksheet_freeze_panes(sheet, 1, 0);
  }
  const lxw_error error = workbook_close(book);
  std::error_code code;
  if (error != LXW_NO_ERROR) {
    std::filesystem::remove(beside, code);
    return fail(fmt::format("The spreadsheet can't be written: {}.", lxw_strerror(error)), path.string());
  }
  std::filesystem::rename(beside, path, code);
  if (code) return fail(fmt::format("The spreadsheet can't be put in place: {}.", code.message()), path.string());
  return {};
}

} // namespace noonward
