#include "picture/room_labels.h"
#include "core/model/rooms/placing.h"
#include "core/studies/energy/energy_year.h"
#include "picture/contours.h"
#include "picture/opened_rooms.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace noonward {

SensorField ofStorey(const SensorField& painted, const Project& p, std::optional<double> storey) {
  SensorField out = painted;
  const double floor = storeyNear(p, storey);
  for (SensorGridFacts& g : out.sensors.groups)
    if (g.room >= 0 && g.room < int(p.rooms.size()) && !onStorey(p.rooms[std::size_t(g.room)], floor)) g.count = 0;
  return out;
}

std::vector<Box3> roomBoxes(const Project& p, std::optional<double> storey) {
  std::vector<Box3> out;
  const double floor = storeyNear(p, storey);
  for (const Room& r : p.rooms) {
    if (std::abs(r.floor - floor) > 0.5) continue;
    Box3 b;
    for (Vec2 q : r.outline.outer) {
      b.add({q.x, q.y, r.floor});
      b.add({q.x, q.y, r.floor + 1.3});
    }
    out.push_back(b);
  }
  return out;
}

void paintRoomLabels(QPainter& p, QRectF area, const Camera& camera, const Project& project, const SensorField* painted,
                     const FieldScale& scale, const Theme& t, double k, std::vector<QRectF>* keep,
                     std::optional<double> storey, const std::vector<std::string>* figures) {
  std::vector<QRectF> own;
  std::vector<QRectF>& taken = keep ? *keep : own;
  const double threshold = scale.threshold;
  const bool asked = threshold < 1e8;     // of a difference nothing is
  const bool levels = scale.unit.empty(); // whole steps: nothing lies between them
  const double floor = storeyNear(project, storey);
  // Panes as two thin lines, where they stand in the wall.
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  for (const PlacedOpening& o : placedOpenings(project).openings) {
    if (o.opening.edge < 0 || std::abs(project.rooms[o.room].floor - floor) > 0.5) continue;
    for (const double off : {-0.1, 0.1}) {
      const double into = std::clamp(o.depth - o.paneDepth() + off * o.depth, 0.0, o.depth);
      const auto c = o.corners(floor, floor + 3, into);
      const Vec2 a = xy(c[0]), b = xy(c[1]);
      const auto q = camera.seen({a.x, a.y, floor + 1.3}, area.width(), area.height()),
                 r = camera.seen({b.x, b.y, floor + 1.3}, area.width(), area.height());
      if (!q || !r) continue;
      p.setPen(QPen(t.ink, 1.3 * k));
      p.drawLine(area.topLeft() + QPointF(q->x, q->y), area.topLeft() + QPointF(r->x, r->y));
    }
  }
  // Lines of equal value; that of the threshold is strong.
  if (painted && !levels) {
    std::vector<double> lines = ticks(scale.low, scale.high);
    std::erase_if(lines, [&](double l) { return l <= scale.low || std::abs(l - threshold) < 1e-9; });
    if (asked) lines.push_back(threshold);
    for (const ContourPiece& c : contours(painted->sensors, painted->values(), lines)) {
      const auto q = camera.seen(c.a, area.width(), area.height()), r = camera.seen(c.b, area.width(), area.height());
      if (!q || !r) continue;
      const bool strong = c.level == threshold;
      p.setPen(QPen(strong ? t.noon : QColor(255, 255, 255, 120), (strong ? 1.8 : 1.0) * k));
      p.drawLine(area.topLeft() + QPointF(q->x, q->y), area.topLeft() + QPointF(r->x, r->y));
    }
  }
  p.restore();
  for (std::size_t r = 0; r < project.rooms.size(); ++r) {
    const Room& room = project.rooms[r];
    if (std::abs(room.floor - floor) > 0.5) continue; // another storey
    const Vec2 m = centroid(room.outline);
    const auto q = camera.seen({m.x, m.y, room.floor + 0.9}, area.width(), area.height());
    if (!q) continue;
    QString value = room.counted ? QString() : "not occupied", brief;
    if (figures && r < figures->size()) value = QString::fromStdString((*figures)[r]);
    for (std::size_t g = 0; painted && g < painted->sensors.groups.size(); ++g) {
      const SensorGridFacts& f = painted->sensors.groups[g];
      if (f.room != int(r)) continue;
      const LightStatistics s = lightStatistics(*painted->light, f.first, f.count, threshold, 1e30,
                                                painted->sensors.areasOf(f.first, f.count));
      if (painted->year && g < painted->year->spaces.size()) { // the year's figures, in its own words
        const SpaceYear& y = painted->year->spaces[g];
        if (f.count == 0 || std::isnan(painted->year->relativeError[f.first])) {
          value = "not done";
          break;
        }
        value = QString("sDA %1 % · ASE %2 %").arg(100 * y.sda, 0, 'f', 0).arg(100 * y.ase, 0, 'f', 0);
        brief = QString("sDA %1 %").arg(100 * y.sda, 0, 'f', 0);
        break;
      }
      if (const EnergyRoom* e =
              painted->light->energy && !painted->isChange ? painted->light->energy->room(g) : nullptr) {
        const EnergyParts y = e->year();
        const ShownUnit unit = shownUnit("kWh/m²", project.units);
        const auto each = [&](double kwh) { return unit.shown(std::abs(kwh) / std::max(1e-9, e->floorArea)); };
        value = QString("heating %1 · cooling %2 · lighting %3")
                    .arg(each(y.heating), 0, 'f', 0)
                    .arg(each(y.cooling), 0, 'f', 0)
                    .arg(each(y.lighting), 0, 'f', 0);
        brief = QString("%1 %2")
                    .arg(each(y.heating - y.cooling + y.lighting), 0, 'f', 0)
                    .arg(QString::fromStdString(unit.symbol));
        break;
      }
      const QString share = QString("%1 % ≥ %2").arg(100 * s.shareAtLeast, 0, 'f', 0).arg(threshold, 0, 'g', 4);
      brief = QString("%1 %2")
                  .arg(s.mean, 0, 'f',
                       std::abs(s.mean) >= 100  ? 0
                       : std::abs(s.mean) >= 10 ? 1
                                                : 2)
                  .arg(QString::fromStdString(scale.unit))
                  .trimmed();
      if (levels && asked) brief = share;
      value = levels && asked ? "level: " + share : "mean " + brief + (asked ? " · " + share : QString());
    }
    // As much as the room is wide.
    double least = 1e9, most = -1e9;
    for (Vec2 c : room.outline.outer)
      if (const auto s = camera.seen({c.x, c.y, room.floor + 0.9}, area.width(), area.height())) {
        least = std::min(least, s->x);
        most = std::max(most, s->x);
      }
    const QFont strong = textFont(11 * k, true), small = figureFont(10 * k);
    const QString name = QString::fromStdString(room.name);
    if (!brief.isEmpty() && QFontMetricsF(small).horizontalAdvance(value) + 14 * k > most - least) value = brief;
    const double w = std::max(QFontMetricsF(strong).horizontalAdvance(name),
                              QFontMetricsF(small).horizontalAdvance(value)) +
                     14 * k,
                 h = (value.isEmpty() ? 18 : 31) * k;
    const QRectF box(area.left() + q->x - w / 2, area.top() + q->y - h / 2, w, h);
    if (!area.contains(box) || std::any_of(taken.begin(), taken.end(),
                                           [&](const QRectF& o) { return o.adjusted(-2, -2, 2, 2).intersects(box); }))
      continue;
    taken.push_back(box);
    QColor back = t.paper;
    back.setAlpha(225);
    p.setPen(Qt::NoPen);
    p.setBrush(back);
    p.drawRoundedRect(box, 2, 2);
    p.setPen(t.ink);
    p.setFont(strong);
    p.drawText(QRectF(box.left(), box.top() + 2 * k, w, 15 * k), Qt::AlignCenter, name);
    p.setPen(t.muted);
    p.setFont(small);
    if (!value.isEmpty()) p.drawText(QRectF(box.left(), box.top() + 16 * k, w, 13 * k), Qt::AlignCenter, value);
  }
}

void paintSensorValues(QPainter& p, QRectF area, const Camera& camera, const SensorField& painted,
                       const FieldScale& scale, const Theme& t, double k, std::vector<QRectF>& taken) {
  const QFont font = figureFont(9.5 * k);
  const QFontMetricsF metrics(font);
  p.setFont(font);
  // Buckets over the picture, so that many sensors cost no more than their number.
  const double bucket = 48 * k;
  std::map<std::pair<int, int>, std::vector<QRectF>> near;
  const auto touches = [&](const QRectF& box, bool add) {
    bool hit = false;
    for (int x = int(box.left() / bucket); x <= int(box.right() / bucket); ++x)
      for (int y = int(box.top() / bucket); y <= int(box.bottom() / bucket); ++y) {
        auto& list = near[{x, y}];
        if (add)
          list.push_back(box);
        else
          hit = hit || std::any_of(list.begin(), list.end(), [&](const QRectF& o) { return o.intersects(box); });
      }
    return hit;
  };
  for (const QRectF& box : taken) touches(box, true);
  // Every 8th, then every 4th, 2nd and all: what stays is spread evenly.
  for (const std::size_t step : {std::size_t{8}, std::size_t{4}, std::size_t{2}, std::size_t{1}})
    for (std::size_t i = 0; i < painted.sensors.sensors.size(); i += step) {
      if (step < 8 && i % (2 * step) == 0) continue;
      const double v = double(painted.values()[i]);
      const Sensor& s = painted.sensors.sensors[i];
      if (std::isnan(v) || painted.sensors.groups[s.group].count == 0 || dot(s.normalVector(), camera.toEye()) < 0.2)
        continue;
      const auto q = camera.seen(s.position, area.width(), area.height());
      if (!q) continue;
      const QString text = QString::number(v, 'f', v >= 100 ? 0 : v >= 10 ? 1 : 2);
      const double w = metrics.horizontalAdvance(text) + 5 * k, h = 13 * k;
      const QRectF box(area.left() + q->x - w / 2, area.top() + q->y - h / 2, w, h);
      if (!area.contains(box) || touches(box, false)) continue;
      touches(box, true);
      taken.push_back(box);
      const QColor under = colorOf(scale, v);
      p.setPen(under.lightnessF() > 0.55 ? QColor("#1E2438") : QColor("#FFFFFF"));
      p.drawText(box, Qt::AlignCenter, text);
    }
  Q_UNUSED(t);
}

} // namespace noonward
