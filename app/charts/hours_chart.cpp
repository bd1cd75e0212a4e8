#include "app/charts/hours_chart.h"
#include "app/theme/style.h"
#include "picture/legend.h"
#include <QPainter>
#include <cmath>

namespace noonward {

HoursChart::HoursChart(QWidget* parent) : QWidget(parent) {
  setFixedHeight(300);
  setAccessibleName("Hours of the room");
}

void HoursChart::show(std::shared_ptr<const HoursBehind> hours, std::optional<std::size_t> sensor,
                      const YearSettings& settings, const Project& p, int day) {
  hours_ = std::move(hours);
  setVisible(hours_ != nullptr);
  text_.clear();
  if (!hours_) return update();
  const SpaceSeries& s = *hours_->series;
  if (sensor && *sensor >= s.sensors()) sensor.reset();
  threshold_ = settings.metrics.threshold;
  const std::size_t n = s.sensors();
  const auto mean = [&](const std::vector<float>& v, std::size_t h) {
    if (sensor) return double(v[*sensor * hoursOfYear + h]);
    double sum = 0;
    for (std::size_t i = 0; i < n; ++i) sum += double(v[i * hoursOfYear + h]);
    return sum / double(n);
  };
  day = std::clamp(day, 0, 364);
  most_ = threshold_;
  for (std::size_t k = 0; k < 24; ++k) {
    const std::size_t h = std::size_t(day) * 24 + k;
    day_[k] = mean(s.lux, h);
    beamDay_[k] = mean(s.beam, h);
    inMask_[k] = s.mask[h];
    closedDay_[k] = false;
    for (const auto& c : s.closed) closedDay_[k] = closedDay_[k] || c[h];
    most_ = std::max(most_, day_[k]);
  }
  const std::vector<ClockHour> clock =
      clockHours(p.zone(), p.site.weather ? p.site.weather->utcOffset : 0, p.site.year);
  std::array<double, 12> reached{}, all{};
  for (std::size_t h = 0; h < hoursOfYear; ++h) {
    if (!s.mask[h]) continue;
    const std::size_t m = clock[h].month;
    if (sensor) {
      all[m] += 1;
      reached[m] += double(s.lux[*sensor * hoursOfYear + h]) >= threshold_;
    } else {
      all[m] += double(n);
      for (std::size_t i = 0; i < n; ++i) reached[m] += double(s.lux[i * hoursOfYear + h]) >= threshold_;
    }
  }
  for (std::size_t m = 0; m < 12; ++m) months_[m] = all[m] > 0 ? reached[m] / all[m] : 0;
  const BeamHours beam =
      beamHours(s, settings, p.zone(), p.site.weather ? p.site.weather->utcOffset : 0, p.site.year, sensor);
  beam_ = beam.byMonth;
  mostBeam_ = 1;
  for (const auto& row : beam_)
    for (double v : row) mostBeam_ = std::max(mostBeam_, v);
  constexpr std::array<int, 12> days{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
  int month = 0, date = day;
  while (date >= days[std::size_t(month)]) date -= days[std::size_t(month++)];
  dayName_ = QString::fromStdString(dayText({2025, month + 1, date + 1}));
  units_ = p.units;
  const ShownUnit light = shownUnit("lx", units_);
  text_ = QString("Beam above %1 %2: ")
              .arg(light.shown(settings.metrics.beam), 0, 'g', 4)
              .arg(QString::fromStdString(light.symbol)) +
          QString::fromStdString(beamHoursText(beam, s, hours_->groups));
  update();
}

void HoursChart::paintEvent(QPaintEvent*) {
  if (!hours_) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme();
  const double left = 34, right = width() - 4.0, w = right - left;
  const QFont small = textFont(10), figures = figureFont(9.5);
  const ShownUnit light = shownUnit("lx", units_);
  const QString unit = QString::fromStdString(light.symbol);
  // ---- the day looked at
  p.setFont(small);
  p.setPen(t.muted);
  p.drawText(QRectF(0, 0, width(), 14), Qt::AlignLeft,
             QString("%1, %2 by hour · shaded: blinds closed").arg(dayName_, unit));
  const double top = 18, h = 66;
  const auto x = [&](double hour) { return left + w * hour / 24; };
  const auto y = [&](double lux) { return top + h - h * std::min(1.0, lux / most_); };
  for (std::size_t k = 0; k < 24; ++k)
    if (closedDay_[k]) p.fillRect(QRectF(x(double(k)), top, w / 24, h), mixed(t.paper, t.ink, 0.14));
  p.setPen(QPen(t.rule, 1));
  p.drawLine(QPointF(left, top + h), QPointF(right, top + h));
  p.setPen(QPen(t.noon, 1, Qt::DashLine));
  p.drawLine(QPointF(left, y(threshold_)), QPointF(right, y(threshold_)));
  for (std::size_t k = 0; k < 24; ++k)
    if (day_[k] > 0)
      p.fillRect(QRectF(x(double(k)) + 1, y(day_[k]), w / 24 - 2, top + h - y(day_[k])),
                 inMask_[k] ? t.meets : mixed(t.paper, t.meets, 0.4));
  p.setFont(figures);
  p.setPen(t.muted);
  p.drawText(QRectF(0, y(threshold_) - 7, left - 4, 14), Qt::AlignRight | Qt::AlignVCenter,
             QString::number(light.shown(threshold_), 'f', 0));
  if (most_ > 1.4 * threshold_)
    p.drawText(QRectF(0, top - 7, left - 4, 14), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(light.shown(most_), 'f', 0));
  for (int k = 6; k < 24; k += 6)
    p.drawText(QRectF(x(k) - 20, top + h + 1, 40, 13), Qt::AlignCenter, QString("%1:00").arg(k));
  // ---- the months
  const double top2 = 120, h2 = 50;
  p.setFont(small);
  p.drawText(QRectF(0, top2 - 18, width(), 14), Qt::AlignLeft,
             QString("Hours of the schedule with %1 %2 or more, %").arg(light.shown(threshold_), 0, 'g', 4).arg(unit));
  constexpr std::array<const char*, 12> names{"J", "F", "M", "A", "M", "J", "J", "A", "S", "O", "N", "D"};
  p.setPen(QPen(t.rule, 1));
  p.drawLine(QPointF(left, top2 + h2), QPointF(right, top2 + h2));
  p.setPen(QPen(t.noon, 1, Qt::DashLine));
  p.drawLine(QPointF(left, top2 + h2 / 2), QPointF(right, top2 + h2 / 2));
  p.setFont(figures);
  p.setPen(t.muted);
  p.drawText(QRectF(0, top2 + h2 / 2 - 7, left - 4, 14), Qt::AlignRight | Qt::AlignVCenter, "50");
  p.drawText(QRectF(0, top2 - 7, left - 4, 14), Qt::AlignRight | Qt::AlignVCenter, "100");
  for (std::size_t m = 0; m < 12; ++m) {
    const double mx = left + w * double(m) / 12;
    p.fillRect(QRectF(mx + 2, top2 + h2 - h2 * months_[m], w / 12 - 4, h2 * months_[m]), t.meets);
    p.setPen(t.muted);
    p.drawText(QRectF(mx, top2 + h2 + 1, w / 12, 13), Qt::AlignCenter, names[m]);
  }
  // ---- the beam, month by hour
  const double top3 = 206, h3 = 78;
  p.setFont(small);
  p.setPen(t.muted);
  p.drawText(QRectF(0, top3 - 18, width(), 14), Qt::AlignLeft,
             QString("Hours with beam by month · max %1 h").arg(mostBeam_, 0, 'f', 0));
  const int from = 6, to = 20;
  const double cell = h3 / (to - from);
  for (std::size_t m = 0; m < 12; ++m)
    for (int k = from; k < to; ++k) {
      const double v = beam_[m][std::size_t(k)];
      const QRectF box(left + w * double(m) / 12 + 0.5, top3 + h3 - cell * (k - from + 1) + 0.5, w / 12 - 1, cell - 1);
      p.fillRect(box,
                 v > 0.05 ? paletteColor(Palette::SunHours, 0.25 + 0.75 * v / mostBeam_) : mixed(t.paper, t.ink, 0.06));
    }
  p.setFont(figures);
  p.setPen(t.muted);
  for (int k : {8, 12, 16})
    p.drawText(QRectF(0, top3 + h3 - cell * (k - from) - 7, left - 4, 14), Qt::AlignRight | Qt::AlignVCenter,
               QString("%1:00").arg(k));
  for (std::size_t m = 0; m < 12; ++m)
    p.drawText(QRectF(left + w * double(m) / 12, top3 + h3 + 1, w / 12, 13), Qt::AlignCenter, names[m]);
}

} // namespace noonward
