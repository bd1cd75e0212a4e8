#pragma once
// What the shade panel shows: a window's sky, and its glass through the day.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "picture/shade_dial.h"
#include <QWidget>
#endif

namespace noonward {

/// The dial, seen and dragged.
class ShadeDial : public QWidget {
  Q_OBJECT
public:
  explicit ShadeDial(QWidget* parent = nullptr);
  void show(DialPicture picture);
  void setProjection(DialProjection projection);
  DialProjection projection() const { return projection_; }

signals:
  void dragged(double azimuth, double altitude); ///< rad, while the button is down
  void released();

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;

private:
  DialMap map() const;
  void drag(QPointF at);
  DialPicture picture_;
  DialProjection projection_ = DialProjection::Equidistant;
  QImage drawn_;
  bool dark_ = false;
  QString under_;
};

/// The share of its glass in sun through the day looked at.
class GlassDayChart : public QWidget {
  Q_OBJECT
public:
  explicit GlassDayChart(QWidget* parent = nullptr);
  void show(std::shared_ptr<const GlassDays> days, std::optional<double> now);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  std::shared_ptr<const GlassDays> days_;
  std::optional<double> now_;
};

} // namespace noonward
