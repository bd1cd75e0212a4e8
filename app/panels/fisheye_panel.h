#pragma once
// What an eye sees: the fisheye of the line of sight or probe that is looked at, at the moment of the Almanac. Dragging
// the picture turns the head; a coarse look comes first.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/state/studies.h"
#include "app/state/writer.h"
#include "picture/fisheye_page.h"
#include <QTimer>
#endif

class QComboBox;
class QLineEdit;

namespace noonward {

/// The hemisphere with its figures beside it, and the hand on it.
class FisheyeView : public QWidget {
  Q_OBJECT
public:
  explicit FisheyeView(QWidget* parent = nullptr);
  struct Shown {
    std::shared_ptr<const Project> project;
    std::shared_ptr<const Fisheye> picture;
    QString title, moment;
    LuminanceScale scale;
  };
  void show(Shown shown);
signals:
  void turned(double azimuth, double altitude); ///< rad, by how much
  void pointed(QPointF share);                  ///< of the hemisphere's square, 0…1
  void rangeDragged(double low, double high);   ///< cd/m², by an end of the scale

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;

private:
  QRectF place() const; ///< of the hemisphere
  QRectF strip() const; ///< of the scale
  enum class End { None, Low, High };
  End endUnder(QPointF at) const;
  End end_ = End::None;  ///< of the scale, in hand
  LuminanceScale taken_; ///< as it was then
  Shown shown_;
  QPixmap drawn_;
  bool dark_ = false;
  std::optional<QPointF> pressed_;
};

class FisheyePanel : public Panel {
  Q_OBJECT
public:
  FisheyePanel(Document& document, Studies& studies, QWidget* parent);
  /// Of what is looked at; false where that is neither a line of sight nor a probe.
  bool open();
  /// By the ending: .png, .exr, .csv.
  void exportTo(const QString& path);
  Writer& writer() { return writer_; }
  std::shared_ptr<const Fisheye> picture() const { return picture_; }

signals:
  void fileWanted();
  void pictureChanged(); ///< it is there, or why there is none

protected:
  void hideEvent(QHideEvent*) override;

private:
  void ask();
  void run(bool coarse);
  void draw();
  void keep();
  void told(QPointF share);
  Document& document_;
  Studies& studies_;
  Writer writer_;
  QTimer asking_;
  Vec3 eye_;
  double azimuth_ = 0, altitude_ = 0; ///< rad, true
  QString name_;
  std::shared_ptr<const Project> of_;
  std::shared_ptr<const Fisheye> picture_;
  std::shared_ptr<RunControl> control_;
  QString moment_;
  LuminanceScale shownScale_; ///< as typed; what is saved has it too
  bool busy_ = false, again_ = false;
  FisheyeView* view_;
  QComboBox *projection_, *sky_, *scale_;
  QLineEdit *way_, *range_;
  QLabel *state_, *under_;
};

} // namespace noonward
