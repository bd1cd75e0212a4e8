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

private:
  Vec2 c_;
};

} // namespace noonward
