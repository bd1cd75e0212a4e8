#include "cli/bench.h"
#include "cli/commands.h"
#include "core/base/json.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/project/project_file.h"
#include "core/geometry/healing.h"
#include "core/geometry/plan_cut.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/model/tracing/tracing.h"
#include "core/proof/light_cases.h"
#include "core/studies/probe.h"
#include "core/studies/sun_hours.h"
#include <embree3/rtcore.h>
#include <fmt/format.h>
#include <map>
#include <memory>
#include <random>
#include <sys/resource.h>
#include <unistd.h>

namespace noonward::cli {

namespace {

/// 200 000 ground sensors × 60 instants over 120 000 triangles, against a bare rtcOccluded1 loop over the same rays.
std::vector<Measured> sunHoursRate() {
  Project p = benchTown(120'000);
  SensorGroup g;
  g.id = {1};
  g.name = "Ground";
  GroundArea area;
  area.spacing = 1000 / std::sqrt(200'000.0);
  area.outline = rectangle(-500, -500, 500, 500);
  g.layout = area;
  p.groups.push_back(g);
  SunHoursSettings s;
  s.dates = {{2026, 3, 21}};
  s.season.beginMinute = 7 * 60;
  s.season.endMinute = 17 * 60;
  s.counting = Counting::Stepped;
  s.stepMinutes = 10; // 60 instants in the middle of their steps
  const auto input = sunHoursInput(p, {}, s);
  const std::vector<Sensor>& sensors = input->sensors.sensors;
  std::vector<Intervals> clock;
  const auto windows = sunWindows(*input, &clock);
  const SunSamples samples = sampleWindows(windows, clock, 600, false);
  std::vector<double> own, bare;
  std::vector<float> hours(sensors.size());
  RTCScene scene = input->scene.layers.front()->embree();
  for (int round = 0; round < 7; ++round) {
    RunControl control;
    own.push_back(seconds([&] { runSunHours(*input, control); }));
    bare.push_back(seconds([&] {
      forChunks(sensors.size(), 64, {}, [&](std::size_t a, std::size_t b) {
        for (std::size_t i = a; i < b; ++i) {
          int lit = 0;
          for (std::size_t k = 0; k < samples.samples.size(); ++k) {
            const Rays8& r = samples.blocks[k / 8];
            RTCIntersectContext context;
            rtcInitIntersectContext(&context);
            RTCRay ray{};
            ray.org_x = float(sensors[i].position.x), ray.org_y = float(sensors[i].position.y),
            ray.org_z = float(sensors[i].position.z);
            ray.dir_x = r.x[k % 8];
            ray.dir_y = r.y[k % 8];
            ray.dir_z = r.z[k % 8];
            ray.tnear = 1e-3f;
            ray.tfar = INFINITY;
            ray.mask = ~0u;
            rtcOccluded1(scene, &context, &ray);
            lit += ray.tfar >= 0;
          }
          hours[i] = float(lit);
        }
      });
    }));
  }
  const double rays = double(sensors.size()) * double(samples.samples.size());
  std::vector<double> ratio;
  for (std::size_t i = 0; i < own.size(); ++i) ratio.push_back(bare[i] / own[i]);
  // What sensors and results add at their highest: the process' peak while they are laid out, hashed and counted, over
  // what stood before, the scene being there already.
  const Scene built = buildScene(p);
  resetMemoryPeak();
  const double before = memoryPeakMb();
  {
    const auto again = sunHoursInput(p, {}, s, false, 0, &built);
    RunControl control;
    runSunHours(*again, control);
  }
  const double perSensor = (memoryPeakMb() - before) * 1024 * 1024 / double(sensors.size());
  return {{"sun-hours-rate", median(ratio), "of bare Embree", 0.9, true},
          {"sun-hours-rays", rays / median(own) / 1e6, "million rays/s", 0, true},
          {"sun-hours-bare-rays", rays / median(bare) / 1e6, "million rays/s", 0, true},
          {"sun-hours-memory", perSensor, "bytes a sensor", 64, false}};
}

Project demoSquare(double spacing) {
  Project p = benchTown(120);
  SensorGroup g;
  g.id = {1};
  g.name = "Square";
  GroundArea area;
  area.spacing = spacing;
  area.outline = rectangle(-40, -30, 40, 30);
  g.layout = area;
  p.groups = {g};
  p.elements.clear();
  std::mt19937 random(3);
  for (int i = 0; i < 16; ++i) {
    const double a = 2 * pi * i / 16, r = 55 + 10 * (i % 3);
    Element e;
    e.id = {std::uint64_t(100 + i)};
    e.shape = Mass{rectangle(r * std::cos(a) - 9, r * std::sin(a) - 8, r * std::cos(a) + 9, r * std::sin(a) + 8), 0,
                   9.0 + i % 5 * 4, 3};
    p = withElement(std::move(p), e);
  }
  return p;
}

/// A mass moved among 16, 5 000 sensors: what the window does for every frame of a drag.
std::vector<Measured> liveEdit() {
  Project p = demoSquare(std::sqrt(80.0 * 60 / 5000));
  std::vector<Measured> out;
  for (const bool exact : {false, true}) {
    SunHoursSettings s;
    s.dates = {{2026, 3, 21}};
    s.season.beginMinute = 7 * 60;
    s.season.endMinute = 17 * 60;
    s.counting = exact ? Counting::Exact : Counting::Stepped;
    const std::vector<ElementId> moving{{100}};
    const auto first = sunHoursInput(p, {}, s, false, 0, nullptr, moving);
    std::vector<double> times;
    Scene previous = first->scene;
    for (int k = 0; k < 9; ++k) {
      p = withEdited(p, moving, [](Element& e) { moveElement(e, {0.5, 0, 0}); });
      times.push_back(seconds([&] {
        const auto input = sunHoursInput(p, {}, s, false, 0, &previous, moving);
        RunControl control;
        runSunHours(*input, control);
        previous = input->scene;
      }));
    }
    out.push_back({exact ? "live-edit-exact" : "live-edit-stepped", median(times), "s", exact ? 1.0 : 0.15, false});
  }
  return out;
}

std::vector<Measured> probeTime() {
  std::vector<Measured> out;
  for (const auto& [name, triangles] : {std::pair{"probe-demo", 200}, std::pair{"probe-120k", 120'000}}) {
    const Project p = benchTown(std::size_t(triangles));
    const Scene scene = buildScene(p);
    std::vector<double> times;
    for (int i = 0; i < 7; ++i)
      times.push_back(seconds([&] { probe(scene, {{3.0 * i, 2, 0}, {0, 0, 1}, p.site.place, p.zone(), 0, 2026}); }));
    out.push_back({name, median(times), "s", 0.2, false});
  }
  return out;
}

void writeTown(const std::filesystem::path& file, std::size_t triangles) {
  const Project town = benchTown(triangles);
  const Mesh& m = *town.elements.front()->imported()->mesh;
  std::string text = "g town\n";
  for (Vec3 v : m.points) text += fmt::format("v {:.3f} {:.3f} {:.3f}\n", v.x, v.y, v.z);
  for (const Triangle& t : m.triangles) text += fmt::format("f {} {} {}\n", t[0] + 1, t[1] + 1, t[2] + 1);
  (void)saveFile(file, text);
}

/// A million triangles from an OBJ on disc to a scene that can be traced.
std::vector<Measured> cityImport() {
  const auto file = std::filesystem::temp_directory_path() / fmt::format("noonward-bench-{}.obj", ::getpid());
  writeTown(file, 1'000'000);
  double read = 0, build = 0;
  std::size_t triangles = 0;
  {
    std::optional<Expected<Model>> model;
    read = seconds([&] { model.emplace(readModel(file)); });
    Project p;
    build = seconds([&] {
      for (Element& e : placedElements(**model, guessPlacement(**model, std::nullopt).placement, Role::Neighbour))
        p = withElement(std::move(p), std::move(e));
      triangles = buildScene(p).triangleCount();
    });
  }
  std::filesystem::remove(file);
  return {{"city-read", read, "s", 8, false},
          {"city-scene", build, "s", 8, false},
          {"city-triangles", double(triangles), "triangles", 1'000'000, true}};
}

/// A million triangles from an OBJ to elements with roles and findings; then a mesh in which 100 000 faces stand twice.
/// Ten storeys of an office plan, 300 000 triangles: cut at each, then traced to rooms.
std::vector<Measured> lightModelOf300k() {
  Mesh walls, slabs;
  const auto add = [](Mesh& into, const Mesh& m) {
    const auto n = std::uint32_t(into.points.size());
    into.points.insert(into.points.end(), m.points.begin(), m.points.end());
    for (const Triangle& t : m.triangles) into.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
  };
  const Outline whole = rectangle(0, 0, 60.2, 15.2);
  Outline plan = whole;
  for (int i = 0; i < 12; ++i)
    for (int j = 0; j < 3; ++j) plan.holes.push_back(rectangle(0.2 + 5 * i, 0.2 + 5 * j, 5 + 5 * i, 5 + 5 * j).outer);
  std::vector<double> levels;
  for (int k = 0; k < 10; ++k) {
    add(walls, *extrude(tidied(plan), 3.3 * k, 3));
    add(slabs, *extrude(whole, 3.3 * k - 0.3, 0.3));
    levels.push_back(3.3 * k + 2.9);
  }
  add(slabs, *extrude(whole, 32.7, 0.3));
  while (walls.triangles.size() < 300'000) { // as finely cut as such files are
    const std::vector<Triangle> all = std::move(walls.triangles);
    walls.triangles.clear();
    for (const Triangle& t : all) {
      const auto n = std::uint32_t(walls.points.size());
      walls.points.push_back((walls.points[t[0]] + walls.points[t[1]]) * 0.5);
      walls.points.push_back((walls.points[t[1]] + walls.points[t[2]]) * 0.5);
      walls.points.push_back((walls.points[t[2]] + walls.points[t[0]]) * 0.5);
      walls.triangles.insert(walls.triangles.end(),
                             {{t[0], n, n + 2}, {n, t[1], n + 1}, {n + 2, n + 1, t[2]}, {n, n + 1, n + 2}});
    }
  }
  const double triangles = double(walls.triangles.size());
  std::vector<std::vector<CutLine>> lines;
  const double cut = seconds([&] {
    cutAt(walls, levels, lines);
    for (auto& l : lines) l = joined(std::move(l), 0.005);
  });
  Project p;
  const auto part = [&](const char* name, Role role, Mesh m) {
    Element e;
    e.id = ElementId::fresh();
    e.name = name;
    e.role = role;
    auto mesh = std::make_shared<Mesh>(std::move(m));
    const Digest content = digestOf(*mesh);
    e.shape = Imported{std::move(mesh), content, {}, 0, 1};
    p = withElement(std::move(p), std::move(e));
  };
  part("walls", Role::Wall, std::move(walls));
  part("slabs", Role::Floor, std::move(slabs));
  std::size_t rooms = 0;
  const double traced = seconds([&] {
    const auto t = traceModel(p, {});
    if (t) rooms = t->rooms.size();
  });
  return {{"storeys-cut", cut, "s", 0.6, false},
          {"storeys-traced", traced, fmt::format("s, {} rooms, {:.0f} triangles", rooms, triangles), 0, false}};
}

std::vector<Measured> foreignModels() {
  const auto file = std::filesystem::temp_directory_path() / fmt::format("noonward-bench-{}.obj", ::getpid());
  writeTown(file, 1'000'000);
  resetMemoryPeak();
  Findings found;
  const double whole = seconds([&] {
    const auto model = readModel(file);
    found = checkProject(
        broughtIn(Project{}, *model, guessPlacement(*model, std::nullopt).placement, Role::Neighbour, true).project);
  });
  const double memory = memoryPeakMb();
  std::filesystem::remove(file);
  Mesh twice = *benchTown(110'000).elements.front()->imported()->mesh;
  const std::size_t once = twice.triangles.size();
  twice.triangles.resize(once + std::min<std::size_t>(once, 100'000));
  std::copy_n(twice.triangles.begin(), twice.triangles.size() - once, twice.triangles.begin() + std::ptrdiff_t(once));
  twice.face.clear();
  std::size_t removed = 0;
  const double duplicates = seconds([&] { (void)withoutDuplicates(twice, removed); });
  const double examined = seconds([&] { (void)examine(twice); });
  return {{"foreign-million", whole, "s", 12, false},
          {"foreign-million-memory", memory, "MB", 1500, false},
          {"duplicates-found", double(removed), fmt::format("of {} triangles", once + 100'000), 100'000, true},
          {"duplicates-removed", duplicates, "s", 0.3, false},
          {"examined", examined, "s", 0, false}};
}

std::vector<Measured> buildingModel() {
  const auto file = std::filesystem::temp_directory_path() / fmt::format("noonward-bench-{}.ifc", ::getpid());
  writeIfc(file, 20'000'000);
  std::size_t parts = 0;
  const double whole = seconds([&] {
    const auto model = readModel(file);
    if (!model)
      complain(model.error().text());
    else
      parts = model->parts.size();
  });
  std::filesystem::remove(file);
  rusage used{};
  ::getrusage(RUSAGE_CHILDREN, &used); // it is read apart
  return {{"ifc-20mb", whole, fmt::format("s, {} parts", parts), 30, false},
          {"ifc-20mb-memory", double(used.ru_maxrss) / 1024, "MB", 1500, false}};
}

std::vector<Measured> sunPositions() {
  const SunKnots knots = SunKnots::ofYear(2026);
  const Place place{radians(55.6), radians(12.5), 0};
  const Instant start = utc({{2026, 1, 1}, 0});
  double sum = 0;
  const double full = seconds([&] {
    for (int i = 0; i < 1000; ++i) sum += solarPosition(sunOfDate(start + i * 30000.0), place).altitude;
  });
  const double quick = seconds([&] {
    for (int i = 0; i < 100000; ++i) sum += solarPosition(knots.at(start + i * 300.0), place).altitude;
  });
  if (sum == 12345) fmt::print(" ");
  return {{"sun-position-full", full * 1000, "µs", 200, false}, {"sun-position-knots", quick * 10, "µs", 1, false}};
}

/// The window's own measurements: the program beside this one, on this display or in an Xvfb of its own.
std::vector<Measured> windowMeasured(const std::filesystem::path& self) {
  std::vector<Measured> out;
  const std::filesystem::path program = self.parent_path().parent_path() / "app/noonward";
  const auto file = std::filesystem::temp_directory_path() / fmt::format("noonward-bench-{}.obj", ::getpid());
  writeTown(file, 1'000'000);
  for (const std::string& what :
       {std::string("--demo --measure demo"), std::string("--demo --measure rooms"), "--measure " + file.string()}) {
    const std::string command = std::string(std::getenv("DISPLAY") ? "" : "xvfb-run -a -s '-screen 0 1280x800x24' ") +
                                program.string() + " " + what;
    FILE* pipe = ::popen(command.c_str(), "r");
    if (!pipe) continue;
    char line[4096];
    while (std::fgets(line, sizeof line, pipe)) {
      const Json j = Json::parse(line, nullptr, false);
      if (j.is_object()) out.push_back({j["name"], j["value"], j["unit"], j["target"], j["better"] == "higher"});
    }
    ::pclose(pipe);
  }
  std::filesystem::remove(file);
  return out;
}

const std::map<std::string, std::function<std::vector<Measured>()>>& benches() {
  static const std::map<std::string, std::function<std::vector<Measured>()>> all{{"sun-hours-rate", sunHoursRate},
                                                                                 {"live-edit", liveEdit},
                                                                                 {"daylight", daylight},
                                                                                 {"daylight-library", daylightLibrary},
                                                                                 {"daylight-growth", daylightGrowth},
                                                                                 {"daylight-brute", daylightBrute},
                                                                                 {"daylight-year", daylightYear},
                                                                                 {"probe", probeTime},
                                                                                 {"shade", shadeSpeed},
                                                                                 {"solar-access", accessSpeed},
                                                                                 {"quarter", quarterSpeed},
                                                                                 {"station", stationSpeed},
                                                                                 {"sweep", sweepSpeed},
                                                                                 {"glare", glareSpeed},
                                                                                 {"energy", energySpeed},
                                                                                 {"city-import", cityImport},
                                                                                 {"foreign-models", foreignModels},
                                                                                 {"building-model", buildingModel},
                                                                                 {"light-model", lightModelOf300k},
                                                                                 {"sun-position", sunPositions}};
  return all;
}

} // namespace

void addBench(CLI::App& app, Session& session) {
  auto* c = app.add_subcommand("bench", "Measure speed and memory; names pick some");
  auto names = std::make_shared<std::vector<std::string>>();
  auto json = std::make_shared<bool>(false);
  c->add_option(
      "names", *names,
      "sun-hours-rate, live-edit, daylight, daylight-library, daylight-growth, daylight-brute, "
      "daylight-year, probe, shade, solar-access, quarter, city-import, foreign-models, building-model, light-model, "
      "sun-position, window");
  c->add_flag("--json", *json, "an object a line");
  c->callback([names, json, &session] {
    for (const std::string& n : *names)
      if (n != "window" && !benches().contains(n)) {
        session.exit = complain("bench: there is no measurement \"" + n + "\"", 2);
        return;
      }
    const auto print = [&](const Measured& m) {
      Json row{{"name", m.name}, {"value", m.value}, {"unit", m.unit}};
      if (m.target > 0) {
        row["target"] = m.target;
        row["better"] = m.higherIsBetter ? "higher" : "lower";
      }
      if (*json)
        fmt::print("{}\n", row.dump());
      else
        fmt::print("{:<24}{:>12.4g} {:<20} {}\n", m.name, m.value, m.unit,
                   m.target > 0 ? fmt::format("target {:g}", m.target) : std::string("no target"));
      std::fflush(stdout);
    };
    for (const auto& [name, run] : benches())
      if (names->empty() || std::find(names->begin(), names->end(), name) != names->end())
        for (const Measured& m : run()) print(m);
    if (std::find(names->begin(), names->end(), "window") != names->end() || names->empty())
      for (const Measured& m : windowMeasured(session.program)) print(m);
    print({"memory-peak", memoryPeakMb(), "MB", 1500, false});
  });
}

} // namespace noonward::cli
