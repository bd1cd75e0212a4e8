// Known answers for the studies of site layout that sample no light: the no-sky line behind an endless wall, probable
// sunlight by symmetry.

#include "core/proof/light_cases.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// A room behind a strip of window as wide as itself, an endless wall opposite, and points on its axis every
/// centimetre.
struct NoSkyCase {
  double head, reveal, apart,
      height;           ///< m: of the window; of the wall it stands in; between the two walls; of the one opposite
  double line() const { ///< m from the inner face: sky is seen from nearer
    const double plane = 0.85;
    // A ray over the wall's top may rise to the head where it leaves the reveal: (height − plane)/(d + reveal + apart)
    // = (head − plane)/(d + reveal).
    return (head - plane) * apart / (height - head) - reveal;
  }
};

void noSkyLines(std::vector<ProofCase>& out) {
  for (const NoSkyCase& c : {NoSkyCase{2.4, 0.3, 10, 6}, NoSkyCase{2.4, 0.3, 10, 9}, NoSkyCase{2.2, 0.05, 25, 14},
                             NoSkyCase{2.9, 0.5, 6, 8}}) {
    Project p;
    p.site.groundLevel = 0;
    Element house, wall;
    house.id = {1};
    house.shape = Mass{rectangle(-4, 0, 4, c.reveal + 9), 0, 3.4, 1};
    wall.id = {2};
    wall.shape = Mass{rectangle(-2000, -c.apart - 1, 2000, -c.apart), 0, c.height, 1};
    for (const Element& e : {house, wall}) p.elements.push_back(std::make_shared<const Element>(e));
    Room r;
    r.id = {3};
    r.outline = rectangle(-3.7, c.reveal, 3.7, c.reveal + 8.5);
    r.height = 3;
    p.rooms.push_back(r);
    Opening o;
    o.id = {4};
    o.room = r.id;
    o.edge = 0;
    o.along = 0.2;
    o.sill = 0.9;
    o.width = 7;
    o.height = c.head - 0.9;
    p.openings.push_back(o);
    SensorGroup g;
    g.id = {9};
    std::vector<PointSensor> points;
    for (int k = 1; k < 800; ++k) points.push_back({{0, c.reveal + 0.01 * k, 0.85}, {0, 0, 1}, ""});
    g.layout = std::move(points);
    p.groups.push_back(g);
    double seen = NAN;
    if (const auto v = lightOf(p, StudyKind::NoSkyLine, 0.01)) {
      seen = 0;
      for (std::size_t i = 0; i < v->value.size(); ++i)
        if (v->value[i] > 0) seen = 0.01 * double(i + 1);
    }
    out.push_back({fmt::format("no-sky line, wall of {:g} m {:g} m away", c.height, c.apart), "m", c.line(), seen,
                   0.015, "the ray over the wall's top and under the outer edge of the head"});
  }
}

void probableSun(std::vector<ProofCase>& out) {
  Project p;
  p.site.place = {radians(51.0), 0, 0};
  p.site.zone = "UTC";
  SensorGroup g;
  g.id = {9};
  g.layout =
      std::vector<PointSensor>{{{0, 0, 5}, {0, 0, 1}, ""}, {{0, 0, 5}, {1, 0, 0}, ""}, {{0, 0, 5}, {-1, 0, 0}, ""}};
  p.groups.push_back(g);
  Study s;
  s.id = {1};
  s.kind = StudyKind::SunlightYear;
  s.light.sunshine.emplace();
  s.light.sunshine->fill(0.35);
  const char* facing[] = {"up", "east", "west"};
  const double expected[] = {100, 50, 50};
  const auto in = lightInput(p, s);
  RunControl control;
  const auto values = in ? runLight(*in, control).value : std::vector<float>(3, NAN);
  for (std::size_t i = 0; i < 3; ++i)
    out.push_back({fmt::format("probable sunlight by a table, free and facing {}", facing[i]), "%", expected[i],
                   double(values[i]), i == 0 ? 1e-4 : 0.4,
                   "all of it; half of it by symmetry about noon (0.4: steps of 20 minutes)"});
}

} // namespace

std::vector<ProofCase> proveExposure() {
  std::vector<ProofCase> out;
  noSkyLines(out);
  probableSun(out);
  return out;
}

} // namespace noonward
