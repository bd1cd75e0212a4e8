#include "core/files/cities/reference_system.h"
#include "core/sun/earth.h"
#include <cmath>
#include <fmt/format.h>
#include <memory>
#include <proj.h>

namespace noonward {

int epsgNumber(const std::string& system) {
  auto at = system.find("EPSG");
  if (at == std::string::npos) at = system.find("epsg");
  if (at == std::string::npos) return 0;
  // The last run of digits: versions stand before the number.
  const auto last = system.find_last_of("0123456789");
  if (last == std::string::npos || last < at) return 0;
  auto first = last;
  while (first > 0 && std::isdigit(static_cast<unsigned char>(system[first - 1]))) --first;
  return last - first < 6 ? std::atoi(system.substr(first, last - first + 1).c_str()) : 0;
}

Expected<Located> locate(const std::string& system, double easting, double northing) {
  const int number = epsgNumber(system);
  if (number == 0) return fail(fmt::format("\"{}\" names no EPSG number.", system));
  const std::string code = fmt::format("EPSG:{}", number);
  const std::unique_ptr<PJ_CONTEXT, decltype(&proj_context_destroy)> context(proj_context_create(),
                                                                             proj_context_destroy);
  proj_log_level(context.get(), PJ_LOG_NONE);
  const auto owned = [](PJ* p) { return std::unique_ptr<PJ, decltype(&proj_destroy)>(p, proj_destroy); };
  const auto crs = owned(proj_create(context.get(), code.c_str()));
  if (!crs) return fail(fmt::format("{} is no reference system that is known here.", code));
  auto level = proj_get_type(crs.get());
  auto flat = owned(nullptr);
  if (level == PJ_TYPE_COMPOUND_CRS) { // a plane with heights
    flat = owned(proj_crs_get_sub_crs(context.get(), crs.get(), 0));
    level = flat ? proj_get_type(flat.get()) : level;
  }
  if (level != PJ_TYPE_PROJECTED_CRS)
    return fail(fmt::format("{} counts in degrees or from the Earth's middle, not on a plane.", code));
  const auto raw = owned(proj_create_crs_to_crs(context.get(), code.c_str(), "EPSG:4326", nullptr));
  const auto map = raw ? owned(proj_normalize_for_visualization(context.get(), raw.get()))
                       : owned(nullptr); // easting first, longitude first
  if (!map) return fail(fmt::format("There is no way from {} to longitude and latitude here.", code));
  const auto at = [&](double x, double y) {
    proj_errno_reset(map.get());
    const PJ_COORD c = proj_trans(map.get(), PJ_FWD, proj_coord(x, y, 0, 0));
    return Place{radians(c.xy.y), radians(c.xy.x), 0};
  };
  Located out;
  out.place = at(easting, northing);
  const Place north = at(easting, northing + 100);
  if (!std::isfinite(out.place.latitude) || !std::isfinite(north.latitude) ||
      std::abs(out.place.latitude) > radians(89.9))
    return fail(fmt::format("The point {:.0f}, {:.0f} lies outside what {} covers.", easting, northing, code));
  const Vec2 each = earth::metresPerRadian(out.place.latitude);
  const double e = (north.longitude - out.place.longitude) * each.x, n = (north.latitude - out.place.latitude) * each.y;
  out.northAngle = std::atan2(e, n);
  out.metresPerUnit = std::hypot(e, n) / 100;
  return out;
}

} // namespace noonward
