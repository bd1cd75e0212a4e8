#include "core/light/light_scene.h"
#include "core/light/ray_offset.h"
#include <algorithm>
#include <cmath>
#include <embree3/rtcore.h>

namespace noonward {

namespace {
/// m, the endless ground lies this far lower: floors and paving drawn at its level are met first, always.
constexpr double groundSink = 0.002;
constexpr double largestPiece = 1.5; // m, longest edge

void cut(std::array<Vec3, 3> t, std::vector<std::array<Vec3, 3>>& out) {
  const double l[3] = {length(t[1] - t[0]), length(t[2] - t[1]), length(t[0] - t[2])};
  const int k = l[0] >= l[1] && l[0] >= l[2] ? 0 : l[1] >= l[2] ? 1 : 2;
  if (l[k] <= largestPiece || out.size() > 2'000'000) {
    out.push_back(t);
    return;
  }
  const Vec3 a = t[std::size_t(k)], b = t[std::size_t((k + 1) % 3)], c = t[std::size_t((k + 2) % 3)], m = (a + b) * 0.5;
  cut({a, m, c}, out);
  cut({m, b, c}, out);
}
} // namespace

LightScene::LightScene(const LightModel& model)
    : device_(rtcNewDevice(nullptr),
              [](RTCDeviceTy* d) {
                if (d) rtcReleaseDevice(d);
              }),
      finishes_(model.finishes), groundLevel_(model.groundLevel - groundSink),
      groundReflectance_(model.groundReflectance) {
  require(device_ != nullptr, "the ray engine does not start");
  for (const Glazing& g : model.glazings) optics_.emplace_back(g);
  std::vector<std::array<Vec3, 3>> solid, panes;
  for (std::size_t p = 0; p < model.parts.size(); ++p) {
    const LightPart& part = model.parts[p];
    partFinish_.push_back(part.glazed ? 0 : part.material);
    partElement_.push_back(part.element);
    partRoom_.push_back(part.glazed ? -1 : part.room);
    const Mesh& m = *part.mesh;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
      const std::array<Vec3, 3> corners{m.points[m.triangles[t][0]], m.points[m.triangles[t][1]],
                                        m.points[m.triangles[t][2]]};
      const Vec3 area = cross(corners[1] - corners[0], corners[2] - corners[0]);
      if (!(length(area) > 1e-10)) continue;
      const Vec3 n = normalized(area);
      if (!part.glazed) {
        solid.push_back(corners);
        surfaces_.push_back({{float(n.x), float(n.y), float(n.z)}, std::uint32_t(p)});
        continue;
      }
      std::vector<std::array<Vec3, 3>> small;
      cut(corners, small);
      for (const auto& s : small) {
        panes.push_back(s);
        pieces_.push_back({s[0], s[1], s[2], n, length(cross(s[1] - s[0], s[2] - s[0])) / 2, part.material, part.group,
                           std::uint32_t(p), part.room});
      }
      groupCount_ = std::max<std::size_t>(groupCount_, part.group + 1);
      groupRoom_.resize(groupCount_, -1);
      groupRoom_[part.group] = part.room;
    }
  }
  opaque_ = build(solid, &corners_);
  glass_ = build(panes);
}

LightScene::~LightScene() {
  rtcReleaseScene(opaque_);
  rtcReleaseScene(glass_);
}

std::array<Vec3, 3> LightScene::corners(std::uint32_t t) const {
  const float* p = corners_ + 9 * std::size_t(t);
  return {Vec3{p[0], p[1], p[2]}, {p[3], p[4], p[5]}, {p[6], p[7], p[8]}};
}

RTCSceneTy* LightScene::build(const std::vector<std::array<Vec3, 3>>& triangles, const float** corners) {
  RTCScene scene = rtcNewScene(device_.get());
  rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
  if (!triangles.empty()) {
    RTCGeometry g = rtcNewGeometry(device_.get(), RTC_GEOMETRY_TYPE_TRIANGLE);
    auto* v = static_cast<float*>(
        rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, 3 * triangles.size()));
    auto* k = static_cast<std::uint32_t*>(
        rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, triangles.size()));
    require(v && k, "the ray engine has no memory for the geometry");
    if (corners) *corners = v;
    for (const auto& t : triangles)
      for (Vec3 p : t) {
        *v++ = float(p.x);
        *v++ = float(p.y);
        *v++ = float(p.z);
      }
    for (std::uint32_t i = 0; i < 3 * triangles.size(); ++i) *k++ = i;
    rtcCommitGeometry(g);
    rtcAttachGeometryByID(scene, g, 0);
    rtcReleaseGeometry(g);
  }
  rtcCommitScene(scene);
  return scene;
}

LightScene::Hit LightScene::first(RTCSceneTy* scene, Vec3 o, Vec3 d, double from, double to) const {
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  RTCRayHit r{};
  r.ray.org_x = float(o.x);
  r.ray.org_y = float(o.y);
  r.ray.org_z = float(o.z);
  r.ray.dir_x = float(d.x);
  r.ray.dir_y = float(d.y);
  r.ray.dir_z = float(d.z);
  r.ray.tnear = float(from);
  r.ray.tfar = float(to);
  r.ray.mask = ~0u;
  r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  rtcIntersect1(scene, &context, &r);
  if (r.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {std::numeric_limits<double>::infinity(), ~0u, 0, 0};
  return {double(r.ray.tfar), r.hit.primID, r.hit.u, r.hit.v};
}

LightScene::Hit LightScene::opaque(Vec3 o, Vec3 d, double from, double to) const {
  return first(opaque_, o, d, from, to);
}

LightScene::Hit LightScene::glass(Vec3 o, Vec3 d, double from, double to) const {
  if (pieces_.empty()) return {std::numeric_limits<double>::infinity(), ~0u, 0, 0};
  return first(glass_, o, d, from, to);
}

bool LightScene::blocked(Vec3 o, Vec3 d, double from, double to) const {
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  RTCRay ray{};
  ray.org_x = float(o.x);
  ray.org_y = float(o.y);
  ray.org_z = float(o.z);
  ray.dir_x = float(d.x);
  ray.dir_y = float(d.y);
  ray.dir_z = float(d.z);
  ray.tnear = float(from);
  ray.tfar = float(to);
  ray.mask = ~0u;
  rtcOccluded1(opaque_, &context, &ray);
  return ray.tfar < 0;
}

void LightScene::blocked8(Vec3 o, Rays8& rays) const {
  std::fill_n(rays.hidden, 8, 0);
  occlude8(opaque_, o, 0, rays);
}

std::array<double, 8> LightScene::open8(Vec3 o, Rays8& rays) const {
  blocked8(o, rays);
  std::array<double, 8> out{};
  for (int i = 0; i < 8; ++i) out[std::size_t(i)] = rays.active[i] && !rays.hidden[i] ? 1 : 0;
  if (pieces_.empty()) return out;
  Rays8 panes = rays; // lanes that are still open: does any pane stand there?
  for (int i = 0; i < 8; ++i) panes.active[i] = out[std::size_t(i)] > 0 ? -1 : 0;
  std::fill_n(panes.hidden, 8, 0);
  occlude8(glass_, o, 0, panes);
  for (int i = 0; i < 8; ++i)
    if (panes.hidden[i])
      out[std::size_t(i)] = throughGlass(o, Vec3{double(rays.x[i]), double(rays.y[i]), double(rays.z[i])});
  return out;
}

double LightScene::throughGlass(Vec3 o, Vec3 d) const {
  double share = 1, from = 0;
  for (int guard = 0; guard < 64 && share > 0; ++guard) {
    const Hit g = glass(o, d, from, 1e30);
    if (!g.any()) break;
    const Piece& p = pieces_[g.triangle];
    share *= optics_[p.optics].straight(std::abs(dot(p.normal, d)));
    from = g.distance + rayOffsetAt(o + d * g.distance);
  }
  return share;
}

} // namespace noonward
