#include "core/studies/cost.h"
#include "core/base/words.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
// Measured on two cores; see docs/methods.md.
constexpr double sceneSeconds = 1.2e-6, sceneBytes = 190;     ///< a triangle
constexpr double sunSeconds = 1e-4;                           ///< a sensor and date, exact
constexpr double lightOutside = 2.5e-3, lightInRoom = 4.7e-3; ///< a sensor at 2 %
constexpr double energySuns = 1.5e-4, energyPaths = 2e-4,
                 skyShare = 1.3e-4; ///< a sensor's suns of a year; its paths at 2 %; its sky
constexpr double glareSight = 0.07, glareRooms = 20,
                 viewPoint = 1e-3; ///< a line of sight; what the rooms cost first; a point
constexpr double yearSeconds = 6e-3, yearBytes = 125e3, keptBytes = 160e3, keptMost = 384e6;

std::size_t trianglesOf(const Project& p) {
  std::size_t n = 0;
  for (const ElementPtr& e : p.elements) {
    if (!e->counted || e->role == Role::Ignore) continue;
    n += std::visit([](const auto& s) { return trianglesOf(s); }, e->shape);
  }
  for (const Room& r : p.rooms) n += 6 * r.outline.outer.size();
  return n + 30 * p.openings.size();
}
} // namespace

Cost costOf(const Project& p, const Study& s, std::size_t sensors, std::size_t inRooms) {
  Cost c;
  c.triangles = trianglesOf(p);
  c.sensors = sensors;
  const double n = double(sensors), rooms = double(std::min(inRooms, sensors)), outside = n - rooms;
  c.seconds = sceneSeconds * double(c.triangles);
  double bytes = sceneBytes * double(c.triangles) + 60 * n;
  if (s.kind == StudyKind::SunHours) {
    const double days = s.sunHours.dates.empty() ? double(datesOf(s.sunHours.season, p.site.year).size())
                                                 : double(s.sunHours.dates.size());
    c.seconds += sunSeconds * n * days;
  } else if (s.kind == StudyKind::Year || s.kind == StudyKind::Energy) {
    c.seconds += 0.4 + yearSeconds * n;
    bytes += yearBytes * n + std::min(keptMost, keptBytes * n);
  } else if (s.kind == StudyKind::Glare) {
    c.seconds += glareRooms + glareSight * n;
    bytes += 3e8 + 6e4 * n;
  } else if (s.kind == StudyKind::ViewOut) {
    c.seconds += viewPoint * n;
    bytes += 60 * n;
  } else if (s.kind == StudyKind::Irradiation) {
    const double wanted = 0.02 / std::max(1e-4, s.light.error);
    c.seconds += 0.2 + n * (energySuns + energyPaths * wanted * wanted);
    bytes += 20 * n;
  } else if (s.kind == StudyKind::DaylightFactor || s.kind == StudyKind::Illuminance) {
    const double wanted = 0.02 / std::max(1e-4, s.light.error);
    c.seconds += outside * lightOutside * wanted * wanted + (rooms > 0 ? 0.5 : 0) +
                 rooms * lightInRoom * (wanted > 1 ? wanted * wanted : std::sqrt(wanted));
    bytes += 2600 * n;
  } else if (s.kind == StudyKind::Vsc || s.kind == StudyKind::SkyView) {
    c.seconds += skyShare * n;
    bytes += 20 * n;
  } else {
    c.seconds += lightOutside * n;
    bytes += 2600 * n;
  }
  c.megabytes = bytes / 1e6;
  return c;
}

std::string costText(const Cost& c) {
  const auto time = [](double s) {
    return s < 1      ? std::string("under 1 s")
           : s < 90   ? fmt::format("about {:.0f} s", s)
           : s < 5400 ? fmt::format("about {:.0f} min", s / 60)
                      : fmt::format("about {:.1f} h", s / 3600);
  };
  const std::string size = c.megabytes < 10     ? ""
                           : c.megabytes < 1000 ? fmt::format(" and {:.0f} MB", std::round(c.megabytes / 10) * 10)
                                                : fmt::format(" and {:.1f} GB", c.megabytes / 1000);
  return fmt::format("{}{}: {}, {}", time(c.seconds), size, counted(c.sensors, "sensor", "sensors"),
                     counted(c.triangles, "triangle", "triangles"));
}

} // namespace noonward
