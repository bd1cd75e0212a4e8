#pragma once
// A house for years of energy, and its study.

#include "core/studies/energy/energy_year.h"
#include "tests/house.h"
#include <stdexcept>

namespace noonward::test {

/// A square house with one window, in the demo's weather, used day and night where asked.
inline Project energyHouse(double ratio = 0.35, Facing facing = Facing::South, double north = 0) {
  Project p = house({.width = 6, .depth = 6, .wall = 0.3, .ratio = ratio, .facing = facing, .spacing = 1.2});
  p.site.place = demoWeather()->place;
  p.site.zone = "Europe/Copenhagen";
  p.site.weather = demoWeather();
  p.site.northAngle = north;
  p.rooms[0].use = "office";
  return p;
}
inline Study energyStudy(BlindRule blinds = BlindRule::Never) {
  Study s;
  s.id = {5};
  s.kind = StudyKind::Energy;
  s.name = "Energy";
  s.year.error = 0.05;
  s.year.blinds = blinds;
  return s;
}
inline LightResult ran(const Project& p, const Study& s = energyStudy(), int threads = 0) {
  const auto in = lightInput(p, s);
  if (!in) throw std::runtime_error(in.error().text());
  RunControl control;
  return runLight(*in, control, {threads});
}

} // namespace noonward::test
