#include "core/light/direct_sun.h"
#include "core/base/tolerances.h"
#include <cmath>
#include <map>

namespace noonward {

namespace {
/// The part of the window with the sun in front of the surface.
Intervals inFront(Vec3 normal, const SunWindow& window) {
  Intervals front;
  const SunPath::Side side = window.path.side(normal);
  for (const Interval& i : window.counts) window.path.positive(side, i, front);
  return front;
}
} // namespace

Intervals sunAt(const Scene& scene, Vec3 p, Vec3 normal, const SunWindow& window) {
  const Intervals front = inFront(normal, window);
  if (front.empty()) return {};
  Intervals hidden;
  for (const auto& layer : scene.layers)
    layer->sweep().shade(p, window.path, front, [&](std::uint32_t, Interval i) { hidden.push_back(i); });
  Intervals sun = difference(front, joined(std::move(hidden), tolerance::shortestStretch));
  std::erase_if(sun, [](const Interval& i) { return i.length() < tolerance::shortestStretch; });
  return sun;
}

std::vector<Shader> shadersOf(const Scene& scene, Vec3 p, Vec3 normal, const SunWindow& window) {
  const Intervals front = inFront(normal, window);
  std::map<std::uint64_t, Intervals> by;
  for (const auto& layer : scene.layers)
    layer->sweep().shade(p, window.path, front,
                         [&](std::uint32_t t, Interval i) { by[layer->partOf(t).source].push_back(i); });
  std::vector<Shader> out;
  for (auto& [id, parts] : by) out.push_back({id, joined(std::move(parts), tolerance::shortestStretch)});
  return out;
}

SunSamples sampleWindows(const std::vector<SunWindow>& windows, const std::vector<Intervals>& clockParts, double step,
                         bool atEnds) {
  SunSamples out;
  std::vector<Vec3> directions;
  for (std::size_t w = 0; w < windows.size(); ++w) {
    const SunWindow& window = windows[w];
    const auto put = [&](double t, double begin, double end) {
      // The sun must stand above the least altitude at the sample itself.
      for (const Interval& i : window.counts)
        if (t >= i.begin && t <= i.end) {
          out.samples.push_back({std::uint32_t(w), begin, end, end - begin});
          directions.push_back(window.path.direction(t));
          return;
        }
    };
    for (const Interval& part : clockParts[w]) {
      const int n = int(std::ceil(part.length() / step - 1e-9));
      for (int k = 0; k < n; ++k) {
        const double begin = part.begin + k * step, end = std::min(part.end, begin + step);
        if (!atEnds)
          put(0.5 * (begin + end), begin, end);
        else
          put(begin, k == 0 ? begin : begin - step / 2, begin + (end - begin) / 2);
        if (atEnds && k + 1 == n) put(end, begin + (end - begin) / 2, end);
      }
    }
  }
  out.blocks.resize((directions.size() + 7) / 8);
  for (std::size_t b = 0; b < out.blocks.size(); ++b)
    for (std::size_t i = 0; i < 8; ++i) {
      const bool used = 8 * b + i < directions.size();
      const Vec3 d = used ? directions[8 * b + i] : Vec3{0, 0, 1};
      out.blocks[b].x[i] = float(d.x);
      out.blocks[b].y[i] = float(d.y);
      out.blocks[b].z[i] = float(d.z);
      out.blocks[b].active[i] = used ? -1 : 0;
      out.blocks[b].hidden[i] = 0;
    }
  return out;
}

} // namespace noonward
