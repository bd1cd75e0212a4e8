#pragma once
// The quarter that tests of solar access build on: a green of 30 × 30 m, a house beside it with windows to the south
// and a roof that is looked at, and a proposal to the south of both. Flat, with a made-up weather year.

#include "core/files/library.h"
#include "core/model/project.h"
#include "core/proof/light_cases.h"

namespace noonward::test {

inline const YardstickShelf& shippedRules() {
  static const YardstickShelf s = readYardsticks({SOURCE_TREE "/resources/yardsticks"});
  return s;
}

inline void putMass(Project& p, std::uint64_t id, Outline o, double height, bool proposed) {
  Element e;
  e.id = {id};
  e.name = "E" + std::to_string(id);
  e.proposed = proposed;
  e.shape = Mass{std::move(o), 0, height, 2};
  p.elements.push_back(std::make_shared<const Element>(std::move(e)));
}

/// Groups: 10 the green, 11 the roof, 12 three windows.
inline Project greenPlace(double height = 14, double latitude = 52) {
  Project p;
  p.id = ProjectId{77};
  p.name = "Green";
  p.site.place = {radians(latitude), 0, 0};
  p.site.zone = "UTC";
  p.site.weather = madeUpYear(p.site.place);
  putMass(p, 1, rectangle(20, 0, 32, 10), 6, false);
  putMass(p, 2, rectangle(-15, -20, 40, -8), height, true);
  const auto group = [&](std::uint64_t id, const char* name, SensorLayout layout) {
    SensorGroup g;
    g.id = {id};
    g.name = name;
    g.layout = std::move(layout);
    p.groups.push_back(std::move(g));
  };
  GroundArea area;
  area.outline = rectangle(-15, -5, 15, 25);
  group(10, "Green", area);
  FaceGrid grid;
  grid.faces.push_back({{1}, {}});
  grid.walls = false;
  grid.roofs = true;
  group(11, "Roof", grid);
  std::vector<PointSensor> windows;
  for (int k = 0; k < 3; ++k) {
    PointSensor s;
    s.position = {22 + 4.0 * k, -0.02, 1.6};
    s.normal = {0, -1, 0};
    s.name = "Window " + std::to_string(k + 1);
    windows.push_back(s);
  }
  group(12, "Windows", windows);
  return p;
}

} // namespace noonward::test
