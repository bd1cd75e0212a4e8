#include "app/panels/origin_picture.h"
#include "app/theme/style.h"
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

namespace noonward {

namespace {
/// A shade for each origin that also reads in grey: measured is quiet, what was invented stands out.
QColor shadeOf(HourOrigin o, const Theme& t) {
  switch (o) {
  case HourOrigin::Measured:
  case HourOrigin::Derived:
    return mixed(t.paper, t.meets, 0.35);
  case HourOrigin::Interpolated:
    return mixed(t.paper, t.noon, 0.55);
  case HourOrigin::Days:
    return t.noon;
  case HourOrigin::Other:
    return mixed(t.noon, t.ink, 0.5);
  case HourOrigin::Missing:
    return t.paper;
  }
  return t.paper;
}
constexpr std::array<std::pair<HourOrigin, const char*>, 5> legend{{{HourOrigin::Measured, "measured"},
                                                                    {HourOrigin::Interpolated, "interpolated"},
                                                                    {HourOrigin::Days, "days around"},
                                                                    {HourOrigin::Other, "other year"},
                                                                    {HourOrigin::Missing, "missing"}}};
} // namespace

OriginPicture::OriginPicture(QWidget* parent) : QWidget(parent) {
  setMinimumHeight(104);
  setMouseTracking(true);
  setAccessibleName("Where the hours came from");
}

QRectF OriginPicture::field() const {
  return QRectF(34, 8, width() - 40, height() - 42);
}

void OriginPicture::show(std::shared_ptr<const StationWeather> made) {
  made_ = std::move(made);
  text_.clear();
  if (made_)
    for (const auto& [origin, name] : legend)
      if (const std::size_t n = made_->made.hours[std::size_t(origin)]; n > 0)
        text_ += QString("%1%2 h %3").arg(text_.isEmpty() ? "" : ", ").arg(n).arg(name);
  setAccessibleDescription(text_);
  update();
}

void OriginPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const QRectF f = field();
  if (!made_) return;
  QImage image(365, 24, QImage::Format_RGB32);
  for (int day = 0; day < 365; ++day)
    for (int h = 0; h < 24; ++h)
      image.setPixelColor(day, 23 - h, shadeOf(made_->made.origin[std::size_t(24 * day + h)], t));
  p.drawImage(f, image);
  p.save(); // what is missing is hatched, so that it reads in print too
  p.setPen(QPen(t.muted, 0.6));
  for (int day = 0; day < 365; ++day)
    if (made_->made.origin[std::size_t(24 * day + 12)] == HourOrigin::Missing && day % 3 == 0) {
      const double x = f.left() + f.width() * (day + 0.5) / 365;
      p.drawLine(QPointF(x - 4, f.bottom()), QPointF(x + 4, f.top()));
    }
  p.restore();
  p.setPen(QPen(t.rule, 1));
  p.drawRect(f);
  p.setFont(figureFont(10));
  p.setPen(t.muted);
  for (int hour : {0, 6, 12, 18, 24})
    p.drawText(QRectF(0, f.bottom() - f.height() * hour / 24 - 7, 28, 14), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(hour));
  for (int m = 1; m <= 12; ++m) {
    const double x = f.left() + f.width() * (dayOfYear({2025, m, 1}) - 1) / 365;
    p.drawText(QRectF(x + 2, f.bottom() + 1, 40, 14), Qt::AlignLeft, monthName(m));
  }
  double x = f.left();
  for (const auto& [origin, name] : legend) {
    if (made_->made.hours[std::size_t(origin)] == 0) continue;
    const QRectF box(x, height() - 14, 10, 10);
    p.fillRect(box, shadeOf(origin, t));
    p.setPen(QPen(t.rule, 1));
    p.drawRect(box);
    p.setPen(t.muted);
    const QString words = QString("%1 %2 h").arg(name).arg(made_->made.hours[std::size_t(origin)]);
    p.setFont(textFont(11));
    p.drawText(QPointF(x + 15, height() - 5), words);
    x += 15 + p.fontMetrics().horizontalAdvance(words) + 16;
  }
}

void OriginPicture::mouseMoveEvent(QMouseEvent* e) {
  const QRectF f = field();
  if (!made_ || !f.contains(e->position())) return QToolTip::hideText();
  const int day = std::clamp(int(365 * (e->position().x() - f.left()) / f.width()), 0, 364),
            hour = std::clamp(int(24 * (f.bottom() - e->position().y()) / f.height()), 0, 23);
  const std::size_t i = std::size_t(24 * day + hour);
  const WeatherHour& h = made_->made.weather.hours[i];
  QString text = QString("%1 · %2:00–%3:00 standard time · %4")
                     .arg(QString::fromStdString(dayText({2025, h.month, h.day})))
                     .arg(hour)
                     .arg(hour + 1)
                     .arg(originText(made_->made.origin[i]));
  for (WeatherField f : {WeatherField::GlobalHorizontal, WeatherField::DryBulb})
    if (std::isfinite(h[f]))
      text += QString(" · %1 %2").arg(h[f], 0, 'f', 1).arg(f == WeatherField::DryBulb ? "°C" : "W/m² global");
  QToolTip::showText(e->globalPosition().toPoint(), text, this);
}

} // namespace noonward
