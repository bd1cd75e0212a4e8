#pragma once
// Over the stage while another design than the project's is shown: what it is, the one before and after it, back.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#endif

namespace noonward {

class ShownDesign : public QFrame {
  Q_OBJECT
public:
  ShownDesign(Document& document, QWidget* stage);
  void place();

signals:
  void stepWanted(int by);
  void optionWanted();
  void backWanted();

private:
  Document& document_;
  QLabel* text_;
};

} // namespace noonward
