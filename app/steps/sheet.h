#pragma once
// The right-hand sheet of a step: plain rows in reading order, advanced ones folded away.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/studies.h"
#include <QBoxLayout>
#include <QWidget>
#endif

class QLabel;
class QLineEdit;
class QComboBox;
class QCheckBox;
class QPushButton;

namespace noonward {

class Sheet : public QWidget {
  Q_OBJECT
public:
  Sheet(const QString& title, Document& document, QWidget* parent = nullptr);
  virtual void refresh() = 0; ///< shows the project as it stands; never overwrites a field being typed in

protected:
  friend class SettingRows;
  QBoxLayout* body() const { return body_; }
  void setTitle(const QString& title);
  QLabel* addHeading(const QString& text);
  QLabel* addNote(const QString& text = {});
  void addWidget(QWidget* widget) { rowsInto_->addWidget(widget); }
  /// Label left, field right, a rule below. `help`: one sentence on demand.
  void addRow(const QString& label, QWidget* field, const QString& help = {});
  QLineEdit* addField(const QString& label, const std::function<void(const QString&)>& done, const QString& help = {});
  QComboBox* addChoice(const QString& label, const QStringList& choices, const std::function<void(int)>& done,
                       const QString& help = {});
  QPushButton* addButton(const QString& text, const std::function<void()>& pressed, bool main = false);
  QBoxLayout* addButtons();
  /// A word to click that shows or hides the rows added until endFold().
  QWidget* addFold(const QString& label);
  void endFold() { rowsInto_ = base_; }
  /// Rows added until endGroup() can be shown and hidden together.
  QWidget* addGroup();
  void endGroup() { base_ = rowsInto_ = body_; }
  static void show(QLineEdit* field, const QString& text);
  /// Marks a field whose text can't be used, with the reason; empty text clears it.
  static void showFault(QLineEdit* field, const QString& text);

  Document& document_;

private:
  QBoxLayout* body_;
  QLabel* title_;
  QBoxLayout* rowsInto_;
  QBoxLayout* base_; ///< of folds: the body or a group
};

} // namespace noonward
