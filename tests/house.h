#pragma once
// The house that tests build on: one block on the ground with one room in it, "Hall", and windows by ratio where asked
// for.

#include "core/files/project/project_file.h"

namespace noonward::test {

struct HouseWish {
  double width = 8, depth = 6, wall = 0.35; ///< m
  double ratio = 0;                         ///< of windows; 0: none
  Facing facing = Facing::South;
  double spacing = 0; ///< m, of a grid in the room; 0: none
};

inline Project house(const HouseWish& wish = {}) {
  Project p;
  Element e;
  e.id = {10};
  e.name = "House";
  e.layer = "walls";
  e.shape = Mass{rectangle(0, 0, wish.width, wish.depth), 0, 3.4, 1};
  p.elements.push_back(std::make_shared<const Element>(e));
  Room r;
  r.id = {1};
  r.name = "Hall";
  r.outline = rectangle(wish.wall, wish.wall, wish.width - wish.wall, wish.depth - wish.wall);
  r.height = 3;
  p.rooms.push_back(r);
  if (wish.ratio > 0) {
    WindowRule w;
    w.id = {30};
    w.name = "Window";
    w.facings = {wish.facing};
    w.ratio = wish.ratio;
    p.windowRules.push_back(w);
  }
  if (wish.spacing > 0) {
    SensorGroup g;
    g.id = {40};
    g.name = "Plane";
    RoomGrid grid;
    grid.spacing = wish.spacing;
    g.layout = grid;
    p.groups.push_back(g);
  }
  return p;
}

/// The demo's weather year.
inline std::shared_ptr<const Weather> demoWeather() {
  static const auto loaded = readProject(SOURCE_TREE "/demo/ropewalk-quay.noonward");
  return loaded->project.site.weather;
}

/// The house with a window to the south, in the demo's place and weather.
inline Project houseOfTheYear(double spacing = 0.9) {
  Project p = house({.width = 7, .depth = 6, .wall = 0.3, .ratio = 0.35, .spacing = spacing});
  p.site.place = demoWeather()->place;
  p.site.zone = "Europe/Copenhagen";
  p.site.weather = demoWeather();
  return p;
}

} // namespace noonward::test
