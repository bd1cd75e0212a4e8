// Shadow plans without a window.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/files/results/shadow_files.h"
#include "core/files/save_file.h"
#include "picture/shadow_page.h"
#include <fmt/format.h>

namespace noonward::cli {

namespace {

struct ShadowCall {
  std::string project, option, out, date, from = "9:00", to = "15:00";
  std::vector<std::string> at, areas;
  double step = 60;
  bool roofs = false, local = false, json = false;
};

Json momentJson(const Project& p, const ShadowPlan& plan, const ShadowMoment& m) {
  Json j{{"at", isoText(m.at, p.zone().offset(m.at))},
         {"altitude_deg", degrees(m.altitude)},
         {"azimuth_deg", degrees(m.azimuth)},
         {"up", m.up},
         {"shadow_m2", m.ground.allArea}};
  if (plan.hasProposal) {
    j["before_m2"] = m.ground.beforeArea;
    j["net_new_m2"] = m.ground.freshArea;
  }
  if (!m.roofs.all.empty()) {
    j["roofs_m2"] = m.roofs.allArea;
    if (plan.hasProposal) j["roofs_net_new_m2"] = m.roofs.freshArea;
  }
  for (const ShadowArea& a : m.areas)
    j["areas"].push_back(Json{
        {"name", a.name}, {"area_m2", a.area}, {"shadow_m2", a.all}, {"before_m2", a.before}, {"net_new_m2", a.fresh}});
  return j;
}

int shadows(const ShadowCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  ShadowPlanSettings s;
  s.roofs = c.roofs;
  std::string days;
  for (const std::string& text : c.at) {
    const auto t = stampFromText(text);
    if (!t) return complain(fmt::format("shadows: \"{}\" is no moment: write 2026-03-21T12:00", text), 2);
    s.moments.push_back(t->utcOffset ? utc(t->time) + -*t->utcOffset : p.zone().instant(t->time));
    days = dayText(t->time.date);
  }
  if (!c.date.empty()) {
    auto date = dateFromText(c.date);
    if (!date) date = dateFromText(c.date + " " + std::to_string(p.site.year));
    const auto from = minutesFromText(c.from), to = minutesFromText(c.to);
    if (!date) return complain("shadows: --date is written 2026-03-21 or \"21 Mar\"", 2);
    if (!from || !to || *to <= *from) return complain("shadows: --from and --to are clock times, in order", 2);
    const auto more = stepMoments(p, *date, *from, *to, c.step);
    s.moments.insert(s.moments.end(), more.begin(), more.end());
    s.hoursEach = c.step / 60;
    days = dayText(*date);
  }
  if (s.moments.empty()) return complain("shadows: give --at 2026-03-21T12:00, or --date with --from and --to", 2);
  for (const std::string& name : c.areas) {
    const std::size_t before = s.areas.size();
    for (const SensorGroup& g : p.groups)
      if (g.name == name || g.id.text() == name) s.areas.push_back(g.id);
    if (s.areas.size() == before) return complain(fmt::format("shadows: no group is called \"{}\"", name), 2);
  }
  const std::filesystem::path out = c.out;
  const std::string ending = out.extension().string();
  const bool paper = ending == ".pdf" || ending == ".svg" || ending == ".png";
  if (!c.out.empty() && !paper && ending != ".geojson" && ending != ".dxf" && ending != ".csv")
    return complain("shadows: --out ends in .geojson, .dxf, .csv, .pdf, .svg or .png", 2);
  RunControl control;
  control.progress = progressLine();
  const auto plan = shadowPlan(p, s, control);
  std::fputs("\r     \r", stderr);
  if (!plan) return complain(plan.error().text(), 1);
  if (!c.out.empty()) {
    const Outcome o = paper                  ? writeShadowPage({&p, &*plan, p.name + " · shadow plan " + days}, out)
                      : ending == ".geojson" ? saveFile(out, shadowGeoJson(p, *plan, c.local))
                      : ending == ".dxf"     ? saveFile(out, shadowDxf(p, *plan))
                                             : saveFile(out, shadowCsv(p, *plan));
    if (!o) return complain(o.error().text(), 1);
  }
  if (c.json) {
    Json all{{"seconds", plan->seconds}, {"hours_each", plan->hoursEach}, {"moments", Json::array()}};
    if (plan->hasProposal) all["net_new_m2_h"] = plan->freshAreaHours();
    for (const ShadowMoment& m : plan->moments) all["moments"].push_back(momentJson(p, *plan, m));
    if (plan->hasProposal)
      for (const ShadowArea& a : plan->moments.front().areas)
        all["areas"].push_back(Json{{"name", a.name},
                                    {"area_m2", a.area},
                                    {"net_new_m2_h", plan->freshAreaHours(a.group)},
                                    {"most_net_new_m2", plan->mostFresh(a.group)}});
    fmt::print("{}\n", all.dump(2));
    return 0;
  }
  for (const ShadowMoment& m : plan->moments) {
    const CivilTime clock = p.zone().clock(m.at);
    if (!m.up) {
      fmt::print("{} {}: the sun is too low to cast, altitude {:.1f}°\n", dayText(clock.date),
                 clockText(clock.seconds / 60), degrees(m.altitude));
      continue;
    }
    fmt::print("{} {}: {:.0f} m² in shadow on the ground", dayText(clock.date), clockText(clock.seconds / 60),
               m.ground.allArea);
    if (plan->hasProposal) fmt::print(", {:.0f} m² of it net new", m.ground.freshArea);
    for (const ShadowArea& a : m.areas)
      fmt::print("; {}: {:.0f} m² of {:.0f} m²{}", a.name, a.all, a.area,
                 plan->hasProposal ? fmt::format(", {:.0f} m² net new", a.fresh) : "");
    fmt::print("\n");
  }
  if (plan->hasProposal && plan->moments.size() > 1)
    fmt::print("net new on the ground: {:.0f} m²·h, each moment standing for {:g} h\n", plan->freshAreaHours(),
               plan->hoursEach);
  return 0;
}

} // namespace

void addShadows(CLI::App& app, Session& session) {
  auto c = std::make_shared<ShadowCall>();
  auto* s = app.add_subcommand("shadows", "Outlines of shadow in plan, and what the proposal adds to them");
  s->add_option("project", c->project, "project file")->required();
  s->add_option("--at", c->at, "moment by the site's clock, 2026-03-21T12:00; may be repeated");
  s->add_option("--date", c->date, "a day in steps instead: 2026-03-21 or \"21 Mar\"");
  s->add_option("--from", c->from, "clock time at which the day's steps begin (9:00)");
  s->add_option("--to", c->to, "at which they end (15:00)");
  s->add_option("--step", c->step, "minutes of a step, looked at in its middle (60)")->check(CLI::Range(1.0, 720.0));
  s->add_option("--area", c->areas, "ground areas to measure, by name (all)");
  s->add_flag("--roofs", c->roofs, "shadows on roofs too");
  s->add_option("--option", c->option, "the option cast");
  s->add_option("--out", c->out, "file: .geojson, .dxf, .csv, .pdf, .svg, .png");
  s->add_flag("--local", c->local, "GeoJSON in the drawing's metres instead of longitude and latitude");
  s->add_flag("--json", c->json, "areas as JSON");
  s->callback([c, &session] { session.exit = shadows(*c); });
}

} // namespace noonward::cli
