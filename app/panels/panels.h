#pragma once
// Floating panels of the window: Findings, Do anything, what a model to be brought in looks like, the first page.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/document.h"
#include "core/model/mending/mend_preview.h"
#include "core/proof/proof.h"
#include <QAction>
#include <QFrame>
#include <atomic>
#include <thread>
#endif

class QLineEdit;
class QListWidget;
class QScrollArea;
class QLabel;
class QComboBox;
class QPushButton;
class QVBoxLayout;

namespace noonward {

/// A raised sheet with a thin rule; closes with Escape.
class Panel : public QFrame {
  Q_OBJECT
public:
  explicit Panel(QWidget* parent);

protected:
  void keyPressEvent(QKeyEvent*) override;
  void paintEvent(QPaintEvent*) override;
};

/// A line of text in a panel.
QLabel* words(const QString& text, const QFont& font, bool quiet = false, bool wrap = true);

/// A button found by its text, with what it does under the pointer.
QPushButton* textButton(const QString& text, const QString& tip, const std::function<void()>& pressed);

class FindingsPanel : public Panel {
  Q_OBJECT
public:
  FindingsPanel(Document& document, QWidget* parent);
  void refresh();
signals:
  void flyTo(const Finding& finding);
  /// What a mend would change, to be shown over the model; null for nothing.
  void previewed(std::shared_ptr<const MendPreview> preview);

protected:
  void hideEvent(QHideEvent*) override;

private:
  void preview(const Finding& finding);
  Document& document_;
  QVBoxLayout* list_;
  QPushButton* all_;
  QScrollArea* scroll_;
  std::optional<Finding> seen_; ///< whose change is shown
  QString seenText_;
};

class DoAnything : public Panel {
  Q_OBJECT
public:
  DoAnything(QWidget* parent, std::function<QList<QAction*>()> actions);
  void open();

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void fill();
  void carryOut();
  std::function<QList<QAction*>()> actions_;
  QLineEdit* words_;
  QListWidget* list_;
  QList<QAction*> shown_;
};

/// The known-answer cases, run in the background, with their deviations.
class ProofPanel : public Panel {
  Q_OBJECT
public:
  explicit ProofPanel(QWidget* parent);
  ~ProofPanel() override;
  void run();
signals:
  void proved(int holding, int all); ///< all subjects are through

protected:
  void hideEvent(QHideEvent* event) override; ///< ends the run after the subject in work

private:
  void add(const std::vector<ProofCase>& cases);
  QLabel* head_;
  QListWidget* list_;
  std::thread worker_;
  std::atomic<bool> stop_{false};
  int holding_ = 0;
};

/// Where the small picture of a project lies, from when it was last saved here.
QString recentPicture(const QString& project);

class FirstPage : public Panel {
  Q_OBJECT
public:
  FirstPage(QWidget* parent, const QStringList& recent);
signals:
  void demo();
  void southernDemo();
  void quarter();
  void tour();
  void weather();
  void model();
  void empty();
  void file(const QString& path);
};

} // namespace noonward
