#pragma once
// Options: design alternatives of one project.

#include "app/steps/sheet.h"

class QListWidget;

namespace noonward {

class OptionsSheet : public Sheet {
  Q_OBJECT
public:
  OptionsSheet(Document& document, Studies& studies, QWidget* parent = nullptr);
  void refresh() override;

signals:
  void compareWanted();
  void sweepWanted();

private:
  Studies& studies_;
  QListWidget* list_;
  QWidget *withOptions_, *many_;
  QLineEdit* name_;
  QLabel *about_, *changes_;
  QPushButton *remove_, *compare_;
  QString shown_;
};

/// A fresh name for another option: "Option B".
QString nextOptionName(const Project& project);

} // namespace noonward
