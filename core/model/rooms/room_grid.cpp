#include "core/model/rooms/room_grid.h"
#include "core/base/tolerances.h"
#include "core/base/units.h"
#include <algorithm>
#include <cmath>
#include <limits>

namespace noonward {

namespace {

/// The direction along which most of the walls' length runs, within a quarter turn; exactly the drawing's where it is
/// that.
Vec2 directionOf(const Outline& o) {
  struct Bundle {
    double angle, length;
  };
  std::vector<Bundle> bundles;
  const auto ring = [&](const Ring& r) {
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 d = r[(i + 1) % r.size()] - r[i];
      const double l = length(d);
      if (l < tolerance::weld) continue;
      double angle = std::fmod(std::atan2(d.y, d.x) + 2 * pi, pi / 2);
      if (angle > pi / 2 - 1e-6) angle = 0;
      const auto near = std::find_if(bundles.begin(), bundles.end(), [&](const Bundle& b) {
        const double apart = std::abs(b.angle - angle);
        return std::min(apart, pi / 2 - apart) < radians(0.5);
      });
      if (near == bundles.end())
        bundles.push_back({angle, l});
      else
        near->length += l;
    }
  };
  ring(o.outer);
  for (const Ring& h : o.holes) ring(h);
  const auto best = std::max_element(bundles.begin(), bundles.end(),
                                     [](const Bundle& a, const Bundle& b) { return a.length < b.length - 1e-9; });
  if (best == bundles.end() || best->angle < 1e-6) return {1, 0};
  return {std::cos(best->angle), std::sin(best->angle)};
}

/// Area of a ring within a rectangle, signed as the ring runs. Clipping by a convex window leaves doubled edges, which
/// enclose nothing.
double clippedArea(const Ring& ring, const Box3& window) {
  Ring in = ring, out;
  const auto by = [&](auto inside, auto crossing) {
    out.clear();
    for (std::size_t i = 0; i < in.size(); ++i) {
      const Vec2 a = in[i], b = in[(i + 1) % in.size()];
      if (inside(a)) out.push_back(a);
      if (inside(a) != inside(b)) out.push_back(crossing(a, b));
    }
    in.swap(out);
  };
  const auto atX = [](double x) {
    return [x](Vec2 a, Vec2 b) { return Vec2{x, a.y + (b.y - a.y) * (x - a.x) / (b.x - a.x)}; };
  };
  const auto atY = [](double y) {
    return [y](Vec2 a, Vec2 b) { return Vec2{a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y), y}; };
  };
  by([&](Vec2 p) { return p.x >= window.low.x; }, atX(window.low.x));
  by([&](Vec2 p) { return p.x <= window.high.x; }, atX(window.high.x));
  by([&](Vec2 p) { return p.y >= window.low.y; }, atY(window.low.y));
  by([&](Vec2 p) { return p.y <= window.high.y; }, atY(window.high.y));
  return in.size() < 3 ? 0 : signedArea(in);
}
double clippedArea(const Outline& o, const Box3& window) {
  double a = std::abs(clippedArea(o.outer, window));
  for (const Ring& h : o.holes) a -= std::abs(clippedArea(h, window));
  return std::max(0.0, a);
}

struct Lines {
  std::vector<double> at;     ///< where points stand
  std::vector<double> bounds; ///< of their cells, one more
};

/// What bounds a room along one axis: `low` and `high`, and where walls not quite square to it reach in furthest.
struct Span {
  double low, high, innerLow, innerHigh;
  void wall(double a, double b, bool atLow) {
    constexpr double near = 1e-3; // m, of the bound for the wall to be one that makes it
    if (atLow && std::min(a, b) < low + near) innerLow = std::max({innerLow, a, b});
    if (!atLow && std::max(a, b) > high - near) innerHigh = std::min({innerHigh, a, b});
  }
};

/// Points along one axis, with `starts` where walls on the way want theirs.
Lines linesAlong(const Span& span, std::vector<double> starts, double spacing, double distance, GridLayout layout) {
  const double low = span.low, high = span.high, from = span.innerLow + distance, to = span.innerHigh - distance;
  if (to - from < 1e-6)
    return {{0.5 * (low + high)},
            layout == GridLayout::FromWalls || to <= from ? std::vector<double>{low, high}
                                                          : std::vector<double>{from, to}};
  std::sort(starts.begin(), starts.end());
  std::vector<double> stops{from};
  for (double s : starts)
    if (s - stops.back() > spacing / 3 && to - s > spacing / 3) stops.push_back(s);
  stops.push_back(to);
  Lines out;
  const bool points = layout == GridLayout::FromWalls;
  if (points)
    out.at.push_back(from);
  else
    out.bounds.push_back(from);
  for (std::size_t i = 0; i + 1 < stops.size(); ++i) {
    const double length = stops[i + 1] - stops[i];
    const int n = std::max(1, int(std::ceil(length / spacing - 1e-6)));
    for (int k = 1; k <= n; ++k) {
      const double end = k == n ? stops[i + 1] : stops[i] + length * k / n;
      if (points) {
        out.at.push_back(end);
      } else {
        out.at.push_back(0.5 * (out.bounds.back() + end));
        out.bounds.push_back(end);
      }
    }
  }
  if (points) {
    out.bounds.push_back(low);
    for (std::size_t i = 0; i + 1 < out.at.size(); ++i) out.bounds.push_back(0.5 * (out.at[i] + out.at[i + 1]));
    out.bounds.push_back(high);
  }
  return out;
}

} // namespace

LaidGrid layGrid(const Outline& given, double spacing, double wallDistance, GridLayout layout, std::size_t most) {
  LaidGrid out;
  const Outline room = tidied(given);
  const Vec2 u = directionOf(room), v{-u.y, u.x};
  const auto toFrame = [&](Vec2 p) { return Vec2{dot(p, u), dot(p, v)}; };
  const auto fromFrame = [&](double x, double y) { return u * x + v * y; };
  Outline framed = room;
  Box3 box;
  for (Vec2& p : framed.outer) {
    p = toFrame(p);
    box.add({p.x, p.y, 0});
  }
  for (Ring& h : framed.holes)
    for (Vec2& p : h) p = toFrame(p);
  const Vec3 size = box.size();
  if (!(spacing > 0) || (size.x / spacing + 2) * (size.y / spacing + 2) > double(most)) return out;

  // A room too narrow for the distance keeps points all the same, nearer to its walls.
  constexpr double atLeast = 0.01; // m, of points from walls
  double distance = std::max(layout == GridLayout::FromWalls ? atLeast : 0.0, wallDistance);
  for (int tries = 0; tries < 8;
       ++tries, distance = tries == 7 ? (layout == GridLayout::FromWalls ? atLeast : 0) : distance / 2) {
    std::vector<double> startsX, startsY;
    Span spanX{box.low.x, box.high.x, box.low.x, box.high.x}, spanY{box.low.y, box.high.y, box.low.y, box.high.y};
    const auto walls = [&](const Ring& r) {
      for (std::size_t i = 0; i < r.size(); ++i) {
        const Vec2 a = r[i], b = r[(i + 1) % r.size()], d = b - a;
        const double l = length(d);
        // The room lies at the left of its walls, of outer rings and of holes.
        if (std::abs(d.x) < 0.01 * l) {
          spanX.wall(a.x, b.x, d.y < 0);
          if (l >= 2 * spacing)
            startsX.push_back(d.y > 0 ? std::min(a.x, b.x) - distance : std::max(a.x, b.x) + distance);
        }
        if (std::abs(d.y) < 0.01 * l) {
          spanY.wall(a.y, b.y, d.x > 0);
          if (l >= 2 * spacing)
            startsY.push_back(d.x > 0 ? std::max(a.y, b.y) + distance : std::min(a.y, b.y) - distance);
        }
      }
    };
    walls(framed.outer);
    for (const Ring& h : framed.holes) walls(h);
    const Lines xs = linesAlong(spanX, startsX, spacing, distance, layout),
                ys = linesAlong(spanY, startsY, spacing, distance, layout);
    // Where a band is left out the floor that counts is the rest.
    std::vector<Outline> floor{framed};
    if (layout == GridLayout::BandLeftOut && distance > 0) floor = offset(framed, -distance);
    struct Orphan {
      Vec2 at;
      double area;
    };
    std::vector<Orphan> orphans;
    out.cells.clear();
    for (std::size_t j = 0; j < ys.at.size(); ++j)
      for (std::size_t i = 0; i < xs.at.size(); ++i) {
        Box3 cell;
        cell.add({xs.bounds[i], ys.bounds[j], 0});
        cell.add({xs.bounds[i + 1], ys.bounds[j + 1], 0});
        double area = 0;
        for (const Outline& o : floor) area += clippedArea(o, cell);
        const Vec2 at{xs.at[i], ys.at[j]};
        const bool stands =
            contains(framed, at) && distanceToEdge(framed, at) >= std::max(distance * (1 - 1e-4) - 1e-6, 1e-3);
        if (!stands) {
          if (area > 1e-9)
            orphans.push_back({{0.5 * (cell.low.x + cell.high.x), 0.5 * (cell.low.y + cell.high.y)}, area});
          continue;
        }
        GridCell c;
        c.at = fromFrame(at.x, at.y);
        c.corners = {fromFrame(cell.low.x, cell.low.y), fromFrame(cell.high.x, cell.low.y),
                     fromFrame(cell.high.x, cell.high.y), fromFrame(cell.low.x, cell.high.y)};
        c.area = area;
        c.column = int(i);
        c.row = int(j);
        out.cells.push_back(c);
      }
    double whole = 0;
    for (const GridCell& c : out.cells) whole += c.area;
    if (!(whole > 1e-6)) continue;
    for (const Orphan& o : orphans) {
      GridCell* nearest = nullptr;
      double best = std::numeric_limits<double>::infinity();
      for (GridCell& c : out.cells)
        if (const double d = length(toFrame(c.at) - o.at); d < best - 1e-9) {
          best = d;
          nearest = &c;
        }
      nearest->area += o.area;
    }
    out.narrowed = tries > 0;
    out.distance = std::numeric_limits<double>::infinity();
    for (const GridCell& c : out.cells) out.distance = std::min(out.distance, distanceToEdge(room, c.at));
    for (const std::vector<double>* list : {&xs.at, &ys.at})
      for (std::size_t i = 0; i + 1 < list->size(); ++i)
        out.spacing = std::max(out.spacing, (*list)[i + 1] - (*list)[i]);
    if (out.spacing == 0) out.spacing = spacing;
    return out;
  }
  out.cells.clear();
  return out;
}

} // namespace noonward
