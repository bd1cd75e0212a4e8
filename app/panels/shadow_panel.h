#pragma once
// The shadow plan: where shadow falls at hours of a day, what of it is new, how large it is. Follows every change of
// the model while it is open.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/state/writer.h"
#include "core/studies/shadow_plan.h"
#include <QTimer>
#endif

class QCheckBox;
class QTableWidget;

namespace noonward {

/// The plan from above, drawn anew where it changed.
class ShadowOutlines : public QWidget {
  Q_OBJECT
public:
  explicit ShadowOutlines(QWidget* parent = nullptr);
  void show(std::shared_ptr<const Project> project, std::shared_ptr<const ShadowPlan> plan);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  std::shared_ptr<const Project> project_;
  std::shared_ptr<const ShadowPlan> plan_;
  QPixmap drawn_;
  bool dark_ = false;
};

class ShadowPanel : public Panel {
  Q_OBJECT
public:
  ShadowPanel(Document& document, QWidget* parent);
  void open();
  /// By the ending: .geojson, .dxf, .csv, .pdf, .svg, .png.
  void exportTo(const QString& path);
  Writer& writer() { return writer_; }
  std::shared_ptr<const ShadowPlan> plan() const { return plan_; }

signals:
  void fileWanted();
  void planChanged(); ///< it is there, or why there is none

private:
  void ask();
  void fill();
  std::optional<ShadowPlanSettings> settings();
  Document& document_;
  Writer writer_;
  QTimer asking_;
  std::shared_ptr<const Project> of_; ///< what the plan was made from
  std::shared_ptr<const ShadowPlan> plan_;
  std::shared_ptr<RunControl> control_;
  std::uint64_t number_ = 0;
  bool busy_ = false, again_ = false;
  ShadowOutlines* map_;
  QComboBox* when_;
  QLineEdit *days_, *from_, *to_, *step_;
  QCheckBox* roofs_;
  QTableWidget* table_;
  QLabel *told_, *state_;
};

} // namespace noonward
