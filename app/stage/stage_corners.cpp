// Corners of outlines corrected by hand, distances measured, and the trace of a light model, on the stage.

#include "app/stage/stage.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include "core/model/tracing/tracing.h"
#include "picture/opened_rooms.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

namespace noonward {

// ---- the trace before it is put in --------------------------------------------------------------------------------

void Stage::setTrace(std::shared_ptr<const Trace> trace, int storey, int covered) {
  const bool first = trace && !trace_;
  trace_ = std::move(trace);
  traceStorey_ = storey;
  if (first) {
    setView(ViewKind::Plan);
    Box3 box;
    for (const TracedStorey& s : trace_->storeys)
      for (const Outline& o : s.outer)
        for (Vec2 q : o.outer) box.add({q.x, q.y, s.floor});
    if (!box.empty()) fitBeside({box}, covered);
  }
  update();
}

void Stage::fitBeside(const std::vector<Box3>& boxes, int covered) {
  const double free = std::max(100.0, height() - 120.0);
  camera_.fit(boxes, std::max(200, width() - std::abs(covered)), free, 0.06);
  camera_.height *= height() / free;
  camera_.pan(covered / 2.0, 0, height());
  requestFrame(false);
  emit viewChanged();
}

void Stage::fitAllBeside(int covered) {
  fitBeside(framed(), covered);
}

void Stage::faceWall(const WallRectangle& w, int covered) {
  const Vec3 n{w.right.y, -w.right.x, 0};
  camera_.kind = ViewKind::Facade;
  camera_.azimuth = wrapTwoPi(std::atan2(n.x, n.y));
  camera_.altitude = 0;
  camera_.fromTarget = true; // what stands before it would hide it
  Box3 box;
  box.add(w.corner);
  box.add(w.corner + w.right * w.width + Vec3{0, 0, w.height});
  fitBeside({box}, covered);
  camera_.target = camera_.target + n * (dot(w.corner - camera_.target, n) + 3);
  requestFrame(false);
  emit viewChanged();
}

void Stage::showBeside(const std::vector<std::uint64_t>& elements, int covered) {
  std::vector<Box3> boxes, near;
  std::vector<double> x, y, d;
  for (std::uint64_t v : elements)
    if (const ElementPtr e = document_.project().element({v})) {
      boxes.push_back(boxOf(*e));
      x.push_back(boxes.back().center().x), y.push_back(boxes.back().center().y);
    }
  if (boxes.empty()) return;
  const auto middle = [](std::vector<double> v) {
    std::nth_element(v.begin(), v.begin() + std::ptrdiff_t(v.size() / 2), v.end());
    return v[v.size() / 2];
  };
  const Vec2 centre{middle(x), middle(y)}; // a survey mark a kilometre off would make the rest a dot
  for (const Box3& b : boxes) d.push_back(length(xy(b.center()) - centre));
  const double usual = std::max(30.0, 4 * middle(d));
  for (std::size_t i = 0; i < boxes.size(); ++i)
    if (d[i] <= usual) near.push_back(boxes[i]);
  fitBeside(near, covered);
}

void Stage::paintTrace(QPainter& p) {
  if (!trace_ || traceStorey_ < 0 || traceStorey_ >= int(trace_->storeys.size())) return;
  const Theme& t = theme();
  const TracedStorey& s = trace_->storeys[std::size_t(traceStorey_)];
  const auto path = [&](const Outline& o, double z) {
    QPainterPath out;
    out.setFillRule(Qt::OddEvenFill);
    const auto ring = [&](const Ring& r) {
      QPolygonF polygon;
      for (Vec2 v : r)
        if (const auto q = pixelOf({v.x, v.y, z})) polygon << *q;
      if (polygon.size() == int(r.size())) out.addPolygon(polygon), out.closeSubpath();
    };
    ring(o.outer);
    for (const Ring& h : o.holes) ring(h);
    return out;
  };
  QColor paper = t.stage;
  paper.setAlpha(210);
  QColor fill = t.meets;
  fill.setAlpha(34);
  for (const Outline& o : s.outer) p.fillPath(path(o, s.floor), paper);
  std::map<RoomId, const Room*> here;
  for (const Room& room : trace_->rooms) {
    if (room.floor < s.floor - 1 || room.floor >= s.ceiling - 0.5) continue;
    here[room.id] = &room;
    p.fillPath(path(room.outline, s.floor), fill);
  }
  QColor thin = t.ink;
  thin.setAlpha(110);
  p.setPen(QPen(thin, 1));
  for (const CutLine& l : s.lines)
    if (const auto a = pixelOf({l.a.x, l.a.y, s.floor}), b = pixelOf({l.b.x, l.b.y, s.floor}); a && b)
      p.drawLine(*a, *b);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.noon, 2));
  for (const Outline& o : s.outer) p.drawPath(path(o, s.floor));
  p.setPen(QPen(t.meets, 1.6));
  for (const auto& [id, r] : here) p.drawPath(path(r->outline, s.floor));
  p.setPen(QPen(t.meets, 5, Qt::SolidLine, Qt::FlatCap));
  for (const Opening& o : trace_->openings) {
    const auto at = here.find(o.room);
    if (at == here.end()) continue;
    const Ring& ring = at->second->outline.outer;
    if (o.edge < 0) {
      p.drawRect(QRectF(pixelOf({o.along, o.sill + o.height, s.floor}).value_or(QPointF()),
                        pixelOf({o.along + o.width, o.sill, s.floor}).value_or(QPointF())));
      continue;
    }
    const Vec2 a = ring[std::size_t(o.edge)], d = ring[(std::size_t(o.edge) + 1) % ring.size()] - a;
    const Vec2 u = d * (1 / std::max(1e-9, length(d))), from = a + u * o.along, to = from + u * o.width;
    if (const auto x = pixelOf({from.x, from.y, s.floor}), y = pixelOf({to.x, to.y, s.floor}); x && y)
      p.drawLine(*x, *y);
  }
  p.setFont(textFont(11.5));
  for (const auto& [id, r] : here) {
    const Vec2 m = pointInside(r->outline);
    const auto q = pixelOf({m.x, m.y, s.floor});
    if (!q) continue;
    const QString text = QString("%1\n%2 m²").arg(QString::fromStdString(r->name)).arg(area(r->outline), 0, 'f', 1);
    if (distanceToEdge(r->outline, m) / camera_.metresPerPixel(height()) < 26) continue; // there is no room for it
    p.setPen(t.ink);
    p.drawText(QRectF(q->x() - 80, q->y() - 20, 160, 40), Qt::AlignCenter, text);
  }
}

// ---- corners ------------------------------------------------------------------------------------------------------

std::vector<CornerRef> Stage::correctable() const {
  const Project& p = document_.project();
  std::vector<CornerRef> out;
  const auto all = [&](std::uint64_t owner, bool room, const Outline& o) {
    for (std::size_t ring = 0; ring <= o.holes.size(); ++ring)
      for (std::size_t k = 0; k < (ring == 0 ? o.outer : o.holes[ring - 1]).size(); ++k)
        out.push_back({owner, room, ring, k});
  };
  if (document_.looking().step == Step::Rooms) {
    for (const Room& r : p.rooms)
      if (onStorey(r, storeyNear(p, document_.looking().storey))) all(r.id.value, true, r.outline);
    return out;
  }
  const auto& selected = document_.looking().selected;
  for (const ElementPtr& e : p.elements) {
    const bool chosen = std::find(selected.begin(), selected.end(), e->id) != selected.end();
    if (e->mass() && !e->hidden && (chosen || (selected.empty() && isTraced(*e))))
      all(e->id.value, false, e->mass()->outline);
  }
  return out;
}

Stage::CornerUnder Stage::cornerUnder(QPointF at) const {
  const Project& p = document_.project();
  CornerUnder out;
  double nearest = 9;
  const auto px = [&](const CornerRef& c, std::size_t k) {
    const Ring& r = *ringOf(p, c);
    const Vec2 v = r[k % r.size()];
    return pixelOf({v.x, v.y, levelOf(p, c)});
  };
  const auto all = correctable();
  for (const CornerRef& c : all)
    if (const auto q = px(c, c.corner))
      if (const double d = std::hypot(q->x() - at.x(), q->y() - at.y()); d < nearest) {
        nearest = d;
        out.ref = c;
        out.corner = true;
      }
  if (out.ref) return out;
  nearest = 6;
  for (const CornerRef& c : all) {
    const auto a = px(c, c.corner), b = px(c, c.corner + 1);
    if (!a || !b) continue;
    const QPointF d = *b - *a;
    const double l2 = d.x() * d.x() + d.y() * d.y();
    if (!(l2 > 0)) continue;
    const double s = std::clamp(((at.x() - a->x()) * d.x() + (at.y() - a->y()) * d.y()) / l2, 0.0, 1.0);
    if (const double off = std::hypot(at.x() - a->x() - s * d.x(), at.y() - a->y() - s * d.y()); off < nearest) {
      nearest = off;
      out.ref = c;
      out.corner = false;
    }
  }
  return out;
}

void Stage::beginCorner(QPointF at) {
  const CornerUnder u = cornerUnder(at);
  if (!u.ref) {
    drag_ = camera_.kind == ViewKind::Solid ? Drag::Orbit : Drag::Pan;
    return;
  }
  before_ = document_.project();
  corner_ = *u.ref;
  inserted_ = !u.corner;
  const double level = levelOf(before_, corner_);
  if (inserted_) {
    const auto g = onLevel(at, level);
    if (!g) return;
    // On the edge itself first; where the pointer goes it follows.
    const Ring& r = *ringOf(before_, corner_);
    const Vec2 a = r[corner_.corner], d = r[(corner_.corner + 1) % r.size()] - a;
    auto next = withCornerAdded(before_, corner_, a + d * (std::clamp(dot(xy(*g) - a, d) / dot(d, d), 0.02, 0.98)));
    if (!next) return emit said(QString::fromStdString(next.error().message));
    before_ = std::move(*next);
    ++corner_.corner;
  }
  guides_.clear();
  if (std::any_of(before_.elements.begin(), before_.elements.end(), [](const ElementPtr& e) { return e->ghost; }))
    guides_ = cutOfGhosts(before_, level + 1.2);
  drag_ = Drag::Corner;
}

void Stage::continueCorner(QPointF at) {
  const auto g = onLevel(at, levelOf(before_, corner_));
  const Ring* ring = ringOf(before_, corner_);
  if (!g || !ring) return;
  std::vector<Vec2> others;
  for (const CornerRef& c : correctable())
    if (const Ring* r = ringOf(before_, c); r && c.corner < r->size() && !(c == corner_))
      others.push_back((*r)[c.corner]);
  const Snap s = snapCorner(guides_, others, *ring, corner_.corner, xy(*g), 9 * camera_.metresPerPixel(height()));
  auto next = withCornerAt(before_, corner_, s.at);
  if (!next) return; // this far the outline breaks: stay where it was
  const Vec2 by = s.at - (*ring)[corner_.corner];
  hoverText_ = QString("corner moved %1%2")
                   .arg(QString::fromStdString(lengthText(length(by), before_.units)),
                        *snapText(s.kind) ? QString(" · ") + snapText(s.kind) : QString());
  document_.preview(std::move(*next));
}

void Stage::endCorner() {
  guides_.clear();
  hoverText_.clear();
  if (document_.previewing())
    document_.commitPreview(inserted_ ? "Put a corner in" : "Move corner");
  else if (inserted_ && !moved_)
    document_.change(before_, "Put a corner in");
  requestFrame(false);
}

bool Stage::takeCornerOut(QPointF at) {
  const CornerUnder u = cornerUnder(at);
  if (!u.ref || !u.corner) return false;
  auto next = withCornerTaken(document_.project(), *u.ref);
  if (!next)
    emit said(QString::fromStdString(next.error().message));
  else
    document_.change(std::move(*next), "Take a corner out");
  return true;
}

void Stage::paintCorners(QPainter& p) {
  if (tool_ != Tool::Corners) return;
  const Theme& t = theme();
  const Project& project = document_.project();
  QColor thin = t.ink;
  thin.setAlpha(120);
  p.setPen(QPen(thin, 1, Qt::DashLine));
  const double level = drag_ == Drag::Corner ? levelOf(before_, corner_) : 0;
  for (const CutLine& l : guides_)
    if (const auto a = pixelOf({l.a.x, l.a.y, level}), b = pixelOf({l.b.x, l.b.y, level}); a && b) p.drawLine(*a, *b);
  const CornerUnder under = inside_ && drag_ == Drag::None ? cornerUnder(pointer_) : CornerUnder{};
  for (const CornerRef& c : correctable()) {
    const Ring* r = ringOf(project, c);
    if (!r || c.corner >= r->size()) continue;
    const double z = levelOf(project, c);
    const Vec2 v = (*r)[c.corner], w = (*r)[(c.corner + 1) % r->size()];
    const auto q = pixelOf({v.x, v.y, z}), next = pixelOf({w.x, w.y, z});
    if (!q || !next) continue;
    const bool hot = under.ref && *under.ref == c;
    p.setPen(QPen(t.noon, hot && !under.corner ? 3 : 1.4));
    p.drawLine(*q, *next);
    p.setPen(QPen(t.noon, 1.4));
    p.setBrush((hot && under.corner) || (drag_ == Drag::Corner && c == corner_) ? t.noon : t.paper);
    p.drawRect(QRectF(q->x() - 3.5, q->y() - 3.5, 7, 7));
  }
}

// ---- a distance between two spots -----------------------------------------------------------------------------------

Vec3 Stage::spotFor(QPointF at) {
  // The corner nearest to the pointer that no face hides, whether a face was met there or just missed.
  Vec3 where;
  const RayHit hit = pick(at, &where);
  const Camera::Ray ray = camera_.ray(at.x(), at.y(), width(), height());
  const double stop = hit.hit() ? dot(where - ray.origin, ray.direction) + 1 : 1e300;
  std::optional<Vec3> best;
  double nearest = 9;
  for (const ElementPtr& e : shown().elements) {
    if (e->hidden || e->ghost) continue;
    const auto mesh = elementMesh(*e);
    if (!mesh) continue;
    for (const Vec3& corner : (*mesh)->points)
      if (const auto q = pixelOf(corner))
        if (const double d = std::hypot(q->x() - at.x(), q->y() - at.y());
            d < nearest && dot(corner - ray.origin, ray.direction) < stop) {
          nearest = d;
          best = corner;
        }
  }
  if (best) return *best;
  return hit.hit() ? where : onLevel(at, 0).value_or(Vec3{});
}

void Stage::distanceClick(QPointF at) {
  const Vec3 spot = spotFor(at);
  if (!distanceFrom_) {
    distanceFrom_ = spot;
    emit said("Click the other end of the distance");
    return update();
  }
  const double d = length(spot - *distanceFrom_);
  setTool(Tool::Select);
  emit distanceMeasured(d);
}

void Stage::paintDistance(QPainter& p) {
  if (tool_ != Tool::Distance || !distanceFrom_) return;
  const auto a = pixelOf(*distanceFrom_);
  if (!a) return;
  p.setPen(QPen(theme().noon, 1.6));
  if (inside_) p.drawLine(*a, pointer_);
  p.setBrush(theme().paper);
  p.drawEllipse(*a, 4, 4);
}

} // namespace noonward
