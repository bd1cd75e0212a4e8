#include "core/files/save_file.h"
#include "core/runs/sweep/sweep_reading.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
std::string headOf(const std::string& name, const std::string& unit) {
  return unit.empty() ? name : name + " " + unit;
}
std::variant<std::string, double> cellOf(const VaryValue& value) {
  if (const auto* d = std::get_if<double>(&value)) return *d;
  return valueText(value);
}
} // namespace

std::vector<WorkSheet> sweepSheets(const SweepTable& t) {
  WorkSheet runs{"Runs", {"run"}, {}};
  for (std::size_t k = 0; k < t.sweep.variables.size(); ++k)
    runs.head.push_back(headOf(t.sweep.variables[k].name, t.units[k]));
  for (std::size_t o = 0; o < t.sweep.outcomes.size(); ++o) {
    runs.head.push_back(headOf(t.sweep.outcomes[o].name, t.outcomeUnits[o]));
    runs.head.push_back(t.sweep.outcomes[o].name + " standard error");
  }
  runs.head.push_back("keeps all bounds");
  runs.head.push_back("fault");
  for (const SweepRow& r : t.rows) {
    auto& row = runs.rows.emplace_back();
    row.push_back(double(r.number + 1));
    for (const VaryValue& v : r.values) row.push_back(cellOf(v));
    std::string fault = r.fault;
    for (std::size_t o = 0; o < t.sweep.outcomes.size(); ++o) {
      const SweepFigure f = o < r.figures.size() ? r.figures[o] : SweepFigure{};
      row.push_back(f.value);
      row.push_back(std::isfinite(f.value) ? f.error : NAN);
      if (fault.empty()) fault = f.fault;
    }
    row.push_back(std::string(meetsBounds(t, r) ? "yes" : "no"));
    row.push_back(fault);
  }
  WorkSheet moves{"What moves it",
                  {"figure", "variable", "value", "figure at it, others in the mean", "standard error", "range",
                   "standard error of the range", "share of what varies %"},
                  {}};
  for (std::size_t o = 0; o < t.sweep.outcomes.size(); ++o)
    for (const VariableEffect& v : effectsOn(t, o).variables)
      for (const LevelEffect& l : v.levels)
        moves.rows.push_back({headOf(t.sweep.outcomes[o].name, t.outcomeUnits[o]), t.sweep.variables[v.variable].name,
                              cellOf(l.value), l.figure, l.error, v.range, v.rangeError, 100 * v.share});
  WorkSheet best{"Best", {"aim", "run", "keeps all bounds", "in words"}, {}};
  for (const SweepBest& b : bestOf(t))
    best.rows.push_back({b.goal ? t.sweep.goals[*b.goal].outcome : std::string("largest margin"),
                         double(t.rows[b.row].number + 1), std::string(b.meets ? "yes" : "no"), b.text});
  return {runs, moves, best};
}

Outcome saveSweepTable(const SweepTable& t, const std::filesystem::path& file) {
  const std::string ending = file.extension().string();
  if (ending == ".csv") return saveFile(file, sweepCsv(t));
  if (ending == ".json") return saveFile(file, sweepTableText(t));
  if (ending == ".xlsx") return writeWorkbook(file, sweepSheets(t), t.sweep.name);
  return fail("A table is written as .csv, .json or .xlsx.", file.string());
}

} // namespace noonward
