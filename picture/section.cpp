#include "picture/section.h"
#include "core/model/light_model.h"
#include "core/model/rooms/room_form.h"
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <map>

namespace noonward {

namespace {

/// Where the line runs inside an outline: stretches of u.
std::vector<std::pair<double, double>> inside(const Outline& o, const SectionLine& line) {
  const Vec2 along = line.along(), side = line.towardEye();
  std::vector<double> cuts;
  const auto ring = [&](const Ring& points) {
    for (std::size_t i = 0; i < points.size(); ++i) {
      const Vec2 p = points[i] - line.a, q = points[(i + 1) % points.size()] - line.a;
      const double d = dot(p, side), e = dot(q, side);
      if ((d > 0) == (e > 0)) continue;
      cuts.push_back(dot(p, along) + (dot(q, along) - dot(p, along)) * d / (d - e));
    }
  };
  ring(o.outer);
  for (const Ring& h : o.holes) ring(h);
  std::sort(cuts.begin(), cuts.end());
  std::vector<std::pair<double, double>> out;
  for (std::size_t i = 0; i + 1 < cuts.size(); i += 2)
    if (cuts[i + 1] - cuts[i] > 1e-6) out.emplace_back(cuts[i], cuts[i + 1]);
  return out;
}

Ring box(double u0, double z0, double u1, double z1) {
  return {{u0, z0}, {u1, z0}, {u1, z1}, {u0, z1}};
}

/// What a mass fills over a piece of the line, its roof as it slopes.
Outline under(const Mass& m, const SectionLine& line, double u, double v) {
  if (m.roof.flat()) return {box(u, m.base, v, m.base + m.height), {}};
  Outline out;
  out.outer = {{u, m.base}, {v, m.base}};
  constexpr int n = 96;
  for (int k = n; k >= 0; --k) {
    const double at = u + (v - u) * k / n, in = std::clamp(at, u + 1e-6, v - 1e-6);
    out.outer.push_back({at, m.base + m.height + roofHeight(m.roof, m.outline, line.a + line.along() * in)});
  }
  return out;
}

/// A room over a piece of the line, under its ceiling as it slopes.
Ring within(const RoomForm& form, const SectionLine& line, double u, double v) {
  if (form.level) return box(u, form.floor, v, form.top);
  Ring out{{u, form.floor}, {v, form.floor}};
  constexpr int n = 96;
  for (int k = n; k >= 0; --k) {
    const double at = u + (v - u) * k / n, in = std::clamp(at, u + 1e-6, v - 1e-6);
    out.push_back({at, form.ceilingAt(line.a + line.along() * in)});
  }
  return out;
}

/// Boxes of monitors and sawtooths: the shaft below, lid and glass above the roof.
void lanterns(const OpeningLayout& laid, const SectionLine& line, std::vector<Ring>& hollow, SectionCut& out) {
  for (const Lantern& l : laid.lanterns)
    for (const auto& [u, v] : inside({l.plan, {}}, line)) {
      hollow.push_back(box(u, l.foot - 0.01, v, l.roof + 0.01));
      const double depth = length(l.plan[2] - l.plan[1]);
      const Vec2 back = (l.plan[2] - l.plan[1]) * (1 / std::max(1e-9, depth));
      const auto lid = [&](double at) {
        return l.roof + l.rise * (l.bothSides ? 1 : 1 - dot(line.a + line.along() * at - l.plan[1], back) / depth);
      };
      for (const auto& [a, b] : {std::pair{Vec2{u, l.roof}, Vec2{u, lid(u)}},
                                 {Vec2{u, lid(u)}, Vec2{v, lid(v)}},
                                 {Vec2{v, lid(v)}, Vec2{v, l.roof}}})
        out.lines.emplace_back(a, b);
    }
  for (const PlacedOpening& o : laid.openings) {
    if (!o.raised) continue;
    const Vec2 b = o.a + o.along * o.opening.width;
    const double d = dot(o.a - line.a, line.towardEye()), e = dot(b - line.a, line.towardEye());
    if ((d > 0) == (e > 0)) continue;
    const double u = dot(o.a + (b - o.a) * (d / (d - e)) - line.a, line.along());
    out.panes.emplace_back(Vec2{u, o.level}, Vec2{u, o.level + o.opening.height});
  }
}

void meshLines(const Mesh& m, const SectionLine& line, std::vector<std::pair<Vec2, Vec2>>& out) {
  const Vec2 side = line.towardEye(), along = line.along();
  for (const Triangle& t : m.triangles) {
    std::vector<Vec2> met;
    for (std::size_t k = 0; k < 3; ++k) {
      const Vec3 p = m.points[t[k]], q = m.points[t[(k + 1) % 3]];
      const double d = dot(xy(p) - line.a, side), e = dot(xy(q) - line.a, side);
      if ((d > 0) == (e > 0)) continue;
      const Vec3 x = p + (q - p) * (d / (d - e));
      met.push_back({dot(xy(x) - line.a, along), x.z});
    }
    if (met.size() == 2) out.emplace_back(met[0], met[1]);
  }
}

} // namespace

SectionCut cutAt(const Project& p, const SectionLine& line) {
  SectionCut out;
  const OpeningLayout laid = placedOpenings(p);
  std::vector<Ring> hollow;
  std::vector<bool> hosted(p.rooms.size(), false);
  for (const Room& r : p.rooms)
    if (checkOutline(r.outline).fault == OutlineFault::None)
      for (const auto& [u, v] : inside(r.outline, line)) hollow.push_back(within(roomForm(p, r), line, u, v));
  lanterns(laid, line, hollow, out);
  for (const PlacedOpening& o : laid.openings) {
    const Room& r = p.rooms[o.room];
    const auto in = o.corners(r.floor, r.floor + r.height, -0.01),
               outer = o.corners(r.floor, r.floor + r.height, o.depth + 0.01),
               glass = o.corners(r.floor, r.floor + r.height, o.depth - o.paneDepth());
    if (o.opening.edge < 0) {
      if (o.raised) continue;
      for (const auto& [u, v] : inside({{xy(in[0]), xy(in[1]), xy(in[2]), xy(in[3])}, {}}, line)) {
        const auto rise = [&](double at) { // of the slope it lies in, over its first corner
          return o.slope ? o.slope->at(line.a + line.along() * at) - o.slope->at(xy(in[0])) : 0.0;
        };
        hollow.push_back(
            {{u, in[0].z + rise(u)}, {v, in[0].z + rise(v)}, {v, outer[0].z + rise(v)}, {u, outer[0].z + rise(u)}});
        out.panes.emplace_back(Vec2{u, glass[0].z + rise(u)}, Vec2{v, glass[0].z + rise(v)});
      }
      continue;
    }
    for (const auto& [u, v] : inside({{xy(in[0]), xy(in[1]), xy(outer[1]), xy(outer[0])}, {}}, line))
      hollow.push_back(box(u, in[0].z, v, in[2].z));
    const double d = dot(xy(glass[0]) - line.a, line.towardEye()), e = dot(xy(glass[1]) - line.a, line.towardEye());
    if ((d > 0) == (e > 0)) continue;
    const double u = dot(xy(glass[0] + (glass[1] - glass[0]) * (d / (d - e))) - line.a, line.along());
    out.panes.emplace_back(Vec2{u, glass[0].z}, Vec2{u, glass[2].z});
  }
  for (const ElementPtr& e : p.elements) {
    const Mass* m = e->mass();
    if (!m || !e->counted || e->role == Role::Ignore || checkOutline(m->outline).fault != OutlineFault::None ||
        !(m->height > 0))
      continue;
    for (const auto& [u, v] : inside(tidied(m->outline), line))
      for (Outline& piece : difference(under(*m, line, u, v), hollow)) out.solid.push_back(std::move(piece));
    for (std::size_t r = 0; r < p.rooms.size(); ++r)
      if (contains(m->outline, centroid(p.rooms[r].outline)) && p.rooms[r].floor >= m->base - 0.5 &&
          p.rooms[r].floor < m->top())
        hosted[r] = true;
  }
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    if (hosted[r] || checkOutline(room.outline).fault != OutlineFault::None) continue;
    for (const auto& [u, v] : inside(room.outline, line)) {
      const double low = room.floor, high = room.floor + room.height; // no roof stands over it
      for (const auto& [a, b] : {std::pair{Vec2{u, low}, Vec2{v, low}},
                                 {Vec2{v, low}, Vec2{v, high}},
                                 {Vec2{v, high}, Vec2{u, high}},
                                 {Vec2{u, high}, Vec2{u, low}}})
        out.lines.emplace_back(a, b);
    }
  }
  if (const auto model = lightModel(p))
    for (const LightPart& part : model->parts) {
      if (part.room >= 0) continue;
      const ElementPtr e = p.element({part.element});
      if (e && e->mass()) continue;
      meshLines(*part.mesh, line, part.glazed ? out.panes : out.lines);
    }
  return out;
}

std::vector<SectionRow> rowsAt(const SensorSet& set, const SectionLine& line) {
  std::vector<SectionRow> out;
  for (const SensorGridFacts& g : set.groups) {
    if (g.spacing <= 0 || g.count == 0 || set.sensors[g.first].normal[2] < 0.9f) continue;
    // The nearest sensor in every strip of one spacing along the line; in rooms, of every row or column that it
    // crosses.
    const bool known = g.cells.size() == g.count;
    const Vec2 side = known ? g.cells[0].corners[1] - g.cells[0].corners[0] : Vec2{};
    const bool byColumn = std::abs(dot(side, line.along())) > std::abs(cross(side, line.along()));
    std::map<long, std::pair<double, std::size_t>> nearest;
    for (std::size_t i = g.first; i < g.first + g.count; ++i) {
      const Vec2 d = xy(set.sensors[i].position) - line.a;
      const double off = std::abs(dot(d, line.towardEye())), u = dot(d, line.along());
      if (off > 0.75 * g.spacing) continue;
      const long strip = !known     ? std::lround(u / g.spacing)
                         : byColumn ? g.cells[i - g.first].column
                                    : g.cells[i - g.first].row;
      const auto at = nearest.find(strip);
      if (at == nearest.end() || off < at->second.first) nearest[strip] = {off, i};
    }
    if (nearest.empty()) continue;
    SectionRow row;
    row.level = set.sensors[g.first].position.z;
    for (const auto& [strip, best] : nearest)
      row.sensors.emplace_back(dot(xy(set.sensors[best.second].position) - line.a, line.along()), best.second);
    std::sort(row.sensors.begin(), row.sensors.end());
    out.push_back(std::move(row));
  }
  return out;
}

Camera sectionCamera(const Project& p, const SectionLine& line, double width, double height) {
  Camera c;
  c.kind = ViewKind::Section;
  c.fromTarget = true;
  c.azimuth = wrapTwoPi(std::atan2(line.towardEye().x, line.towardEye().y));
  c.altitude = 0;
  const SectionCut cut = cutAt(p, line);
  Box3 b;
  for (const Outline& o : cut.solid)
    for (Vec2 q : o.outer)
      if (q.x > -20 && q.x < line.length() + 20) b.add(line.at(std::clamp(q.x, -5.0, line.length() + 5.0), q.y));
  for (const auto& [q, r] : cut.lines)
    if (q.x > -5 && q.x < line.length() + 5) b.add(line.at(q.x, q.y)), b.add(line.at(r.x, r.y));
  b.add(line.at(0, p.site.groundLevel));
  b.add(line.at(line.length(), p.site.groundLevel + 3));
  c.fit({b}, width, height, 0.08);
  c.target = line.at(dot(xy(c.target) - line.a, line.along()), c.target.z);
  return c;
}

void paintSection(QPainter& p, QRectF area, const Camera& camera, const Project& project, const SectionLine& line,
                  const SensorField* painted, const FieldScale& scale, const Theme& t, double k) {
  const SectionCut cut = cutAt(project, line);
  const auto px = [&](double u, double z) {
    const auto s = camera.seen(line.at(u, z), area.width(), area.height());
    return area.topLeft() + (s ? QPointF(s->x, s->y) : QPointF());
  };
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setClipRect(area);
  // The earth below, then what is cut.
  const double ground = px(0, project.site.groundLevel).y();
  QColor earth = t.dark ? QColor("#232738") : QColor("#E4DED2");
  if (ground < area.bottom()) p.fillRect(QRectF(area.left(), ground, area.width(), area.bottom() - ground), earth);
  p.setPen(QPen(t.ink, 1.4 * k));
  p.drawLine(QPointF(area.left(), ground), QPointF(area.right(), ground));
  p.setPen(QPen(t.ink, 1.2 * k));
  p.setBrush(t.dark ? QColor("#6B7189") : QColor("#4A4F63"));
  for (const Outline& o : cut.solid) {
    QPainterPath path;
    const auto ring = [&](const Ring& r) {
      QPolygonF poly;
      for (Vec2 q : r) poly << px(q.x, q.y);
      path.addPolygon(poly);
      path.closeSubpath();
    };
    ring(o.outer);
    for (const Ring& h : o.holes) ring(h);
    p.drawPath(path);
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.ink, 2 * k));
  for (const auto& [a, b] : cut.lines) p.drawLine(px(a.x, a.y), px(b.x, b.y));
  p.setPen(QPen(t.meets, 1.6 * k));
  for (const auto& [a, b] : cut.panes) p.drawLine(px(a.x, a.y), px(b.x, b.y));
  if (painted) {
    // A curve over the grid's plane: the top of the scale stands 1.6 m above it.
    const double tall = 1.6 / std::max(1e-9, scale.high - scale.low);
    double taken = -1e9;
    for (const SectionRow& row : rowsAt(painted->sensors, line)) {
      if (row.sensors.empty()) continue;
      const double from = row.sensors.front().first, to = row.sensors.back().first;
      p.setPen(QPen(t.muted, 0.9 * k, Qt::DashLine));
      p.drawLine(px(from, row.level), px(to, row.level));
      if (scale.threshold > scale.low && scale.threshold < scale.high) {
        p.setPen(QPen(t.noon, 0.9 * k, Qt::DotLine));
        p.drawLine(px(from, row.level + (scale.threshold - scale.low) * tall),
                   px(to, row.level + (scale.threshold - scale.low) * tall));
      }
      QPolygonF curve;
      for (const auto& [u, i] : row.sensors) {
        const double v = double(painted->values()[i]);
        if (std::isnan(v)) continue;
        const QPointF q = px(u, row.level + std::clamp(v - scale.low, 0.0, scale.high - scale.low) * tall);
        p.setPen(QPen(colorOf(scale, v), 3 * k));
        p.drawLine(px(u, row.level), q);
        curve << q;
      }
      p.setPen(QPen(t.ink, 1.3 * k));
      p.drawPolyline(curve);
      p.setFont(figureFont(10 * k));
      for (const auto& [u, i] : row.sensors) {
        const double v = double(painted->values()[i]);
        const QPointF q = px(u, row.level + std::clamp(v - scale.low, 0.0, scale.high - scale.low) * tall);
        if (std::isnan(v) || (std::abs(q.x() - taken) < 36 * k)) continue;
        taken = q.x();
        p.drawText(QRectF(q.x() - 24 * k, q.y() - 17 * k, 48 * k, 14 * k), Qt::AlignCenter,
                   QString::number(v, 'f',
                                   v >= 100  ? 0
                                   : v >= 10 ? 1
                                             : 2));
      }
    }
  }
  p.restore();
}

} // namespace noonward
