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

template <class S> class FieldRows;

/// A word to click that shows or hides the rows inside it.
class Fold : public QObject {
  Q_OBJECT
public:
  Fold(QPushButton* head, QWidget* inside, const QString& label);
  QWidget* inside() const { return inside_; }
  QPushButton* head() const { return head_; }
  bool isOpen() const;
  void setOpen(bool open);

signals:
  void clicked(bool open); ///< by the user

private:
  QPushButton* head_;
  QWidget* inside_;
  QString label_;
};

class Sheet : public QWidget {
  Q_OBJECT
public:
  Sheet(const QString& title, Document& document, QWidget* parent = nullptr);
  virtual void refresh() = 0; ///< shows the project as it stands; never overwrites a field being typed in

signals:
  void helpWanted();

protected:
  template <class S> friend class FieldRows;
  QBoxLayout* body() const { return body_; }
  void setTitle(const QString& title);
  QLabel* addHeading(const QString& text);
  QLabel* addNote(const QString& text = {});
  void addWidget(QWidget* widget) { into_.back()->addWidget(widget); }
  /// Label left, field right, a rule below. `help`: one sentence on demand.
  void addRow(const QString& label, QWidget* field, const QString& help = {});
  /// A field for names: it has the sheet's width, its label above.
  void addWide(const QString& label, QWidget* field, const QString& help = {});
  QLineEdit* addField(const QString& label, const std::function<void(const QString&)>& done, const QString& help = {});
  QComboBox* addChoice(const QString& label, const QStringList& choices, const std::function<void(int)>& done,
                       const QString& help = {});
  QLineEdit* addName(const QString& label, const std::function<void(const QString&)>& done, const QString& help = {});
  QComboBox* addNames(const QString& label, const std::function<void(int)>& done, const QString& help = {});
  QPushButton* addButton(const QString& text, const std::function<void()>& pressed, bool main = false);
  QBoxLayout* addButtons();
  /// Rows added until endFold() are inside it. Folds and groups may hold each other.
  Fold* addFold(const QString& label);
  void endFold() { into_.pop_back(); }
  /// Rows added until endGroup() can be shown and hidden together.
  QWidget* addGroup();
  void endGroup() { into_.pop_back(); }
  static void show(QLineEdit* field, const QString& text);
  /// Marks a field whose text can't be used, with the reason; empty text clears it.
  static void showFault(QLineEdit* field, const QString& text);

  bool eventFilter(QObject* watched, QEvent* event) override;

  Document& document_;

private:
  QBoxLayout* body_;
  QLabel* title_;
  QLineEdit* fieldFor(const std::function<void(const QString&)>& done);
  static void help(QWidget* field, QLabel* label, const QString& name, const QString& text);
  std::vector<QBoxLayout*> into_; ///< what rows are added to: the body, or the innermost group or fold
};

} // namespace noonward
