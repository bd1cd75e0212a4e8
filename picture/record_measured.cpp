#include "core/base/words.h"
#include "picture/record_chapters.h"
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// Means of months of all sensors, measured and computed; NaN where a month has none.
struct MonthMeans {
  std::array<double, 12> measured, computed;
  double most = 0;
};
MonthMeans monthMeans(const Comparison& c) {
  MonthMeans out;
  std::array<std::size_t, 12> n{};
  out.measured.fill(0);
  out.computed.fill(0);
  for (const ComparedSensor& s : c.sensors)
    for (std::size_t h = 0; h < s.measured.size(); ++h) {
      if (!std::isfinite(s.measured[h])) continue;
      const std::size_t m = std::size_t(plusDays({2025, 1, 1}, int(h / 24)).month - 1);
      out.measured[m] += double(s.measured[h]);
      out.computed[m] += double(s.modelled[h]);
      ++n[m];
    }
  for (std::size_t m = 0; m < 12; ++m) {
    out.measured[m] = n[m] ? out.measured[m] / double(n[m]) : NAN;
    out.computed[m] = n[m] ? out.computed[m] / double(n[m]) : NAN;
    if (n[m]) out.most = std::max({out.most, out.measured[m], out.computed[m]});
  }
  return out;
}

double roundedUp(double v) {
  const double power = std::pow(10.0, std::floor(std::log10(std::max(v, 1e-9))));
  for (const double step : {1.0, 2.0, 2.5, 5.0})
    if (v <= step * power * (1 + 1e-9)) return step * power;
  return 10 * power;
}

QString amount(double v) {
  return QString("%L1").arg(v, 0, 'f', v != 0 && std::abs(v) < 10 ? 1 : 0);
}

void scaleAt(QPainter& p, const QRectF& f, double most, const Theme& t, bool below) {
  p.setFont(figureFont(7));
  for (int k = 0; k <= 4; ++k) {
    const double y = f.bottom() - f.height() * k / 4, x = f.left() + f.width() * k / 4;
    const QString text = amount(most * k / 4);
    p.setPen(QPen(t.rule, 0.6));
    p.drawLine(QPointF(f.left(), y), QPointF(f.right(), y));
    p.setPen(t.muted);
    p.drawText(QRectF(f.left() - 44, y - 6, 40, 12), Qt::AlignRight | Qt::AlignVCenter, text);
    if (below) p.drawText(QRectF(x - 25, f.bottom() + 3, 50, 12), Qt::AlignCenter, text);
  }
}

void paintMonths(QPainter& p, const QRectF& f, const Comparison& c, const QString& unit, const Theme& t) {
  const MonthMeans means = monthMeans(c);
  const double most = roundedUp(means.most);
  scaleAt(p, f, most, t, false);
  p.setFont(textFont(7.5));
  p.setPen(t.muted);
  for (int m = 0; m < 12; ++m)
    p.drawText(QRectF(f.left() + f.width() * m / 12, f.bottom() + 3, f.width() / 12, 12), Qt::AlignCenter,
               q(monthName(m + 1)).left(1));
  const auto line = [&](const std::array<double, 12>& values, const QPen& pen) {
    QPainterPath path;
    bool open = false;
    for (std::size_t m = 0; m < 12; ++m) {
      if (!std::isfinite(values[m])) {
        open = false;
        continue;
      }
      const QPointF at(f.left() + f.width() * (double(m) + 0.5) / 12, f.bottom() - f.height() * values[m] / most);
      open ? path.lineTo(at) : path.moveTo(at);
      open = true;
      p.setPen(Qt::NoPen);
      p.setBrush(pen.color());
      p.drawEllipse(at, 1.6, 1.6);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(pen);
    p.drawPath(path);
  };
  line(means.measured, QPen(t.ink, 1.2));
  line(means.computed, QPen(t.noon, 1.2, Qt::DashLine));
  p.setFont(textFont(8));
  p.setPen(t.ink);
  p.drawText(QPointF(f.left(), f.top() - 8), "Mean of each month, " + unit + ": measured —");
  p.setPen(t.noon);
  p.drawText(QPointF(f.left() + p.fontMetrics().horizontalAdvance("Mean of each month, " + unit + ": measured —  "),
                     f.top() - 8),
             "computed - -");
}

void paintPairs(QPainter& p, const QRectF& f, const Comparison& c, const QString& unit, const Theme& t) {
  // A few hours of beam on a desk stand far above all others: the scale ends where 99.5 % do, and the rest is counted.
  std::vector<float> larger;
  for (const ComparedSensor& s : c.sensors)
    for (std::size_t h = 0; h < s.measured.size(); ++h)
      if (std::isfinite(s.measured[h])) larger.push_back(std::max(s.measured[h], s.modelled[h]));
  if (larger.empty()) return;
  const std::size_t pairs = larger.size();
  const auto at = larger.begin() + std::ptrdiff_t(double(pairs - 1) * 0.995);
  std::nth_element(larger.begin(), at, larger.end());
  const double most = roundedUp(double(*at));
  const auto beyond =
      std::size_t(std::count_if(larger.begin(), larger.end(), [&](float v) { return double(v) > most; }));
  scaleAt(p, f, most, t, true);
  p.setPen(QPen(t.rule, 0.8));
  p.drawLine(f.bottomLeft(), f.topRight());
  p.setPen(Qt::NoPen);
  QColor dot = t.ink;
  dot.setAlphaF(0.35);
  p.setBrush(dot);
  const std::size_t every = std::max<std::size_t>(1, pairs / 2500); // a page holds no more dots
  std::size_t k = 0;
  for (const ComparedSensor& s : c.sensors)
    for (std::size_t h = 0; h < s.measured.size(); ++h)
      if (std::isfinite(s.measured[h]) && double(std::max(s.measured[h], s.modelled[h])) <= most && k++ % every == 0)
        p.drawEllipse(QPointF(f.left() + f.width() * double(s.modelled[h]) / most,
                              f.bottom() - f.height() * double(s.measured[h]) / most),
                      0.8, 0.8);
  p.setFont(textFont(8));
  p.setPen(t.ink);
  p.drawText(QPointF(f.left(), f.top() - 8), "Measured (up) against computed, " + unit +
                                                 (every > 1 ? QString(", one in %1").arg(every) : QString()) +
                                                 (beyond > 0 ? QString("; %1 beyond").arg(beyond) : QString()));
}

QStringList agreementCells(const QString& name, const Agreement& a) {
  const auto share = [](double v) { return std::isfinite(v) ? QString::number(100 * v, 'f', 1) : QString("–"); };
  return {name,
          QString("%L1").arg(a.n),
          QString::number(a.meanObserved, 'f', 0),
          QString::number(a.meanModelled, 'f', 0),
          share(a.nmbe),
          share(a.cvRmse),
          std::isfinite(a.r2) ? QString::number(a.r2, 'f', 3) : "–"};
}

} // namespace

void composeMeasured(const ChapterPage& page, const MeasuredChapter& c) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  if (!c.found) {
    w.paragraph(q("Not compared: " + c.fault), t.short_, 10, true);
    return;
  }
  const Measuring& m = *c.found;
  const Comparison& x = m.comparison;
  std::string files;
  for (const std::string& file : c.series.files)
    files += (files.empty() ? "" : ", ") + std::filesystem::path(file).filename().string();
  w.paragraph(q(fmt::format("{} against {}. {}", files, c.study, measuredText(m))), t.ink, 9.2);
  w.paragraph(
      "Computed hours are means of the weather's hours, measured ones means of the readings in them, both in the "
      "weather's standard time. Deviations hold what weather, model, finishes and instrument err by.",
      t.muted, 8.8);
  if (c.verdict)
    w.paragraph(q(c.verdict->text + ". " + c.guideline->source), c.verdict->meets ? t.meets : t.short_, 9.5, true);
  else if (!c.series.guideline.empty())
    w.paragraph(q("Its guideline \"" + c.series.guideline + "\" is not there."), t.short_, 9.2);
  w.picture(176, [&](QPainter& p, QRectF area) {
    p.setRenderHint(QPainter::Antialiasing, true);
    const double half = area.width() / 2;
    paintMonths(p, {area.left() + 46, area.top() + 24, half - 66, area.height() - 48}, x, m.unit, t);
    paintPairs(p, {area.left() + half + 46, area.top() + 24, half - 66, area.height() - 48}, x, m.unit, t);
  });
  std::vector<QStringList> rows;
  constexpr std::size_t most = 40;
  for (std::size_t k = 0; k < std::min(most, x.sensors.size()); ++k)
    rows.push_back(agreementCells(q(x.sensors[k].sensor), x.sensors[k].hours));
  if (x.sensors.size() > most)
    w.paragraph(
        QString("%1 sensors are in the tables beside this page; the first %2:").arg(x.sensors.size()).arg(most));
  rows.push_back(agreementCells("All, by hour", x.hours));
  const QString unit = m.unit;
  const std::vector<Flow::Column> columns{{"sensor", 2.6, false},
                                          {"hours", 1, true},
                                          {"measured " + unit, 1.2, true},
                                          {"computed " + unit, 1.2, true},
                                          {"NMBE %", 1, true},
                                          {"CV(RMSE) %", 1, true},
                                          {"R²", 1, true}};
  w.table(columns, rows, {}, true);
  rows.clear();
  for (const SunBin& b : x.bySun)
    rows.push_back(agreementCells(q(fmt::format("altitude {:.0f}° to {:.0f}°", degrees(b.from), degrees(b.from) + 10)),
                                  b.agreement));
  std::vector<Flow::Column> sun = columns;
  sun.front().head = "altitude of the sun";
  if (!rows.empty()) w.table(sun, rows);
  std::vector<std::string> nearer;
  for (const Suggestion& s : x.suggestions)
    if (s.counts) nearer.push_back(s.text);
  w.paragraph(nearer.empty() ? "What would bring them nearer: nothing that was tried counts for more than its noise."
                             : q("What would bring them nearer; nothing of it is applied: " +
                                 fmt::format("{}", fmt::join(nearer, "; ")) + "."),
              t.ink, 9);
}

} // namespace noonward
