#include "app/panels/pin_board.h"
#include "app/theme/style.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace noonward {

PinBoard::PinBoard(QWidget* parent) : QWidget(parent) {
  setAccessibleName("Picture to trace over");
  setFixedHeight(228);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::CrossCursor);
}

void PinBoard::show(const QImage& image, QSize size) {
  image_ = image;
  seen_ = {};
  size_ = size;
  zoom_ = 1;
  shift_ = {};
  update();
}

void PinBoard::setMarks(std::vector<Vec2> marks, const QStringList& names) {
  if (names != names_) active_ = 0;
  marks_ = std::move(marks);
  names_ = names;
  update();
}

double PinBoard::scale() const {
  return size_.isEmpty() ? 1 : zoom_ * std::min(double(width()) / size_.width(), double(height()) / size_.height());
}
QPointF PinBoard::pointOf(Vec2 pixel) const {
  return QPointF(width() / 2.0, height() / 2.0) + shift_ +
         QPointF(pixel.x - size_.width() / 2.0, pixel.y - size_.height() / 2.0) * scale();
}
Vec2 PinBoard::pixelAt(QPointF at) const {
  const QPointF q = (at - QPointF(width() / 2.0, height() / 2.0) - shift_) / scale();
  return {std::clamp(q.x() + size_.width() / 2.0, 0.0, double(size_.width())),
          std::clamp(q.y() + size_.height() / 2.0, 0.0, double(size_.height()))};
}

void PinBoard::put(int mark, Vec2 pixel) {
  if (mark < 0 || mark >= int(marks_.size())) return;
  marks_[std::size_t(mark)] = {std::clamp(pixel.x, 0.0, double(size_.width())),
                               std::clamp(pixel.y, 0.0, double(size_.height()))};
  update();
  emit marked(mark);
}

void PinBoard::mousePressEvent(QMouseEvent* e) {
  last_ = e->position();
  if (e->button() != Qt::LeftButton) {
    panning_ = true;
    return;
  }
  dragged_ = -1;
  double nearest = 12;
  for (int k = 0; k < int(marks_.size()); ++k)
    if (const double d = QLineF(pointOf(marks_[std::size_t(k)]), e->position()).length(); d < nearest) {
      nearest = d;
      dragged_ = k;
    }
  if (dragged_ >= 0) {
    active_ = dragged_;
    return update();
  }
  const int mark = active_;
  active_ = marks_.empty() ? 0 : (active_ + 1) % int(marks_.size()); // the next click puts the next one
  put(mark, pixelAt(e->position()));
}

void PinBoard::mouseMoveEvent(QMouseEvent* e) {
  if (panning_) {
    shift_ += e->position() - last_;
    last_ = e->position();
    return update();
  }
  if (dragged_ >= 0 && (e->buttons() & Qt::LeftButton)) put(dragged_, pixelAt(e->position()));
}

void PinBoard::mouseReleaseEvent(QMouseEvent*) {
  panning_ = false;
  dragged_ = -1;
}

void PinBoard::wheelEvent(QWheelEvent* e) {
  const double before = scale();
  zoom_ = std::clamp(zoom_ * std::pow(1.2, e->angleDelta().y() / 120.0), 1.0, 60.0);
  const QPointF from = e->position() - QPointF(width() / 2.0, height() / 2.0);
  shift_ = zoom_ == 1 ? QPointF() : from - (from - shift_) * (scale() / before);
  e->accept();
  update();
}

void PinBoard::keyPressEvent(QKeyEvent* e) {
  const int number = e->key() - Qt::Key_1;
  if (number >= 0 && number < int(marks_.size())) {
    active_ = number;
    return update();
  }
  const int dx = e->key() == Qt::Key_Left    ? -1
                 : e->key() == Qt::Key_Right ? 1
                                             : 0,
            dy = e->key() == Qt::Key_Up     ? -1
                 : e->key() == Qt::Key_Down ? 1
                                            : 0;
  if ((dx == 0 && dy == 0) || active_ >= int(marks_.size())) return QWidget::keyPressEvent(e);
  const double step = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
  put(active_, marks_[std::size_t(active_)] + Vec2{dx * step, dy * step});
}

void PinBoard::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  p.fillRect(rect(), t.stage);
  p.setClipRect(rect());
  if (!image_.isNull()) {
    const QRectF at(pointOf({0, 0}), pointOf({double(size_.width()), double(size_.height())}));
    const QSize px = at.size().toSize();
    if (px.width() < image_.width()) { // made smaller once, evenly
      if (seen_.size() != px) seen_ = image_.scaled(px, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
      p.drawImage(at.topLeft(), seen_);
    } else {
      p.setRenderHint(QPainter::SmoothPixmapTransform, zoom_ < 12);
      p.drawImage(at, image_);
    }
  }
  p.setRenderHint(QPainter::Antialiasing, true);
  QPolygonF shape;
  for (Vec2 m : marks_) shape << pointOf(m);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.noon, 1.4));
  p.drawPolygon(shape);
  p.setFont(textFont(11, true));
  for (int k = 0; k < shape.size(); ++k) {
    p.setPen(QPen(t.noon, k == active_ ? 2.4 : 1.4));
    p.setBrush(QColor(255, 255, 255, 60));
    p.drawEllipse(shape[k], 7, 7);
    p.drawLine(shape[k] - QPointF(3, 0), shape[k] + QPointF(3, 0));
    p.drawLine(shape[k] - QPointF(0, 3), shape[k] + QPointF(0, 3));
    const QString name = names_.value(k);
    const double w = QFontMetricsF(p.font()).horizontalAdvance(name) + 8;
    const double x = std::min(shape[k].x() + 10, width() - w - 2.0), y = std::max(2.0, shape[k].y() - 22);
    p.setPen(Qt::NoPen);
    p.setBrush(k == active_ ? t.noon : t.ink);
    p.drawRoundedRect(QRectF(x, y, w, 17), 3, 3);
    p.setPen(k == active_ || !t.dark ? QColor("#FFFFFF") : QColor("#171A26"));
    p.drawText(QRectF(x, y, w, 17), Qt::AlignCenter, name);
  }
  p.setPen(QPen(hasFocus() ? t.noon : t.rule, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(rect().adjusted(0, 0, -1, -1));
}

} // namespace noonward
