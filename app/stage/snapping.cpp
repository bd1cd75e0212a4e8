#include "app/stage/snapping.h"
#include <algorithm>
#include <cmath>

namespace noonward {

const char* snapText(SnapKind kind) {
  switch (kind) {
  case SnapKind::Grid:
    return "";
  case SnapKind::Corner:
    return "corner";
  case SnapKind::Middle:
    return "middle";
  case SnapKind::Edge:
    return "edge";
  case SnapKind::Start:
    return "close the outline";
  case SnapKind::Axis:
    return "along the axis";
  case SnapKind::Square:
    return "square";
  case SnapKind::Source:
    return "source edge";
  case SnapKind::Guide:
    return "guide";
  }
  return "";
}

namespace {
std::optional<Vec2> crossing(const Guide& one, const Guide& other) {
  const Vec2 d = one.b - one.a, e = other.b - other.a;
  const double c = cross(d, e);
  if (std::abs(c) < 0.02 * length(d) * length(e)) return {};
  return one.a + d * (cross(other.a - one.a, e) / c);
}
} // namespace

std::optional<LineNear> lineNear(const Project& project, Vec2 at, double reach) {
  std::optional<LineNear> best;
  double nearest = reach;
  const auto take = [&](Vec2 a, Vec2 b, Vec2 on) {
    const double d = length(at - on), l = length(b - a);
    if (d >= nearest || !(l > 0)) return;
    nearest = d;
    const Vec2 left{-(b.y - a.y) / l, (b.x - a.x) / l};
    best = LineNear{{a, b}, dot(at - on, left) < 0 ? left * -1 : left};
  };
  for (const Guide& g : project.guides) take(g.a, g.b, onGuide(g, at));
  for (const ElementPtr& e : project.elements) {
    const Mass* m = e->mass();
    if (!m || e->hidden) continue;
    const Ring& r = m->outline.outer;
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 a = r[i], d = r[(i + 1) % r.size()] - a;
      const double l2 = dot(d, d);
      if (l2 > 0) take(a, a + d, a + d * std::clamp(dot(at - a, d) / l2, 0.0, 1.0));
    }
  }
  return best;
}

Snap snapPoint(const Project& project, const Ring& draft, Vec2 p, double reach) {
  if (draft.size() > 2 && length(p - draft.front()) < reach) return {draft.front(), SnapKind::Start};
  Snap best{{}, SnapKind::Grid}, edge = best;
  double nearest = reach, beside = reach / 2;
  const auto ring = [&](const Ring& r) {
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 a = r[i], d = r[(i + 1) % r.size()] - a, middle = a + d * 0.5;
      if (length(a - p) < nearest) {
        nearest = length(a - p);
        best = {a, SnapKind::Corner};
      }
      if (length(d) > 4 * reach && best.kind != SnapKind::Corner && length(middle - p) < nearest) {
        nearest = length(middle - p);
        best = {middle, SnapKind::Middle};
      }
      const double l2 = dot(d, d), t = l2 > 0 ? dot(p - a, d) / l2 : -1;
      if (t > 0 && t < 1 && length(a + d * t - p) < beside) {
        beside = length(a + d * t - p);
        edge = {a + d * t, SnapKind::Edge};
      }
    }
  };
  for (const ElementPtr& e : project.elements)
    if (const Mass* m = e->mass(); m && !e->hidden) {
      ring(m->outline.outer);
      for (const Ring& h : m->outline.holes) ring(h);
    }
  for (std::size_t i = 0; i < project.guides.size(); ++i) {
    const Guide& g = project.guides[i];
    if (const Vec2 on = onGuide(g, p); length(on - p) < beside) {
      beside = length(on - p);
      edge = {on, SnapKind::Guide};
    }
    for (std::size_t j = 0; j < i && best.kind != SnapKind::Corner; ++j)
      if (const auto cross = crossing(g, project.guides[j]); cross && length(*cross - p) < nearest) {
        nearest = length(*cross - p);
        best = {*cross, SnapKind::Guide};
      }
  }
  if (best.kind != SnapKind::Grid) return best;
  if (edge.kind == SnapKind::Guide) return edge;
  const auto round = [](double v) { return std::round(v * 2) / 2; };
  if (!draft.empty()) {
    const Vec2 from = draft.back();
    std::vector<std::pair<Vec2, SnapKind>> directions{{{1, 0}, SnapKind::Axis}, {{0, 1}, SnapKind::Axis}};
    if (draft.size() > 1) {
      const Vec2 d = from - draft[draft.size() - 2];
      const Vec2 u = d * (1 / length(d));
      directions.push_back({u, SnapKind::Square});
      directions.push_back({{-u.y, u.x}, SnapKind::Square});
    }
    for (const auto& [u, kind] : directions) {
      const double along = dot(p - from, u), off = std::abs(cross(u, p - from));
      if (off < reach && std::abs(along) > reach) return {from + u * round(along), kind};
    }
  }
  if (edge.kind == SnapKind::Edge) return edge;
  return {{round(p.x), round(p.y)}, SnapKind::Grid};
}

MoveSnap snapMove(const Project& project, const std::vector<ElementId>& moving, Vec2 by, double reach, bool alongX,
                  bool alongY) {
  if (alongX) by.y = 0;
  if (alongY) by.x = 0;
  std::vector<Vec2> own, others;
  Box3 around;
  for (ElementId id : moving)
    if (const ElementPtr e = project.element(id); e && e->mass())
      for (Vec2 q : points(e->mass()->outline)) {
        own.push_back(q + by);
        around.add({q.x + by.x, q.y + by.y, 0});
      }
  constexpr double near = 60;         // m, of what is looked at for lines
  constexpr std::size_t most = 2'000; // corners on either side
  for (const ElementPtr& e : project.elements) {
    if (!e->mass() || e->hidden || own.empty() || others.size() > most ||
        std::find(moving.begin(), moving.end(), e->id) != moving.end())
      continue;
    for (Vec2 q : points(e->mass()->outline))
      if (q.x > around.low.x - near && q.x < around.high.x + near && q.y > around.low.y - near &&
          q.y < around.high.y + near)
        others.push_back(q);
  }
  if (own.size() > most) own.resize(most);
  MoveSnap out{{std::round(by.x * 10) / 10, std::round(by.y * 10) / 10}, SnapKind::Grid};
  double nearest = reach, offX = reach, offY = reach;
  Vec2 line = out.by;
  for (Vec2 a : own)
    for (Vec2 b : others) {
      const Vec2 d = b - a;
      if (!alongX && !alongY && length(d) < nearest) {
        nearest = length(d);
        out = {by + d, SnapKind::Corner};
      }
      if (!alongY && std::abs(d.x) < offX) {
        offX = std::abs(d.x);
        line.x = by.x + d.x;
      }
      if (!alongX && std::abs(d.y) < offY) {
        offY = std::abs(d.y);
        line.y = by.y + d.y;
      }
    }
  if (out.kind == SnapKind::Corner) return out;
  for (Vec2 a : own)
    for (const Guide& g : project.guides) {
      const Vec2 d = onGuide(g, a) - a;
      if (length(d) >= nearest || (alongX && std::abs(d.y) > 1e-9) || (alongY && std::abs(d.x) > 1e-9)) continue;
      nearest = length(d);
      out = {by + d, SnapKind::Guide};
    }
  if (out.kind == SnapKind::Guide || (offX >= reach && offY >= reach)) return out;
  return {line, SnapKind::Axis};
}

Snap snapCorner(const std::vector<CutLine>& guides, const std::vector<Vec2>& corners, const Ring& ring,
                std::size_t corner, Vec2 p, double reach) {
  Snap best{{}, SnapKind::Grid};
  double nearest = reach;
  const auto take = [&](Vec2 q, SnapKind kind) {
    if (length(q - p) < nearest) {
      nearest = length(q - p);
      best = {q, kind};
    }
  };
  std::vector<const CutLine*> near;
  for (const CutLine& g : guides) {
    take(g.a, SnapKind::Source), take(g.b, SnapKind::Source);
    const Vec2 d = g.b - g.a;
    const double l = length(d), along = std::clamp(dot(p - g.a, d) / l, 0.0, l);
    if (length(p - g.a - d * (along / l)) < reach) near.push_back(&g);
  }
  for (Vec2 q : corners) take(q, SnapKind::Corner);
  for (std::size_t i = 0; i < near.size() && i < 12; ++i)
    for (std::size_t j = i + 1; j < near.size() && j < 12; ++j) {
      const Vec2 d = near[i]->b - near[i]->a, e = near[j]->b - near[j]->a;
      const double c = cross(d, e);
      if (std::abs(c) < 0.1 * length(d) * length(e)) continue;
      take(near[i]->a + d * (cross(near[j]->a - near[i]->a, e) / c), SnapKind::Source);
    }
  if (best.kind != SnapKind::Grid) return best;
  for (const CutLine* g : near) {
    const Vec2 d = g->b - g->a;
    take(g->a + d * (dot(p - g->a, d) / dot(d, d)), SnapKind::Source);
  }
  if (best.kind != SnapKind::Grid) return best;
  // In line with the edges that end in the neighbours, and square to them.
  const std::size_t n = ring.size();
  for (const auto& [from, other] : {std::pair{ring[(corner + n - 1) % n], ring[(corner + n - 2) % n]},
                                    {ring[(corner + 1) % n], ring[(corner + 2) % n]}}) {
    const Vec2 d = from - other;
    const double l = length(d);
    if (!(l > 0)) continue;
    for (const Vec2 u : {d * (1 / l), Vec2{-d.y, d.x} * (1 / l)}) take(from + u * dot(p - from, u), SnapKind::Square);
  }
  if (best.kind != SnapKind::Grid) return best;
  return {{std::round(p.x * 20) / 20, std::round(p.y * 20) / 20}, SnapKind::Grid};
}

Vec2 atLength(const Ring& draft, Vec2 towards, double l) {
  if (draft.empty()) return towards;
  const Vec2 d = towards - draft.back();
  const double n = length(d);
  return n > 0 ? draft.back() + d * (l / n) : draft.back() + Vec2{l, 0};
}

std::optional<Opening> windowBetween(const Project& p, const WallSpot& wall, Vec2 from, Vec2 to, double reach) {
  const auto tidy = [](double v) { return std::round(v * 20) / 20; };
  const double rim = 0.05;
  std::vector<double> heights;
  for (const PlacedOpening& o : placedOpenings(p).openings)
    if (o.room == wall.room && o.opening.edge >= 0)
      heights.insert(heights.end(), {o.opening.sill, o.opening.sill + o.opening.height});
  const auto level = [&](double z) {
    double best = tidy(z), nearest = reach;
    for (double h : heights)
      if (std::abs(h - z) < nearest) {
        nearest = std::abs(h - z);
        best = h;
      }
    return std::clamp(best, 0.0, wall.roomHeight);
  };
  const auto place = [&](double u) { return std::clamp(tidy(u), rim, std::max(rim, wall.length - rim)); };
  const double u0 = place(std::min(from.x, to.x)), u1 = place(std::max(from.x, to.x)),
               z0 = level(std::min(from.y, to.y)), z1 = level(std::max(from.y, to.y));
  if (u1 - u0 < 0.1 || z1 - z0 < 0.1) return {};
  Opening o;
  o.room = p.rooms[wall.room].id;
  o.edge = wall.edge;
  o.along = u0;
  o.sill = z0;
  o.width = u1 - u0;
  o.height = z1 - z0;
  return o;
}

std::optional<Vec2> sizeFromText(const std::string& text, LengthUnit unit) {
  auto cross = text.find('x');
  std::size_t wide = 1;
  if (cross == std::string::npos) {
    cross = text.find("×");
    wide = 2;
  }
  if (cross == std::string::npos) return {};
  const auto w = lengthFromText(text.substr(0, cross), unit), h = lengthFromText(text.substr(cross + wide), unit);
  if (!w || !h || *w <= 0 || *h <= 0) return {};
  return Vec2{*w, *h};
}

} // namespace noonward
