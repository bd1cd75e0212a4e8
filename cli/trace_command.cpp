// The simplified model out of a heavy one, without a window.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/base/units.h"
#include "core/model/tracing/tracing.h"
#include <fmt/format.h>

namespace noonward::cli {

namespace {

struct TraceCall {
  std::string project, out;
  std::vector<std::string> sources;
  std::vector<double> floors;
  TraceSettings settings;
  double below = 0;
  bool json = false, undo = false, dry = false;
};

Json outlineJson(const Outline& o) {
  Json rings = Json::array();
  const auto ring = [&](const Ring& r) {
    Json points = Json::array();
    for (Vec2 p : r) points.push_back(Json::array({p.x, p.y}));
    rings.push_back(std::move(points));
  };
  ring(o.outer);
  for (const Ring& h : o.holes) ring(h);
  return rings;
}

int run(TraceCall c) {
  auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  Project p = std::move(loaded->project);
  const std::string target = c.out.empty() ? c.project : c.out;
  if (c.undo) {
    p = withoutTrace(std::move(p));
    const Outcome o = saveProject(p, target);
    return o ? 0 : complain(o.error().text(), 1);
  }
  for (const std::string& name : c.sources) {
    bool found = false;
    for (const ElementPtr& e : p.elements)
      if (e->imported() && (e->name == name || e->layer == name || e->source == name || e->id.text() == name)) {
        c.settings.sources.push_back(e->id);
        found = true;
      }
    if (!found)
      return complain("trace: nothing that was imported is called \"" + name + "\", by its name, layer or file", 2);
  }
  c.settings.floors = c.floors;
  std::sort(c.settings.floors.begin(), c.settings.floors.end());
  if (c.below > 0) c.settings.cutBelow = c.below;
  RunControl control;
  control.progress = progressLine();
  const auto t = traceModel(p, c.settings, &control);
  if (!t) return complain(t.error().text(), 1);
  const TraceDeviation& d = t->deviation;
  if (c.json) {
    Json storeys = Json::array(), rooms = Json::array(), windows = Json::array();
    for (const TracedStorey& s : t->storeys) {
      Json outer = Json::array();
      for (const Outline& o : s.outer) outer.push_back(outlineJson(o));
      storeys.push_back(Json{{"floor", s.floor},
                             {"ceiling", s.ceiling},
                             {"top", s.top},
                             {"cut", s.cut},
                             {"rooms", s.rooms},
                             {"outer", outer}});
    }
    for (const Room& r : t->rooms) {
      double glass = 0;
      for (const Opening& o : t->openings) glass += o.room == r.id ? o.width * o.height : 0;
      rooms.push_back(Json{{"name", r.name},
                           {"area", area(r.outline)},
                           {"floor", r.floor},
                           {"height", r.height},
                           {"wall", r.wall},
                           {"glazing", glass},
                           {"outline", outlineJson(r.outline)}});
    }
    const auto four = [](const std::array<double, 4>& a) {
      return Json{{"north", a[0]}, {"east", a[1]}, {"south", a[2]}, {"west", a[3]}};
    };
    fmt::print("{}\n", Json{{"storeys", storeys},
                            {"rooms", rooms},
                            {"windows", t->openings.size()},
                            {"notes", t->notes},
                            {"deviation", Json{{"source_area_m2", d.sourceArea},
                                               {"area_m2", d.area},
                                               {"source_volume_m3", d.sourceVolume},
                                               {"volume_m3", d.volume},
                                               {"source_glazing_m2", four(d.sourceGlazing)},
                                               {"glazing_m2", four(d.glazing)},
                                               {"source_rooflights_m2", d.sourceRooflights},
                                               {"rooflights_m2", d.rooflights},
                                               {"farthest_m", d.farthest}}}}
                           .dump(2));
  } else {
    for (const TracedStorey& s : t->storeys)
      fmt::print("storey at {:.2f} m, {:.2f} m clear, cut at {:.2f} m: {} rooms\n", s.floor, s.ceiling - s.floor, s.cut,
                 s.rooms);
    for (const Room& r : t->rooms) {
      std::size_t n = 0;
      for (const Opening& o : t->openings) n += o.room == r.id;
      fmt::print("  {:<24} {:8.1f} m²  {:.2f} m high  {} windows\n", r.name, area(r.outline), r.height, n);
    }
    double source = d.sourceRooflights, light = d.rooflights;
    for (int k = 0; k < 4; ++k) {
      source += d.sourceGlazing[std::size_t(k)];
      light += d.glazing[std::size_t(k)];
    }
    fmt::print("against the source: area {:+.2f} %, volume {:+.2f} %, glazing {:.2f} of {:.2f} m², corners at most "
               "{:.3f} m off\n",
               100 * (d.area / std::max(1e-9, d.sourceArea) - 1), 100 * (d.volume / std::max(1e-9, d.sourceVolume) - 1),
               light, source, d.farthest);
    for (const std::string& n : t->notes) fmt::print("{}\n", n);
  }
  if (c.dry) return 0;
  p = withTrace(std::move(p), *t);
  const Outcome o = saveProject(p, target);
  return o ? 0 : complain(o.error().text(), 1);
}

} // namespace

void addTrace(CLI::App& app, Session& session) {
  auto c = std::make_shared<TraceCall>();
  auto* t = app.add_subcommand("trace", "Trace a simplified model: storeys cut out of what was imported, rooms between "
                                        "their walls, windows from the glazing");
  t->add_option("project", c->project, "project file")->required();
  t->add_option("--source", c->sources, "only parts of this name, layer or file; else every building part that counts");
  t->add_option("--floors", c->floors, "levels of the floors in m; else found")->delimiter(',');
  t->add_option("--cut-below", c->below, "m under the ceiling to cut at; else the highest that closes")
      ->check(CLI::Range(0.01, 10.0));
  t->add_option("--simplify", c->settings.simplify, "m that a corner may be left out by (0.02)")
      ->check(CLI::Range(0.0, 2.0));
  t->add_option("--gap", c->settings.gap, "m between ends of walls that is closed (0.03)")->check(CLI::Range(0.0, 1.0));
  t->add_option("--thickest-wall", c->settings.thickestWall, "m; wider regions are rooms (0.6)")
      ->check(CLI::Range(0.05, 3.0));
  t->add_option("--smallest-room", c->settings.smallestRoom, "m² (1.5)")->check(CLI::Range(0.1, 1000.0));
  t->add_option("--out", c->out, "write the project here instead");
  t->add_flag("--undo", c->undo, "take the simplified model out: the source counts again");
  t->add_flag("--look", c->dry, "tell what would come out, and write nothing");
  t->add_flag("--json", c->json, "storeys, rooms and deviations as one object");
  t->callback([c, &session] { session.exit = run(*c); });
}

} // namespace noonward::cli
