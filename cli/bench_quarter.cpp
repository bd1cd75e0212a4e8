// The demo's quarter of a city as a planner meets it: opened, checked, its first answer, an edit, its shadows on
// terrain.

#include "cli/bench.h"
#include "cli/demo_quarter.h"
#include "core/files/project/project_file.h"
#include "core/light/scene.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/studies/shadow_plan.h"
#include "core/studies/sun_hours.h"
#include <unistd.h>

namespace noonward::cli {

std::vector<Measured> quarterSpeed() {
  std::vector<Measured> out;
  const Project quay = ropewalkQuay();
  const auto made = quarterProject(quay, quarterCityJson(quay), "brevholm.city.json");
  if (!made) return out;
  const std::filesystem::path folder =
      std::filesystem::temp_directory_path() / ("noonward-bench-" + std::to_string(getpid()));
  std::filesystem::create_directories(folder);
  Project p = *made;
  const std::filesystem::path file = folder / "quarter.noonward";
  if (!writeProject(p, file)) return out;
  out.push_back({"quarter-buildings", double(p.elements.size()), "elements", 0, false});
  // Opened: read, and what stands made for study and eye. The window draws and counts beside it.
  out.push_back({"quarter-opens", seconds([&] {
                   p = readProject(file)->project;
                   (void)buildScene(p);
                   (void)shownScene(p.elements);
                 }),
                 "s, read and built", 3, false});
  std::filesystem::remove_all(folder);
  out.push_back({"quarter-checked", seconds([&] { (void)checkProject(p); }), "s, every finding", 1, false});
  RunControl control;
  const ShadowPlanSettings one{{p.zone().instant({{2026, 3, 21}, 11.5 * 3600})}, 1, false, {}};
  out.push_back({"quarter-shadows", seconds([&] { (void)shadowPlan(p, one, control); }),
                 "s, one hour, on terrain of 4 800 triangles", 0.5, false});
  // What is proposed moves, and the square is counted anew.
  SunHoursSettings s;
  s.dates = {{2026, 3, 21}};
  s.sunriseToSunset = true;
  std::vector<ElementId> moving;
  for (const ElementPtr& e : p.elements)
    if (e->proposed) moving.push_back(e->id);
  std::vector<GroupId> square;
  for (const SensorGroup& g : p.groups)
    if (std::holds_alternative<GroundArea>(g.layout)) square.push_back(g.id);
  const auto first = sunHoursInput(p, square, s, false, 0, nullptr, moving);
  if (!first) return out;
  std::vector<double> times;
  Scene previous = first->scene;
  for (int k = 0; k < 7; ++k) {
    p = withEdited(p, moving, [](Element& e) { moveElement(e, {0.5, 0, 0}); });
    times.push_back(seconds([&] {
      const auto input = sunHoursInput(p, square, s, false, 0, &previous, moving);
      runSunHours(*input, control);
      previous = input->scene;
    }));
  }
  out.push_back({"quarter-live", median(times), "s, the square's hours, exact, while the proposal moves", 1, false});
  return out;
}

} // namespace noonward::cli
