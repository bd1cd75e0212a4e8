// Shading without a window: what it does at each window, and the least that keeps out so much.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/files/results/tables.h"
#include "core/files/save_file.h"
#include "core/model/settings/fields.h"
#include "core/runs/wish_hours.h"
#include "core/studies/shade.h"
#include "picture/shade_dial.h"
#include <fmt/format.h>

namespace noonward::cli {

namespace {

struct ShadeCall {
  std::string project, option, csv, shares, date, rule, what = "depth", out, at, keepOutStudy,
                                                        projection = "equidistant";
  std::vector<std::string> keepOut, letIn, windows;
  double keepOutFrom = 1e9, letInUpTo = -1e9, keepOutBeam = -1, goal = 90, most = 3, every = 5;
  ShadeSettings settings;
  int threads = 0;
  bool json = false, look = false;
};

/// "15 May - 15 Sep" or "15 May - 15 Sep, 9:00 - 18:00".
std::optional<Season> seasonFromText(const std::string& text) {
  Season s;
  const auto comma = text.find(',');
  const auto two = [](const std::string& part) -> std::optional<std::pair<std::string, std::string>> {
    const auto dash = part.find('-');
    if (dash == part.npos) return {};
    const auto trimmed = [](std::string t) {
      t.erase(0, t.find_first_not_of(' '));
      t.erase(t.find_last_not_of(' ') + 1);
      return t;
    };
    return std::pair{trimmed(part.substr(0, dash)), trimmed(part.substr(dash + 1))};
  };
  const auto days = two(text.substr(0, comma));
  if (!days) return {};
  const auto from = dateFromText(days->first + " 2024"), to = dateFromText(days->second + " 2024");
  if (!from || !to) return {};
  s.fromMonth = from->month;
  s.fromDay = from->day;
  s.toMonth = to->month;
  s.toDay = to->day;
  if (comma == text.npos) return s;
  const auto clocks = two(text.substr(comma + 1));
  if (!clocks) return {};
  const auto begin = minutesFromText(clocks->first), end = minutesFromText(clocks->second);
  if (!begin || !end || *end <= *begin) return {};
  s.beginMinute = *begin;
  s.endMinute = *end;
  return s;
}

/// The hours of the call in place of the project's.
Outcome putWishes(Project& p, const ShadeCall& c) {
  if (c.keepOut.empty() && c.letIn.empty() && c.keepOutFrom > 1e8 && c.letInUpTo < -1e8 && c.keepOutBeam < 0 &&
      c.keepOutStudy.empty())
    return {};
  SunWishes w;
  for (const auto& [texts, list] : {std::pair{&c.keepOut, &w.keepOut}, {&c.letIn, &w.letIn}})
    for (const std::string& text : *texts) {
      const auto s = seasonFromText(text);
      if (!s)
        return fail(
            fmt::format("\"{}\" is no season: write \"15 May - 15 Sep\" or \"15 May - 15 Sep, 9:00 - 18:00\"", text));
      list->push_back(*s);
    }
  if (c.keepOutFrom < 1e8) w.keepOutFrom = c.keepOutFrom;
  if (c.letInUpTo > -1e8) w.letInUpTo = c.letInUpTo;
  if (c.keepOutBeam >= 0) w.keepOutBeamFrom = c.keepOutBeam;
  if ((w.keepOutFrom || w.letInUpTo || w.keepOutBeamFrom) && !(p.site.weather && p.site.weather->whole()))
    return fail("Hours by temperature or beam need a whole weather year, and the project has none.");
  p.sunWishes = std::move(w);
  if (c.keepOutStudy.empty()) return {};
  const auto study = std::find_if(p.studies.begin(), p.studies.end(), [&](const Study& s) {
    return s.name == c.keepOutStudy || s.id.text() == c.keepOutStudy;
  });
  if (study == p.studies.end()) return fail(fmt::format("no study is called \"{}\"", c.keepOutStudy));
  ResultStore store(ResultStore::besideProject(c.project));
  StudyRunner runner(&store, {c.threads});
  RunControl control;
  control.progress = progressLine();
  auto with = withHoursOfStudy(p, Study(*study), runner, control, {c.threads});
  if (!with) return tl::unexpected(with.error());
  p = std::move(*with);
  return {};
}
std::string wishesOf(const Project& p) {
  return p.sunWishes.empty() ? wishesText(proposedWishes(p.site.place.latitude)) + " (proposed)"
                             : wishesText(p.sunWishes);
}

Json sunJson(const GlassSun& g, bool weather) {
  Json j{{"open_h", tidyNumber(g.open)},
         {"without_shading_h", tidyNumber(g.bare)},
         {"with_shading_h", tidyNumber(g.shaded)},
         {"taken_by_shading_percent", tidyNumber(100 * g.taken())},
         {"taken_by_neighbours_percent", tidyNumber(100 * g.takenByNeighbours())}};
  if (weather) {
    j["without_shading_kwh_m2"] = tidyNumber(g.bareBeam);
    j["with_shading_kwh_m2"] = tidyNumber(g.shadedBeam);
  }
  return j;
}
Json windowJson(const WindowShade& w, bool weather) {
  Json j;
  if (!w.name.empty()) j["window"] = w.name;
  if (w.opening.value) j["id"] = w.opening.text();
  if (w.facing) j["facing"] = facingKey(*w.facing);
  j["glass_m2"] = tidyNumber(w.area);
  j["unwanted"] = sunJson(w.keepOut, weather);
  j["wanted"] = sunJson(w.letIn, weather);
  j["sky_percent"] = tidyNumber(100 * w.sky);
  j["view_percent"] = tidyNumber(100 * w.view);
  return j;
}
void printHead(bool weather) {
  fmt::print("{:<34}{:>8}{:>14}{:>14}{:>10}{:>8}{:>8}{}\n", "window", "glass", "unwanted sun", "wanted sun", "", "sky",
             "view", weather ? "   unwanted" : "");
  fmt::print("{:<34}{:>8}{:>14}{:>14}{:>10}{:>8}{:>8}{}\n", "", "m²", "kept out %", "lost %", "unw. h", "%", "%",
             weather ? "   kWh/m²" : "");
}
void printWindow(const std::string& name, const WindowShade& w, bool weather) {
  fmt::print("{:<34}{:>8.2f}{:>13.1f}{:>14.1f}{:>10.0f}{:>8.0f}{:>8.0f}{}\n", name, w.area, 100 * w.keepOut.taken(),
             100 * w.letIn.taken(), w.keepOut.shaded, 100 * w.sky, 100 * w.view,
             weather ? fmt::format("{:>11.1f}", w.keepOut.shadedBeam) : "");
}

/// Sides, for the lines below a table.
std::vector<std::pair<std::string, WindowShade>> bySide(const ShadeReport& r) {
  std::vector<std::pair<std::string, WindowShade>> out;
  for (const Facing f : allFacings) {
    const WindowShade w = r.sum([&](const WindowShade& x) { return x.facing == f; });
    if (w.area > 0) out.emplace_back(fmt::format("all to the {}", facingKey(f)), w);
  }
  const WindowShade top = r.sum([](const WindowShade& x) { return !x.facing; });
  if (top.area > 0) out.emplace_back("rooflights", top);
  return out;
}

int writeShares(const Project& p, const ShadeCall& c) {
  Date date{p.site.year, p.site.place.latitude >= 0 ? 6 : 12, 21};
  if (!c.date.empty()) {
    auto d = dateFromText(c.date);
    if (!d) d = dateFromText(c.date + " " + std::to_string(p.site.year));
    if (!d) return complain("shade: --date is written 2026-06-21 or \"21 Jun\"", 2);
    date = *d;
  }
  const auto days = glassInSun(p, date, c.every * 60, 8, {}, {c.threads});
  if (!days) return complain(days.error().text(), 1);
  std::string text = "window,first_sun,last_sun,in_sun_min,fully_shaded_min";
  const std::size_t steps = days->windows.empty() ? 0 : days->windows.front().share.size();
  for (std::size_t k = 0; k < steps; ++k) text += "," + clockText(double(k) * days->step / 60);
  text += "\n";
  const auto clock = [](double s) { // to the second
    const int whole = int(std::lround(s));
    return fmt::format("{:02}:{:02}:{:02}", whole / 3600, whole / 60 % 60, whole % 60);
  };
  for (const GlassDay& d : days->windows) {
    text += fmt::format("{},{},{},{:.1f},{:.1f}", csvField(d.name), d.sun.empty() ? "" : clock(d.sun.front().begin),
                        d.sun.empty() ? "" : clock(d.sun.back().end), total(d.sun) / 60, total(d.shaded) / 60);
    for (float share : d.share) text += fmt::format(",{:.4f}", share);
    text += "\n";
  }
  const Outcome o = saveFile(c.shares, text);
  return o ? 0 : complain(o.error().text(), 1);
}

int report(const ShadeCall& c) {
  auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  Project& p = loaded->project;
  if (Outcome o = putWishes(p, c); !o) return complain("shade: " + o.error().text(), 2);
  if (!c.shares.empty()) {
    const int done = writeShares(p, c);
    if (done != 0 || (c.csv.empty() && !c.json)) return done;
  }
  RunControl control;
  control.progress = progressLine();
  const auto r = shadeReport(p, c.settings, {}, &control, {c.threads});
  if (!r) return complain(r.error().text(), 1);
  if (r->windows.empty()) return complain("The project's rooms have no window to report on.", 1);
  if (!c.csv.empty())
    if (Outcome o = saveFile(c.csv, shadeCsv(*r)); !o) return complain(o.error().text(), 1);
  if (c.json) {
    Json windows = Json::array(), sides = Json::array();
    for (const WindowShade& w : r->windows) windows.push_back(windowJson(w, r->hasWeather));
    for (const auto& [name, w] : bySide(*r)) {
      Json j = windowJson(w, r->hasWeather);
      j["windows"] = name;
      sides.push_back(std::move(j));
    }
    fmt::print("{}\n", Json{{"hours", wishesOf(p)}, {"windows", windows}, {"sides", sides}}.dump(2));
    return 0;
  }
  fmt::print("{}\n", wishesOf(p));
  printHead(r->hasWeather);
  for (const WindowShade& w : r->windows) printWindow(w.name, w, r->hasWeather);
  for (const auto& [name, w] : bySide(*r)) printWindow(name, w, r->hasWeather);
  return 0;
}

int size(const ShadeCall& c) {
  auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  Project p = loaded->project;
  if (Outcome o = putWishes(p, c); !o) return complain("shade: " + o.error().text(), 2);
  ShadeSizing s;
  std::vector<std::string> names;
  std::size_t named = 0;
  for (const ShadeRule& r : p.shadeRules) {
    names.push_back("\"" + r.name + "\"");
    if (r.name != c.rule && r.id.text() != c.rule) continue;
    s.rule = r.id;
    ++named;
  }
  if (named != 1)
    return complain(
        names.empty() ? "shade: the project has no shading to size"
        : named > 1   ? fmt::format("shade: {} are called \"{}\"; give its id", named, c.rule)
                      : fmt::format("shade: no shading is called \"{}\"; there is {}", c.rule, fmt::join(names, ", ")),
        2);
  s.what = c.what == "spacing" ? ShadeSizing::What::Spacing : ShadeSizing::What::Depth;
  s.goal = c.goal / 100;
  s.most = c.most;
  for (const std::string& name : c.windows) {
    const std::size_t before = s.windows.size();
    for (const PlacedOpening& o : placedOpenings(p).openings)
      if (openingName(p, o) == name || o.opening.id.text() == name) s.windows.push_back(o.opening.id);
    if (s.windows.size() == before) return complain(fmt::format("shade: no window is called \"{}\"", name), 2);
  }
  RunControl control;
  control.progress = progressLine();
  const auto sized = sizeShade(p, s, c.settings, &control, {c.threads});
  if (!sized) return complain(sized.error().text(), 1);
  const bool weather = p.site.weather && p.site.weather->whole();
  if (c.json) {
    fmt::print("{}\n", Json{{"shading", c.rule},
                            {"what", c.what},
                            {"hours", wishesOf(p)},
                            {"goal_percent", c.goal},
                            {"reached", sized->reached},
                            {"value_m", sized->value},
                            {"windows", sized->windows},
                            {"tried", sized->tried},
                            {"before", windowJson(sized->before, weather)},
                            {"after", windowJson(sized->after, weather)}}
                           .dump(2));
  } else {
    fmt::print("{}\n{}: {} of {:.3f} m keeps out {:.1f} % of the unwanted sun on {} window{}{}\n", wishesOf(p), c.rule,
               c.what, sized->value, 100 * sized->after.keepOut.taken(), sized->windows, sized->windows == 1 ? "" : "s",
               sized->reached ? "" : fmt::format(": {:g} % is out of reach up to {:g} m", c.goal, c.most));
    printHead(weather);
    printWindow("as it was", sized->before, weather);
    printWindow("sized", sized->after, weather);
  }
  if (!sized->reached) return 1;
  if (c.look) return 0;
  Project changed = loaded->project;
  changed.shadeRules = sized->project.shadeRules;
  const Outcome o = saveProject(changed, c.out.empty() ? c.project : c.out);
  return o ? 0 : complain(o.error().text(), 1);
}

int dial(const ShadeCall& c) {
  auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  Project& p = loaded->project;
  if (Outcome o = putWishes(p, c); !o) return complain("shade: " + o.error().text(), 2);
  const auto projection = projectionFromKey(c.projection);
  const auto at = stampFromText(c.at);
  if (!c.at.empty() && !at) return complain("shade: --at is written 2026-06-21T12:00", 2);
  const Instant moment = at ? p.zone().instant(at->time) : p.zone().instant({{p.site.year, 6, 21}, 12 * 3600});
  std::vector<std::string> names;
  for (const PlacedOpening& o : placedOpenings(p).openings) {
    names.push_back("\"" + openingName(p, o) + "\"");
    if (openingName(p, o) != c.windows.at(0) && o.opening.id.text() != c.windows.at(0)) continue;
    const Outcome done = exportShadeDial(p, o.opening.id, *projection, moment, c.out);
    return done ? 0 : complain(done.error().text(), 1);
  }
  return complain(
      fmt::format("shade: no window is called \"{}\"; there is {}", c.windows.at(0), fmt::join(names, ", ")), 2);
}

void addCommon(CLI::App* a, const std::shared_ptr<ShadeCall>& c) {
  a->add_option("project", c->project, "project file")->required();
  a->add_option("--option", c->option, "one of the project's options");
  a->add_option("--keep-out", c->keepOut,
                "hours of unwanted sun in place of the project's: \"15 May - 15 Sep, 9:00 - 18:00\"");
  a->add_option("--let-in", c->letIn, "hours of wanted sun, alike");
  a->add_option("--keep-out-from", c->keepOutFrom, "°C of the weather's air from which sun is not wanted");
  a->add_option("--keep-out-beam-from", c->keepOutBeam,
                "W/m² of the weather's direct normal irradiance from which sun is not wanted")
      ->check(CLI::Range(0.0, 1500.0));
  a->add_option("--let-in-up-to", c->letInUpTo, "°C up to which it is");
  a->add_option(
      "--keep-out-study", c->keepOutStudy,
      "name of a year of glare or a daylight year: sun is not wanted in its hours above DGP 0.40, or with the "
      "beam of ASE");
  a->add_option("--step", c->settings.stepMinutes, "minutes between moments (15)")->check(CLI::Range(1, 60));
  a->add_option("--points", c->settings.points, "n × n points on each pane (6)")->check(CLI::Range(1, 32));
  a->add_option("--threads", c->threads, "0: all")->check(CLI::Range(0, 256));
  a->add_flag("--json", c->json, "everything as JSON");
}

} // namespace

void addShade(CLI::App& app, Session& session) {
  auto* shade = app.add_subcommand("shade", "What shading does at each window; the least that keeps out so much sun");
  shade->require_subcommand(1);
  auto c = std::make_shared<ShadeCall>();
  auto* r =
      shade->add_subcommand("report", "Share of unwanted sun kept out, of wanted sun lost, sky and view, by window");
  addCommon(r, c);
  r->add_option("--csv", c->csv, "write the table here");
  r->add_option("--shares", c->shares, "write the share of each window's glass in sun through a day here");
  r->add_option("--date", c->date, "day of --shares (the longest)");
  r->add_option("--every", c->every, "minutes between --shares (5)")->check(CLI::Range(0.1, 120.0));
  r->callback([c, &session] { session.exit = report(*c); });
  auto s = std::make_shared<ShadeCall>();
  auto* z = shade->add_subcommand("size", "The least depth, or the widest spacing, of one shading that reaches a goal");
  addCommon(z, s);
  z->add_option("--rule", s->rule, "name or id of the shading")->required();
  z->add_option("--what", s->what, "depth or spacing")->check(CLI::IsMember({"depth", "spacing"}));
  z->add_option("--goal", s->goal, "% of the unwanted sun on its windows' glass to keep out (90)")
      ->check(CLI::Range(1.0, 100.0));
  z->add_option("--most", s->most, "m, the largest tried (3)")->check(CLI::Range(0.01, 20.0));
  z->add_option("--window", s->windows, "judge these windows alone: \"Room: Window 1\" or an id");
  z->add_option("--out", s->out, "write the project here instead");
  z->add_flag("--look", s->look, "tell, and write nothing");
  z->callback([s, &session] { session.exit = size(*s); });
  auto d = std::make_shared<ShadeCall>();
  auto* e =
      shade->add_subcommand("dial", "A window's sky with the sun's tracks and what shading takes, as PNG, SVG or PDF");
  addCommon(e, d);
  e->add_option("--window", d->windows, "\"Room: Window 1\" or an id")->required()->expected(1);
  e->add_option("--out", d->out, "file to write")->required();
  e->add_option("--at", d->at, "moment whose sun is drawn (noon of the longest day)");
  e->add_option("--projection", d->projection, "equidistant, stereographic, orthographic or flat")
      ->check(CLI::IsMember({"equidistant", "stereographic", "orthographic", "flat"}));
  e->callback([d, &session] { session.exit = dial(*d); });
}

} // namespace noonward::cli
