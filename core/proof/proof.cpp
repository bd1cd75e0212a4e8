#include "core/proof/proof.h"
#include "core/light/direct_sun.h"
#include "core/proof/light_cases.h"
#include "core/sun/sun_day.h"
#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace noonward {

bool ProofCase::pass() const {
  return std::abs(deviation()) <= allowed;
}

std::vector<ProofCase> proveSun() {
  std::vector<ProofCase> out;
  const char* paper = "Reda and Andreas, NREL/TP-560-34302 (2008), worked example";
  const Place golden{radians(39.742476), radians(-105.1786), 1830.14};
  const Instant t = utc({{2003, 10, 17}, 19.5 * 3600 + 30});
  const SolarPosition p = solarPosition(sunOfDate(t, 67.0), golden);
  const double apparent = p.altitude + refraction(p.altitude, {820, 11});
  out.push_back({"zenith without refraction", "°", 50.12795, 90 - degrees(p.altitude), 0.003, paper});
  out.push_back({"zenith with refraction", "°", 50.11162, 90 - degrees(apparent), 0.003, paper});
  out.push_back({"azimuth", "°", 194.34024, degrees(p.azimuth), 0.003, paper});
  const SunKnots knots(t + -3 * 86400.0, t + 3 * 86400.0);
  const SunDay day = sunDay(knots, golden, Zone::fixed(-7 * 3600), {2003, 10, 17});
  const double sunset = day.sunsets.empty() ? NAN : civil(day.sunsets.front(), -7 * 3600).seconds;
  out.push_back({"sunset of 17 October, 17:18:51", "s", 17 * 3600 + 18 * 60 + 51, sunset, 3, paper});
  return out;
}

namespace {

/// The first root of f between a and b, by plain bisection over the full solar position: independent of sun_path.
double bisect(const std::function<double(double)>& f, double a, double b) {
  const bool rises = f(a) < 0;
  for (int i = 0; i < 60; ++i) {
    const double m = 0.5 * (a + b);
    ((f(m) < 0) == rises ? a : b) = m;
  }
  return 0.5 * (a + b);
}

/// A box west of a point: the sun leaves the point when it passes behind the box's edge or top. Times from the closed
/// form: azimuth of the vertical edge, or tangent of the profile angle.
void besideBox(std::vector<ProofCase>& out, const char* where, Place place, Date date) {
  // Box from x = -20 to -10, y = -30 to 30, 12 m high; the point stands at the origin. In the afternoon the sun goes
  // behind the top edge x = -10 when tan(altitude) / sin(azimuth from the north-south line) = 12 / 10.
  Project p;
  Element e;
  e.id = {1};
  e.shape = Mass{rectangle(-20, -30, -10, 30), 0, 12, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
  const Scene scene = buildScene(p);
  const SunKnots knots = SunKnots::ofYear(date.year);
  const double noonUtc = 43200 - degrees(place.longitude) * 240;
  const Instant start = utc({date, 0}) + (noonUtc - 43200);
  const SunWindow w{date, SunPath(knots, place, 0, start, 86400), {}};
  SunWindow window = w;
  window.counts = w.path.above(0);
  const Intervals sun = sunAt(scene, {0, 0, 0}, {0, 0, 1}, window);
  const auto direction = [&](double t) { return solarPosition(sunOfDate(start + t), place).direction; };
  // Above the roof edge: z·10 > 12·(-x); seen within the length of the box: |y| ≤ 30/10·|x|.
  const auto above = [&](double t) {
    const Vec3 d = direction(t);
    return d.z * 10 + d.x * 12;
  };
  const double noon = 43200;
  const double leave = bisect(above, noon, sun.empty() ? 80000 : std::min(80000.0, window.counts.back().end - 1));
  double got = NAN;
  for (const Interval& i : sun)
    if (std::abs(i.end - leave) < 3600) got = i.end;
  out.push_back({fmt::format("sun leaves behind a roof edge, {}, {}", where, dayText(date)), "s", leave, got, 2,
                 "profile angle: tan(altitude) = 12/10 sin(azimuth)"});
}

} // namespace

std::vector<ProofCase> proveShadows() {
  std::vector<ProofCase> out;
  besideBox(out, "55.6° N", {radians(55.6), radians(12.5), 0}, {2026, 3, 21});
  besideBox(out, "55.6° N", {radians(55.6), radians(12.5), 0}, {2026, 6, 21});
  besideBox(out, "34.0° S", {radians(-34.0), radians(18.5), 0}, {2026, 6, 21});
  besideBox(out, "34.0° S", {radians(-34.0), radians(18.5), 0}, {2026, 12, 21});
  besideBox(out, "68.5° N", {radians(68.5), radians(27.5), 0}, {2026, 5, 1});

  // A pole 0.1 m wide, 50 m south: the sun takes about 27 s to pass it; the closed form is the azimuth of its sides.
  Project p;
  Element e;
  e.id = {1};
  e.shape = Mass{rectangle(-0.05, -50.05, 0.05, -49.95), 0, 200, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
  const Scene scene = buildScene(p);
  const Place place{radians(55.6), radians(12.5), 0};
  const SunKnots knots = SunKnots::ofYear(2026);
  const Instant start = utc({{2026, 3, 21}, -3600});
  SunWindow w{{2026, 3, 21}, SunPath(knots, place, 0, start, 86400), {}};
  w.counts = w.path.above(0);
  const Intervals sun = sunAt(scene, {0, 0, 0}, {0, 0, 1}, w);
  const double gap = sun.size() == 2 ? sun[1].begin - sun[0].end : 0;
  const auto side = [&](double x) {
    return bisect(
        [&](double t) {
          const Vec3 d = solarPosition(sunOfDate(start + t), place).direction;
          return d.x * -49.95 - x * d.y;
        },
        40000, 50000);
  };
  out.push_back(
      {"shade of a 0.1 m pole at 50 m", "s", std::abs(side(-0.05) - side(0.05)), gap, 0.2, "azimuths of its sides"});
  return out;
}

std::span<const ProofSubject> proofSubjects() {
  static constexpr ProofSubject all[] = {
      {"Sun", proveSun},           {"Shadows", proveShadows},    {"Skies", proveSky},
      {"Light", proveLight},       {"Exposure", proveExposure},  {"The building and its year", proveBuilding},
      {"Shading", proveShade},     {"Irradiation", proveEnergy}, {"Glare and view", proveGlare},
      {"Heat of rooms", proveHeat}};
  return all;
}

std::vector<ProofCase> proveAll() {
  std::vector<ProofCase> out;
  for (const ProofSubject& subject : proofSubjects())
    for (ProofCase& c : subject.prove()) out.push_back(std::move(c));
  return out;
}

} // namespace noonward
