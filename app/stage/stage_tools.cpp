// Mouse and keys of the stage.

#include "app/stage/stage.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "picture/opened_rooms.h"
#include <QKeyEvent>
#include <QMouseEvent>

namespace noonward {

void Stage::setTool(Tool tool) {
  cancelTool();
  tool_ = tool;
  followRooms(); // windows are drawn on the closed building
  requestFrame(false);
  setCursor(tool == Tool::Select ? Qt::ArrowCursor : tool == Tool::Move ? Qt::SizeAllCursor : Qt::CrossCursor);
  if (tool == Tool::Draw)
    emit said("Click the corners; type a length and Enter for an exact edge; click the first corner or Enter to close");
  if (tool == Tool::Area)
    emit said("Click the corners of the area to be judged; click the first corner or Enter to close");
  if (tool == Tool::Room)
    emit said("Click the corners of the room's inner walls; type a length and Enter for an exact edge; click the first "
              "corner or Enter to close");
  if (tool == Tool::Window)
    emit said("Click two corners of the window on a wall; or one, then type a size such as 1.8x1.5 and Enter");
  if (tool == Tool::Plate)
    emit said("Click the corners of the shading plane; its height and tilt are set in the Model sheet; click the first "
              "corner or Enter to close");
  if (tool == Tool::Section) emit said("Click the two ends of the section in the plan; it is seen toward its left");
  if (tool == Tool::Corners)
    emit said("Drag a corner; drag an edge to put one in; double-click a corner to take it out; Escape ends");
  if (tool == Tool::Distance) emit said("Click one end of a distance that you know");
  if (tool == Tool::Balcony)
    emit said("On a facade, click two corners of the balcony as it is seen: slab and front. Then type how far it "
              "stands out, such as 1.4, and Enter");
  if (tool == Tool::Probe) emit said("Click a spot on the ground or on a surface");
  if (tool == Tool::Move) emit said("Drag what is selected; type a distance and Enter for an exact move");
  if (tool == Tool::Select) emit said({});
  emit toolChanged();
  update();
}

void Stage::cancelTool() {
  draft_.clear();
  wall_.reset();
  facadeDraft_.reset();
  distanceFrom_.reset();
  guides_.clear();
  raising_ = false;
  typed_.clear();
  if (drag_ == Drag::Pull || drag_ == Drag::Move || drag_ == Drag::Corner) document_.dropPreview();
  drag_ = Drag::None;
  if (!moving_.empty()) {
    moving_.clear();
    studies_.setMoving({});
  }
  update();
}

std::optional<QPointF> Stage::sunPixel() const {
  const Vec3 s = sun();
  if (s.z <= 0) return {};
  const Sky k = sky();
  return pixelOf(k.center + s * k.radius);
}

Snap Stage::snapped(QPointF at) const {
  const auto g = onLevel(at, 0);
  if (!g) return {};
  return snapPoint(document_.project(), draft_, xy(*g), 9 * camera_.metresPerPixel(height()));
}

void Stage::mousePressEvent(QMouseEvent* e) {
  pressed_ = last_ = e->position();
  button_ = e->button();
  moved_ = false;
  setFocus();
  if (raising_) {
    if (e->button() == Qt::LeftButton) finishMass();
    return;
  }
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
  if (drawsOutline(tool_) || tool_ == Tool::Window || tool_ == Tool::Distance || tool_ == Tool::Spot ||
      tool_ == Tool::Balcony)
    return; // on release
  if (tool_ == Tool::Corners) return beginCorner(e->position());
  if (tool_ == Tool::Select || tool_ == Tool::Probe)
    if (const auto s = sunPixel();
        s && (*s - e->position()).manhattanLength() < 16 && camera_.kind != ViewKind::FromSun) {
      drag_ = Drag::Sun;
      return;
    }
  if (tool_ == Tool::Probe) return;
  Vec3 where;
  const RayHit hit = pick(e->position(), &where);
  const auto& selected = document_.looking().selected;
  const bool onSelected =
      hit.hit() && std::find(selected.begin(), selected.end(), ElementId{hit.element}) != selected.end();
  if ((tool_ == Tool::Move || e->modifiers() & Qt::AltModifier) && !selected.empty()) {
    drag_ = Drag::Move;
    before_ = document_.project();
    grabbed_ = onSelected ? where : onLevel(e->position(), 0).value_or(Vec3{});
    moving_ = selected;
    return;
  }
  if (onSelected && selected.size() == 1) {
    beginPull(hit, where, e->position());
    return;
  }
  drag_ = plan ? Drag::Pan : Drag::Orbit;
}

void Stage::beginPull(const RayHit& hit, Vec3 where, QPointF) {
  const ElementPtr e = document_.project().element({hit.element});
  if (!e) return;
  drag_ = Drag::Pull;
  before_ = document_.project();
  grabbed_ = where;
  const bool upward = std::abs(hit.normal.z) > 0.7 || !e->mass();
  pulledFace_ = upward ? std::optional<std::uint32_t>() : std::optional(hit.face);
  pulledFrom_ = heightOf(*e);
  moving_ = {e->id};
  document_.look([&](Looking& l) {
    l.face = upward ? std::optional<std::uint32_t>(e->mass() ? std::optional(roofFace) : std::nullopt)
                    : std::optional(hit.face);
  });
}

void Stage::continuePull(QPointF at) {
  if (moving_.empty()) return;
  const ElementPtr e = before_.element(moving_.front());
  if (!e) return;
  Vec3 along{0, 0, 1};
  if (pulledFace_) {
    const auto mesh = elementMesh(*e);
    Vec3 n;
    for (std::size_t t = 0; mesh && t < (*mesh)->triangles.size(); ++t)
      if ((*mesh)->faceOf(t) == *pulledFace_) n = n + (*mesh)->areaVector(t);
    along = normalized(n);
  }
  // The point on the line through the grabbed point that lies nearest under the pointer.
  const Camera::Ray r = camera_.ray(at.x(), at.y(), width(), height());
  const Vec3 w = grabbed_ - r.origin;
  const double b = dot(along, r.direction), d = dot(along, w), f = dot(r.direction, w), denominator = 1 - b * b;
  if (denominator < 1e-4) return; // looking along the line
  double by = (b * f - d) / denominator;
  if (const auto typed = lengthFromText(typed_.toStdString(), before_.units)) {
    by = pulledFace_ ? *typed : *typed - pulledFrom_;
  } else {
    by = std::round(by * 10) / 10;
  }
  Element next = *e;
  if (pulledFace_) {
    if (!moveEdge(next, *pulledFace_ - firstWallFace, by)) return; // this far the outline breaks: stay where it was
    hoverText_ =
        QString("wall %1%2").arg(by >= 0 ? "+" : "").arg(QString::fromStdString(lengthText(by, before_.units)));
  } else {
    const double height = std::max(0.1, pulledFrom_ + by);
    setHeight(next, height);
    hoverText_ = QString("height %1").arg(QString::fromStdString(lengthText(height, before_.units)));
  }
  document_.preview(carried(before_, withElement(before_, std::move(next)), moving_));
}

void Stage::continueMove(QPointF at) {
  const auto now = onLevel(at, grabbed_.z);
  if (!now) return;
  Vec3 by = *now - grabbed_;
  const double snap = 10 * camera_.metresPerPixel(height());
  if (std::abs(by.x) < snap && std::abs(by.y) > snap) by.x = 0;
  if (std::abs(by.y) < snap && std::abs(by.x) > snap) by.y = 0;
  if (const auto typed = lengthFromText(typed_.toStdString(), before_.units)) {
    const double l = std::hypot(by.x, by.y);
    if (l > 0) by = by * (*typed / l);
  } else {
    by = {std::round(by.x * 10) / 10, std::round(by.y * 10) / 10, 0};
  }
  by.z = 0;
  hoverText_ = QString("moved %1").arg(QString::fromStdString(lengthText(std::hypot(by.x, by.y), before_.units)));
  document_.preview(carried(before_, withEdited(before_, moving_, [&](Element& e) { moveElement(e, by); }), moving_));
}

void Stage::dragSun(QPointF at) {
  // The moment whose sun shows nearest the pointer: along today's track; where that is far, across the year.
  const Project& p = document_.project();
  const Zone zone = p.zone();
  const Sky k = sky();
  const Date today = zone.clock(document_.looking().moment).date;
  Instant best = document_.looking().moment;
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
  document_.look([&](Looking& l) { l.moment = best; });
}

void Stage::mouseMoveEvent(QMouseEvent* e) {
  pointer_ = e->position();
  inside_ = true;
  const QPointF d = e->position() - last_;
  last_ = e->position();
  if ((e->position() - pressed_).manhattanLength() > 3) moved_ = true;
  if (raising_) {
    // Height by the pointer's way above the outline's middle.
    const Vec2 m = centroid({draft_, {}});
    const Camera::Ray r = camera_.ray(e->position().x(), e->position().y(), width(), height());
    const Vec3 w = Vec3{m.x, m.y, 0} - r.origin;
    const double b = r.direction.z, den = 1 - b * b;
    if (den > 1e-4 && typed_.isEmpty())
      draftHeight_ = std::max(0.5, std::round((b * dot(r.direction, w) - w.z) / den * 2) / 2);
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
  case Drag::Corner:
    if (moved_) continueCorner(e->position());
    update();
    return;
  case Drag::Pull:
  case Drag::Move:
    if (!moved_) return;
    studies_.setMoving(moving_);
    drag_ == Drag::Pull ? continuePull(e->position()) : continueMove(e->position());
    return;
  case Drag::North:
  case Drag::None:
    break;
  }
  if (tool_ == Tool::Select && !e->buttons()) {
    const auto s = sunPixel();
    setCursor(s && (*s - e->position()).manhattanLength() < 16 ? Qt::OpenHandCursor : Qt::ArrowCursor);
  }
  hoverText_ = e->buttons() ? QString() : valueAt(e->position());
  update();
}

void Stage::mouseReleaseEvent(QMouseEvent* e) {
  const Drag was = drag_;
  drag_ = Drag::None;
  if (was == Drag::Pull || was == Drag::Move) {
    const QString name = was == Drag::Move ? "Move" : pulledFace_ ? "Pull wall" : "Pull height";
    moving_.clear();
    typed_.clear();
    hoverText_.clear();
    studies_.setMoving({});
    if (moved_)
      document_.commitPreview(name);
    else
      document_.dropPreview();
    requestFrame(false);
    return;
  }
  if (was == Drag::Corner) return endCorner();
  if (was == Drag::Sun) return;
  if (moved_ && (was == Drag::Orbit || was == Drag::Pan)) {
    refineTimer_.start();
    return;
  }
  if (e->button() != Qt::LeftButton || moved_) return;
  if (tool_ == Tool::Window) return windowClick(e->position());
  if (tool_ == Tool::Distance) return distanceClick(e->position());
  if (tool_ == Tool::Corners) return;
  if (tool_ == Tool::Balcony) return balconyClick(e->position());
  if (tool_ == Tool::Spot) {
    Vec3 on;
    const RayHit h = pick(e->position(), &on);
    const Vec3 n = dot(h.normal, camera_.ray(e->position().x(), e->position().y(), width(), height()).direction) > 0
                       ? -h.normal
                       : h.normal;
    const Vec3 spot = spotFor(e->position());
    setTool(Tool::Select);
    return emit spotPicked(spot, h.hit() ? n : Vec3{0, 0, 1}, h.hit() ? h.element : 0);
  }
  if (drawsOutline(tool_)) return drawClick(e->position());
  Vec3 where;
  const RayHit hit = pick(e->position(), &where), seen = pick(e->position(), nullptr, true);
  if (tool_ == Tool::Probe) {
    if (!hit.hit()) {
      const auto g = onLevel(e->position(), 0);
      if (!g) return;
      where = *g;
    }
    const Camera::Ray r = camera_.ray(e->position().x(), e->position().y(), width(), height());
    Vec3 n = hit.hit() ? hit.normal : Vec3{0, 0, 1};
    if (dot(n, r.direction) > 0) n = -n;
    if (const auto sensor = sensorUnder(e->position())) { // where the study looks from
      const Sensor& s = studies_.current()->painted->sensors.sensors[*sensor];
      where = s.position;
      n = s.normalVector();
    }
    document_.look([&](Looking& l) {
      l.probe = ProbeSpot{where, n};
      l.year = YearPicture::Probe;
    });
    setTool(Tool::Select);
    return;
  }
  // A click on a result cell asks for the hours behind it; on an element, it is selected.
  const auto answer = studies_.current();
  std::optional<std::size_t> sensor;
  if (answer && answer->painted && !(e->modifiers() & Qt::ShiftModifier)) sensor = sensorUnder(e->position());
  document_.look([&](Looking& l) {
    l.sensor = sensor;
    l.face.reset();
    if (sensor) return;
    const ElementId id{hit.element};
    for (const PlacedOpening& o : openings().openings) // a pane on the facade: the window it is of
      if (o.opening.id.value == seen.element) l.opening = o.rule ? l.opening : o.opening.id;
    if (!hit.hit()) {
      l.selected.clear();
    } else if (e->modifiers() & Qt::ShiftModifier) {
      if (std::find(l.selected.begin(), l.selected.end(), id) != l.selected.end())
        std::erase(l.selected, id);
      else
        l.selected.push_back(id);
    } else {
      l.selected = {id};
    }
  });
}

std::optional<std::size_t> Stage::sensorUnder(QPointF at) {
  const auto answer = studies_.current();
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
    const double facing = dot(n, ray.direction);
    if (facing > -1e-6) continue; // seen from behind
    if (const int room = set.groups[set.sensors[i].group].room;
        openedOpen_ && room >= 0 &&
        !onStorey(document_.project().rooms[std::size_t(room)],
                  storeyNear(document_.project(), document_.looking().storey)))
      continue;
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
  if (drawsOutline(tool_) && draft_.size() > 2) return finishOutline();
  if (tool_ == Tool::Corners && takeCornerOut(e->position())) return;
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

bool Stage::event(QEvent* event) {
  // While a length is typed, its digits and marks belong to the stage, not to shortcuts.
  if (event->type() == QEvent::ShortcutOverride) {
    auto* k = static_cast<QKeyEvent*>(event);
    const QString t = k->text();
    const bool typing = !t.isEmpty() && (t[0].isDigit() || t[0] == '.' || t[0] == ',' || t[0] == '-');
    if (k->modifiers() == Qt::NoModifier &&
        (typing || ((k->key() == Qt::Key_Return || k->key() == Qt::Key_Backspace || k->key() == Qt::Key_Escape)))) {
      event->accept();
      return true;
    }
  }
  return QWidget::event(event);
}

void Stage::keyPressEvent(QKeyEvent* e) {
  const QString t = e->text();
  if (e->key() == Qt::Key_Escape) {
    if (tool_ != Tool::Select || drag_ != Drag::None || raising_)
      setTool(Tool::Select);
    else
      document_.look([](Looking& l) {
        l.selected.clear();
        l.face.reset();
        l.sensor.reset();
      });
    return;
  }
  if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) return applyTyped();
  if (e->key() == Qt::Key_Backspace) {
    if (!typed_.isEmpty())
      typed_.chop(1);
    else if (wall_ || facadeDraft_)
      wall_.reset(), facadeDraft_.reset();
    else if (!draft_.empty() && !raising_)
      draft_.pop_back();
    update();
    return;
  }
  const bool mark = !t.isEmpty() && (t[0].isDigit() || t[0] == '.' || t[0] == ',' || t[0] == '-');
  const bool unit = !typed_.isEmpty() && !t.isEmpty() &&
                    (t[0].isLower() || t[0] == QChar(0xD7) || (tool_ == Tool::Window && t[0] == ' '));
  if ((mark || unit) && !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
    typed_ += t;
    if (raising_)
      if (const auto h = lengthFromText(typed_.toStdString(), document_.project().units); h && *h > 0.01)
        draftHeight_ = *h;
    if (drag_ == Drag::Pull) continuePull(pointer_);
    if (drag_ == Drag::Move) continueMove(pointer_);
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
