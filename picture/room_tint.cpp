#include "picture/room_tint.h"
#include "core/model/rooms/placing.h"
#include "core/studies/energy/envelope.h"
#include "picture/opened_rooms.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

const char* roomFigureName(RoomFigure f) {
  switch (f) {
  case RoomFigure::None:
    return "nothing";
  case RoomFigure::Area:
    return "floor area";
  case RoomFigure::Volume:
    return "volume";
  case RoomFigure::Height:
    return "clear height";
  case RoomFigure::Glass:
    return "glass area";
  case RoomFigure::GlassOfFloor:
    return "glass by floor area";
  case RoomFigure::GlassOfWall:
    return "glass by outer wall";
  case RoomFigure::HeatLoss:
    return "heat loss by floor area";
  case RoomFigure::Facing:
    return "orientation of facades";
  }
  return "";
}

namespace {
double figureOf(const RoomFacts& f, RoomFigure figure) {
  switch (figure) {
  case RoomFigure::None:
  case RoomFigure::HeatLoss: // of the envelopes of all rooms together
  case RoomFigure::Facing:   // of no room
    break;
  case RoomFigure::Area:
    return f.area;
  case RoomFigure::Volume:
    return f.volume;
  case RoomFigure::Height:
    return f.height;
  case RoomFigure::Glass:
    return f.allWindows();
  case RoomFigure::GlassOfFloor:
    return f.area > 0 ? 100 * f.allWindows() / f.area : std::nan("");
  case RoomFigure::GlassOfWall: // rooflights are in no wall
    return f.exposedArea > 0 ? 100 * (f.allWindows() - f.rooflightArea) / f.exposedArea : std::nan("");
  }
  return std::nan("");
}
const char* unitOf(RoomFigure f) {
  return f == RoomFigure::Height                           ? "m"
         : f == RoomFigure::HeatLoss                       ? "W/m²K"
         : f == RoomFigure::Volume                         ? "m³"
         : f == RoomFigure::Area || f == RoomFigure::Glass ? "m²"
                                                           : "%";
}
} // namespace

RoomTints roomTints(const Project& p, RoomFigure figure) {
  RoomTints out;
  const ShownUnit unit = shownUnit(unitOf(figure), p.units);
  const std::vector<RoomFacts> facts = roomFacts(p);
  const auto envelopes = figure == RoomFigure::HeatLoss ? roomEnvelopes(p) : std::vector<RoomEnvelope>{};
  double most = 0;
  for (std::size_t r = 0; r < facts.size(); ++r) {
    const double v = figure != RoomFigure::HeatLoss ? figureOf(facts[r], figure)
                     : envelopes[r].floorArea > 0   ? heatLoss(p, envelopes[r]) / envelopes[r].floorArea
                                                    : std::nan("");
    const double shown = std::string_view(unitOf(figure)) == "m" ? v / metresPer(p.units.length) : unit.shown(v);
    out.value.push_back(shown);
    out.words.push_back(std::isnan(v)                             ? "none"
                        : std::string_view(unitOf(figure)) == "m" ? lengthText(v, p.units.length)
                                                                  : fmt::format("{:.{}f} {}", shown,
                                                                                shown < 1    ? 2
                                                                                : shown < 10 ? 1
                                                                                             : 0,
                                                                                unit.symbol));
    if (shown > most) most = shown;
  }
  out.scale.palette = Palette::Illuminance;
  out.scale.title = roomFigureName(figure);
  out.scale.unit = std::string_view(unitOf(figure)) == "m" ? std::string(unitSymbol(p.units.length)) : unit.symbol;
  out.scale.low = 0;
  // Rounded up to two figures.
  const double step = most > 0 ? std::pow(10, std::floor(std::log10(most)) - 1) : 1;
  out.scale.high = most > 0 ? std::ceil(most / step - 1e-9) * step : 1;
  out.scale.dotBelow = false;
  out.scale.threshold = 0;
  return out;
}

Mesh roomFloors(const Project& p, double storey) {
  Mesh m;
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Room& room = p.rooms[r];
    if (!onStorey(room, storey)) continue;
    const auto cut = triangulate(tidied(room.outline));
    if (!cut) continue;
    const auto first = std::uint32_t(m.points.size());
    for (Vec2 q : points(tidied(room.outline))) m.points.push_back({q.x, q.y, room.floor + 0.03});
    for (const auto& t : *cut) {
      m.triangles.push_back({t[0] + first, t[1] + first, t[2] + first});
      m.face.push_back(std::uint32_t(r));
    }
  }
  return m;
}

} // namespace noonward
