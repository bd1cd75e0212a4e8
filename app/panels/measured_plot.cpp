#include "app/panels/measuring_desk.h"
#include "app/theme/style.h"
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace noonward {

namespace {
/// A round number at or above a value: 1, 2 or 5 of a power of ten.
double roundUp(double v) {
  if (!(v > 0)) return 1;
  const double power = std::pow(10.0, std::floor(std::log10(v)));
  for (const double step : {1.0, 2.0, 2.5, 5.0, 10.0})
    if (v <= step * power * (1 + 1e-9)) return step * power;
  return 10 * power;
}
QString number(double v) {
  return std::abs(v) >= 1000 ? QString("%L1").arg(v, 0, 'f', 0) : QString::number(v, 'g', 3);
}
} // namespace

MeasuredPlot::MeasuredPlot(QWidget* parent) : QWidget(parent) {
  setMinimumSize(320, 220);
  setAccessibleName("Measured and computed");
}

void MeasuredPlot::show(std::shared_ptr<const Measuring> measuring, std::size_t sensor, Way way, int day) {
  m_ = std::move(measuring);
  sensor_ = sensor;
  way_ = way;
  day_ = day;
  text_.clear();
  if (m_ && sensor_ < m_->comparison.sensors.size()) {
    const ComparedSensor& s = m_->comparison.sensors[sensor_];
    text_ = QString("%1: %2 hours, NMBE %3 %, CV(RMSE) %4 %")
                .arg(QString::fromStdString(s.sensor))
                .arg(s.hours.n)
                .arg(100 * s.hours.nmbe, 0, 'f', 1)
                .arg(100 * s.hours.cvRmse, 0, 'f', 1);
  }
  setAccessibleDescription(text_);
  update();
}

void MeasuredPlot::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  if (!m_ || sensor_ >= m_->comparison.sensors.size()) return;
  const QRectF f = QRectF(rect()).adjusted(58, 26, -12, -36);
  switch (way_) {
  case Way::Curves:
    return paintCurves(p, f);
  case Way::Scatter:
    return paintScatter(p, f);
  case Way::Difference:
    return paintDifference(p, f);
  case Way::Errors:
    return paintErrors(p, f);
  }
}

namespace {
void axes(QPainter& p, const QRectF& f, double most, const QString& unit) {
  const Theme& t = theme();
  p.setFont(figureFont(10));
  for (int k = 0; k <= 4; ++k) {
    const double y = f.bottom() - f.height() * k / 4;
    p.setPen(QPen(t.rule, 1));
    p.drawLine(QPointF(f.left(), y), QPointF(f.right(), y));
    p.setPen(t.muted);
    p.drawText(QRectF(0, y - 8, f.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter, number(most * k / 4));
  }
  p.setFont(textFont(11));
  p.drawText(QRectF(0, 2, f.left() + 80, 16), Qt::AlignLeft, unit);
}
void keyOf(QPainter& p, double right, double y, const std::vector<std::pair<QString, QPen>>& list) {
  p.setFont(textFont(11));
  double x = right;
  for (auto it = list.rbegin(); it != list.rend(); ++it) {
    const double w = p.fontMetrics().horizontalAdvance(it->first);
    p.setPen(theme().muted);
    p.drawText(QPointF(x - w, y + 4), it->first);
    p.setPen(it->second);
    p.drawLine(QPointF(x - w - 26, y), QPointF(x - w - 6, y));
    x -= w + 40;
  }
}
} // namespace

void MeasuredPlot::paintCurves(QPainter& p, const QRectF& f) {
  const ComparedSensor& s = m_->comparison.sensors[sensor_];
  constexpr int days = 7;
  const int first = std::clamp(day_, 0, 365 - days);
  double most = 0;
  for (int h = 24 * first; h < 24 * (first + days); ++h)
    for (const auto* v : {&s.measured, &s.modelled})
      if (std::isfinite((*v)[std::size_t(h)])) most = std::max(most, double((*v)[std::size_t(h)]));
  most = roundUp(most);
  axes(p, f, most, m_->unit);
  const Theme& t = theme();
  const QPen measured(t.noon, 1.8), computed(t.ink, 1.3, Qt::DashLine);
  for (const auto& [values, pen] : {std::pair{&s.measured, measured}, {&s.modelled, computed}}) {
    QPainterPath path;
    bool drawing = false;
    for (int h = 24 * first; h < 24 * (first + days); ++h) {
      const double v = double((*values)[std::size_t(h)]);
      if (!std::isfinite(v)) {
        drawing = false;
        continue;
      }
      const QPointF at(f.left() + f.width() * (h - 24 * first + 0.5) / (24 * days), f.bottom() - f.height() * v / most);
      if (drawing)
        path.lineTo(at);
      else
        path.moveTo(at);
      drawing = true;
    }
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
  }
  p.setPen(t.muted);
  p.setFont(textFont(11));
  for (int d = 0; d < days; ++d) {
    const Date date = plusDays({2025, 1, 1}, first + d);
    p.drawText(QRectF(f.left() + f.width() * d / days, f.bottom() + 4, f.width() / days, 16), Qt::AlignHCenter,
               QString::fromStdString(dayText(date)));
  }
  keyOf(p, f.right(), 11, {{"measured", measured}, {"computed", computed}});
}

void MeasuredPlot::paintScatter(QPainter& p, const QRectF& f) {
  const ComparedSensor& s = m_->comparison.sensors[sensor_];
  double most = 0;
  for (std::size_t h = 0; h < s.measured.size(); ++h)
    if (std::isfinite(s.measured[h])) most = std::max({most, double(s.measured[h]), double(s.modelled[h])});
  most = roundUp(most);
  axes(p, f, most, QString("computed, %1").arg(m_->unit));
  const Theme& t = theme();
  p.setPen(QPen(t.muted, 1, Qt::DashLine));
  p.drawLine(f.bottomLeft(), f.topRight());
  QColor dot = t.noon;
  dot.setAlpha(70);
  p.setPen(Qt::NoPen);
  p.setBrush(dot);
  for (std::size_t h = 0; h < s.measured.size(); ++h)
    if (std::isfinite(s.measured[h]))
      p.drawEllipse(QPointF(f.left() + f.width() * double(s.measured[h]) / most,
                            f.bottom() - f.height() * double(s.modelled[h]) / most),
                    1.6, 1.6);
  p.setPen(t.muted);
  p.setFont(figureFont(10));
  for (int k = 0; k <= 4; ++k)
    p.drawText(QRectF(f.left() + f.width() * k / 4 - 40, f.bottom() + 3, 80, 14), Qt::AlignHCenter,
               number(most * k / 4));
  p.setFont(textFont(11));
  p.drawText(QRectF(f.left(), f.bottom() + 17, f.width(), 16), Qt::AlignRight, QString("measured, %1").arg(m_->unit));
}

void MeasuredPlot::paintDifference(QPainter& p, const QRectF& f) {
  const ComparedSensor& s = m_->comparison.sensors[sensor_];
  std::vector<double> off;
  for (std::size_t h = 0; h < s.measured.size(); ++h)
    if (std::isfinite(s.measured[h])) off.push_back(std::abs(double(s.modelled[h]) - double(s.measured[h])));
  if (off.empty()) return;
  const auto most = off.begin() + std::ptrdiff_t(off.size() * 95 / 100);
  std::nth_element(off.begin(), most, off.end());
  const double scale = roundUp(std::max(1e-9, *most));
  const Theme& t = theme();
  QImage image(365, 24, QImage::Format_RGB32);
  image.fill(mixed(t.paper, t.night, 0.18));
  for (std::size_t h = 0; h < s.measured.size(); ++h)
    if (std::isfinite(s.measured[h]))
      image.setPixelColor(
          int(h / 24), 23 - int(h % 24),
          paletteColor(Palette::Difference,
                       std::clamp(0.5 + 0.5 * (double(s.modelled[h]) - double(s.measured[h])) / scale, 0.0, 1.0)));
  p.setRenderHint(QPainter::SmoothPixmapTransform, false);
  p.drawImage(f, image);
  p.setPen(QPen(t.rule, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(f);
  p.setPen(t.muted);
  p.setFont(figureFont(10));
  for (int hour : {0, 6, 12, 18, 24})
    p.drawText(QRectF(0, f.bottom() - f.height() * hour / 24 - 8, f.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(hour));
  for (int m = 1; m <= 12; ++m)
    p.drawText(QPointF(f.left() + f.width() * (dayOfYear({2025, m, 1}) - 1) / 365 + 2, f.bottom() + 14), monthName(m));
  // Its scale: what lies beyond has the end's colour, and the ends say so.
  p.setFont(textFont(11));
  const QRectF bar(f.right() - 128, 6, 60, 9);
  for (int k = 0; k < 60; ++k)
    p.fillRect(QRectF(bar.left() + k, bar.top(), 1.2, bar.height()), paletteColor(Palette::Difference, k / 59.0));
  p.setPen(t.muted);
  p.drawText(QRectF(0, 2, f.width(), 16), Qt::AlignLeft, QString("computed − measured, %1").arg(m_->unit));
  p.drawText(QRectF(bar.left() - 86, 2, 80, 16), Qt::AlignRight, "≤ −" + number(scale));
  p.drawText(QRectF(bar.right() + 6, 2, 70, 16), Qt::AlignLeft, "≥ +" + number(scale));
}

void MeasuredPlot::paintErrors(QPainter& p, const QRectF& f) {
  const ComparedSensor& s = m_->comparison.sensors[sensor_];
  std::vector<double> off;
  for (std::size_t h = 0; h < s.measured.size(); ++h)
    if (std::isfinite(s.measured[h])) off.push_back(double(s.modelled[h]) - double(s.measured[h]));
  if (off.empty()) return;
  std::vector<double> size;
  for (double d : off) size.push_back(std::abs(d));
  const auto most = size.begin() + std::ptrdiff_t(size.size() * 98 / 100);
  std::nth_element(size.begin(), most, size.end());
  const double reach = roundUp(std::max(1e-9, *most));
  constexpr int bins = 31;
  std::array<double, bins> n{};
  for (double d : off) n[std::size_t(std::clamp(int(std::floor((d / reach + 1) / 2 * bins)), 0, bins - 1))] += 1;
  const double top = roundUp(*std::max_element(n.begin(), n.end()));
  axes(p, f, top, "hours");
  const Theme& t = theme();
  for (int k = 0; k < bins; ++k)
    p.fillRect(QRectF(f.left() + f.width() * k / bins + 1, f.bottom() - f.height() * n[std::size_t(k)] / top,
                      f.width() / bins - 2, f.height() * n[std::size_t(k)] / top),
               mixed(t.paper, t.noon, 0.7));
  p.setPen(QPen(t.ink, 1));
  p.drawLine(QPointF(f.center().x(), f.top()), QPointF(f.center().x(), f.bottom()));
  p.setPen(t.muted);
  p.setFont(figureFont(10));
  for (int k = -2; k <= 2; ++k)
    p.drawText(QRectF(f.center().x() + f.width() * k / 4 - 40, f.bottom() + 3, 80, 14), Qt::AlignHCenter,
               (k > 0 ? "+" : "") + number(reach * k / 2));
  p.setFont(textFont(11));
  p.drawText(QRectF(f.left(), f.bottom() + 17, f.width(), 16), Qt::AlignRight,
             QString("computed − measured, %1; the outer bars hold what lies beyond").arg(m_->unit));
}

} // namespace noonward
