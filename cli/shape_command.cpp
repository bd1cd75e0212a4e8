// Masses shaped without a window: cut, set back, joined, mirrored, aligned, laid out in rows.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/model/form/arrange.h"
#include "core/model/form/edit.h"
#include "core/model/form/shaping.h"
#include <fmt/format.h>

namespace noonward::cli {

namespace {

struct ShapeCall {
  std::string project, option, out, to = "left", name;
  std::vector<std::string> elements;
  std::vector<double> line, stepRight, stepUp;
  SetBack setBack;
  std::vector<std::size_t> faces;
  double level = 0;
  RowLayout row;
  bool copies = false, keep = false, json = false;
};

constexpr std::pair<const char*, Align> sides[] = {
    {"left", Align::Left},        {"middle-x", Align::MiddleX}, {"right", Align::Right}, {"lower", Align::Lower},
    {"middle-y", Align::MiddleY}, {"upper", Align::Upper},      {"base", Align::Base},   {"top", Align::Top}};

Expected<std::vector<ElementId>> named(const Project& p, const std::vector<std::string>& names) {
  std::vector<ElementId> out;
  for (const std::string& n : names) {
    const auto id = idFromText(n);
    const auto e = std::find_if(p.elements.begin(), p.elements.end(), [&](const ElementPtr& x) {
      return x->name == n || (id && x->id.value == *id) || x->id.value == derivedId("element/" + n);
    });
    if (e == p.elements.end()) return fail(fmt::format("There is no element called \"{}\".", n));
    out.push_back((*e)->id);
  }
  return out;
}

using Deed = std::function<Expected<Project>(const Project&, const std::vector<ElementId>&, std::vector<ElementId>*)>;

int shape(const ShapeCall& c, const Deed& deed) {
  auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const auto ids = named(loaded->project, c.elements);
  if (!ids) return complain(ids.error().text(), 2);
  std::vector<ElementId> made;
  auto done = deed(loaded->project, *ids, &made);
  if (!done) return complain(done.error().text(), 1);
  if (made.empty()) made = *ids;
  Json list = Json::array();
  for (ElementId id : made) {
    const ElementPtr e = done->element(id);
    if (!e) continue;
    const Box3 box = boxOf(*e);
    const double floor = e->mass() ? area(e->mass()->outline) : 0;
    if (c.json)
      list.push_back({{"id", id.text()},
                      {"name", e->name},
                      {"group", e->group},
                      {"base_m", box.low.z},
                      {"top_m", box.high.z},
                      {"footprint_m2", floor},
                      {"storeys", e->mass() ? e->mass()->storeys : 0}});
    else
      fmt::print("{:<28} {:>8.2f} to {:>7.2f} m {:>10.1f} m²{}\n", e->name, box.low.z, box.high.z, floor,
                 e->group.empty() ? "" : "  in " + e->group);
  }
  if (c.json) fmt::print("{}\n", Json{{"elements", list}, {"rooms", done->rooms.size()}}.dump(2));
  if (const Outcome o = saveProject(*done, c.out.empty() ? c.project : c.out); !o) return complain(o.error().text(), 1);
  return 0;
}

Vec2 point(const std::vector<double>& v, std::size_t at) {
  return at + 1 < v.size() ? Vec2{v[at], v[at + 1]} : Vec2{};
}

} // namespace

void addShape(CLI::App& app, Session& session) {
  auto c = std::make_shared<ShapeCall>();
  auto* top = app.add_subcommand("shape", "Cut, set back, join, mirror, align and lay out masses, with all that is in "
                                          "them");
  top->require_subcommand(1);
  const auto add = [&](const char* name, const char* help, int least, const Deed& deed) {
    auto* s = top->add_subcommand(name, help);
    s->add_option("project", c->project, "project file")->required();
    s->add_option("elements", c->elements, "names or ids")->required()->expected(least, -1);
    s->add_option("--option", c->option, "one of the project's options");
    s->add_option("--out", c->out, "write the project here instead");
    s->add_flag("--json", c->json, "what there is afterwards as JSON");
    s->callback([c, deed, &session] { session.exit = shape(*c, deed); });
    return s;
  };
  auto* s = add("set-back", "Storeys from one on pulled in", 1, [c](const auto& p, const auto& ids, auto* made) {
    SetBack how = c->setBack;
    how.edges = c->faces;
    return withSetBack(p, ids.front(), how, made);
  });
  s->add_option("--storey", c->setBack.storey, "1 is the lowest (2)");
  s->add_option("--by", c->setBack.by, "m (2)");
  s->add_option("--edge", c->faces, "edges alone, 0 begins at the first corner")->expected(1, -1);
  s = add("cut", "Along a line in plan", 1, [c](const auto& p, const auto& ids, auto* made) {
    return withMassesCut(p, ids, point(c->line, 0), point(c->line, 2), made);
  });
  s->add_option("--line", c->line, "x y x y, m")->required()->expected(4);
  s = add("cut-at", "At a level", 1,
          [c](const auto& p, const auto& ids, auto* made) { return withCutAtLevel(p, ids.front(), c->level, made); });
  s->add_option("--level", c->level, "m")->required();
  add("join", "Masses into one; where they differ in height, one for each run of levels", 2,
      [](const auto& p, const auto& ids, auto* made) { return withMassesJoined(p, ids, made); });
  s = add("cut-out", "The others out of the first", 2, [c](const auto& p, const auto& ids, auto* made) {
    return withMassCutOut(p, ids.front(), {ids.begin() + 1, ids.end()}, !c->keep, made);
  });
  s->add_flag("--keep", c->keep, "the others stay");
  s = add("mirror", "In a line in plan", 1, [c](const auto& p, const auto& ids, auto* made) {
    return withMirrored(p, ids, point(c->line, 0), point(c->line, 2), c->copies, made);
  });
  s->add_option("--line", c->line, "x y x y, m")->required()->expected(4);
  s->add_flag("--copies", c->copies, "beside what there is");
  s = add("row", "A row or grid that can be laid anew", 1, [c](const auto& p, const auto& ids, auto* made) {
    RowLayout row = c->row;
    row.stepRight = point(c->stepRight, 0);
    row.stepUp = point(c->stepUp, 0);
    return withRow(p, ids, row, made);
  });
  s->add_option("--right", c->row.right, "how many to the right, itself counted (1)");
  s->add_option("--up", c->row.up, "how many rows (1)");
  s->add_option("--step-right", c->stepRight, "x y, m, from one to the next")->expected(2);
  s->add_option("--step-up", c->stepUp, "x y, m, from a row to the next")->expected(2);
  s = add("align", "With the first", 2, [c](const auto& p, const auto& ids, auto*) -> Expected<Project> {
    for (const auto& [key, side] : sides)
      if (c->to == key) return withAligned(p, ids, side);
    return fail("There is no such side."); // refused before
  });
  std::vector<std::string> words;
  for (const auto& side : sides) words.emplace_back(side.first);
  s->add_option("--to", c->to, "left, middle-x, right, lower, middle-y, upper, base or top (left)")
      ->check(CLI::IsMember(words));
  s = add("group", "Hold together", 1,
          [c](const auto& p, const auto& ids, auto*) -> Expected<Project> { return withGroupNamed(p, ids, c->name); });
  s->add_option("--name", c->name, "of the group; without it they are let go");
}

} // namespace noonward::cli
