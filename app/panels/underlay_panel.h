#pragma once
// A picture to trace over, laid: spots of it are marked here, where they lie is said by lengths or by clicks on the
// stage, and the stage shows it as it will lie.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/panels/pin_board.h"
#include "core/files/cities/map_sheet.h"
#include <QImage>
#endif

class QComboBox;
class QPushButton;
class QSlider;

namespace noonward {

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
