#pragma once
// A stage beside the first: the same design from elsewhere, at a moment of its own, or another option with its result.
// Seen alike, the two turn together.

#ifndef Q_MOC_RUN
#include "app/stage/stage.h"
#include <QComboBox>
#include <QLabel>
#endif

namespace noonward {

class SecondStage : public QWidget {
  Q_OBJECT
public:
  SecondStage(Document& document, Studies& studies, Stage& first, QWidget* parent = nullptr);
  Stage& stage() { return *stage_; }
  /// Shows itself with what is most likely wanted: another option where there is one, else the plan.
  void open();
  /// Its own view, or that of the first stage.
  void setView(std::optional<ViewKind> kind);

protected:
  void hideEvent(QHideEvent*) override;

signals:
  void closed();

private:
  void refresh();
  void alike(); ///< turns as the first does
  Document& document_;
  Stage& first_;
  Stage* stage_;
  QComboBox *view_, *what_;
  QLabel *caption_, *line_;
  bool turning_ = false;
  std::vector<OptionId> options_; ///< in the order listed
};

} // namespace noonward
