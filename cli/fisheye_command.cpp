// What an eye sees, and glare of given sources.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/files/results/glare_files.h"
#include "core/files/results/luminance_exr.h"
#include "core/files/results/tables.h"
#include "core/files/save_file.h"
#include "core/studies/fisheye.h"
#include "picture/fisheye_page.h"
#include "picture/picture_export.h"
#include <fmt/format.h>

namespace noonward::cli {

namespace {

struct FisheyeCall {
  std::string project, option, at, direction = "180,0", moment, sky, projection = "equidistant", out, sources, task,
                                   range, title;
  int pixels = 512, threads = 0;
  double error = 3, threshold = 2000;
  std::uint64_t seed = 1;
  bool json = false, linear = false, noTracks = false;
};

std::optional<std::vector<double>> numbersFrom(const std::string& text, std::size_t n) {
  std::vector<double> out;
  std::size_t from = 0;
  while (from <= text.size()) {
    const std::size_t end = std::min(text.find(',', from), text.size());
    const auto v = numberFromText(text.substr(from, end - from));
    if (!v || !std::isfinite(*v)) return {};
    out.push_back(*v);
    from = end + 1;
  }
  return out.size() == n ? std::optional(out) : std::nullopt;
}

Json sourceJson(const EyeFrame& e, const GlareSource& s) {
  const auto [right, up] = offSight(e, s.direction);
  Json j{{"luminance_cd_m2", s.luminance},
         {"solid_angle_sr", s.solidAngle},
         {"position_index", s.position},
         {"azimuth_deg", right},
         {"altitude_deg", up},
         {"sun", s.sun}};
  if (!std::isfinite(s.position)) j["position_index"] = nullptr;
  return j;
}

Json glareJson(const Glare& g, const EyeFrame& e) {
  Json j{{"ev_lux", g.ev},
         {"ev_standard_error", g.evError},
         {"dgp", g.dgp},
         {"dgp_standard_error", g.dgpError},
         {"mean_cd_m2", g.mean},
         {"threshold_cd_m2", g.threshold},
         {"sources", Json::array()}};
  for (const GlareSource& s : g.sources) j["sources"].push_back(sourceJson(e, s));
  if (const std::string doubt = g.rangeText(); !doubt.empty()) j["doubt"] = doubt;
  return j;
}

/// "21 Mar 2026 9:00".
QString momentText(const std::string& typed) {
  const auto stamp = stampFromText(typed);
  return stamp ? QString::fromStdString(fmt::format("{} {} {}", dayText(stamp->time.date), stamp->time.date.year,
                                                    clockText(stamp->time.seconds / 60)))
               : QString();
}

Outcome written(const FisheyeCall& c, const Project& p, const Fisheye& f, const LuminanceScale& scale) {
  const std::filesystem::path file = c.out;
  const std::string ending = file.extension().string();
  if (ending == ".exr")
    return writeLuminanceExr(file, f.map.size, f.map.size, f.luminance,
                             {{"projection", fisheyeProjectionKey(f.map.projection)},
                              {"direction", c.direction},
                              {"eye", c.at},
                              {"moment", c.moment},
                              {"sky", f.sky},
                              {"unit", "cd/m2"}});
  if (ending != ".png") return fail("A fisheye is written as .png or .exr.", c.out);
  const PaintingWithoutWindow painting;
  const QString title =
      c.title.empty() ? QString("From %1").arg(QString::fromStdString(c.at)) : QString::fromStdString(c.title);
  const QImage image = fisheyePage({p, f, title, momentText(c.moment), scale, !c.noTracks}, Theme::light(), 1);
  if (!image.save(QString::fromStdString(c.out))) return fail("The picture could not be written.", c.out);
  return {};
}

int run(const FisheyeCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  const auto at = numbersFrom(c.at, 3), way = numbersFrom(c.direction, 2);
  if (!at) return complain("fisheye: --at x,y,z in metres is expected, such as 2.5,4,1.2", 2);
  if (!way) return complain("fisheye: --direction AZIMUTH,ALTITUDE in degrees is expected, such as 180,0", 2);
  FisheyeSettings s;
  s.eye = {(*at)[0], (*at)[1], (*at)[2]};
  s.azimuth = radians((*way)[0]);
  s.altitude = radians((*way)[1]);
  const auto projection = fisheyeProjectionFromKey(c.projection);
  if (!projection) return complain("fisheye: --projection equidistant, equisolid, orthographic or perspective", 2);
  s.projection = *projection;
  s.pixels = c.pixels;
  s.error = c.error / 100;
  s.seed = c.seed;
  s.threshold = c.threshold;
  if (!c.task.empty()) {
    const auto task = numbersFrom(c.task, 2);
    if (!task) return complain("fisheye: --task AZIMUTH,ALTITUDE in degrees, the middle of a zone 30° wide", 2);
    s.task = std::pair{radians((*task)[0]), radians((*task)[1])};
  }
  LuminanceScale scale;
  scale.logarithmic = !c.linear;
  if (!c.range.empty()) {
    const auto range = numbersFrom(c.range, 2);
    if (!range || !((*range)[1] > (*range)[0]) || !((*range)[0] > 0 || (c.linear && (*range)[0] >= 0)))
      return complain("fisheye: --range LOW,HIGH in cd/m², both above 0 and rising", 2);
    scale.low = (*range)[0];
    scale.high = (*range)[1];
  }
  SkyChoice sky;
  sky.kind = p.site.weather && p.site.weather->whole() ? SkyKind::Weather : SkyKind::CieGeneral;
  if (!c.sky.empty()) {
    const auto choice = skyFromKey(c.sky);
    if (!choice)
      return complain("fisheye: --sky cie-overcast, uniform, cie-1 … cie-15, clear, intermediate or weather", 2);
    sky = *choice;
  }
  std::optional<Instant> moment;
  if (!c.moment.empty()) {
    const auto stamp = stampFromText(c.moment);
    if (!stamp) return complain("fisheye: --moment 2026-03-21T09:00 by the site's clock", 2);
    moment = p.zone().instant(stamp->time);
  }
  RunControl control;
  control.progress = progressLine();
  const auto f = fisheye(p, s, sky, moment, control, {c.threads});
  std::fputs("\r     \r", stderr);
  if (!f) return complain(f.error().text(), 1);
  printFindings(f->findings);
  if (!c.out.empty())
    if (const Outcome o = written(c, p, *f, scale); !o) return complain(o.error().text(), 1);
  if (!c.sources.empty())
    if (const Outcome o = saveFile(c.sources, glareSourcesCsv(f->map.eye, f->glare.sources)); !o)
      return complain(o.error().text(), 1);
  const bool hemisphere = s.projection != FisheyeProjection::Perspective;
  if (c.json) {
    Json j = hemisphere ? glareJson(f->glare, f->map.eye) : Json::object();
    j["sky"] = f->sky;
    j["fingerprint"] = f->key.fingerprint();
    j["seconds"] = f->seconds;
    j["points"] = f->points;
    fmt::print("{}\n", j.dump());
    return 0;
  }
  if (hemisphere) {
    const Glare& g = f->glare;
    fmt::print("DGP {} ({}), Ev {:.0f} ± {:.0f} lx, mean {:.0f} cd/m², {} source{}, {}; {:.2f} s\n", g.dgpText(),
               glareWord(g.dgp), g.ev, g.evError, g.mean, g.sources.size(), g.sources.size() == 1 ? "" : "s", f->sky,
               f->seconds);
    if (const std::string doubt = g.rangeText(); !doubt.empty()) fmt::print("{}\n", doubt);
  } else {
    fmt::print("{}; {:.2f} s\n", f->sky, f->seconds);
  }
  return 0;
}

struct GlareCall {
  std::string sources;
  double ev = -1;
  bool json = false;
};

Expected<std::vector<GlareSource>> sourcesFrom(const std::string& file, const EyeFrame& eye) {
  const auto text = loadFile(file, 1 << 26);
  if (!text) return tl::unexpected(text.error());
  std::vector<GlareSource> out;
  std::size_t from = 0, line = 0;
  while (from < text->size()) {
    const std::size_t end = std::min(text->find('\n', from), text->size());
    std::string row = text->substr(from, end - from);
    from = end + 1;
    ++line;
    if (!row.empty() && row.back() == '\r') row.pop_back();
    if (row.empty() || (line == 1 && row.find("luminance") != std::string::npos)) continue;
    std::vector<double> v;
    std::size_t cell = 0;
    while (cell <= row.size() && v.size() < 4) {
      const std::size_t stop = std::min(row.find(',', cell), row.size());
      const auto number = numberFromText(row.substr(cell, stop - cell));
      if (!number) break;
      v.push_back(*number);
      cell = stop + 1;
    }
    const std::string place = fmt::format("{}:{}", file, line);
    if (v.size() < 4)
      return fail("Four numbers are expected: luminance_cd_m2,solid_angle_sr,azimuth_deg,altitude_deg.", place);
    if (!(v[0] >= 0) || !(v[1] > 0 && v[1] <= 2 * pi) || !(std::abs(v[3]) <= 90) || !std::isfinite(v[0]) ||
        !std::isfinite(v[2]))
      return fail("A luminance from 0 up, a solid angle up to 2π sr and an altitude of −90 to 90° are expected.",
                  place);
    const double a = radians(v[2]), h = radians(v[3]);
    const Vec3 d =
        eye.forward * (std::cos(h) * std::cos(a)) + eye.right * (std::cos(h) * std::sin(a)) + eye.up * std::sin(h);
    out.push_back({v[0], v[1], d, positionIndex(d, eye), false});
  }
  return out;
}

int runGlare(const GlareCall& c) {
  const EyeFrame eye;
  const auto sources = sourcesFrom(c.sources, eye);
  if (!sources) return complain(sources.error().text(), 1);
  if (!(c.ev >= 0)) return complain("glare: --ev LUX, from 0 up", 2);
  Glare g;
  g.ev = c.ev;
  g.sources = *sources;
  g.dgp = daylightGlareProbability(c.ev, *sources);
  g.contrast = g.dgp - daylightGlareProbability(c.ev, {});
  if (c.json) {
    Json j{{"ev_lux", g.ev}, {"dgp", g.dgp}, {"by_contrast", g.contrast}, {"sources", Json::array()}};
    for (const GlareSource& s : g.sources) j["sources"].push_back(sourceJson(eye, s));
    if (const std::string doubt = g.rangeText(); !doubt.empty()) j["doubt"] = doubt;
    fmt::print("{}\n", j.dump());
  } else {
    fmt::print("DGP {:.4f} ({})\n", g.dgp, glareWord(g.dgp));
    if (const std::string doubt = g.rangeText(); !doubt.empty()) fmt::print("{}\n", doubt);
  }
  return 0;
}

} // namespace

void addFisheye(CLI::App& app, Session& session) {
  auto c = std::make_shared<FisheyeCall>();
  auto* a = app.add_subcommand("fisheye", "What an eye sees: luminances, illuminance at the eye, glare");
  a->add_option("project", c->project, "project file")->required();
  a->add_option("--at", c->at, "x,y,z of the eye, m")->required();
  a->add_option("--direction", c->direction, "AZIMUTH,ALTITUDE of the line of sight, true degrees (180,0)");
  a->add_option("--moment", c->moment, "by the site's clock, 2026-03-21T09:00");
  a->add_option("--sky", c->sky,
                "cie-overcast, uniform, cie-1 … cie-15, clear, intermediate, weather (that, where there is one)");
  a->add_option("--projection", c->projection, "equidistant, equisolid, orthographic; perspective: 60° wide, no glare");
  a->add_option("--pixels", c->pixels, "of the picture's side (512)");
  a->add_option("--error", c->error, "standard error wanted of the light on surfaces, % (3)");
  a->add_option("--threshold", c->threshold, "cd/m² from which a spot is a glare source (2000)");
  a->add_option("--task", c->task,
                "AZIMUTH,ALTITUDE of what is worked at: sources then begin at 5 × the mean of a zone 30° wide");
  a->add_option("--out", c->out, "picture: .png with legend and figures, .exr with true values");
  a->add_option("--sources", c->sources, "CSV of the glare sources");
  a->add_option("--range", c->range, "LOW,HIGH of the picture's scale, cd/m² (3,30000)");
  a->add_flag("--linear", c->linear, "a linear scale");
  a->add_flag("--no-tracks", c->noTracks, "without the sun's tracks");
  a->add_option("--title", c->title, "of the picture");
  a->add_option("--option", c->option, "one of the project's options");
  a->add_option("--seed", c->seed, "another seed gives independent noise");
  a->add_option("--threads", c->threads, "0: all")->check(CLI::Range(0, 256));
  a->add_flag("--json", c->json, "figures as JSON");
  a->callback([c, &session] { session.exit = run(*c); });

  auto g = std::make_shared<GlareCall>();
  auto* b = app.add_subcommand("glare", "DGP of given sources");
  b->add_option("--sources", g->sources,
                "CSV: luminance_cd_m2,solid_angle_sr,azimuth_deg,altitude_deg from the line of sight")
      ->required();
  b->add_option("--ev", g->ev, "lx at the eye, over the whole hemisphere")->required();
  b->add_flag("--json", g->json, "as JSON");
  b->callback([g, &session] { session.exit = runGlare(*g); });
}

} // namespace noonward::cli
