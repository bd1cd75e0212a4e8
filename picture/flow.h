#pragma once
// Text, tables and pictures set one below the other on pages for print: what does not fit goes to the next page, tables
// repeat their head, every page has a line at its foot. Sizes in points.

#include "picture/theme.h"
#include <QPainter>
#include <QPdfWriter>
#include <functional>

namespace noonward {

class Flow {
public:
  /// Without a writer nothing is drawn: to count pages.
  Flow(QPdfWriter* writer, QSizeF page, const Theme& theme, QString foot, int pageCount);
  ~Flow();
  void title(const QString& text);
  void heading(const QString& text, double keepWith = 90); ///< with at least so much room below it
  void paragraph(const QString& text, const QColor& color = {}, double size = 9.5, bool strong = false);
  /// Names at the left, values beside them.
  void facts(const std::vector<std::pair<QString, QString>>& rows, double nameWidth = 118);
  struct Column {
    QString head;
    double width = 1;     ///< share of the page
    bool figures = false; ///< right-aligned
  };
  /// `colour`: of a cell, or none.
  void table(const std::vector<Column>& columns, const std::vector<QStringList>& rows,
             const std::function<QColor(std::size_t, int)>& colour = {}, bool lastIsSum = false);
  /// `paint` gets the painter and its box.
  void picture(double height, const std::function<void(QPainter&, QRectF)>& paint);
  void gap(double height) { y_ += height; }
  void keep(double height) { need(height); } ///< what follows stays together
  void newPage();
  double width() const { return right_ - left_; }
  double room() const { return bottom_ - y_; }
  int pages() const { return page_; }

private:
  void need(double height);
  void footer();
  double textHeight(const QFont& font, const QString& text, double width);
  void draw(const QFont& font, const QColor& color, const QString& text, QRectF box, int flags);
  QPdfWriter* writer_;
  std::unique_ptr<QPainter> painter_;
  QSizeF size_;
  const Theme& theme_;
  QString foot_;
  int pageCount_, page_ = 1;
  double left_, right_, top_, bottom_, y_;
};

} // namespace noonward
