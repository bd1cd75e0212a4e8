#include "app/stage/snapping.h"

namespace noonward {

const char* snapText(SnapKind kind) {
  switch (kind) {
  case SnapKind::Grid: return "";
  case SnapKind::Corner: return "corner";
  case SnapKind::Start: return "close the outline";
  case SnapKind::Axis: return "along the axis";
  case SnapKind::Square: return "square";
  }
  return "";
}

Snap snapPoint(const Project& project, const Ring& draft, Vec2 p, double reach) {
  if (draft.size() > 2 && length(p - draft.front()) < reach) return {draft.front(), SnapKind::Start};
  Snap best{{}, SnapKind::Grid};
  double nearest = reach;
  for (const ElementPtr& e : project.elements)
    if (const Mass* m = e->mass(); m && !e->hidden)
      for (Vec2 q : points(m->outline))
        if (length(q - p) < nearest) {
          nearest = length(q - p);
          best = {q, SnapKind::Corner};
        }
  if (best.kind == SnapKind::Corner) return best;
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
  return {{round(p.x), round(p.y)}, SnapKind::Grid};
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
    if (o.room == wall.room && o.opening.edge >= 0) heights.insert(heights.end(), {o.opening.sill, o.opening.sill + o.opening.height});
  const auto level = [&](double z) {
    double best = tidy(z), nearest = reach;
    for (double h : heights)
      if (std::abs(h - z) < nearest) nearest = std::abs(h - z), best = h;
    return std::clamp(best, 0.0, wall.roomHeight);
  };
  const auto place = [&](double u) { return std::clamp(tidy(u), rim, std::max(rim, wall.length - rim)); };
  const double u0 = place(std::min(from.x, to.x)), u1 = place(std::max(from.x, to.x)), z0 = level(std::min(from.y, to.y)), z1 = level(std::max(from.y, to.y));
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
  if (cross == std::string::npos) cross = text.find("×"), wide = 2;
  if (cross == std::string::npos) return {};
  const auto w = lengthFromText(text.substr(0, cross), unit), h = lengthFromText(text.substr(cross + wide), unit);
  if (!w || !h || *w <= 0 || *h <= 0) return {};
  return Vec2{*w, *h};
}

} // namespace noonward
