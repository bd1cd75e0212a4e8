#include "core/studies/glare.h"
#include "core/base/units.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>

namespace noonward {

EyeFrame EyeFrame::along(Vec3 forward) {
  EyeFrame e;
  e.forward = normalized(forward);
  const Vec3 level = cross(e.forward, Vec3{0, 0, 1});
  e.right = length(level) > 1e-6 ? normalized(level) : Vec3{1, 0, 0};
  e.up = cross(e.right, e.forward);
  return e;
}

double positionIndex(Vec3 s, const EyeFrame& eye) {
  const double ahead = dot(s, eye.forward), side = dot(s, eye.right), over = dot(s, eye.up);
  if (ahead <= 1e-9) return std::numeric_limits<double>::infinity();
  if (over < 0) { // Iwata and Tokura 1997: lengths on a plane at distance D ahead
    const double r = std::hypot(side, over) / ahead;
    return 1 + (r < 0.6 ? 0.8 : 1.2) * r;
  }
  // Guth: angles in degrees, tau from the upright of the plane through source and line of sight, sigma off that line.
  constexpr double degree = 180 / std::numbers::pi;
  const double sigma = degree * std::acos(std::clamp(ahead, -1.0, 1.0));
  const double tau = degree * std::atan2(std::abs(side), over);
  const double near = (35.2 - 0.31889 * tau - 1.22 * std::exp(-2 * tau / 9)) * 1e-3 * sigma,
               far = (21 + 0.26667 * tau - 0.002963 * tau * tau) * 1e-5 * sigma * sigma;
  return std::exp(near + far);
}

double daylightGlareProbability(double ev, std::span<const GlareSource> sources) {
  if (!(ev > 0)) return 0.16;
  double sum = 0;
  for (const GlareSource& s : sources) sum += s.weight();
  return 5.87e-5 * ev + 9.18e-2 * std::log10(1 + sum / std::pow(ev, 1.87)) + 0.16;
}

const char* glareWord(double dgp) {
  return dgp < 0.35 ? "imperceptible" : dgp < 0.4 ? "perceptible" : dgp < 0.45 ? "disturbing" : "intolerable";
}

std::string Glare::dgpText() const {
  return dgpError >= 0.0005 ? fmt::format("{:.3f} ± {:.3f}", dgp, dgpError) : fmt::format("{:.3f} ± under 0.001", dgp);
}

std::string Glare::rangeText() const {
  if (ev < 380)
    return fmt::format("Ev of {:.0f} lx lies below the 380 lx from which the formula was made: DGP is doubtful.", ev);
  if (dgp < 0.2 || dgp > 0.8)
    return fmt::format("{:.2f} lies outside 0.2 to 0.8, for which the formula was made: DGP is doubtful.", dgp);
  return {};
}

std::vector<GlareSource> sourcesAmong(std::span<const GlareSpot> spots, double threshold, const EyeFrame& eye,
                                      double reach) {
  struct Gathered {
    Vec3 sum; ///< of directions, by solid angle
    double light = 0, solidAngle = 0;
    Vec3 middle() const { return normalized(sum); }
  };
  std::vector<Gathered> found;
  const double near = std::cos(reach);
  for (const GlareSpot& s : spots) {
    if (!(s.luminance > threshold) || dot(s.direction, eye.forward) <= 0) continue;
    Gathered* best = nullptr;
    double closest = near;
    for (Gathered& g : found)
      if (const double c = dot(g.middle(), s.direction); c >= closest) {
        closest = c;
        best = &g;
      }
    if (!best) best = &found.emplace_back();
    best->sum = best->sum + s.direction * s.solidAngle;
    best->light += s.luminance * s.solidAngle;
    best->solidAngle += s.solidAngle;
  }
  std::vector<GlareSource> out;
  for (const Gathered& g : found) {
    const Vec3 middle = g.middle();
    out.push_back({g.light / g.solidAngle, g.solidAngle, middle, positionIndex(middle, eye), false});
  }
  std::stable_sort(out.begin(), out.end(),
                   [](const GlareSource& a, const GlareSource& b) { return a.weight() > b.weight(); });
  return out;
}

} // namespace noonward
