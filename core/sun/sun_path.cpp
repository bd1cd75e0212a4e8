#include "core/sun/sun_path.h"
#include <array>
#include <cmath>

namespace noonward {

SunPath::SunPath(const SunKnots& knots, const Place& place, double northAngle, Instant start, double length)
    : start_(start), length_(length) {
  require(length > 0 && length <= 2 * 86400, "SunPath: a span of 0 to 2 days");
  const SunOfDate a = knots.at(start), m = knots.at(start + length / 2), b = knots.at(start + length);
  const double turn = 2 * pi / 86400; // the hour angle grows by nearly this a second
  const auto offset = [&](const SunOfDate& s, double t) { return s.greenwichHourAngle - turn * t; };
  const double ga = a.greenwichHourAngle;
  const double gm = ga + wrapPi(offset(m, length / 2) - ga), gb = ga + wrapPi(offset(b, length) - ga);
  // Quadratic through (0, ya), (L/2, ym), (L, yb).
  const auto fit = [&](double ya, double ym, double yb, double& c1, double& c2) {
    c2 = 2 * (ya - 2 * ym + yb) / (length * length);
    c1 = (yb - ya) / length - c2 * length;
  };
  h0_ = ga + place.longitude;
  fit(ga, gm, gb, h1_, h2_);
  h1_ += turn;
  d0_ = a.declination;
  fit(a.declination, m.declination, b.declination, d1_, d2_);
  leastDeclination_ = std::min({a.declination, m.declination, b.declination}) - 1e-4;
  mostDeclination_ = std::max({a.declination, m.declination, b.declination}) + 1e-4;
  middle_ = m.declination;
  sinMiddle_ = std::sin(m.declination);
  cosMiddle_ = std::cos(m.declination);

  const double sl = std::sin(place.latitude), cl = std::cos(place.latitude);
  pole_ = toModel({0, cl, sl}, northAngle);
  meridian_ = toModel({0, -sl, cl}, northAngle);
  west_ = toModel({-1, 0, 0}, northAngle);
  const SiteParallax site = siteParallax(place);
  parallax_ = toModel(Vec3{0, site.north, site.up} * (1 / m.distance), northAngle);
}

Vec3 SunPath::direction(double t) const {
  const double d = declination(t), h = hourAngle(t), cd = std::cos(d);
  return normalized(pole_ * std::sin(d) + meridian_ * (cd * std::cos(h)) + west_ * (cd * std::sin(h)) - parallax_);
}

SunPath::Side SunPath::side(Vec3 n, double c) const {
  return {dot(n, pole_), dot(n, meridian_), dot(n, west_), c - dot(n, parallax_)};
}

/// The declination keeps within 0.5° of its middle: its sine and cosine by their series there, to 1e-10.
SunPath::Waves SunPath::wavesAt(double t) const {
  const double x = declination(t) - middle_, h = hourAngle(t), s = x - x * x * x / 6, c = 1 - x * x / 2;
  return {sinMiddle_ * c + cosMiddle_ * s, cosMiddle_ * c - sinMiddle_ * s, std::sin(h), std::cos(h)};
}

double SunPath::value(const Side& f, const Waves& w) {
  return f.pole * w.sinD + w.cosD * (f.meridian * w.cosH + f.west * w.sinH) + f.offset;
}

double SunPath::value(const Side& f, double t) const {
  return value(f, wavesAt(t));
}

bool SunPath::mayBePositive(const Side& f) const {
  const double swing = std::hypot(f.meridian, f.west);
  return f.pole * sinMiddle_ + f.offset + swing * cosMiddle_ + 0.02 * (std::abs(f.pole) + swing) > 0;
}

bool SunPath::mayBeNegative(const Side& f) const {
  const double swing = std::hypot(f.meridian, f.west);
  return f.pole * sinMiddle_ + f.offset - swing * cosMiddle_ - 0.02 * (std::abs(f.pole) + swing) < 0;
}

double SunPath::slope(const Side& f, double t, const Waves& w, double* curvature) const {
  const double dd = d1_ + 2 * d2_ * t, dh = h1_ + 2 * h2_ * t;
  const double wave = f.meridian * w.cosH + f.west * w.sinH;
  *curvature = -w.cosD * wave * dh * dh;
  return (f.pole * w.cosD - w.sinD * wave) * dd + w.cosD * (f.west * w.cosH - f.meridian * w.sinH) * dh;
}

double SunPath::root(const Side& f, double a, double fa, double b, double fb) const {
  // Newton inside a bracket, bisection where Newton leaves it.
  double t = a + (b - a) * fa / (fa - fb);
  for (int i = 0; i < 60 && b - a > 1e-4; ++i) {
    const Waves w = wavesAt(t);
    const double ft = value(f, w);
    if (ft == 0) return t;
    ((ft > 0) == (fa > 0) ? a : b) = t;
    double curvature;
    const double next = t - ft / slope(f, t, w, &curvature);
    if (std::abs(next - t) < 1e-4 && next > a - 1e-3 && next < b + 1e-3) return next;
    t = next > a && next < b ? next : 0.5 * (a + b);
  }
  return t;
}

void SunPath::positive(const Side& f, Interval span, Intervals& out) const {
  if (!(span.end > span.begin) || !mayBePositive(f)) return;
  if (!mayBeNegative(f)) {
    out.push_back(span);
    return;
  }
  // Turning points: hour angles where the derivative of the wave vanishes, sharpened for the moving declination.
  std::array<double, 10> at{span.begin};
  std::size_t n = 1;
  const double top = std::atan2(f.west, f.meridian);
  const double first = hourAngle(span.begin), last = hourAngle(span.end);
  for (double h = top + pi * std::ceil((first - top) / pi); h < last && n + 1 < at.size(); h += pi) {
    double t = (h - h0_) / h1_;
    t -= (hourAngle(t) - h) / h1_;
    for (int i = 0; i < 2; ++i) {
      double curvature;
      const double s = slope(f, t, wavesAt(t), &curvature);
      if (std::abs(curvature) > 1e-30) t -= std::clamp(s / curvature, -900.0, 900.0);
    }
    if (t > at[n - 1] && t < span.end) at[n++] = t;
  }
  at[n++] = span.end;

  double fa = value(f, at[0]);
  double open = fa > 0 ? span.begin : -1;
  bool isOpen = fa > 0;
  for (std::size_t i = 1; i < n; ++i) {
    const double fb = value(f, at[i]);
    if ((fb > 0) != isOpen) {
      const double t = root(f, at[i - 1], fa, at[i], fb);
      if (isOpen) {
        if (t > open) out.push_back({open, t});
      } else {
        open = t;
      }
      isOpen = !isOpen;
    }
    fa = fb;
  }
  if (isOpen && span.end > open) out.push_back({open, span.end});
}

Intervals SunPath::above(double trueAltitude) const {
  Intervals out;
  // The vector of side() is not quite of unit length: parallax shortens it by its part along the sun.
  const double z = std::sin(trueAltitude);
  positive(side({0, 0, 1}, -z * (1 - parallax_.z * z)), {0, length_}, out);
  return out;
}

} // namespace noonward
