#pragma once
// A column of a weather year: its months (mean, and where four fifths of the hours lie), and the mean day of four
// months.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/sky/weather_means.h"
#include <QWidget>
#include <memory>
#endif

namespace noonward {

class ColumnChart : public QWidget {
  Q_OBJECT
public:
  explicit ColumnChart(QWidget* parent = nullptr);
  void show(std::shared_ptr<const Weather> weather, WeatherField field);
  QString text() const { return text_; } ///< "dry bulb temperature, °C: Jan 0.8, …"

protected:
  void paintEvent(QPaintEvent*) override;

private:
  std::array<MonthSpread, 12> months_{};
  std::array<std::array<double, 24>, 12> days_{};
  bool any_ = false;
  QString name_, unit_, text_;
};

} // namespace noonward
