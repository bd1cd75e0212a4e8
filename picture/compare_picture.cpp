#include "picture/compare_picture.h"
#include "picture/opened_rooms.h"
#include "picture/picture_export.h"
#include "picture/room_labels.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {

void paintCells(QPainter& p, QRectF area, const Camera& camera, const SensorField& painted, const FieldScale& scale) {
  p.save();
  p.setPen(Qt::NoPen);
  p.setRenderHint(QPainter::Antialiasing, false);
  for (const SensorGridFacts& g : painted.sensors.groups)
    for (std::size_t i = g.first; i < g.first + g.count; ++i) {
      const double v = double(painted.values()[i]);
      QPolygonF shape;
      for (Vec3 c : painted.sensors.cell(i))
        if (const auto q = camera.seen(c, area.width(), area.height())) shape << area.topLeft() + QPointF(q->x, q->y);
      if (shape.size() < 3 || std::isnan(v)) continue;
      p.setBrush(colorOf(scale, v));
      p.drawPolygon(shape);
      if (v > scale.high) p.setBrush(abovePattern(QColor(255, 255, 255, 120))), p.drawPolygon(shape);
      if (v < scale.low) p.setBrush(belowPattern(QColor(255, 255, 255, 120))), p.drawPolygon(shape);
    }
  p.restore();
}

void paintRooms(QPainter& p, QRectF area, const Camera& camera, const Project& project, double floor, const Theme& t) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setBrush(Qt::NoBrush);
  for (const Room& r : project.rooms) {
    if (!onStorey(r, floor)) continue;
    QPolygonF shape;
    for (Vec2 c : r.outline.outer)
      if (const auto q = camera.seen({c.x, c.y, floor + 1.3}, area.width(), area.height()))
        shape << area.topLeft() + QPointF(q->x, q->y);
    p.setPen(QPen(t.ink, 1.2));
    p.drawPolygon(shape);
  }
  p.restore();
}

} // namespace

void paintComparison(QPainter& p, QRectF area, const ComparedPlans& c, const Theme& t) {
  const double gap = 14, head = 20, foot = 50, w = (area.width() - 2 * gap) / 3, h = area.height() - head - foot;
  if (w < 60 || h < 60) return;
  SensorField shown[2];
  for (int k = 0; k < 2; ++k) shown[k] = yearField(c.years[k]->facts, c.years[k]->result, c.metric, c.to.units);
  // One scale for both.
  FieldScale scale = shown[0].scale;
  scale.low = std::min(scale.low, shown[1].scale.low);
  scale.high = std::max(scale.high, shown[1].scale.high);
  std::vector<float> moves = differenceMap(shown[0].sensors, shown[0].values(), shown[1].sensors, shown[1].values());
  const std::vector<float> unknown(moves.size(), 0);
  const SensorField moved = asChange(shown[1], std::move(moves), unknown);
  const Project* projects[3] = {&c.from, &c.to, &c.to};
  const SensorField* results[3] = {&shown[0], &shown[1], &moved};
  const QString names[3] = {QString::fromStdString(c.fromName), QString::fromStdString(c.toName), "Difference"};
  std::vector<Box3> boxes = roomBoxes(c.from, c.storey);
  for (const Box3& b : roomBoxes(c.to, c.storey)) boxes.push_back(b);
  Camera camera = fittedCamera(c.from, ViewKind::Plan, w, h);
  camera.fit(boxes, w, h, 0.04);
  for (int k = 0; k < 3; ++k) {
    const QRectF box(area.left() + k * (w + gap), area.top() + head, w, h);
    p.setFont(textFont(12, true));
    p.setPen(t.ink);
    p.drawText(QRectF(box.left(), area.top(), w, head), Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(names[k], Qt::ElideRight, w));
    p.save();
    p.setClipRect(box);
    const FieldScale& s = k < 2 ? scale : moved.scale;
    const double floor = storeyNear(*projects[k], c.storey);
    const SensorField one = ofStorey(*results[k], *projects[k], c.storey);
    paintCells(p, box, camera, one, s);
    paintRooms(p, box, camera, *projects[k], floor, t);
    p.restore();
    if (k != 1) paintLegend(p, QRectF(box.left() + 10, box.bottom() + 6, std::min(w - 34, 240.0), 42), s, t, 0.9);
  }
  paintScaleBar(p, QPointF(area.left() + w + gap + 10, area.bottom() - 26), camera, h, unitSymbol(c.from.units.length),
                metresPer(c.from.units.length), t, 0.9);
  paintNorth(p, QPointF(area.left() + 2 * w + gap - 70, area.bottom() - 28), camera, c.from.site.northAngle, t, 0.9);
}

} // namespace noonward
