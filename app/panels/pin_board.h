#pragma once
// A picture with marks on it that are put, dragged and moved by keys.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/base/vec.h"
#include <QImage>
#include <QWidget>
#include <vector>
#endif

namespace noonward {

/// The picture with its marks: a click puts the mark in hand, a mark can be dragged, the wheel zooms, the right button
/// pans; 1 … 4 choose a mark and the arrow keys move it by a pixel (Shift: by ten).
class PinBoard : public QWidget {
  Q_OBJECT
public:
  explicit PinBoard(QWidget* parent = nullptr);
  /// `size`: px of the picture as its file has it; `image` may be smaller.
  void show(const QImage& image, QSize size);
  void setMarks(std::vector<Vec2> marks, const QStringList& names);
  const std::vector<Vec2>& marks() const { return marks_; }
  QPointF pointOf(Vec2 pixel) const; ///< in the widget

signals:
  void marked(int mark); ///< was moved

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

private:
  QImage seen_;         ///< the image as small as it is shown, for a clean look
  double scale() const; ///< widget px of a picture px
  Vec2 pixelAt(QPointF at) const;
  void put(int mark, Vec2 pixel);
  QImage image_;
  QSize size_;
  std::vector<Vec2> marks_;
  QStringList names_;
  double zoom_ = 1;
  QPointF shift_;
  int active_ = 0, dragged_ = -1;
  bool panning_ = false;
  QPointF last_;
};

} // namespace noonward
