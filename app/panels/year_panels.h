#pragma once
// Sheets over the stage that need more room than the step's own: the list of runs with what went in, and how
// robust a year's verdict is.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/state/studies.h"
#endif

class QTableWidget;
class QPlainTextEdit;
class QHBoxLayout;

namespace noonward {

/// Every run kept beside the project: sorted by any column, renamed in place, asked what went in, run again, deleted.
class RunsPanel : public Panel {
  Q_OBJECT
public:
  RunsPanel(Document& document, Studies& studies, QWidget* parent);
  void refresh();

private:
  std::optional<StoredRun> chosen() const;
  std::vector<StoredRun> chosenRuns() const;
  void tellWentIn();
  void tellDifference();
  void again();
  Document& document_;
  Studies& studies_;
  QTableWidget* table_;
  QPlainTextEdit* text_;
  QLabel* head_;
  std::vector<StoredRun> runs_;
  bool filling_ = false;
};

/// The year's figures under the readings a reviewer may contest.
class ReadingsPanel : public Panel {
  Q_OBJECT
public:
  ReadingsPanel(Document& document, Studies& studies, QWidget* parent);
  void refresh();

private:
  Document& document_;
  Studies& studies_;
  QLabel* head_;
  QTableWidget* table_;
};

} // namespace noonward
