// The trace of a simplified model on the stage, and what is framed beside a panel.

#include "app/stage/stage.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include "core/model/tracing/tracing.h"
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
    if (const ElementPtr e = sight_->project().element({v})) {
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
    const QString text = QString("%1\n%2").arg(QString::fromStdString(r->name),
                                               shownQuantity(area(r->outline), 1, "m²", sight_->project().units));
    if (distanceToEdge(r->outline, m) / camera_.metresPerPixel(height()) < 26) continue; // there is no room for it
    p.setPen(t.ink);
    p.drawText(QRectF(q->x() - 80, q->y() - 20, 160, 40), Qt::AlignCenter, text);
  }
}

// ---- spots
// -----------------------------------------------------------------------------------------------------------

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

} // namespace noonward
