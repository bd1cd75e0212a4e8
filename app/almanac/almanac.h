#pragma once
// The Almanac: the clock, the season and the picture of the year, along the foot of the window.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/almanac/almanac_geometry.h"
#include "app/state/studies.h"
#include <QImage>
#include <QWidget>
#endif

class QPushButton;
class QComboBox;
class QHBoxLayout;
class QLabel;

namespace noonward {

/// The plot itself: takes keys and mouse.
class AlmanacPlot : public QWidget {
  Q_OBJECT
public:
  AlmanacPlot(Document& document, Studies& studies, QWidget* parent = nullptr);
  AlmanacGeometry geometryNow() const;
  std::pair<double, double> columnRange() const { return {columnLow_, columnHigh_}; } ///< ends of its colours
  QString textAt(Date date, double minutes) const; ///< "21 Jun · 14:05 · altitude 48.2° · azimuth 213° · 314 W/m²"
  void setMarking(bool on) { marking_ = on; }
  void refresh();
signals:
  void seasonMarked();

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void leaveEvent(QEvent*) override;

private:
  void setMoment(QPointF at);
  void renderYear();
  void renderWishes();
  YearPicture shown() const; ///< the wanted picture where there is what it needs, else day and night
  std::vector<float> roomYear(YearPicture picture) const;
  /// DGP of the line of sight that is looked at, by record; empty where there is none.
  std::vector<float> glareYear() const;
  /// Of the room looked at, else of all, by record; empty where no year of energy is shown.
  std::vector<float> energyYear(YearPicture picture) const;
  std::vector<float> room_;               ///< what the picture of a room shows, by record
  double roomMost_ = 1000;                ///< lx, end of the colours
  double columnLow_ = 0, columnHigh_ = 1; ///< of a column of the weather
  Document& document_;
  Studies& studies_;
  QImage year_;   ///< a pixel a day and 5 minutes
  QImage wishes_; ///< over it, hours of sun kept out and let in; null where they are not asked for
  QString wishesDrawn_;
  QString drawn_; ///< what year_ shows
  std::optional<SunKnots> knots_;
  int knotYear_ = 0;
  std::optional<QPointF> stroke_;
  QPointF strokeEnd_;
  bool dragging_ = false, marking_ = false;
  std::optional<QPointF> hover_;
};

class Almanac : public QWidget {
  Q_OBJECT
public:
  Almanac(Document& document, Studies& studies, QWidget* parent = nullptr);
  void play(bool on);
  bool playing() const { return timer_.isActive(); }
  AlmanacPlot* plot() const { return plot_; }
  /// Folded it is one line: the moment and what the sun does.
  void setFolded(bool folded);
  bool folded() const { return folded_; }

signals:
  void foldedChanged(bool folded);
  void seasonChosen(); ///< by a word or by marking; studies that follow the season take it over

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void fillColumns(); ///< of the weather that have anything in them
  const void* columnsOf_ = nullptr;
  void refresh();
  void fillSeasons();
  Document& document_;
  AlmanacPlot* plot_;
  QComboBox *picture_, *clock_;
  QHBoxLayout* seasons_;
  QPushButton *play_, *mark_, *fold_;
  QLabel* line_;
  bool folded_ = false;
  class Readout* readout_;
  QTimer timer_;
  std::string seasonsShown_;
};

} // namespace noonward
