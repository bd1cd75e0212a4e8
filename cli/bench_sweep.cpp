// Many designs of the demo: what sharing saves, how long a turning and a search take.

#include "cli/bench.h"
#include "core/files/library.h"
#include "core/files/project/project_file.h"
#include "core/runs/sweep/least_change.h"
#include "core/runs/sweep/sweep_points.h"

namespace noonward::cli {

namespace {

Variable varied(const char* name, std::vector<std::string> at, VaryRange range) {
  Variable v;
  v.name = name;
  v.at = std::move(at);
  v.range = range;
  return v;
}

/// Seconds that a sweep takes from nothing; −1 where it can't be run.
double sweepSeconds(const Project& p, const Sweep& s, const YardstickShelf& shelf) {
  ResultStore memory{std::filesystem::path()};
  StudyRunner runner(&memory);
  RunControl control;
  bool ran = false;
  const double took = seconds([&] {
    const auto t = runSweep(p, s, shelf, runner, control);
    ran = t && t->rows.size() == t->all;
  });
  return ran ? took : -1;
}

} // namespace

std::vector<Measured> sweepSpeed() {
  std::vector<Measured> out;
  std::error_code ignored;
  const std::filesystem::path resources = resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored));
  const auto loaded = readProject(resources.parent_path() / "demo" / "ropewalk-quay.noonward");
  if (!loaded) return out;
  const Project& p = loaded->project;
  const YardstickShelf shelf = readYardsticks({resources / "yardsticks"});
  Sweep s;
  s.name = "bench";
  s.outcomes = {{"sDA", SweepOutcome::Of::Study, "Library year", "sda", ""}};

  // A year alone, then a hundred of other glass and blinds.
  s.variables = {varied("glass", {"glazings/Library double/transmittance"}, {0.70, 0.70, 0.01})};
  const double one = sweepSeconds(p, s, shelf);
  s.variables = {varied("blinds", {"studies/Library year/closes-at"}, {500, 1490, 10})};
  out.push_back({"sweep-blinds", sweepSeconds(p, s, shelf) / one, "× one year, a hundred rules of blinds", 3, false});
  s.variables = {varied("glass", {"glazings/Library double/transmittance"}, {0.52, 0.70, 0.02}),
                 varied("blinds", {"studies/Library year/closes-at"}, {600, 1500, 100})};
  out.push_back({"sweep-glass-blinds", sweepSeconds(p, s, shelf) / one,
                 "× one year, ten glasses by ten rules of blinds", 3, false});

  // Fins and sill of one room: all runs of a sweep against as many runs from nothing each.
  Project room = p;
  for (const Room& r : p.rooms)
    if (r.name == "Study 2")
      for (const SensorGroup& g : p.groups)
        if (auto grid = g; grid.name == "Library, credit") {
          if (auto* own = std::get_if<RoomGrid>(&grid.layout)) own->rooms = {r.id};
          grid.id = GroupId::fresh();
          Study year;
          for (const Study& known : p.studies)
            if (known.kind == StudyKind::Year) year = known;
          year.id = StudyId::fresh();
          year.name = "One room";
          year.groups = {grid.id};
          year.year.stopFor = StopFor::Nothing;
          ShadeRule fins;
          fins.id = RuleId::fresh();
          fins.name = "Fins";
          fins.kind = ShadeRule::Kind::Fins;
          fins.rooms = {r.id};
          room.shadeRules.push_back(fins);
          room.groups.push_back(grid);
          room.studies.push_back(year);
        }
  Sweep forms;
  forms.name = "bench";
  forms.variables = {varied("fins", {"shading/Fins/depth"}, {0.1, 0.8, 0.1}),
                     varied("sill", {"window-rules/Study window/sill"}, {0.3, 1.35, 0.15})};
  forms.outcomes = {{"sDA", SweepOutcome::Of::Study, "One room", "sda", ""}};
  if (const auto variation = Variation::of(room, forms)) {
    if (const auto points = sweepPoints(*variation)) {
      double single = 0;
      for (std::size_t k = 0; k < points->points.size(); ++k) {
        const auto design = variation->at(points->values(*variation, k));
        if (!design) continue;
        single += seconds([&] {
          StudyRunner runner(nullptr);
          RunControl control;
          for (const Study& study : design->studies)
            if (study.name == "One room") (void)runner.year(*design, study.groups, study.year, control);
        });
      }
      out.push_back({"sweep-room-forms", sweepSeconds(room, forms, shelf) / single,
                     "× 64 single years of one room, fins by sill", 0.7, false});
    }
  }

  // The proposal turned to twenty-four bearings, sun hours on the square.
  Sweep turning;
  turning.name = "bench";
  turning.variables = {varied("bearing", {"proposal/bearing"}, {0, 345, 15})};
  turning.outcomes = {{"sun", SweepOutcome::Of::Study, "Square in spring", "share", ""}};
  out.push_back(
      {"sweep-bearings", sweepSeconds(p, turning, shelf), "s, 24 bearings with sun hours on the square", 2, false});

  // Least change over four variables.
  Sweep least = s;
  least.variables = {varied("glass", {"window-rules/Tall window/ratio"}, {0.2, 0.7, 0.02}),
                     varied("study_glass", {"window-rules/Study window/ratio"}, {0.2, 0.7, 0.05}),
                     varied("overhang", {"shading/Overhang/depth"}, {0, 2, 0.1}),
                     varied("sill", {"window-rules/Tall window/sill"}, {0.3, 1.2, 0.1})};
  least.outcomes.push_back({"ASE", SweepOutcome::Of::Study, "Library year", "ase", ""});
  least.goals = {{"sDA", SweepGoal::Kind::AtLeast, 40}, {"ASE", SweepGoal::Kind::AtMost, 10}};
  ResultStore memory{std::filesystem::path()};
  StudyRunner runner(&memory);
  RunControl control;
  bool found = false;
  const double took = seconds([&] {
    const auto l = leastChange(p, least, shelf, runner, control);
    found = l && l->found;
  });
  out.push_back(
      {found ? "least-change" : "least-change-not-found", took, "s, four variables of the library", 120, false});
  return out;
}

} // namespace noonward::cli
