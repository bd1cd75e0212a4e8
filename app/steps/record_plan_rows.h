#pragma once
// What goes into the record: its parts in order, what the user says before each, and the reviewer's remarks with their
// answers. Every edit is a change of the project.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/document.h"
#include <QWidget>
#endif

class QLabel;
class QLineEdit;
class QListWidget;
class QPlainTextEdit;
class QPushButton;
class QBoxLayout;

namespace noonward {

class RecordPlanRows : public QWidget {
  Q_OBJECT
public:
  RecordPlanRows(Document& document, QWidget* parent = nullptr);
  void refresh();

protected:
  bool eventFilter(QObject* watched, QEvent* event) override; ///< a paragraph is taken when its field is left

private:
  QString nameOf(const RecordPart& part) const;
  /// Changes the parts as they stand, listed or not; `row` is chosen afterwards.
  void edit(const QString& name, const std::function<void(std::vector<RecordPart>&)>& how, int row = -1);
  void editChosen(const QString& name, const std::function<void(RecordPart&)>& how);
  void takeParagraph();
  void fillAdd();
  void showChosen();
  Document& document_;
  QListWidget* parts_;
  QPushButton *add_, *sooner_, *later_, *out_;
  QWidget *titleRow_, *shadowRow_, *said_;
  QLineEdit *title_, *day_, *from_, *to_, *step_;
  QPlainTextEdit* text_;
  QString shown_;
  bool filling_ = false;
};

class RemarkRows : public QWidget {
  Q_OBJECT
public:
  RemarkRows(Document& document, QWidget* parent = nullptr);
  void refresh();

private:
  void edit(const QString& name, const std::function<void(std::vector<Remark>&)>& how);
  Document& document_;
  QBoxLayout* rows_;
  QLineEdit *by_, *remark_;
  std::vector<Remark> shown_;
  bool filled_ = false;
};

} // namespace noonward
