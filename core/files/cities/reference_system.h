#pragma once
// Where on Earth the coordinates of a projected reference system lie (PROJ, by EPSG number).

#include "core/base/error.h"
#include "core/base/vec.h"
#include "core/sun/solar_position.h"
#include <vector>

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

struct Reprojected {
  std::vector<Vec2> points;
  double accuracy = -1; ///< m, of the way between the two systems; below 0: not known
};
/// Points from one system into another: an EPSG number, or the text of a .prj file (WKT). Degrees go as x longitude, y
/// latitude. Errors: a system that is not known, no way between the two, or a point that one of them does not reach.
Expected<Reprojected> reprojected(const std::string& from, const std::string& to, std::vector<Vec2> points);

/// What a .prj file says of an EPSG number (WKT); nothing where it is not known.
std::string prjOf(const std::string& system);

/// Does the system count in degrees? False too where it is not known.
bool inDegrees(const std::string& system);

/// Metres in the unit of a plane's system, 1 where it is not known.
double metresInUnitOf(const std::string& system);

} // namespace noonward
