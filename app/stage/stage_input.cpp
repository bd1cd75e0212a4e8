// Mouse and keys of the stage: what turns the view and drags the sun; the rest is the matter of the tool in hand.

#include "app/stage/stage.h"
#include "core/base/units.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "picture/opened_rooms.h"
#include <QKeyEvent>
#include <QMouseEvent>

namespace noonward {

void Stage::setTool(Tool tool) {
  cancelTool();
  QTimer::singleShot(0, this, [old = std::move(inHand_)] {}); // it may be in the middle of its own event
  tool_ = tool;
  inHand_ = makeTool(tool, *this);
  followRooms(); // windows are drawn on the closed building
  requestFrame(false);
  setCursor(inHand_->cursor());
  const QString hint = inHand_->hint();
  if (!hint.isEmpty() || tool == Tool::Select) emit said(hint);
  emit toolChanged();
  update();
}

void Stage::cancelTool() {
  inHand_->cancel();
  typed_.clear();
  drag_ = Drag::None;
  holder_ = nullptr;
  update();
}

void Stage::sayOtherOption() {
  emit said("This option is looked at. Choose it above to change it.");
}

std::optional<QPointF> Stage::sunPixel() const {
  const Vec3 s = sun();
  if (s.z <= 0) return {};
  const Sky k = sky();
  return pixelOf(k.center + s * k.radius);
}

void Stage::mousePressEvent(QMouseEvent* e) {
  if (holder_) {
    if (e->button() != Qt::LeftButton) return; // what is held is let go by the button that holds it
    inHand_->cancel();                         // its release never came
  }
  pressed_ = last_ = e->position();
  button_ = e->button();
  moved_ = false;
  holder_ = nullptr;
  setFocus();
  const bool plan =
      camera_.kind == ViewKind::Plan || camera_.kind == ViewKind::Facade || camera_.kind == ViewKind::Section;
  if (e->button() == Qt::MiddleButton || (e->button() == Qt::RightButton && plan)) {
    drag_ = Drag::Pan;
    return;
  }
  if (e->button() == Qt::RightButton) {
    drag_ = Drag::Orbit;
    return;
  }
  if (e->button() != Qt::LeftButton) return;
  if (inHand_->grabsSun())
    if (const auto s = sunPixel();
        s && (*s - e->position()).manhattanLength() < 16 && camera_.kind != ViewKind::FromSun) {
      drag_ = Drag::Sun;
      return;
    }
  const std::shared_ptr<StageTool> tool = inHand_;
  if (sight_->ofOtherOption()) // looked at, not changed
    drag_ = plan ? Drag::Pan : Drag::Orbit;
  else if (tool->press(*e))
    holder_ = tool.get(); // which may have made way for another by now
  else if (tool->turnsView())
    drag_ = plan ? Drag::Pan : Drag::Orbit;
}

void Stage::dragSun(QPointF at) {
  // The moment whose sun shows nearest the pointer: along today's track; where that is far, across the year.
  const Project& p = sight_->project();
  const Zone zone = p.zone();
  const Sky k = sky();
  const Date today = zone.clock(sight_->looking().moment).date;
  Instant best = sight_->looking().moment;
  double nearest = 1e300;
  const auto tryDay = [&](Date date, double step) {
    const Instant midnight = zone.instant({date, 0});
    const SunPath path(knots(), p.site.place, p.site.northAngle, midnight,
                       zone.instant({plusDays(date, 1), 0}) - midnight);
    for (const Interval& up : path.above(0))
      for (double t = std::ceil(up.begin / step) * step; t < up.end; t += step)
        if (const auto q = pixelOf(k.center + path.direction(t) * k.radius)) {
          const double d = std::hypot(q->x() - at.x(), q->y() - at.y());
          if (d < nearest) {
            nearest = d;
            best = midnight + t;
          }
        }
  };
  tryDay(today, 300);
  if (nearest > 22) {
    // Within the half of the year that the day is in, so that the sun doesn't jump between spring and autumn.
    const int day = dayOfYear(today), june = dayOfYear({today.year, 6, 21}), december = dayOfYear({today.year, 12, 21});
    const bool rising = day >= december || day <= june;
    nearest = 1e300;
    for (int n = 1; n <= 365; n += 2)
      if (((n >= december || n <= june) == rising)) tryDay(plusDays({today.year, 1, 1}, n - 1), 600);
  }
  sight_->chooseMoment(best);
}

void Stage::mouseMoveEvent(QMouseEvent* e) {
  pointer_ = e->position();
  inside_ = true;
  const QPointF d = e->position() - last_;
  last_ = e->position();
  if ((e->position() - pressed_).manhattanLength() > 3) moved_ = true;
  if (holder_) {
    if (moved_ && holder_ == inHand_.get()) inHand_->drag(e->position());
    update();
    return;
  }
  switch (e->buttons() ? drag_ : Drag::None) {
  case Drag::Orbit:
    if (moved_) {
      if (camera_.kind == ViewKind::FromSun || camera_.kind == ViewKind::Plan) camera_.kind = ViewKind::Solid;
      camera_.orbit(-d.x() * 0.008, d.y() * 0.006);
      requestFrame(true);
      emit viewChanged();
    }
    return;
  case Drag::Pan:
    camera_.pan(d.x(), d.y(), height());
    requestFrame(true);
    emit viewChanged();
    return;
  case Drag::Sun:
    dragSun(e->position());
    return;
  case Drag::None:
    break;
  }
  if (inHand_->grabsSun() && !e->buttons()) {
    const auto s = sunPixel();
    setCursor(s && (*s - e->position()).manhattanLength() < 16 ? QCursor(Qt::OpenHandCursor) : inHand_->cursor());
  }
  const bool busy = !sight_->ofOtherOption() && inHand_->hover(e->position());
  hoverText_ = e->buttons() || busy ? QString() : valueAt(e->position());
  update();
}

void Stage::mouseReleaseEvent(QMouseEvent* e) {
  if (holder_ && e->button() != Qt::LeftButton) return;
  const Drag was = std::exchange(drag_, Drag::None);
  if (holder_) {
    if (std::exchange(holder_, nullptr) == inHand_.get()) std::shared_ptr(inHand_)->release(moved_);
    return;
  }
  if (was == Drag::Sun) return;
  if (moved_ && was != Drag::None) {
    refineTimer_.start();
    return;
  }
  if (e->button() != Qt::LeftButton || moved_) return;
  if (sight_->ofOtherOption()) return sayOtherOption();
  std::shared_ptr(inHand_)->click(*e);
}

namespace {
/// How far along a ray it passes the needle of a line of sight, or as near as a hand can be.
std::optional<double> needleUnder(const SensorSet& set, std::size_t i, const Camera::Ray& ray) {
  const Sensor& s = set.sensors[i];
  if (!set.groups[s.group].eyes || std::abs(s.normal[2]) > 0.7f || std::abs(ray.direction.z) < 1e-6) return {};
  const double t = (s.position.z - ray.origin.z) / ray.direction.z;
  const std::array<Vec3, 4> needle = set.cell(i);
  const double reach = length(needle[2] - s.position);
  const Vec3 d = ray.origin + ray.direction * t - s.position, ahead = (needle[2] - s.position) * (1 / reach);
  const double along = dot(d, ahead), aside = length(d - ahead * along);
  if (t < 0 || along < 0.05 * reach || along > 1.05 * reach || aside > 0.22 * reach) return {};
  return t;
}
} // namespace

std::optional<std::size_t> Stage::sensorUnder(QPointF at) {
  const auto answer = sight_->answer();
  if (!answer || !answer->painted) return {};
  const SensorSet& set = answer->painted->sensors;
  Vec3 where;
  const RayHit hit = pick(at, &where);
  const Camera::Ray ray = camera_.ray(at.x(), at.y(), width(), height());
  const double stop = hit.hit() ? dot(where - ray.origin, ray.direction) + 0.2 : 1e300; // what stands before hides it
  std::optional<std::size_t> best;
  double nearest = stop;
  for (std::size_t i = 0; i < set.sensors.size(); ++i) {
    const Vec3 n = set.sensors[i].normalVector();
    if (const int room = set.groups[set.sensors[i].group].room;
        openedOpen_ && room >= 0 &&
        !onStorey(sight_->project().rooms[std::size_t(room)], storeyNear(sight_->project(), sight_->looking().storey)))
      continue;
    if (const auto on = needleUnder(set, i, ray)) {
      if (*on <= nearest) nearest = *on, best = i;
      continue;
    }
    const double facing = dot(n, ray.direction);
    if (facing > -1e-6 || (set.groups[set.sensors[i].group].eyes && std::abs(n.z) < 0.7)) continue; // seen from behind
    const double t = dot(set.sensors[i].position - ray.origin, n) / facing;
    if (t > nearest) continue;
    const double half = std::max(0.4, set.groups[set.sensors[i].group].spacing) * 0.55;
    const Vec3 d = ray.origin + ray.direction * t - set.sensors[i].position;
    if (std::max({std::abs(d.x), std::abs(d.y), std::abs(d.z)}) > half) continue;
    nearest = t;
    best = i;
  }
  return best;
}

void Stage::mouseDoubleClickEvent(QMouseEvent* e) {
  if (!sight_->ofOtherOption() && std::shared_ptr(inHand_)->doubleClick(e->position())) return;
  mousePressEvent(e);
}

void Stage::wheelEvent(QWheelEvent* e) {
  const double f = std::pow(0.88, e->angleDelta().y() / 120.0);
  camera_.zoom(f, e->position().x(), e->position().y(), width(), height());
  requestFrame(true);
  emit viewChanged();
}

void Stage::leaveEvent(QEvent*) {
  inside_ = false;
  hoverText_.clear();
  update();
}

/// Does a sign go on with the length being typed, or begin one? "12.5", "40 ft", "1.8x1.5"
bool Stage::types(const QString& sign) const {
  if (sign.isEmpty()) return false;
  const QChar c = sign[0];
  if (c.isDigit() || c == '.' || c == ',' || c == '-') return true;
  return !typed_.isEmpty() && (c.isLower() || c == ' ' || (inHand_->takesSizes() && c == QChar(0xD7)));
}

bool Stage::event(QEvent* event) {
  // While a length is typed, its digits and marks belong to the stage, not to shortcuts.
  if (event->type() == QEvent::ShortcutOverride) {
    auto* k = static_cast<QKeyEvent*>(event);
    if (k->modifiers() == Qt::NoModifier && (types(k->text()) || k->key() == Qt::Key_Return ||
                                             k->key() == Qt::Key_Backspace || k->key() == Qt::Key_Escape)) {
      event->accept();
      return true;
    }
  }
  return QWidget::event(event);
}

void Stage::keyPressEvent(QKeyEvent* e) {
  const QString t = e->text();
  if (e->key() == Qt::Key_Escape) {
    if (tool_ != Tool::Select || drag_ != Drag::None || holder_)
      setTool(Tool::Select);
    else
      document_.look([](Looking& l) {
        l.selected.clear();
        l.face.reset();
        l.sensor.reset();
      });
    return;
  }
  if (sight_->ofOtherOption() && (types(t) || e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter))
    return sayOtherOption();
  if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) return std::shared_ptr(inHand_)->enter();
  if (e->key() == Qt::Key_Backspace) {
    if (!typed_.isEmpty())
      typed_.chop(1);
    else
      inHand_->back();
    update();
    return;
  }
  if (types(t) && !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
    typed_ += t;
    inHand_->typedOn();
    update();
    return;
  }
  const double step = 40;
  if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Right || e->key() == Qt::Key_Up || e->key() == Qt::Key_Down) {
    const int sx = e->key() == Qt::Key_Left    ? 1
                   : e->key() == Qt::Key_Right ? -1
                                               : 0,
              sy = e->key() == Qt::Key_Up     ? 1
                   : e->key() == Qt::Key_Down ? -1
                                              : 0;
    if (!sight_->ofOtherOption() && tool_ == Tool::Move &&
        !sight_->looking().selected.empty()) { // by a typed step, else by a metre
      const std::vector<ElementId> which = sight_->looking().selected;
      const double by = lengthFromText(typed_.toStdString(), sight_->project().units.length).value_or(1);
      const Project& p = sight_->project();
      document_.change(carried(p,
                               withEdited(p, which,
                                          [&](Element& x) {
                                            moveElement(x, {-sx * by, sy * by, 0});
                                          }),
                               which),
                       "Move");
      return;
    }
    if (e->modifiers() & Qt::ShiftModifier || camera_.kind != ViewKind::Solid)
      camera_.pan(sx * step, sy * step, height());
    else
      camera_.orbit(sx * 0.12, sy * 0.08);
    requestFrame(true);
    emit viewChanged();
    return;
  }
  if (t == "+" || t == "=")
    return camera_.zoom(0.85, width() / 2.0, height() / 2.0, width(), height()), requestFrame(true);
  QWidget::keyPressEvent(e);
}

} // namespace noonward
