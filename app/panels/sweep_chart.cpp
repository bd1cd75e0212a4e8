#include "app/panels/sweep_desk.h"
#include "app/theme/style.h"
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

namespace noonward {

SweepChart::SweepChart(QWidget* parent) : QWidget(parent) {
  setMinimumSize(360, 220);
  setAccessibleName("Chart of the runs");
  setToolTip("Click a run to choose it; drag along an axis to pick a stretch of it, click the axis to let go");
}

void SweepChart::show(std::shared_ptr<const SweepTable> table) {
  const bool other = !table || !table_ || !(table->sweep == table_->sweep);
  table_ = std::move(table);
  if (other) {
    view_.picked.clear();
    view_.chosen.reset();
  }
  if (view_.chosen && (!table_ || *view_.chosen >= table_->rows.size())) view_.chosen.reset();
  redraw();
}

QRectF SweepChart::area() const {
  return QRectF(rect()).adjusted(2, 4, -2, -2);
}

void SweepChart::redraw() {
  setAccessibleDescription(table_ ? sweepText(*table_, view_) : QString("No runs yet."));
  update();
}

void SweepChart::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (table_) return paintSweep(p, area(), *table_, view_, theme());
  p.setPen(theme().muted);
  p.setFont(textFont(12));
  p.drawText(rect(), Qt::AlignCenter, "Runs are drawn here as they come.");
}

void SweepChart::mousePressEvent(QMouseEvent* e) {
  if (!table_ || table_->rows.empty()) return;
  const SweepMap map(*table_, view_, area());
  axis_ = view_.way == SweepView::Way::Across ? map.axisAt(e->position()) : std::nullopt;
  if (axis_) {
    const SweepAxis& a = map.axes()[*axis_];
    from_ = std::clamp((a.bottom - e->position().y()) / (a.bottom - a.top), 0.0, 1.0);
    view_.picked.resize(map.axes().size());
    view_.picked[*axis_].reset();
    redraw();
    return;
  }
  if (view_.way == SweepView::Way::Effects) return;
  if (const auto row = map.rowAt(e->position())) emit chosen(*row);
}

void SweepChart::mouseMoveEvent(QMouseEvent* e) {
  if (!axis_ || !table_) return;
  const SweepMap map(*table_, view_, area());
  const SweepAxis& a = map.axes()[*axis_];
  const double to = std::clamp((a.bottom - e->position().y()) / (a.bottom - a.top), 0.0, 1.0);
  if (std::abs(to - from_) * (a.bottom - a.top) < 3) return;
  view_.picked[*axis_] = std::pair{std::min(from_, to), std::max(from_, to)};
  redraw();
  emit picked();
}

void SweepChart::mouseReleaseEvent(QMouseEvent*) {
  if (axis_) emit picked();
  axis_.reset();
}

} // namespace noonward
