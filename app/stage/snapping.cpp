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

} // namespace noonward
