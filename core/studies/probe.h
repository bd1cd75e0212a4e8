#pragma once
// One spot: what stands around it on the sky, and its sun and shade through the year.

#include "core/light/scene.h"
#include "core/sun/sun_path.h"

namespace noonward {

struct SkylineStep {
  double azimuth = 0;  ///< rad, true
  double altitude = 0; ///< rad: the sky is free above this in one piece up from the horizon; 0 where nothing stands
  std::uint64_t element = 0; ///< what makes the edge, id value; 0 for none
};

/// The dome seen from the point, for pictures: cell (azimuth, altitude) holds the element hit, 0 for sky.
struct Dome {
  static constexpr int azimuths = 360, altitudes = 90; ///< 1° cells, sampled in their middle
  std::vector<std::uint64_t> element; ///< altitude-major: [altitude * azimuths + azimuth]; see RayHit::element
  std::vector<Role> role;             ///< alike: what it is
  std::vector<std::uint64_t> glass;   ///< alike: the first pane on the way, 0 where there is none
  bool glazed(int azimuth, int altitude) const {
    return !glass.empty() && glass[std::size_t(altitude * azimuths + azimuth)];
  }
  std::uint64_t at(int azimuth, int altitude) const { return element[std::size_t(altitude * azimuths + azimuth)]; }
  Role roleAt(int azimuth, int altitude) const { return role[std::size_t(altitude * azimuths + azimuth)]; }
};

enum class ProbeState : std::uint8_t { Night, Behind, Shade, Sun };

/// A spot on the model that is asked about.
struct ProbeSpot {
  Vec3 position;
  Vec3 normal{0, 0, 1};
  bool operator==(const ProbeSpot&) const = default;
};

struct ProbeInput {
  Vec3 position;
  Vec3 normal{0, 0, 1};
  Place place;
  Zone zone;
  double northAngle = 0;
  int year = 2026;
};

struct ProbeResult {
  std::vector<SkylineStep> skyline; ///< every 0.5° of true azimuth, edges within 0.02°
  Dome dome;
  /// Every 5 minutes of the year by UTC from `yearStart` on: sun, shade, behind the surface or night. The instant
  /// stands in the middle of its 5 minutes. Sun from daily knots (0.00001°).
  std::vector<ProbeState> year;
  Instant yearStart; ///< local midnight of 1 January
  int room = -1;     ///< index in the project of the room it is in; -1 outdoors
  double seconds = 0;
  double sunHours = 0; ///< of the year, by the 5-minute samples
  ProbeState at(Instant t) const;
};
inline constexpr double probeStep = 300; ///< s

/// `glass`: panes that light passes but that are told apart in the dome. The sun through them counts as sun.
ProbeResult probe(const Scene& scene, const ProbeInput& input, const Scene* glass = nullptr);

} // namespace noonward
