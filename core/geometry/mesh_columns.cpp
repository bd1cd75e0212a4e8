#include "core/geometry/mesh_columns.h"
#include <algorithm>
#include <cmath>

namespace noonward {

MeshColumns::MeshColumns(std::shared_ptr<const Mesh> mesh) : mesh_(std::move(mesh)), box_(mesh_->box()) {
  if (box_.empty()) return;
  const Vec3 size = box_.size();
  binSize_ = std::max({size.x, size.y, 1e-6}) / std::clamp(std::sqrt(double(mesh_->triangles.size())), 1.0, 1024.0);
  columns_ = int(size.x / binSize_) + 1;
  rows_ = int(size.y / binSize_) + 1;
  const auto bins = [&](std::size_t t, auto&& each) {
    Box3 b;
    for (std::uint32_t k : mesh_->triangles[t]) b.add(mesh_->points[k]);
    if (std::abs(mesh_->areaVector(t).z) < 1e-12) return;
    const auto column = [&](double x) { return std::clamp(int((x - box_.low.x) / binSize_), 0, columns_ - 1); };
    const auto row = [&](double y) { return std::clamp(int((y - box_.low.y) / binSize_), 0, rows_ - 1); };
    for (int r = row(b.low.y); r <= row(b.high.y); ++r)
      for (int c = column(b.low.x); c <= column(b.high.x); ++c) each(std::size_t(r * columns_ + c));
  };
  first_.assign(std::size_t(columns_) * std::size_t(rows_) + 1, 0);
  for (std::size_t t = 0; t < mesh_->triangles.size(); ++t) bins(t, [&](std::size_t bin) { ++first_[bin + 1]; });
  for (std::size_t k = 1; k < first_.size(); ++k) first_[k] += first_[k - 1];
  triangles_.resize(first_.back());
  std::vector<std::uint32_t> next(first_.begin(), first_.end() - 1);
  for (std::size_t t = 0; t < mesh_->triangles.size(); ++t)
    bins(t, [&](std::size_t bin) { triangles_[next[bin]++] = std::uint32_t(t); });
}

template <class Each> void MeshColumns::heights(Vec2 p, Each&& each) const {
  if (box_.empty()) return;
  // Off the round numbers on which edges lie, by far less than any cell.
  const Vec2 q{p.x + 1.37e-6, p.y + 2.71e-6};
  if (q.x < box_.low.x || q.x > box_.high.x || q.y < box_.low.y || q.y > box_.high.y) return;
  const auto column = std::min(columns_ - 1, int((q.x - box_.low.x) / binSize_)),
             row = std::min(rows_ - 1, int((q.y - box_.low.y) / binSize_));
  const auto bin = std::size_t(row * columns_ + column);
  for (std::uint32_t k = first_[bin]; k < first_[bin + 1]; ++k) {
    const Triangle& t = mesh_->triangles[triangles_[k]];
    const Vec3 &a = mesh_->points[t[0]], &b = mesh_->points[t[1]], &c = mesh_->points[t[2]];
    const double u = cross(xy(b) - xy(a), q - xy(a)), v = cross(xy(c) - xy(b), q - xy(b)),
                 w = cross(xy(a) - xy(c), q - xy(c));
    if ((u > 0) != (v > 0) || (v > 0) != (w > 0)) continue;
    const double whole = u + v + w; // twice the plan's area; v belongs to a, w to b, u to c
    each((a.z * v + b.z * w + c.z * u) / whole);
  }
}

bool MeshColumns::inside(Vec3 p) const {
  if (box_.empty() || p.z >= box_.high.z) return false;
  bool in = false;
  heights(xy(p), [&](double z) { in ^= z > p.z; });
  return in;
}

void MeshColumns::heightsAt(Vec2 p, std::vector<double>& out) const {
  heights(p, [&](double z) { out.push_back(z); });
}

} // namespace noonward
