#pragma once
// Daylight glare probability (Wienold and Christoffersen 2006, Energy and Buildings 38, 743–757, eq. 8):
//
//   DGP = 5.87e-5 Ev + 9.18e-2 log10(1 + Σ Ls² ωs / (Ev^1.87 P²)) + 0.16
//
// Ev lx at the eye over the whole hemisphere, sun included; Ls cd/m², ωs sr and the position index P of each glare
// source. Made from Ev of 380 lx up and for values of 0.2 to 0.8: outside that it is computed and said to be doubtful.
//
// P above the line of sight by Guth's formula, below it by Iwata and Tokura's, as that paper gives both.

#include "core/base/vec.h"
#include <span>
#include <string>
#include <vector>

namespace noonward {

inline constexpr double sunHalfAngle = 0.2665 * 3.14159265358979323846 / 180; ///< rad, of the sun's disc

/// Where an eye looks: unit vectors at right angles.
struct EyeFrame {
  Vec3 forward{0, 1, 0}, right{1, 0, 0}, up{0, 0, 1};
  /// Upright head: `right` is level. Straight up or down the drawing's +y (−y) stands for up.
  static EyeFrame along(Vec3 forward);
};

/// 1 on the line of sight, rising away from it; infinite at right angles to it and behind, where nothing is seen.
/// `toSource`: unit.
double positionIndex(Vec3 toSource, const EyeFrame& eye);

struct GlareSource {
  double luminance = 0, solidAngle = 0; ///< cd/m², sr
  Vec3 direction;                       ///< unit, of its middle
  double position = 1;                  ///< index P of the middle
  bool sun = false;                     ///< the disc itself
  /// Ls² ωs / P²
  double weight() const { return luminance * luminance * solidAngle / (position * position); }
};

struct Glare {
  double ev = 0, evError = 0;       ///< lx and its standard error
  double dgp = 0, dgpError = 0;     ///< standard error: numerical alone
  double contrast = 0;              ///< of it by the second term
  double mean = 0;                  ///< cd/m² of the hemisphere by solid angle
  double threshold = 0;             ///< cd/m² from which a source was one
  std::vector<GlareSource> sources; ///< the strongest by weight first
  bool inRange() const { return ev >= 380 && dgp >= 0.2 && dgp <= 0.8; }
  std::string dgpText() const;   ///< "0.367 ± 0.002", "0.367 ± under 0.001"
  std::string rangeText() const; ///< empty where it is in range: "Ev of 210 lx lies below the 380 lx the formula …"
};
/// The formula itself. 0 sources: the second term is 0. Ev 0: no light, 0.16 and nothing else.
double daylightGlareProbability(double ev, std::span<const GlareSource> sources);
/// "imperceptible" below 0.35, "perceptible" to 0.40, "disturbing" to 0.45, "intolerable" from there.
const char* glareWord(double dgp);

/// A spot of a hemisphere and what it sends to the eye.
struct GlareSpot {
  Vec3 direction;                       ///< unit
  double luminance = 0, solidAngle = 0; ///< cd/m², sr
};
/// Spots brighter than a threshold, taken together where they lie within `reach` rad of a source's middle. In the order
/// of the spots, so that the same spots give the same sources.
std::vector<GlareSource> sourcesAmong(std::span<const GlareSpot> spots, double threshold, const EyeFrame& eye,
                                      double reach = 0.2);

} // namespace noonward
