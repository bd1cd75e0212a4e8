#pragma once
// A picture to trace over, laid: spots of it are marked here, where they lie is said by lengths or by clicks on the
// stage, and the stage shows it as it will lie.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "core/files/cities/map_sheet.h"
#include <QImage>
#endif

class QComboBox;
class QPushButton;
class QSlider;

namespace noonward {

/// The picture with its marks: a click puts the mark in hand, a mark can be dragged, the wheel zooms, the right button
/// pans; 1 … 4 choose a mark and the arrow keys move it by a pixel (Shift: by ten).
class PinBoard : public QWidget {
  Q_OBJECT
public:
  explicit PinBoard(QWidget* parent = nullptr);
  /// `size`: px of the picture as its file has it; `image` may be smaller.
  void show(const QImage& image, QSize size);
  void setMarks(std::vector<Vec2> marks, const QStringList& names);
  const std::vector<Vec2>& marks() const { return marks_; }
  QPointF pointOf(Vec2 pixel) const; ///< in the widget

signals:
  void marked(int mark); ///< was moved

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

private:
  QImage seen_;         ///< the image as small as it is shown, for a clean look
  double scale() const; ///< widget px of a picture px
  Vec2 pixelAt(QPointF at) const;
  void put(int mark, Vec2 pixel);
  QImage image_;
  QSize size_;
  std::vector<Vec2> marks_;
  QStringList names_;
  double zoom_ = 1;
  QPointF shift_;
  int active_ = 0, dragged_ = -1;
  bool panning_ = false;
  QPointF last_;
};

class UnderlayPanel : public Panel {
  Q_OBJECT
public:
  UnderlayPanel(Document& document, QWidget* parent);
  void lay(const QString& file);                          ///< a new one
  void adjust(UnderlayId underlay);                       ///< one that is there
  void setSpot(Vec3 place, Vec3 normal, quint64 element); ///< the click on the stage that was asked for
  void comeBack();                                        ///< it stood aside for a click that was not made

signals:
  void spotWanted(const QString& words, bool wall);
  /// The view that suits: of a plan, or square to a wall.
  void planWanted(int covered);
  void wallWanted(const WallRectangle& wall, int covered);

protected:
  void hideEvent(QHideEvent*) override;

private:
  enum class Asked { Nothing, First, Second, Wall };
  void begin(Underlay underlay);
  void showPicture();
  void beginPlan();
  void beginFacade();
  void beginSheet();
  void moved(int mark);
  void take(QLineEdit* field, double least, double most, const std::function<void(double)>& use);
  void showOnStage();
  void fill();
  void keep();
  Document& document_;
  Underlay now_;
  bool fresh_ = false;
  UnderlayKind kindNow_ = UnderlayKind::Plan;
  std::optional<MapSheet> sheet_;            ///< where its coordinates are known
  std::optional<Site> site_;                 ///< what the sheet says of an empty project's place
  std::string laidBy_;                       ///< in words, or what is wrong with its coordinates
  std::optional<WallRectangle> face_, wall_; ///< that was clicked on; that the four corners stand on
  Asked asked_ = Asked::Nothing;
  bool aside_ = false; ///< hidden for a click on the stage
  quint64 serial_ = 0;
  QSize size_;
  PinBoard* board_;
  QLabel *hint_, *state_;
  QComboBox* kind_;
  QLineEdit *name_, *distance_, *level_, *width_, *height_, *left_, *foot_, *system_, *sheetLevel_;
  QWidget *planRows_, *sheetRows_, *facadeRows_;
  QPushButton *first_, *second_, *onWall_, *keep_;
  QSlider* strength_;
};

} // namespace noonward
