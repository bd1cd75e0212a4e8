// Eyes set, moved and turned by hand; their sign over the model.

#include "app/stage/stage.h"
#include "app/stage/tools/tools.h"
#include "app/theme/style.h"
#include "picture/opened_rooms.h"
#include <QMouseEvent>
#include <QPainter>

namespace noonward {

namespace {
constexpr double reach = 26, grip = 9; // px: length of the sign; how near the pointer takes hold

/// m above the zero: where a pointer over the plan stands for an eye.
double floorLevel(const Project& p, const Looking& l) {
  return p.rooms.empty() ? p.site.groundLevel : storeyNear(p, l.storey);
}
} // namespace

std::optional<std::pair<QPointF, QPointF>> Stage::eyeSign(Vec3 at, Vec3 forward) const {
  const auto middle = pixelOf(at), ahead = pixelOf(at + forward * 0.5);
  if (!middle || !ahead) return {};
  const QPointF way = *ahead - *middle;
  const double l = std::hypot(way.x(), way.y());
  return std::pair{*middle, l > 0.5 ? *middle + way * (reach / l) : *middle};
}

void Stage::paintEyes(QPainter& p) {
  const Looking& l = sight_->looking();
  if ((tool_ != Tool::Eye && l.step != Step::Rooms) || camera_.kind == ViewKind::Section) return;
  const Project& project = sight_->project();
  const Theme& t = theme();
  const auto sign = [&](Vec3 at, Vec3 forward, bool chosen, bool small) {
    const auto s = eyeSign(at, forward);
    if (!s) return;
    const QPointF way = (s->second - s->first) * (small ? 0.55 : 1), aside(way.y() * 0.2, -way.x() * 0.2);
    p.setPen(QPen(t.stage, chosen ? 5 : 3.5));
    p.drawLine(s->first, s->first + way);
    p.setPen(QPen(chosen ? t.noon : t.ink, chosen ? 2.2 : 1.3));
    p.setBrush(chosen ? t.noon : t.ink);
    p.drawLine(s->first, s->first + way);
    p.drawLine(s->first + way + aside, s->first + way - aside);
    p.drawEllipse(s->first, small ? 2 : 3.4, small ? 2 : 3.4);
  };
  const auto shown = [&](Vec3 at) { // what lies on another storey is not
    if (!openedOpen_) return true;
    const double floor = floorLevel(project, l);
    return at.z > floor - 0.5 && at.z < floor + 3.5;
  };
  for (const SensorGroup& g : project.groups) { // laid out in rooms
    if (!g.eyes || std::holds_alternative<std::vector<PointSensor>>(g.layout)) continue;
    const auto set = layOutSensors(project, {g.id}, 4000);
    for (std::size_t i = 0; set && i < set->sensors.size(); ++i)
      if (shown(set->sensors[i].position)) sign(set->sensors[i].position, set->sensors[i].normalVector(), false, true);
  }
  for (const EyeRef& ref : eyesSet(project)) {
    const PointSensor* eye = eyeAt(project, ref);
    if (shown(eye->position)) sign(eye->position, eye->normal, l.eye == ref, false);
  }
}

std::optional<EyeTool::Under> EyeTool::under(QPointF at) const {
  std::optional<Under> out;
  double nearest = grip;
  for (const EyeRef& ref : eyesSet(project())) {
    const PointSensor* eye = eyeAt(project(), ref);
    const auto s = stage().eyeSign(eye->position, eye->normal);
    if (!s) continue;
    const auto off = [&](QPointF q) { return std::hypot(q.x() - at.x(), q.y() - at.y()); };
    if (off(s->first) < nearest) nearest = off(s->first), out = Under{ref, false};
    if (off(s->second) < nearest) nearest = off(s->second), out = Under{ref, true};
  }
  return out;
}

void EyeTool::look(std::optional<EyeRef> eye) const {
  document().look([&](Looking& l) {
    l.eye = eye;
    l.sensor.reset();
  });
}

bool EyeTool::press(const QMouseEvent& e) {
  if (e.modifiers() & Qt::AltModifier) return false; // turns or pans the view
  if (const auto u = under(e.position())) {
    before_ = project();
    eye_ = u->eye;
    grip_ = u->end ? Grip::Turn : Grip::Move;
    look(eye_);
    return true;
  }
  const Looking& l = document().looking();
  const auto foot = onLevel(e.position(), floorLevel(project(), l));
  if (!foot) return false;
  const Vec3 at{foot->x, foot->y, eyeLevel(project(), {foot->x, foot->y}, l.storey)};
  grip_ = Grip::Set;
  before_ = withEye(project(), at, {towardTheWindow(project(), at), 0}, {}, &eye_);
  document().preview(before_);
  look(eye_);
  return true;
}

void EyeTool::drag(QPointF at) {
  const PointSensor* eye = eyeAt(before_, eye_);
  if (!eye) return;
  const auto now = onLevel(at, eye->position.z);
  if (!now) return;
  if (grip_ == Grip::Move) {
    const Vec3 to{std::round(now->x * 20) / 20, std::round(now->y * 20) / 20, eye->position.z};
    tell(QString("moved to %1, %2").arg(to.x, 0, 'f', 2).arg(to.y, 0, 'f', 2));
    return document().preview(withEyeChanged(before_, eye_, [&](PointSensor& e) { e.position = to; }));
  }
  const Vec3 way = *now - eye->position;
  if (std::hypot(way.x, way.y) < 1e-6) return;
  // Whole steps of five degrees: a finer one is typed.
  const double azimuth = std::round(degrees(std::atan2(way.x, way.y) + project().site.northAngle) / 5) * 5;
  tell(QString("looks %1°").arg(degrees(wrapTwoPi(radians(azimuth))), 0, 'f', 0));
  document().preview(withEyeTurned(before_, eye_, {radians(azimuth), lineOfSight(before_, *eye).altitude}));
}

void EyeTool::release(bool moved) {
  const Grip was = std::exchange(grip_, Grip::None);
  tell({});
  if (moved || was == Grip::Set)
    document().commitPreview(was == Grip::Set ? "Set an eye" : was == Grip::Move ? "Move an eye" : "Turn an eye");
  else
    document().dropPreview();
  update();
}

bool EyeTool::hover(QPointF at) {
  const auto u = under(at);
  if (!u) return false;
  const PointSensor* eye = eyeAt(project(), u->eye);
  const LineOfSight sight = lineOfSight(project(), *eye);
  say(QString("%1 · looks %2°, %3 m up · %4")
          .arg(QString::fromStdString(eye->name))
          .arg(degrees(sight.azimuth), 0, 'f', 0)
          .arg(eye->position.z, 0, 'f', 2)
          .arg(u->end ? "drag to turn it" : "drag to move it"));
  return true;
}

bool EyeTool::doubleClick(QPointF at) {
  const auto u = under(at);
  if (!u) return false;
  look(u->eye);
  emit stage().eyeWanted();
  return true;
}

void EyeTool::enter() {
  const auto ref = document().looking().eye;
  const auto typedAzimuth = numberFromText(typed().toStdString());
  if (typed().isEmpty()) return;
  forgetTyped();
  const PointSensor* eye = ref ? eyeAt(project(), *ref) : nullptr;
  if (!eye || !typedAzimuth)
    return say(eye ? "An azimuth in degrees is expected, such as 200" : "Click an eye first; then type where it looks");
  document().change(withEyeTurned(project(), *ref, {radians(*typedAzimuth), lineOfSight(project(), *eye).altitude}),
                    "Turn an eye");
}

void EyeTool::back() {
  const auto ref = document().looking().eye;
  if (!ref || !eyeAt(project(), *ref)) return;
  look({});
  document().change(withoutEye(project(), *ref), "Take out an eye");
}

void EyeTool::cancel() {
  if (std::exchange(grip_, Grip::None) != Grip::None) document().dropPreview();
}

} // namespace noonward
