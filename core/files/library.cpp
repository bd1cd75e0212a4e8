#include "core/files/library.h"
#include "core/base/units.h"
#include "core/files/csv.h"
#include <algorithm>
#include <cstdlib>

namespace noonward {

std::filesystem::path resourcesFolder(const std::filesystem::path& program) {
  std::vector<std::filesystem::path> tries;
  if (const char* named = std::getenv("NOONWARD_RESOURCES")) tries.emplace_back(named);
  std::error_code ignored;
  const std::filesystem::path real = std::filesystem::canonical(program, ignored);
  for (std::filesystem::path at = real.parent_path(); !at.empty() && at != at.root_path(); at = at.parent_path()) {
    tries.push_back(at / "resources");
    tries.push_back(at / "share/noonward/resources");
  }
  for (const auto& t : tries)
    if (std::filesystem::is_directory(t / "yardsticks", ignored)) return t;
  return {};
}

YardstickShelf readYardsticks(const std::vector<std::filesystem::path>& folders) {
  YardstickShelf shelf;
  for (const auto& folder : folders) {
    std::error_code error;
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(folder, error))
      if (entry.path().extension() == ".json") files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    for (const auto& f : files) {
      const auto text = loadFile(f, 4u << 20);
      auto y = text ? readYardstick(asUtf8(*text), f.string()) : Expected<Yardstick>(tl::unexpected(text.error()));
      if (!y) {
        shelf.faults.push_back(y.error());
        continue;
      }
      std::erase_if(shelf.yardsticks, [&](const Yardstick& old) { return old.key == y->key; });
      shelf.yardsticks.push_back(std::move(*y));
    }
  }
  return shelf;
}

Expected<std::vector<City>> readCities(const std::filesystem::path& file) {
  const auto text = loadFile(file, 64u << 20);
  if (!text) return tl::unexpected(text.error());
  std::vector<City> out;
  out.reserve(27000);
  const auto table = parseCsv(*text, file.string(), {'\t', false, '#'});
  if (!table) return tl::unexpected(table.error());
  for (const CsvTable::Row& row : table->rows) {
    const auto& f = row.cells;
    if (f.size() < 8) continue;
    const auto la = numberFromText(f[3]), lo = numberFromText(f[4]);
    if (!la || !lo) continue;
    out.push_back({f[0], f[1].empty() ? f[0] : f[1], f[2], f[6], *la, *lo, numberFromText(f[5]).value_or(0),
                   int(numberFromText(f[7]).value_or(0))});
  }
  return out;
}

std::vector<const City*> searchCities(const std::vector<City>& cities, std::string_view words, std::size_t most) {
  const auto lower = [](std::string_view s) {
    std::string out(s);
    for (char& c : out)
      if (c >= 'A' && c <= 'Z') c = char(c + 32);
    return out;
  };
  const std::string wanted = lower(words);
  std::vector<const City*> begins, holds;
  for (const City& c : cities) {
    const std::string a = lower(c.ascii), n = lower(c.name);
    if (a.starts_with(wanted) || n.starts_with(wanted))
      begins.push_back(&c);
    else if (a.find(wanted) != a.npos || n.find(wanted) != n.npos)
      holds.push_back(&c);
    if (begins.size() >= most) break; // the list is sorted by size
  }
  begins.insert(begins.end(), holds.begin(), holds.end());
  if (begins.size() > most) begins.resize(most);
  return begins;
}

} // namespace noonward
