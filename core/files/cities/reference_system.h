#pragma once
// Where on Earth the coordinates of a projected reference system lie (PROJ, by EPSG number).

#include "core/base/error.h"
#include "core/sun/solar_position.h"

namespace noonward {

struct Located {
  Place place;              ///< of the point; elevation 0
  double northAngle = 0;    ///< rad, true azimuth of the system's +y there
  double metresPerUnit = 1; ///< of the system's lengths, along +y on the ellipsoid
};

/// The EPSG number in "EPSG:25832", "urn:ogc:def:crs:EPSG::25832" or "https://www.opengis.net/def/crs/EPSG/0/25832"; 0
/// where there is none.
int epsgNumber(const std::string& system);

/// A point by easting and northing, in the system's own unit. Errors: no EPSG number, unknown, a system in degrees, or
/// a point that the system does not reach.
Expected<Located> locate(const std::string& system, double easting, double northing);

} // namespace noonward
