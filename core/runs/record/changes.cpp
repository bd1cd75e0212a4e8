#include "core/runs/record/changes.h"
#include "core/files/project/design_json.h"
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

std::string text(const Json& from, const char* key) {
  return from.is_object() && from.contains(key) && from[key].is_string() ? from[key].get<std::string>() : "";
}
const Json& list(const Json& from, const char* key) {
  static const Json none = Json::array();
  return from.is_object() && from.contains(key) && from[key].is_array() ? from[key] : none;
}
/// Entries by id.
std::map<std::string, const Json*> byId(const Json& entries) {
  std::map<std::string, const Json*> out;
  for (const Json& x : entries) out[text(x, "id")] = &x;
  return out;
}

struct Figure {
  const char* key;
  const char* told;
  const char* error; ///< key of its standard error; null: exact
  const char* unit;  ///< null: the study's
};
constexpr Figure ofSpaces[] = {{"sda_percent", "sDA", "sda_standard_error", "%"},
                               {"ase_percent", "ASE", nullptr, "%"},
                               {"mean_lux", "mean", "mean_lux_standard_error", "lx"}};
constexpr Figure ofGroups[] = {{"mean", "mean", "standard_error", nullptr},
                               {"min", "min", nullptr, nullptr},
                               {"share_percent", "share", nullptr, "%"}};

/// How figures of the same space or group moved: those that did, beyond two standard errors.
template <std::size_t N>
void moved(const std::string& where, const Json& was, const Json& is, const Figure (&figures)[N],
           const std::string& unit, std::vector<RecordChange>& out) {
  for (const Figure& f : figures) {
    const auto number = [&](const Json& j, const char* key) {
      return key && j.is_object() && j.contains(key) && j[key].is_number() ? j[key].get<double>() : NAN;
    };
    const double a = number(was, f.key), b = number(is, f.key);
    if (std::isnan(a) && std::isnan(b)) continue;
    const auto error = [&](const Json& j) {
      const double e = number(j, f.error);
      return std::isnan(e) ? 0 : e;
    };
    if (std::abs(a - b) <= 2 * std::hypot(error(was), error(is)) + 1e-6) continue;
    const auto told = [&](double v) {
      return std::isnan(v) ? std::string("none") : fmt::format("{:.2f} {}", v, f.unit ? f.unit : unit);
    };
    out.push_back({where + ": " + f.told, told(a), told(b)});
  }
}

} // namespace

Expected<ReadRecord> readRecord(const std::filesystem::path& given) {
  ReadRecord out;
  std::error_code none;
  out.folder = std::filesystem::is_directory(given, none) ? given : given.parent_path();
  const auto file = loadFile(out.folder / "record.json");
  if (!file) return tl::unexpected(file.error());
  auto parsed = parseJson(*file, "record.json");
  if (!parsed) return tl::unexpected(parsed.error());
  out.json = std::move(*parsed);
  const Json& j = out.json;
  if (!j.is_object() || text(j, "format") != "noonward-record" || !j.contains("claims") || !j["claims"].is_object() ||
      !j.contains("files") || !j["files"].is_object())
    return fail("This is no record of Noonward.", "record.json");
  out.version = j.contains("version") && j["version"].is_number_integer() ? j["version"].get<int>() : 0;
  if (out.version != 1 && out.version != 2)
    return fail("The record was written by another version of its format.", "record.json");
  return out;
}

Json claimsOfTwo(const ReadRecord& r) {
  Json c = r.json["claims"];
  if (r.version == 2) return c;
  Json study = c.contains("study") && c["study"].is_object() ? c["study"] : Json::object();
  study["kind"] = "year";
  for (const char* key : {"key", "building", "rooms"})
    if (c.contains(key)) study[key] = c[key];
  c["studies"] = Json::array({std::move(study)});
  return c;
}

std::string comparedText(const Project& project) {
  Project p = project;
  p.record = {};
  p.views.clear();
  p.underlays.clear();
  p.sources.clear();
  p.sweeps.clear();
  p.beside.clear();
  for (MeasuredSeries& s : p.measured) // where they lie is no input
    for (std::string& file : s.files) file = std::filesystem::path(file).filename().string();
  p.site.weatherFile.clear();
  p.options.clear(); // the design in hand is what the record is of
  p.option = 0;
  return projectText(p, "files");
}

RecordChanges recordChanges(const ReadRecord& earlier, const Json& claims, const std::string& projectNow) {
  RecordChanges out;
  out.earlier = text(earlier.json, "made");
  out.fingerprint = text(earlier.json, "fingerprint").substr(0, 9);
  const Json was = claimsOfTwo(earlier);
  const std::filesystem::path file = earlier.folder / text(earlier.json, "project");
  if (auto loaded = readProject(file)) {
    Project p = std::move(loaded->project);
    if (const auto at = optionNamed(p, text(was, "option")); !text(was, "option").empty() && at)
      p = withOption(std::move(p), *at);
    const Json a = Json::parse(comparedText(p), nullptr, false), b = Json::parse(projectNow, nullptr, false);
    for (const JsonChange& c : differences(a, b)) out.inputs.push_back(changeText(c, a, b));
  } else {
    out.inputs.push_back("The project of the earlier record can't be read: " + loaded.error().text());
  }

  const auto verdictsBefore = byId(list(was, "verdicts"));
  std::map<std::string, bool> met;
  for (const Json& now : list(claims, "verdicts")) {
    const auto at = verdictsBefore.find(text(now, "id"));
    const std::string title = text(now, "title").empty() ? text(now, "yardstick") : text(now, "title");
    met[text(now, "id")] = true;
    if (at == verdictsBefore.end()) {
      out.verdicts.push_back({title, "not recorded", text(now, "text")});
      continue;
    }
    if (text(*at->second, "outcome") != text(now, "outcome") || text(*at->second, "text") != text(now, "text"))
      out.verdicts.push_back({title, text(*at->second, "text"), text(now, "text")});
    std::map<std::string, std::string> rows;
    for (const Json& row : list(*at->second, "rows")) rows[text(row, "name")] = text(row, "outcome");
    for (const Json& row : list(now, "rows"))
      if (const auto r = rows.find(text(row, "name")); r != rows.end() && r->second != text(row, "outcome"))
        out.receivers.push_back(
            fmt::format("{} · {}: {} → {}", title, text(row, "name"), r->second, text(row, "outcome")));
  }
  for (const auto& [id, claim] : verdictsBefore)
    if (!met.contains(id))
      out.verdicts.push_back({text(*claim, "title").empty() ? text(*claim, "yardstick") : text(*claim, "title"),
                              text(*claim, "text"), "no longer recorded"});

  const auto studiesBefore = byId(list(was, "studies"));
  for (const Json& now : list(claims, "studies")) {
    const auto at = studiesBefore.find(text(now, "id"));
    if (at == studiesBefore.end()) {
      out.figures.push_back({text(now, "name"), "not recorded", "recorded"});
      continue;
    }
    const Json& before = *at->second;
    if (now.contains("building") && before.contains("building"))
      moved(text(now, "name") + ", building", before["building"], now["building"], ofSpaces, "", out.figures);
    for (const char* key : {"rooms", "groups"}) {
      const auto spaces = byId(list(before, key));
      for (const Json& space : list(now, key)) {
        const auto one = spaces.find(text(space, "id"));
        const std::string where = text(now, "name") + ", " + text(space, "name");
        if (one == spaces.end())
          out.figures.push_back({where, "not there", "recorded"});
        else if (std::string_view(key) == "rooms")
          moved(where, *one->second, space, ofSpaces, "", out.figures);
        else
          moved(where, *one->second, space, ofGroups, text(now, "unit"), out.figures);
      }
    }
  }
  return out;
}

Expected<RecordChanges> recordChanges(const std::filesystem::path& earlier, const std::filesystem::path& later) {
  const auto a = readRecord(earlier);
  if (!a) return tl::unexpected(a.error());
  const auto b = readRecord(later);
  if (!b) return tl::unexpected(b.error());
  auto loaded = readProject(b->folder / text(b->json, "project"));
  if (!loaded) return tl::unexpected(loaded.error());
  Project p = std::move(loaded->project);
  const Json claims = claimsOfTwo(*b);
  if (const auto at = optionNamed(p, text(claims, "option")); !text(claims, "option").empty() && at)
    p = withOption(std::move(p), *at);
  return recordChanges(*a, claims, comparedText(p));
}

} // namespace noonward
