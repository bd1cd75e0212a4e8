#include "core/runs/sweep/sweep_reading.h"
#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

double figureAt(const SweepRow& row, std::size_t outcome) {
  return outcome < row.figures.size() ? row.figures[outcome].value : NAN;
}

/// The values of a variable that occur, in order: numbers by size, others as they come.
std::vector<VaryValue> levelsOf(const SweepTable& t, std::size_t variable) {
  std::vector<VaryValue> out;
  for (const SweepRow& r : t.rows)
    if (std::find(out.begin(), out.end(), r.values[variable]) == out.end()) out.push_back(r.values[variable]);
  if (std::all_of(out.begin(), out.end(), [](const VaryValue& v) { return std::holds_alternative<double>(v); }))
    std::sort(out.begin(), out.end());
  return out;
}

struct Spread {
  double low = INFINITY, high = -INFINITY;
  double range() const { return high > low ? high - low : 0; }
};
Spread spreadOf(const SweepTable& t, std::size_t outcome) {
  Spread s;
  for (const SweepRow& r : t.rows)
    if (const double v = figureAt(r, outcome); std::isfinite(v)) {
      s.low = std::min(s.low, v);
      s.high = std::max(s.high, v);
    }
  return s;
}

std::string figureText(double value, double error, const std::string& unit) {
  std::string out = fmt::format("{:.4g}{}", value, unit.empty() ? "" : " " + unit);
  if (error > 0) out += fmt::format(" (± {:.2g})", error);
  return out;
}

} // namespace

OutcomeEffects effectsOn(const SweepTable& t, std::size_t outcome) {
  OutcomeEffects out;
  std::vector<std::vector<VaryValue>> levels;
  std::vector<std::size_t> first; // column of each variable's first level
  std::size_t columns = 1;
  for (std::size_t k = 0; k < t.sweep.variables.size(); ++k) {
    levels.push_back(levelsOf(t, k));
    first.push_back(columns);
    columns += levels.back().size();
  }
  std::vector<const SweepRow*> rows;
  for (const SweepRow& r : t.rows)
    if (std::isfinite(figureAt(r, outcome))) rows.push_back(&r);
  out.rows = rows.size();
  if (rows.empty()) return out;
  // Indicators of all levels; that the effects of a variable sum to nothing is asked by rows of its own.
  const auto n = Eigen::Index(rows.size()), p = Eigen::Index(columns);
  Eigen::MatrixXd square = Eigen::MatrixXd::Zero(p, p);
  Eigen::VectorXd right = Eigen::VectorXd::Zero(p), noise(n);
  std::vector<std::vector<Eigen::Index>> at(rows.size());
  double mean = 0;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    at[i].push_back(0);
    for (std::size_t k = 0; k < levels.size(); ++k) {
      const auto level = std::find(levels[k].begin(), levels[k].end(), rows[i]->values[k]) - levels[k].begin();
      at[i].push_back(Eigen::Index(first[k]) + level);
    }
    const double y = figureAt(*rows[i], outcome);
    mean += y / double(rows.size());
    noise[Eigen::Index(i)] = std::pow(rows[i]->figures[outcome].error, 2);
    for (const Eigen::Index a : at[i]) {
      right[a] += y;
      for (const Eigen::Index b : at[i]) square(a, b) += 1;
    }
  }
  for (std::size_t k = 0; k < levels.size(); ++k)
    for (std::size_t a = 0; a < levels[k].size(); ++a)
      for (std::size_t b = 0; b < levels[k].size(); ++b)
        square(Eigen::Index(first[k] + a), Eigen::Index(first[k] + b)) += double(rows.size());
  const Eigen::CompleteOrthogonalDecomposition<Eigen::MatrixXd> solved(square);
  const Eigen::VectorXd effect = solved.solve(right);
  const Eigen::MatrixXd inverse = solved.pseudoInverse();
  Eigen::MatrixXd middle = Eigen::MatrixXd::Zero(p, p); // Σ noise of a row × its indicators squared
  for (std::size_t i = 0; i < rows.size(); ++i)
    for (const Eigen::Index a : at[i])
      for (const Eigen::Index b : at[i]) middle(a, b) += noise[Eigen::Index(i)];
  const Eigen::MatrixXd covariance = inverse * middle * inverse.transpose();

  double total = 0, left = 0;
  std::vector<double> of(levels.size(), 0);
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const double y = figureAt(*rows[i], outcome);
    double fitted = effect[0];
    for (std::size_t k = 0; k < levels.size(); ++k) {
      const double e = effect[at[i][k + 1]];
      fitted += e;
      of[k] += e * e;
    }
    total += (y - mean) * (y - mean);
    left += (y - fitted) * (y - fitted);
  }
  out.together = total > 0 ? std::clamp(left / total, 0.0, 1.0) : 0;
  double apart = 0;
  for (const double v : of) apart += v;
  const double dust = 1e-11 * (std::abs(mean) + std::sqrt(total / double(rows.size())));
  const auto tidy = [&](double x) { return std::abs(x) < dust ? 0.0 : x; };
  for (std::size_t k = 0; k < levels.size(); ++k) {
    VariableEffect v;
    v.variable = k;
    std::size_t low = 0, high = 0;
    for (std::size_t a = 0; a < levels[k].size(); ++a) {
      const auto c = Eigen::Index(first[k] + a);
      LevelEffect level{levels[k][a], tidy(effect[0] + effect[c]), 0, 0};
      level.error = std::sqrt(std::max(0.0, covariance(0, 0) + covariance(c, c) + 2 * covariance(0, c)));
      for (std::size_t i = 0; i < rows.size(); ++i) level.rows += at[i][k + 1] == c;
      v.levels.push_back(std::move(level));
      if (v.levels[a].figure < v.levels[low].figure) low = a;
      if (v.levels[a].figure > v.levels[high].figure) high = a;
    }
    v.range = tidy(v.levels[high].figure - v.levels[low].figure);
    const auto a = Eigen::Index(first[k] + low), b = Eigen::Index(first[k] + high);
    v.rangeError = std::sqrt(std::max(0.0, covariance(a, a) + covariance(b, b) - 2 * covariance(a, b)));
    v.share = apart > 0 ? of[k] / apart * (1 - out.together) : 0;
    v.matters = v.range > 2 * v.rangeError + 1e-9 * std::max(1.0, std::abs(mean));
    out.variables.push_back(std::move(v));
  }
  return out;
}

std::optional<double> marginOf(const SweepGoal& goal, double figure) {
  if (goal.kind == SweepGoal::Kind::AtLeast) return figure - goal.value;
  if (goal.kind == SweepGoal::Kind::AtMost) return goal.value - figure;
  return {};
}

double leastMargin(const SweepTable& t, const SweepRow& row) {
  double least = INFINITY;
  for (const SweepGoal& g : t.sweep.goals) {
    const auto o = t.outcome(g.outcome);
    if (!o) continue;
    const double figure = figureAt(row, *o);
    if (!std::isfinite(figure)) return -INFINITY;
    if (const auto m = marginOf(g, figure)) {
      const double range = spreadOf(t, *o).range();
      least = std::min(least, *m / (range > 0 ? range : 1));
    }
  }
  return row.figures.empty() ? -INFINITY : least;
}
bool meetsBounds(const SweepTable& t, const SweepRow& row) {
  return leastMargin(t, row) >= -1e-12;
}

std::string pointText(const SweepTable& t, const VaryPoint& values) {
  std::string out;
  for (std::size_t k = 0; k < values.size(); ++k)
    out += fmt::format("{}{} {}{}", out.empty() ? "" : ", ", t.sweep.variables[k].name, valueText(values[k]),
                       t.units[k].empty() ? "" : (t.units[k] == "°" ? "" : " ") + t.units[k]);
  return out;
}

std::vector<SweepBest> bestOf(const SweepTable& t) {
  std::vector<SweepBest> out;
  std::vector<double> margin;
  bool any = false;
  for (const SweepRow& r : t.rows) {
    margin.push_back(leastMargin(t, r));
    any |= margin.back() >= -1e-12;
  }
  std::vector<std::optional<std::size_t>> aims;
  for (std::size_t g = 0; g < t.sweep.goals.size(); ++g)
    if (!marginOf(t.sweep.goals[g], 0)) aims.emplace_back(g);
  const bool bounded = aims.size() < t.sweep.goals.size();
  if (aims.empty() && bounded) aims.emplace_back(std::nullopt);
  for (const auto& aim : aims) {
    SweepBest best;
    best.goal = aim;
    const auto outcome = aim ? t.outcome(t.sweep.goals[*aim].outcome) : std::nullopt;
    const bool most = aim && t.sweep.goals[*aim].kind == SweepGoal::Kind::Most;
    const auto score = [&](std::size_t k) { // more is better
      if (!outcome || !any) return margin[k];
      const double figure = figureAt(t.rows[k], *outcome);
      return most ? figure : -figure;
    };
    bool found = false;
    for (std::size_t k = 0; k < t.rows.size(); ++k) {
      if ((any && margin[k] < -1e-12) || !std::isfinite(margin[k] == INFINITY ? 0 : margin[k])) continue;
      if (!found || score(k) > score(best.row)) best.row = k;
      found = true;
    }
    if (!found) continue;
    best.meets = any;
    const SweepRow& row = t.rows[best.row];
    if (outcome && any)
      for (std::size_t k = 0; k < t.rows.size(); ++k) {
        if (k == best.row || margin[k] < -1e-12) continue;
        const double apart = std::abs(figureAt(t.rows[k], *outcome) - figureAt(row, *outcome));
        const double error = std::hypot(t.rows[k].figures[*outcome].error, row.figures[*outcome].error);
        if (apart <= 2 * error + 1e-9) best.alike.push_back(k);
      }
    best.text = fmt::format("run {}: {}", row.number + 1, pointText(t, row.values));
    for (std::size_t o = 0; o < t.sweep.outcomes.size(); ++o)
      best.text += fmt::format("; {} {}", t.sweep.outcomes[o].name,
                               figureText(row.figures[o].value, row.figures[o].error, t.outcomeUnits[o]));
    if (!any)
      best.text = "Nothing meets all that is asked; nearest comes " + best.text;
    else if (aim)
      best.text = fmt::format("{} {} with ", most ? "Most" : "Least", t.sweep.goals[*aim].outcome) + best.text;
    else
      best.text = "Farthest within all bounds is " + best.text;
    if (!best.alike.empty())
      best.text += fmt::format("; {} more can't be told from it within the errors", best.alike.size());
    best.text += ".";
    out.push_back(std::move(best));
  }
  return out;
}

std::string whyPart(const SweepTable& t, const SweepBest& a, const SweepBest& b) {
  if (a.row == b.row || !a.goal || !b.goal) return {};
  const SweepRow &x = t.rows[a.row], &y = t.rows[b.row];
  const std::string &one = t.sweep.goals[*a.goal].outcome, &other = t.sweep.goals[*b.goal].outcome;
  const auto first = effectsOn(t, *t.outcome(one)), second = effectsOn(t, *t.outcome(other));
  std::string out;
  for (std::size_t k = 0; k < x.values.size(); ++k) {
    if (x.values[k] == y.values[k]) continue;
    out += fmt::format(
        "{}{}: {} is best for {}, {} for {}; over its values {} moves by {}, {} by {}", out.empty() ? "" : ". ",
        t.sweep.variables[k].name, valueText(x.values[k]), one, valueText(y.values[k]), other, one,
        figureText(first.variables[k].range, first.variables[k].rangeError, t.outcomeUnits[*t.outcome(one)]), other,
        figureText(second.variables[k].range, second.variables[k].rangeError, t.outcomeUnits[*t.outcome(other)]));
  }
  return out + ".";
}

std::vector<std::size_t> edgeOf(const SweepTable& t, std::size_t one, bool moreOfOne, std::size_t other,
                                bool moreOfOther) {
  std::vector<std::size_t> order;
  for (std::size_t k = 0; k < t.rows.size(); ++k)
    if (std::isfinite(figureAt(t.rows[k], one)) && std::isfinite(figureAt(t.rows[k], other))) order.push_back(k);
  const auto first = [&](std::size_t k) { return (moreOfOne ? 1 : -1) * figureAt(t.rows[k], one); };
  const auto second = [&](std::size_t k) { return (moreOfOther ? 1 : -1) * figureAt(t.rows[k], other); };
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return first(a) != first(b) ? first(a) > first(b) : second(a) > second(b);
  });
  std::vector<std::size_t> out;
  double reached = -INFINITY;
  for (const std::size_t k : order)
    if (second(k) > reached) {
      reached = second(k);
      out.push_back(k);
    }
  return out;
}

} // namespace noonward
