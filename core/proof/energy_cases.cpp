// Irradiation against closed forms: isotropic and overcast skies on tilted planes, endless obstructions, canyons, the
// beam, the sums of a year counted hour by hour, and the tilted-plane model of 1990.

#include "core/proof/light_cases.h"
#include "core/studies/irradiation.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

Project onPlanes(const std::vector<PointSensor>& sensors, double ground = 0.2) {
  Project p;
  p.site.place = {radians(52), 0, 0};
  p.site.zone = "UTC";
  p.site.groundLevel = -1;
  p.site.groundReflectance = ground;
  p.finishes = {{"Black", 0}};
  SensorGroup g;
  g.id = {9};
  g.name = "planes";
  g.layout = sensors;
  p.groups.push_back(g);
  return p;
}
PointSensor tilted(double slope, double azimuth = pi) {
  return {{0, 0, 0}, skyDirection(pi / 2 - slope, azimuth), ""};
}
void put(Project& p, std::uint64_t id, Outline outline, double base, double height) {
  Element e;
  e.id = {id};
  e.finish = "Black";
  e.shape = Mass{std::move(outline), base, height, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
}
SkyChoice moment(SkyKind kind, double diffuse, double direct) {
  SkyChoice s;
  s.kind = kind;
  s.diffuseIrradiance = diffuse;
  s.directIrradiance = direct;
  s.sunAltitude = radians(40);
  s.sunAzimuth = radians(200);
  return s;
}

void tiltedPlanes(std::vector<ProofCase>& out) {
  for (const double slope : {0.0, 30.0, 60.0, 90.0, 135.0}) {
    const double c = std::cos(radians(slope));
    const auto r =
        lightOf(onPlanes({tilted(radians(slope))}), StudyKind::Irradiation, 0.002, moment(SkyKind::Uniform, 100, 0));
    out.push_back({fmt::format("isotropic sky of 100 W/m² on a plane tilted {:g}°, ground 0.2", slope), "W/m²",
                   100 * (1 + c) / 2 + 20 * (1 - c) / 2, r ? r->value[0] : NAN, 0.5, "E(1+cos β)/2 + ρE(1−cos β)/2"});
  }
  const auto wall =
      lightOf(onPlanes({tilted(pi / 2)}, 0), StudyKind::Irradiation, 0.002, moment(SkyKind::CieOvercast, 100, 0));
  out.push_back({"overcast sky of 100 W/m² on an upright plane, black ground", "W/m²", 100 * vscBehindEndless(0),
                 wall ? wall->value[0] : NAN, 0.1, "3/(7π)(π/2 + 4/3)"});
  const Vec3 sun = skyDirection(radians(40), radians(200));
  for (const double slope : {0.0, 45.0, 90.0}) {
    const PointSensor s = tilted(radians(slope), radians(150));
    const auto r = lightOf(onPlanes({s}, 0), StudyKind::Irradiation, 0.01, moment(SkyKind::Uniform, 0, 700));
    out.push_back({fmt::format("beam of 700 W/m² on a plane tilted {:g}°", slope), "W/m²", 700 * dot(s.normal, sun),
                   r ? r->value[0] : NAN, 0.01, "cosine of the incidence"});
  }
}

void obstructed(std::vector<ProofCase>& out) {
  for (const double angle : {15.0, 40.0, 70.0}) {
    Project p = onPlanes({tilted(pi / 2)}, 0);
    put(p, 1, rectangle(-2000, -22, 2000, -20), -1, 1 + 20 * std::tan(radians(angle)));
    const auto r = lightOf(p, StudyKind::Irradiation, 0.002, moment(SkyKind::Uniform, 100, 0));
    out.push_back({fmt::format("isotropic sky behind an endless black obstruction of {:g}°", angle), "W/m²",
                   50 * (1 - std::sin(radians(angle))), r ? r->value[0] : NAN, 0.2, "50 (1 − sin θ)"});
  }
  for (const double tall : {5.0, 10.0, 20.0}) {
    Project p = onPlanes({tilted(0)}, 0);
    put(p, 1, rectangle(-2000, -6, 2000, -5), -1, 1 + tall);
    put(p, 2, rectangle(-2000, 5, 2000, 6), -1, 1 + tall);
    const auto r = lightOf(p, StudyKind::Irradiation, 0.002, moment(SkyKind::Uniform, 100, 0));
    out.push_back({fmt::format("isotropic sky in the middle of a black canyon 10 m wide, {:g} m high", tall), "W/m²",
                   100 * 5 / std::hypot(5, tall), r ? r->value[0] : NAN, 0.3, "sine of the half opening"});
  }
}

/// Diffuse irradiance on a plane by Perez, Ineichen, Seals, Michalsky and Stewart, Solar Energy 44 (1990) 271-289,
/// equation 9 and table 6.
double tiltedPlaneDiffuse(const PerezInput& in, Vec3 normal) {
  static constexpr double f[8][6] = {
      {-0.008, 0.588, -0.062, -0.060, 0.072, -0.022}, {0.130, 0.683, -0.151, -0.019, 0.066, -0.029},
      {0.330, 0.487, -0.221, 0.055, -0.064, -0.026},  {0.568, 0.187, -0.295, 0.109, -0.152, -0.014},
      {0.873, -0.392, -0.362, 0.226, -0.462, 0.001},  {1.132, -1.237, -0.412, 0.288, -0.823, 0.056},
      {1.060, -1.600, -0.359, 0.264, -1.127, 0.131},  {0.678, -0.327, -0.250, 0.156, -1.377, 0.251}};
  const PerezState s = perezState(in);
  static constexpr double edges[] = {1.065, 1.23, 1.5, 1.95, 2.8, 4.5, 6.2};
  const auto bin = std::size_t(std::upper_bound(std::begin(edges), std::end(edges), s.clearness) - std::begin(edges));
  const double z = std::acos(std::clamp(in.sun.z, -1.0, 1.0));
  const double f1 = std::max(0.0, f[bin][0] + f[bin][1] * s.brightness + f[bin][2] * z),
               f2 = f[bin][3] + f[bin][4] * s.brightness + f[bin][5] * z;
  const double a = std::max(0.0, dot(in.sun, normal)), b = std::max(std::cos(radians(85)), in.sun.z);
  const double sine = std::sqrt(std::max(0.0, 1 - normal.z * normal.z));
  return std::max(0.0, in.diffuseHorizontal * ((1 - f1) * (1 + normal.z) / 2 + f1 * a / b + f2 * sine));
}

void energyOfYear(std::vector<ProofCase>& out) {
  std::vector<PointSensor> sensors{tilted(0), tilted(radians(35)), tilted(pi / 2), tilted(pi / 2, radians(90)),
                                   tilted(pi / 2, 0)};
  Project p = onPlanes(sensors, 0);
  p.site.weather = madeUpYear(p.site.place);
  const Weather& w = *p.site.weather;
  Study study;
  study.id = {1};
  study.kind = StudyKind::Irradiation;
  study.light.error = 0.002;
  const auto in = lightInput(p, study);
  if (!in) return;
  RunControl control;
  const LightResult r = runLight(*in, control);
  std::vector<double> beam(sensors.size(), 0), model(sensors.size(), 0);
  const std::vector<HourSun> suns = hourSuns(w, p.site.year);
  for (std::size_t i = 0; i < w.hours.size(); ++i) {
    PerezInput hour;
    hour.sun = suns[i].position.direction;
    hour.directNormal = suns[i].up ? w.hours[i][WeatherField::DirectNormal] : 0;
    hour.diffuseHorizontal = w.hours[i][WeatherField::DiffuseHorizontal];
    hour.dayOfYear = dayOfYear({2025, w.hours[i].month, w.hours[i].day});
    if (!(hour.diffuseHorizontal > 0)) continue;
    for (std::size_t k = 0; k < sensors.size(); ++k) {
      beam[k] += hour.directNormal * std::max(0.0, dot(hour.sun, sensors[k].normal)) / 1000;
      model[k] += tiltedPlaneDiffuse(hour, sensors[k].normal) / 1000;
    }
  }
  double flat = 0;
  for (const WeatherHour& h : w.hours) flat += h[WeatherField::GlobalHorizontal] / 1000;
  out.push_back({"year on the free horizontal: the weather's own sum", "kWh/m²", flat, double(r.value[0]), 0.001 * flat,
                 "hour by hour from the file"});
  const char* const names[] = {"level", "tilted 35° south", "upright south", "upright east", "upright north"};
  for (std::size_t k = 1; k < sensors.size(); ++k) {
    out.push_back({fmt::format("beam of a year on a plane, {}", names[k]), "kWh/m²", beam[k], double(r.direct[k]),
                   0.002 * beam[k] + 0.05, "hour by hour; suns taken together within 0.25°"});
    out.push_back({fmt::format("sky of a year on a plane, {}", names[k]), "kWh/m²", model[k], double(r.sky[k]),
                   0.08 * model[k], "tilted-plane model of 1990: known to differ by 4 to 6 % of annual totals"});
  }
}

void together(std::vector<ProofCase>& out) {
  // A slot between two blocks: taking suns together must not open or close it.
  Project p = onPlanes({}, 0.2);
  std::vector<PointSensor> line;
  for (int k = 0; k < 40; ++k) line.push_back({{-20.0 + k, 0, 0}, {0, 0, 1}, ""});
  p.groups[0].layout = line;
  put(p, 1, rectangle(-30, -40, -3, -20), -1, 25);
  put(p, 2, rectangle(3, -40, 30, -20), -1, 18);
  p.site.weather = madeUpYear(p.site.place);
  Study study;
  study.id = {1};
  study.kind = StudyKind::Irradiation;
  auto in = lightInput(p, study);
  if (!in) return;
  RunControl control;
  const LightResult merged = runLight(*in, control);
  const auto alone = RadiantSky::ofHours(*p.site.weather, std::vector<bool>(8760, true), 0, p.site.year, 0);
  if (!alone) return;
  in->radiant = std::make_shared<const RadiantSky>(*alone);
  const LightResult each = runLight(*in, control);
  double a = 0, b = 0;
  for (std::size_t i = 0; i < line.size(); ++i) {
    a += double(each.direct[i]);
    b += double(merged.direct[i]);
  }
  out.push_back({"direct sun of a year beside two blocks, 40 spots", "kWh/m²", a / 40, b / 40, 0.003 * a / 40,
                 "every hour's sun alone"});
}

} // namespace

std::vector<ProofCase> proveEnergy() {
  std::vector<ProofCase> out;
  tiltedPlanes(out);
  obstructed(out);
  energyOfYear(out);
  together(out);
  return out;
}

} // namespace noonward
