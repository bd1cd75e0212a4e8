#include "core/runs/record/glare_chapter.h"
#include "core/base/words.h"
#include "core/studies/year_hours.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

GlareChapter glareChapter(const Project& p, const SensorField& field, RunControl& control) {
  GlareChapter out;
  const GlareYear& year = *field.light->glare;
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < year.seats.size(); ++i)
    if (!std::isnan(field.values()[i]) && year.seats[i].worst > 0) order.push_back(i);
  const auto worse = [&](std::size_t a, std::size_t b) {
    const GlareSeat &x = year.seats[a], &y = year.seats[b];
    return x.above[1] != y.above[1] ? x.above[1] > y.above[1] : x.dgp95 > y.dgp95;
  };
  std::stable_sort(order.begin(), order.end(), worse);
  if (order.size() > GlareChapter::most) order.resize(GlareChapter::most);
  for (const std::size_t i : order) {
    const GlareSeat& seat = year.seats[i];
    const CivilTime clock = recordClock(p, seat.worstHour, 30);
    out.seats.push_back({field.sensors.sensorName(i), seat,
                         fmt::format("{} {}", dayText(clock.date), clockText(clock.seconds / 60)),
                         glareCauseText(year, i)});
  }
  if (order.empty()) return out;
  const Sensor& s = field.sensors.sensors[order.front()];
  FisheyeSettings settings;
  settings.eye = s.position;
  const Vec3 forward = s.normalVector();
  settings.azimuth = wrapTwoPi(std::atan2(forward.x, forward.y) + p.site.northAngle);
  settings.altitude = std::asin(std::clamp(forward.z, -1.0, 1.0));
  settings.pixels = 400;
  SkyChoice sky;
  sky.kind = SkyKind::Weather;
  auto seen =
      fisheye(p, settings, sky, p.zone().instant(recordClock(p, year.seats[order.front()].worstHour, 30)), control);
  if (seen)
    out.worst = std::make_shared<const Fisheye>(std::move(*seen));
  else
    out.fault = seen.error().text();
  return out;
}

} // namespace noonward
