// Selecting, pulling, moving; probing; spots and distances.

#include "app/stage/stage.h"
#include "app/stage/tools/tools.h"
#include "app/theme/style.h"
#include "core/model/form/arrange.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include <QGuiApplication>
#include <QMouseEvent>
#include <QPainter>

namespace noonward {

bool SelectTool::press(const QMouseEvent& e) {
  Vec3 where;
  const RayHit hit = pick(e.position(), &where);
  const auto& selected = document().looking().selected;
  const bool onSelected =
      hit.hit() && std::find(selected.begin(), selected.end(), ElementId{hit.element}) != selected.end();
  if (e.modifiers() & Qt::AltModifier && !selected.empty()) {
    beginMove(e.position(), onSelected, where);
    return true;
  }
  if (!onSelected || selected.size() != 1) return false;
  beginPull(hit, where);
  ridge_ = e.modifiers() & Qt::ControlModifier && !face_ && before_.element({hit.element})->mass() &&
           !before_.element({hit.element})->mass()->roof.flat();
  return grip_ != Grip::None;
}

void SelectTool::beginMove(QPointF at, bool onSelected, Vec3 where) {
  grip_ = Grip::Move;
  before_ = project();
  grabbed_ = onSelected ? where : onLevel(at, 0).value_or(Vec3{});
  hold(document().looking().selected);
}

void SelectTool::beginPull(const RayHit& hit, Vec3 where) {
  const ElementPtr e = project().element({hit.element});
  if (!e) return;
  grip_ = Grip::Pull;
  before_ = project();
  grabbed_ = where;
  const bool upward = std::abs(hit.normal.z) > 0.7 || !e->mass();
  face_ = upward ? std::optional<std::uint32_t>() : std::optional(hit.face);
  from_ = heightOf(*e);
  hold({e->id});
  document().look([&](Looking& l) {
    l.face = upward ? std::optional<std::uint32_t>(e->mass() ? std::optional(roofFace) : std::nullopt)
                    : std::optional(hit.face);
  });
}

void SelectTool::drag(QPointF at) {
  studies().setMoving(held());
  grip_ == Grip::Pull ? pull(at) : move(at);
}

void SelectTool::pull(QPointF at) {
  if (held().empty()) return;
  const ElementPtr e = before_.element(held().front());
  if (!e) return;
  Vec3 along{0, 0, 1};
  if (face_) {
    const auto mesh = elementMesh(*e);
    Vec3 n;
    for (std::size_t t = 0; mesh && t < (*mesh)->triangles.size(); ++t)
      if ((*mesh)->faceOf(t) == *face_) n = n + (*mesh)->areaVector(t);
    along = normalized(n);
  }
  // The point on the line through the grabbed point that lies nearest under the pointer.
  const Camera::Ray r = ray(at);
  const Vec3 w = grabbed_ - r.origin;
  const double b = dot(along, r.direction), d = dot(along, w), f = dot(r.direction, w), denominator = 1 - b * b;
  if (denominator < 1e-4) return; // looking along the line
  double by = (b * f - d) / denominator;
  if (const auto length = typedLength())
    by = face_ ? *length : *length - from_;
  else
    by = std::round(by * 10) / 10;
  Element next = *e;
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, before_.units.length)); };
  if (face_) {
    if (!moveEdge(next, *face_ - firstWallFace, by)) return; // this far the outline breaks: stay where it was
    tell(QString("wall %1%2").arg(by >= 0 ? "+" : "").arg(text(by)));
  } else if (ridge_) { // the walls stay, the ridge goes
    Roof& roof = std::get<Mass>(next.shape).roof;
    roof.rise = std::max(0.1, typedLength() ? *typedLength() : e->mass()->roof.rise + by);
    if (!elementMesh(next)) return; // steeper than it can be: stay where it was
    tell(QString("rise %1").arg(text(roof.rise)));
  } else {
    const double height = std::max(0.1, from_ + by);
    setHeight(next, height);
    tell(QString("height %1").arg(text(height)));
  }
  document().preview(carried(before_, withElement(before_, std::move(next)), held()));
}

void SelectTool::move(QPointF at) {
  const auto now = onLevel(at, grabbed_.z);
  if (!now) return;
  Vec3 by = *now - grabbed_;
  const double snap = 10 * metresPerPixel();
  const bool locked = QGuiApplication::keyboardModifiers() & Qt::ShiftModifier; // to the axis that is nearer
  const bool alongX = locked ? std::abs(by.x) >= std::abs(by.y) : std::abs(by.y) < snap && std::abs(by.x) > snap,
             alongY = locked ? !alongX : std::abs(by.x) < snap && std::abs(by.y) > snap;
  SnapKind kind = SnapKind::Grid;
  if (const auto length = typedLength()) {
    if (alongX) by.y = 0;
    if (alongY) by.x = 0;
    const double l = std::hypot(by.x, by.y);
    if (l > 0) by = by * (*length / l);
  } else {
    const MoveSnap s = snapMove(before_, held(), xy(by), 0.6 * snap, alongX, alongY);
    by = {s.by.x, s.by.y, 0};
    kind = s.kind;
  }
  by.z = 0;
  tell(QString("moved %1%2")
           .arg(QString::fromStdString(lengthText(std::hypot(by.x, by.y), before_.units.length)),
                kind == SnapKind::Corner ? QString(" · to a corner")
                : kind == SnapKind::Axis ? QString(" · in line")
                                         : QString()));
  document().preview(carried(before_, withEdited(before_, held(), [&](Element& e) { moveElement(e, by); }), held()));
}

void SelectTool::release(bool moved) {
  const QString name = grip_ == Grip::Move ? "Move" : face_ ? "Pull wall" : ridge_ ? "Pull ridge" : "Pull height";
  grip_ = Grip::None;
  forgetTyped();
  tell({});
  hold({});
  studies().setMoving({});
  if (moved)
    document().commitPreview(name);
  else
    document().dropPreview();
  stage().settleFrame();
}

void SelectTool::typedOn() {
  if (grip_ == Grip::Pull) pull(pointer());
  if (grip_ == Grip::Move) move(pointer());
}

void SelectTool::enter() {
  if (grip_ == Grip::None) StageTool::enter();
}

void SelectTool::cancel() {
  if (grip_ != Grip::None) document().dropPreview();
  grip_ = Grip::None;
  letGo();
}

/// A click on a result cell asks for the hours behind it; on an element, it is selected.
void SelectTool::click(const QMouseEvent& e) {
  if (const auto surface = stage().surfaceUnder(e.position()))
    return document().look([&](Looking& l) { l.heatSurface = surface; });
  const RayHit hit = pick(e.position()), seen = pick(e.position(), nullptr, true);
  const bool more = e.modifiers() & Qt::ShiftModifier;
  const std::optional<std::size_t> sensor = more ? std::nullopt : stage().sensorUnder(e.position());
  document().look([&](Looking& l) {
    l.sensor = sensor;
    l.face.reset();
    if (sensor) return;
    const ElementId id{hit.element};
    // What is held together is selected together; with Ctrl one of it alone.
    const std::vector<ElementId> ids =
        e.modifiers() & Qt::ControlModifier ? std::vector{id} : withTheirGroups(project(), std::vector{id});
    for (const PlacedOpening& o : stage().openings().openings) // a pane on the facade: the window it is of
      if (o.opening.id.value == seen.element) l.opening = o.rule ? l.opening : o.opening.id;
    if (!hit.hit())
      l.selected.clear();
    else if (!more)
      l.selected = ids;
    else if (std::erase(l.selected, id) == 0)
      l.selected.insert(l.selected.end(), ids.begin(), ids.end());
    else
      for (ElementId other : ids) std::erase(l.selected, other);
  });
}

bool MoveTool::press(const QMouseEvent& e) {
  const auto& selected = document().looking().selected;
  if (selected.empty()) return SelectTool::press(e);
  Vec3 where;
  const RayHit hit = pick(e.position(), &where);
  beginMove(e.position(),
            hit.hit() && std::find(selected.begin(), selected.end(), ElementId{hit.element}) != selected.end(), where);
  return true;
}

// ---- spots --------------------------------------------------------------------------------------------------------

void ProbeTool::click(const QMouseEvent& e) {
  Vec3 where;
  const RayHit hit = pick(e.position(), &where);
  if (!hit.hit()) {
    const auto g = onLevel(e.position(), 0);
    if (!g) return;
    where = *g;
  }
  Vec3 n = hit.hit() ? hit.normal : Vec3{0, 0, 1};
  if (dot(n, ray(e.position()).direction) > 0) n = -n;
  if (const auto sensor = stage().sensorUnder(e.position())) { // where the study looks from
    const Sensor& s = studies().current()->painted->sensors.sensors[*sensor];
    where = s.position;
    n = s.normalVector();
  }
  document().look([&](Looking& l) {
    l.probe = ProbeSpot{where, n};
    l.year = YearPicture::Own;
    l.sensor.reset();
    l.eye.reset();
  });
  choose(Tool::Select);
}

void SpotTool::click(const QMouseEvent& e) {
  const RayHit h = pick(e.position());
  const Vec3 n = dot(h.normal, ray(e.position()).direction) > 0 ? -h.normal : h.normal;
  const Vec3 spot = stage().spotFor(e.position());
  choose(Tool::Select);
  emit stage().spotPicked(spot, h.hit() ? n : Vec3{0, 0, 1}, h.hit() ? h.element : 0);
}

void DistanceTool::click(const QMouseEvent& e) {
  const Vec3 spot = stage().spotFor(e.position());
  if (!from_) {
    from_ = spot;
    say("Click the other end of the distance");
    return update();
  }
  const double d = length(spot - *from_);
  choose(Tool::Select);
  emit stage().distanceMeasured(d);
}

void DistanceTool::paint(QPainter& p) {
  const auto a = from_ ? pixelOf(*from_) : std::nullopt;
  if (!a) return;
  p.setPen(QPen(theme().noon, 1.6));
  if (inside()) p.drawLine(*a, pointer());
  p.setBrush(theme().paper);
  p.drawEllipse(*a, 4, 4);
}

} // namespace noonward
