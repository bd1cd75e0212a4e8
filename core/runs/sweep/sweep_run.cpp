#include "core/runs/sweep/sweep_run.h"
#include "core/files/project/asked_json.h"
#include "core/files/project/project_file.h"
#include "core/files/results/tables.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

namespace {

double secondsSince(std::chrono::steady_clock::time_point from) {
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
}

/// Which variables no ray depends on: blinds, schedules, thresholds. Asked of one design; another may only cost time.
/// None where nothing asks for a year's rays.
std::vector<bool> freeOfRays(const Variation& v, const YardstickShelf& shelf) {
  VaryPoint first;
  for (const auto& list : v.values()) first.push_back(list.front());
  std::vector<bool> out(first.size(), false);
  const auto base = v.unchecked(first);
  if (!base) return out;
  const Digest rays = raysOf(*base, v.sweep(), shelf);
  if (rays == Hasher().digest()) return out;
  for (std::size_t k = 0; k < first.size(); ++k) {
    VaryPoint other = first;
    other[k] = v.values()[k].back();
    const auto p = v.unchecked(other);
    out[k] = p && raysOf(*p, v.sweep(), shelf) == rays;
  }
  return out;
}

/// Points in batches that share their rays; batches in the order of their first point.
std::vector<std::vector<std::size_t>> batchesOf(const SweepPoints& points, const std::vector<bool>& free) {
  std::vector<std::vector<std::size_t>> out;
  std::map<std::vector<std::size_t>, std::size_t> at;
  for (std::size_t n = 0; n < points.points.size(); ++n) {
    std::vector<std::size_t> key;
    for (std::size_t k = 0; k < free.size(); ++k)
      if (!free[k]) key.push_back(points.points[n][k]);
    const auto [found, fresh] = at.try_emplace(std::move(key), out.size());
    if (fresh) out.emplace_back();
    out[found->second].push_back(n);
  }
  return out;
}

Digest keyOf(const Project& p, const Sweep& sweep) {
  Sweep bare = sweep;
  bare.goals.clear(); // what is aimed for changes no row
  Project plain = p;
  plain.sweeps.clear();
  plain.views.clear();
  plain.record = {};
  plain.measured.clear();
  plain.beside.clear();
  plain.sources.clear();
  plain.underlays.clear();
  plain.site.weatherFile.clear();
  Hasher h;
  h.add(projectText(plain, "files")).add(sweepJson(bare).dump());
  if (p.site.weather) h.add(p.site.weather->digest);
  return h.digest();
}

} // namespace

std::optional<std::size_t> SweepTable::outcome(const std::string& name) const {
  for (std::size_t k = 0; k < sweep.outcomes.size(); ++k)
    if (sweep.outcomes[k].name == name) return k;
  return {};
}
std::optional<std::size_t> SweepTable::variable(const std::string& name) const {
  for (std::size_t k = 0; k < sweep.variables.size(); ++k)
    if (sweep.variables[k].name == name) return k;
  return {};
}

Expected<SweepTable> runSweep(const Project& project, const Sweep& sweep, const YardstickShelf& shelf,
                              StudyRunner& runner, RunControl& control, SweepPart part,
                              const std::function<void(const SweepTable&)>& partial) {
  const auto began = std::chrono::steady_clock::now();
  if (part.of < 1 || part.part < 1 || part.part > part.of)
    return fail(fmt::format("Part {} of {} is none: 1/4 to 4/4 are four parts.", part.part, part.of), sweep.name);
  auto units = outcomeUnits(project, sweep, shelf);
  if (!units) return tl::unexpected(units.error());
  const auto variation = Variation::of(project, sweep);
  if (!variation) return tl::unexpected(variation.error());
  const auto points = sweepPoints(*variation);
  if (!points) return tl::unexpected(points.error());
  SweepTable out;
  out.sweep = sweep;
  out.project = project.name;
  out.key = keyOf(project, sweep);
  for (std::size_t k = 0; k < sweep.variables.size(); ++k) out.units.push_back(variation->unit(k));
  out.outcomeUnits = std::move(*units);
  out.now = variation->now();
  out.all = points->points.size();
  out.leftOut = points->leftOut;
  std::vector<std::size_t> mine;
  const auto batches = batchesOf(*points, freeOfRays(*variation, shelf));
  for (std::size_t b = part.part - 1; b < batches.size(); b += part.of) {
    mine.insert(mine.end(), batches[b].begin(), batches[b].end());
    ++out.traced;
  }
  for (std::size_t k = 0; k < mine.size() && control.goesOn(); ++k) {
    SweepRow row;
    row.number = mine[k];
    row.values = points->values(*variation, mine[k]);
    const auto from = std::chrono::steady_clock::now();
    RunControl own; // the progress of a run is a part of the whole
    own.progress = [&, k](double share) {
      own.wish = control.wish.load();
      if (control.progress) control.progress((double(k) + share) / double(mine.size()));
    };
    own.wish = control.wish.load();
    if (const auto design = variation->at(row.values))
      row.figures = figuresOf(*design, sweep, shelf, runner, own);
    else
      row.fault = design.error().text();
    if (!control.goesOn()) break; // a row that was stopped is none
    row.seconds = secondsSince(from);
    const auto place = std::lower_bound(out.rows.begin(), out.rows.end(), row.number,
                                        [](const SweepRow& r, std::size_t n) { return r.number < n; });
    out.rows.insert(place, std::move(row));
    out.seconds = secondsSince(began);
    if (control.progress) control.progress(double(k + 1) / double(mine.size()));
    if (partial) partial(out);
  }
  out.end = control.end(out.rows.size() == mine.size());
  if (out.end == RunEnd::Dropped && out.rows.empty()) return fail("The sweep was dropped.");
  out.seconds = secondsSince(began);
  return out;
}

Expected<SweepCost> sweepCost(const Project& project, const Sweep& sweep, const YardstickShelf& shelf) {
  const auto units = outcomeUnits(project, sweep, shelf);
  if (!units) return tl::unexpected(units.error());
  const auto variation = Variation::of(project, sweep);
  if (!variation) return tl::unexpected(variation.error());
  const auto points = sweepPoints(*variation);
  if (!points) return tl::unexpected(points.error());
  return SweepCost{points->points.size(), batchesOf(*points, freeOfRays(*variation, shelf)).size(), points->leftOut,
                   points->combinations};
}

Expected<SweepTable> mergedSweep(const std::vector<SweepTable>& parts, std::vector<std::size_t>* missing) {
  if (parts.empty()) return fail("There is no table to merge.");
  SweepTable out = parts.front();
  std::map<std::size_t, SweepRow> rows;
  out.traced = 0;
  for (const SweepTable& t : parts) {
    if (!(t.key == out.key))
      return fail(fmt::format("\"{}\" and \"{}\" are parts of different sweeps, or of different states of the project.",
                              out.sweep.name, t.sweep.name));
    for (const SweepRow& r : t.rows) rows.try_emplace(r.number, r);
    out.traced += t.traced;
  }
  out.rows.clear();
  for (auto& [number, row] : rows) out.rows.push_back(std::move(row));
  out.end = out.rows.size() == out.all ? RunEnd::Finished : RunEnd::Enough;
  if (missing) {
    missing->clear();
    for (std::size_t n = 0; n < out.all; ++n)
      if (!rows.contains(n)) missing->push_back(n);
  }
  return out;
}

std::string sweepCsv(const SweepTable& t) {
  const auto named = [](const std::string& name, const std::string& unit) {
    return csvField(unit.empty() ? name : name + " " + unit);
  };
  std::string out = "number";
  for (std::size_t k = 0; k < t.sweep.variables.size(); ++k) out += "," + named(t.sweep.variables[k].name, t.units[k]);
  for (std::size_t k = 0; k < t.sweep.outcomes.size(); ++k)
    out += fmt::format(",{},{}", named(t.sweep.outcomes[k].name, t.outcomeUnits[k]),
                       csvField(t.sweep.outcomes[k].name + " standard error"));
  out += ",fault\n";
  for (const SweepRow& r : t.rows) {
    out += fmt::format("{}", r.number + 1);
    for (const VaryValue& v : r.values) out += "," + csvField(valueText(v));
    std::string fault = r.fault;
    for (std::size_t k = 0; k < t.sweep.outcomes.size(); ++k) {
      if (k >= r.figures.size() || std::isnan(r.figures[k].value)) {
        out += ",,";
        if (k < r.figures.size() && fault.empty()) fault = t.sweep.outcomes[k].name + ": " + r.figures[k].fault;
        continue;
      }
      out += fmt::format(",{:.6g},{:.4g}", r.figures[k].value, r.figures[k].error);
    }
    out += "," + csvField(fault) + "\n";
  }
  return out;
}

std::string sweepTableText(const SweepTable& t) {
  Json j{{"format", "noonward-sweep-table"}, {"version", 1}, {"project", t.project}, {"key", t.key.hex()}};
  j["sweep"] = sweepJson(t.sweep);
  j["units"] = t.units;
  j["outcome-units"] = t.outcomeUnits;
  j["now"] = Json::array();
  for (const auto& v : t.now) j["now"].push_back(v ? varyJson(*v) : Json());
  j["all"] = t.all;
  j["left-out"] = t.leftOut;
  j["rows"] = Json::array();
  for (const SweepRow& r : t.rows) {
    Json one{{"number", r.number}};
    for (const VaryValue& v : r.values) one["values"].push_back(varyJson(v));
    if (!r.fault.empty()) one["fault"] = r.fault;
    for (const SweepFigure& f : r.figures)
      one["figures"].push_back(std::isnan(f.value) ? Json{{"fault", f.fault}} : Json::array({f.value, f.error}));
    j["rows"].push_back(std::move(one));
  }
  return j.dump(1) + "\n";
}

Expected<SweepTable> sweepTableFromText(std::string_view text, const std::string& file) {
  const auto parsed = parseJson(text, file);
  if (!parsed) return tl::unexpected(parsed.error());
  const Json& j = *parsed;
  const auto wrong = [&](const char* what) {
    return fail(fmt::format("This is no table of a sweep: {}.", what), file);
  };
  if (!j.is_object() || j.value("format", "") != "noonward-sweep-table")
    return wrong("\"noonward-sweep-table\" is expected as its format");
  SweepTable t;
  JsonFault fault;
  {
    JsonObject o(j, "", fault);
    t.project = o.text("project");
    const std::string hex = o.requiredText("key");
    if (hex.size() == 32)
      if (const auto high = idFromText(hex.substr(0, 16)), low = idFromText(hex.substr(16)); high && low)
        t.key = {*high, *low};
    JsonObject sweep = o.object("sweep");
    t.sweep = sweepFromJson(sweep);
    t.all = std::size_t(o.integer("all", 0, 0, int(mostSweepPoints)));
    t.leftOut = std::size_t(std::max(0.0, o.number("left-out", 0)));
  }
  if (fault.error) return fail(fault.error->message, file + ": " + fault.error->place);
  const auto list = [&](const char* key) { return j.contains(key) && j[key].is_array() ? j[key] : Json::array(); };
  for (const Json& u : list("units")) t.units.push_back(u.is_string() ? u.get<std::string>() : "");
  for (const Json& u : list("outcome-units")) t.outcomeUnits.push_back(u.is_string() ? u.get<std::string>() : "");
  for (const Json& v : list("now")) t.now.push_back(varyValue(v));
  if (t.units.size() != t.sweep.variables.size() || t.outcomeUnits.size() != t.sweep.outcomes.size() ||
      t.now.size() != t.sweep.variables.size())
    return wrong("its columns do not fit its sweep");
  for (const Json& r : list("rows")) {
    SweepRow row;
    if (!r.is_object() || !r.contains("number") || !r["number"].is_number_unsigned() || !r.contains("values") ||
        !r["values"].is_array())
      return wrong("a row lacks its number or values");
    row.number = r["number"].get<std::size_t>();
    for (const Json& v : r["values"])
      if (auto value = varyValue(v)) row.values.push_back(std::move(*value));
    row.fault = r.contains("fault") && r["fault"].is_string() ? r["fault"].get<std::string>() : "";
    for (const Json& f : r.contains("figures") ? r["figures"] : Json::array()) {
      SweepFigure figure;
      if (f.is_array() && f.size() == 2 && f[0].is_number() && f[1].is_number())
        figure = {f[0].get<double>(), f[1].get<double>(), ""};
      else if (f.is_object() && f.contains("fault") && f["fault"].is_string())
        figure.fault = f["fault"].get<std::string>();
      row.figures.push_back(std::move(figure));
    }
    if (row.values.size() != t.sweep.variables.size() ||
        (row.fault.empty() && row.figures.size() != t.sweep.outcomes.size()) || row.number >= t.all)
      return wrong("a row does not fit its columns");
    t.rows.push_back(std::move(row));
  }
  std::sort(t.rows.begin(), t.rows.end(), [](const SweepRow& a, const SweepRow& b) { return a.number < b.number; });
  t.end = t.rows.size() == t.all ? RunEnd::Finished : RunEnd::Enough;
  return t;
}

} // namespace noonward
