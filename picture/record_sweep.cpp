#include "core/base/words.h"
#include "core/runs/sweep/sweep_words.h"
#include "picture/beside_picture.h"
#include "picture/record_chapters.h"
#include "picture/sweep_picture.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

QString figureCell(const SweepFigure& f) {
  if (!std::isfinite(f.value)) return "–";
  const QString value = QString::number(f.value, 'g', 4);
  return f.error > 0 ? value + " ± " + QString::number(f.error, 'g', 2) : value;
}

} // namespace

void composeSweep(const ChapterPage& page, const SweepChapter& c) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  if (!c.table) {
    w.paragraph(q("Not run: " + c.fault), t.short_, 10, true);
    return;
  }
  const SweepTable& s = *c.table;
  w.paragraph(
      q(fmt::format("{}{}{}. Each is computed as the studies of this record are; errors are numerical alone. The "
                    "whole table stands beside this page.",
                    counted(s.rows.size(), "design", "designs"),
                    s.rows.size() < s.all ? fmt::format(" of {}", s.all) : std::string(),
                    s.leftOut > 0 ? fmt::format(", {} left out by conditions", s.leftOut) : std::string())),
      t.ink, 9.2);
  std::vector<std::pair<QString, QString>> facts;
  for (std::size_t k = 0; k < s.sweep.variables.size(); ++k) {
    const Variable& v = s.sweep.variables[k];
    std::string at;
    for (const std::string& place : v.at) at += (at.empty() ? "" : ", ") + place;
    facts.emplace_back(q(v.name),
                       q(fmt::format("{}{} · {} · now {}", valuesText(v), s.units[k].empty() ? "" : " " + s.units[k],
                                     at, s.now[k] ? valueText(*s.now[k]) : std::string("not set"))));
  }
  for (const std::string& condition : s.sweep.conditions) facts.emplace_back("only where", q(condition));
  for (const SweepOutcome& o : s.sweep.outcomes) {
    const std::string goals = goalsText(s.sweep, o.name);
    facts.emplace_back(q(o.name),
                       q((o.source.empty() ? std::string("model") : o.source) + ": " + o.figure +
                         (o.group.empty() ? "" : " of " + o.group) + (goals.empty() ? "" : "; wanted: " + goals)));
  }
  w.facts(facts);
  const auto best = bestOf(s);
  for (const SweepBest& b : best) w.paragraph(q(b.text), b.meets ? t.meets : t.short_, 9.5, true);
  if (best.size() > 1)
    if (const std::string why = whyPart(s, best[0], best[1]); !why.empty()) w.paragraph(q(why), t.ink, 9);
  if (s.rows.size() > 1) {
    SweepView view;
    w.picture(70.0 * double(s.sweep.variables.size()) + 36,
              [&](QPainter& p, QRectF area) { paintSweep(p, area, s, view, t); });
    if (s.sweep.outcomes.size() > 1) {
      view.way = SweepView::Way::Pair;
      w.picture(220, [&](QPainter& p, QRectF area) { paintSweep(p, area, s, view, t); });
    }
  }
  // The best, what can't be told from them, then the first rows.
  std::vector<std::size_t> shown;
  const auto take = [&](std::size_t k) {
    if (shown.size() < 24 && std::find(shown.begin(), shown.end(), k) == shown.end()) shown.push_back(k);
  };
  for (const SweepBest& b : best) take(b.row);
  for (const SweepBest& b : best)
    for (const std::size_t k : b.alike) take(k);
  for (std::size_t k = 0; k < s.rows.size() && k < 12; ++k) take(k);
  std::vector<Flow::Column> columns{{"run", 0.6, true}};
  for (std::size_t k = 0; k < s.sweep.variables.size(); ++k)
    columns.push_back({q(s.sweep.variables[k].name + (s.units[k].empty() ? "" : " " + s.units[k])), 1, true});
  for (std::size_t o = 0; o < s.sweep.outcomes.size(); ++o)
    columns.push_back(
        {q(s.sweep.outcomes[o].name + (s.outcomeUnits[o].empty() ? "" : " " + s.outcomeUnits[o])), 1.3, true});
  std::vector<QStringList> rows;
  for (const std::size_t k : shown) {
    const SweepRow& r = s.rows[k];
    QStringList cells{QString::number(r.number + 1)};
    for (const VaryValue& v : r.values) cells << q(valueText(v));
    for (std::size_t o = 0; o < s.sweep.outcomes.size(); ++o)
      cells << (o < r.figures.size() ? figureCell(r.figures[o]) : QString("–"));
    rows.push_back(std::move(cells));
  }
  w.table(columns, rows);
}

void composeBeside(const ChapterPage& page, const BesideChapter& c) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  if (!c.found) {
    w.paragraph(q("Not laid beside each other: " + c.fault), t.short_, 10, true);
    return;
  }
  const Beside& b = *c.found;
  BesideView view;
  view.units = page.facts.project.units;
  w.paragraph("Right of each bar its figure and how far it moved from the first (≈: within the error of both). Errors "
              "are numerical alone.",
              t.muted, 9);
  for (const BesideDesign& d : b.designs) {
    if (!d.fault.empty()) w.paragraph(q(d.name + ": " + d.fault), t.short_, 9);
    std::string text;
    for (std::size_t k = 0; k < std::min<std::size_t>(d.inputs.size(), 10); ++k) text += (k ? "; " : "") + d.inputs[k];
    if (d.inputs.size() > 10) text += fmt::format("; and {} more", d.inputs.size() - 10);
    if (!text.empty()) w.paragraph(q(d.name + " differs: " + text + "."), t.ink, 9);
  }
  const auto maps = besideMaps(b, view);
  if (std::any_of(maps.begin(), maps.end(), [](const auto& m) { return m != nullptr; }))
    w.picture(2 * std::min(200.0, w.width() / double(b.designs.size())) + 150,
              [&](QPainter& p, QRectF area) { paintBesidePlans(p, area, b, view, BesidePlans::Both, t); });
  const double bars = paintBesideBars(nullptr, QRectF(0, 0, w.width(), 0), b, view, t);
  w.picture(bars, [&](QPainter& p, QRectF area) { paintBesideBars(&p, area, b, view, t); });
  std::vector<Flow::Column> columns{{"study", 1.6, false}, {"space", 1.4, false}, {"figure", 1.4, false}};
  for (std::size_t k = 0; k < b.designs.size(); ++k) {
    columns.push_back({q(b.designs[k].name), 1, true});
    if (k > 0) columns.push_back({"moved", 0.8, true});
  }
  std::vector<QStringList> rows;
  for (const BesideFigure& f : b.figures) {
    const ShownUnit unit = shownUnit(f.unit, view.units);
    QStringList cells{q(f.study), q(f.space), q(f.figure + (unit.symbol.empty() ? "" : ", " + unit.symbol))};
    for (std::size_t k = 0; k < f.of.size(); ++k) {
      cells << besideFigureText(f, k, view);
      if (k > 0) cells << besideMovedText(f, k, view);
    }
    rows.push_back(std::move(cells));
  }
  w.table(columns, rows);
}

} // namespace noonward
