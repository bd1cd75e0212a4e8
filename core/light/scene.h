#pragma once
// Traceable geometry: what stands in the light. Triangles in double precision for exact sun times, the same in float32
// in Embree (robust mode) for rays. A scene is a few immutable layers, so that a drag rebuilds only what moves.
//
// Local metres, x east, y north of the drawing, z up. A scene is made of the derived model (core/model/light_model.h),
// the one building of all studies: every surface of it is opaque but glazing, which hides nothing. A ray begins 1 mm
// from its origin: sensors on a surface don't hit it.

#include "core/base/finding.h"
#include "core/light/rays8.h"
#include "core/light/sweep_bvh.h"
#include "core/model/light_model.h"
#include <mutex>

struct RTCDeviceTy;
struct RTCSceneTy;

namespace noonward {

struct RayHit {
  std::uint64_t element = 0; ///< id value of what the surface came from (LightPart::element); 0 for a miss
  std::uint32_t face = 0;
  double distance = 0; ///< m
  Vec3 normal;         ///< unit, geometric, as the triangle is wound
  Role role = Role::Building;
  bool hit() const { return element != 0; }
};

class SceneLayer {
public:
  struct Part {
    std::uint64_t source = 0; ///< id value of what it came from
    std::uint32_t firstTriangle = 0;
    std::shared_ptr<const Mesh> mesh;
    Role role = Role::Building;
  };
  /// `device` of another layer may be shared; a new one is made where it is null.
  SceneLayer(std::vector<Part> parts, std::shared_ptr<RTCDeviceTy> device);
  ~SceneLayer();
  SceneLayer(const SceneLayer&) = delete;
  SceneLayer& operator=(const SceneLayer&) = delete;

  const std::shared_ptr<RTCDeviceTy>& device() const { return device_; }
  RTCSceneTy* embree() const { return scene_; }
  std::size_t triangleCount() const { return triangles_.size(); }
  const std::vector<Part>& parts() const { return parts_; }
  const Part& partOf(std::size_t triangle) const;
  /// Built at the first call; many threads may ask.
  const SweepBvh& sweep() const;

private:
  std::vector<Part> parts_;
  std::shared_ptr<RTCDeviceTy> device_;
  RTCSceneTy* scene_ = nullptr;
  std::vector<std::array<std::uint32_t, 2>> triangles_; // part, triangle within its mesh
  mutable std::once_flag sweepOnce_;
  mutable std::unique_ptr<SweepBvh> sweep_;
};

class Scene {
public:
  std::vector<std::shared_ptr<const SceneLayer>> layers;
  Findings findings; ///< elements that could not be built

  std::size_t triangleCount() const;
  bool hidden(Vec3 origin, Vec3 direction) const;
  void hidden8(Vec3 origin, Rays8& rays) const;
  RayHit firstHit(Vec3 origin, Vec3 direction) const;
};

struct SceneChoice {
  bool withProposed = true;
  std::vector<ElementId> apart; ///< these, with the rooms in them, go into a layer of their own (what is being moved)
};

/// What stands in the light of a project: its derived model without glazing. Layers of `previous` that would come out
/// the same are taken over.
Scene buildScene(const Project& project, const SceneChoice& choice = {}, const Scene* previous = nullptr);
/// The same of a model that is there already.
Scene buildScene(const LightModel& model, const SceneChoice& choice = {}, const Scene* previous = nullptr);
/// The panes of a model alone, for what is seen through glass.
Scene paneScene(const LightModel& model);
/// Elements just as they are, glazing and all but what is hidden or a ghost: for the eye and the pointer, never for
/// studies.
Scene shownScene(const std::vector<ElementPtr>& elements, const Scene* previous = nullptr);

} // namespace noonward
