#pragma once
// Designs beside each other: options and runs of sweeps in the user's own order, their plans at one scale, bars, and
// every figure with how far it moved from the first.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/state/writer.h"
#include "picture/beside_picture.h"
#endif

class QTableWidget;
class QListWidget;

namespace noonward {

class BesidePanel : public Panel {
  Q_OBJECT
public:
  BesidePanel(Document& document, QWidget* parent);
  void open(); ///< runs what is not there yet
  void saveTo(const QString& path);
  std::shared_ptr<const Beside> found() const { return found_; }
  bool busy() const { return writer_.busy(); }

signals:
  void fileWanted();
  void ran(); ///< a run has ended, whatever came of it

protected:
  void resizeEvent(QResizeEvent*) override;

private:
  void build();
  void refresh();
  void run();
  void fillFigures();
  void fillAdd();
  void paint();
  /// The designs in order, changed as one step; kept in the project.
  void edit(const QString& name, const std::function<void(std::vector<DesignRef>&)>& how, int row = -1);
  BesideView view() const;
  std::string studyAsked() const;
  Document& document_;
  Writer writer_;
  std::shared_ptr<const Beside> found_;
  std::vector<DesignRef> of_; ///< what was run last
  std::string studyOf_;       ///< and of which study
  quint64 revision_ = 0;      ///< of the project then
  QString painted_;
  QComboBox *study_, *way_;
  QListWidget* designs_;
  QPushButton *add_, *sooner_, *later_, *out_, *run_, *stop_, *save_;
  QLabel *inputs_, *picture_, *state_;
  QTableWidget* table_;
};

} // namespace noonward
