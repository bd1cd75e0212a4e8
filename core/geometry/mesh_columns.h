#pragma once
// Is a point inside a solid mesh? Counts the triangles straight above it: odd means inside. Works without a bottom
// face, as city models often come. Triangles are binned by their plan, so that a town of a million is asked quickly.

#include "core/geometry/mesh.h"
#include <mutex>

namespace noonward {

class MeshColumns {
public:
  explicit MeshColumns(std::shared_ptr<const Mesh> mesh);
  bool inside(Vec3 p) const;
  /// Heights of the triangles over and under a point of the plan, in no order.
  void heightsAt(Vec2 p, std::vector<double>& out) const;
  Vec3 low() const { return box_.low; }
  Vec3 center() const { return box_.center(); }

private:
  template <class Each> void heights(Vec2 p, Each&& each) const;
  std::shared_ptr<const Mesh> mesh_;
  Box3 box_;
  double binSize_ = 1;
  int columns_ = 0, rows_ = 0;
  std::vector<std::uint32_t> first_;     // per bin, into triangles_; one more at the end
  std::vector<std::uint32_t> triangles_; // those that are not upright
};

/// Made at the first call and shared by every copy of an element; many threads may ask.
class LazyColumns {
public:
  const MeshColumns& of(const std::shared_ptr<const Mesh>& mesh) const {
    std::call_once(once_, [&] { columns_ = std::make_unique<const MeshColumns>(mesh); });
    return *columns_;
  }

private:
  mutable std::once_flag once_;
  mutable std::unique_ptr<const MeshColumns> columns_;
};

} // namespace noonward
