#include "core/runs/record/sweep_chapter.h"
#include "core/files/project/asked_json.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace noonward {

SweepChapter sweepChapter(const Project& p, const Sweep& sweep, const YardstickShelf& shelf, StudyRunner& runner,
                          RunControl& control) {
  SweepChapter out;
  out.sweep = sweep;
  auto table = runSweep(p, sweep, shelf, runner, control);
  if (table)
    out.table = std::make_shared<const SweepTable>(std::move(*table));
  else
    out.fault = table.error().text();
  return out;
}

std::vector<std::size_t> checkedRows(const SweepTable& t) {
  std::set<std::size_t> out;
  if (t.rows.empty()) return {};
  for (const SweepBest& b : bestOf(t)) out.insert(b.row);
  constexpr std::size_t most = 12;
  const std::size_t spread = std::min(t.rows.size(), most - std::min(most - 2, out.size()));
  for (std::size_t k = 0; k < spread; ++k)
    out.insert(spread > 1 ? k * (t.rows.size() - 1) / (spread - 1) : std::size_t{0});
  return {out.begin(), out.end()};
}

namespace {
Json figureClaim(const SweepFigure& f) {
  return std::isfinite(f.value) ? Json::array({f.value, f.error}) : Json{{"fault", f.fault}};
}
} // namespace

Json sweepClaim(const SweepChapter& c) {
  Json j{{"id", c.sweep.id.text()}, {"name", c.sweep.name}};
  if (!c.table) {
    j["fault"] = c.fault;
    return j;
  }
  const SweepTable& t = *c.table;
  j["key"] = t.key.hex();
  j["runs"] = t.rows.size();
  j["all"] = t.all;
  j["outcomes"] = Json::array();
  for (std::size_t k = 0; k < t.sweep.outcomes.size(); ++k)
    j["outcomes"].push_back(Json{{"name", t.sweep.outcomes[k].name}, {"unit", t.outcomeUnits[k]}});
  j["best"] = Json::array();
  for (const SweepBest& b : bestOf(t))
    j["best"].push_back(Json{{"run", t.rows[b.row].number + 1}, {"meets", b.meets}, {"text", b.text}});
  j["rows"] = Json::array();
  for (const std::size_t k : checkedRows(t)) {
    const SweepRow& r = t.rows[k];
    Json one{{"run", r.number + 1}};
    for (std::size_t v = 0; v < r.values.size(); ++v) one["values"][t.sweep.variables[v].name] = varyJson(r.values[v]);
    if (!r.fault.empty()) one["fault"] = r.fault;
    for (const SweepFigure& f : r.figures) one["figures"].push_back(figureClaim(f));
    j["rows"].push_back(std::move(one));
  }
  return j;
}

BesideChapter besideChapter(const Project& p, const YardstickShelf& shelf, StudyRunner& runner, RunControl& control) {
  BesideChapter out;
  auto found = laidBeside(p, designsBeside(p), "", shelf, runner, control);
  if (found)
    out.found = std::make_shared<const Beside>(std::move(*found));
  else
    out.fault = found.error().text();
  return out;
}

Json besideClaim(const BesideChapter& c) {
  Json j = Json::object();
  if (!c.found) {
    j["fault"] = c.fault;
    return j;
  }
  for (const BesideDesign& d : c.found->designs) j["designs"].push_back(d.name);
  j["figures"] = Json::array();
  for (const BesideFigure& f : c.found->figures) {
    Json one{{"study", f.study}, {"space", f.space}, {"figure", f.figure}, {"unit", f.unit}};
    for (const SweepFigure& x : f.of) one["of"].push_back(figureClaim(x));
    j["figures"].push_back(std::move(one));
  }
  return j;
}

double allowedApart(const SweepFigure& f) {
  return f.error > 0 ? std::max(6 * f.error, 0.02 * std::abs(f.value)) : std::max(1e-6, 0.01 * std::abs(f.value));
}

} // namespace noonward
