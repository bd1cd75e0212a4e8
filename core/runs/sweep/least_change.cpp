#include "core/runs/sweep/least_change.h"
#include "core/model/options.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <numeric>

namespace noonward {

namespace {

using Point = std::vector<std::size_t>; ///< index of each variable's level

/// Years with fewer paths, or with all of them; either way the same ones for every design.
Project withPaths(Project p, double coarser) {
  for (Study& s : p.studies) {
    s.year.stopFor = StopFor::Nothing;
    if (coarser > 1) s.year.error = std::min(0.5, s.year.error * coarser);
  }
  return p;
}

class Search {
public:
  Search(const Sweep& sweep, const YardstickShelf& shelf, StudyRunner& runner, RunControl& control,
         const LeastChangeWish& wish, const std::function<void(const LeastChange&)>& partial)
      : sweep_(sweep), shelf_(shelf), runner_(runner), control_(control), wish_(wish), partial_(partial) {}

  Expected<LeastChange> run(const Project& project) {
    const auto began = std::chrono::steady_clock::now();
    auto units = outcomeUnits(project, sweep_, shelf_);
    if (!units) return tl::unexpected(units.error());
    auto coarse = Variation::of(withPaths(project, wish_.coarser), sweep_);
    if (!coarse) return tl::unexpected(coarse.error());
    auto full = Variation::of(withPaths(project, 1), sweep_);
    if (!full) return tl::unexpected(full.error());
    coarse_ = &*coarse;
    full_ = &*full;
    for (std::size_t k = 0; k < sweep_.variables.size(); ++k) out_.units.push_back(coarse->unit(k));
    out_.outcomeUnits = std::move(*units);
    for (const SweepGoal& g : sweep_.goals)
      if (marginOf(g, 0)) bounds_.push_back(g);
    if (bounds_.empty())
      return fail("No goal has a bound: \"at-least\" or \"at-most\" is expected of one outcome at the least.",
                  sweep_.name);
    if (const Outcome o = takeLevels(); !o) return tl::unexpected(o.error());
    search();
    out_.end = control_.goesOn() ? RunEnd::Finished : control_.end(false);
    if (out_.tried.empty()) return fail("The search was dropped.");
    read();
    out_.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    return std::move(out_);
  }

private:
  Outcome takeLevels() {
    double all = 1;
    for (std::size_t k = 0; k < sweep_.variables.size(); ++k) {
      const auto& now = coarse_->now()[k];
      if (!now)
        return fail(fmt::format("{}: the project's file does not say what it is now; write it there, so that a change "
                                "has a beginning.",
                                sweep_.variables[k].name),
                    sweep_.name);
      std::vector<VaryValue> levels = coarse_->values()[k];
      if (std::find(levels.begin(), levels.end(), *now) == levels.end()) levels.push_back(*now);
      const bool numbers = std::all_of(levels.begin(), levels.end(),
                                       [](const VaryValue& v) { return std::holds_alternative<double>(v); });
      if (numbers) std::sort(levels.begin(), levels.end());
      now_.push_back(std::size_t(std::find(levels.begin(), levels.end(), *now) - levels.begin()));
      numeric_.push_back(numbers);
      all *= double(levels.size());
      levels_.push_back(std::move(levels));
    }
    if (all > 500'000)
      return fail(
          fmt::format("{:.0f} combinations are too many to look for the least change in: coarser steps, or fewer "
                      "variables.",
                      all),
          sweep_.name);
    return {};
  }

  /// 0…1 of the variable's range; of choices 0 or 1.
  double way(std::size_t k, std::size_t level) const {
    if (level == now_[k]) return 0;
    if (!numeric_[k]) return 1;
    const double range = std::get<double>(levels_[k].back()) - std::get<double>(levels_[k].front());
    return std::abs(std::get<double>(levels_[k][level]) - std::get<double>(levels_[k][now_[k]])) / range;
  }
  double change(const Point& p) const {
    double sum = 0;
    for (std::size_t k = 0; k < p.size(); ++k) sum += sweep_.variables[k].weight * way(k, p[k]);
    return sum;
  }
  VaryPoint valuesOf(const Point& p) const {
    VaryPoint out;
    for (std::size_t k = 0; k < p.size(); ++k) out.push_back(levels_[k][p[k]]);
    return out;
  }
  bool spent() const { return out_.coarse + out_.full >= wish_.mostRuns || !control_.goesOn(); }

  /// Runs a design, once coarse and once fully; null where the run was stopped.
  const TriedDesign* tryAt(const Point& p, bool full) {
    auto& known = full ? knownFull_ : known_;
    if (const auto at = known.find(p); at != known.end()) return &out_.tried[at->second];
    if (!control_.goesOn()) return nullptr;
    TriedDesign t;
    t.values = valuesOf(p);
    t.change = change(p);
    t.full = full;
    const Variation& v = full ? *full_ : *coarse_;
    RunControl own;
    own.progress = [&](double) { own.wish = control_.wish.load(); };
    if (const auto design = v.at(t.values))
      t.figures = figuresOf(*design, sweep_, shelf_, runner_, own);
    else
      t.fault = design.error().text();
    if (!control_.goesOn()) return nullptr;
    t.passes = t.fault.empty();
    for (const SweepGoal& g : bounds_) {
      double margin = NAN;
      for (std::size_t o = 0; o < sweep_.outcomes.size() && t.fault.empty(); ++o) {
        if (sweep_.outcomes[o].name != g.outcome) continue;
        const SweepFigure& f = t.figures[o];
        if (std::isnan(f.value)) {
          t.fault = g.outcome + ": " + f.fault;
          break;
        }
        margin = *marginOf(g, f.value);
        t.passes = t.passes && margin >= -1e-9 &&
                   (!full || f.error == 0 || probabilityAbove(margin, f.error, 0) >= wish_.confidence);
      }
      t.margins.push_back(margin);
      t.passes = t.passes && t.fault.empty();
    }
    ++(full ? out_.full : out_.coarse);
    out_.tried.push_back(std::move(t));
    known[p] = out_.tried.size() - 1;
    if (control_.progress) control_.progress(double(out_.coarse + out_.full) / wish_.mostRuns);
    if (partial_) partial_(out_);
    return &out_.tried.back();
  }

  /// What each bound's margins vary by.
  std::vector<double> scales() const {
    std::vector<double> out;
    for (std::size_t b = 0; b < bounds_.size(); ++b) {
      double low = INFINITY, high = -INFINITY;
      for (const TriedDesign& t : out_.tried)
        if (std::isfinite(t.margins[b])) {
          low = std::min(low, t.margins[b]);
          high = std::max(high, t.margins[b]);
        }
      out.push_back(high > low ? high - low : 1);
    }
    return out;
  }
  double least(const std::vector<double>& margins, const std::vector<double>& scale) const {
    double out = INFINITY;
    for (std::size_t b = 0; b < margins.size(); ++b)
      out = std::min(out, std::isfinite(margins[b]) ? margins[b] / scale[b] : -INFINITY);
    return out;
  }

  /// The margin of one variable's level alone, against the design in hand: straight between what was tried alone.
  double alone(std::size_t b, std::size_t k, std::size_t level) const {
    const auto delta = [&](std::size_t l) -> std::optional<double> {
      if (l == now_[k]) return 0.0;
      Point p = now_;
      p[k] = l;
      const auto at = known_.find(p);
      if (at == known_.end() || !std::isfinite(out_.tried[at->second].margins[b])) return {};
      return out_.tried[at->second].margins[b] - out_.tried[known_.at(now_)].margins[b];
    };
    if (const auto d = delta(level)) return *d;
    if (!numeric_[k]) return 0;
    const auto number = [&](std::size_t l) { return std::get<double>(levels_[k][l]); };
    std::optional<std::size_t> below, above;
    for (std::size_t l = 0; l < levels_[k].size(); ++l) {
      if (!delta(l)) continue;
      if (l < level) below = l;
      if (l > level && !above) above = l;
    }
    if (!below || !above) return below ? *delta(*below) : above ? *delta(*above) : 0;
    const double part = (number(level) - number(*below)) / (number(*above) - number(*below));
    return *delta(*below) * (1 - part) + *delta(*above) * part;
  }

  /// Margins that a design should have: what its variables do alone, put right by designs tried nearby.
  void learn() {
    alone_.assign(bounds_.size(), {});
    for (std::size_t b = 0; b < bounds_.size(); ++b)
      for (std::size_t k = 0; k < levels_.size(); ++k) {
        alone_[b].emplace_back();
        for (std::size_t l = 0; l < levels_[k].size(); ++l) alone_[b][k].push_back(alone(b, k, l));
      }
    residuals_.clear();
    for (const auto* known : {&known_, &knownFull_})
      for (const auto& [p, at] : *known) {
        const TriedDesign& t = out_.tried[at];
        if (!t.fault.empty()) continue;
        Residual r{p, {}};
        for (std::size_t b = 0; b < bounds_.size(); ++b) {
          double found = t.margins[b];
          if (t.full && !t.passes) { // it passed in the mean, and not surely: it is to count as failed
            for (std::size_t o = 0; o < sweep_.outcomes.size(); ++o)
              if (sweep_.outcomes[o].name == bounds_[b].outcome) found -= 2 * t.figures[o].error;
          }
          r.margins.push_back(found - apart(p, b));
        }
        residuals_.push_back(std::move(r));
      }
  }
  double apart(const Point& p, std::size_t b) const {
    double sum = out_.tried[known_.at(now_)].margins[b];
    for (std::size_t k = 0; k < p.size(); ++k) sum += alone_[b][k][p[k]];
    return sum;
  }
  std::vector<double> expected(const Point& p) const {
    constexpr double near = 0.35; // of the ranges: how far what was found is believed
    std::vector<double> sum(bounds_.size(), 0);
    double weights = 1e-3; // far from everything, what the variables do alone
    for (const Residual& r : residuals_) {
      double d = 0;
      for (std::size_t k = 0; k < p.size(); ++k) {
        const double step =
            numeric_[k] ? way(k, p[k]) * sign(k, p[k]) - way(k, r.at[k]) * sign(k, r.at[k]) : double(p[k] != r.at[k]);
        d += step * step;
      }
      const double w = std::exp(-d / (2 * near * near)) / (1e-4 + d);
      weights += w;
      for (std::size_t b = 0; b < bounds_.size(); ++b) sum[b] += w * r.margins[b];
    }
    std::vector<double> out;
    for (std::size_t b = 0; b < bounds_.size(); ++b) out.push_back(apart(p, b) + sum[b] / weights);
    return out;
  }
  double sign(std::size_t k, std::size_t level) const { return level < now_[k] ? -1 : 1; }

  /// All designs that the conditions allow, the cheapest first.
  void enumerate() {
    Point at(levels_.size(), 0);
    for (bool more = true; more;) {
      if (coarse_->allowed(valuesOf(at))) all_.push_back({change(at), at});
      more = false;
      for (std::size_t j = at.size(); j-- > 0 && !more;) {
        more = ++at[j] < levels_[j].size();
        if (!more) at[j] = 0;
      }
    }
    std::sort(all_.begin(), all_.end());
  }

  /// The cheapest design that has passed so far, fully run ones that failed taken out.
  std::optional<Point> best() const {
    std::optional<Point> out;
    for (const auto& [p, at] : known_) {
      if (!out_.tried[at].passes) continue;
      if (const auto f = knownFull_.find(p); f != knownFull_.end() && !out_.tried[f->second].passes) continue;
      if (!out || change(p) < change(*out)) out = p;
    }
    return out;
  }

  /// Each variable as far back to the design in hand as all still passes, by halving the way; again and again until no
  /// single step back passes.
  void goBack() {
    const auto passes = [&](const Point& p) {
      if (!coarse_->allowed(valuesOf(p))) return false;
      const TriedDesign* t = tryAt(p, false);
      if (!t || !t->passes) return false;
      const auto f = knownFull_.find(p);
      return f == knownFull_.end() || out_.tried[f->second].passes;
    };
    for (bool moved = true; moved && !spent();) {
      moved = false;
      auto from = best();
      if (!from) return;
      for (std::size_t k = 0; k < from->size() && !spent(); ++k) {
        Point p = *from;
        const auto at = [&](std::size_t level) {
          p[k] = level;
          return passes(p);
        };
        std::size_t good = p[k], bad = now_[k]; // not known to be bad until looked at
        if (good == bad) continue;
        if (!numeric_[k]) {
          if (at(bad)) good = bad;
        } else {
          while (!spent() && std::max(good, bad) - std::min(good, bad) > 1) {
            const std::size_t middle = (good + bad) / 2;
            (at(middle) ? good : bad) = middle;
          }
          if (bad == now_[k] && !spent() && at(bad)) good = bad;
        }
        moved |= good != (*from)[k];
        (*from)[k] = good;
      }
    }
  }

  /// Tries what should pass, cheapest first; what was believed in vain is believed less, so that something passes soon
  /// and the way back is found by halving.
  void goForward() {
    int blind = 0, missed = 0;
    while (!spent()) {
      learn();
      const std::vector<double> scale = scales();
      const auto passing = best();
      if (passing && missed >= 3) return;
      const double limit = passing ? change(*passing) - 1e-9 : INFINITY;
      const double reserve = missed == 0 ? 0 : 0.02 * std::pow(2.0, missed - 1);
      const Point* next = nullptr;
      const Point* hope = nullptr;
      double most = -INFINITY;
      for (const auto& [cost, p] : all_) {
        if (cost >= limit) break;
        if (known_.contains(p)) continue;
        const double margin = least(expected(p), scale);
        if (margin >= reserve) {
          next = &p;
          break;
        }
        if (margin > most) {
          most = margin;
          hope = &p;
        }
      }
      if (!next && !passing && hope && blind < 8) { // nothing should pass: what comes nearest is looked at
        next = hope;
        ++blind;
      }
      if (!next) return;
      const TriedDesign* t = tryAt(*next, false);
      if (!t) return;
      missed = t->passes ? 0 : missed + 1;
      if (t->passes && !passing) return; // the way back first
    }
  }

  void search() {
    enumerate();
    const TriedDesign* start = tryAt(now_, false);
    if (!start) return;
    if (start->passes) {
      if (const TriedDesign* t = tryAt(now_, true); t && t->passes) {
        out_.already = true;
        out_.found = knownFull_.at(now_);
        return;
      }
    }
    for (std::size_t k = 0; k < levels_.size(); ++k)
      for (std::size_t l = 0; l < levels_[k].size(); ++l) {
        const bool end = l == 0 || l + 1 == levels_[k].size() || !numeric_[k];
        if (!end || l == now_[k] || spent()) continue;
        Point p = now_;
        p[k] = l;
        if (coarse_->allowed(valuesOf(p))) tryAt(p, false);
      }
    if (stuck()) return;
    while (!spent()) {
      if (!best()) goForward();
      goBack();
      goForward(); // something cheaper, another way
      goBack();
      const auto found = best();
      if (!found) return;
      const TriedDesign* t = tryAt(*found, true);
      if (!t) return;
      if (t->passes) {
        out_.found = knownFull_.at(*found);
        return;
      }
    }
  }

  /// Is a bound missed that nothing varied moves at all?
  bool stuck() {
    const TriedDesign& now = out_.tried[known_.at(now_)];
    for (std::size_t b = 0; b < bounds_.size(); ++b) {
      if (!(now.margins[b] < -1e-9)) continue;
      const auto o = std::size_t(std::find_if(sweep_.outcomes.begin(), sweep_.outcomes.end(),
                                              [&](const SweepOutcome& x) { return x.name == bounds_[b].outcome; }) -
                                 sweep_.outcomes.begin());
      const bool moved = std::any_of(out_.tried.begin(), out_.tried.end(), [&](const TriedDesign& t) {
        return t.fault.empty() && t.margins[b] > now.margins[b] + 1e-6 * std::max(1.0, std::abs(now.margins[b]));
      });
      if (moved || spent()) continue;
      stuck_ = fmt::format("Nothing that is varied brings {} nearer to what is asked: it is {:.4g}{} and misses by "
                           "{:.4g}.",
                           bounds_[b].outcome, now.figures[o].value,
                           out_.outcomeUnits[o].empty() ? "" : " " + out_.outcomeUnits[o], -now.margins[b]);
      return true;
    }
    return false;
  }

  void read() {
    const std::vector<double> scale = scales();
    double nearest = -INFINITY;
    for (std::size_t k = 0; k < out_.tried.size(); ++k)
      if (const double m = least(out_.tried[k].margins, scale); out_.tried[k].fault.empty() && m > nearest) {
        nearest = m;
        out_.nearest = k;
      }
    if (const auto now = known_.find(now_); now != known_.end()) {
      const double begin = least(out_.tried[now->second].margins, scale);
      for (std::size_t k = 0; k < levels_.size(); ++k) {
        std::optional<SingleChange> one;
        for (std::size_t l = 0; l < levels_[k].size(); ++l) {
          Point p = now_;
          p[k] = l;
          const auto at = known_.find(p);
          if (l == now_[k] || at == known_.end() || !out_.tried[at->second].fault.empty()) continue;
          const double gain = least(out_.tried[at->second].margins, scale) - begin;
          if (!one || gain > one->gain) one = SingleChange{k, levels_[k][l], gain, out_.tried[at->second].passes};
        }
        if (one) out_.single.push_back(*one);
      }
      std::stable_sort(out_.single.begin(), out_.single.end(),
                       [](const SingleChange& a, const SingleChange& b) { return a.gain > b.gain; });
    }
    std::vector<std::size_t> order(out_.tried.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return out_.tried[a].change < out_.tried[b].change; });
    double reached = -INFINITY;
    for (const std::size_t k : order)
      if (const double m = least(out_.tried[k].margins, scale); out_.tried[k].fault.empty() && m > reached) {
        reached = m;
        out_.edge.push_back(k);
      }
    out_.text = told();
  }

  std::string changesText(const TriedDesign& t) const {
    std::string out;
    for (std::size_t k = 0; k < t.values.size(); ++k)
      if (t.values[k] != levels_[k][now_[k]])
        out += fmt::format("{}{} {} → {}{}", out.empty() ? "" : ", ", sweep_.variables[k].name,
                           valueText(levels_[k][now_[k]]), valueText(t.values[k]),
                           out_.units[k].empty() ? "" : " " + out_.units[k]);
    return out.empty() ? "nothing changed" : out;
  }
  std::string figuresText(const TriedDesign& t) const {
    std::string out;
    for (std::size_t o = 0; o < sweep_.outcomes.size(); ++o) {
      const SweepFigure& f = t.figures[o];
      out += fmt::format("{}{} {:.4g}{}{}", out.empty() ? "" : ", ", sweep_.outcomes[o].name, f.value,
                         f.error > 0 ? fmt::format(" ± {:.2g}", f.error) : "",
                         out_.outcomeUnits[o].empty() ? "" : " " + out_.outcomeUnits[o]);
    }
    return out;
  }
  std::string told() const {
    const std::string runs = fmt::format("{} coarse and {} full runs", out_.coarse, out_.full);
    std::string out;
    if (out_.already) {
      out = fmt::format("The design in hand passes as it is: {}.", figuresText(out_.tried[*out_.found]));
    } else if (out_.found) {
      const TriedDesign& t = out_.tried[*out_.found];
      out = fmt::format("{}: {}. No single step back passes.", changesText(t), figuresText(t));
    } else if (!stuck_.empty()) {
      out = stuck_;
    } else if (!control_.goesOn() || spent()) {
      out = "Stopped before anything was confirmed";
      if (out_.tried[out_.nearest].fault.empty())
        out += fmt::format("; nearest so far: {}: {}", changesText(out_.tried[out_.nearest]),
                           figuresText(out_.tried[out_.nearest]));
      out += ".";
    } else if (out_.tried[out_.nearest].fault.empty()) {
      out = fmt::format("Nothing within these ranges passes as far as was tried; nearest: {}: {}.",
                        changesText(out_.tried[out_.nearest]), figuresText(out_.tried[out_.nearest]));
    } else {
      out = "No design could be run: " + out_.tried[out_.nearest].fault;
    }
    if (!out_.already && stuck_.empty() && !out_.single.empty() && out_.single.front().gain > 0) {
      const SingleChange& s = out_.single.front();
      out += fmt::format(" Alone, {} at {} helps most{}.", sweep_.variables[s.variable].name, valueText(s.value),
                         s.passes ? " and would pass" : "");
    }
    return out + " (" + runs + ")";
  }

  struct Residual {
    Point at;
    std::vector<double> margins;
  };
  const Sweep& sweep_;
  const YardstickShelf& shelf_;
  StudyRunner& runner_;
  RunControl& control_;
  const LeastChangeWish& wish_;
  const std::function<void(const LeastChange&)>& partial_;
  const Variation *coarse_ = nullptr, *full_ = nullptr;
  std::vector<SweepGoal> bounds_;
  std::vector<std::vector<VaryValue>> levels_;
  Point now_;
  std::vector<bool> numeric_;
  std::vector<std::pair<double, Point>> all_;
  std::map<Point, std::size_t> known_, knownFull_;
  std::vector<std::vector<std::vector<double>>> alone_; ///< by bound, variable, level
  std::vector<Residual> residuals_;
  std::string stuck_;
  LeastChange out_;
};

} // namespace

Expected<LeastChange> leastChange(const Project& project, const Sweep& sweep, const YardstickShelf& shelf,
                                  StudyRunner& runner, RunControl& control, const LeastChangeWish& wish,
                                  const std::function<void(const LeastChange&)>& partial) {
  return Search(sweep, shelf, runner, control, wish, partial).run(project);
}

Expected<Project> withPointAsOption(const Project& project, const Sweep& sweep, const VaryPoint& values,
                                    const std::string& name) {
  const auto variation = Variation::of(project, sweep);
  if (!variation) return tl::unexpected(variation.error());
  if (values.size() != sweep.variables.size()) return fail("The values are not those of the sweep's variables.");
  auto made = variation->at(values);
  if (!made) return made;
  Project out = withNewOption(project, name);
  static_cast<Design&>(out) = static_cast<Design&>(*made);
  return out;
}

} // namespace noonward
