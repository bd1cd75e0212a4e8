#pragma once
// Trying many designs: what is varied and what is looked at, typed in two tables; the runs as they come, in one table
// and one chart; the best made an option; the least change that passes.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/state/writer.h"
#include "core/runs/sweep/least_change.h"
#include "core/runs/sweep/sweep_words.h"
#include "picture/sweep_picture.h"
#endif

class QTableWidget;

namespace noonward {

/// The chart: click a run to choose it, drag along an axis to pick a stretch, click the axis to let go of it.
class SweepChart : public QWidget {
  Q_OBJECT
public:
  explicit SweepChart(QWidget* parent = nullptr);
  void show(std::shared_ptr<const SweepTable> table);
  SweepView& view() { return view_; }
  const SweepTable* table() const { return table_.get(); }
  QRectF area() const;
  void redraw();

signals:
  void chosen(std::size_t row);
  void picked();

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;

private:
  std::shared_ptr<const SweepTable> table_;
  SweepView view_;
  std::optional<std::size_t> axis_; ///< being dragged along
  double from_ = 0;                 ///< 0…1
};

class SweepDesk : public Panel {
  Q_OBJECT
public:
  SweepDesk(Document& document, QWidget* parent);
  ~SweepDesk() override;
  void open();
  void saveTo(const QString& path);
  std::shared_ptr<const SweepTable> table() const { return found_; }
  std::shared_ptr<const LeastChange> least() const { return least_; }
  bool busy() const { return writer_.busy(); }
  /// Opens with what can be varied of these, and of the rooms and rules that stand in them.
  void vary(const std::vector<ElementId>& selected, OpeningId opening);
  void varyRule(RuleId rule); ///< the same of a rule of windows or shading
  void step(int by);          ///< shows the run so many places on in the table
  void makeOption();

signals:
  void fileWanted();
  void ran(); ///< a sweep or a search has ended, whatever came of it

private:
  void build();
  void buildAsked(QVBoxLayout* into);
  void buildRead(QVBoxLayout* into);
  void refresh();
  void fillOffers();
  void fillVary(const std::vector<VariableOffer>& offers);
  void offerToVary(const std::vector<VariableOffer>& offers);
  void fillTables();
  void fillRows();
  /// The sweep in hand, changed as one step; kept in the project.
  void edit(const QString& name, const std::function<Outcome(Sweep&)>& how);
  const Sweep* sweep() const;
  void cellTyped(bool variables, int row, int column, const std::string& typed);
  void run();
  void search();
  void choose(std::size_t row);
  void layBeside();
  /// The run chosen in place of the project, in every view.
  void showChosen();
  void tell();
  void say(const QString& text);
  Document& document_;
  Writer writer_;
  SweepId in_;
  std::shared_ptr<const SweepTable> found_;
  std::shared_ptr<const LeastChange> least_;
  bool filling_ = false;
  QComboBox *which_, *way_, *one_, *other_;
  QPushButton *vary_, *look_; ///< with what the project offers
  QLineEdit *name_, *where_, *sample_;
  QTableWidget *variables_, *outcomes_, *rows_;
  QLabel *cost_, *text_, *state_;
  SweepChart* chart_;
  QPushButton *run_, *search_, *stop_, *show_, *beside_, *option_, *save_, *remove_;
};

} // namespace noonward
