#include "core/files/station/workbook_rows.h"
#include "core/files/zip_file.h"
#include <algorithm>
#include <cstring>
#include <fmt/format.h>
#include <pugixml.hpp>

namespace noonward {

namespace {
constexpr std::size_t mostSheet = std::size_t(256) << 20;

Expected<pugi::xml_document> part(const ZipFile& zip, const std::string& name, const std::string& file) {
  auto text = zip.read(name, mostSheet);
  if (!text) return tl::unexpected(text.error());
  pugi::xml_document xml;
  if (const auto r = xml.load_buffer(text->data(), text->size()); !r)
    return fail(fmt::format("\"{}\" is damaged: {}.", name, r.description()), file);
  return xml;
}

/// Text of a shared or inline string: its runs one after the other.
std::string textOf(const pugi::xml_node& node) {
  std::string out = node.child("t").text().get();
  for (const pugi::xml_node& run : node.children("r")) out += run.child("t").text().get();
  return out;
}

/// "BC7" → 54.
std::size_t columnOf(const char* reference) {
  std::size_t n = 0;
  for (; *reference >= 'A' && *reference <= 'Z'; ++reference) n = 26 * n + std::size_t(*reference - 'A' + 1);
  return n > 0 ? n - 1 : 0;
}
} // namespace

Expected<std::vector<std::vector<std::string>>> workbookRows(const std::filesystem::path& path) {
  const std::string file = path.filename().string();
  const auto zip = ZipFile::open(path);
  if (!zip) return tl::unexpected(zip.error());
  const std::vector<std::string> names = zip->names();
  std::string sheet; // the first by its number
  for (const std::string& n : names)
    if (n.starts_with("xl/worksheets/") && n.ends_with(".xml") &&
        (sheet.empty() || n.size() < sheet.size() || (n.size() == sheet.size() && n < sheet)))
      sheet = n;
  if (sheet.empty()) return fail("This is no workbook: it holds no sheet.", file);
  if (std::find(names.begin(), names.end(), "xl/workbook.xml") != names.end()) {
    const auto book = part(*zip, "xl/workbook.xml", file);
    if (!book) return tl::unexpected(book.error());
    if (book->child("workbook").child("workbookPr").attribute("date1904").as_bool())
      return fail("This workbook counts its days from 1904 on, four years beside others: save it as CSV.", file);
  }
  std::vector<std::string> shared;
  if (std::find(names.begin(), names.end(), "xl/sharedStrings.xml") != names.end()) {
    const auto xml = part(*zip, "xl/sharedStrings.xml", file);
    if (!xml) return tl::unexpected(xml.error());
    for (const pugi::xml_node& s : xml->child("sst").children("si")) shared.push_back(textOf(s));
  }
  const auto xml = part(*zip, sheet, file);
  if (!xml) return tl::unexpected(xml.error());
  std::vector<std::vector<std::string>> out;
  for (const pugi::xml_node& row : xml->child("worksheet").child("sheetData").children("row")) {
    const auto at =
        std::size_t(std::clamp(row.attribute("r").as_llong(static_cast<long long>(out.size()) + 1), 1LL, 1048576LL)) -
        1;
    if (at >= out.size()) out.resize(at + 1);
    std::vector<std::string>& cells = out[at];
    for (const pugi::xml_node& c : row.children("c")) {
      const char* reference = c.attribute("r").value();
      const std::size_t k = *reference != '\0' ? columnOf(reference) : cells.size();
      if (k > 16384) continue;
      if (k >= cells.size()) cells.resize(k + 1);
      const char* type = c.attribute("t").value();
      const char* value = c.child("v").text().get();
      if (std::strcmp(type, "s") == 0) {
        const auto which = std::size_t(std::max(0LL, c.child("v").text().as_llong()));
        if (which < shared.size()) cells[k] = shared[which];
      } else if (std::strcmp(type, "inlineStr") == 0) {
        cells[k] = textOf(c.child("is"));
      } else if (std::strcmp(type, "e") != 0) {
        cells[k] = value;
      }
    }
  }
  std::size_t widest = 0;
  for (const auto& row : out) widest = std::max(widest, row.size());
  for (auto& row : out) row.resize(widest);
  return out;
}

} // namespace noonward
