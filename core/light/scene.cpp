#include "core/light/scene.h"
#include <algorithm>
#include <embree3/rtcore.h>

namespace noonward {

namespace {

std::shared_ptr<RTCDeviceTy> newDevice() {
  return {rtcNewDevice(nullptr), [](RTCDeviceTy* d) {
            if (d) rtcReleaseDevice(d);
          }};
}

constexpr float rayStart = 1e-3f; // m

} // namespace

SceneLayer::SceneLayer(std::vector<Part> parts, std::shared_ptr<RTCDeviceTy> device)
    : parts_(std::move(parts)), device_(device ? std::move(device) : newDevice()) {
  require(device_ != nullptr, "the ray engine does not start");
  scene_ = rtcNewScene(device_.get());
  rtcSetSceneFlags(scene_, RTC_SCENE_FLAG_ROBUST);
  std::size_t points = 0, triangles = 0;
  for (Part& p : parts_) {
    p.firstTriangle = std::uint32_t(triangles);
    points += p.mesh->points.size();
    triangles += p.mesh->triangles.size();
  }
  triangles_.reserve(triangles);
  if (triangles > 0) {
    RTCGeometry g = rtcNewGeometry(device_.get(), RTC_GEOMETRY_TYPE_TRIANGLE);
    auto* v = static_cast<float*>(
        rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 3 * sizeof(float), points));
    auto* k = static_cast<std::uint32_t*>(
        rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(std::uint32_t), triangles));
    require(v && k, "the ray engine has no memory for the geometry");
    std::uint32_t base = 0;
    for (std::size_t i = 0; i < parts_.size(); ++i) {
      const Mesh& m = *parts_[i].mesh;
      for (Vec3 p : m.points) {
        *v++ = float(p.x);
        *v++ = float(p.y);
        *v++ = float(p.z);
      }
      for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        for (std::uint32_t c : m.triangles[t]) *k++ = base + c;
        triangles_.push_back({std::uint32_t(i), std::uint32_t(t)});
      }
      base += std::uint32_t(m.points.size());
    }
    rtcCommitGeometry(g);
    rtcAttachGeometryByID(scene_, g, 0);
    rtcReleaseGeometry(g);
  }
  rtcCommitScene(scene_);
}

SceneLayer::~SceneLayer() {
  rtcReleaseScene(scene_);
}

const SceneLayer::Part& SceneLayer::partOf(std::size_t triangle) const {
  return parts_[triangles_[triangle][0]];
}

const SweepBvh& SceneLayer::sweep() const {
  std::call_once(sweepOnce_, [&] {
    std::vector<SweepBvh::Corner> corners;
    corners.reserve(triangles_.size());
    for (std::size_t i = 0; i < triangles_.size(); ++i) {
      const Mesh& m = *parts_[triangles_[i][0]].mesh;
      const Triangle& t = m.triangles[triangles_[i][1]];
      corners.push_back({m.points[t[0]], m.points[t[1]], m.points[t[2]]});
    }
    sweep_ = std::make_unique<SweepBvh>(std::move(corners));
  });
  return *sweep_;
}

std::size_t Scene::triangleCount() const {
  std::size_t n = 0;
  for (const auto& l : layers) n += l->triangleCount();
  return n;
}

bool Scene::hidden(Vec3 o, Vec3 d) const {
  for (const auto& layer : layers) {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRay ray{};
    ray.org_x = float(o.x);
    ray.org_y = float(o.y);
    ray.org_z = float(o.z);
    ray.dir_x = float(d.x);
    ray.dir_y = float(d.y);
    ray.dir_z = float(d.z);
    ray.tnear = rayStart;
    ray.tfar = std::numeric_limits<float>::infinity();
    ray.mask = ~0u;
    rtcOccluded1(layer->embree(), &context, &ray);
    if (ray.tfar < 0) return true;
  }
  return false;
}

void Scene::hidden8(Vec3 o, Rays8& rays) const {
  std::fill_n(rays.hidden, 8, 0);
  for (const auto& layer : layers) occlude8(layer->embree(), o, rayStart, rays);
}

RayHit Scene::firstHit(Vec3 o, Vec3 d) const {
  RayHit best;
  float nearest = std::numeric_limits<float>::infinity();
  for (const auto& layer : layers) {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit r{};
    r.ray.org_x = float(o.x);
    r.ray.org_y = float(o.y);
    r.ray.org_z = float(o.z);
    r.ray.dir_x = float(d.x);
    r.ray.dir_y = float(d.y);
    r.ray.dir_z = float(d.z);
    r.ray.tnear = rayStart;
    r.ray.tfar = nearest;
    r.ray.mask = ~0u;
    r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(layer->embree(), &context, &r);
    if (r.hit.geomID == RTC_INVALID_GEOMETRY_ID) continue;
    nearest = r.ray.tfar;
    const SceneLayer::Part& part = layer->partOf(r.hit.primID);
    best.element = part.source;
    best.role = part.role;
    best.face = part.mesh->faceOf(r.hit.primID - part.firstTriangle);
    best.distance = nearest;
    best.normal = normalized(Vec3{r.hit.Ng_x, r.hit.Ng_y, r.hit.Ng_z});
  }
  return best;
}

namespace {

bool same(const std::vector<SceneLayer::Part>& was, const std::vector<SceneLayer::Part>& is) {
  return std::equal(was.begin(), was.end(), is.begin(), is.end(), [](const auto& a, const auto& b) {
    return a.source == b.source && a.role == b.role &&
           (a.mesh == b.mesh || (a.mesh->points == b.mesh->points && a.mesh->triangles == b.mesh->triangles &&
                                 a.mesh->face == b.mesh->face));
  });
}

/// One layer for each list that is not empty; those of `previous` that would come out the same are taken over.
void addLayers(Scene& scene, std::vector<std::vector<SceneLayer::Part>> lists, const Scene* previous) {
  std::shared_ptr<RTCDeviceTy> device;
  if (previous && !previous->layers.empty()) device = previous->layers.front()->device();
  for (auto& parts : lists) {
    if (parts.empty()) continue;
    std::shared_ptr<const SceneLayer> layer;
    if (previous)
      for (const auto& old : previous->layers)
        if (same(old->parts(), parts)) layer = old;
    if (!layer) layer = std::make_shared<const SceneLayer>(std::move(parts), device);
    device = layer->device();
    scene.layers.push_back(std::move(layer));
  }
}

} // namespace

Scene buildScene(const LightModel& model, const SceneChoice& choice, const Scene* previous) {
  Scene scene;
  for (const Error& fault : model.geometryFaults)
    scene.findings.push_back({Rank::StopsStudy, "scene.element", fault.text(), 1, {}, "", ""});
  // What was drawn or brought in, what is derived from rooms, and what moves with all that hangs on it.
  std::vector<std::vector<SceneLayer::Part>> lists(choice.apart.empty() ? 1 : 3);
  for (const LightPart& part : model.parts) {
    if (part.glazed) continue;
    const bool moves = std::any_of(choice.apart.begin(), choice.apart.end(),
                                   [&](ElementId id) { return id.value == part.element || id.value == part.host; });
    const std::size_t list = lists.size() == 1 ? 0 : moves ? 2 : part.source == SurfaceSource::Element ? 0 : 1;
    lists[list].push_back({part.element, 0, part.mesh, part.role});
  }
  addLayers(scene, std::move(lists), previous);
  return scene;
}

Scene buildScene(const Project& project, const SceneChoice& choice, const Scene* previous) {
  return buildScene(derivedModel(project, choice.withProposed), choice, previous);
}

Scene paneScene(const LightModel& model) {
  Scene scene;
  std::vector<SceneLayer::Part> parts;
  for (const LightPart& part : model.parts)
    if (part.glazed) parts.push_back({part.element, 0, part.mesh, part.role});
  addLayers(scene, {std::move(parts)}, nullptr);
  return scene;
}

Scene shownScene(const std::vector<ElementPtr>& elements, const Scene* previous) {
  Scene scene;
  std::vector<SceneLayer::Part> parts;
  for (const ElementPtr& e : elements) {
    if (e->hidden || e->ghost || e->demolished) continue;
    if (auto mesh = elementMesh(*e)) parts.push_back({e->id.value, 0, std::move(*mesh), e->role});
  }
  addLayers(scene, {std::move(parts)}, previous);
  return scene;
}

} // namespace noonward
