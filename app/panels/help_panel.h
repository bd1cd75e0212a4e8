#pragma once
// The guide inside the window: rendered from docs/, searched, opened at the place asked for; the list of shortcuts; and
// the tour of the demo.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#endif

class QTextBrowser;

namespace noonward {

/// The chapter of the guide that tells of a step.
QString chapterOf(Step step, StudyKind kind);

class HelpPanel : public Panel {
  Q_OBJECT
public:
  /// `docs`: the folder with the pages; `actions`: whose shortcuts are listed.
  HelpPanel(QWidget* parent, const std::filesystem::path& docs, std::function<QList<QAction*>()> actions);
  /// At the chapter with that heading, or at the page's beginning.
  void open(const QString& chapter = {});
  void openShortcuts();
  QString heading() const; ///< the chapter at the top of what is seen

private:
  void showPage(int index);
  void find();
  QComboBox* page_;
  QLineEdit* words_;
  QLabel* found_;
  QTextBrowser* text_;
  std::filesystem::path docs_;
  std::function<QList<QAction*>()> actions_;
  QString chapter_;
};

/// Six steps over the demo, left at any time.
class TourPanel : public Panel {
  Q_OBJECT
public:
  TourPanel(QWidget* parent, Document& document);
  void start();

signals:
  void placed(); ///< its size changed

private:
  void go(int step);
  Document& document_;
  QLabel *title_, *text_;
  QPushButton *back_, *next_;
  int step_ = 0;
};

} // namespace noonward
