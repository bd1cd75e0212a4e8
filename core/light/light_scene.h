#pragma once
// Geometry with finishes, for light: opaque surfaces and glazings in two Embree scenes (robust mode), so that a ray
// asks first what stops it and then which panes it crossed before, near to far. Glazing is cut into pieces under about
// a metre and a half, small enough to be aimed at one by one.
//
// Local metres, z up. Surfaces are two-sided. Below everything lies an endless ground plane with its own reflectance,
// shaded by what stands on it.

#include "core/light/glazing_optics.h"
#include "core/light/rays8.h"
#include "core/model/light_model.h"
#include <array>
#include <memory>

struct RTCDeviceTy;
struct RTCSceneTy;

namespace noonward {

class LightScene {
public:
  explicit LightScene(const LightModel& model);
  ~LightScene();
  LightScene(const LightScene&) = delete;
  LightScene& operator=(const LightScene&) = delete;

  struct Surface { ///< of one opaque triangle
    float normal[3];
    std::uint32_t part;
  };
  struct Piece { ///< of glazing
    Vec3 a, b, c;
    Vec3 normal;     ///< unit
    double area = 0; ///< m²
    std::uint32_t optics = 0, group = 0, part = 0;
    int room = -1; ///< index of the room it lights, -1 where unknown
    Vec3 center() const { return (a + b + c) * (1.0 / 3); }
  };
  struct Hit {
    double distance = 0; ///< m; infinite for a miss
    std::uint32_t triangle = ~0u;
    float u = 0, v = 0; ///< barycentric: corner 0 has (0, 0), 1 (1, 0), 2 (0, 1)
    bool any() const { return triangle != ~0u; }
  };

  Hit opaque(Vec3 origin, Vec3 direction, double from, double to) const;
  Hit glass(Vec3 origin, Vec3 direction, double from, double to) const;
  bool blocked(Vec3 origin, Vec3 direction, double from, double to) const;
  /// Eight rays from one point at once, by the packet kernel: `hidden` of lanes that an opaque surface stops.
  void blocked8(Vec3 origin, Rays8& rays) const;
  /// What straight light keeps along eight rays: 0 where an opaque surface stands, else what the panes ahead let
  /// through; 0 for lanes that are not active.
  std::array<double, 8> open8(Vec3 origin, Rays8& rays) const;
  /// What straight light keeps on its way through all panes ahead, none of which need stand there: 0…1.
  double throughGlass(Vec3 origin, Vec3 direction) const;

  const std::vector<Surface>& surfaces() const { return surfaces_; }
  const std::vector<Piece>& pieces() const { return pieces_; }
  const Finish& finishOf(std::uint32_t triangle) const { return finishes_[partFinish_[surfaces_[triangle].part]]; }
  const GlazingOptics& optics(std::uint32_t index) const { return optics_[index]; }
  /// Index in the project of the room a surface is of; −1 where it is of none.
  int roomOf(std::uint32_t triangle) const { return partRoom_[surfaces_[triangle].part]; }
  std::array<Vec3, 3> corners(std::uint32_t triangle) const;
  std::uint64_t elementOf(std::uint32_t triangle) const { return partElement_[surfaces_[triangle].part]; }
  double groundLevel() const { return groundLevel_; }
  double groundReflectance() const { return groundReflectance_; }
  std::size_t triangleCount() const { return surfaces_.size() + pieces_.size(); }
  std::size_t groupCount() const { return groupCount_; }
  /// Whose light it is that has passed `now` (0: no pane yet) and then, farther from the eye, a pane: that of the
  /// room's own window, whatever other glass comes before or after it (balustrade, canopy, second skin, atrium roof);
  /// where no pane is a room's, of the first.
  std::uint32_t charged(std::uint32_t now, const Piece& pane) const {
    return now == 0 || (groupRoom_[now] < 0 && pane.room >= 0) ? pane.group : now;
  }

private:
  RTCSceneTy* build(const std::vector<std::array<Vec3, 3>>& triangles, const float** corners = nullptr);
  Hit first(RTCSceneTy* scene, Vec3 origin, Vec3 direction, double from, double to) const;
  std::shared_ptr<RTCDeviceTy> device_;
  RTCSceneTy *opaque_ = nullptr, *glass_ = nullptr;
  std::vector<Surface> surfaces_;
  std::vector<Piece> pieces_;
  std::vector<Finish> finishes_;
  std::vector<std::uint32_t> partFinish_;
  std::vector<std::uint64_t> partElement_;
  std::vector<int> partRoom_;
  const float* corners_ = nullptr; ///< of the opaque triangles, in Embree's own buffer
  std::vector<GlazingOptics> optics_;
  double groundLevel_ = 0, groundReflectance_ = 0.2;
  std::size_t groupCount_ = 1;
  std::vector<int> groupRoom_{-1}; ///< by window group
};

} // namespace noonward
