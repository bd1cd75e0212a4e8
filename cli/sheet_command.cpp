// Facade sheets and films without a window.

#include "cli/commands.h"
#include "core/model/options.h"
#include "picture/facade_sheet.h"
#include "picture/film.h"
#include <fmt/format.h>

namespace noonward::cli {

namespace {

/// "21 Jun", "2026-06-21".
std::optional<Date> dateOfYear(const std::string& text, int year) {
  if (auto d = dateFromText(text)) return d;
  return dateFromText(text + " " + std::to_string(year));
}

struct SheetCall {
  std::string project, out, pictures, option, beside;
  std::vector<std::string> of, sides, dates, hours;
  double pixels = 2;
};

int sheet(const SheetCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  if (c.out.empty() && c.pictures.empty()) return complain("sheet: give --out FILE, --pictures FOLDER or both", 2);
  const std::string ending = std::filesystem::path(c.out).extension().string();
  if (!c.out.empty() && ending != ".pdf" && ending != ".png" && ending != ".svg")
    return complain("sheet: --out ends in .pdf, .png or .svg", 2);
  SheetRequest r;
  r.pixels = c.pixels;
  for (const std::string& name : c.of) {
    const std::size_t before = r.of.size();
    for (const ElementPtr& e : p.elements)
      if (e->name == name || e->id.text() == name) r.of.push_back(e->id);
    if (r.of.size() == before) return complain(fmt::format("sheet: nothing is called \"{}\"", name), 2);
  }
  for (const std::string& side : c.sides) {
    const auto f = facingFromKey(side);
    if (!f) return complain("sheet: --side north, east, south or west", 2);
    r.sides.push_back(*f);
  }
  for (const std::string& text : c.dates) {
    const auto d = dateOfYear(text, p.site.year);
    if (!d) return complain(fmt::format("sheet: \"{}\" is no day: write \"21 Jun\" or 2026-06-21", text), 2);
    r.dates.push_back(*d);
  }
  for (const std::string& text : c.hours) {
    const auto m = minutesFromText(text);
    if (!m) return complain(fmt::format("sheet: \"{}\" is no hour: write 9 or 14:30", text), 2);
    r.minutes.push_back(*m);
  }
  if (!c.beside.empty()) {
    const auto b = optionNamed(p, c.beside);
    if (!b) return complain(fmt::format("sheet: the project has no option \"{}\"", c.beside), 2);
    r.beside = {p.option, *b};
  }
  RunControl control;
  control.progress = progressLine();
  const auto made = makeFacadeSheet(p, r, control);
  if (!made) return complain(made.error().text(), 1);
  if (!c.out.empty())
    if (const Outcome o = writeFacadeSheet(*made, c.out); !o) return complain(o.error().text(), 1);
  std::size_t pictures = 0;
  if (!c.pictures.empty()) {
    const auto n = writeSheetPictures(*made, c.pictures);
    if (!n) return complain(n.error().text(), 1);
    pictures = *n;
  }
  for (const SheetPage& page : made->pages)
    for (const SheetRow& row : page.rows)
      for (const SheetCell& cell : row.cells) fmt::print("{}, {}: {}\n", page.title, row.label, cell.text());
  fmt::print("{} page{}{}, fingerprint {}\n", made->pages.size(), made->pages.size() == 1 ? "" : "s",
             pictures ? fmt::format(", {} pictures", pictures) : "", made->fingerprint);
  return 0;
}

struct FilmCall {
  std::string project, out, option, study, view = "solid", size = "1280x720", date, from = "4:00", to = "22:00", at;
  std::vector<std::string> along;
  double step = 10, perSecond = 12;
  int every = 1, frames = 48;
  bool year = false;
};

int film(const FilmCall& c) {
  const auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  const Project& p = loaded->project;
  FilmRequest r;
  r.perSecond = c.perSecond;
  const auto view = viewFromKey(c.view);
  if (!view) return complain("film: --view solid, plan, facade or sun", 2);
  r.picture.view = *view;
  r.picture.study = c.study.empty() ? "-" : c.study;
  if (std::sscanf(c.size.c_str(), "%dx%d", &r.picture.width, &r.picture.height) != 2)
    return complain("film: --size 1280x720", 2);
  const auto from = minutesFromText(c.from), to = minutesFromText(c.to);
  if (!from || !to) return complain("film: --from and --to are clock times such as 6:00", 2);
  Date date{p.site.year, p.site.place.latitude >= 0 ? 6 : 12, 21};
  if (!c.date.empty()) {
    const auto d = dateOfYear(c.date, p.site.year);
    if (!d) return complain("film: --date is written 2026-06-21 or \"21 Jun\"", 2);
    date = *d;
  }
  const auto minute = minutesFromText(c.at.empty() ? "12:00" : c.at);
  if (!minute) return complain("film: --at is a clock time such as 14:00", 2);
  if (!c.along.empty()) {
    auto frames = viewFrames(p, c.along.front() == "*" ? std::vector<std::string>{} : c.along, c.frames,
                             p.zone().instant({date, *minute * 60}));
    if (!frames) return complain(frames.error().text(), 1);
    r.frames = std::move(*frames);
  } else if (c.year) {
    r.frames = yearFrames(p.zone(), p.site.year, *minute, c.every);
  } else {
    r.frames = dayFrames(p.zone(), date, *from, *to, c.step);
  }
  RunControl control;
  control.progress = progressLine();
  const Outcome o = writeFilm(p, r, c.out, control);
  if (!o) return complain(o.error().text(), 1);
  fmt::print("{} frames, {:.1f} s\n", r.frames.size(), double(r.frames.size()) / r.perSecond);
  return 0;
}

} // namespace

void addSheet(CLI::App& app, Session& session) {
  auto c = std::make_shared<SheetCall>();
  auto* s = app.add_subcommand("sheet", "Facade sheet: each side square on, at hours of days, with its glass in shade");
  s->add_option("project", c->project, "project file")->required();
  s->add_option("--out", c->out, "PDF of all sides, or PNG or SVG a side");
  s->add_option("--pictures", c->pictures, "folder for a PNG an hour: south-2026-06-21-1400.png");
  s->add_option("--of", c->of, "buildings, by name (those with windows, else those proposed)");
  s->add_option("--side", c->sides, "north, east, south, west (all)")->delimiter(',');
  s->add_option("--date", c->dates, "days: \"21 Jun\" (longest day, equinox, shortest day)")->delimiter(',');
  s->add_option("--hours", c->hours, "clock times: 9,12,14:30 (8 to 18 by two)")->delimiter(',');
  s->add_option("--option", c->option, "the option shown");
  s->add_option("--beside", c->beside, "another option below it");
  s->add_option("--pixels", c->pixels, "of pictures, for each 1/96 inch (2)")->check(CLI::Range(0.25, 6.0));
  s->callback([c, &session] { session.exit = sheet(*c); });

  auto f = std::make_shared<FilmCall>();
  auto* m = app.add_subcommand("film", "Film of a day, of a year at one hour, or along saved views");
  m->add_option("project", f->project, "project file")->required();
  m->add_option("--out", f->out, ".mp4 or .webm (by ffmpeg), or a folder for PNG")->required();
  m->add_option("--option", f->option, "the option shown");
  m->add_option("--study", f->study, "study to paint, by name (none)");
  m->add_option("--view", f->view, "solid, plan, facade or sun");
  m->add_option("--size", f->size, "pixels, 1280x720");
  m->add_option("--date", f->date, "the day (the longest)");
  m->add_option("--from", f->from, "clock time of the first frame (4:00)");
  m->add_option("--to", f->to, "of the last (22:00)");
  m->add_option("--step", f->step, "minutes between frames (10)")->check(CLI::Range(0.1, 720.0));
  auto* year = m->add_flag("--year", f->year, "a year at one hour instead of a day");
  m->add_option("--at", f->at, "the hour of --year, or of views without a moment (12:00)");
  m->add_option("--every", f->every, "days between frames of --year (1)")->check(CLI::Range(1, 100));
  m->add_option("--along", f->along, "saved views in order, by name; * for all")->delimiter(',')->excludes(year);
  m->add_option("--frames", f->frames, "from one view to the next (48)")->check(CLI::Range(1, 5000));
  m->add_option("--per-second", f->perSecond, "frames a second (12)")->check(CLI::Range(1.0, 60.0));
  m->callback([f, &session] { session.exit = film(*f); });
}

} // namespace noonward::cli
