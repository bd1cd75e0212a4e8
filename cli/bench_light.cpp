// Speed of the light engine: one room, the demo's library, growth with sensors and triangles, against brute force.

#include "cli/bench.h"
#include "core/files/library.h"
#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include "core/proof/brute_force.h"
#include "core/proof/light_cases.h"
#include "core/studies/coefficients.h"
#include "core/studies/year_study.h"
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>

namespace noonward::cli {

namespace {

/// 6 × 9 × 3 m, one window, a grid of sensors at 0.85 m.
Project deepRoom(double spacing) {
  BoxRoom b;
  b.size = {6, 9, 3};
  b.windowX0 = 1;
  b.windowX1 = 5;
  b.windowZ0 = 0.9;
  b.windowZ1 = 2.6;
  b.floor = 0.2;
  b.walls = 0.5;
  b.ceiling = 0.7;
  b.glazed = true;
  std::vector<PointSensor> sensors;
  const int nx = int(6 / spacing), ny = int(8.5 / spacing);
  for (int i = 0; i < nx; ++i)
    for (int j = 0; j < ny; ++j) sensors.push_back({{spacing * (i + 0.5), 0.5 + spacing * j, 0.85}, {0, 0, 1}, ""});
  Project p = boxProject(b, sensors);
  p.site.groundLevel = 0;
  p.site.groundReflectance = 0.2;
  return p;
}

double medianRelativeError(const LightResult& r) {
  std::vector<double> e;
  for (std::size_t i = 0; i < r.value.size(); ++i)
    if (r.value[i] > 0) e.push_back(double(r.standardError[i] / r.value[i]));
  return median(std::move(e));
}

double runSeconds(const LightInput& input) {
  return seconds([&] {
    RunControl control;
    (void)runLight(input, control);
  });
}

} // namespace

/// A deep room with one window, 204 sensors: to 2 % at every sensor, and the paths behind it.
std::vector<Measured> daylight() {
  const Project p = deepRoom(0.5);
  Study s;
  s.kind = StudyKind::DaylightFactor;
  const auto input = lightInput(p, s);
  std::vector<double> times, first;
  double paths = 0;
  for (int k = 0; k < 5; ++k) {
    RunControl control;
    bool told = false;
    double usable = 0;
    times.push_back(seconds([&] {
      const LightResult r = runLight(*input, control, {}, [&](const LightResult& soFar) {
        if (!told) usable = soFar.seconds;
        told = true;
      });
      paths = 0;
      for (std::uint32_t n : r.samples) paths += n;
    }));
    first.push_back(usable);
  }
  return {{"daylight-room", median(times), "s", 5, false},
          {"daylight-first-picture", median(first), "s", 1, false},
          {"daylight-paths", paths / median(times) / 1e6, "million paths/s", 0, true}};
}

/// The library of the demo with about a thousand sensors, to a median error of 2 %.
std::vector<Measured> daylightLibrary() {
  std::error_code ignored;
  const auto resources = resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored));
  auto loaded = readProject(resources.parent_path() / "demo" / "ropewalk-quay.noonward");
  if (!loaded) return {};
  Project p = std::move(loaded->project);
  Study s;
  s.kind = StudyKind::DaylightFactor;
  for (SensorGroup& g : p.groups)
    if (auto* grid = std::get_if<RoomGrid>(&g.layout)) {
      grid->spacing = 0.5;
      s.groups = {g.id};
    }
  s.light.error = 0.025; // the most at any sensor; the median is told
  std::size_t sensors = 0;
  double error = 0, first = 0, prepare = 0;
  std::vector<double> times;
  for (int k = 0; k < 3; ++k) {
    std::optional<Expected<LightInput>> in;
    prepare = seconds([&] { in.emplace(lightInput(p, s)); });
    if (!*in) return {};
    sensors = (*in)->sensors.sensors.size();
    first = 0;
    times.push_back(seconds([&] {
      RunControl control;
      const LightResult r = runLight(**in, control, {}, [&](const LightResult& soFar) {
        if (first == 0) first = soFar.seconds;
      });
      error = medianRelativeError(r);
    }));
  }
  return {{"library-sensors", double(sensors), "sensors", 1000, true},
          {"library-daylight", median(times), "s", 5, false},
          {"library-median-error", 100 * error, "%", 2, false},
          {"library-first-picture", prepare + first, "s", 1, false},
          {"library-prepare", prepare, "s", 0.5, false}};
}

/// Cost with the number of sensors, and with the triangles of a town around the room.
std::vector<Measured> daylightGrowth() {
  std::vector<Measured> out;
  Study s;
  s.kind = StudyKind::DaylightFactor;
  s.light.error = 0.05;
  for (const double spacing : {1.0, 0.33, 0.07}) {
    resetMemoryPeak();
    const auto in = lightInput(deepRoom(spacing), s);
    const double n = double(in->sensors.sensors.size()), t = runSeconds(*in);
    out.push_back({fmt::format("per-sensor-{:.0f}", n), 1e3 * t / n, "ms/sensor", 5, false});
    if (n > 9000) out.push_back({"memory-10000-sensors", memoryPeakMb(), "MB", 1500, false});
  }
  for (const std::size_t triangles : {20'000u, 200'000u, 2'000'000u}) {
    Project p = deepRoom(0.5);
    Project town = benchTown(triangles);
    Element e = *town.elements.front();
    moveElement(e, {520, 520, 0}); // the room stands at its corner and looks at it
    p = withElement(std::move(p), std::move(e));
    const auto in = lightInput(p, s);
    out.push_back({fmt::format("town-{}k", triangles / 1000), runSeconds(*in), "s", 5, false});
  }
  return out;
}

/// The time to 2 % at eight sensors: by every triangle and the cosine alone, and by the engine; in one run.
std::vector<Measured> daylightBrute() {
  const Project p = deepRoom(2);
  const auto model = lightModel(p);
  Study s;
  s.kind = StudyKind::DaylightFactor;
  s.light.error = 0.02;
  const auto in = lightInput(p, s);
  if (!model || !in) return {};
  double brute = 0;
  for (const Sensor& x : in->sensors.sensors) {
    std::pair<double, double> got;
    const double t = seconds([&] { got = bruteForce(*model, x.position, x.normalVector(), 20'000); });
    brute += t * std::pow(got.second / (0.02 * got.first), 2);
  }
  const double engine = seconds([&] {
    RunControl control;
    (void)runLight(*in, control, Threads{1});
  });
  return {{"brute-force", brute, "s on one thread", 0, false},
          {"engine", engine, "s on one thread", 0, false},
          {"faster-than-brute", brute / engine, "×", 10, true}};
}

/// The year of the demo's library with about a thousand sensors and blinds by the standard; again with other blinds;
/// and of ten times the sensors.
std::vector<Measured> daylightYear() {
  std::error_code ignored;
  const auto resources = resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored));
  auto loaded = readProject(resources.parent_path() / "demo" / "ropewalk-quay.noonward");
  if (!loaded) return {};
  std::vector<Measured> out;
  for (const double spacing : {0.5, 0.16}) {
    Project p = loaded->project;
    std::vector<GroupId> groups;
    for (SensorGroup& g : p.groups)
      if (auto* grid = std::get_if<RoomGrid>(&g.layout)) {
        grid->spacing = spacing;
        groups = {g.id};
      }
    resetMemoryPeak();
    YearSettings s;
    s.stopFor = StopFor::Nothing; // every path
    KeptCoefficients kept;
    std::optional<Expected<YearInput>> in;
    const double prepare = seconds([&] { in.emplace(yearInput(p, groups, s, &kept)); });
    if (!*in) return {};
    double first = 0, maps = 0;
    RunControl control;
    const double whole = prepare + seconds([&] {
                           (void)runYear(**in, control, {}, &kept, [&](const YearResult& r) {
                             if (first == 0) first = prepare + r.seconds;
                             if (maps == 0 && r.everySpace) maps = prepare + r.seconds;
                           });
                         });
    const bool small = spacing > 0.4;
    const std::string name = small ? "year-library" : "year-large";
    out.push_back({name + "-sensors", double((*in)->sensors.sensors.size()), "sensors", 0, true});
    out.push_back({name, whole, "s", small ? 12.0 : 120.0, false});
    out.push_back({name + "-prepare", prepare, "s", 0, false});
    out.push_back({name + "-first-room", first, "s", small ? 2.0 : 20.0, false});
    out.push_back({name + "-all-rooms", maps, "s", 0, false});
    out.push_back({name + "-memory", memoryPeakMb(), "MB", 2000, false});
    const auto again = [&](const char* what, KeptCoefficients* with) {
      out.push_back({what, seconds([&] {
                       RunControl go;
                       const auto next = yearInput(p, groups, s, with);
                       (void)runYear(*next, go, {}, with);
                     }),
                     "s", 2, false});
    };
    if (!small) continue;
    s.blinds = BlindRule::Never;
    again("year-other-blinds", &kept);
    s.blinds = BlindRule::Standard;
    s.stopFor = StopFor::Credit;
    again("year-until-certain", nullptr);
  }
  return out;
}

} // namespace noonward::cli
