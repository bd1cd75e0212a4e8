#pragma once
// Small charts of the sheet: the verdict's bar and the spread of a result.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/yardsticks/yardstick.h"
#include "picture/cells.h"
#include <QWidget>
#endif

namespace noonward {

/// Outcome, figure and bar of one verdict.
class VerdictBar : public QWidget {
  Q_OBJECT
public:
  explicit VerdictBar(QWidget* parent = nullptr);
  void show(const Verdict& verdict, bool stale);
  QString text() const;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Verdict verdict_;
  bool stale_ = false;
};

/// How many sensors have how many hours; the threshold is dragged in it.
class SpreadChart : public QWidget {
  Q_OBJECT
public:
  explicit SpreadChart(QWidget* parent = nullptr);
  void show(std::shared_ptr<const SensorField> result, double threshold);

signals:
  void thresholdDragged(double hours);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;

private:
  std::shared_ptr<const SensorField> result_;
  double threshold_ = 2;
};

} // namespace noonward
