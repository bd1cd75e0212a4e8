#include "core/model/form/storeys.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace noonward {

std::vector<SourcePart> sourceParts(const Project& p, const std::vector<ElementId>& ids) {
  std::vector<SourcePart> out;
  for (ElementId id : ids)
    if (const ElementPtr e = p.element(id))
      if (auto mesh = elementMesh(*e)) out.push_back({e, *mesh});
  return out;
}

Box3 boxOf(const std::vector<SourcePart>& sources) {
  Box3 b;
  for (const SourcePart& s : sources) b.addBox(s.mesh->box());
  return b;
}

namespace {

struct LevelArea {
  double z = 0, area = 0; ///< m, m²
};

bool isLevel(const Mesh& m, std::size_t t, double& z, double& area) {
  const Vec3 n = m.areaVector(t);
  const double l = length(n);
  z = m.points[m.triangles[t][0]].z;
  area = l / 2;
  return l > 0 && std::abs(n.z) > 0.98 * l && std::abs(z) < 1e6;
}

/// Horizontal face by level; levels nearer than 3 cm are one.
std::vector<LevelArea> levelsOf(const std::vector<SourcePart>& sources) {
  std::map<long, std::pair<double, double>> bins; // centimetre -> area, area × z
  double z = 0, area = 0;
  for (const SourcePart& s : sources)
    for (std::size_t t = 0; t < s.mesh->triangles.size(); ++t)
      if (isLevel(*s.mesh, t, z, area)) {
        auto& bin = bins[std::lround(z * 100)];
        bin.first += area;
        bin.second += area * z;
      }
  std::vector<LevelArea> out;
  long last = 0;
  for (const auto& [cm, bin] : bins) {
    if (!out.empty() && cm - last <= 3) {
      LevelArea& l = out.back();
      l.z = (l.z * l.area + bin.second) / (l.area + bin.first);
      l.area += bin.first;
    } else {
      out.push_back({bin.second / bin.first, bin.first});
    }
    last = cm;
  }
  return out;
}

/// What of the levels' faces is wide: tops of walls and sills are not. Counted on a grid of half a metre, coarser for
/// large plans.
void keepWide(std::vector<LevelArea>& levels, const std::vector<SourcePart>& sources, const Box3& box) {
  const double step = std::max({0.5, box.size().x / 1000, box.size().y / 1000});
  const int columns = int(box.size().x / step) + 3, rows = int(box.size().y / step) + 3;
  std::vector<std::vector<bool>> covered(levels.size());
  double z = 0, area = 0;
  for (const SourcePart& s : sources)
    for (std::size_t t = 0; t < s.mesh->triangles.size(); ++t) {
      if (!isLevel(*s.mesh, t, z, area)) continue;
      const auto at = std::min_element(levels.begin(), levels.end(), [&](const LevelArea& a, const LevelArea& b) {
        return std::abs(a.z - z) < std::abs(b.z - z);
      });
      if (std::abs(at->z - z) > 0.05) continue;
      auto& grid = covered[std::size_t(at - levels.begin())];
      if (grid.empty()) grid.assign(std::size_t(columns) * std::size_t(rows), false);
      Vec2 p[3];
      for (std::size_t k = 0; k < 3; ++k)
        p[k] = (xy(s.mesh->points[s.mesh->triangles[t][k]]) - xy(box.low)) * (1 / step) +
               Vec2{1.013, 1.007}; // off round numbers
      if (cross(p[1] - p[0], p[2] - p[0]) < 0) std::swap(p[1], p[2]);
      const auto [x0, x1] = std::minmax({p[0].x, p[1].x, p[2].x});
      const auto [y0, y1] = std::minmax({p[0].y, p[1].y, p[2].y});
      for (int y = int(std::ceil(y0)); y <= int(y1); ++y)
        for (int x = int(std::ceil(x0)); x <= int(x1); ++x) {
          const Vec2 q{double(x), double(y)};
          if (cross(p[1] - p[0], q - p[0]) >= 0 && cross(p[2] - p[1], q - p[1]) >= 0 &&
              cross(p[0] - p[2], q - p[2]) >= 0)
            grid[std::size_t(y * columns + x)] = true;
        }
    }
  for (std::size_t k = 0; k < levels.size(); ++k) {
    std::size_t wide = 0;
    const auto& g = covered[k];
    for (int y = 1; !g.empty() && y + 1 < rows; ++y)
      for (int x = 1; x + 1 < columns; ++x) {
        const auto i = std::size_t(y * columns + x);
        wide += g[i] && ((g[i - 1] && g[i + 1] && (g[i - std::size_t(columns)] || g[i + std::size_t(columns)])) ||
                         (g[i - std::size_t(columns)] && g[i + std::size_t(columns)] && (g[i - 1] || g[i + 1])));
      }
    levels[k].area = double(wide) * step * step;
  }
}

/// Levels that are floors, ceilings or roofs: wide, and not small beside the largest within a few storeys.
std::vector<LevelArea> bigLevels(const std::vector<SourcePart>& all) {
  std::vector<SourcePart> sources;
  for (const SourcePart& s : all)
    if (s.element->role != Role::Glazing) sources.push_back(s);
  std::vector<LevelArea> levels = levelsOf(sources), out;
  double most = 0;
  Box3 box;
  for (const SourcePart& s : sources) box.addBox(s.mesh->box());
  for (const LevelArea& l : levels) most = std::max(most, l.area);
  std::erase_if(levels, [&](const LevelArea& l) { return l.area < std::max(3.0, 0.01 * most); });
  if (levels.empty() || !(box.size().x < 1e5 && box.size().y < 1e5)) return out;
  keepWide(levels, sources, box);
  for (const LevelArea& l : levels) {
    double largest = 0;
    for (const LevelArea& other : levels)
      if (std::abs(other.z - l.z) < 8) largest = std::max(largest, other.area);
    if (l.area >= std::max(2.0, 0.05 * largest)) out.push_back(l);
  }
  return out;
}

} // namespace

std::vector<FoundStorey> storeysOf(const std::vector<SourcePart>& sources, const std::vector<double>& given) {
  const auto levels = bigLevels(sources);
  const double top = boxOf(sources).high.z;
  std::vector<FoundStorey> out;
  const auto put = [&](double floor, double ceiling, double area) {
    FoundStorey l;
    l.storey.floor = floor;
    l.storey.ceiling = ceiling;
    l.floorArea = area;
    out.push_back(l);
  };
  if (given.empty()) {
    for (std::size_t k = 0; k + 1 < levels.size(); ++k)
      if (levels[k + 1].z - levels[k].z >= leastStorey)
        put(levels[k].z, levels[k + 1].z, std::min(levels[k].area, levels[k + 1].area));
    if (!levels.empty() && top - levels.back().z >= leastStorey) {
      put(levels.back().z, top, levels.back().area);
      out.back().flat = false;
    }
    if (levels.empty() && !sources.empty() && top - boxOf(sources).low.z >= leastStorey)
      put(boxOf(sources).low.z, top, 0), out.back().flat = false; // walls alone
  } else {
    for (std::size_t k = 0; k < given.size(); ++k) {
      const double next = k + 1 < given.size() ? given[k + 1] : top;
      double ceiling = next, area = 0;
      for (const LevelArea& l : levels)
        if (l.z >= given[k] + leastStorey && l.z <= next + 0.01) {
          ceiling = l.z;
          area = l.area;
          break;
        }
      if (ceiling - given[k] > 0.5) put(given[k], ceiling, area);
    }
  }
  for (std::size_t k = 0; k < out.size(); ++k) {
    TracedStorey& s = out[k].storey;
    s.top = s.ceiling;
    if (k + 1 < out.size())
      s.top = out[k + 1].storey.floor;
    else // what lies on the last one: the roof's upper face
      for (const LevelArea& l : levels)
        if (l.z > s.ceiling && l.z < s.ceiling + 1.2) s.top = l.z;
  }
  return out;
}

} // namespace noonward
