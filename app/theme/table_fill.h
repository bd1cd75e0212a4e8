#pragma once
// Columns as wide as what they hold are measured anew at every cell that is put in: with 500 rows that held the window
// for twenty seconds. Filled under a TableFill they are measured once.

#include <QHeaderView>
#include <QTableWidget>
#include <vector>

namespace noonward {

class TableFill {
public:
  explicit TableFill(QTableWidget* table) : table_(table) {
    QHeaderView* h = table->horizontalHeader();
    h->setResizeContentsPrecision(60); // the rows in sight
    for (int c = 0; c < h->count(); ++c) {
      modes_.push_back(h->sectionResizeMode(c));
      if (modes_.back() == QHeaderView::ResizeToContents) h->setSectionResizeMode(c, QHeaderView::Fixed);
    }
    table->setUpdatesEnabled(false);
  }
  ~TableFill() {
    QHeaderView* h = table_->horizontalHeader();
    for (int c = 0; c < h->count() && c < int(modes_.size()); ++c)
      if (modes_[std::size_t(c)] == QHeaderView::ResizeToContents) h->setSectionResizeMode(c, modes_[std::size_t(c)]);
    table_->setUpdatesEnabled(true);
  }
  TableFill(const TableFill&) = delete;
  TableFill& operator=(const TableFill&) = delete;

private:
  QTableWidget* table_;
  std::vector<QHeaderView::ResizeMode> modes_;
};

} // namespace noonward
