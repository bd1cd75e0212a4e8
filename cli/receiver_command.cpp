// Receivers on the command line: told as a table, brought from one, made from facades as dwellings.

#include "cli/commands.h"
#include "core/base/words.h"
#include "core/files/receiver_table.h"
#include "core/files/results/tables.h"
#include <algorithm>
#include <cstdio>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

struct ReceiverCall {
  std::string project, option, group, out, from;
  std::vector<std::string> dwellings;
  double bay = 3, height = 1.6;
  int bays = 3;
  bool csv = false;
};

/// From a table into the project's file.
int bring(const ReceiverCall& c) {
  auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  const auto table = readReceivers(loaded->project, c.from);
  if (!table) return complain(table.error().text(), 1);
  ReceiversLaid laid = withReceivers(std::move(loaded->project), *table);
  for (const std::string& n : table->notes) std::fputs((n + "\n").c_str(), stderr);
  for (const std::string& name : laid.lost) std::fputs(fmt::format("matches nothing: {}\n", name).c_str(), stderr);
  if (laid.groups.empty()) return complain("receivers: nothing in the table belongs to this project", 1);
  if (const Outcome o = saveProject(laid.project, c.project); !o) return complain(o.error().text(), 1);
  fmt::print("{}\n", laid.told);
  return 0;
}

/// Dwellings of masses, by name, id or layer, into the project's file.
int makeDwellings(const ReceiverCall& c) {
  auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  std::vector<ElementId> masses;
  for (const std::string& name : c.dwellings) {
    const std::size_t before = masses.size();
    for (const ElementPtr& e : loaded->project.elements)
      if (e->mass() && (e->name == name || e->id.text() == name || e->layer == name)) masses.push_back(e->id);
    if (masses.size() == before)
      return complain(fmt::format("receivers: no mass is called \"{}\", and no layer of masses", name), 2);
  }
  auto made = dwellingsFromFacades(std::move(loaded->project), masses, {c.bay, c.bays, c.height});
  if (!made) return complain(made.error().text(), 1);
  if (const Outcome o = saveProject(made->project, c.project); !o) return complain(o.error().text(), 1);
  fmt::print("{} in {}", counted(made->groups.size(), "dwelling", "dwellings"),
             counted(masses.size(), "building", "buildings"));
  if (made->buried > 0)
    fmt::print("; {} on walls that others stand against left out", counted(made->buried, "window", "windows"));
  fmt::print("\n");
  return 0;
}

int tell(const ReceiverCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  std::vector<GroupId> only;
  for (const SensorGroup& g : p.groups)
    if (g.name == c.group || g.id.text() == c.group) only.push_back(g.id);
  if (!c.group.empty() && only.empty())
    return complain(fmt::format("receivers: no group is called \"{}\"", c.group), 2);
  const auto sensors = layOutSensors(p, only);
  if (!sensors) return complain(sensors.error().text(), 1);
  for (const Finding& f : merged(sensors->findings))
    std::fputs(fmt::format("{}: {}\n", rankText(f.rank), f.text).c_str(), stderr);
  const std::string table = receiversCsv(p, *sensors);
  if (c.out.empty()) {
    fmt::print("{}", table);
    return 0;
  }
  const Outcome o = saveFile(c.out, table);
  return o ? 0 : complain(o.error().text(), 1);
}

} // namespace

void addReceivers(CLI::App& app, Session& session) {
  auto c = std::make_shared<ReceiverCall>();
  auto* r = app.add_subcommand(
      "receivers", "Every sensor as a receiver: its group, dwelling, place and area; or receivers from a table");
  r->add_option("project", c->project, "project file")->required();
  auto* option = r->add_option("--option", c->option, "of this option, by its name");
  auto* group = r->add_option("--group", c->group, "only this group, by name or id");
  auto* out = r->add_option("--out", c->out, "file for the table, else it is printed");
  r->add_flag("--csv", c->csv, "as CSV, which it is anyway");
  auto* from = r->add_option("--from", c->from,
                             "table of receivers, CSV or GeoJSON, brought into the project's file: points, or names "
                             "with dwelling, building and subject");
  auto* dwellings = r->add_option("--dwellings", c->dwellings,
                                  "masses or layers of masses whose facades become dwellings, in the project's file");
  r->add_option("--bay", c->bay, "m of facade for a window (3)")->needs(dwellings);
  r->add_option("--bays", c->bays, "windows of one dwelling (3)")->needs(dwellings);
  r->add_option("--height", c->height, "m of a window's middle above its floor (1.6)")->needs(dwellings);
  from->excludes(dwellings);
  for (CLI::Option* told : {option, group, out}) { // of what is told alone
    from->excludes(told);
    dwellings->excludes(told);
  }
  r->callback([c, &session] {
    session.exit = !c->from.empty() ? bring(*c) : !c->dwellings.empty() ? makeDwellings(*c) : tell(*c);
  });
}

} // namespace noonward::cli
