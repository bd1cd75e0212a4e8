#pragma once
// Where the sun stands: apparent topocentric position from ERFA (IAU 2006/2000B precession-nutation, Earth and Sun from
// eraEpv00, annual aberration, diurnal parallax on the WGS 84 ellipsoid).
//
// Angles are radians. Latitude north, longitude east; azimuth clockwise from true north; altitude above the horizontal
// plane. UT1 is taken as UTC and ΔT from a polynomial: together at most 0.004°.
// Checked: worked example of Reda and Andreas (NREL/TP-560-34302, 2008) within 0.0002°; see tests/sun.

#include "core/base/vec.h"
#include "core/sun/time.h"
#include <optional>
#include <vector>

namespace noonward {

/// Model axes (x, y, z up) from true axes (east, north, up): the model's +y points to the true azimuth `northAngle`.
Vec3 toModel(Vec3 v, double northAngle);
/// The direction of a place on the sky, in the model's axes.
Vec3 skyDirection(double altitude, double azimuth, double northAngle = 0);

struct Place {
  double latitude = 0;  ///< rad, north positive
  double longitude = 0; ///< rad, east positive
  double elevation = 0; ///< m above the ellipsoid
  bool operator==(const Place&) const = default;
};

/// Great-circle distance in metres on a sphere of 6371 km.
double distanceBetween(const Place& a, const Place& b);

struct Air {
  double pressure = 1013.25; ///< hPa
  double temperature = 15;   ///< °C
};
/// ISO 2533 standard atmosphere at an elevation in metres.
Air standardAir(double elevation);

/// Refraction to add to a true altitude (rad). Formula of Bennett turned round (Saemundsson 1986) as used by Reda and
/// Andreas, eq. 42; zero where the whole disc is below the horizon (true altitude under -0.8333°).
double refraction(double trueAltitude, Air air);
/// The true altitude (rad) at which the apparent altitude is the given one.
double trueAltitudeOf(double apparentAltitude, Air air);

/// TT - UT in seconds (Espenak and Meeus 2006, 1900-2150; extended by their parabola).
double deltaT(int year, int month);

/// The geocentric apparent sun of one instant, seen against the turning Earth.
struct SunOfDate {
  double greenwichHourAngle = 0; ///< rad, (-π, π]
  double declination = 0;        ///< rad
  double distance = 1;           ///< astronomical units
  double equationOfTime = 0;     ///< rad, apparent minus mean
};
/// Full computation, about 0.1 ms. deltaTSeconds: TT - UT, from deltaT() where absent.
SunOfDate sunOfDate(Instant t, std::optional<double> deltaTSeconds = {});

struct SolarPosition {
  double azimuth = 0;        ///< rad, [0, 2π)
  double altitude = 0;       ///< rad, topocentric, without refraction
  double hourAngle = 0;      ///< rad, local, geocentric, (-π, π]
  double declination = 0;    ///< rad
  double equationOfTime = 0; ///< rad
  Vec3 direction;            ///< unit vector to the sun: x east, y true north, z up
};
SolarPosition solarPosition(const SunOfDate& sun, const Place& place);

/// The site's own distance from the Earth's centre, in astronomical units, along north and up: what parallax takes off.
struct SiteParallax {
  double north = 0, up = 0;
};
SiteParallax siteParallax(const Place& place);

/// Daily knots of the sun, interpolated with six-point Lagrange polynomials: within 0.00001° of sunOfDate() (tested
/// over a year), at about 50 ns a call. Covers the days asked for and no others.
class SunKnots {
public:
  SunKnots(Instant from, Instant to);
  static SunKnots ofYear(int year); ///< with two days to spare on both sides
  bool covers(Instant t) const;
  SunOfDate at(Instant t) const; ///< t must be covered

private:
  double firstDay_ = 0; // days since 1970 of knot 0
  std::vector<double> hourAngle_, declination_, distance_;
};

} // namespace noonward
