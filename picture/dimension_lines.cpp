#include "picture/dimension_lines.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace noonward {

namespace {

constexpr std::size_t mostSides = 40; // of an outline; more would be a scribble

void ofMass(const Mass& m, std::vector<DimensionLine>& out) {
  const Ring& r = m.outline.outer;
  for (std::size_t i = 0; i < r.size() && r.size() <= mostSides; ++i) {
    const Vec2 a = r[i], b = r[(i + 1) % r.size()], d = b - a;
    const double l = length(d);
    if (l > 1e-6) out.push_back({"", {a.x, a.y, m.base}, {b.x, b.y, m.base}, Vec3{d.y, -d.x, 0} * (1 / l)});
  }
  if (r.size() < 3) return;
  const Vec2 corner = r.front(), from = corner - centroid(m.outline);
  const Vec3 away = normalized({from.x, from.y, 0});
  out.push_back({"height", {corner.x, corner.y, m.base}, {corner.x, corner.y, m.base + m.height}, away});
  if (!m.roof.flat())
    out.push_back({"rise", {corner.x, corner.y, m.base + m.height}, {corner.x, corner.y, m.top()}, away});
}

void ofBox(const Box3& b, std::vector<DimensionLine>& out) {
  if (b.empty()) return;
  out.push_back({"", {b.low.x, b.low.y, b.low.z}, {b.high.x, b.low.y, b.low.z}, {0, -1, 0}});
  out.push_back({"", {b.high.x, b.low.y, b.low.z}, {b.high.x, b.high.y, b.low.z}, {1, 0, 0}});
  out.push_back({"height", {b.low.x, b.low.y, b.low.z}, {b.low.x, b.low.y, b.high.z}, {-1, -1, 0}});
}

void ofShade(const ShadeRule& s, const OpeningFrame& f, std::vector<DimensionLine>& out) {
  using K = ShadeRule::Kind;
  const double end = f.width + s.beyond;
  const auto line = [&](const char* what, Vec3 a, Vec3 b, Vec3 away) { out.push_back({what, a, b, away}); };
  if (s.kind != K::Screen && s.depth > 0) {
    const bool fin = s.kind == K::Fins;
    const double u = fin ? (s.sides == ShadeRule::Sides::Left ? -s.offset : f.width + s.offset) : end;
    const double v = fin                       ? 0
                     : s.kind == K::Balcony    ? -s.offset
                     : s.kind == K::LightShelf ? f.height - s.offset
                                               : f.height + s.offset;
    line("depth", f.at(u, v, s.standOff), f.at(u, v, s.standOff + s.depth), fin ? f.up * -1 : f.along);
  }
  if (s.kind != K::Fins && s.offset > 0) {
    const double at = s.kind == K::Balcony ? 0 : f.height, to = s.kind == K::Balcony      ? -s.offset
                                                                : s.kind == K::LightShelf ? f.height - s.offset
                                                                                          : f.height + s.offset;
    line("offset", f.at(f.width, at, 0), f.at(f.width, to, 0), f.along);
  }
  if (s.isBladed() && s.spacing > 0) {
    const double top = f.height + s.offset, out1 = s.standOff + s.depth;
    if (s.kind == K::UprightLouvres)
      line("spacing", f.at(f.width / 2, top, out1), f.at(f.width / 2 + s.spacing, top, out1), f.up);
    else
      line("spacing", f.at(end, top, out1), f.at(end, top - s.spacing, out1), f.along);
  }
  if (s.kind == K::Awning && s.drop > 0)
    line("drop", f.at(end, f.height + s.offset, s.depth), f.at(end, f.height + s.offset - s.drop, s.depth), f.along);
  if (s.kind == K::Balcony && s.parapet > 0)
    line("parapet", f.at(end, -s.offset, s.depth), f.at(end, -s.offset + s.parapet, s.depth), f.along);
}

void ofWindow(const PlacedOpening& o, const Room& room, std::vector<DimensionLine>& out) {
  const OpeningFrame f = frameOf(o, room);
  out.push_back({"width", f.at(0, 0, 0), f.at(f.width, 0, 0), f.up * -1});
  out.push_back({"height", f.at(0, 0, 0), f.at(0, f.height, 0), f.along * -1});
  if (o.opening.edge >= 0 && o.opening.sill > 0)
    out.push_back({"sill", f.at(f.width, -o.opening.sill, 0), f.at(f.width, 0, 0), f.along});
}

} // namespace

std::vector<DimensionLine> dimensionsOf(const Project& p, const std::vector<ElementId>& selected, OpeningId window) {
  std::vector<DimensionLine> out;
  for (ElementId id : selected)
    if (const ElementPtr e = p.element(id)) {
      if (const Mass* m = e->mass())
        ofMass(*m, out);
      else
        ofBox(boxOf(*e), out);
    }
  std::set<RuleId> told;
  for (const PlacedOpening& o : placedOpenings(p).openings) {
    const Room& room = p.rooms[o.room];
    const bool own = o.opening.id == window,
               of = std::find(selected.begin(), selected.end(), ElementId{o.mass}) != selected.end() && o.mass != 0;
    if (own) ofWindow(o, room, out);
    if (!own && (window.value != 0 || !of)) continue;
    for (const ShadeRule& s : p.shadeRules)
      if (standsAt(s, o, room.id) && told.insert(s.id).second) ofShade(s, frameOf(o, room), out);
  }
  return out;
}

void paintDimensions(QPainter& p, const std::vector<DimensionLine>& lines,
                     const std::function<std::optional<QPointF>(Vec3)>& pixelOf, Vec3 looking, LengthUnit unit,
                     const Theme& t) {
  constexpr double off = 13, tick = 4, least = 16; // px
  p.setFont(figureFont(10.5));
  const QFontMetricsF letters(p.font());
  std::vector<QRectF> taken;
  for (const DimensionLine& d : lines) {
    if (d.what.empty() && dot(d.away, looking) > 0.1) continue;
    const auto a = pixelOf(d.a), b = pixelOf(d.b), c = pixelOf((d.a + d.b) * 0.5),
               e = pixelOf((d.a + d.b) * 0.5 + d.away * std::max(0.1, 0.1 * d.metres()));
    if (!a || !b || !c || !e) continue;
    const QPointF along = *b - *a, out = *e - *c;
    const double l = std::hypot(along.x(), along.y()), away = std::hypot(out.x(), out.y());
    if (l < least) continue;
    QPointF across(-along.y() / l, along.x() / l); // square to it, on the side that `away` points to
    if (away > 1e-6 && QPointF::dotProduct(across, out) < 0) across = -across;
    const QPointF from = *a + across * off, to = *b + across * off, u = along / l;
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ink, 1));
    p.drawLine(from, to);
    for (const QPointF& q : {from, to}) {
      p.drawLine(q - across * tick, q + across * tick);
      p.drawLine(q - (u + across) * (tick * 0.7), q + (u + across) * (tick * 0.7));
    }
    const QString text = QString::fromStdString((d.what.empty() ? "" : d.what + " ") + lengthText(d.metres(), unit));
    QRectF r = letters.boundingRect(text).adjusted(-3, -1, 3, 1);
    const QPointF beside = across * (5 + std::abs(across.x()) * r.width() / 2 + std::abs(across.y()) * 7);
    for (const double t : {0.5, 0.3, 0.7, 0.12, 0.88}) { // where no other figure stands
      r.moveCenter(from + (to - from) * t + beside);
      if (std::none_of(taken.begin(), taken.end(), [&](const QRectF& o) { return o.intersects(r); })) break;
    }
    taken.push_back(r);
    QColor ground = t.stage;
    ground.setAlpha(215);
    p.fillRect(r, ground);
    p.setPen(t.ink);
    p.drawText(r, Qt::AlignCenter, text);
  }
}

} // namespace noonward
