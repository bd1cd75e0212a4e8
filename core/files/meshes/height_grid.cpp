// ESRI ASCII grid: six lines of header (ncols, nrows, xllcorner or xllcenter, yllcorner or yllcenter, cellsize,
// NODATA_value), then rows of heights from the north.

#include "core/base/units.h"
#include "core/files/meshes/mesh_files.h"
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

struct Words {
  const char* at;
  const char* end;
  std::size_t line = 1;
  std::string_view next() {
    while (at < end && static_cast<unsigned char>(*at) <= ' ') line += *at++ == '\n';
    const char* from = at;
    while (at<end&& static_cast<unsigned char>(*at)> ' ') ++at;
    return {from, std::size_t(at - from)};
  }
};

std::optional<double> numberOf(std::string_view word) {
  double v = 0;
  const auto [stop, ec] = std::from_chars(word.data(), word.data() + word.size(), v);
  if (ec == std::errc{} && stop == word.data() + word.size()) return v;
  return numberFromText(std::string(word)); // decimal comma, plus sign
}

} // namespace

Expected<Model> parseHeightGrid(std::string_view text, const std::string& file) {
  Words w{text.data(), text.data() + text.size()};
  std::optional<double> columns, rows, x, y, cell, none;
  bool corner = true;
  std::string_view word;
  const auto place = [&] { return fmt::format("{}:{}", file, w.line); };
  for (;;) {
    const Words before = w;
    word = w.next();
    std::string key(word.substr(0, 20));
    for (char& c : key) c = char(std::tolower(static_cast<unsigned char>(c)));
    std::optional<double>* into = key == "ncols"                             ? &columns
                                  : key == "nrows"                           ? &rows
                                  : key == "xllcorner" || key == "xllcenter" ? &x
                                  : key == "yllcorner" || key == "yllcenter" ? &y
                                  : key == "cellsize"                        ? &cell
                                  : key == "nodata_value"                    ? &none
                                                                             : nullptr;
    if (!into) {
      w = before;
      break;
    }
    if (key == "xllcenter") corner = false;
    *into = numberOf(w.next());
    if (!*into || (into != &none && !std::isfinite(**into))) // some grids mark gaps by "nan"
      return fail(fmt::format("A number is expected behind \"{}\".", key), place());
  }
  if (!columns || !rows || !cell)
    return fail("This is no grid of heights: ncols, nrows and cellsize must stand at its head.", file);
  if (!(*columns >= 2 && *rows >= 2 && *columns <= 1e5 && *rows <= 1e5 && *cell > 0 && std::isfinite(*cell)))
    return fail(fmt::format("A grid of {:g} × {:g} cells of {:g} can't be read.", *columns, *rows, *cell), file);
  const auto nx = std::size_t(*columns), ny = std::size_t(*rows);
  if (text.size() < nx * ny * 2 - 1)
    return fail(fmt::format("The grid ends early: {} × {} heights are announced.", nx, ny), file);
  // A million cells is what a stage and a study carry with ease; finer grids are read at every second, third … cell.
  std::size_t step = 1;
  while ((nx / step) * (ny / step) > 1000000) ++step;
  const std::size_t mx = (nx + step - 1) / step, my = (ny + step - 1) / step;
  std::vector<double> heights(mx * my, std::nan(""));
  std::size_t missing = 0;
  for (std::size_t j = 0; j < ny; ++j)
    for (std::size_t i = 0; i < nx; ++i) {
      word = w.next();
      if (word.empty())
        return fail(fmt::format("The grid ends early: {} heights of {} are there.", j * nx + i, nx * ny), place());
      const auto v = numberOf(word);
      if (!v || !std::isfinite(*v))
        return fail(fmt::format("\"{}\" is no height.", std::string(word.substr(0, 30))), place());
      const bool there = !none || *v != *none;
      missing += !there;
      if (there && i % step == 0 && j % step == 0) heights[j / step * mx + i / step] = *v;
    }
  Model model;
  model.file = file;
  model.statedUnit = LengthUnit::Metre;
  model.statedZUp = true;
  ModelPart part{"terrain", {}, {}, Role::Ground};
  std::vector<std::uint32_t> place2(mx * my, UINT32_MAX);
  const double half = corner ? 0.5 * *cell : 0;
  for (std::size_t j = 0; j < my; ++j)
    for (std::size_t i = 0; i < mx; ++i)
      if (const double h = heights[j * mx + i]; !std::isnan(h)) {
        place2[j * mx + i] = std::uint32_t(part.mesh.points.size());
        part.mesh.points.push_back({x.value_or(0) + half + double(i * step) * *cell,
                                    y.value_or(0) + half + double(ny - 1 - j * step) * *cell, h});
      }
  for (std::size_t j = 0; j + 1 < my; ++j)
    for (std::size_t i = 0; i + 1 < mx; ++i) {
      const std::uint32_t nw = place2[j * mx + i], ne = place2[j * mx + i + 1], sw = place2[(j + 1) * mx + i],
                          se = place2[(j + 1) * mx + i + 1];
      if (sw != UINT32_MAX && ne != UINT32_MAX) {
        if (se != UINT32_MAX) part.mesh.triangles.push_back({sw, se, ne});
        if (nw != UINT32_MAX) part.mesh.triangles.push_back({sw, ne, nw});
      }
    }
  if (part.mesh.triangles.empty()) return fail("The grid has no two heights beside each other.", file);
  part.mesh.face.assign(part.mesh.triangles.size(), 0);
  if (step > 1) model.notes.push_back(fmt::format("Of {} × {} heights one in {} was taken each way.", nx, ny, step));
  if (missing > 0) model.notes.push_back(fmt::format("{} cells have no height and stay open.", missing));
  model.parts.push_back(std::move(part));
  return model;
}

} // namespace noonward
