#include "core/light/scene.h"
#include <algorithm>
#include <embree3/rtcore.h>

namespace noonward {

namespace {

bool standsInTheLight(const Element& e, const SceneChoice& choice) {
  return e.counted && e.role != Role::Ignore && e.role != Role::Glazing && (choice.withProposed || !e.proposed);
}

std::shared_ptr<RTCDeviceTy> newDevice() {
  return {rtcNewDevice(nullptr), [](RTCDeviceTy* d) {
            if (d) rtcReleaseDevice(d);
          }};
}

constexpr float rayStart = 1e-3f; // m

} // namespace

SceneLayer::SceneLayer(std::vector<Part> parts, std::shared_ptr<RTCDeviceTy> device)
    : parts_(std::move(parts)), device_(device ? std::move(device) : newDevice()) {
  require(device_ != nullptr, "Embree gives no device");
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
    require(v && k, "Embree has no memory for the geometry");
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

SceneLayer::~SceneLayer() { rtcReleaseScene(scene_); }

const SceneLayer::Part& SceneLayer::partOf(std::size_t triangle) const { return parts_[triangles_[triangle][0]]; }

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
    ray.org_x = float(o.x), ray.org_y = float(o.y), ray.org_z = float(o.z);
    ray.dir_x = float(d.x), ray.dir_y = float(d.y), ray.dir_z = float(d.z);
    ray.tnear = rayStart;
    ray.tfar = std::numeric_limits<float>::infinity();
    ray.mask = ~0u;
    rtcOccluded1(layer->embree(), &context, &ray);
    if (ray.tfar < 0) return true;
  }
  return false;
}

void Scene::hidden8(Vec3 o, Rays8& rays) const {
  int open[8];
  for (int i = 0; i < 8; ++i) {
    open[i] = rays.active[i];
    rays.hidden[i] = 0;
  }
  for (const auto& layer : layers) {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    context.flags = RTC_INTERSECT_CONTEXT_FLAG_COHERENT;
    RTCRay8 ray;
    for (int i = 0; i < 8; ++i) {
      ray.org_x[i] = float(o.x), ray.org_y[i] = float(o.y), ray.org_z[i] = float(o.z);
      ray.dir_x[i] = rays.x[i], ray.dir_y[i] = rays.y[i], ray.dir_z[i] = rays.z[i];
      ray.tnear[i] = rayStart;
      ray.tfar[i] = std::numeric_limits<float>::infinity();
      ray.time[i] = 0;
      ray.mask[i] = ~0u;
      ray.id[i] = 0;
      ray.flags[i] = 0;
    }
    rtcOccluded8(open, layer->embree(), &context, &ray);
    for (int i = 0; i < 8; ++i)
      if (open[i] && ray.tfar[i] < 0) {
        rays.hidden[i] = 1;
        open[i] = 0;
      }
  }
}

RayHit Scene::firstHit(Vec3 o, Vec3 d) const {
  RayHit best;
  float nearest = std::numeric_limits<float>::infinity();
  for (const auto& layer : layers) {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit r{};
    r.ray.org_x = float(o.x), r.ray.org_y = float(o.y), r.ray.org_z = float(o.z);
    r.ray.dir_x = float(d.x), r.ray.dir_y = float(d.y), r.ray.dir_z = float(d.z);
    r.ray.tnear = rayStart;
    r.ray.tfar = nearest;
    r.ray.mask = ~0u;
    r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(layer->embree(), &context, &r);
    if (r.hit.geomID == RTC_INVALID_GEOMETRY_ID) continue;
    nearest = r.ray.tfar;
    const SceneLayer::Part& part = layer->partOf(r.hit.primID);
    best.element = part.id.value;
    best.face = part.mesh->faceOf(r.hit.primID - part.firstTriangle);
    best.distance = nearest;
    best.normal = normalized(Vec3{r.hit.Ng_x, r.hit.Ng_y, r.hit.Ng_z});
  }
  return best;
}

Scene buildScene(const Project& project, const SceneChoice& choice, const Scene* previous) {
  Scene scene;
  std::vector<const Element*> still, apart;
  for (const ElementPtr& e : project.elements) {
    if (!standsInTheLight(*e, choice)) continue;
    const bool moves = std::find(choice.apart.begin(), choice.apart.end(), e->id) != choice.apart.end();
    (moves ? apart : still).push_back(e.get());
  }
  std::shared_ptr<RTCDeviceTy> device;
  if (previous && !previous->layers.empty()) device = previous->layers.front()->device();
  for (const auto* list : {&still, &apart}) {
    std::vector<SceneLayer::Part> parts;
    for (const Element* e : *list) {
      auto mesh = elementMesh(*e);
      if (!mesh) {
        scene.findings.push_back({Rank::StopsStudy, "scene.element", mesh.error().text(), 1, {e->id.value}, "", ""});
        continue;
      }
      parts.push_back({e->id, 0, std::move(*mesh)});
    }
    if (parts.empty()) continue;
    std::shared_ptr<const SceneLayer> layer;
    if (previous)
      for (const auto& old : previous->layers) {
        const auto& was = old->parts();
        const bool same = was.size() == parts.size() &&
                          std::equal(was.begin(), was.end(), parts.begin(), [](const auto& a, const auto& b) {
                            return a.id == b.id && (a.mesh == b.mesh || (a.mesh->points == b.mesh->points &&
                                                                        a.mesh->triangles == b.mesh->triangles));
                          });
        if (same) layer = old;
      }
    if (!layer) layer = std::make_shared<const SceneLayer>(std::move(parts), device);
    device = layer->device();
    scene.layers.push_back(std::move(layer));
  }
  return scene;
}

void hashScene(Hasher& hash, const Project& project, const SceneChoice& choice) {
  hash.add("scene 1");
  for (const ElementPtr& e : project.elements) {
    if (!standsInTheLight(*e, choice)) continue;
    if (const Mass* m = e->mass()) {
      hash.add("mass").add(m->base).add(m->height).add(std::uint64_t(m->outline.outer.size()));
      for (Vec2 p : m->outline.outer) hash.add(p);
      for (const Ring& h : m->outline.holes) {
        hash.add(std::uint64_t(h.size()));
        for (Vec2 p : h) hash.add(p);
      }
    } else if (const Plate* plate = e->plate()) {
      hash.add("plate").add(std::uint64_t(plate->corners.size()));
      for (Vec3 c : plate->corners) hash.add(c);
    } else {
      const Imported& i = *e->imported();
      hash.add("mesh").add(i.content).add(i.move).add(i.turn).add(i.stretch);
    }
  }
}

} // namespace noonward
