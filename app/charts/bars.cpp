#include "app/charts/bars.h"
#include "app/theme/style.h"
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace noonward {

VerdictBar::VerdictBar(QWidget* parent) : QWidget(parent) {
  setFixedHeight(62);
  setAccessibleName("Verdict");
}

QString VerdictBar::text() const {
  return QString::fromStdString(verdict_.text);
}

void VerdictBar::show(const Verdict& verdict, bool stale) {
  verdict_ = verdict;
  stale_ = stale;
  setAccessibleDescription(text());
  setToolTip(QString::fromStdString(verdict.detail));
  update();
}

void VerdictBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  const Theme& t = theme();
  const bool judged = verdict_.outcome != Outcome3::NotJudged;
  const QColor c = !judged ? t.muted : verdict_.outcome == Outcome3::Meets ? t.meets : t.short_;
  QColor wash = c;
  wash.setAlpha(stale_ ? 12 : 28);
  p.setPen(Qt::NoPen);
  p.setBrush(wash);
  p.drawRoundedRect(QRectF(0, 0, width(), 32), 3, 3);
  p.setPen(c);
  p.setFont(textFont(13, true));
  const QString mark = verdict_.outcome == Outcome3::Meets ? "✓ " : judged ? "✗ " : "";
  if (!judged) {
    p.setFont(textFont(11.5));
    p.drawText(QRectF(10, 0, width() - 16, 32), Qt::AlignVCenter | Qt::TextWordWrap,
               QString::fromStdString(verdict_.text));
    return;
  }
  p.drawText(QRectF(10, 0, width() - 100, 32), Qt::AlignVCenter, mark + outcomeText(verdict_.outcome));
  p.setPen(t.ink);
  p.setFont(figureFont(12));
  p.drawText(QRectF(0, 0, width() - 10, 32), Qt::AlignVCenter | Qt::AlignRight,
             QString(verdict_.atMost ? "%1 %2, at most %3" : "%1 %2 of %3 %2")
                 .arg(verdict_.figure, 0, 'f', verdict_.figure >= 1000 ? 0 : 1)
                 .arg(QString::fromStdString(verdict_.unit))
                 .arg(verdict_.needed, 0, 'g', 4));
  const double y = 40;
  p.setPen(Qt::NoPen);
  p.setBrush(t.rule);
  p.drawRect(QRectF(0, y, width(), 7));
  p.setBrush(c);
  const double full = verdict_.unit == "%" ? 100 : std::max(1.5 * verdict_.needed, verdict_.figure);
  p.drawRect(QRectF(0, y, width() * std::clamp(verdict_.figure / full, 0.0, 1.0), 7));
  const double need = width() * std::clamp(verdict_.needed / full, 0.0, 1.0);
  p.setPen(QPen(t.ink, 1.4));
  p.drawLine(QPointF(need, y - 4), QPointF(need, y + 11));
  p.setFont(textFont(10.5));
  p.setPen(t.muted);
  p.drawText(QRectF(0, y + 9, width(), 13), Qt::AlignLeft | Qt::AlignVCenter,
             std::isnan(verdict_.before)
                 ? QString()
                 : QString("before: %1 %2").arg(verdict_.before, 0, 'f', 1).arg(QString::fromStdString(verdict_.unit)));
  const QString ask = verdict_.atMost ? "allowed" : "asked";
  p.drawText(QRectF(std::clamp(need - 30, 70.0, width() - 60.0), y + 9, 60, 13), Qt::AlignCenter, ask);
}

SpreadChart::SpreadChart(QWidget* parent) : QWidget(parent) {
  setFixedHeight(74);
  setAccessibleName("Spread of hours");
  setCursor(Qt::SizeHorCursor);
  setToolTip("Drag to set the threshold");
}

void SpreadChart::show(std::shared_ptr<const SensorField> result, double threshold) {
  result_ = std::move(result);
  threshold_ = threshold;
  update();
}

void SpreadChart::paintEvent(QPaintEvent*) {
  if (!result_) return;
  QPainter p(this);
  const Theme& t = theme();
  const FieldScale& s = result_->scale;
  const double span = std::max(1e-9, s.high - s.low);
  constexpr int bins = 24;
  std::array<int, bins> count{};
  int most = 1;
  for (float h : result_->values())
    if (!std::isnan(h)) {
      const int k = std::clamp(int(std::floor((double(h) - s.low) / span * bins)), 0, bins - 1);
      most = std::max(most, ++count[std::size_t(k)]);
    }
  const double base = height() - 17.0, w = double(width()) / bins;
  for (int k = 0; k < bins; ++k) {
    const double h = (base - 4) * count[std::size_t(k)] / most;
    p.fillRect(QRectF(k * w + 0.5, base - h, w - 1, h), colorOf(s, s.low + span * (k + 0.5) / bins));
  }
  p.setPen(t.ink);
  p.drawLine(QPointF(0, base), QPointF(width(), base));
  p.setPen(QPen(t.noon, 1.6));
  const double x = width() * (threshold_ - s.low) / span;
  if (threshold_ >= s.low && threshold_ <= s.high) p.drawLine(QPointF(x, 0), QPointF(x, base + 3));
  p.setFont(figureFont(10));
  p.setPen(t.muted);
  const std::vector<double> marks = ticks(s.low, s.high);
  double free = width() + 1; // the last first: it has the unit, and others give way
  for (auto at = marks.rbegin(); at != marks.rend(); ++at) {
    const double v = *at + 0.0, tx = width() * (v - s.low) / span;
    const auto align = v <= s.low ? Qt::AlignLeft : v >= s.high - 1e-9 ? Qt::AlignRight : Qt::AlignHCenter;
    const QString text = QString::number(v) + (v >= s.high - 1e-9 ? " " + QString::fromStdString(s.unit) : QString());
    const double wide = QFontMetricsF(p.font()).horizontalAdvance(text) + 4;
    const double left = align == Qt::AlignLeft ? 0 : align == Qt::AlignRight ? width() - wide : tx - wide / 2;
    if (left + wide > free) continue;
    free = left;
    p.drawText(QRectF(left, base + 3, wide, 13), align | Qt::AlignVCenter, text);
  }
}

void SpreadChart::mousePressEvent(QMouseEvent* e) {
  mouseMoveEvent(e);
}

void SpreadChart::mouseMoveEvent(QMouseEvent* e) {
  if (!result_ || !(e->buttons() & Qt::LeftButton)) return;
  if (result_->isChange) return; // a change has no threshold
  const double h = result_->scale.low + (result_->scale.high - result_->scale.low) * e->position().x() / width();
  const double step = result_->scale.high > 50 ? 10 : 0.1;
  emit thresholdDragged(std::clamp(std::round(h / step) * step, 0.0, result_->scale.high));
}

} // namespace noonward
