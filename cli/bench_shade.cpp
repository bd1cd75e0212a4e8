// Speed of designing shade: sizing a part, the glass in sun of many windows, a facade sheet, a film.

#include "cli/bench.h"
#include "core/files/library.h"
#include "core/files/project/project_file.h"
#include "core/studies/shade.h"
#include "picture/facade_sheet.h"
#include "picture/film.h"
#include <filesystem>

namespace noonward::cli {

namespace {
/// A block of 10 storeys and 30 rooms each, a window and an overhang each: 300 windows to the south.
Project manyWindows() {
  Project p;
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  Element e;
  e.id = {1};
  e.name = "Block";
  e.shape = Mass{rectangle(0, 0, 120, 12), 0, 32, 10};
  p.elements.push_back(std::make_shared<const Element>(e));
  for (int s = 0; s < 10; ++s)
    for (int k = 0; k < 30; ++k) {
      Room r;
      r.id = {std::uint64_t(1000 + 100 * s + k)};
      r.name = "Room " + std::to_string(s) + "." + std::to_string(k);
      r.outline = rectangle(0.3 + 4 * k, 0.3, 3.9 + 4 * k, 6);
      r.floor = 3.2 * s;
      r.height = 2.8;
      p.rooms.push_back(r);
    }
  WindowRule w;
  w.id = {2};
  w.facings = {Facing::South};
  w.ratio = 0.4;
  p.windowRules.push_back(w);
  ShadeRule o;
  o.id = {3};
  o.name = "Overhang";
  o.facings = {Facing::South};
  p.shadeRules.push_back(o);
  return p;
}
} // namespace

std::vector<Measured> shadeSpeed() {
  const Project many = manyWindows();
  std::vector<Measured> out;
  const std::size_t windows = placedOpenings(many).openings.size();
  out.push_back({"shade-shares-300",
                 seconds([&] {
                   (void)glassInSun(many, {many.site.year, 6, 21});
                 }) * 300 /
                     std::max<double>(1, double(windows)),
                 "s, 300 windows a day", 1, false});
  const OpeningId one = placedOpenings(many).openings.at(150).opening.id;
  out.push_back({"shade-size", seconds([&] { (void)sizeShade(many, {.rule = {3}, .goal = 0.8, .windows = {one}}); }),
                 "s a window", 2, false});
  std::error_code ignored;
  const auto self = std::filesystem::read_symlink("/proc/self/exe", ignored);
  const auto demo = readProject(resourcesFolder(self).parent_path() / "demo" / "ropewalk-quay.noonward");
  if (!demo) return out;
  RunControl control;
  SheetRequest sheet;
  sheet.sides = {Facing::South, Facing::East};
  sheet.minutes.clear();
  for (int h = 8; h < 20; ++h) sheet.minutes.push_back(h * 60);
  const auto folder = std::filesystem::temp_directory_path() / "noonward-bench-shade";
  std::filesystem::create_directories(folder, ignored);
  out.push_back({"sheet-72", seconds([&] {
                   if (const auto made = makeFacadeSheet(demo->project, sheet, control))
                     (void)writeFacadeSheet(*made, folder / "sheet.pdf");
                 }),
                 "s, 72 pictures", 10, false});
  FilmRequest film;
  film.picture.study = "-";
  film.picture.width = 1280;
  film.picture.height = 720;
  film.frames = dayFrames(demo->project.zone(), {demo->project.site.year, 6, 21}, 300, 317.5, 0.5);
  const double frames = double(film.frames.size());
  out.push_back({"film-144",
                 seconds([&] { (void)writeFilm(demo->project, film, folder / "frames", control); }) * 144 / frames,
                 "s, 144 frames as PNG", 60, false});
  std::filesystem::remove_all(folder, ignored);
  return out;
}

} // namespace noonward::cli
