#pragma once
// The sky as seen from the probe, in plan: north up, zenith in the middle, what stands there filled, the year's tracks.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/studies.h"
#include "picture/dial_map.h"
#include <QImage>
#include <QWidget>
#endif

class QComboBox;

namespace noonward {

class SkylineDial : public QWidget {
  Q_OBJECT
public:
  SkylineDial(Document& document, Studies& studies, QWidget* parent);
  void setLarge(bool large);
  bool large() const { return large_; }
  void setProjection(DialProjection projection);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

private:
  void refresh();
  Document& document_;
  Studies& studies_;
  bool large_ = false;
  DialProjection projection_ = DialProjection::Equidistant;
  QComboBox* choice_ = nullptr; ///< of the projection, on the large dial
  QImage dome_;
  std::shared_ptr<const ProbeResult> drawn_;
  std::optional<SunKnots> knots_;
  int knotYear_ = 0;
  QString under_;
};

} // namespace noonward
