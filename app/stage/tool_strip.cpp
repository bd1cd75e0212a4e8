#include "app/stage/tool_strip.h"
#include "app/theme/style.h"
#include <QAction>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace noonward {

namespace {

/// A sign in a square of 18 px.
void paintSign(QPainter& p, ToolSign sign) {
  const auto line = [&](std::initializer_list<QPointF> points, bool closed = false) {
    const QPolygonF shape{QList<QPointF>(points)};
    closed ? p.drawPolygon(shape) : p.drawPolyline(shape);
  };
  switch (sign) {
  case ToolSign::Mass:
    line({{2.5, 7}, {9, 4}, {15.5, 7}, {9, 10}}, true);
    line({{2.5, 7}, {2.5, 13}, {9, 16}, {15.5, 13}, {15.5, 7}});
    return line({{9, 10}, {9, 16}});
  case ToolSign::Move:
    line({{2, 9}, {16, 9}});
    line({{9, 2}, {9, 16}});
    line({{13.5, 6.5}, {16, 9}, {13.5, 11.5}});
    return line({{6.5, 4.5}, {9, 2}, {11.5, 4.5}});
  case ToolSign::Plate:
    line({{2, 8}, {12, 4}, {16, 8}, {6, 12}}, true);
    return line({{6, 12}, {6, 16}});
  case ToolSign::Cut:
    p.drawRect(QRectF(3, 5, 12, 9));
    return line({{6, 16.5}, {12, 2}});
  case ToolSign::Tree:
    p.drawEllipse(QPointF(9, 6.5), 5, 4.5);
    return line({{9, 8}, {9, 16}});
  case ToolSign::Guide:
    line({{2, 13}, {6, 11.7}});
    line({{8, 11}, {9, 10.7}});
    line({{11, 10}, {16, 8.3}});
    line({{6, 16}, {7, 12}});
    return line({{8, 8}, {9.5, 2}});
  case ToolSign::Balcony:
    line({{3, 2}, {3, 16}});
    line({{3, 12}, {14, 12}});
    line({{14, 12}, {14, 7}, {3, 7}});
    return line({{8.5, 7}, {8.5, 12}});
  case ToolSign::Corners:
    line({{4, 14}, {4, 5}, {14, 5}});
    return p.drawRect(QRectF(2, 3, 4, 4)), p.drawRect(QRectF(12, 3, 4, 4));
  case ToolSign::Area:
    line({{2.5, 12}, {6, 5}, {15.5, 6}, {13, 14}}, true);
    return p.drawPoint(QPointF(8, 9)), p.drawPoint(QPointF(11, 9)), p.drawPoint(QPointF(9, 11.5));
  case ToolSign::Room:
    p.drawRect(QRectF(3, 4, 12, 10));
    return line({{9, 14}, {12, 11}});
  case ToolSign::Window:
    p.drawRect(QRectF(4, 3, 10, 12));
    line({{9, 3}, {9, 15}});
    return line({{4, 9}, {14, 9}});
  case ToolSign::Probe:
    p.drawEllipse(QPointF(9, 7), 4, 4);
    return line({{9, 11}, {9, 16}});
  case ToolSign::Import:
    line({{9, 2}, {9, 11}});
    line({{5.5, 7.5}, {9, 11}, {12.5, 7.5}});
    return line({{3, 12}, {3, 15.5}, {15, 15.5}, {15, 12}});
  case ToolSign::Trace:
    p.drawRect(QRectF(3, 3, 12, 12));
    return line({{6, 12}, {6, 6}, {12, 6}, {12, 12}}, true);
  case ToolSign::Picture:
    p.drawRect(QRectF(2.5, 4, 13, 10));
    return line({{2.5, 13}, {7, 8}, {10, 11}, {12, 9}, {15.5, 12.5}});
  }
}

/// A button that is painted: sign at the left, name, key at the right.
class ToolButton : public QPushButton {
public:
  ToolButton(const ToolStrip::Entry& e, QWidget* parent) : QPushButton(parent), entry_(e) {
    setAccessibleName(e.action->text());
    setToolTip(e.tip);
    setFixedHeight(26);
    setProperty("plain", true);
    connect(this, &QPushButton::clicked, e.action, &QAction::trigger);
  }
  QSize sizeHint() const override {
    return {40 + QFontMetrics(textFont(12)).horizontalAdvance(entry_.action->text()) +
                QFontMetrics(figureFont(10.5)).horizontalAdvance(key()) + 18,
            26};
  }

protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing, true);
    const Theme& t = theme();
    if (underMouse() || hasFocus()) {
      p.setPen(hasFocus() ? QPen(t.noon, 1) : QPen(Qt::NoPen));
      p.setBrush(t.dark ? t.raised.lighter(120) : t.paper);
      p.drawRoundedRect(QRectF(rect()).adjusted(2.5, 0.5, -2.5, -0.5), 3, 3);
    }
    const QColor ink = isEnabled() ? t.ink : t.muted;
    p.save();
    p.translate(9, 4);
    p.setPen(QPen(ink, 1.2));
    p.setBrush(Qt::NoBrush);
    paintSign(p, entry_.sign);
    p.restore();
    p.setPen(ink);
    p.setFont(textFont(12));
    p.drawText(QRectF(34, 0, width() - 40, height()), Qt::AlignVCenter | Qt::AlignLeft, entry_.action->text());
    p.setPen(t.muted);
    p.setFont(figureFont(10.5));
    p.drawText(QRectF(0, 0, width() - 10, height()), Qt::AlignVCenter | Qt::AlignRight, key());
  }

private:
  QString key() const { return entry_.action->shortcut().toString(QKeySequence::NativeText); }
  ToolStrip::Entry entry_;
};

} // namespace

ToolStrip::ToolStrip(QWidget* stage, const QString& name, const QList<Entry>& entries) : QWidget(stage) {
  setAccessibleName(name);
  auto* down = new QVBoxLayout(this);
  down->setContentsMargins(0, 5, 0, 5);
  down->setSpacing(0);
  for (const Entry& e : entries) {
    if (e.apart) {
      rules_ << down->count();
      down->addSpacing(9);
    }
    down->addWidget(new ToolButton(e, this));
  }
  adjustSize();
  hide();
}

void ToolStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  QColor ground = theme().raised;
  ground.setAlpha(235);
  p.setPen(theme().rule);
  p.setBrush(ground);
  p.drawRoundedRect(QRectF(0.5, 0.5, width() - 1.0, height() - 1.0), 4, 4);
  for (int at : rules_) {
    const QRect gap = layout()->itemAt(at)->geometry();
    p.drawLine(10, gap.center().y(), width() - 10, gap.center().y());
  }
}

} // namespace noonward
