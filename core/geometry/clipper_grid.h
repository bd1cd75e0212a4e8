#pragma once
// Outlines for Clipper and back: for the files of this folder alone.

#include "core/geometry/polygon.h"
#include <algorithm>
#include <clipper.hpp>
#include <cmath>

namespace noonward {

/// Outlines as Clipper's integers, 0.1 mm apart, counted from a point of the outline.
class ClipperGrid {
public:
  explicit ClipperGrid(Vec2 centre) : c_(centre) {}
  static constexpr double scale = 1e4;
  /// Clipper ends the program beyond its integers: nothing wider than a million kilometres goes in.
  bool holds(const std::vector<Vec2>& ring) const {
    return std::all_of(ring.begin(), ring.end(),
                       [&](Vec2 p) { return std::abs(p.x - c_.x) < 1e9 && std::abs(p.y - c_.y) < 1e9; });
  }
  ClipperLib::Path path(const Ring& r) const {
    ClipperLib::Path out;
    for (Vec2 p : r) out.emplace_back(std::llround((p.x - c_.x) * scale), std::llround((p.y - c_.y) * scale));
    return out;
  }
  std::vector<Outline> outlines(const ClipperLib::PolyTree& tree) const {
    const auto ring = [&](const ClipperLib::Path& path) {
      Ring out;
      for (const auto& q : path) out.push_back({double(q.X) / scale + c_.x, double(q.Y) / scale + c_.y});
      return out;
    };
    std::vector<Outline> out;
    for (ClipperLib::PolyNode* n = tree.GetFirst(); n; n = n->GetNext()) {
      if (n->IsHole()) continue;
      Outline piece{ring(n->Contour), {}};
      for (ClipperLib::PolyNode* h : n->Childs) piece.holes.push_back(ring(h->Contour));
      out.push_back(std::move(piece));
    }
    return out;
  }

  /// The same of rings in no order, as Clipper gives them without its tree: outer ones run counter-clockwise, holes go
  /// to the smallest outer ring around them.
  std::vector<Outline> outlines(const ClipperLib::Paths& paths) const {
    struct Outer {
      double area;
      Vec2 low, high;
      std::size_t index;
    };
    std::vector<Outline> out;
    std::vector<Outer> outers;
    std::vector<Ring> holes;
    for (const ClipperLib::Path& path : paths) {
      Ring r;
      for (const auto& q : path) r.push_back({double(q.X) / scale + c_.x, double(q.Y) / scale + c_.y});
      if (r.size() < 3) continue;
      if (!ClipperLib::Orientation(path)) {
        holes.push_back(std::move(r));
        continue;
      }
      Outer o{std::abs(signedArea(r)), r[0], r[0], out.size()};
      for (Vec2 p : r) {
        o.low = {std::min(o.low.x, p.x), std::min(o.low.y, p.y)};
        o.high = {std::max(o.high.x, p.x), std::max(o.high.y, p.y)};
      }
      outers.push_back(o);
      out.push_back({std::move(r), {}});
    }
    if (holes.empty()) return out;
    std::sort(outers.begin(), outers.end(), [](const Outer& a, const Outer& b) { return a.area < b.area; });
    for (Ring& h : holes) {
      const Vec2 at = within(h); // corners and edges may be shared with the ring around
      const double own = std::abs(signedArea(h));
      for (const Outer& o : outers)
        if (o.area > own && at.x >= o.low.x && at.x <= o.high.x && at.y >= o.low.y && at.y <= o.high.y &&
            contains(out[o.index].outer, at)) {
          out[o.index].holes.push_back(std::move(h));
          break;
        }
    }
    return out;
  }

  /// A point well inside a ring: on a level between two of its corners, in the middle of the widest stretch.
  static Vec2 within(const Ring& r) {
    std::vector<double> levels;
    for (Vec2 p : r) levels.push_back(p.y);
    std::sort(levels.begin(), levels.end());
    double y = levels.front(), tallest = 0;
    for (std::size_t i = 0; i + 1 < levels.size(); ++i)
      if (levels[i + 1] - levels[i] > tallest) {
        tallest = levels[i + 1] - levels[i];
        y = (levels[i] + levels[i + 1]) / 2;
      }
    std::vector<double> crossings;
    for (std::size_t i = 0; i < r.size(); ++i) {
      const Vec2 a = r[i], b = r[(i + 1) % r.size()];
      if ((a.y > y) != (b.y > y)) crossings.push_back(a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y));
    }
    std::sort(crossings.begin(), crossings.end());
    Vec2 out = r[0];
    double widest = -1;
    for (std::size_t i = 0; i + 1 < crossings.size(); i += 2)
      if (crossings[i + 1] - crossings[i] > widest) {
        widest = crossings[i + 1] - crossings[i];
        out = {(crossings[i] + crossings[i + 1]) / 2, y};
      }
    return out;
  }

private:
  Vec2 c_;
};

} // namespace noonward
