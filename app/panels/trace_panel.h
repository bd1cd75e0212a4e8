#pragma once
// The simplified model before it is put in: storeys found, what each cut gives, how far it is from its source; wishes
// changed here are shown on the stage as they are made.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "core/model/tracing/tracing.h"
#endif

class QTableWidget;
class QGridLayout;

namespace noonward {

class TracePanel : public Panel {
  Q_OBJECT
public:
  TracePanel(Document& document, QWidget* parent);
  void open();

signals:
  /// What the stage shows over the model; null for nothing.
  void previewed(std::shared_ptr<const Trace> trace, int storey);

protected:
  void hideEvent(QHideEvent*) override;

private:
  void ask();
  void answer(std::shared_ptr<const Expected<Trace>> answer, quint64 revision);
  void fill();
  void putIn();
  std::optional<double> length(QLineEdit* field, double least, double most);
  Document& document_;
  std::shared_ptr<const Trace> trace_;
  std::shared_ptr<RunControl> control_; ///< of the trace on its way
  quint64 asked_ = 0, of_ = 0;          ///< question, revision of the project that the shown one is of
  int storey_ = 0;
  QLabel *facts_, *deviation_, *notes_;
  QLineEdit *floors_, *simplify_, *gap_, *wall_, *smallest_, *below_;
  QTableWidget* table_;
  QPushButton *done_, *undo_;
  bool filling_ = false;
};

} // namespace noonward
