// Other people's models into projects, and what is wrong with them mended, without a window.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/base/words.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/meshes/model_export.h"
#include "core/model/form/arrange.h"
#include "core/model/form/edit.h"
#include "core/model/form/layers.h"
#include "core/model/form/role_guess.h"
#include "core/model/mending/check.h"
#include <cstdio>
#include <fmt/format.h>

namespace noonward::cli {

namespace {

struct ImportCall {
  std::vector<std::string> models, codes, layers;
  std::string project, out, unit, up, option, level, changes, role = "neighbour";
  std::optional<double> north;
  bool json = false, all = false, plain = false, roleGiven = false;
};

const char* shortRank(Rank r) {
  return r == Rank::StopsStudy ? "stops" : r == Rank::BendsResult ? "bends" : "note";
}

Json triple(Vec3 v) {
  return Json::array({v.x, v.y, v.z});
}

Json findingsJson(const Findings& findings) {
  Json list = Json::array();
  for (const Finding& f : findings)
    list.push_back(Json{
        {"rank", shortRank(f.rank)}, {"code", f.code}, {"text", f.text}, {"count", f.count}, {"mend", f.mendText}});
  return list;
}

int runImport(const ImportCall& c) {
  const auto role = roleFromKey(c.role);
  if (!role) return complain("import: unknown role \"" + c.role + "\"", 2);
  std::optional<LengthUnit> unit;
  if (!c.unit.empty() && !(unit = unitFromSymbol(c.unit))) return complain("import: --units m, mm, cm, ft or in", 2);
  Project p;
  if (!c.project.empty()) {
    auto loaded = openProject(c.project);
    if (!loaded) return complain(loaded.error().text(), 1);
    p = std::move(loaded->project);
  } else {
    p.id = ProjectId::fresh();
    p.name = std::filesystem::path(c.out.empty() ? c.models.front() : c.out).stem().string();
  }
  Findings findings;
  Json groups = Json::array();
  std::size_t triangles = 0;
  Box3 box;
  std::string units;
  for (const std::string& file : c.models) {
    const auto model = readModel(file, nullptr, {c.level});
    if (!model) return complain(model.error().text(), 1);
    const bool blank = p.elements.empty() && p.site.origin == Vec3{};
    PlacementGuess g = guessPlacement(*model, blank ? std::nullopt : std::optional(p.site.origin));
    if (const auto before = placementAsBefore(p, *model)) {
      g.placement = *before;
      g.suspicious = false;
      g.reason = "taken as before";
    }
    if (unit) {
      g.placement.unit = *unit;
      g.suspicious = false;
    }
    if (c.north) g.placement.northAngle = radians(*c.north);
    if (!c.up.empty()) g.placement.yUp = c.up == "y";
    units += (units.empty() ? "" : ", ") + std::string(unitName(g.placement.unit));
    triangles += model->triangleCount();
    if (g.suspicious)
      findings.push_back({Rank::BendsResult, "import.size", fmt::format("{}: {}.", model->file, g.reason)});
    for (const std::string& n : model->notes)
      findings.push_back({Rank::WorthKnowing, "import.note", fmt::format("{}: {}", model->file, n)});
    const std::string source = sourceNameOf(p, *model);
    const bool guess = !c.plain && !c.roleGiven; // what the user says goes before any guess
    ImportOutcome done = broughtIn(std::move(p), *model, g.placement, *role, guess);
    p = std::move(done.project);
    if (!done.remark.empty()) findings.push_back({Rank::BendsResult, "import.elsewhere", done.remark});
    if (!done.gone.empty())
      findings.push_back({Rank::WorthKnowing, "import.gone",
                          fmt::format("{}: {} no longer in the file, kept.", model->file,
                                      counted(done.gone.size(), "element is", "elements are")),
                          int(done.gone.size())});
    const auto group = [&](const std::string& name, const std::string& layer, std::optional<Role> stated,
                           double transparency, const std::string& material, std::size_t count) {
      const ElementPtr e = p.element({derivedId("import/" + source + "/" + name)});
      box.addBox(boxOf(*e));
      const RoleGuess why =
          stated   ? RoleGuess{*stated, 1, "the format says so"}
          : !guess ? RoleGuess{*role, c.roleGiven ? 1.0 : 0.0, "as asked"}
                   : guessRole({name, layer, transparency, e->imported() ? e->imported()->mesh.get() : nullptr,
                                model->parts.size() + model->outlines.size(), material},
                               *role);
      Json j{{"name", name},     {"layer", layer}, {"triangles", count}, {"role", roleKey(e->role)},
             {"sure", why.sure}, {"why", why.why}};
      if (!e->imported()) j["height"] = heightOf(*e);
      groups.push_back(std::move(j));
    };
    for (const ModelPart& part : model->parts)
      group(part.name, part.layer, part.role, part.transparency, part.material, part.mesh.triangles.size());
    for (const ModelOutline& o : model->outlines) group(o.name, o.layer, o.role, 0, "", 0);
    if (!c.json)
      fmt::print("{}: {}, {}, {}; {} up, {}; {}\n", model->file, counted(model->parts.size(), "part", "parts"),
                 counted(model->outlines.size(), "outline", "outlines"),
                 counted(model->triangleCount(), "triangle", "triangles"), g.placement.yUp ? "y" : "z",
                 unitName(g.placement.unit), g.reason);
  }
  for (Finding& f : checkProject(p)) findings.push_back(std::move(f));
  findings = merged(std::move(findings));
  const Vec3 size = box.empty() ? Vec3{} : box.size();
  if (c.json)
    fmt::print("{}\n", Json{{"triangles", triangles},
                            {"size_m", triple(size)},
                            {"origin_m", triple(p.site.origin)},
                            {"units", units},
                            {"groups", groups},
                            {"findings", findingsJson(findings)}}
                           .dump(2));
  else {
    fmt::print("{:.2f} × {:.2f} × {:.2f} m; origin taken off: {:.0f}, {:.0f} m\n", size.x, size.y, size.z,
               p.site.origin.x, p.site.origin.y);
    for (const Finding& f : findings)
      fmt::print("{}: {}{}\n", rankText(f.rank), f.text,
                 f.mendText.empty() ? "" : " [" + f.mendText + ": " + f.code + "]");
  }
  const std::string& target = c.out.empty() ? c.project : c.out;
  if (target.empty()) return 0; // a look alone
  const Outcome o = saveProject(p, target);
  return o ? 0 : complain(o.error().text(), 1);
}

int runMend(const ImportCall& c) {
  auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  Project p = std::move(loaded->project);
  const auto named = [&](const std::string& code) {
    return std::find(c.codes.begin(), c.codes.end(), code) != c.codes.end();
  };
  Findings done;
  // Files first: what is new in them may have to be mended again.
  SourceWatch watch;
  for (const Finding& f : checkSourceFiles(p, watch))
    if (c.all || named(f.code))
      if (auto again = mendSourceFile(p, f)) {
        if (!*again) return complain(again->error().text(), 1);
        done.push_back(f);
        done.back().mendText += ": " + outcomeText(p, **again);
        p = std::move((*again)->project);
      }
  // Then the ways that were asked for by name, such as glass.doubled:outer.
  for (const Finding& f : checkProject(p))
    for (const MendWay& way : f.ways)
      if (named(way.mend)) {
        Finding other = f;
        other.mend = way.mend;
        other.mendText = way.text;
        auto mended = mendProject(p, other);
        if (!mended) return complain(mended.error().text(), 1);
        p = std::move(*mended);
        done.push_back(std::move(other));
      }
  const auto wanted = [&](const Finding& f) { return (c.all && !neverOfAll(f)) || named(f.code); };
  auto mended = mendAll(std::move(p), wanted, done);
  if (!mended) return complain(mended.error().text(), 1);
  p = std::move(*mended);
  Json carried = Json::array();
  for (const Finding& f : done) {
    carried.push_back(Json{{"code", f.code}, {"text", f.text}, {"mend", f.mendText}});
    if (!c.json) fmt::print("mended: {} ({})\n", f.text, f.mendText);
  }
  Findings left = checkProject(p);
  for (Finding& f : checkSourceFiles(p, watch)) left.push_back(std::move(f));
  left = merged(std::move(left));
  if (c.json)
    fmt::print("{}\n", Json{{"mended", carried}, {"left", findingsJson(left)}}.dump(2));
  else
    for (const Finding& f : left) {
      fmt::print("{}: {}{}\n", rankText(f.rank), f.text, f.mend.empty() ? "" : " [" + f.mendText + ": " + f.code + "]");
      for (const MendWay& w : f.ways) fmt::print("    or {}: {}\n", w.text, w.mend);
    }
  if (!carried.empty() || !c.out.empty())
    if (const Outcome o = saveProject(p, c.out.empty() ? c.project : c.out); !o) return complain(o.error().text(), 1);
  return anyStops(left) ? 1 : 0;
}

int runExport(const ImportCall& c) {
  if (c.out.empty() && c.changes.empty()) return complain("export: say --out FILE, --changes FILE or both", 2);
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  if (!c.changes.empty()) {
    const std::string list = changesCsv(loaded->project);
    if (const Outcome o = saveFile(c.changes, list); !o) return complain(o.error().text(), 1);
    if (c.out.empty()) return 0;
  }
  const auto format = exportFormatOf(c.out);
  if (!format)
    return complain("export: --out must end in .obj, .stl, .dxf, .glb, .json (CityJSON), .geojson or .xml (gbXML)", 2);
  Project given = loaded->project;
  if (!c.layers.empty()) {
    std::vector<ElementId> others;
    for (const LayerFacts& l : layersOf(given))
      if (std::find(c.layers.begin(), c.layers.end(), l.name) == c.layers.end())
        others.insert(others.end(), l.elements.begin(), l.elements.end());
    if (others.size() == given.elements.size())
      return complain(fmt::format("export: no element is on the layer \"{}\"", c.layers.front()), 2);
    given = withoutHosts(std::move(given), others);
  }
  const auto model = exportModel(given, *format, c.all);
  if (!model) return complain(model.error().text(), 1);
  if (const Outcome o = saveFile(c.out, model->bytes); !o) return complain(o.error().text(), 1);
  if (c.json)
    fmt::print("{}\n", Json{{"elements", model->elements},
                            {"triangles", model->triangles},
                            {"bytes", model->bytes.size()},
                            {"notes", model->notes}}
                           .dump(2));
  else {
    fmt::print("{}, {} triangles\n", counted(model->elements, "element", "elements"), model->triangles);
    for (const std::string& n : model->notes) fmt::print("{}\n", n);
  }
  return 0;
}

} // namespace

void addImport(CLI::App& app, Session& session) {
  auto c = std::make_shared<ImportCall>();
  auto* import = app.add_subcommand("import", "Look at models, or bring them into a project");
  import
      ->add_option("models", c->models,
                   "OBJ, STL, PLY, glTF, DAE, 3DS, DXF, IFC, gbXML, CityJSON, CityGML, GeoJSON, height grid (ASC)")
      ->required();
  import->add_option("--project", c->project, "bring them into this project");
  import->add_option("--out,--save", c->out, "write the project here; without --project a new one");
  import->add_option("--units,--unit", c->unit, "m, mm, cm, ft, in; else the file's own, or a guess");
  import->add_option("--up", c->up, "y or z")->check(CLI::IsMember({"y", "z"}));
  import->add_option("--north", c->north, "degrees: where the file's own up points, clockwise from north")
      ->check(CLI::Range(-360, 360));
  import->add_option("--level", c->level,
                     "level of detail, where the file has several; else the finest of each object");
  import->add_option("--role", c->role,
                     "of everything that the format itself says nothing about: neighbour, building, ground, …; nothing "
                     "is guessed then");
  import->add_flag("--no-guess", c->plain, "roles by the format alone, none guessed from names, material and shape");
  import->add_flag("--json", c->json, "one object: triangles, size, origin, units, groups with roles, findings");
  import->callback([c, &session, import] {
    c->roleGiven = import->count("--role") > 0;
  session.exit = runImport(*c);
});
auto* out = app.add_subcommand("export", "The model out again: OBJ, STL, DXF, GLB, CityJSON, GeoJSON, gbXML");
out->add_option("project", c->project, "project file")->required();
out->add_option("--out", c->out, "file; its ending says the format: .obj .stl .dxf .glb .json .geojson .xml");
out->add_option("--changes", c->changes, "write what was done to the parts of other people's files, as CSV");

out->add_option("--option", c->option, "design option, by name or number");
out->add_option("--layer", c->layers, "of these layers alone");
out->add_flag("--all", c->all, "with elements left out of studies");
out->add_flag("--json", c->json, "what was written, as JSON");
out->callback([c, &session] { session.exit = runExport(*c); });
auto* mend = app.add_subcommand("mend", "Mend what is wrong with a project; alone it lists what could be");
mend->add_option("project", c->project, "project file")->required();
mend->add_flag("--all", c->all,
               "every mend of a fault; what may be on purpose, such as left out of studies, only by --code");
mend->add_option("--code", c->codes,
                 "only findings of this code, such as mesh.duplicates; a way of several as glass.doubled:outer");
mend->add_option("--out", c->out, "write the project here instead");
mend->add_flag("--json", c->json, "as JSON");
mend->callback([c, &session] { session.exit = runMend(*c); });
} // namespace noonward::cli

} // namespace noonward::cli
