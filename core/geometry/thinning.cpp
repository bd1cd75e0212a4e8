#include "core/geometry/thinning.h"
#include "core/base/tolerances.h"
#include "core/geometry/healing.h"
#include "core/geometry/mesh_build.h"
#include <meshoptimizer.h>

namespace noonward {

Mesh withoutTriangles(const Mesh& m, const std::vector<std::uint32_t>& drop) {
  std::vector<bool> gone(m.triangles.size(), false);
  for (std::uint32_t t : drop) gone[t] = true;
  Mesh left;
  for (std::size_t t = 0; t < m.triangles.size(); ++t) {
    if (gone[t]) continue;
    left.triangles.push_back(m.triangles[t]);
    left.face.push_back(m.faceOf(t));
  }
  std::size_t dropped = 0;
  Mesh out = withOwnPoints(m.points, left, dropped);
  out.faceGroup = m.faceGroup;
  return out;
}

Mesh thinned(const Mesh& given, double by) {
  if (given.triangles.empty()) return given;
  std::size_t turned = 0, dropped = 0;
  Mesh m = turnedOutward(given, turned); // edges whose triangles face two ways would be kept as they are
  const std::vector<std::uint32_t> first = firstOfEach(m.points, tolerance::weld);
  m.face.clear();
  for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
    for (std::uint32_t& k : m.triangles[t]) k = first[k];
    m.face.push_back(t);
  }
  m = withOwnPoints(m.points, m, dropped); // points that are there twice would be taken for seams
  if (m.triangles.empty()) return given;
  // Single precision is enough near the mesh's own middle.
  const Vec3 zero = m.box().center();
  std::vector<float> points;
  for (const Vec3& p : m.points)
    for (double v : {p.x - zero.x, p.y - zero.y, p.z - zero.z}) points.push_back(float(v));
  std::vector<unsigned> index, fewer;
  for (const Triangle& t : m.triangles)
    for (std::uint32_t k : t) index.push_back(k);
  constexpr std::size_t stride = 3 * sizeof(float);
  const float scale = meshopt_simplifyScale(points.data(), m.points.size(), stride);
  const float error = scale > 0 ? float(by / scale) : 0.0f;
  fewer = index;
  for (std::size_t before = 2 * index.size();
       20 * fewer.size() < 19 * before;) { // one call stops early where most of a surface is flat
    before = fewer.size();
    std::vector<unsigned> next(before);
    next.resize(meshopt_simplify(next.data(), fewer.data(), before, points.data(), m.points.size(), stride, 0, error, 0,
                                 nullptr));
    fewer = std::move(next);
  }
  if (fewer.size() > index.size() / 2) { // leaves and other loose pieces: points of one small cell become one
    std::vector<unsigned> loose(index.size());
    loose.resize(meshopt_simplifySloppy(loose.data(), index.data(), index.size(), points.data(), m.points.size(),
                                        stride, 0, error, nullptr));
    if (!loose.empty() && loose.size() < fewer.size()) fewer = std::move(loose);
  }
  Mesh left;
  for (std::size_t k = 0; k + 2 < fewer.size(); k += 3) {
    left.triangles.push_back({fewer[k], fewer[k + 1], fewer[k + 2]});
    left.face.push_back(std::uint32_t(k / 3)); // found anew below
  }
  Mesh out = withOwnPoints(m.points, left, dropped);
  findFaces(out);
  return out;
}

} // namespace noonward
