#include "core/sun/solar_position.h"
#include <cmath>
#include <erfa.h>

namespace noonward {

Vec3 toModel(Vec3 v, double northAngle) {
  const double c = std::cos(northAngle), s = std::sin(northAngle);
  return {v.x * c - v.y * s, v.x * s + v.y * c, v.z};
}

Vec3 skyDirection(double altitude, double azimuth, double northAngle) {
  return toModel({std::cos(altitude) * std::sin(azimuth), std::cos(altitude) * std::cos(azimuth), std::sin(altitude)},
                 northAngle);
}

namespace {
constexpr double astronomicalUnit = 149597870700.0; // m
constexpr double unixEpochJd = 2440587.5;
} // namespace

double distanceBetween(const Place& a, const Place& b) {
  const double s = std::pow(std::sin((b.latitude - a.latitude) / 2), 2) +
                   std::cos(a.latitude) * std::cos(b.latitude) * std::pow(std::sin((b.longitude - a.longitude) / 2), 2);
  return 2 * 6371000 * std::asin(std::min(1.0, std::sqrt(s)));
}

Air standardAir(double elevation) {
  const double h = std::min(std::max(elevation, -500.0), 11000.0);
  return {1013.25 * std::pow(1 - 2.25577e-5 * h, 5.25588), 15 - 0.0065 * h};
}

double refraction(double trueAltitude, Air air) {
  const double e = degrees(trueAltitude);
  if (e < -(0.26667 + 0.5667)) return 0;
  return radians(air.pressure / 1010 * 283 / (273 + air.temperature) * 1.02 /
                 (60 * std::tan(radians(e + 10.3 / (e + 5.11)))));
}

double trueAltitudeOf(double apparent, Air air) {
  double a = apparent;
  for (int i = 0; i < 20; ++i) a = apparent - refraction(a, air);
  return a;
}

double deltaT(int year, int month) {
  const double y = year + (month - 0.5) / 12;
  const auto parabola = [](double at) { return -20 + 32 * std::pow((at - 1820) / 100, 2); };
  if (y < 1900 || y >= 2150) return parabola(y);
  if (y < 1920) {
    const double t = y - 1900;
    return -2.79 + t * (1.494119 + t * (-0.0598939 + t * (0.0061966 - t * 0.000197)));
  }
  if (y < 1941) {
    const double t = y - 1920;
    return 21.20 + t * (0.84493 + t * (-0.076100 + t * 0.0020936));
  }
  if (y < 1961) {
    const double t = y - 1950;
    return 29.07 + t * (0.407 + t * (-1 / 233.0 + t / 2547));
  }
  if (y < 1986) {
    const double t = y - 1975;
    return 45.45 + t * (1.067 + t * (-1 / 260.0 - t / 718));
  }
  if (y < 2005) {
    const double t = y - 2000;
    return 63.86 + t * (0.3345 + t * (-0.060374 + t * (0.0017275 + t * (0.000651814 + t * 0.00002373599))));
  }
  if (y < 2050) {
    const double t = y - 2000;
    return 62.92 + t * (0.32217 + t * 0.005589);
  }
  return parabola(y) - 0.5628 * (2150 - y);
}

SunOfDate sunOfDate(Instant t, std::optional<double> deltaTSeconds) {
  const double ut = t.seconds / 86400;
  const CivilTime c = civil(t, 0);
  const double dt = deltaTSeconds.value_or(deltaT(c.date.year, c.date.month));
  const double tt = ut + dt / 86400;

  double earthFromSun[2][3], earthFromBarycentre[2][3];
  eraEpv00(unixEpochJd, tt, earthFromSun, earthFromBarycentre); // +1 (outside 1900-2100) still computes
  const double* p = earthFromSun[0];
  const double distance = std::sqrt(p[0] * p[0] + p[1] * p[1] + p[2] * p[2]);
  double natural[3], velocity[3], apparent[3];
  constexpr double lightDay = 86400 * 299792458.0 / astronomicalUnit; // au a day
  double v2 = 0;
  for (int i = 0; i < 3; ++i) {
    natural[i] = -p[i] / distance;
    velocity[i] = earthFromBarycentre[1][i] / lightDay;
    v2 += velocity[i] * velocity[i];
  }
  eraAb(natural, velocity, distance, std::sqrt(1 - v2), apparent);

  double dpsi, deps, epsa, rb[3][3], rp[3][3], rbp[3][3], rn[3][3], rbpn[3][3];
  eraPn00b(unixEpochJd, tt, &dpsi, &deps, &epsa, rb, rp, rbp, rn, rbpn);
  double ofDate[3];
  eraRxp(rbpn, apparent, ofDate);
  double rightAscension, declination;
  eraC2s(ofDate, &rightAscension, &declination);

  const double sidereal = eraGst00b(unixEpochJd, ut); // UT1 = UTC
  SunOfDate out;
  out.greenwichHourAngle = wrapPi(sidereal - rightAscension);
  out.declination = declination;
  out.distance = distance;
  out.equationOfTime = wrapPi(out.greenwichHourAngle - 2 * pi * (ut - std::floor(ut)) + pi);
  return out;
}

SiteParallax siteParallax(const Place& place) {
  constexpr double a = 6378137.0, e2 = 6.69437999014e-3; // WGS 84
  const double s = std::sin(place.latitude), c = std::cos(place.latitude);
  const double n = a / std::sqrt(1 - e2 * s * s);
  const double equatorial = (n + place.elevation) * c, polar = (n * (1 - e2) + place.elevation) * s;
  return {(-equatorial * s + polar * c) / astronomicalUnit, (equatorial * c + polar * s) / astronomicalUnit};
}

SolarPosition solarPosition(const SunOfDate& sun, const Place& place) {
  SolarPosition out;
  out.declination = sun.declination;
  out.equationOfTime = sun.equationOfTime;
  out.hourAngle = wrapPi(sun.greenwichHourAngle + place.longitude);
  const double sl = std::sin(place.latitude), cl = std::cos(place.latitude);
  const double sd = std::sin(sun.declination), cd = std::cos(sun.declination);
  const double sh = std::sin(out.hourAngle), ch = std::cos(out.hourAngle);
  const SiteParallax site = siteParallax(place);
  out.direction = normalized(Vec3{-cd * sh, sd * cl - cd * sl * ch - site.north / sun.distance,
                                  sd * sl + cd * cl * ch - site.up / sun.distance});
  out.altitude = std::asin(std::clamp(out.direction.z, -1.0, 1.0));
  out.azimuth = wrapTwoPi(std::atan2(out.direction.x, out.direction.y));
  return out;
}

SunKnots::SunKnots(Instant from, Instant to) {
  firstDay_ = std::floor(from.seconds / 86400) - 3;
  const double last = std::ceil(to.seconds / 86400) + 3;
  for (double day = firstDay_; day <= last; ++day) {
    const SunOfDate s = sunOfDate({day * 86400});
    double h = s.greenwichHourAngle;
    if (!hourAngle_.empty()) h = hourAngle_.back() + wrapPi(h - hourAngle_.back());
    hourAngle_.push_back(h);
    declination_.push_back(s.declination);
    distance_.push_back(s.distance);
  }
}

SunKnots SunKnots::ofYear(int year) {
  return SunKnots(utc({{year, 1, 1}, -2 * 86400.0}), utc({{year + 1, 1, 1}, 2 * 86400.0}));
}

bool SunKnots::covers(Instant t) const {
  const double x = t.seconds / 86400 - firstDay_;
  return x >= 2 && x <= double(hourAngle_.size()) - 3;
}

SunOfDate SunKnots::at(Instant t) const {
  require(covers(t), "SunKnots::at: the instant lies outside the days computed");
  const double x = t.seconds / 86400 - firstDay_;
  const int i = std::clamp(int(std::floor(x)), 2, int(hourAngle_.size()) - 4);
  const double u = x - i; // knots at u = -2 … 3
  // Lagrange weights for the six knots.
  const double m2 = u + 2, m1 = u + 1, p1 = u - 1, p2 = u - 2, p3 = u - 3;
  const double w[6] = {-m1 * u * p1 * p2 * p3 / 120, m2 * u * p1 * p2 * p3 / 24,  -m2 * m1 * p1 * p2 * p3 / 12,
                       m2 * m1 * u * p2 * p3 / 12,   -m2 * m1 * u * p1 * p3 / 24, m2 * m1 * u * p1 * p2 / 120};
  double h = 0;
  SunOfDate out;
  out.declination = out.distance = 0;
  for (int k = 0; k < 6; ++k) {
    const auto j = std::size_t(i - 2 + k);
    h += w[k] * hourAngle_[j];
    out.declination += w[k] * declination_[j];
    out.distance += w[k] * distance_[j];
  }
  const double day = t.seconds / 86400 - std::floor(t.seconds / 86400);
  out.greenwichHourAngle = wrapPi(h + 2 * pi * day);
  out.equationOfTime = wrapPi(h + pi);
  return out;
}

} // namespace noonward
