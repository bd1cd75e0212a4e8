#pragma once
// Designing a shade against the sun: a window's sky with what shading takes of it, the hours in which sun is wanted or
// not, the part's size by dragging its cut-off on the sky or by asking for the least that does, and what it costs.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/panels/shade_views.h"
#endif

class QSpinBox;

namespace noonward {

class ShadePanel : public Panel {
  Q_OBJECT
public:
  ShadePanel(Document& document, QWidget* parent);
  void open(RuleId rule = {});
  /// The window nearest a spot on the model.
  void setSpot(Vec3 place, Vec3 normal);
  /// "dial" (.png, .svg, .pdf) or "report" (.csv).
  void exportTo(const QString& kind, const QString& path);

signals:
  void spotWanted(const QString& text);
  void fileWanted(const QString& kind);

protected:
  void hideEvent(QHideEvent*) override;

private:
  struct Answer;
  void fill(); ///< windows, shadings and hours as the project has them
  void ask();  ///< figures of the window, behind the panel
  void take(std::shared_ptr<const Answer> answer);
  void dragTo(double azimuth, double altitude);
  void size(ShadeSizing::What what);
  void editWishes(const QString& name, const std::function<void(SunWishes&)>& change);
  void addHere(ShadeRule::Kind kind);
  void takeHoursOf(const Study& study);
  const PlacedOpening* placed() const;
  const ShadeRule* rule() const;
  CutOff cutOff() const;

  Document& document_;
  OpeningLayout layout_;
  std::vector<OpeningId> windows_;
  std::vector<RuleId> rules_;
  OpeningId window_;
  RuleId rule_;
  std::shared_ptr<const Answer> answer_;
  std::shared_ptr<RunControl> sizing_;
  std::shared_ptr<const SunKnots> knots_;
  int knotYear_ = 0;
  bool busy_ = false, again_ = false, picking_ = false;
  quint64 opened_ = 0;
  QComboBox *whichWindow_, *whichRule_, *projection_, *hoursOf_;
  std::vector<StudyId> hourStudies_;
  QWidget* hoursRow_;
  ShadeDial* dial_;
  GlassDayChart* chart_;
  QLabel *figures_, *wishes_, *sized_, *day_;
  QLineEdit *goal_, *from_, *upTo_, *beamFrom_;
  QPushButton *depth_, *spacing_, *stop_;
  QWidget* sizeRow_;
  QWidget* addRow_;
};

} // namespace noonward
