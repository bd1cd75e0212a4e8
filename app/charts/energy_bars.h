#pragma once
// Gains and losses of a room by month: gains stand above the line, losses hang below it, a bar for each month. Beneath,
// what the chosen month or the year comes to, cause by cause.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/base/units.h"
#include "core/studies/energy/energy_reading.h"
#include <QWidget>
#endif

namespace noonward {

class EnergyBars : public QWidget {
  Q_OBJECT
public:
  explicit EnergyBars(QWidget* parent = nullptr);
  void show(std::optional<EnergyRoom> room, std::optional<std::size_t> month, const DisplayUnits& units);
  QString text() const { return text_; } ///< what it shows, in words

signals:
  void monthChosen(int month); ///< 0 … 11

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool event(QEvent*) override;

private:
  enum Group { Sun, Inside, Lamps, Heat, Glass, Opaque, Air, Cool, Groups };
  static Group groupOf(EnergyCauseKind kind);
  double of(std::size_t month, Group group) const; ///< kWh/m²
  int monthAt(double x) const;
  void paintBars(QPainter& p) const;
  void paintList(QPainter& p) const;
  std::optional<EnergyRoom> room_;
  std::optional<std::size_t> month_;
  std::vector<EnergyShare> gains_, losses_;
  DisplayUnits units_;
  QString text_;
};

} // namespace noonward
