#pragma once
// The view out of a point by EN 17037:2018 (5.2 and annex C): by rays through glass with what really stands outside.
//
// A point looks round from its own height in 240 directions across and 31 altitudes from 60° below to 60° above the
// horizon; a direction is a way out where it passes clear glass and meets nothing of a room behind it.
// - Horizontal sight angle: the directions across in which any altitude is a way out, 1.5° each, all openings together.
// - Outside distance: for each such direction from the last pane to the first solid thing (buildings and other solids,
//   not trees or ground) on the way out nearest to the horizon at or above it, or else nearest below; at a point the
//   median over its directions. Nothing met counts as 1000 m.
// - Layers: sky; landscape: anything that stands, and ground within 5° below the horizon; ground farther below.
// A point's level is the highest of which it has all three: angle ≥ 14, 28, 54°, distance ≥ 6, 20, 50 m, and landscape,
// landscape and one more, all three layers.

#include "core/studies/light_study.h"

namespace noonward {

struct ViewLevel {
  double angle, distance; ///< rad, m
  int layers;             ///< of three, landscape among them
};
inline constexpr std::array<ViewLevel, 3> viewLevels{
    {{14 * radiansPerDegree, 6, 1}, {28 * radiansPerDegree, 20, 2}, {54 * radiansPerDegree, 50, 3}}};
inline constexpr double farthestView = 1000; ///< m, where nothing is met

/// What one point sees outdoors.
struct ViewOut {
  double angle = 0;    ///< rad
  double distance = 0; ///< m; 0 where nothing outdoors is seen
  bool sky = false, landscape = false, ground = false;
  double share = 0;                                  ///< of the solid angle within 60° of the horizon
  double skyPart = 0, greenPart = 0, groundPart = 0; ///< of what is seen, by solid angle
  std::map<std::uint64_t, double> elements;          ///< sr, of each element seen
  int level() const;
  /// What keeps it from the next level, a sentence each.
  std::vector<std::string> wanting() const;
};

/// Elements by id: what stands, what grows, what is ground.
using SeenThings = std::map<std::uint64_t, SeenThing>;
SeenThings seenThings(const Project& project);
ViewOut viewOutOf(const LightScene& scene, const SeenThings& things, Vec3 eye);
/// "Sky 31 %, ground 20 %, neighbour "Harbour store" 12 %" of what is seen outdoors.
std::string viewText(const ViewOut& view, const SeenThings& things);

/// Of LightKind.
Outcome viewQuestion(const Project& project, const Study& study, std::optional<Instant> moment, LightInput& input,
                     Hasher& hash);
LightResult runViewOut(const LightInput& input, RunControl& control, Threads threads);

} // namespace noonward
