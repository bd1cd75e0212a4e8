#pragma once
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/steps/sheet.h"
#endif

class QListWidget;

namespace noonward {

class Compass;

/// Place, weather, north, time zone, units.
class SiteSheet : public Sheet {
  Q_OBJECT
public:
  SiteSheet(Document& document, QWidget* parent = nullptr);
  void refresh() override;
  void loadWeather(const QString& path); ///< reports through the document's notice

signals:
  void weatherWanted();
  void benchWanted();
  void againstWanted(); ///< another year to be laid beside, or no longer

private:
  void searchCities(const QString& words);
  void edit(const QString& name, const std::function<void(Site&)>& change);
  std::vector<City> cities_;
  QLineEdit *name_, *search_, *latitude_, *longitude_, *elevation_, *zone_, *year_, *north_;
  QListWidget* found_;
  QLabel *weather_, *northWords_, *dayWords_;
  QPushButton* against_;
  QComboBox *units_, *lightUnits_;
  Compass* compass_;
  std::vector<const City*> shown_;
};

/// True north, turned by dragging.
class Compass : public QWidget {
  Q_OBJECT
public:
  explicit Compass(QWidget* parent = nullptr);
  void setAngle(double northAngle);
signals:
  void turned(double northAngle, bool finished);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

private:
  double angleAt(QPointF at) const;
  double angle_ = 0;
};

} // namespace noonward
