#pragma once
// The sun's way over at most two days as a smooth curve in the model's axes, and exactly when it is on the positive
// side of a plane: the ground on which exact sun hours stand.
//
// Seen from a site the unit vector to the sun is
//     s(t) = P sin δ + Q cos δ cos H + R cos δ sin H − parallax,
// P to the celestial pole, Q to the meridian point of the equator, R to the west point of the horizon; hour angle H and
// declination δ are quadratics in time fitted through three knots (start, middle, end of the span). Worst error of the
// fit over a year at 24 h spans: 0.00005° (tested); a crossing moves by less than 0.01 s.
// The curve n·s(t) + c has at most two turning points a day; between them it is monotonic, so no crossing can be missed
// however short the stretch: there is no step.

#include "core/sun/intervals.h"
#include "core/sun/solar_position.h"

namespace noonward {

class SunPath {
public:
  /// From `start` for `length` seconds (at most 2 days). northAngle: true azimuth of the model's +y axis, rad.
  SunPath(const SunKnots& knots, const Place& place, double northAngle, Instant start, double length);

  Instant start() const { return start_; }
  double length() const { return length_; }
  /// Unit vector to the sun in the model's axes; seconds from start.
  Vec3 direction(double t) const;

  /// n·s(t) + c with its turning points, prepared once.
  struct Side {
    double pole, meridian, west, offset; ///< dot products of n with P, Q, R; c less parallax
  };
  Side side(Vec3 n, double c = 0) const;
  double value(const Side& f, double t) const;
  /// Could f be positive (negative) somewhere on the path? False only where that is certain; costs a few operations.
  bool mayBePositive(const Side& f) const;
  bool mayBeNegative(const Side& f) const;
  /// The stretches of `span` in which f(t) > 0, to within 1 ms; appended to `out` in order.
  void positive(const Side& f, Interval span, Intervals& out) const;

  /// Where the sun's centre stands above a true altitude (rad).
  Intervals above(double trueAltitude) const;

  Vec3 pole() const { return pole_; }
  Vec3 meridian() const { return meridian_; }
  Vec3 west() const { return west_; }
  double hourAngleAt(double t) const { return hourAngle(t); } ///< rad, unwrapped from the start
  double leastDeclination() const { return leastDeclination_; }
  double mostDeclination() const { return mostDeclination_; }

private:
  double hourAngle(double t) const { return h0_ + t * (h1_ + t * h2_); }
  double declination(double t) const { return d0_ + t * (d1_ + t * d2_); }
  struct Waves {
    double sinD, cosD, sinH, cosH;
  };
  Waves wavesAt(double t) const;
  static double value(const Side& f, const Waves& w);
  double slope(const Side& f, double t, const Waves& w, double* curvature) const;
  double root(const Side& f, double a, double fa, double b, double fb) const;

  Instant start_;
  double length_;
  Vec3 pole_, meridian_, west_, parallax_;
  double h0_, h1_, h2_, d0_, d1_, d2_;
  double leastDeclination_, mostDeclination_, middle_, sinMiddle_, cosMiddle_;
};

} // namespace noonward
