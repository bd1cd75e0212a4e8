#include "core/files/cities/reference_system.h"
#include "core/sun/earth.h"
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <memory>
#include <proj.h>

namespace noonward {

namespace {

struct Context {
  std::unique_ptr<PJ_CONTEXT, decltype(&proj_context_destroy)> in{proj_context_create(), proj_context_destroy};
  Context() { proj_log_level(in.get(), PJ_LOG_NONE); }
  PJ_CONTEXT* get() const { return in.get(); }
};
using Owned = std::unique_ptr<PJ, decltype(&proj_destroy)>;

Owned owned(PJ* p) {
  return Owned(p, proj_destroy);
}

/// As PROJ takes it: the text of a .prj file as it is, else by the number.
std::string codeOf(const std::string& system) {
  if (system.find('[') != std::string::npos) return system;
  const int number = epsgNumber(system);
  return number == 0 ? system : fmt::format("EPSG:{}", number);
}

/// A plane with heights is as good as the plane.
Owned planeOf(const Context& context, const std::string& code) {
  auto crs = owned(proj_create(context.get(), code.c_str()));
  if (crs && proj_get_type(crs.get()) == PJ_TYPE_COMPOUND_CRS)
    crs = owned(proj_crs_get_sub_crs(context.get(), crs.get(), 0));
  return crs;
}

/// Easting first, longitude first.
Owned wayBetween(const Context& context, const PJ* from, const PJ* to) {
  const auto raw = owned(proj_create_crs_to_crs_from_pj(context.get(), from, to, nullptr, nullptr));
  return raw ? owned(proj_normalize_for_visualization(context.get(), raw.get())) : owned(nullptr);
}

} // namespace

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
  const Context context;
  const auto crs = planeOf(context, code);
  if (!crs) return fail(fmt::format("{} is no reference system that is known here.", code));
  if (proj_get_type(crs.get()) != PJ_TYPE_PROJECTED_CRS)
    return fail(fmt::format("{} counts in degrees or from the Earth's middle, not on a plane.", code));
  const auto earth = owned(proj_create(context.get(), "EPSG:4326"));
  const auto map = earth ? wayBetween(context, crs.get(), earth.get()) : owned(nullptr);
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

bool inDegrees(const std::string& system) {
  const Context context;
  const auto crs = planeOf(context, codeOf(system));
  if (!crs) return false;
  const PJ_TYPE kind = proj_get_type(crs.get());
  return kind == PJ_TYPE_GEOGRAPHIC_2D_CRS || kind == PJ_TYPE_GEOGRAPHIC_3D_CRS;
}

std::string prjOf(const std::string& system) {
  const Context context;
  const auto crs = planeOf(context, codeOf(system));
  const char* text = crs ? proj_as_wkt(context.get(), crs.get(), PJ_WKT1_ESRI, nullptr) : nullptr;
  return text ? std::string(text) + "\n" : std::string();
}

double metresInUnitOf(const std::string& system) {
  const Context context;
  const auto crs = planeOf(context, codeOf(system));
  const auto axes = crs ? owned(proj_crs_get_coordinate_system(context.get(), crs.get())) : owned(nullptr);
  double metres = 1;
  if (axes)
    proj_cs_get_axis_info(context.get(), axes.get(), 0, nullptr, nullptr, nullptr, &metres, nullptr, nullptr, nullptr);
  return metres > 0 && std::isfinite(metres) ? metres : 1;
}

Expected<Reprojected> reprojected(const std::string& from, const std::string& to, std::vector<Vec2> points) {
  const Context context;
  std::array<Owned, 2> ends{planeOf(context, codeOf(from)), planeOf(context, codeOf(to))};
  for (std::size_t i = 0; i < 2; ++i) {
    const std::string& name = i == 0 ? from : to;
    if (!ends[i])
      return fail(fmt::format("{} is no reference system that is known here.",
                              name.find('[') == std::string::npos ? "\"" + name + "\"" : "What the .prj file says"));
  }
  const auto map = wayBetween(context, ends[0].get(), ends[1].get());
  if (!map) return fail(fmt::format("There is no way from {} to {} here.", codeOf(from), codeOf(to)));
  for (Vec2& p : points) {
    proj_errno_reset(map.get());
    const PJ_COORD c = proj_trans(map.get(), PJ_FWD, proj_coord(p.x, p.y, 0, 0));
    if (!std::isfinite(c.xy.x) || !std::isfinite(c.xy.y))
      return fail(fmt::format("The point {:.6g}, {:.6g} lies outside what the reference system covers.", p.x, p.y));
    p = {c.xy.x, c.xy.y};
  }
  const auto used = owned(proj_trans_get_last_used_operation(map.get()));
  const double accuracy = used ? proj_coordoperation_get_accuracy(context.get(), used.get()) : -1;
  return Reprojected{std::move(points), accuracy};
}

} // namespace noonward
