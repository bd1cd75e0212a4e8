// How fast an eye is looked through: the fisheye, the year of glare, the map of the view out, in the demo's library.

#include "cli/bench.h"
#include "core/files/library.h"
#include "core/files/project/project_file.h"
#include "core/studies/fisheye.h"
#include "core/studies/year_study.h"
#include <filesystem>

namespace noonward::cli {

namespace {
Study eyesStudy(Project& p, StudyKind kind, double spacing, int directions) {
  SensorGroup g;
  g.id = {9001};
  g.name = "Eyes";
  g.eyes = true;
  RoomGrid grid;
  grid.height = 1.2;
  grid.spacing = spacing;
  grid.directions = directions;
  g.layout = grid;
  p.groups.push_back(g);
  Study s;
  s.id = {9002};
  s.kind = kind;
  s.groups = {g.id};
  return s;
}
} // namespace

std::vector<Measured> glareSpeed() {
  std::error_code ignored;
  const auto resources = resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored));
  const auto loaded = readProject(resources.parent_path() / "demo" / "ropewalk-quay.noonward");
  if (!loaded) return {};
  std::vector<Measured> out;
  RunControl control;
  const Instant at = loaded->project.zone().instant({{2026, 3, 21}, 9 * 3600});
  SkyChoice sky;
  sky.kind = SkyKind::Weather;
  FisheyeSettings eye;
  eye.eye = {-24, 31.5, 1.2};
  eye.azimuth = pi;
  out.push_back(
      {"fisheye-512", seconds([&] { (void)fisheye(loaded->project, eye, sky, at, control); }), "s", 3, false});
  eye.pixels = 80; // as the window does
  eye.error = 0.3;
  out.push_back(
      {"fisheye-first-look", seconds([&] { (void)fisheye(loaded->project, eye, sky, at, control); }), "s", 0.2, false});
  const auto run = [&](StudyKind kind, double spacing, int directions, const char* name, double target) {
    Project p = loaded->project;
    const Study s = eyesStudy(p, kind, spacing, directions);
    std::size_t sensors = 0;
    const double took = seconds([&] {
      const auto in = lightInput(p, s);
      if (!in) return;
      sensors = in->sensors.sensors.size();
      (void)runLight(*in, control);
    });
    out.push_back({name, took, "s", target, false});
    out.push_back({std::string(name) + "-sensors", double(sensors), "sensors", 0, true});
  };
  // The eyes of one room, and the daylight year of that room by itself: what is asked is the one beyond the other.
  const RoomId reading = loaded->project.rooms.front().id;
  const auto ofRoom = [&](StudyKind kind, double spacing, int directions) {
    Project p = loaded->project;
    const Study s = eyesStudy(p, kind, spacing, directions);
    SensorGroup& g = p.groups.back();
    g.eyes = kind == StudyKind::Glare;
    if (directions == 1) { // one eye at a desk, looking south
      PointSensor at;
      at.position = eye.eye;
      at.normal = {0, -1, 0};
      g.layout = std::vector<PointSensor>{at};
    } else {
      std::get<RoomGrid>(g.layout).rooms = {reading};
    }
    if (kind == StudyKind::Year) {
      const auto in = yearInput(p, {g.id}, s.year);
      return std::pair(in ? seconds([&] { (void)runYear(*in, control); }) : 0.0,
                       in ? double(in->sensors.sensors.size()) : 0.0);
    }
    const auto in = lightInput(p, s);
    return std::pair(in ? seconds([&] { (void)runLight(*in, control); }) : 0.0,
                     in ? double(in->sensors.sensors.size()) : 0.0);
  };
  const auto year = ofRoom(StudyKind::Year, 0.6, 0), seats = ofRoom(StudyKind::Glare, 1.14, 8),
             one = ofRoom(StudyKind::Glare, 100, 1);
  out.push_back({"year-of-the-room", year.first, "s", 0, false});
  out.push_back({"glare-beyond-it", std::max(0.0, seats.first - year.first), "s", 15, false});
  out.push_back({"glare-beyond-it-sensors", seats.second, "sensors", 0, true});
  out.push_back({"glare-of-one-eye-beyond-it", std::max(0.0, one.first - year.first), "s", 1, false});
  out.push_back({"glare-of-one-eye-sensors", one.second, "sensors", 0, true});
  run(StudyKind::Glare, 1.7, 8, "glare-year-all-rooms", 0);
  run(StudyKind::ViewOut, 0.5, 0, "view-out", 1);
  return out;
}

} // namespace noonward::cli
