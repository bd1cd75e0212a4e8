// Corners of outlines corrected by hand.

#include "app/stage/stage.h"
#include "app/stage/tools/tools.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include "core/model/form/shaping.h"
#include "core/model/tracing/tracing.h"
#include "picture/opened_rooms.h"
#include <QMouseEvent>
#include <QPainter>

namespace noonward {

QString CornersTool::hint() const {
  return "Drag a corner; drag an edge to put one in; double-click a corner to take it out; type a length over a corner "
         "and Enter to cut it off; Escape ends";
}

void CornersTool::cancel() {
  if (holding_) document().dropPreview();
  holding_ = false;
  guides_.clear();
}

std::vector<CornerRef> CornersTool::correctable() const {
  const Project& p = project();
  std::vector<CornerRef> out;
  const auto all = [&](std::uint64_t owner, bool room, const Outline& o) {
    for (std::size_t ring = 0; ring <= o.holes.size(); ++ring)
      for (std::size_t k = 0; k < (ring == 0 ? o.outer : o.holes[ring - 1]).size(); ++k)
        out.push_back({owner, room, ring, k});
  };
  if (document().looking().step == Step::Rooms) {
    for (const Room& r : p.rooms)
      if (onStorey(r, storeyNear(p, document().looking().storey))) all(r.id.value, true, r.outline);
    return out;
  }
  const auto& selected = document().looking().selected;
  for (const ElementPtr& e : p.elements) {
    const bool chosen = std::find(selected.begin(), selected.end(), e->id) != selected.end();
    if (e->mass() && !e->hidden && (chosen || (selected.empty() && isTraced(*e))))
      all(e->id.value, false, e->mass()->outline);
  }
  return out;
}

CornersTool::Under CornersTool::under(QPointF at) const {
  const Project& p = project();
  Under out;
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

bool CornersTool::press(const QMouseEvent& e) {
  const QPointF at = e.position();
  const Under u = under(at);
  if (!u.ref) return false;
  before_ = project();
  corner_ = *u.ref;
  inserted_ = !u.corner;
  const double level = levelOf(before_, corner_);
  if (inserted_) {
    const auto g = onLevel(at, level);
    if (!g) return true;
    // On the edge itself first; where the pointer goes it follows.
    const Ring& r = *ringOf(before_, corner_);
    const Vec2 a = r[corner_.corner], d = r[(corner_.corner + 1) % r.size()] - a;
    auto next = withCornerAdded(before_, corner_, a + d * (std::clamp(dot(xy(*g) - a, d) / dot(d, d), 0.02, 0.98)));
    if (!next) {
      say(QString::fromStdString(next.error().message));
      return true;
    }
    before_ = std::move(*next);
    ++corner_.corner;
  }
  guides_.clear();
  if (std::any_of(before_.elements.begin(), before_.elements.end(), [](const ElementPtr& e) { return e->ghost; }))
    guides_ = cutOfGhosts(before_, level + 1.2);
  holding_ = true;
  return true;
}

void CornersTool::drag(QPointF at) {
  if (!holding_) return;
  const auto g = onLevel(at, levelOf(before_, corner_));
  const Ring* ring = ringOf(before_, corner_);
  if (!g || !ring) return;
  std::vector<Vec2> others;
  for (const CornerRef& c : correctable())
    if (const Ring* r = ringOf(before_, c); r && c.corner < r->size() && !(c == corner_))
      others.push_back((*r)[c.corner]);
  const double reach = 9 * metresPerPixel();
  Snap s = snapCorner(guides_, others, *ring, corner_.corner, xy(*g), reach);
  if (s.kind == SnapKind::Grid || s.kind == SnapKind::Square)
    for (const Guide& line : before_.guides)
      if (const Vec2 on = onGuide(line, xy(*g)); length(on - xy(*g)) < reach) s = {on, SnapKind::Guide};
  auto next = withCornerAt(before_, corner_, s.at);
  if (!next) return; // this far the outline breaks: stay where it was
  const Vec2 by = s.at - (*ring)[corner_.corner];
  tell(QString("corner moved %1%2")
           .arg(QString::fromStdString(lengthText(length(by), before_.units.length)),
                *snapText(s.kind) ? QString(" · ") + snapText(s.kind) : QString()));
  document().preview(std::move(*next));
}

void CornersTool::release(bool moved) {
  if (!holding_) return;
  holding_ = false;
  guides_.clear();
  tell({});
  if (document().previewing())
    document().commitPreview(inserted_ ? "Put a corner in" : "Move corner");
  else if (inserted_ && !moved)
    document().change(before_, "Put a corner in");
  stage().settleFrame();
}

bool CornersTool::doubleClick(QPointF at) {
  const Under u = under(at);
  if (!u.ref || !u.corner) return false;
  auto next = withCornerTaken(project(), *u.ref);
  if (!next)
    say(QString::fromStdString(next.error().message));
  else
    document().change(std::move(*next), "Take a corner out");
  return true;
}

void CornersTool::enter() {
  const auto by = typedLength();
  const Under u = inside() ? under(pointer()) : Under{};
  forgetTyped();
  if (!by || !u.ref || !u.corner) return say("Point at a corner, type how far from it the cut begins, and press Enter");
  auto next = withCornerCut(project(), *u.ref, *by);
  if (!next)
    say(QString::fromStdString(next.error().message));
  else
    document().change(std::move(*next), "Cut a corner off");
  update();
}

void CornersTool::paint(QPainter& p) {
  const Theme& t = theme();
  const Project& now = project();
  QColor thin = t.ink;
  thin.setAlpha(120);
  p.setPen(QPen(thin, 1, Qt::DashLine));
  const double level = holding_ ? levelOf(before_, corner_) : 0;
  for (const CutLine& l : guides_)
    if (const auto a = pixelOf({l.a.x, l.a.y, level}), b = pixelOf({l.b.x, l.b.y, level}); a && b) p.drawLine(*a, *b);
  const Under at = inside() && !holding_ ? under(pointer()) : Under{};
  for (const CornerRef& c : correctable()) {
    const Ring* r = ringOf(now, c);
    if (!r || c.corner >= r->size()) continue;
    const double z = levelOf(now, c);
    const Vec2 v = (*r)[c.corner], w = (*r)[(c.corner + 1) % r->size()];
    const auto q = pixelOf({v.x, v.y, z}), next = pixelOf({w.x, w.y, z});
    if (!q || !next) continue;
    const bool hot = at.ref && *at.ref == c;
    p.setPen(QPen(t.noon, hot && !at.corner ? 3 : 1.4));
    p.drawLine(*q, *next);
    p.setPen(QPen(t.noon, 1.4));
    p.setBrush((hot && at.corner) || (holding_ && c == corner_) ? t.noon : t.paper);
    p.drawRect(QRectF(q->x() - 3.5, q->y() - 3.5, 7, 7));
  }
}

} // namespace noonward
