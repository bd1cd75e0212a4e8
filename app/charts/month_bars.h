#pragma once
// The months behind an irradiation: a bar for each, of sun, sky and what has met a surface, on one scale.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/base/units.h"
#include <QWidget>
#include <array>
#include <optional>
#endif

namespace noonward {

/// kWh/m² of one sensor; nothing: outside the season.
struct MonthParts {
  double direct = 0, sky = 0, reflected = 0, error = 0;
  double sum() const { return direct + sky + reflected; }
};

class MonthBars : public QWidget {
  Q_OBJECT
public:
  explicit MonthBars(QWidget* parent = nullptr);
  void show(const std::array<std::optional<MonthParts>, 12>& months, const DisplayUnits& units);
  QString text() const { return text_; } ///< what it shows, in words

protected:
  void paintEvent(QPaintEvent*) override;
  bool event(QEvent*) override;

private:
  int monthAt(double x) const; ///< 0 … 11; -1 beside
  std::array<std::optional<MonthParts>, 12> months_;
  DisplayUnits units_;
  QString text_;
};

} // namespace noonward
