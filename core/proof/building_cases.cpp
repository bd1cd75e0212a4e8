// Known answers for what hangs on a building and what light does to its end: white furnaces, conservation of light,
// piles of plates, shading rules against their cut-off angles, openings under skies that are not even, coefficients
// against the sky they stand for.

#include "core/light/direct_sun.h"
#include "core/light/glazing_optics.h"
#include "core/proof/light_cases.h"
#include "core/studies/coefficients.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/sun_hours.h"
#include "core/studies/year_study.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// A time at which f changes its sign between two instants.
Instant crossing(const std::function<double(Instant)>& f, Instant a, Instant b) {
  const bool rises = f(a) < 0;
  for (int i = 0; i < 50; ++i) {
    const Instant m = a + 0.5 * (b - a);
    ((f(m) < 0) == rises ? a : b) = m;
  }
  return a;
}

SkyChoice even() {
  SkyChoice s;
  s.kind = SkyKind::Uniform;
  s.diffuse = 100;
  return s;
}

double valueAt(const Project& p, StudyKind kind, double error, const SkyChoice& sky = {}) {
  const auto r = lightOf(p, kind, error, sky);
  return r && !r->value.empty() ? double(r->value[0]) : NAN;
}

/// A room 6 × 5 m with one window to the south and one rule for its shade; a sensor on the facade at the window's
/// middle.
Project shaded(ShadeRule::Kind kind, double depth, Vec3& at, PlacedOpening& window) {
  Project p;
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "UTC+01:00";
  p.site.groundLevel = -60;
  Element e;
  e.id = {1};
  e.shape = Mass{rectangle(0, 0, 6, 5), 0, 3.3, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
  Room r;
  r.id = {2};
  r.outline = rectangle(0.3, 0.3, 5.7, 4.7);
  r.height = 2.9;
  p.rooms.push_back(r);
  WindowRule w;
  w.id = {3};
  w.facings = {Facing::South};
  w.ratio = 0.3;
  p.windowRules.push_back(w);
  ShadeRule s;
  s.id = {4};
  s.kind = kind;
  s.depth = depth;
  s.beyond = 1500;
  p.shadeRules.push_back(s);
  window = placedOpenings(p).openings.at(0);
  at = {3, -0.002, 1.6};
  SensorGroup g;
  g.id = {9};
  g.layout = std::vector<PointSensor>{{at, {0, -1, 0}, ""}};
  p.groups.push_back(g);
  return p;
}

/// Sun hours by what a closed form says of every second's direction.
double hoursBy(const SunHoursInput& in, const std::function<bool(Vec3)>& lit) {
  const auto windows = sunWindows(in);
  double seconds = 0;
  for (double t = 0.5; t < 86400; t += 1) {
    const Vec3 s = windows[0].path.direction(t);
    seconds += s.z > 0 && s.y < 0 && lit(s);
  }
  return seconds / 3600;
}

void shades(std::vector<ProofCase>& out) {
  for (const Date date : {Date{2026, 3, 21}, Date{2026, 6, 21}, Date{2026, 12, 21}})
    for (const auto kind : {ShadeRule::Kind::Overhang, ShadeRule::Kind::Fins}) {
      Vec3 at;
      PlacedOpening window;
      const Project p = shaded(kind, 1.1, at, window);
      SunHoursSettings s;
      s.dates = {date};
      s.sunriseToSunset = true;
      const auto in = sunHoursInput(p, {}, s);
      if (!in) continue;
      RunControl control;
      const double got = double(runSunHours(*in, control).hours[0]);
      const double low = window.opening.sill, head = low + window.opening.height, half = window.opening.width / 2,
                   reach = 1.1 - 0.002;
      const double expected = hoursBy(*in, [&](Vec3 d) {
        if (kind == ShadeRule::Kind::Overhang) return d.z * reach < (head - at.z) * -d.y;
        const double out1 = half / std::abs(d.x) * -d.y, z = at.z + half / std::abs(d.x) * d.z;
        return out1 > reach || z < low || z > head;
      });
      const bool over = kind == ShadeRule::Kind::Overhang;
      out.push_back(
          {fmt::format("sun hours under {} of a rule, 1.1 m, {}", over ? "an endless overhang" : "fins", dayText(date)),
           "h", expected, got, 3.0 / 3600,
           over ? "profile angle, second by second" : "shadow angle of each fin, second by second"});
    }
  for (const double depth : {0.5, 1.0, 2.0}) {
    Vec3 at;
    PlacedOpening window;
    const Project p = shaded(ShadeRule::Kind::Overhang, depth, at, window);
    const double angle = std::atan((window.opening.sill + window.opening.height - at.z) / (depth - 0.002));
    out.push_back({fmt::format("VSC under an endless overhang of a rule, {:g} m", depth), "%",
                   100 * (vscBehindEndless(0) - vscBehindEndless(angle)), valueAt(p, StudyKind::Vsc, 0.01), 0.2,
                   "the part of the dome below the cut-off angle, by 3/(7π)(…)"});
  }
}

void furnace(std::vector<ProofCase>& out) {
  // All reflectances 1, a uniform sky, glass without absorption: the same luminance everywhere, whatever is looked at.
  for (const bool glazed : {false, true}) {
    BoxRoom box;
    box.size = {4, 4, 3};
    box.roofX0 = box.roofY0 = 0.2;
    box.roofX1 = box.roofY1 = 3.8;
    box.floor = box.walls = box.ceiling = 1;
    box.glazed = glazed;
    box.glazing = {"Lossless", mostTransmittance(2), 2};
    const std::vector<PointSensor> spots{
        {{1, 1, 0.5}, {0, 0, 1}, ""}, {{2, 3.9, 1}, {0, -1, 0}, ""}, {{2, 2, 2.5}, {0, 0, -1}, ""}};
    const Project p = boxProject(box, spots);
    const auto r = lightOf(p, StudyKind::Illuminance, 0.001, even());
    const char* where[] = {"facing up", "facing a wall", "facing down"};
    for (std::size_t i = 0; i < 3; ++i)
      out.push_back({fmt::format("white furnace{}, {}", glazed ? " under lossless glass" : "", where[i]), "%", 100,
                     r ? double(r->value[i]) : NAN, 0.4, "no light is lost: 100 % everywhere"});
    const auto sensors = layOutSensors(p);
    const auto model = lightModel(p);
    if (!sensors || !model) continue;
    const LightScene scene(*model);
    AimShelf aims(scene, {}, 1);
    RunControl control;
    std::vector<std::uint32_t> groups;
    for (std::uint32_t k = 1; k < scene.groupCount(); ++k) groups.push_back(k);
    if (const auto c =
            spaceCoefficients({&scene, &*sensors, 0, groups, 1, 1 << 15, 8}, 0, SurfacesSeen{}, aims, control, {})) {
      double sum = 0;
      for (const auto& part : c->all) sum += double(part.row(0).sum());
      out.push_back(
          {fmt::format("white furnace{}: sum of daylight coefficients", glazed ? " under lossless glass" : ""), "sr",
           pi, sum, 0.02, "π"});
    }
  }
}

void conservation(std::vector<ProofCase>& out) {
  // What falls in through an opening is absorbed by the walls or leaves again: summed over a grid on every face.
  for (const double rho : {0.3, 0.7}) {
    BoxRoom box;
    box.size = {4, 4, 4};
    box.roofX0 = box.roofY0 = 1;
    box.roofX1 = box.roofY1 = 3;
    box.floor = box.walls = box.ceiling = rho;
    box.glazed = true;
    box.glazing = {"Open", 1, 0};
    constexpr int n = 12;
    std::vector<PointSensor> spots;
    std::vector<bool> open;
    const Vec3 inward[6] = {{0, 0, 1}, {0, 0, -1}, {1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}};
    for (int face = 0; face < 6; ++face)
      for (int i = 0; i < n; ++i)
        for (int j = 0; j < n; ++j) {
          const double u = (i + 0.5) * 4.0 / n, v = (j + 0.5) * 4.0 / n;
          const Vec3 at[6] = {{u, v, 0}, {u, v, 4}, {0, u, v}, {4, u, v}, {u, 0, v}, {u, 4, v}};
          spots.push_back({at[face], inward[face], ""});
          open.push_back(face == 1 && u > 1 && u < 3 && v > 1 && v < 3);
        }
    const auto r = lightOf(boxProject(box, spots), StudyKind::Illuminance, 0.01, even());
    double kept = 0, cell = 16.0 / n / n;
    for (std::size_t i = 0; r && i < spots.size(); ++i) kept += double(r->value[i]) * cell * (open[i] ? 1 : 1 - rho);
    out.push_back({fmt::format("light into a box of reflectance {:g} is absorbed or leaves", rho), "% m²", 400, kept, 4,
                   "Φ = Σ (1 − ρ) E A + what leaves"});
  }
}

void plates(std::vector<ProofCase>& out) {
  constexpr double n = 1.52;
  const double r = std::pow((n - 1) / (n + 1), 2), brewster = 1 / std::sqrt(1 + n * n); // cosine of the angle
  const double rs = std::pow((n * n - 1) / (n * n + 1), 2);
  for (int panes = 1; panes <= 4; ++panes) {
    const GlazingOptics o({"Lossless", mostTransmittance(panes), panes});
    const double surfaces = 2 * panes - 1;
    out.push_back({fmt::format("pile of {} lossless plate{}, straight on", panes, panes > 1 ? "s" : ""), "",
                   (1 - r) / (1 + surfaces * r), o.straight(1), 1e-4, "(1−r)/(1+(2N−1)r)"});
    out.push_back({fmt::format("pile of {} lossless plate{}, at Brewster's angle", panes, panes > 1 ? "s" : ""), "",
                   0.5 * (1 + (1 - rs) / (1 + surfaces * rs)), o.straight(brewster), 3e-4,
                   "one polarisation whole, the other (1−r)/(1+(2N−1)r)"});
    out.push_back({fmt::format("pile of {} lossless plate{}: nothing is lost at 60°", panes, panes > 1 ? "s" : ""), "",
                   1, o.straight(0.5) + o.mirrored(0.5), 1e-4, "τ + ρ = 1"});
  }
}

void year(std::vector<ProofCase>& out) {
  const auto declination = [](Instant t) { return sunOfDate(t).declination; };
  const auto slope = [&](Instant t) { return declination(t + 3600) - declination(t + -3600); };
  const struct {
    const char* name;
    Date day;
    double hour; ///< UTC
    bool turning;
  } moments[] = {{"March equinox", {2026, 3, 20}, 14 + 46 / 60.0, false},
                 {"June solstice", {2026, 6, 21}, 8 + 25 / 60.0, true},
                 {"September equinox", {2026, 9, 23}, 5 / 60.0, false},
                 {"December solstice", {2026, 12, 21}, 20 + 50 / 60.0, true}};
  for (const auto& m : moments) {
    const Instant middle = utc({m.day, m.hour * 3600});
    const Instant found =
        crossing(m.turning ? std::function<double(Instant)>(slope) : std::function<double(Instant)>(declination),
                 middle + -2 * 86400, middle + 2 * 86400);
    out.push_back({fmt::format("{} 2026", m.name), "min", 0, (found - middle) / 60, m.turning ? 20.0 : 2.0,
                   m.turning ? "almanac, UTC; from the turn of the declination, flat there"
                             : "almanac, UTC; from the declination's zero"});
  }
  const struct {
    Date day;
    double minutes;
  } extremes[] = {{{2026, 2, 11}, -14.23}, {{2026, 5, 14}, 3.65}, {{2026, 7, 26}, -6.53}, {{2026, 11, 3}, 16.45}};
  for (const auto& x : extremes)
    out.push_back({fmt::format("equation of time near its extreme of {}", dayText(x.day)), "min", x.minutes,
                   degrees(sunOfDate(utc({x.day, 43200})).equationOfTime) * 4, 0.06, "almanac"});
}

void annual(std::vector<ProofCase>& out) {
  // Under a wide pane that lies level, the beam is the weather's own times what glass lets through at the sun's angle.
  Project p;
  p.site.place = {radians(40), radians(0), 0};
  p.site.zone = "UTC+00:00";
  p.site.groundLevel = -10;
  p.site.weather = madeUpYear(p.site.place);
  p.glazings = {{"Pane", 0.8, 2}};
  Element e;
  e.id = {1};
  e.role = Role::Glazing;
  e.finish = "Pane";
  e.shape = Plate{{{-1000, -1000, 0.5}, {1000, -1000, 0.5}, {1000, 1000, 0.5}, {-1000, 1000, 0.5}}};
  p.elements.push_back(std::make_shared<const Element>(e));
  SensorGroup g;
  g.id = {9};
  g.name = "under";
  g.layout = std::vector<PointSensor>{{{0, 0, 0}, {0, 0, 1}, ""}};
  p.groups.push_back(g);
  YearSettings s;
  s.blinds = BlindRule::Never;
  s.stopFor = StopFor::Nothing;
  s.error = 0.2;
  const auto in = yearInput(p, {}, s);
  if (!in) return;
  RunControl control;
  const YearResult r = runYear(*in, control);
  const GlazingOptics optics(p.glazings[0]);
  const std::vector<HourSun> suns = hourSuns(*p.site.weather, p.site.year);
  const std::vector<bool> mask = clockMask(p.zone(), 0, p.site.year, s.beginMinute, s.endMinute);
  int expected = 0;
  for (std::size_t h = 0; h < in->sky->hours.size(); ++h) {
    const std::size_t i = in->sky->hours[h];
    const double sine = std::sin(suns[i].position.altitude);
    expected += mask[i] && suns[i].up && double(in->sky->beam[h]) * sine * optics.straight(sine) >= s.metrics.beam;
  }
  out.push_back({"hours of 1000 lx of beam under a level pane", "h", double(expected), double(r.beamHours[0]), 0,
                 "straight from the weather year"});
}

void coefficientsOfSkies(std::vector<ProofCase>& out) {
  // The same room by the engine for one sky and by coefficients times that sky's patches.
  BoxRoom box;
  box.size = {5, 6, 3};
  box.windowX0 = 1;
  box.windowX1 = 4;
  box.windowZ0 = 0.9;
  box.windowZ1 = 2.4;
  box.floor = 0.3;
  box.walls = 0.6;
  box.ceiling = 0.8;
  box.glazed = true;
  const Project p = boxProject(box, {{{2.5, 1.5, 0.8}, {0, 0, 1}, ""}});
  const auto sensors = layOutSensors(p);
  const auto model = lightModel(p);
  if (!sensors || !model) return;
  const LightScene scene(*model);
  AimShelf aims(scene, {}, 1);
  RunControl control;
  const auto c = spaceCoefficients({&scene, &*sensors, 0, {1}, 1, 1 << 16, 8}, 0, SurfacesSeen{}, aims, control, {});
  if (!c) return;
  const auto by = [&](const std::function<double(Vec3)>& luminance) {
    double e = 0;
    for (std::size_t b = 0; b < SkyBins::count; ++b)
      for (const auto& part : c->all) e += double(part(0, Eigen::Index(b))) * SkyBins::mean(b, luminance);
    return e;
  };
  const SkyLuminance overcast = SkyLuminance::cieOvercast(100);
  const double engine = valueAt(p, StudyKind::DaylightFactor, 0.002);
  out.push_back({"daylight coefficients times a constant overcast sky", "%", engine,
                 by([&](Vec3 d) { return overcast(d); }), 0.012 * engine, "daylight factor × Eh, by the other engine"});
  const double evenly = valueAt(p, StudyKind::Illuminance, 0.002, even());
  out.push_back({"daylight coefficients times a uniform sky", "lx", evenly, by([](Vec3) { return 100 / pi; }),
                 0.012 * evenly, "illuminance by the other engine"});
}

/// Straight light through the openings from a sky L(direction), by a fine midpoint sum.
double straightLux(const BoxRoom& b, Vec3 at, const std::function<double(Vec3)>& sky,
                   const std::function<double(double)>& glass) {
  const int n = 700;
  double sum = 0;
  const bool roof = b.roofX1 > b.roofX0;
  const double u0 = roof ? b.roofX0 : b.windowX0, u1 = roof ? b.roofX1 : b.windowX1, v0 = roof ? b.roofY0 : b.windowZ0,
               v1 = roof ? b.roofY1 : b.windowZ1;
  const double cell = (u1 - u0) * (v1 - v0) / n / n;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j) {
      const double u = u0 + (i + 0.5) * (u1 - u0) / n, v = v0 + (j + 0.5) * (v1 - v0) / n;
      const Vec3 d = (roof ? Vec3{u, v, b.size.z} : Vec3{u, 0, v}) - at;
      const double r = length(d), sine = d.z / r;
      if (sine <= 0) continue;
      const double facing = std::abs(roof ? d.z : d.y) / r;
      sum += sky(d * (1 / r)) * glass(facing) * sine * facing / (r * r) * cell;
    }
  return sum;
}

void openingsUnderSkies(std::vector<ProofCase>& out) {
  BoxRoom roof;
  roof.roofX0 = 1;
  roof.roofX1 = 3;
  roof.roofY0 = 1.5;
  roof.roofY1 = 2.5;
  BoxRoom window;
  window.size = {5, 6, 3};
  window.windowX0 = 1;
  window.windowX1 = 4;
  window.windowZ0 = 0.9;
  window.windowZ1 = 2.4;
  for (const int type : {1, 3, 5, 7, 10, 12, 15})
    for (const bool glazed : {false, true})
      for (const bool top : {true, false}) {
        BoxRoom& box = top ? roof : window;
        box.glazed = glazed;
        const Vec3 at = top ? Vec3{2, 2, 0.8} : Vec3{2.5, 2, 0.8};
        SkyChoice sky;
        sky.kind = SkyKind::CieGeneral;
        sky.type = type;
        sky.diffuse = 10000;
        sky.direct = 0;
        sky.sunAltitude = radians(35.0);
        sky.sunAzimuth = radians(110.0); // aside of both openings
        const double a = *sky.sunAltitude, z = *sky.sunAzimuth;
        const auto light =
            SkyLuminance::cieGeneral(type, {std::cos(a) * std::sin(z), std::cos(a) * std::cos(z), std::sin(a)}, 10000);
        if (!light) continue;
        const GlazingOptics optics(box.glazing);
        const double expected = straightLux(
            box, at, [&](Vec3 d) { return (*light)(d); }, [&](double c) { return glazed ? optics.straight(c) : 1.0; });
        out.push_back(
            {fmt::format("sky component {}{}, CIE general sky {}", top ? "under a roof opening" : "beside a window",
                         glazed ? ", double glazing" : "", type),
             "lx", expected, valueAt(boxProject(box, {{at, {0, 0, 1}, ""}}), StudyKind::Illuminance, 0.001, sky),
             std::max(20.0, 0.004 * expected), "fine sum over the opening"});
      }
}

} // namespace

std::vector<ProofCase> proveBuilding() {
  std::vector<ProofCase> out;
  for (auto* part :
       {&shades, &furnace, &conservation, &plates, &year, &annual, &coefficientsOfSkies, &openingsUnderSkies})
    (*part)(out);
  return out;
}

} // namespace noonward
