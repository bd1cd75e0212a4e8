#include "picture/sweep_picture.h"
#include "picture/paper.h"
#include "picture/picture_export.h"
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

QString num(double v) {
  return QString::number(v, 'g', 4);
}
QString named(const std::string& name, const std::string& unit) {
  return QString::fromStdString(unit.empty() ? name : name + ", " + unit);
}
double figureOf(const SweepRow& r, std::size_t outcome) {
  return outcome < r.figures.size() ? r.figures[outcome].value : NAN;
}

/// Ends of an axis: those of the values, rounded out to a step of 1, 2 or 5.
std::pair<double, double> ends(double low, double high) {
  if (!(high >= low)) return {0, 1};
  if (high - low < 1e-9 * std::max(1.0, std::abs(high))) {
    const double by = std::max(0.5, 0.05 * std::abs(high));
    return {low - by, high + by};
  }
  const double rough = (high - low) / 5, power = std::pow(10.0, std::floor(std::log10(rough)));
  double step = 10 * power;
  for (const double s : {1.0, 2.0, 5.0})
    if (rough <= s * power) {
      step = s * power;
      break;
    }
  return {std::floor(low / step + 1e-9) * step, std::ceil(high / step - 1e-9) * step};
}

/// The bound of a goal, where it has one.
std::vector<double> boundsOf(const SweepTable& t, std::size_t outcome) {
  std::vector<double> out;
  for (const SweepGoal& g : t.sweep.goals)
    if (g.outcome == t.sweep.outcomes[outcome].name && marginOf(g, 0)) out.push_back(g.value);
  return out;
}

bool isBounded(const SweepTable& t) {
  return std::any_of(t.sweep.goals.begin(), t.sweep.goals.end(),
                     [](const SweepGoal& g) { return marginOf(g, 0).has_value(); });
}
QColor rowColour(const SweepTable& t, const SweepRow& r, const Theme& theme) {
  if (!isBounded(t)) return theme.ink;
  return meetsBounds(t, r) ? theme.meets : theme.muted;
}

/// What the colours say, from the right.
void paintKey(QPainter& p, QPointF right, const SweepTable& t, bool edge, bool chosen, const Theme& theme) {
  std::vector<std::pair<QString, QColor>> list;
  if (isBounded(t)) list = {{"within all bounds", theme.meets}, {"not", theme.muted}};
  if (edge || chosen)
    list.emplace_back(!edge    ? "the run chosen"
                      : chosen ? "edge of the best; ring: the run chosen"
                               : "edge of the best",
                      theme.noon);
  p.setFont(textFont(10.5));
  double x = right.x();
  for (auto it = list.rbegin(); it != list.rend(); ++it) {
    x -= p.fontMetrics().horizontalAdvance(it->first);
    p.setPen(theme.muted);
    p.drawText(QPointF(x, right.y()), it->first);
    p.setPen(QPen(it->second, 2.4));
    p.drawLine(QPointF(x - 20, right.y() - 4), QPointF(x - 6, right.y() - 4));
    x -= 34;
  }
}

} // namespace

double SweepAxis::at(const SweepTable& t, const SweepRow& row, std::size_t index) const {
  if (outcome) {
    const double v = figureOf(row, index - t.sweep.variables.size());
    return std::isfinite(v) ? (v - low) / (high - low) : NAN;
  }
  const VaryValue& value = row.values[index];
  if (levels.empty()) return (*numberOf(value) - low) / (high - low);
  const auto found = std::find(levels.begin(), levels.end(), valueText(value)) - levels.begin();
  return levels.size() > 1 ? double(found) / double(levels.size() - 1) : 0.5;
}

SweepMap::SweepMap(const SweepTable& t, const SweepView& view, QRectF area) : table_(t), view_(view) {
  const std::size_t variables = t.sweep.variables.size(), all = variables + t.sweep.outcomes.size();
  if (view.way == SweepView::Way::Across) {
    plot_ = area.adjusted(50, 40, -50, -38);
    for (std::size_t k = 0; k < all; ++k) {
      SweepAxis a;
      a.outcome = k >= variables;
      a.name = a.outcome ? t.sweep.outcomes[k - variables].name : t.sweep.variables[k].name;
      a.unit = a.outcome ? t.outcomeUnits[k - variables] : t.units[k];
      double low = INFINITY, high = -INFINITY;
      if (!a.outcome) { // all that is varied, before all of it is run
        const Variable& v = t.sweep.variables[k];
        if (v.range) std::tie(low, high) = std::pair{v.range->from, v.range->to};
        for (const VaryValue& x : v.values)
          if (std::holds_alternative<double>(x)) {
            low = std::min(low, std::get<double>(x));
            high = std::max(high, std::get<double>(x));
          } else {
            a.levels.push_back(valueText(x));
          }
      }
      for (const SweepRow& r : t.rows) {
        std::optional<double> v = a.outcome ? figureOf(r, k - variables) : numberOf(r.values[k]);
        if (!a.outcome && std::holds_alternative<bool>(r.values[k])) v.reset();
        if (!v && !a.outcome) {
          if (std::find(a.levels.begin(), a.levels.end(), valueText(r.values[k])) == a.levels.end())
            a.levels.push_back(valueText(r.values[k]));
        } else if (std::isfinite(*v)) {
          low = std::min(low, *v);
          high = std::max(high, *v);
        }
      }
      std::tie(a.low, a.high) = a.outcome || low == high ? ends(low, high) : std::pair{low, high};
      if (!a.levels.empty()) std::tie(a.low, a.high) = std::pair{0.0, 1.0};
      a.x = plot_.left() + (all > 1 ? plot_.width() * double(k) / double(all - 1) : plot_.width() / 2);
      a.top = plot_.top();
      a.bottom = plot_.bottom();
      axes_.push_back(std::move(a));
    }
  } else {
    plot_ = area.adjusted(58, 24, -16, -40);
    for (int k = 0; k < 2; ++k) {
      double low = INFINITY, high = -INFINITY;
      const std::size_t o = std::min(k ? view.other : view.one, t.sweep.outcomes.size() - 1);
      for (const SweepRow& r : t.rows)
        if (const double v = figureOf(r, o); std::isfinite(v)) {
          low = std::min(low, v);
          high = std::max(high, v);
        }
      std::tie(low_[std::size_t(k)], high_[std::size_t(k)]) = ends(low, high);
    }
  }
}

QPointF SweepMap::place(std::size_t row, std::size_t axis) const {
  const SweepAxis& a = axes_[axis];
  const double at = a.at(table_, table_.rows[row], axis);
  return {a.x, std::isnan(at) ? NAN : a.bottom - (a.bottom - a.top) * at};
}
QPointF SweepMap::pair(std::size_t row) const {
  const double x = figureOf(table_.rows[row], view_.one), y = figureOf(table_.rows[row], view_.other);
  return {plot_.left() + plot_.width() * (x - low_[0]) / (high_[0] - low_[0]),
          plot_.bottom() - plot_.height() * (y - low_[1]) / (high_[1] - low_[1])};
}
bool SweepMap::kept(std::size_t row) const {
  for (std::size_t k = 0; k < axes_.size() && k < view_.picked.size(); ++k) {
    if (!view_.picked[k]) continue;
    const double at = axes_[k].at(table_, table_.rows[row], k);
    if (!(at >= view_.picked[k]->first - 1e-9 && at <= view_.picked[k]->second + 1e-9)) return false;
  }
  return true;
}
std::optional<std::size_t> SweepMap::axisAt(QPointF p) const {
  for (std::size_t k = 0; k < axes_.size(); ++k)
    if (std::abs(p.x() - axes_[k].x) <= 12 && p.y() >= axes_[k].top - 12 && p.y() <= axes_[k].bottom + 12) return k;
  return {};
}
std::optional<std::size_t> SweepMap::rowAt(QPointF p) const {
  std::optional<std::size_t> out;
  double nearest = 8;
  for (std::size_t r = 0; r < table_.rows.size(); ++r) {
    double d = INFINITY;
    if (view_.way == SweepView::Way::Pair) {
      const QPointF at = pair(r);
      d = std::hypot(at.x() - p.x(), at.y() - p.y());
    } else if (view_.way == SweepView::Way::Across && kept(r)) {
      for (std::size_t k = 0; k + 1 < axes_.size(); ++k) {
        const QPointF a = place(r, k), b = place(r, k + 1);
        if (p.x() < a.x() || p.x() > b.x() || std::isnan(a.y()) || std::isnan(b.y())) continue;
        d = std::min(d, std::abs(a.y() + (b.y() - a.y()) * (p.x() - a.x()) / (b.x() - a.x()) - p.y()));
      }
    }
    if (d < nearest) {
      nearest = d;
      out = r;
    }
  }
  return out;
}

namespace {

/// A row for each variable, a column for each figure; all cells of a column share their scale.
void paintEffects(QPainter& p, QRectF area, const SweepTable& t, const Theme& theme) {
  const std::size_t columns = t.sweep.outcomes.size(), lines = t.sweep.variables.size();
  const double head = 34, names = 104, gap = 14;
  const double wide = (area.width() - names) / double(columns), high = (area.height() - head) / double(lines);
  for (std::size_t o = 0; o < columns; ++o) {
    const OutcomeEffects e = effectsOn(t, o);
    const double left = area.left() + names + wide * double(o);
    p.setPen(theme.ink);
    p.setFont(textFont(12, true));
    p.drawText(
        QRectF(left + 40, area.top(), wide - 44, 16), Qt::AlignLeft,
        p.fontMetrics().elidedText(named(t.sweep.outcomes[o].name, t.outcomeUnits[o]), Qt::ElideRight, int(wide - 44)));
    p.setPen(theme.muted);
    p.setFont(textFont(10.5));
    p.drawText(QRectF(left + 40, area.top() + 16, wide - 44, 14), Qt::AlignLeft,
               e.rows > 1 ? QString("%1 % only together").arg(100 * e.together, 0, 'f', 0)
                          : QString("one run tells nothing"));
    if (e.variables.empty()) continue;
    double low = INFINITY, top = -INFINITY;
    for (const VariableEffect& v : e.variables)
      for (const LevelEffect& l : v.levels) {
        low = std::min(low, l.figure - l.error);
        top = std::max(top, l.figure + l.error);
      }
    for (const double b : boundsOf(t, o)) { // a bound nearby is shown
      const double range = std::max(1e-9, top - low);
      if (b > low - range && b < top + range) {
        low = std::min(low, b);
        top = std::max(top, b);
      }
    }
    const auto [from, to] = ends(low, top);
    for (std::size_t k = 0; k < lines; ++k) {
      const VariableEffect& v = e.variables[k];
      const QRectF cell(left + 40, area.top() + head + high * double(k) + 4, wide - 40 - gap, high - 26);
      const auto y = [&](double f) { return cell.bottom() - cell.height() * (f - from) / (to - from); };
      p.setPen(QPen(theme.rule, 1));
      p.drawLine(cell.topLeft(), cell.topRight());
      p.drawLine(cell.bottomLeft(), cell.bottomRight());
      p.setFont(figureFont(10));
      p.setPen(theme.muted);
      p.drawText(QRectF(left, cell.top() - 7, 36, 14), Qt::AlignRight | Qt::AlignVCenter, num(to));
      p.drawText(QRectF(left, cell.bottom() - 7, 36, 14), Qt::AlignRight | Qt::AlignVCenter, num(from));
      for (const double b : boundsOf(t, o))
        if (b >= from && b <= to) {
          p.setPen(QPen(theme.noon, 1, Qt::DashLine));
          p.drawLine(QPointF(cell.left(), y(b)), QPointF(cell.right(), y(b)));
        }
      const QColor ink = v.matters ? theme.ink : mixed(theme.raised, theme.muted, 0.7);
      const double n = double(v.levels.size());
      const auto x = [&](std::size_t l) { return cell.left() + cell.width() * (double(l) + 0.5) / n; };
      const bool numbers = std::holds_alternative<double>(v.levels.front().value);
      QPainterPath path;
      for (std::size_t l = 0; l < v.levels.size(); ++l) {
        const QPointF at(x(l), y(v.levels[l].figure));
        if (v.levels[l].error > 0) {
          p.setPen(QPen(ink, 1));
          p.drawLine(QPointF(at.x(), y(v.levels[l].figure - v.levels[l].error)),
                     QPointF(at.x(), y(v.levels[l].figure + v.levels[l].error)));
        }
        p.setPen(Qt::NoPen);
        p.setBrush(ink);
        p.drawEllipse(at, 2.6, 2.6);
        l == 0 ? path.moveTo(at) : path.lineTo(at);
        if (t.now[k] && *t.now[k] == v.levels[l].value) { // the design in hand
          p.setBrush(Qt::NoBrush);
          p.setPen(QPen(theme.noon, 1.4));
          p.drawEllipse(at, 5.5, 5.5);
        }
      }
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(ink, v.matters ? 1.8 : 1.2, numbers ? Qt::SolidLine : Qt::DotLine));
      p.drawPath(path);
      p.setFont(figureFont(10));
      p.setPen(theme.muted);
      const std::size_t every =
          std::max<std::size_t>(1, std::size_t(std::ceil(n * (numbers ? 30 : 58) / cell.width())));
      for (std::size_t l = 0; l < v.levels.size(); l += every)
        p.drawText(QRectF(x(l) - 34, cell.bottom() + 3, 68, 14), Qt::AlignHCenter,
                   p.fontMetrics().elidedText(QString::fromStdString(valueText(v.levels[l].value)), Qt::ElideRight,
                                              int(std::max(28.0, double(every) * cell.width() / n - 4))));
      if (!v.matters) {
        p.setFont(textFont(10.5));
        p.drawText(QRectF(cell.left(), cell.top() + 2, cell.width() - 2, 14), Qt::AlignRight, "within its error");
      }
    }
  }
  for (std::size_t k = 0; k < lines; ++k) {
    p.setPen(theme.ink);
    p.setFont(textFont(12));
    p.drawText(QRectF(area.left(), area.top() + head + high * double(k) + 4, names - 6, high - 26),
               Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap, named(t.sweep.variables[k].name, t.units[k]));
  }
}

void paintAcross(QPainter& p, QRectF area, const SweepTable& t, const SweepView& view, const Theme& theme) {
  const SweepMap map(t, view, area);
  const auto line = [&](std::size_t r, const QPen& pen) {
    QPainterPath path;
    bool open = false;
    for (std::size_t k = 0; k < map.axes().size(); ++k) {
      const QPointF at = map.place(r, k);
      if (std::isnan(at.y())) {
        open = false;
        continue;
      }
      open ? path.lineTo(at) : path.moveTo(at);
      open = true;
    }
    p.setPen(pen);
    p.drawPath(path);
  };
  p.setBrush(Qt::NoBrush);
  for (std::size_t r = 0; r < t.rows.size(); ++r)
    if (!map.kept(r)) line(r, QPen(mixed(theme.raised, theme.rule, 0.5), 0.7));
  const double strong = t.rows.size() > 200 ? 0.35 : 0.75;
  for (std::size_t r = 0; r < t.rows.size(); ++r)
    if (map.kept(r) && r != view.chosen) {
      QColor c = rowColour(t, t.rows[r], theme);
      c.setAlphaF(float(strong));
      line(r, QPen(c, 1.1));
    }
  if (view.chosen && *view.chosen < t.rows.size()) line(*view.chosen, QPen(theme.noon, 2.4));
  paintKey(p, {area.right() - 4, area.bottom() - 4}, t, false, view.chosen.has_value(), theme);
  for (std::size_t k = 0; k < map.axes().size(); ++k) {
    const SweepAxis& a = map.axes()[k];
    p.setPen(QPen(a.outcome ? theme.ink : theme.muted, a.outcome ? 1.4 : 1));
    p.drawLine(QPointF(a.x, a.top), QPointF(a.x, a.bottom));
    if (k < view.picked.size() && view.picked[k]) {
      const double y0 = a.bottom - (a.bottom - a.top) * view.picked[k]->second,
                   y1 = a.bottom - (a.bottom - a.top) * view.picked[k]->first;
      QColor fill = theme.noon;
      fill.setAlphaF(0.25f);
      p.fillRect(QRectF(a.x - 6, y0, 12, std::max(2.0, y1 - y0)), fill);
      p.setPen(QPen(theme.noon, 1));
      p.drawRect(QRectF(a.x - 6, y0, 12, std::max(2.0, y1 - y0)));
    }
    const double half = map.axes().size() > 1 ? (map.axes()[1].x - map.axes()[0].x) / 2 - 3 : 60;
    p.setFont(textFont(11.5, a.outcome));
    p.setPen(theme.ink);
    p.drawText(QRectF(a.x - half, a.top - 38, 2 * half, 15), Qt::AlignHCenter,
               p.fontMetrics().elidedText(QString::fromStdString(a.name), Qt::ElideRight, int(2 * half)));
    p.setFont(figureFont(10));
    p.setPen(theme.muted);
    const auto mark = [&](double at, const QString& text) {
      p.drawText(QRectF(a.x - half, at - 7, half - 8, 14), Qt::AlignRight | Qt::AlignVCenter,
                 p.fontMetrics().elidedText(text, Qt::ElideRight, int(half - 8)));
    };
    const QString unit = a.unit.empty() ? QString() : " " + QString::fromStdString(a.unit);
    if (a.levels.empty()) {
      p.drawText(QRectF(a.x - half, a.top - 20, 2 * half, 14), Qt::AlignHCenter, num(a.high) + unit);
      p.drawText(QRectF(a.x - half, a.bottom + 4, 2 * half, 14), Qt::AlignHCenter, num(a.low) + unit);
    } else {
      for (std::size_t l = 0; l < a.levels.size(); ++l)
        mark(a.levels.size() > 1 ? a.bottom - (a.bottom - a.top) * double(l) / double(a.levels.size() - 1)
                                 : (a.top + a.bottom) / 2,
             QString::fromStdString(a.levels[l]));
    }
    if (a.outcome)
      for (const double b : boundsOf(t, k - t.sweep.variables.size()))
        if (b >= a.low && b <= a.high) {
          const double y = a.bottom - (a.bottom - a.top) * (b - a.low) / (a.high - a.low);
          p.setPen(QPen(theme.noon, 2));
          p.drawLine(QPointF(a.x - 7, y), QPointF(a.x + 7, y));
        }
  }
}

void paintPair(QPainter& p, QRectF area, const SweepTable& t, const SweepView& view, const Theme& theme) {
  const SweepMap map(t, view, area);
  const QRectF f = map.plot();
  p.setFont(figureFont(10));
  for (int k = 0; k <= 4; ++k) {
    const double x = f.left() + f.width() * k / 4, y = f.bottom() - f.height() * k / 4;
    p.setPen(QPen(theme.rule, 1));
    p.drawLine(QPointF(f.left(), y), QPointF(f.right(), y));
    p.drawLine(QPointF(x, f.top()), QPointF(x, f.bottom()));
    p.setPen(theme.muted);
    p.drawText(QRectF(f.left() - 56, y - 7, 50, 14), Qt::AlignRight | Qt::AlignVCenter,
               num(map.low(true) + (map.high(true) - map.low(true)) * k / 4));
    p.drawText(QRectF(x - 40, f.bottom() + 3, 80, 14), Qt::AlignHCenter,
               num(map.low(false) + (map.high(false) - map.low(false)) * k / 4));
  }
  p.setFont(textFont(12));
  p.setPen(theme.ink);
  p.drawText(QRectF(f.left(), area.top(), f.width(), 18), Qt::AlignLeft,
             named(t.sweep.outcomes[view.other].name, t.outcomeUnits[view.other]));
  p.drawText(QRectF(f.left(), f.bottom() + 20, f.width(), 18), Qt::AlignRight,
             named(t.sweep.outcomes[view.one].name, t.outcomeUnits[view.one]));
  for (const bool other : {false, true})
    for (const double b : boundsOf(t, other ? view.other : view.one)) {
      const double at = (b - map.low(other)) / (map.high(other) - map.low(other));
      if (at < 0 || at > 1) continue;
      p.setPen(QPen(theme.noon, 1.2, Qt::DashLine));
      if (other)
        p.drawLine(QPointF(f.left(), f.bottom() - f.height() * at), QPointF(f.right(), f.bottom() - f.height() * at));
      else
        p.drawLine(QPointF(f.left() + f.width() * at, f.top()), QPointF(f.left() + f.width() * at, f.bottom()));
    }
  const auto more = [&](std::size_t o) {
    for (const SweepGoal& g : t.sweep.goals)
      if (g.outcome == t.sweep.outcomes[o].name)
        return g.kind == SweepGoal::Kind::Most || g.kind == SweepGoal::Kind::AtLeast;
    return true;
  };
  QPainterPath edge;
  bool open = false;
  for (const std::size_t k : edgeOf(t, view.one, more(view.one), view.other, more(view.other))) {
    open ? edge.lineTo(map.pair(k)) : edge.moveTo(map.pair(k));
    open = true;
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(theme.noon, 1.4));
  p.drawPath(edge);
  paintKey(p, {f.right(), area.top() + 12}, t, true, view.chosen.has_value(), theme);
  for (std::size_t r = 0; r < t.rows.size(); ++r) {
    const QPointF at = map.pair(r);
    if (std::isnan(at.x()) || std::isnan(at.y())) continue;
    const SweepFigure &x = t.rows[r].figures[view.one], &y = t.rows[r].figures[view.other];
    const QColor c = rowColour(t, t.rows[r], theme);
    QColor pale = c;
    pale.setAlphaF(0.45f);
    p.setPen(QPen(pale, 1));
    const double dx = f.width() * x.error / (map.high(false) - map.low(false)),
                 dy = f.height() * y.error / (map.high(true) - map.low(true));
    if (dx > 0) p.drawLine(at - QPointF(dx, 0), at + QPointF(dx, 0));
    if (dy > 0) p.drawLine(at - QPointF(0, dy), at + QPointF(0, dy));
    p.setPen(Qt::NoPen);
    p.setBrush(c);
    p.drawEllipse(at, 3, 3);
    if (view.chosen == r) {
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(theme.noon, 2));
      p.drawEllipse(at, 7, 7);
    }
  }
}

} // namespace

void paintSweep(QPainter& p, QRectF area, const SweepTable& t, const SweepView& view, const Theme& theme) {
  p.setRenderHint(QPainter::Antialiasing, true);
  if (t.rows.empty() || t.sweep.outcomes.empty() || t.sweep.variables.empty()) {
    p.setPen(theme.muted);
    p.setFont(textFont(12));
    p.drawText(area, Qt::AlignCenter, "No runs yet.");
    return;
  }
  switch (view.way) {
  case SweepView::Way::Effects:
    return paintEffects(p, area, t, theme);
  case SweepView::Way::Across:
    return paintAcross(p, area, t, view, theme);
  case SweepView::Way::Pair:
    return paintPair(p, area, t, view, theme);
  }
}

QString sweepText(const SweepTable& t, const SweepView& view) {
  if (t.rows.empty()) return "No runs yet.";
  QString out = QString("%1 of %2 runs").arg(t.rows.size()).arg(t.all);
  if (view.way == SweepView::Way::Across) {
    const SweepMap map(t, view, QRectF(0, 0, 800, 400));
    std::size_t kept = 0;
    for (std::size_t r = 0; r < t.rows.size(); ++r) kept += map.kept(r);
    out += QString(", %1 within what is picked").arg(kept);
  }
  return out + ".";
}

Outcome saveSweepPage(const SweepTable& t, const std::filesystem::path& file) {
  const Theme theme = paperTheme();
  const double rows = std::max<double>(1, double(t.sweep.variables.size()));
  const QSizeF size(960, 150 + 96 * rows + 40 + 300 + (t.sweep.outcomes.size() > 1 ? 320 : 0) + 60);
  PaperSheet sheet;
  sheet.size = size;
  sheet.title = QString::fromStdString(t.sweep.name);
  return writePaper(file, sheet, {[&](QPainter& p) {
                      p.fillRect(QRectF(QPointF(0, 0), size), theme.paper);
                      p.setPen(theme.ink);
                      p.setFont(titleFont(22));
                      p.drawText(QRectF(32, 22, 900, 32), Qt::AlignLeft, QString::fromStdString(t.sweep.name));
                      p.setFont(textFont(11.5));
                      p.setPen(theme.muted);
                      QStringList lines{
                          QString("%1 · %2 of %3 runs · key %4. Rings mark the design in hand, dashes what "
                                  "is asked; errors are numerical alone.")
                              .arg(QString::fromStdString(t.project))
                              .arg(t.rows.size())
                              .arg(t.all)
                              .arg(QString::fromStdString(t.key.fingerprint()))};
                      for (const SweepBest& b : bestOf(t)) lines << QString::fromStdString(b.text);
                      p.drawText(QRectF(32, 56, 896, 84), Qt::AlignLeft | Qt::TextWordWrap, lines.join("\n"));
                      double y = 150;
                      SweepView view;
                      paintSweep(p, QRectF(32, y, 896, 96 * rows + 34), t, view, theme);
                      y += 96 * rows + 40;
                      view.way = SweepView::Way::Across;
                      paintSweep(p, QRectF(32, y, 896, 290), t, view, theme);
                      y += 300;
                      view.way = SweepView::Way::Pair;
                      if (t.sweep.outcomes.size() > 1) paintSweep(p, QRectF(32, y, 896, 310), t, view, theme);
                    }});
}

} // namespace noonward
