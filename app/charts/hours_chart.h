#pragma once
// The hours behind a room or a sensor: the day looked at, the months, and when the beam comes, hour by month.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/studies.h"
#include <QWidget>
#endif

namespace noonward {

class HoursChart : public QWidget {
  Q_OBJECT
public:
  explicit HoursChart(QWidget* parent = nullptr);
  /// `sensor`: within the room; none: the mean of its sensors. `day`: of the year, 0…364.
  void show(std::shared_ptr<const HoursBehind> hours, std::optional<std::size_t> sensor, const YearSettings& settings,
            const Project& project, int day);
  QString text() const { return text_; } ///< what it shows, in words

protected:
  void paintEvent(QPaintEvent*) override;

private:
  std::shared_ptr<const HoursBehind> hours_;
  std::array<double, 24> day_{}, beamDay_{};
  std::array<bool, 24> closedDay_{}, inMask_{};
  std::array<double, 12> months_{}; ///< share of the schedule's hours with enough light
  std::array<std::array<double, 24>, 12> beam_{};
  DisplayUnits units_;
  double most_ = 1, mostBeam_ = 1, threshold_ = 300;
  QString dayName_, text_;
};

} // namespace noonward
