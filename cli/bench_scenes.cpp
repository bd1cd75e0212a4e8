#include "cli/bench.h"
#include "core/model/edit.h"
#include <algorithm>
#include <chrono>
#include <fstream>
#include <malloc.h>
#include <random>
#include <sstream>

namespace noonward::cli {

Project benchTown(std::size_t triangles) {
  Project p;
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  std::mt19937 random(7);
  const auto unit = [&] { return random() / 4294967296.0; };
  const std::size_t boxes = std::max<std::size_t>(1, triangles / 12);
  const int side = int(std::ceil(std::sqrt(double(boxes))));
  const double pitch = 1000.0 / side;
  Mesh all;
  for (std::size_t k = 0; k < boxes; ++k) {
    const double x = (double(k % std::size_t(side)) + 0.15 + 0.3 * unit()) * pitch - 500, y = (double(k / std::size_t(side)) + 0.15 + 0.3 * unit()) * pitch - 500;
    const double w = pitch * (0.25 + 0.25 * unit()), d = pitch * (0.25 + 0.25 * unit()), h = 4 + 22 * unit() * unit();
    const auto box = extrude(rectangle(x, y, x + w, y + d), 0, h);
    const auto base = std::uint32_t(all.points.size());
    all.points.insert(all.points.end(), box->points.begin(), box->points.end());
    for (const Triangle& t : box->triangles) all.triangles.push_back({t[0] + base, t[1] + base, t[2] + base});
    const auto faces = std::uint32_t(6 * k);
    for (std::uint32_t f : box->face) all.face.push_back(f + faces);
  }
  Element e;
  e.id = {1};
  e.name = "Town";
  e.role = Role::Neighbour;
  auto mesh = std::make_shared<const Mesh>(std::move(all));
  e.shape = Imported{mesh, digestOf(*mesh), {}, 0, 1};
  return withElement(std::move(p), std::move(e));
}

double memoryPeakMb() {
  std::ifstream status("/proc/self/status");
  for (std::string line; std::getline(status, line);)
    if (line.starts_with("VmHWM:")) return std::stod(line.substr(6)) / 1024;
  return 0;
}

void resetMemoryPeak() {
  ::malloc_trim(0); // what earlier work left free must not serve the next for nothing
  std::ofstream("/proc/self/clear_refs") << "5";
}

double seconds(const std::function<void()>& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

double median(std::vector<double> v) {
  std::sort(v.begin(), v.end());
  return v.empty() ? 0 : v[v.size() / 2];
}

} // namespace noonward::cli
