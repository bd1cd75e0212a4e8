// Heat of rooms: steady needs by their resistances, a year against a fine integration of the same network, two rooms
// that share a wall, U-values of layers by hand, what the sun of a year brings through a pane.

#include "core/model/heat_library.h"
#include "core/proof/light_cases.h"
#include "core/studies/energy/energy_year.h"
#include "core/studies/energy/heat_zone.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

constexpr double ms = 9.1, is = 3.45, at = 4.5; // W/(m²K), W/(m²K), Atot / Af: ISO 13790:2008, 12.2.2 and 7.2.2.2

void steady(std::vector<ProofCase>& out) {
  for (const double air : {0.0, 8.0, 60.0}) {
    const HeatZone z{20, 22, 7};
    const HeatRoom room(z);
    HeatHour h;
    h.outdoor = h.supply = -8;
    h.ventilation = air;
    h.heatTo = 20;
    double mass = 0;
    HeatStep s;
    for (int k = 0; k < 20000; ++k) {
      s = room.step(h, mass);
      mass = s.massEnd;
    }
    const double surface = is * at * z.floorArea;
    out.push_back({fmt::format("heating of a room at 28 K, {:g} W/K of air", air), "W",
                   28 * (air + 1 / (1 / surface + 1 / (z.opaque + z.windows))), s.need, 1e-3,
                   "resistances in series: air to surfaces, surfaces to outdoors"});
  }
}

HeatHour weatherOf(int k) {
  HeatHour h;
  h.outdoor = h.supply = 9 - 10 * std::cos(2 * pi * k / 8760.0) - 4 * std::cos(2 * pi * (k - 3) / 24.0);
  const int hour = k % 24;
  h.ventilation = hour >= 8 && hour < 18 ? 25 : 5;
  h.internal = hour >= 8 && hour < 18 ? 250 : 0;
  h.solar = std::max(0.0, 900 * std::sin(2 * pi * (hour - 6) / 24.0)) * (1 - 0.6 * std::cos(2 * pi * k / 8760.0));
  h.heatTo = hour >= 8 && hour < 18 ? 21 : 16;
  h.coolTo = hour >= 8 && hour < 18 ? 25 : 35;
  return h;
}

/// The same network forward in steps of ten seconds; the need held over an hour at what keeps its mean air.
void fineYear(std::vector<ProofCase>& out) {
  const HeatZone z{25, 20, 12};
  const HeatRoom room(z);
  const double am = 2.5 * z.floorArea, atot = at * z.floorArea, hms = ms * am, his = is * atot,
               hem = 1 / (1 / z.opaque - 1 / hms), cm = 165e3 * z.floorArea, hw = z.windows;
  double ours = 20, fine = 20;
  std::array<double, 2> heating{}, cooling{};
  for (int k = 0; k < 8760; ++k) {
    const HeatHour h = weatherOf(k);
    const HeatStep s = room.step(h, ours);
    ours = s.massEnd;
    (s.need > 0 ? heating : cooling)[1] += std::abs(s.need) / 1000;
    const double half = 0.5 * h.internal + h.solar, toMass = am / atot * half,
                 toStar = half - toMass - hw / (ms * atot) * half;
    const auto hour = [&](double need, double& end) {
      double mass = fine, mean = 0;
      constexpr int steps = 360;
      const double a = his + h.ventilation, b = h.ventilation * h.supply + 0.5 * h.internal + need;
      for (int i = 0; i < steps; ++i) {
        const double star = (hw * h.outdoor + hms * mass + toStar + his * b / a) / (his + hw + hms - his * his / a);
        mean += (his * star + b) / a / steps;
        mass += 10 * (hem * (h.outdoor - mass) + hms * (star - mass) + toMass) / cm;
      }
      end = mass;
      return mean;
    };
    double end = 0, need = 0;
    if (const double free = hour(0, end); free < h.heatTo || free > h.coolTo) {
      need = 1000 * ((free < h.heatTo ? h.heatTo : h.coolTo) - free) / (hour(1000, end) - free);
      hour(need, end);
    }
    fine = end;
    (need > 0 ? heating : cooling)[0] += std::abs(need) / 1000;
  }
  const char* source = "the network in steps of ten seconds";
  out.push_back({"heating of a year of hours", "kWh", heating[0], heating[1], 0.01 * heating[0], source});
  out.push_back({"cooling of a year of hours", "kWh", cooling[0], cooling[1], 0.01 * cooling[0], source});
}

void layers(std::vector<ProofCase>& out) {
  const Construction wall{"Wall",
                          0,
                          {{"plaster", 0.02, 0.9, 1800, 1000},
                           {"wool", 0.16, 0.035, 40, 1030},
                           {"brick", 0.24, 0.8, 1700, 900},
                           {"plaster", 0.015, 0.6, 1300, 1000}},
                          "",
                          false};
  const double layersR = 0.02 / 0.9 + 0.16 / 0.035 + 0.24 / 0.8 + 0.015 / 0.6;
  const std::array<std::tuple<const char*, HeatFlow, double>, 5> ways{
      {{"a wall", HeatFlow::Wall, 0.17},
       {"a roof", HeatFlow::Roof, 0.14},
       {"a floor on the ground", HeatFlow::Ground, 0.17},
       {"a floor in air", HeatFlow::ExposedFloor, 0.21},
       {"a partition", HeatFlow::Inside, 0.26}}};
  for (const auto& [name, flow, surfaces] : ways)
    out.push_back({fmt::format("U-value of four layers as {}", name), "W/(m²K)", 1 / (layersR + surfaces),
                   uValueOf(wall, flow), 1e-9, "ISO 6946:2017, table 7"});
  out.push_back({"heat held by the inner 0.1 m", "kJ/(m²K)", (0.015 * 1300 * 1000 + 0.085 * 1700 * 900) / 1000,
                 heldHeat(wall).value_or(NAN) / 1000, 1e-9, "plaster and the brick behind it, by hand"});
}

Project alone(double celsius) {
  BoxRoom box;
  box.size = {5, 5, 3};
  Project p = boxProject(box, {});
  p.site.groundLevel = 0;
  Room r;
  r.id = {1};
  r.name = "Room";
  r.outline = rectangle(0, 0, 5, 5);
  r.height = 3;
  r.use = "still";
  p.rooms = {r};
  SensorGroup g;
  g.id = {2};
  g.name = "Plane";
  RoomGrid grid;
  grid.spacing = 2;
  g.layout = grid;
  p.groups = {g};
  auto weather = std::make_shared<Weather>(*madeUpYear(p.site.place));
  for (WeatherHour& h : weather->hours) h[WeatherField::DryBulb] = celsius;
  p.site.weather = weather;
  RoomUse use;
  use.name = "still";
  use.people = use.equipment = use.lighting = use.ventilation = 0;
  use.infiltration = 0.3;
  use.heatBack = use.heatTo = 20;
  p.heat.uses = {use};
  p.heat.constructions = {
      {"W", 0.4, {}, "", false}, {"R", 0.3, {}, "", false}, {"G", 0.5, {}, "", false}, {"P", 1.6, {}, "", false}};
  p.heat.wall = "W";
  p.heat.roof = "R";
  p.heat.ground = "G";
  p.heat.partition = "P";
  return p;
}
std::vector<EnergyRoom> roomsOf(const Project& p) {
  Study s;
  s.id = {3};
  s.kind = StudyKind::Energy;
  s.year.blinds = BlindRule::Never;
  const auto in = lightInput(p, s);
  if (!in) return {};
  RunControl control;
  const LightResult r = runLight(*in, control);
  return r.energy ? r.energy->rooms : std::vector<EnergyRoom>{};
}

void wholeRooms(std::vector<ProofCase>& out) {
  Project p = alone(-4);
  const double opaque = 60 * 0.4 + 25 * 0.3 + 0.5 * 25 * 0.5, air = 1200 * 0.3 * 75 / 3600, surface = is * at * 25;
  const auto one = roomsOf(p);
  out.push_back({"heating of a year at −4 °C, a room without windows", "kWh",
                 24 * 8.760 * (air + 1 / (1 / surface + 1 / opaque)), one.empty() ? NAN : one[0].year().heating, 0.01,
                 "areas, U-values and resistances by hand"});
  // Beside it a room of the same size that is left to itself; their wall passes heat.
  Room next = p.rooms[0];
  next.id = {9};
  next.name = "Next";
  next.outline = rectangle(5.1, 0, 10.1, 5);
  next.use = "unheated";
  p.rooms.push_back(next);
  RoomUse free = p.heat.uses[0];
  free.name = "unheated";
  free.conditioned = false;
  p.heat.uses.push_back(free);
  for (SensorGroup& g : p.groups) std::get<RoomGrid>(g.layout).rooms = {{1}, {9}};
  const auto two = roomsOf(p);
  // Surfaces a and b: (air to a in series) … the network of both, solved for its two surface temperatures.
  const double out2 = opaque - 15 * 0.4, part = 15 * 1.6, series = 1 / (1 / surface + 1 / air);
  // b: out2 (−4 − b) + part (a − b) + series (−4 − b) = 0; a: out2 (−4 − a) + part (b − a) + surface (20 − a) = 0
  const double bb = out2 + part + series, ba = -4 * (out2 + series);
  const double a = (surface * 20 - 4 * out2 + part * ba / bb) / (surface + out2 + part - part * part / bb),
               b = (ba + part * a) / bb;
  double between = NAN;
  if (two.size() == 2) {
    between = 0;
    for (const EnergyCause& c : two[1].causes)
      if (c.kind == EnergyCauseKind::Rooms)
        for (double m : c.months) between += m;
  }
  out.push_back({"the same beside a room left to itself", "kWh", 8.760 * (air * 24 + surface * (20 - a)),
                 two.size() == 2 ? two[0].year().heating : NAN, 0.05, "both networks solved by hand"});
  out.push_back(
      {"heat through their wall", "kWh", 8.760 * part * (a - b), between, 0.05, "both networks solved by hand"});
}

} // namespace

std::vector<ProofCase> proveHeat() {
  std::vector<ProofCase> out;
  steady(out);
  fineYear(out);
  layers(out);
  wholeRooms(out);
  return out;
}

} // namespace noonward
