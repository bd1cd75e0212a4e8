#pragma once
// The measuring desk: a logger's file laid beside a daylight year of the project; how far they agree, when they part,
// and what would bring them nearer.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/state/writer.h"
#include "core/files/station/guideline.h"
#include "core/runs/measuring.h"
#include <QFileSystemWatcher>
#include <QTimer>
#endif

class QCheckBox;
class QTableWidget;

namespace noonward {

/// Measured and computed of one sensor, in one of four ways.
class MeasuredPlot : public QWidget {
  Q_OBJECT
public:
  enum class Way { Curves, Scatter, Difference, Errors };
  explicit MeasuredPlot(QWidget* parent = nullptr);
  /// `day`: of the year, from which curves are drawn (seven days).
  void show(std::shared_ptr<const Measuring> measuring, std::size_t sensor, Way way, int day);
  QString text() const { return text_; } ///< what is drawn, in words

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void paintCurves(QPainter& p, const QRectF& f);
  void paintScatter(QPainter& p, const QRectF& f);
  void paintDifference(QPainter& p, const QRectF& f);
  void paintErrors(QPainter& p, const QRectF& f);
  std::shared_ptr<const Measuring> m_;
  std::size_t sensor_ = 0;
  Way way_ = Way::Curves;
  int day_ = 0;
  QString text_;
};

class MeasuringDesk : public Panel {
  Q_OBJECT
public:
  MeasuringDesk(Document& document, QWidget* parent);
  void open();
  void takeFile(const QString& path);
  void saveTo(const QString& path);
  /// What is asked becomes a series of the project, under the name typed; one of that name is put right.
  void keep(const QString& name);
  void takeKept(const QString& name); ///< the project's series of that name, with all that it asks
  std::shared_ptr<const Measuring> measuring() const { return measuring_; }
  Writer& writer() { return writer_; }

signals:
  void fileWanted(const QString& kind); ///< "in", "out"
  void measured();                      ///< figures are there, or why there are none

private:
  void ask();
  /// As the fields stand; an error says which is wrong.
  Expected<MeasuringWish> wish() const;
  void takeFiles(std::vector<std::filesystem::path> files);
  void fillKept();
  void fill();
  void showPlot();
  void judge();
  void say(const QString& text);
  Document& document_;
  Writer writer_;
  QTimer asking_;
  QFileSystemWatcher watch_;
  std::vector<std::filesystem::path> files_;
  StationMap map_; ///< of the series taken from the project, or none
  std::shared_ptr<const Measuring> measuring_;
  std::shared_ptr<RunControl> control_;
  bool busy_ = false, again_ = false;
  QLabel *fileText_, *figures_, *verdict_, *suggestions_, *state_;
  QComboBox *study_, *clock_, *way_, *guideline_, *kept_;
  std::vector<AgreementGuideline> guidelines_;
  QLineEdit *from_, *to_, *hours_, *slip_;
  QCheckBox* reflectances_;
  QTableWidget* table_;
  MeasuredPlot* plot_;
  QPushButton *save_, *stop_, *keep_;
};

} // namespace noonward
