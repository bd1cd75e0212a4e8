#include "picture/contours.h"
#include <cmath>
#include <map>

namespace noonward {

namespace {

struct Sheet {
  Vec3 origin, normal, u, v;
  double spacing = 1;
  std::map<std::pair<int, int>, std::size_t> at; ///< place in the grid -> sensor
};

/// The grids of one group: sensors that share a plane.
std::vector<Sheet> sheetsOf(const SensorSet& set, const SensorGridFacts& g) {
  std::vector<Sheet> out;
  if (g.spacing <= 0) return out;
  if (g.cells.size() == g.count && g.count > 0) { // of a room: rows and columns are known, and need not be even
    const Sensor& s = set.sensors[g.first];
    out.push_back({s.position, s.normalVector(), {}, {}, g.spacing, {}});
    for (std::size_t k = 0; k < g.count; ++k) out.back().at[{g.cells[k].column, g.cells[k].row}] = g.first + k;
    return out;
  }
  for (std::size_t i = g.first; i < g.first + g.count; ++i) {
    const Sensor& s = set.sensors[i];
    const Vec3 n = s.normalVector();
    Sheet* mine = nullptr;
    for (Sheet& sheet : out)
      if (dot(sheet.normal, n) > 0.9999 && std::abs(dot(s.position - sheet.origin, n)) < 0.01) mine = &sheet;
    if (!mine) {
      const Vec3 u = std::abs(n.z) > 0.999 ? Vec3{1, 0, 0} : normalized(cross({0, 0, 1}, n));
      out.push_back({s.position, n, u, cross(n, u), g.spacing, {}});
      mine = &out.back();
    }
    const Vec3 d = s.position - mine->origin;
    const double x = dot(d, mine->u) / g.spacing, y = dot(d, mine->v) / g.spacing;
    if (std::abs(x - std::round(x)) < 0.05 && std::abs(y - std::round(y)) < 0.05)
      mine->at[{int(std::lround(x)), int(std::lround(y))}] = i;
  }
  return out;
}

} // namespace

std::vector<ContourPiece> contours(const SensorSet& set, const std::vector<float>& values,
                                   const std::vector<double>& levels) {
  std::vector<ContourPiece> out;
  for (const SensorGridFacts& g : set.groups)
    for (const Sheet& sheet : sheetsOf(set, g))
      for (const auto& [place, first] : sheet.at) {
        const int steps[4][2] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
        std::array<Vec3, 4> p;
        std::array<double, 4> v{};
        bool whole = true;
        for (int k = 0; k < 4 && whole; ++k) {
          const auto at = sheet.at.find({place.first + steps[k][0], place.second + steps[k][1]});
          whole = at != sheet.at.end() && !std::isnan(values[at->second]);
          if (!whole) break;
          p[std::size_t(k)] = set.sensors[at->second].position + sheet.normal * 0.04;
          v[std::size_t(k)] = double(values[at->second]);
        }
        if (!whole) continue;
        for (double level : levels) {
          std::array<Vec3, 4> cut;
          std::size_t cuts = 0;
          for (std::size_t k = 0; k < 4; ++k) {
            const double a = v[k] - level, b = v[(k + 1) % 4] - level;
            if ((a >= 0) == (b >= 0)) continue;
            cut[cuts++] = p[k] + (p[(k + 1) % 4] - p[k]) * (a / (a - b));
          }
          const auto piece = [&](Vec3 from, Vec3 to) { // through a corner it is a point, and nothing to draw
            if (length(to - from) > 1e-9) out.push_back({level, from, to});
          };
          if (cuts == 2) piece(cut[0], cut[1]);
          if (cuts == 4) { // a saddle: the mean says which corners belong together
            const bool joined = ((v[0] + v[1] + v[2] + v[3]) / 4 >= level) == (v[0] >= level);
            piece(cut[0], cut[joined ? 1 : 3]);
            piece(cut[2], cut[joined ? 3 : 1]);
          }
        }
      }
  return out;
}

} // namespace noonward
