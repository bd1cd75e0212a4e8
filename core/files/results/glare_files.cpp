#include "core/files/results/glare_files.h"
#include "core/files/results/tables.h"
#include "core/studies/glare_year.h"
#include "core/studies/year_hours.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
double azimuthOf(const Project& p, const Sensor& s) {
  return degrees(wrapTwoPi(std::atan2(double(s.normal[0]), double(s.normal[1])) + p.site.northAngle));
}
/// The places of a group in order: the lines of sight of one place have one name.
std::vector<std::string> eyeNames(const SensorSet& sensors) {
  std::vector<std::string> out;
  for (const SensorGridFacts& g : sensors.groups) {
    std::size_t place = 0;
    for (std::size_t i = g.first; i < g.first + g.count; ++i) {
      if (i == g.first || sensors.sensors[i].position != sensors.sensors[i - 1].position) ++place;
      const std::size_t own = i - g.first;
      out.push_back(own < g.pointNames.size() && !g.pointNames[own].empty() ? g.pointNames[own]
                                                                            : fmt::format("{} {}", g.name, place));
    }
  }
  return out;
}
} // namespace

std::pair<double, double> offSight(const EyeFrame& e, Vec3 d) {
  return {degrees(std::atan2(dot(d, e.right), dot(d, e.forward))),
          degrees(std::asin(std::clamp(dot(d, e.up), -1.0, 1.0)))};
}

std::string glareSourcesCsv(const EyeFrame& e, const std::vector<GlareSource>& sources) {
  std::string out = "luminance_cd_m2,solid_angle_sr,azimuth_deg,altitude_deg,position_index,sun\n";
  for (const GlareSource& s : sources) {
    const auto [right, up] = offSight(e, s.direction);
    out += fmt::format("{:.6g},{:.6g},{:.4f},{:.4f},{:.4f},{}\n", s.luminance, s.solidAngle, right, up, s.position,
                       s.sun ? 1 : 0);
  }
  return out;
}

std::string recordMoment(const Project& p, std::size_t record) {
  const CivilTime clock = recordClock(p, record, 30);
  const int minutes = int(std::lround(clock.seconds / 60));
  return fmt::format("{:04}-{:02}-{:02}T{:02}:{:02}", clock.date.year, clock.date.month, clock.date.day, minutes / 60,
                     minutes % 60);
}

std::string glareCsv(const Project& p, const SensorSet& sensors, const LightResult& r) {
  std::string out = "eye,x,y,z,azimuth_deg,hours,share_above_035,share_above_040,share_above_045,dgp_95,worst_hour,"
                    "standard_error_040,worst_dgp,share_dim\n";
  const std::vector<std::string> names = eyeNames(sensors);
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i) {
    const Sensor& s = sensors.sensors[i];
    out += fmt::format("{},{:.4f},{:.4f},{:.4f},{:.3f},", csvField(names[i]), s.position.x, s.position.y, s.position.z,
                       azimuthOf(p, s));
    if (!r.glare || std::isnan(r.value[i])) {
      out += ",,,,,,,,\n";
      continue;
    }
    const GlareSeat& g = r.glare->seats[i];
    out += fmt::format("{},{:.5f},{:.5f},{:.5f},{:.4f},{},{:.5f},{:.4f},{:.4f}\n", r.glare->scheduleHours, g.above[0],
                       g.above[1], g.above[2], g.dgp95, g.worst > 0 ? recordMoment(p, g.worstHour) : std::string(),
                       g.aboveError[1], g.worst, g.dim);
  }
  return out;
}

std::string glareSeriesCsv(const Project& p, const SensorSet& sensors, const LightResult& r) {
  std::string out = "eye,azimuth_deg,moment,dgp\n";
  if (!r.glare) return out;
  const std::vector<std::string> names = eyeNames(sensors);
  std::vector<std::string> moments;
  for (std::uint32_t h : r.glare->hours) moments.push_back(recordMoment(p, h));
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i) {
    if (std::isnan(r.value[i])) continue;
    const std::string head = fmt::format("{},{:.3f},", csvField(names[i]), azimuthOf(p, sensors.sensors[i]));
    for (std::size_t k = 0; k < moments.size(); ++k)
      out += fmt::format("{}{},{:.4f}\n", head, moments[k], r.glare->dgpAt(i, k));
  }
  return out;
}

} // namespace noonward
