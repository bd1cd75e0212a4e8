#include "app/charts/month_bars.h"
#include "app/theme/style.h"
#include <QHelpEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
constexpr std::array<const char*, 12> monthNames{"Jan", "Feb", "Mar", "Apr", "May", "Jun",
                                                 "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"};
constexpr double foot = 32, head = 16; ///< px, below and above the bars
} // namespace

MonthBars::MonthBars(QWidget* parent) : QWidget(parent) {
  setAccessibleName("Months behind the sensor");
  setFixedHeight(128);
  setMouseTracking(true);
}

void MonthBars::show(const std::array<std::optional<MonthParts>, 12>& months, const DisplayUnits& units) {
  months_ = months;
  units_ = units;
  QStringList parts;
  for (std::size_t m = 0; m < 12; ++m)
    if (months_[m])
      parts << QString("%1 %2").arg(monthNames[m],
                                    QString::fromStdString(quantityText(months_[m]->sum(), 1, "kWh/m²", units_)));
  text_ = parts.join(", ");
  setAccessibleDescription(text_);
  update();
}

int MonthBars::monthAt(double x) const {
  const int m = int(std::floor(x / (width() / 12.0)));
  return m >= 0 && m < 12 ? m : -1;
}

bool MonthBars::event(QEvent* e) {
  if (e->type() != QEvent::ToolTip) return QWidget::event(e);
  const auto* help = static_cast<QHelpEvent*>(e);
  const int m = monthAt(help->pos().x());
  if (m < 0 || !months_[std::size_t(m)]) {
    QToolTip::hideText();
    return true;
  }
  const MonthParts& x = *months_[std::size_t(m)];
  const auto figure = [&](double v) { return QString::fromStdString(quantityText(v, 1, "kWh/m²", units_)); };
  QToolTip::showText(help->globalPos(),
                     QString("%1: %2 ± %3. Sun %4, sky %5, reflected %6")
                         .arg(monthNames[std::size_t(m)], figure(x.sum()), figure(x.error), figure(x.direct),
                              figure(x.sky), figure(x.reflected)),
                     this);
  return true;
}

void MonthBars::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  double most = 0;
  std::size_t highest = 0;
  for (std::size_t m = 0; m < 12; ++m)
    if (months_[m] && months_[m]->sum() > most) {
      most = months_[m]->sum();
      highest = m;
    }
  const double each = width() / 12.0, base = height() - foot, room = base - head;
  const QColor sun = t.noon, sky = mixed(t.meets, t.paper, 0.25), back = mixed(t.muted, t.paper, 0.35);
  p.setFont(textFont(10.5));
  for (std::size_t m = 0; m < 12; ++m) {
    const double x = each * double(m) + 2, w = each - 4;
    p.setPen(months_[m] ? t.muted : mixed(t.muted, t.paper, 0.5));
    p.drawText(QRectF(x - 2, base + 1, each, 14), Qt::AlignCenter, QString(monthNames[m]).left(1));
    if (!months_[m] || most <= 0) continue;
    double y = base;
    for (const auto& [value, ink, hatch] :
         {std::tuple{months_[m]->direct, sun, Qt::SolidPattern}, std::tuple{months_[m]->sky, sky, Qt::SolidPattern},
          std::tuple{months_[m]->reflected, back, Qt::BDiagPattern}}) {
      const double high = room * value / most;
      const QRectF bar(x, y - high, w, high);
      p.fillRect(bar, QBrush(ink, hatch));
      if (hatch != Qt::SolidPattern && high > 2) {
        p.setPen(QPen(ink, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5));
      }
      y -= high;
    }
    if (m == highest) {
      p.setPen(t.ink);
      p.setFont(figureFont(10.5));
      const QString figure = QString::fromStdString(quantityText(most, 1, "kWh/m²", units_));
      const double wide = QFontMetricsF(p.font()).horizontalAdvance(figure);
      p.drawText(QPointF(std::clamp(x + w / 2 - wide / 2, 0.0, width() - wide), y - 4), figure);
      p.setFont(textFont(10.5));
    }
  }
  p.setPen(QPen(t.rule, 1));
  p.drawLine(QPointF(0, base), QPointF(width(), base));
  double x = 0; // what is what
  for (const auto& [word, ink, hatch] :
       {std::tuple{"sun", sun, Qt::SolidPattern}, std::tuple{"sky", sky, Qt::SolidPattern},
        std::tuple{"reflected", back, Qt::BDiagPattern}}) {
    const QRectF box(x + 0.5, height() - 12.5, 9, 9);
    p.setPen(QPen(ink, 1));
    p.setBrush(QBrush(ink, hatch));
    p.drawRect(box);
    p.setPen(t.muted);
    p.drawText(QPointF(x + 14, height() - 3.5), word);
    x += 24 + QFontMetricsF(p.font()).horizontalAdvance(word);
  }
}

} // namespace noonward
