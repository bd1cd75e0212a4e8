#pragma once
// Where each hour of a year made of measurements came from.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/files/station/station_weather.h"
#include <QWidget>
#include <memory>
#endif

namespace noonward {

/// Where each hour of a made year came from: days across, hours up.
class OriginPicture : public QWidget {
  Q_OBJECT
public:
  explicit OriginPicture(QWidget* parent = nullptr);
  void show(std::shared_ptr<const StationWeather> made);
  QString text() const { return text_; }

protected:
  void paintEvent(QPaintEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;

private:
  QRectF field() const;
  std::shared_ptr<const StationWeather> made_;
  QString text_;
};

} // namespace noonward
