#include "app/panels/column_chart.h"
#include "app/theme/style.h"
#include "core/sun/time.h"
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace noonward {

ColumnChart::ColumnChart(QWidget* parent) : QWidget(parent) {
  setMinimumHeight(104);
  setAccessibleName("Column by month and by hour");
}

void ColumnChart::show(std::shared_ptr<const Weather> weather, WeatherField field) {
  any_ = weather != nullptr;
  text_.clear();
  if (weather) {
    months_ = columnByMonth(*weather, field);
    days_ = columnByHour(*weather, field);
    name_ = facts(field).name;
    unit_ = facts(field).unit;
    QStringList list;
    for (std::size_t m = 0; m < 12; ++m)
      if (months_[m].hours > 0) list << QString("%1 %2").arg(monthName(int(m) + 1)).arg(months_[m].mean, 0, 'g', 3);
    text_ = QString("%1, %2: %3").arg(name_, unit_, list.join(", "));
  }
  setAccessibleDescription(text_);
  update();
}

void ColumnChart::paintEvent(QPaintEvent*) {
  if (!any_) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme();
  double low = 1e30, high = -1e30;
  const auto take = [&](double v) {
    if (!std::isfinite(v)) return;
    low = std::min(low, v);
    high = std::max(high, v);
  };
  for (const MonthSpread& m : months_)
    for (double v : {m.low, m.mean, m.high}) take(v);
  for (const auto& day : days_)
    for (double v : day) take(v);
  if (!(high >= low)) return;
  if (low > 0 && low < 0.5 * high) low = 0; // amounts begin at nothing
  if (high - low < 1e-9) high = low + 1;
  const QRectF left(44, 18, width() * 0.56 - 56, height() - 34),
      right(width() * 0.56 + 34, 18, width() * 0.44 - 58, height() - 34);
  const auto y = [&](double v) { return left.bottom() - left.height() * (v - low) / (high - low); };
  p.setFont(figureFont(10));
  for (int k = 0; k <= 2; ++k) {
    const double v = low + (high - low) * k / 2;
    p.setPen(QPen(t.rule, 1));
    for (const QRectF& f : {left, right}) p.drawLine(QPointF(f.left(), y(v)), QPointF(f.right(), y(v)));
    p.setPen(t.muted);
    p.drawText(QRectF(0, y(v) - 8, left.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(v, 'f', high - low < 10 ? 1 : 0));
  }
  p.setFont(textFont(11));
  p.drawText(QPointF(0, 11),
             QString("%1, %2: mean of each month; the band holds four fifths of its hours").arg(name_, unit_));
  const double each = left.width() / 12;
  for (std::size_t m = 0; m < 12; ++m) {
    p.setPen(t.muted);
    p.drawText(QRectF(left.left() + each * double(m), left.bottom() + 2, each, 14), Qt::AlignHCenter,
               monthName(int(m) + 1));
    const MonthSpread& s = months_[m];
    if (s.hours == 0) continue;
    const double x = left.left() + each * (double(m) + 0.5);
    p.fillRect(QRectF(x - each * 0.22, y(s.high), each * 0.44, std::max(1.0, y(s.low) - y(s.high))),
               mixed(t.paper, t.noon, 0.35));
    p.setPen(QPen(t.ink, 2));
    p.drawLine(QPointF(x - each * 0.3, y(s.mean)), QPointF(x + each * 0.3, y(s.mean)));
  }
  // The mean day of four months, told apart by their strokes.
  constexpr std::array<std::pair<std::size_t, Qt::PenStyle>, 4> four{
      {{2, Qt::DashLine}, {5, Qt::SolidLine}, {8, Qt::DashDotLine}, {11, Qt::DotLine}}};
  double keyAt = right.left();
  for (const auto& [m, stroke] : four) {
    const QPen pen(m == 5 ? t.noon : t.ink, m == 5 ? 2 : 1.4, stroke);
    QPainterPath path;
    bool drawing = false;
    for (std::size_t h = 0; h < 24; ++h) {
      const double v = days_[m][h];
      if (!std::isfinite(v)) {
        drawing = false;
        continue;
      }
      const QPointF at(right.left() + right.width() * (double(h) + 0.5) / 24, y(v));
      drawing ? path.lineTo(at) : path.moveTo(at);
      drawing = true;
    }
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
    p.drawLine(QPointF(keyAt, 7), QPointF(keyAt + 20, 7));
    p.setPen(t.muted);
    p.drawText(QPointF(keyAt + 25, 11), monthName(int(m) + 1));
    keyAt += 64;
  }
  p.setPen(t.muted);
  p.setFont(figureFont(10));
  for (int hour : {0, 6, 12, 18, 24})
    p.drawText(QRectF(right.left() + right.width() * hour / 24 - 20, right.bottom() + 2, 40, 14), Qt::AlignHCenter,
               QString("%1:00").arg(hour));
}

} // namespace noonward
