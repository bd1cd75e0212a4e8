#include "app/panels/shade_views.h"
#include "app/theme/style.h"
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace noonward {

ShadeDial::ShadeDial(QWidget* parent) : QWidget(parent) {
  setAccessibleName("Sky of the window");
  setMouseTracking(true);
  setFixedSize(316, 366);
}

void ShadeDial::show(DialPicture picture) {
  if (picture.mask != picture_.mask || dark_ != theme().dark) drawn_ = {}; // a mask is drawn once
  dark_ = theme().dark;
  picture_ = std::move(picture);
  update();
}

void ShadeDial::setProjection(DialProjection p) {
  projection_ = p;
  drawn_ = {};
  update();
}

DialMap ShadeDial::map() const {
  DialMap m{projection_, QRectF(18, 18, width() - 36, width() - 36), picture_.outward.value_or(pi)};
  if (projection_ == DialProjection::Flat) m.frame = QRectF(32, 30, width() - 42, 230);
  return m;
}

void ShadeDial::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintShadeDial(p, map(), picture_, theme(), &drawn_);
  p.setFont(textFont(11));
  p.setPen(theme().muted);
  const QString idle = picture_.cutOff.profile || picture_.cutOff.left ? "drag on the sky to set the cut-off" : "";
  p.drawText(QRectF(0, 316, width(), 14), Qt::AlignCenter, under_.isEmpty() ? idle : under_);
  paintDialKey(p, QRectF(4, 334, width() - 4.0, 30), theme());
}

void ShadeDial::drag(QPointF at) {
  if (const auto d = map().from(at)) emit dragged(d->first, d->second);
}

void ShadeDial::mousePressEvent(QMouseEvent* e) {
  if (e->button() == Qt::LeftButton) drag(e->position());
}

void ShadeDial::mouseMoveEvent(QMouseEvent* e) {
  under_.clear();
  if (const auto d = map().from(e->position())) {
    under_ = QString("azimuth %1°, altitude %2°").arg(degrees(d->first), 0, 'f', 0).arg(degrees(d->second), 0, 'f', 0);
    if (picture_.outward) {
      const double hsa = wrapPi(d->first - *picture_.outward);
      if (std::abs(hsa) < radians(89.0))
        under_ += QString(" · HSA %1° · VSA %2°")
                      .arg(degrees(hsa), 0, 'f', 0)
                      .arg(degrees(std::atan2(std::tan(d->second), std::cos(hsa))), 0, 'f', 0);
    }
    if (picture_.mask && !(e->buttons() & Qt::LeftButton)) {
      const double lit = picture_.mask->at(picture_.mask->shaded, d->first, d->second);
      under_ += QString(" · %1 % lit").arg(100 * lit, 0, 'f', 0);
    }
  }
  if (e->buttons() & Qt::LeftButton) drag(e->position());
  update();
}

void ShadeDial::mouseReleaseEvent(QMouseEvent* e) {
  if (e->button() == Qt::LeftButton) emit released();
}

void ShadeDial::leaveEvent(QEvent*) {
  under_.clear();
  update();
}

GlassDayChart::GlassDayChart(QWidget* parent) : QWidget(parent) {
  setAccessibleName("Glass in sun through the day");
  setMinimumHeight(68);
}

void GlassDayChart::show(std::shared_ptr<const GlassDays> days, std::optional<double> now) {
  days_ = std::move(days);
  now_ = now;
  update();
}

void GlassDayChart::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (days_ && !days_->windows.empty()) paintGlassDay(p, rect(), days_->windows.front(), days_->step, theme(), now_);
}

} // namespace noonward
