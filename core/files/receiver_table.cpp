#include "core/files/receiver_table.h"
#include "core/base/json.h"
#include "core/base/words.h"
#include "core/files/csv.h"
#include "core/files/save_file.h"
#include "core/sun/earth.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

std::string plain(std::string s) {
  std::string out;
  for (const char c : s)
    if (c != ' ' && c != '_' && c != '-') out += char(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

enum class Column { Name, X, Y, Z, Longitude, Latitude, Azimuth, Nx, Ny, Nz, Group, Dwelling, Building, Subject };
constexpr std::pair<const char*, Column> columnNames[] = {{"receiver", Column::Name},
                                                          {"name", Column::Name},
                                                          {"sensor", Column::Name},
                                                          {"window", Column::Name},
                                                          {"x", Column::X},
                                                          {"xm", Column::X},
                                                          {"y", Column::Y},
                                                          {"ym", Column::Y},
                                                          {"z", Column::Z},
                                                          {"zm", Column::Z},
                                                          {"height", Column::Z},
                                                          {"heightm", Column::Z},
                                                          {"longitude", Column::Longitude},
                                                          {"lon", Column::Longitude},
                                                          {"latitude", Column::Latitude},
                                                          {"lat", Column::Latitude},
                                                          {"azimuth", Column::Azimuth},
                                                          {"azimuthdeg", Column::Azimuth},
                                                          {"nx", Column::Nx},
                                                          {"ny", Column::Ny},
                                                          {"nz", Column::Nz},
                                                          {"group", Column::Group},
                                                          {"dwelling", Column::Dwelling},
                                                          {"building", Column::Building},
                                                          {"plot", Column::Building},
                                                          {"subject", Column::Subject}};
std::optional<Column> columnOf(const std::string& head) {
  const std::string key = plain(head);
  for (const auto& [name, column] : columnNames)
    if (key == name) return column;
  return {};
}

/// Cells of one receiver, whatever the file.
using Cells = std::map<Column, std::string>;

class Placing {
public:
  explicit Placing(const Project& p)
      : p_(p), metres_(earth::metresPerRadian(std::clamp(p.site.place.latitude, -1.57, 1.57))) {}

  /// `decimalComma`: the table's columns are parted by something else. A message, or nothing where all is well.
  std::string take(const Cells& cells, bool decimalComma, ReceiverLine& out) const {
    const auto text = [&](Column c) {
      const auto at = cells.find(c);
      return at == cells.end() ? std::string() : at->second;
    };
    std::string fault;
    const auto number = [&](Column c) -> std::optional<double> {
      std::string t = text(c);
      if (t.empty()) return {};
      if (!decimalComma && t.find(',') != t.npos) t += "?"; // a comma is no decimal mark here
      const auto v = numberFromText(t);
      if (!v && fault.empty())
        for (const auto& [name, column] : columnNames)
          if (column == c) {
            fault = fmt::format("\"{}\" in the column {} is no number", text(c), name);
            break;
          }
      return v;
    };
    out.name = text(Column::Name);
    out.group = text(Column::Group);
    out.dwelling = text(Column::Dwelling);
    out.building = text(Column::Building);
    if (const std::string s = plain(text(Column::Subject)); !s.empty()) {
      if (s == "livingroom")
        out.subject = Subject::LivingRoom;
      else if (s == "openspace")
        out.subject = Subject::OpenSpace;
      else if (s == "none")
        out.subject = Subject::None;
      else
        return fmt::format("\"{}\" is no subject: living room, open space or none", text(Column::Subject));
    }
    const auto x = number(Column::X), y = number(Column::Y), z = number(Column::Z), east = number(Column::Longitude),
               north = number(Column::Latitude), azimuth = number(Column::Azimuth), nx = number(Column::Nx),
               ny = number(Column::Ny), nz = number(Column::Nz);
    if (!fault.empty()) return fault;
    if (!x && !y && !east && !north) return out.name.empty() ? "it has neither a place nor a name" : std::string();
    PointSensor s;
    s.name = out.name;
    if (x && y) {
      s.position = {*x, *y, z.value_or(p_.site.groundLevel)};
    } else if (east && north) {
      if (std::abs(*north) > 90 || std::abs(*east) > 360) return "its longitude and latitude are no degrees";
      const double e = wrapPi(radians(*east) - p_.site.place.longitude) * metres_.x,
                   n = (radians(*north) - p_.site.place.latitude) * metres_.y;
      const double c = std::cos(p_.site.northAngle), k = std::sin(p_.site.northAngle);
      s.position = {e * c - n * k, e * k + n * c,
                    z.value_or(p_.site.groundLevel + p_.site.origin.z) - p_.site.origin.z};
    } else {
      return "x and y, or longitude and latitude, belong together";
    }
    if (nx && ny && nz) {
      const Vec3 n{*nx, *ny, *nz};
      if (!(length(n) > 1e-6)) return "the direction nx, ny, nz has no length";
      s.normal = normalized(n);
    } else if (azimuth) {
      const double a = radians(*azimuth) - p_.site.northAngle;
      s.normal = {std::sin(a), std::cos(a), 0};
    }
    if (!finite(s.position) || length(s.position) > 5e4)
      return fmt::format("it stands {:.0f} km from the drawing's middle", length(s.position) / 1000);
    out.point = s;
    return {};
  }

private:
  const Project& p_;
  Vec2 metres_;
};

} // namespace

Expected<ReceiverTable> receiversFromCsv(const Project& p, std::string_view text, const std::string& file) {
  const auto table = parseCsv(text, file);
  if (!table) return tl::unexpected(table.error());
  if (table->rows.empty()) return fail("The table is empty.", file);
  std::vector<std::optional<Column>> columns;
  ReceiverTable out;
  std::string unknown;
  for (const std::string& head : table->rows[0].cells) {
    columns.push_back(columnOf(head));
    if (!columns.back() && !head.empty()) unknown += (unknown.empty() ? "" : ", ") + head;
  }
  if (std::none_of(columns.begin(), columns.end(), [](const auto& c) { return c.has_value(); }))
    return fail("Its first line names no column that is known: receiver, x, y, z, azimuth, group, dwelling, building, "
                "subject.",
                file);
  if (!unknown.empty()) out.notes.push_back("Columns that say nothing of receivers: " + unknown + ".");
  const Placing placing(p);
  for (std::size_t k = 1; k < table->rows.size(); ++k) {
    const CsvTable::Row& row = table->rows[k];
    Cells cells;
    for (std::size_t c = 0; c < std::min(columns.size(), row.cells.size()); ++c)
      if (columns[c] && !row.cells[c].empty()) cells[*columns[c]] = row.cells[c];
    ReceiverLine line;
    line.line = row.line;
    if (const std::string fault = placing.take(cells, table->separator != ',', line); !fault.empty())
      return fail(fmt::format("Line {}: {}.", row.line, fault), file);
    out.lines.push_back(std::move(line));
  }
  return out;
}

Expected<ReceiverTable> receiversFromGeoJson(const Project& p, std::string_view text, const std::string& file) {
  const auto parsed = parseJson(text, file);
  if (!parsed) return tl::unexpected(parsed.error());
  if (!parsed->is_object() || !parsed->contains("features") || !(*parsed)["features"].is_array())
    return fail("It is no GeoJSON with features.", file);
  ReceiverTable out;
  const Placing placing(p);
  std::size_t n = 0, others = 0;
  for (const Json& f : (*parsed)["features"]) {
    ++n;
    Cells cells;
    if (f.is_object() && f.contains("properties") && f["properties"].is_object())
      for (const auto& [key, value] : f["properties"].items())
        if (const auto column = columnOf(key))
          cells[*column] = value.is_string()   ? value.get<std::string>()
                           : value.is_number() ? fmt::format("{}", value.get<double>())
                                               : std::string();
    const Json none;
    const Json& geometry = f.is_object() && f.contains("geometry") ? f["geometry"] : none;
    if (geometry.is_object()) {
      if (geometry.value("type", "") != "Point") {
        ++others;
        continue;
      }
      const Json& at = geometry.contains("coordinates") ? geometry["coordinates"] : none;
      if (!at.is_array() || at.size() < 2 || !at[0].is_number() || !at[1].is_number())
        return fail(fmt::format("Feature {}: its point has no coordinates.", n), file);
      cells[Column::Longitude] = fmt::format("{}", at[0].get<double>());
      cells[Column::Latitude] = fmt::format("{}", at[1].get<double>());
      if (at.size() > 2 && at[2].is_number()) cells[Column::Z] = fmt::format("{}", at[2].get<double>());
    }
    ReceiverLine line;
    line.line = n;
    if (const std::string fault = placing.take(cells, false, line); !fault.empty())
      return fail(fmt::format("Feature {}: {}.", n, fault), file);
    out.lines.push_back(std::move(line));
  }
  if (others > 0)
    out.notes.push_back(counted(others, "feature is no point: left out.", "features are no points: left out."));
  return out;
}

Expected<ReceiverTable> readReceivers(const Project& p, const std::filesystem::path& file) {
  const auto text = loadFile(file);
  if (!text) return tl::unexpected(text.error());
  const std::string ending = file.extension().string();
  return ending == ".geojson" || ending == ".json" ? receiversFromGeoJson(p, *text, file.filename().string())
                                                   : receiversFromCsv(p, *text, file.filename().string());
}

} // namespace noonward
