// How fast a quarter of a city is: sky, irradiation and sun on its facades, and its shadows.

#include "cli/bench.h"
#include "core/light/light_scene.h"
#include "core/model/form/edit.h"
#include "core/proof/light_cases.h"
#include "core/studies/shadow_plan.h"
#include "core/studies/sun_hours.h"
#include <cmath>
#include <random>

namespace noonward::cli {

namespace {

/// So many buildings with wings, each an element, about half a square kilometre; the first is proposed.
Project benchQuarter(int buildings) {
  Project p;
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  p.site.weather = madeUpYear(p.site.place);
  std::mt19937 random(11);
  const auto unit = [&] { return random() / 4294967296.0; };
  const int side = int(std::ceil(std::sqrt(double(buildings))));
  for (int k = 0; k < buildings; ++k) {
    const double x = 19.0 * (k % side), y = 19.0 * (k / side), w = 10 + 5 * unit(), d = 10 + 5 * unit(), c = 4 + unit();
    Element e;
    e.id = {std::uint64_t(k + 1)};
    e.name = "B" + std::to_string(k);
    e.role = Role::Neighbour;
    e.proposed = k == side * side / 2 + side / 2;
    Outline o;
    o.outer = {{x, y}, {x + w, y}, {x + w, y + c}, {x + c, y + c}, {x + c, y + d}, {x, y + d}};
    e.shape = Mass{std::move(o), 0, 5 + 14 * unit() * unit() + (e.proposed ? 20 : 0), 3};
    p.elements.push_back(std::make_shared<const Element>(std::move(e)));
  }
  return p;
}
void onFacades(Project& p, std::size_t buildings, double spacing) {
  SensorGroup g;
  g.id = {9001};
  g.name = "Facades";
  FaceGrid grid;
  grid.spacing = spacing;
  for (std::size_t k = 0; k < buildings && k < p.elements.size(); ++k) grid.faces.push_back({p.elements[k]->id, {}});
  g.layout = grid;
  p.groups = {g};
}

} // namespace

std::vector<Measured> accessSpeed() {
  std::vector<Measured> out;
  Project p = benchQuarter(1500);
  RunControl control;
  {
    const ShadowPlanSettings one{{p.zone().instant({{2026, 3, 21}, 11.5 * 3600})}, 1, false, {}};
    out.push_back({"shadows-1500", seconds([&] { (void)shadowPlan(p, one, control); }), "s, one hour", 0.5});
    const ShadowPlanSettings low{{p.zone().instant({{2026, 12, 21}, 14.5 * 3600})}, 1, false, {}};
    out.push_back({"shadows-1500-low", seconds([&] { (void)shadowPlan(p, low, control); }), "s, sun at 5°", 0});
  }
  onFacades(p, 1500, 1.72);
  Study s;
  s.id = {1};
  s.kind = StudyKind::Irradiation;
  auto energy = lightInput(p, s);
  if (!energy) return out;
  out.push_back({"receivers", double(energy->sensors.sensors.size()), "sensors", 0});
  LightResult r;
  const double each = 1e5 / double(energy->sensors.sensors.size());
  out.push_back({"irradiation-100k", each * seconds([&] { r = runLight(*energy, control); }), "s, a year at 2 %", 30});
  const double rays = 3e6,
               rate = rays / seconds([&] {
                        const Vec3 up = normalized(Vec3{0.3, -0.6, 0.5});
                        for (int k = 0; k < int(rays); ++k)
                          (void)energy->scene->blocked(
                              energy->sensors.sensors[std::size_t(k) % energy->sensors.sensors.size()].position +
                                  Vec3{0, 0, 0.01},
                              up, 0, 1e30);
                      });
  out.push_back({"rays-one-thread", rate / 1e6, "M shadow rays/s", 0});
  s.kind = StudyKind::Vsc;
  const auto sky = lightInput(p, s);
  out.push_back({"vsc-100k", each * seconds([&] { r = runLight(*sky, control); }), "s", 15});
  double worst = 0;
  for (float e : r.standardError) worst = std::max(worst, double(e));
  out.push_back({"vsc-worst-error", worst, "points", 0.2});
  onFacades(p, 300, 1.72);
  SunHoursSettings hours;
  hours.dates = {{2026, 3, 21}};
  hours.sunriseToSunset = true;
  const auto sun = sunHoursInput(p, {}, hours);
  if (sun) {
    const double n = double(sun->sensors.sensors.size());
    const double took = seconds([&] { (void)runSunHours(*sun, control); });
    out.push_back({"sun-hours-20k", took * 20000 / n, "s, exact, one date", 4});
  }
  onFacades(p, 75, 1.72);
  s.kind = StudyKind::Irradiation;
  s.light.maxSamples = 64;
  (void)lightInput(p, s); // the sky is remembered while a mass moves
  const double live = seconds([&] {
    energy = lightInput(p, s);
    r = runLight(*energy, control);
  });
  out.push_back(
      {"irradiation-live", live * 5000 / double(energy->sensors.sensors.size()), "s, 5 000 while dragging", 0.3});
  return out;
}

} // namespace noonward::cli
