#pragma once
// Receivers as a table: where each belongs, its value in the study looked at, what the rules say of it. Sorted by any
// column or in the project's own order, filtered by words and outcome; tens of thousands of rows. Those chosen are
// given a dwelling, a building and a subject; the one in hand is probed.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/state/studies.h"
#include "core/runs/receiver_rows.h"
#include <QAbstractTableModel>
#include <QSortFilterProxyModel>
#include <QTimer>
#endif

class QTableView;

namespace noonward {

class ReceiverModel : public QAbstractTableModel {
  Q_OBJECT
public:
  enum Column { Number, Receiver, Dwelling, Building, SubjectColumn, Value, Outcome, Verdict, columns };
  using QAbstractTableModel::QAbstractTableModel;
  void setRows(std::vector<ReceiverRow> rows, const QString& unit);
  const std::vector<ReceiverRow>& rows() const { return rows_; }
  QString unit() const { return unit_; }
  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  static constexpr int sortRole = Qt::UserRole; ///< numbers as numbers

private:
  std::vector<ReceiverRow> rows_;
  QString unit_;
};

/// Rows that hold all the words, with one outcome or any.
class ReceiverFilter : public QSortFilterProxyModel {
  Q_OBJECT
public:
  using QSortFilterProxyModel::QSortFilterProxyModel;
  void setWords(const QString& words);
  void setOutcome(std::optional<Outcome3> outcome);

protected:
  bool filterAcceptsRow(int row, const QModelIndex& parent) const override;

private:
  QStringList words_;
  std::optional<Outcome3> outcome_;
};

class ReceiversPanel : public Panel {
  Q_OBJECT
public:
  ReceiversPanel(Document& document, Studies& studies, QWidget* parent);
  void refresh();
  /// A table of receivers, CSV or GeoJSON, brought into the project.
  void bring(const QString& path);
  void exportTo(const QString& path);
  const ReceiverModel& model() const { return *model_; }

signals:
  void fileWanted(const QString& kind); ///< "in" or "out"

private:
  void fill();
  void told();
  void give();
  std::vector<ReceiverRef> chosen() const;
  Document& document_;
  Studies& studies_;
  QTimer filling_, searching_;
  ReceiverModel* model_;
  ReceiverFilter* shown_;
  QTableView* table_;
  QLineEdit *words_, *dwelling_, *building_;
  QComboBox *outcome_, *subject_;
  QPushButton* give_;
  QLabel *told_, *counts_;
  bool filled_ = false;
};

} // namespace noonward
