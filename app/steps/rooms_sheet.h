#pragma once
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/stage/stage.h"
#include "app/steps/sheet.h"
#endif

class QListWidget;
class QTableWidget;

namespace noonward {

/// Rooms, their windows and shades by rules that stay editable, and the grid on their working plane.
class RoomsSheet : public Sheet {
  Q_OBJECT
public:
  RoomsSheet(Document& document, Stage& stage, QWidget* parent = nullptr);
  ~RoomsSheet() override;
  void refresh() override;

signals:
  void designWanted(RuleId rule); ///< the panel that sizes a shade
  void eyeWanted();               ///< to look through the eye that is looked at
  void varyWanted(RuleId rule);   ///< to try many designs of a rule of windows or shading

private:
  const Room* room() const;
  const WindowRule* rule() const;
  const ShadeRule* shade() const;
  void editRoom(const QString& name, const std::function<void(Room&)>& change);
  void editRule(const QString& name, const std::function<void(WindowRule&)>& change);
  void editShade(const QString& name, const std::function<void(ShadeRule&)>& change);
  void editGrid(const std::function<void(RoomGrid&)>& change);
  void roomsFromSelected();
  void addRule(WindowRule rule);
  void addShade(ShadeRule::Kind kind);
  void buildShading();
  void refreshShading();
  void layGrid();
  QLineEdit* lengthField(const QString& label, double least, const std::function<void(double)>& done,
                         const QString& help = {});
  QLineEdit* numberField(const QString& label, const QString& unit, double least, double most,
                         const std::function<void(double)>& done, const QString& help = {});
  void addSmall(QBoxLayout* row, const QString& text, const QString& tip, const std::function<void()>& done);
  void buildUses();
  void refreshUses();
  void buildEnvelope();
  void refreshEnvelope();
  void editSurface(const QString& name, const std::function<void(HeatSurface&)>& change);
  void editUse(const QString& name, const std::function<void(RoomUse&)>& change);
  void buildEyes();
  void refreshEyes();
  void addEyeGrid();
  const SensorGroup* eyeGroup() const;
  std::optional<EyeRef> eyeNow() const;
  void editEye(const QString& name, const std::function<void(PointSensor&)>& change);
  void editEyeGrid(const std::function<void(RoomGrid&)>& change);
  void buildOpenings();
  void refreshOpening();
  void addDoor();
  void copyWall();
  void windowsForAMass();
  void buildSides();
  void refreshSides();
  const WindowRule* sideRule(Facing facing) const;
  void setSide(Facing facing, double share);
  void editOpening(const QString& name, const std::function<void(Opening&)>& change);
  void fillGlazings(QComboBox* choice, const std::string& now);
  void refreshTable();
  void refreshRule();

  Stage& stage_;
  RoomId room_;
  std::vector<RoomId> listed_; ///< rows of the table
  QLineEdit *filter_, *ruleType_, *shadeName_, *shadeType_, *openAlong_, *openSill_, *openWidth_, *openHeight_,
      *openRepeat_, *openGap_, *openType_, *openFrame_, *openPane_;
  std::array<QLineEdit*, 4> sides_{};
  QLabel* sidesNote_;
  Fold* sidesFold_;
  QComboBox *gridIn_, *whichOpening_, *openGlazing_, *openFollow_, *openCopy_, *colourBy_;
  QLabel* openFacts_;
  QWidget* openRows_;
  RuleId rule_, shade_;
  QLabel *summary_, *ruleFacts_, *gridFacts_;
  QWidget *withRooms_, *massTools_;
  QTableWidget* table_;
  QLineEdit *name_, *use_, *height_, *floor_, *reason_;
  QComboBox *counted_, *whichRule_, *ruleRooms_, *ruleFacing_, *ruleGlazing_, *whichShade_, *shadeFacing_, *shadeAt_;
  QLineEdit *spacing_, *plane_, *distance_;
  QComboBox* layout_;
  QLabel* laid_;
  QLabel* shadeFacts_;
  std::unique_ptr<FieldRows<WindowRule>> ruleFields_;
  std::unique_ptr<FieldRows<ShadeRule>> shadeFields_;
  QWidget *ruleRows_, *shadeRows_, *gridRows_;
  QComboBox *useOfRoom_, *useOfOthers_, *whichUse_;
  QLabel* useFacts_;
  QLineEdit* useName_;
  std::unique_ptr<FieldRows<RoomUse>> useFields_;
  QWidget* useOwn_;
  std::string lookedUse_;
  QListWidget* envelope_;
  QLabel* envelopeFacts_;
  QComboBox *beyond_, *surfaceConstruction_;
  std::vector<int> edges_; ///< rows of the list of surfaces
  Fold* envelopeFold_;
  std::optional<std::pair<std::uint64_t, int>> shownSurface_;
  GroupId eyes_; ///< the group of eyes looked at
  QLabel* eyesFacts_;
  QWidget *eyeRows_, *eyeOne_, *eyeGridRows_;
  QComboBox *whichEyes_, *whichEye_, *eyesIn_;
  QLineEdit *eyesName_, *eyeName_, *eyeLevel_, *eyeAzimuth_, *eyeAltitude_, *rowCount_, *rowDistance_, *eyeSpacing_,
      *eyeHeight_, *eyeDistance_, *eyeWays_, *eyeFirst_;
  bool filling_ = false;
};

} // namespace noonward
