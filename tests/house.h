#pragma once
// The house that tests build on: one block on the ground with one room in it, "Hall", and windows by ratio where asked for.

#include "core/model/project.h"

namespace noonward::test {

struct HouseWish {
  double width = 8, depth = 6, wall = 0.35; ///< m
  double ratio = 0;                         ///< of windows; 0: none
  Facing facing = Facing::South;
  double spacing = 0;                       ///< m, of a grid in the room; 0: none
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

} // namespace noonward::test
