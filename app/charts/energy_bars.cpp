#include "app/charts/energy_bars.h"
#include "app/theme/style.h"
#include "core/sun/time.h"
#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
constexpr double bars = 132, letters = 15, line = 17; ///< px: height of the bars, of the months below them, of a row
constexpr std::size_t rowsMost = 7;
struct Ink {
  QColor colour;
  Qt::BrushStyle hatch;
};
/// What comes from outdoors is plain, what is paid for is hatched.
Ink inkOf(int group) {
  const Theme& t = theme();
  switch (group) {
  case 0:
    return {t.noon, Qt::SolidPattern};
  case 1:
    return {mixed(t.noon, t.paper, 0.55), Qt::SolidPattern};
  case 2:
    return {t.noon, Qt::BDiagPattern};
  case 3:
    return {t.ink, Qt::BDiagPattern};
  case 4:
    return {t.meets, Qt::SolidPattern};
  case 5:
    return {mixed(t.meets, t.paper, 0.45), Qt::SolidPattern};
  case 6:
    return {mixed(t.muted, t.paper, 0.45), Qt::SolidPattern};
  default:
    return {t.ink, Qt::Dense6Pattern};
  }
}
void fill(QPainter& p, const QRectF& box, const Ink& ink) {
  p.fillRect(box, QBrush(ink.colour, ink.hatch));
  if (ink.hatch == Qt::SolidPattern || box.height() < 2) return;
  p.setPen(QPen(ink.colour, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
}
} // namespace

EnergyBars::EnergyBars(QWidget* parent) : QWidget(parent) {
  setAccessibleName("Gains and losses by month");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
}

EnergyBars::Group EnergyBars::groupOf(EnergyCauseKind kind) {
  using K = EnergyCauseKind;
  switch (kind) {
  case K::Heating:
    return Heat;
  case K::Cooling:
    return Cool;
  case K::Lighting:
    return Lamps;
  case K::People:
  case K::Equipment:
    return Inside;
  case K::Sun:
    return Sun;
  case K::Windows:
    return Glass;
  case K::Walls:
  case K::Roof:
  case K::Ground:
  case K::ExposedFloor:
  case K::Rooms:
    return Opaque;
  case K::Ventilation:
  case K::Leakage:
    return Air;
  }
  return Air;
}

double EnergyBars::of(std::size_t month, Group group) const {
  double sum = 0;
  for (const EnergyCause& c : room_->causes)
    if (groupOf(c.kind) == group) sum += c.months[month];
  return sum / std::max(1e-9, room_->floorArea);
}

void EnergyBars::show(std::optional<EnergyRoom> room, std::optional<std::size_t> month, const DisplayUnits& units) {
  room_ = std::move(room);
  month_ = month;
  units_ = units;
  gains_.clear();
  losses_.clear();
  QStringList words;
  if (room_)
    for (const EnergyShare& s : energyShares(*room_, month_)) {
      (s.kwh > 0 ? gains_ : losses_).push_back(s);
      words << QString("%1 %2").arg(
          QString::fromStdString(s.name),
          QString::fromStdString(quantityText(s.kwh / std::max(1e-9, room_->floorArea), 1, "kWh/m²", units_)));
    }
  text_ = words.join(", ");
  setAccessibleDescription(text_);
  const std::size_t rows = std::min(rowsMost, std::max(gains_.size(), losses_.size()));
  setFixedHeight(int(bars + letters + 22 + line * double(rows)));
  update();
}

int EnergyBars::monthAt(double x) const {
  const int m = int(std::floor(x / (width() / 12.0)));
  return m >= 0 && m < 12 ? m : -1;
}

void EnergyBars::mousePressEvent(QMouseEvent* e) {
  if (const int m = monthAt(e->position().x()); room_ && m >= 0 && e->position().y() < bars + letters)
    emit monthChosen(m);
}

void EnergyBars::keyPressEvent(QKeyEvent* e) {
  const int step = e->key() == Qt::Key_Right ? 1 : e->key() == Qt::Key_Left ? -1 : 0;
  if (!room_ || step == 0) return QWidget::keyPressEvent(e);
  emit monthChosen(month_ ? (int(*month_) + step + 12) % 12 : step > 0 ? 0 : 11);
}

bool EnergyBars::event(QEvent* e) {
  if (e->type() != QEvent::ToolTip || !room_) return QWidget::event(e);
  const auto* help = static_cast<QHelpEvent*>(e);
  const int m = monthAt(help->pos().x());
  if (m < 0 || help->pos().y() > bars + letters) {
    QToolTip::hideText();
    return true;
  }
  QToolTip::showText(
      help->globalPos(),
      QString("%1: %2. Click for its causes.")
          .arg(QString(noonward::monthName(m + 1)), QString::fromStdString(demandText(*room_, std::size_t(m), units_))),
      this);
  return true;
}

void EnergyBars::paintEvent(QPaintEvent*) {
  if (!room_) return;
  QPainter p(this);
  paintBars(p);
  paintList(p);
  if (!hasFocus()) return;
  p.setPen(QPen(theme().noon, 1, Qt::DotLine));
  p.setBrush(Qt::NoBrush);
  p.drawRect(QRectF(0.5, 0.5, width() - 1, bars + letters - 1));
}

void EnergyBars::paintBars(QPainter& p) const {
  const Theme& t = theme();
  double up = 0, down = 0;
  for (std::size_t m = 0; m < 12; ++m) {
    double above = 0, below = 0;
    for (int g = 0; g < Groups; ++g) {
      const double v = of(m, Group(g));
      (v > 0 ? above : below) += v;
    }
    up = std::max(up, above);
    down = std::max(down, -below);
  }
  if (!(up + down > 0)) return;
  const double head = 13, scale = (bars - head - 2) / (up + down), zero = head + up * scale, each = width() / 12.0;
  p.setFont(textFont(10.5));
  for (std::size_t m = 0; m < 12; ++m) {
    const double x = each * double(m) + 2, w = each - 4;
    if (month_ == m) p.fillRect(QRectF(x - 2, 0, each, bars + letters), mixed(t.noon, t.paper, 0.86));
    p.setPen(month_ == m ? t.ink : t.muted);
    p.drawText(QRectF(x - 2, bars, each, letters), Qt::AlignCenter, QString(noonward::monthName(int(m) + 1)).left(1));
    double above = zero, below = zero;
    for (int g = 0; g < Groups; ++g) {
      const double high = of(m, Group(g)) * scale;
      if (std::abs(high) < 0.05) continue;
      if (high > 0) above -= high;
      fill(p, QRectF(x, high > 0 ? above : below, w, std::abs(high)), inkOf(g));
      if (high < 0) below -= high;
    }
  }
  p.setPen(QPen(t.ink, 1));
  p.drawLine(QPointF(0, std::round(zero) + 0.5), QPointF(width(), std::round(zero) + 0.5));
  p.setPen(t.muted);
  p.setFont(figureFont(10));
  p.drawText(QPointF(0, 10), QString("+%1").arg(QString::fromStdString(quantityText(up, 1, "kWh/m²", units_))));
}

void EnergyBars::paintList(QPainter& p) const {
  const Theme& t = theme();
  const ShownUnit unit = shownUnit("kWh/m²", units_);
  const double top = bars + letters + 4, half = width() / 2.0;
  p.setFont(textFont(11));
  p.setPen(t.muted);
  p.drawText(QRectF(0, top, half - 8, line), Qt::AlignLeft | Qt::AlignVCenter,
             month_ ? QString("gains, %1").arg(noonward::monthName(int(*month_) + 1)) : QString("gains, year"));
  p.drawText(QRectF(half, top, half, line), Qt::AlignLeft | Qt::AlignVCenter,
             "losses, " + QString::fromStdString(unit.symbol));
  for (const auto& [list, left] : {std::pair{&gains_, 0.0}, {&losses_, half}})
    for (std::size_t k = 0; k < list->size() && k < rowsMost; ++k) {
      double kwh = (*list)[k].kwh;
      QString name = QString::fromStdString((*list)[k].name);
      if (k + 1 == rowsMost && list->size() > rowsMost) { // the rest in one row
        name = "all others";
        for (std::size_t j = k + 1; j < list->size(); ++j) kwh += (*list)[j].kwh;
      }
      const double y = top + line * double(k + 1), wide = half - 8;
      fill(p, QRectF(left, y + 4.5, 9, 9), inkOf(groupOf((*list)[k].kind)));
      const QString figure =
          QString::number(unit.shown(kwh / std::max(1e-9, room_->floorArea)), 'f', 1).replace('-', "−");
      p.setFont(figureFont(10.5));
      const double room = QFontMetricsF(p.font()).horizontalAdvance(figure);
      p.setPen(t.ink);
      p.drawText(QRectF(left, y, wide, line), Qt::AlignRight | Qt::AlignVCenter, figure);
      p.setFont(textFont(11));
      p.drawText(QRectF(left + 14, y, wide - room - 20, line), Qt::AlignLeft | Qt::AlignVCenter,
                 QFontMetricsF(p.font()).elidedText(name, Qt::ElideRight, wide - room - 20));
    }
}

} // namespace noonward
