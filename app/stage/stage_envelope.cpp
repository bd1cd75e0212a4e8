// What lies behind the walls of the rooms looked into, drawn along them: by the style of the line, not by colour.

#include "app/stage/stage.h"
#include "core/studies/energy/envelope.h"
#include "picture/opened_rooms.h"
#include <QPainter>
#include <cmath>

namespace noonward {

namespace {
constexpr double reach = 9; ///< px, of the pointer to a wall

QPen penOf(Beyond beyond, bool toRoom, const Theme& t) {
  switch (beyond) {
  case Beyond::Outdoors:
  case Beyond::AsDrawn:
    return QPen(t.ink, 3.2);
  case Beyond::Ground:
    return QPen(t.ink, 3.2, Qt::DotLine, Qt::FlatCap);
  case Beyond::Unheated:
    return QPen(t.ink, 3.2, Qt::DashLine, Qt::FlatCap);
  case Beyond::Alike:
    break;
  }
  return QPen(toRoom ? t.ink : t.muted, 1.2, toRoom ? Qt::SolidLine : Qt::DotLine);
}

double fromSegment(QPointF p, QPointF a, QPointF b) {
  const QPointF d = b - a, w = p - a;
  const double l2 = QPointF::dotProduct(d, d);
  const double u = l2 > 0 ? std::clamp(QPointF::dotProduct(w, d) / l2, 0.0, 1.0) : 0;
  const QPointF off = w - d * u;
  return std::hypot(off.x(), off.y());
}
} // namespace

bool Stage::showsEnvelopes() const {
  return tintsRooms() && sight_->looking().rooms == RoomFigure::HeatLoss;
}

/// Of the project as it is looked at; worked out once for each state of it.
const std::vector<RoomEnvelope>& Stage::envelopes() {
  if (envelopesOf_ != sight_->revision()) {
    envelopes_ = roomEnvelopes(sight_->project());
    envelopesOf_ = sight_->revision();
  }
  return envelopes_;
}

/// The ends of a side of a room on the stage, a little above its floor.
std::optional<QLineF> Stage::sideOnStage(const Room& room, int edge) const {
  const Ring& ring = room.outline.outer;
  if (edge < 0 || std::size_t(edge) >= ring.size()) return {};
  const Vec2 a = ring[std::size_t(edge)], b = ring[(std::size_t(edge) + 1) % ring.size()];
  const auto from = pixelOf({a.x, a.y, room.floor + 0.05}), to = pixelOf({b.x, b.y, room.floor + 0.05});
  return from && to ? std::optional(QLineF(*from, *to)) : std::nullopt;
}

void Stage::paintEnvelopes(QPainter& p) {
  const Project& project = sight_->project();
  const Theme& t = theme();
  const Looking& l = sight_->looking();
  const double storey = storeyNear(project, l.storey);
  for (const RoomEnvelope& e : envelopes()) {
    const Room* room = project.room(e.room);
    if (!room || !onStorey(*room, storey)) continue;
    int drawn = -1;
    for (const EnvelopeSurface& s : e.surfaces) {
      if (s.edge < 0 || s.edge == drawn) continue; // several rooms behind one wall are one line
      drawn = s.edge;
      if (const auto side = sideOnStage(*room, s.edge)) {
        p.setPen(penOf(s.beyond, s.neighbour.has_value(), t));
        p.drawLine(*side);
      }
    }
  }
  if (!l.heatSurface) return;
  const Room* room = project.room(RoomId{l.heatSurface->first});
  if (!room || !onStorey(*room, storey)) return;
  p.setBrush(Qt::NoBrush);
  if (const auto side = sideOnStage(*room, l.heatSurface->second)) {
    p.setPen(QPen(t.noon, 4.5, Qt::SolidLine, Qt::RoundCap));
    p.drawLine(*side);
  } else { // floor or ceiling: its outline
    QPolygonF around;
    const double z = room->floor + (l.heatSurface->second == ceilingEdge ? room->height : 0.05);
    for (Vec2 q : room->outline.outer)
      if (const auto at = pixelOf({q.x, q.y, z})) around << *at;
    p.setPen(QPen(t.noon, 2.4, Qt::DashLine));
    p.drawPolygon(around);
  }
}

/// The styles of the lines, in words.
void Stage::paintEnvelopeKey(QPainter& p, double x, double y) {
  const Theme& t = theme();
  QColor ground = t.raised;
  ground.setAlpha(225);
  p.setPen(Qt::NoPen);
  p.setBrush(ground);
  p.drawRoundedRect(QRectF(x - 8, y - 15, 498, 24), 3, 3);
  p.setFont(textFont(11.5));
  for (const auto& [name, pen, wide] : {std::tuple{"outdoors", penOf(Beyond::Outdoors, false, t), 84},
                                        {"ground", penOf(Beyond::Ground, false, t), 76},
                                        {"unheated", penOf(Beyond::Unheated, false, t), 88},
                                        {"other room", penOf(Beyond::Alike, true, t), 96},
                                        {"as warm", penOf(Beyond::Alike, false, t), 86}}) {
    p.setPen(pen);
    p.drawLine(QPointF(x, y - 4), QPointF(x + 22, y - 4));
    p.setPen(t.muted);
    p.drawText(QPointF(x + 27, y), name);
    x += wide + 10;
  }
}

std::optional<std::pair<std::uint64_t, int>> Stage::surfaceUnder(QPointF at) {
  if (!showsEnvelopes() || sight_->ofOtherOption()) return {};
  const Project& project = sight_->project();
  const double storey = storeyNear(project, sight_->looking().storey);
  std::optional<std::pair<std::uint64_t, int>> best, floor;
  double nearest = reach;
  for (const Room& room : project.rooms) {
    if (!onStorey(room, storey)) continue;
    QPolygonF around;
    for (std::size_t k = 0; k < room.outline.outer.size(); ++k) {
      const auto side = sideOnStage(room, int(k));
      if (!side) continue;
      around << side->p1();
      if (const double d = fromSegment(at, side->p1(), side->p2()); d < nearest) {
        nearest = d;
        best = std::pair{room.id.value, int(k)};
      }
    }
    if (around.containsPoint(at, Qt::OddEvenFill)) {
      floor = std::pair{room.id.value, floorEdge};
      if (best && best->first != room.id.value && nearest > reach / 2) best.reset(); // of the room that is pointed at
    }
  }
  return best ? best : floor;
}

} // namespace noonward
