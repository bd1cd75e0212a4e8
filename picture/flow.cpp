#include "picture/flow.h"
#include <QFontMetricsF>
#include <algorithm>

namespace noonward {

namespace {
constexpr double lineGap = 1.36;
} // namespace

Flow::Flow(QPdfWriter* writer, QSizeF page, const Theme& theme, QString foot, int pageCount)
    : writer_(writer), size_(page), theme_(theme), foot_(std::move(foot)), pageCount_(pageCount) {
  left_ = 48;
  right_ = page.width() - 48;
  top_ = 46;
  bottom_ = page.height() - 56;
  y_ = top_;
  if (writer_) {
    painter_ = std::make_unique<QPainter>(writer_);
    painter_->setRenderHint(QPainter::Antialiasing);
    const double k = writer_->resolution() / 72.0;
    painter_->scale(k, k);
  }
}

Flow::~Flow() {
  footer();
}

void Flow::footer() {
  if (!painter_) return;
  painter_->setPen(QPen(theme_.rule, 0.6));
  painter_->drawLine(QPointF(left_, bottom_ + 14), QPointF(right_, bottom_ + 14));
  draw(textFont(7.5), theme_.muted, foot_, QRectF(left_, bottom_ + 18, right_ - left_ - 70, 22),
       Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap);
  draw(textFont(7.5), theme_.muted,
       pageCount_ > 0 ? QString("%1 of %2").arg(page_).arg(pageCount_) : QString::number(page_),
       QRectF(right_ - 70, bottom_ + 18, 70, 12), Qt::AlignRight | Qt::AlignTop);
}

void Flow::newPage() {
  footer();
  ++page_;
  y_ = top_;
  if (!writer_) return;
  writer_->newPage();
}

void Flow::need(double height) {
  if (y_ + height > bottom_ && y_ > top_ + 1) newPage();
}

void Flow::draw(const QFont& font, const QColor& color, const QString& text, QRectF box, int flags) {
  if (!painter_) return;
  painter_->setFont(font);
  painter_->setPen(color);
  painter_->drawText(box, flags, text);
}

/// Measured on a page of 72 dots an inch, as it is drawn, so that a dry run counts the same pages.
double Flow::textHeight(const QFont& font, const QString& text, double width) {
  const QFontMetricsF m(font);
  return std::max(m.boundingRect(QRectF(0, 0, width, 1e6), Qt::TextWordWrap, text).height() * 1.04,
                  double(font.pixelSize() > 0 ? font.pixelSize() : 10) * lineGap);
}

void Flow::title(const QString& text) {
  const QFont f = titleFont(26);
  const double h = textHeight(f, text, width());
  need(h);
  draw(f, theme_.ink, text, QRectF(left_, y_, width(), h + 4), Qt::TextWordWrap);
  y_ += h + 4;
}

void Flow::heading(const QString& text, double keepWith) {
  if (y_ > top_ + 1) y_ += 12;
  need(26 + keepWith);
  draw(titleFont(15), theme_.ink, text, QRectF(left_, y_, width(), 20), Qt::AlignLeft | Qt::AlignVCenter);
  y_ += 21;
  if (painter_) {
    painter_->setPen(QPen(theme_.rule, 0.8));
    painter_->drawLine(QPointF(left_, y_), QPointF(right_, y_));
  }
  y_ += 6;
}

void Flow::paragraph(const QString& text, const QColor& color, double size, bool strong) {
  const QFont f = textFont(size, strong);
  const double h = textHeight(f, text, width());
  need(h);
  draw(f, color.isValid() ? color : theme_.ink, text, QRectF(left_, y_, width(), h + 2), Qt::TextWordWrap);
  y_ += h + 3;
}

void Flow::facts(const std::vector<std::pair<QString, QString>>& rows, double nameWidth) {
  const QFont name = textFont(9), value = textFont(9);
  for (const auto& [n, v] : rows) {
    const double h = std::max(textHeight(name, n, nameWidth - 8), textHeight(value, v, width() - nameWidth));
    need(h);
    draw(name, theme_.muted, n, QRectF(left_, y_, nameWidth - 8, h + 2), Qt::TextWordWrap);
    draw(value, theme_.ink, v, QRectF(left_ + nameWidth, y_, width() - nameWidth, h + 2), Qt::TextWordWrap);
    y_ += h + 3;
  }
}

void Flow::table(const std::vector<Column>& columns, const std::vector<QStringList>& rows,
                 const std::function<QColor(std::size_t, int)>& colour, bool lastIsSum) {
  double all = 0;
  for (const Column& c : columns) all += c.width;
  const double pad = 5;
  const auto cellWidth = [&](const Column& c) { return width() * c.width / all; };
  const auto row = [&](const QStringList& cells, bool head, bool sum, const std::function<QColor(int)>& tint) {
    double h = 0;
    for (std::size_t c = 0; c < columns.size(); ++c) {
      const QFont f = head ? textFont(8, true) : columns[c].figures ? figureFont(8.5, sum) : textFont(8.8, sum);
      h = std::max(h, textHeight(f, cells.value(int(c)), cellWidth(columns[c]) - pad));
    }
    if (!head && y_ + h + 4 > bottom_) return -1.0;
    double x = left_;
    for (std::size_t c = 0; c < columns.size(); ++c) {
      const QFont f = head ? textFont(8, true) : columns[c].figures ? figureFont(8.5, sum) : textFont(8.8, sum);
      const QColor t = tint ? tint(int(c)) : QColor();
      draw(f,
           head          ? theme_.muted
           : t.isValid() ? t
                         : theme_.ink,
           cells.value(int(c)),
           QRectF(x, y_,
                  cellWidth(columns[c]) -
                      (columns[c].figures && c + 1 < columns.size() && !columns[c + 1].figures ? 14 : pad),
                  h + 2),
           Qt::TextWordWrap | (columns[c].figures ? Qt::AlignRight : Qt::AlignLeft));
      x += cellWidth(columns[c]);
    }
    y_ += h + 3;
    if (painter_) {
      painter_->setPen(QPen(theme_.rule, head ? 0.9 : 0.4));
      painter_->drawLine(QPointF(left_, y_), QPointF(right_, y_));
    }
    y_ += 3;
    return h;
  };
  QStringList heads;
  for (const Column& c : columns) heads << c.head;
  need(44);
  row(heads, true, false, {});
  for (std::size_t r = 0; r < rows.size(); ++r) {
    const auto tint = [&](int c) { return colour ? colour(r, c) : QColor(); };
    const bool sum = lastIsSum && r + 1 == rows.size();
    if (row(rows[r], false, sum, tint) >= 0) continue;
    newPage();
    row(heads, true, false, {});
    row(rows[r], false, sum, tint);
  }
}

void Flow::picture(double height, const std::function<void(QPainter&, QRectF)>& paint) {
  need(height);
  if (painter_) {
    painter_->save();
    paint(*painter_, QRectF(left_, y_, width(), height));
    painter_->restore();
  }
  y_ += height + 8;
}

} // namespace noonward
