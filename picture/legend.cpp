#include "picture/legend.h"
#include <cmath>

namespace noonward {

QColor colorOf(const FieldScale& s, double value) {
  return paletteColor(s.palette, s.high > s.low ? (value - s.low) / (s.high - s.low) : 0);
}

std::vector<double> ticks(double low, double high) {
  if (!(high > low)) return {low};
  double step = std::pow(10, std::floor(std::log10((high - low) / 3)));
  for (const double f : {1.0, 2.0, 2.5, 5.0, 10.0})
    if ((high - low) / (step * f) <= 6) {
      step *= f;
      break;
    }
  std::vector<double> out;
  for (double v = std::ceil(low / step - 1e-9) * step; v <= high + 1e-9 * step; v += step) out.push_back(v);
  return out;
}

QBrush belowPattern(const QColor& c) {
  return QBrush(c, Qt::Dense6Pattern);
}
QBrush abovePattern(const QColor& c) {
  return QBrush(c, Qt::BDiagPattern);
}

void paintLegend(QPainter& p, QRectF at, const FieldScale& s, const Theme& theme, double k) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  const QRectF strip(at.left(), at.top() + 17 * k, at.width(), 11 * k);
  const auto x = [&](double v) { return strip.left() + strip.width() * (v - s.low) / (s.high - s.low); };
  const int n = std::max(2, int(strip.width()));
  p.setPen(Qt::NoPen);
  for (int i = 0; i < n; ++i) {
    p.setBrush(colorOf(s, s.low + (s.high - s.low) * (i + 0.5) / n));
    p.drawRect(QRectF(strip.left() + strip.width() * i / n, strip.top(), strip.width() / n + 1, strip.height()));
  }
  p.setFont(textFont(11 * k));
  p.setPen(theme.muted);
  const bool marked = s.threshold > s.low && s.threshold < s.high;
  const QString mark = QString("%1 %2").arg(s.threshold, 0, 'g', 3).arg(QString::fromStdString(s.unit)).trimmed() +
                       (s.dotBelow ? QString(", dotted below") : QString());
  const QFontMetricsF metrics(p.font());
  // Both stand on one line: the title gives way.
  p.drawText(QPointF(strip.left(), at.top() + 11 * k),
             metrics.elidedText(QString::fromStdString(s.title), Qt::ElideRight,
                                strip.width() - (marked ? metrics.horizontalAdvance(mark) + 10 * k : 0)));
  if (marked) {
    const double t = x(s.threshold);
    if (s.dotBelow) {
      p.setPen(Qt::NoPen);
      p.setBrush(QColor(255, 255, 255, 150));
      for (double dx = strip.left() + 3 * k; dx < t - 1.5 * k; dx += 5 * k)
        for (double dy = strip.top() + 3 * k; dy < strip.bottom(); dy += 5 * k)
          p.drawEllipse(QPointF(dx, dy), 0.8 * k, 0.8 * k);
    }
    p.setPen(QPen(theme.noon, 1.6 * k));
    p.drawLine(QPointF(t, strip.top() - 3 * k), QPointF(t, strip.bottom() + 3 * k));
    p.setPen(theme.noonText);
    p.drawText(QRectF(strip.left(), at.top(), strip.width(), 13 * k), Qt::AlignRight | Qt::AlignVCenter, mark);
  }
  p.setFont(figureFont(10.5 * k));
  p.setPen(theme.ink);
  const std::vector<double> marks = ticks(s.low, s.high);
  double free = 1e9; // the last first: it has the unit, and others give way
  for (auto mark = marks.rbegin(); mark != marks.rend(); ++mark) {
    const double v = *mark + 0.0; // no "-0"
    p.drawLine(QPointF(x(v), strip.bottom()), QPointF(x(v), strip.bottom() + 3 * k));
    QString text = QString::number(v, 'g', 4);
    if (mark == marks.rbegin()) text += " " + QString::fromStdString(s.unit);
    const double w = QFontMetricsF(p.font()).horizontalAdvance(text) + 2;
    const double left = std::min(x(v) - w / 2, strip.right() + 26 * k - w); // a unit may be long
    if (left + w > free) continue;
    free = left - 3 * k;
    p.drawText(QRectF(left, strip.bottom() + 3 * k, w, 14 * k), Qt::AlignHCenter | Qt::AlignTop, text);
  }
  p.restore();
}

void paintNorth(QPainter& p, QPointF at, const Camera& camera, double northAngle, const Theme& theme, double k) {
  // True north in the drawing's axes.
  const Vec3 north{-std::sin(northAngle), std::cos(northAngle), 0};
  QPointF d(dot(north, camera.right()), -dot(north, camera.up()));
  const double l = std::hypot(d.x(), d.y());
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setPen(QPen(theme.ink, 1.4 * k));
  p.setFont(figureFont(10.5 * k));
  const double a = degrees(wrapPi(northAngle));
  const QString angle = QString("N %1°").arg(std::abs(a) < 0.05 ? 0.0 : a, 0, 'g', 4);
  if (l < 0.12) {
    p.drawText(at + QPointF(12 * k, 4 * k), angle + " (seen end-on)");
  } else {
    const QPointF tip = at + d / std::max(l, 0.35) * 15 * k, tail = at - d / std::max(l, 0.35) * 15 * k;
    p.drawLine(tail, tip);
    p.setBrush(theme.ink);
    p.drawEllipse(tail, 2.2 * k, 2.2 * k);
    const QPointF u = d / l, v(-u.y(), u.x());
    p.drawPolygon(QPolygonF({tip + u * 5 * k, tip + v * 2.6 * k, tip - v * 2.6 * k}));
    p.drawText(at + QPointF(20 * k, 4 * k), angle);
  }
  p.restore();
}

void paintScaleBar(QPainter& p, QPointF at, const Camera& camera, double heightPixels, const QString& unit,
                   double metresPerUnit, const Theme& theme, double k) {
  if (!camera.parallel()) return;
  const double unitsPerPixel = camera.metresPerPixel(heightPixels) / metresPerUnit;
  const double wish = 90 * k * unitsPerPixel, power = std::pow(10, std::floor(std::log10(wish)));
  double bar = power;
  for (const double f : {2.0, 5.0, 10.0})
    if (power * f <= wish) bar = power * f;
  const double w = bar / unitsPerPixel;
  p.save();
  p.setPen(QPen(theme.ink, 1.2 * k));
  p.drawLine(at, at + QPointF(w, 0));
  for (const double x : {0.0, w / 2, w}) p.drawLine(at + QPointF(x, -3 * k), at + QPointF(x, 3 * k));
  p.setFont(figureFont(10.5 * k));
  p.drawText(at + QPointF(w + 6 * k, 4 * k), QString("%1 %2").arg(bar, 0, 'g', 4).arg(unit));
  p.restore();
}

} // namespace noonward
