// How fast heating, cooling and lighting are: all rooms of the demo's library from nothing, again with other glass, and
// the hours of many rooms by themselves.

#include "cli/bench.h"
#include "core/files/library.h"
#include "core/files/project/project_file.h"
#include "core/runs/runner.h"
#include "core/studies/energy/heat_zone.h"
#include "core/yardsticks/questions.h"
#include <cmath>
#include <filesystem>

namespace noonward::cli {

namespace {
/// Three years of so many rooms, as a run takes them; °C, so that none of it is left out.
double hoursOfRooms(int rooms) {
  double sum = 0;
  for (int r = 0; r < rooms; ++r) {
    const HeatRoom room({20.0 + r % 50, 10.0 + r % 7, 8.0 + r % 5, ThermalMass::Medium});
    double mass = 20;
    for (int h = 0; h < 3 * 8760; ++h) {
      HeatHour in;
      in.outdoor = in.supply = 8 - 10 * std::cos(h * 0.000717) - 4 * std::cos(h * 0.2618);
      in.ventilation = h % 24 >= 8 && h % 24 < 18 ? 25 : 6;
      in.solar = std::max(0.0, 400 * std::sin((h % 24 - 6) * 0.2618));
      const HeatStep s = room.step(in, mass);
      mass = s.massEnd;
      sum += s.air;
    }
  }
  return sum;
}
} // namespace

std::vector<Measured> energySpeed() {
  std::error_code ignored;
  const auto resources = resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored));
  const auto loaded = readProject(resources.parent_path() / "demo" / "ropewalk-quay.noonward");
  if (!loaded) return {};
  auto asked = ask(loaded->project, "room-energy", {}, {});
  if (!asked) return {};
  Project p = std::move(asked->project);
  Study study;
  for (const Study& s : p.studies)
    if (s.id == asked->study) study = s;
  std::vector<Measured> out;
  RunControl control;
  StudyRunner runner(nullptr);
  const auto once = [&] {
    return seconds([&] {
      if (const auto in = lightInput(p, study, false, {}, runner.energyKept()))
        (void)runner.light(*in, control, study.name);
    });
  };
  out.push_back({"energy-all-rooms", once(), "s", 0, false});
  p.heat.closedBlinds = 0.5;
  p.heat.mass = ThermalMass::Heavy;
  for (Glazing& g : p.glazings) g.solarFactor = 0.4;
  out.push_back({"energy-other-glass-and-use", once(), "s", 0.2, false});
  study.year.blinds = BlindRule::Never;
  out.push_back({"energy-other-blinds", once(), "s", 0.2, false});
  double sum = 0;
  out.push_back({"heat-of-500-rooms", seconds([&] { sum = hoursOfRooms(500); }), "s", 5, false});
  return std::isnan(sum) ? std::vector<Measured>{} : out;
}

} // namespace noonward::cli
