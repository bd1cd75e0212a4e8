#include "picture/facade_sheet.h"
#include "core/files/save_file.h"
#include "core/model/form/edit.h"
#include "core/model/form/layers.h"
#include "core/model/options.h"
#include "core/model/rooms/placing.h"
#include "core/studies/model_parts.h"
#include "core/sun/sun_path.h"
#include "picture/paper.h"
#include "picture/picture_export.h"
#include "picture/ray_picture.h"
#include <QBuffer>
#include <QPainter>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

constexpr double marginPoints = 40, headPoints = 76, footPoints = 34, captionPoints = 16, rowHead = 20, gapPoints = 10;

std::string sideTitle(Facing f) {
  std::string s = facingKey(f);
  s[0] = char(std::toupper(s[0]));
  return s + " side";
}

/// A side of the buildings: which way its wall faces, and what of the model it shows.
struct Side {
  Facing facing = Facing::South;
  double azimuth = 0; ///< rad, of the outward normal in the drawing
  Box3 box;           ///< of the buildings: across, up and out, in the side's own axes
};

std::vector<ElementId> buildingsOf(const Project& p, const std::vector<ElementId>& asked) {
  std::vector<ElementId> out;
  const auto take = [&](const auto& test) {
    for (const ElementPtr& e : p.elements)
      if (standsInTheLight(*e, true) && e->role == Role::Building && test(*e)) out.push_back(e->id);
  };
  if (!asked.empty()) return asked;
  const OpeningLayout layout = placedOpenings(p);
  take([&](const Element& e) { // those whose windows are known
    return std::any_of(layout.openings.begin(), layout.openings.end(),
                       [&](const PlacedOpening& o) { return o.mass == e.id.value; });
  });
  if (out.empty()) take([](const Element& e) { return e.proposed; });
  if (out.empty()) take([](const Element&) { return true; });
  return out;
}

/// The wall that most of a side is: sides of turned buildings are seen square on too.
std::vector<Side> sidesOf(const Project& p, const std::vector<ElementId>& buildings) {
  std::map<Facing, std::map<int, double>> area; // by degree
  std::vector<Vec3> points;
  for (ElementId id : buildings) {
    const ElementPtr e = p.element(id);
    if (!e) continue;
    const auto mesh = elementMesh(*e);
    if (!mesh) continue;
    points.insert(points.end(), (*mesh)->points.begin(), (*mesh)->points.end());
    for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) {
      const Vec3 n = (*mesh)->areaVector(t);
      if (std::abs(n.z) > 0.3 * length(n)) continue;
      if (const auto f = facingOf(n, p.site.northAngle))
        area[*f][int(std::lround(degrees(wrapTwoPi(std::atan2(n.x, n.y))) * 2)) % 720] += length(n);
    }
  }
  std::vector<Side> out;
  for (const Facing f : allFacings) {
    const auto at = area.find(f);
    if (at == area.end()) continue;
    const auto most = std::max_element(at->second.begin(), at->second.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    Side s;
    s.facing = f;
    s.azimuth = radians(most->first / 2.0);
    const Vec3 outward{std::sin(s.azimuth), std::cos(s.azimuth), 0}, across{-outward.y, outward.x, 0};
    for (const Vec3& q : points) s.box.add({dot(q, across), q.z, dot(q, outward)});
    out.push_back(s);
  }
  return out;
}

/// What stands for all hours of one option.
struct Standing {
  Project project;
  RayPictureInput picture;
  OpeningLayout layout;
};
Standing standingOf(Project p) {
  Standing s;
  s.layout = placedOpenings(p);
  const Project seen = withFittings(p);
  s.picture.scene = shownScene(seen.elements);
  s.picture.casters = buildScene(p);
  s.picture.groundLevel = p.site.groundLevel;
  for (const ElementPtr& e : seen.elements) {
    if (e->proposed) s.picture.proposed.push_back(e->id);
    if (const std::string own = layerColour(p, e->layer); !own.empty()) s.picture.coloured.emplace_back(e->id, own);
  }
  s.project = std::move(p);
  return s;
}

/// The most columns' width that a page has room for.
void layOut(FacadeSheet& sheet, const std::vector<Side>& sides, std::size_t hours, std::size_t rows) {
  double across = 0, tall = 0;
  for (const Side& s : sides) {
    across = std::max(across, s.box.size().x);
    tall = std::max(tall, s.box.size().y);
  }
  across = across * 1.12 + 1; // a rim of ground and sky
  tall = tall * 1.16 + 1;
  const QSizeF paper = sheetPaper();
  const double width = paper.width() - 2 * marginPoints,
               height = paper.height() - headPoints - footPoints - 2 * marginPoints;
  double best = 0;
  for (std::size_t columns = 1; columns <= hours; ++columns) {
    const std::size_t lines = (hours + columns - 1) / columns;
    const double w = (width - gapPoints * double(columns - 1)) / double(columns);
    const double h = (height / double(rows) - rowHead) / double(lines) - captionPoints - gapPoints;
    const double scale = std::min(w / across, h / tall); // points a metre
    if (scale > best) {
      best = scale;
      sheet.columns = columns;
    }
  }
  best = std::max(best, 0.2);
  sheet.metresPerPoint = 1 / best;
  sheet.cell = QSizeF(across * best, tall * best);
}

std::string fileWord(std::string text) {
  for (char& c : text)
    if (!std::isalnum(static_cast<unsigned char>(c))) c = '-';
  return text;
}

} // namespace

std::string SheetCell::text() const {
  if (!up) return clock + " · sun down";
  if (!front) return clock + " · sun behind";
  if (!shaded) return clock;
  return fmt::format("{} · {:.0f} % of the glass in shade", clock, 100 * *shaded);
}

QSizeF sheetPaper() {
  return {1587.4, 1122.5};
}

Expected<FacadeSheet> makeFacadeSheet(const Project& project, const SheetRequest& r, RunControl& control) {
  const auto zone = Zone::named(project.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  std::vector<Date> dates = r.dates;
  const int year = project.site.year;
  if (dates.empty()) {
    dates = {{year, 6, 21}, {year, 3, 21}, {year, 12, 21}};
    if (project.site.place.latitude < 0) std::swap(dates[0], dates[2]);
  }
  std::vector<double> minutes = r.minutes;
  if (minutes.empty()) minutes = {480, 600, 720, 840, 960, 1080};
  for (const double m : minutes)
    if (!(m >= 0) || m >= 1440) return fail("Hours of a sheet run from 0:00 to 23:59.");
  for (const Date d : dates)
    if (!exists(d)) return fail("There is no such day.");
  if (dates.size() * minutes.size() > 400) return fail("A sheet holds at most 400 pictures a side.");
  std::vector<Standing> options;
  std::vector<std::string> names;
  if (r.beside.empty()) {
    options.push_back(standingOf(project));
    names.emplace_back();
  }
  for (const std::size_t k : r.beside) {
    if (k >= project.options.size()) return fail("There is no such option.");
    options.push_back(standingOf(withOption(project, k)));
    names.push_back(project.options[k].name);
  }
  const std::vector<ElementId> buildings = buildingsOf(options[0].project, r.of);
  std::vector<Side> sides = sidesOf(options[0].project, buildings);
  for (const Standing& s : options) // the one that reaches farthest decides on the scale
    for (const Side& other : sidesOf(s.project, buildings))
      for (Side& side : sides)
        if (side.facing == other.facing) side.box.addBox(other.box);
  if (!r.sides.empty())
    std::erase_if(sides,
                  [&](const Side& s) { return std::find(r.sides.begin(), r.sides.end(), s.facing) == r.sides.end(); });
  if (sides.empty()) return fail("There is no building with a wall on these sides.");
  FacadeSheet sheet;
  sheet.project = project.name;
  sheet.line = fmt::format("{}{}, north {:.1f}°, {}", project.site.name.empty() ? "" : project.site.name + ", ",
                           placeText(project.site.place), degrees(wrapPi(project.site.northAngle)), project.site.zone);
  Hasher hash;
  hash.add("facade sheet 1");
  for (const Standing& s : options) hashGeometry(hash, s.project);
  sheet.fingerprint = hash.digest().fingerprint();
  layOut(sheet, sides, minutes.size(), dates.size() * options.size());
  const int width = std::max(16, int(std::lround(sheet.cell.width() * r.pixels))),
            height = std::max(16, int(std::lround(sheet.cell.height() * r.pixels)));
  if (double(width) * height * double(dates.size() * minutes.size() * sides.size() * options.size()) > 1.5e9)
    return fail("This sheet would be too large: fewer hours, or fewer pixels.");
  const Theme theme = paperTheme();
  const double all = double(sides.size() * options.size() * dates.size() * minutes.size());
  double done = 0;
  for (const Side& side : sides) {
    SheetPage page;
    page.side = side.facing;
    page.title = sideTitle(side.facing);
    const Vec3 outward{std::sin(side.azimuth), std::cos(side.azimuth), 0}, across{-outward.y, outward.x, 0};
    for (const Date date : dates)
      for (std::size_t k = 0; k < options.size(); ++k) {
        Standing& standing = options[k];
        std::vector<OpeningId> windows;
        double glass = 0, deepest = 0;
        for (const PlacedOpening& o : standing.layout.openings) {
          if (o.facing != side.facing) continue;
          const bool own = o.mass == 0 ? r.of.empty()
                                       : std::any_of(buildings.begin(), buildings.end(),
                                                     [&](ElementId id) { return id.value == o.mass; });
          if (!own) continue;
          windows.push_back(o.opening.id);
          glass += o.area();
        }
        for (const ShadeRule& s : standing.project.shadeRules) deepest = std::max(deepest, s.depth + s.standOff);
        page.glass = std::max(page.glass, glass);
        SheetRow row;
        row.label = dayText(date) + (names[k].empty() ? "" : " · " + names[k]);
        row.option = names[k];
        std::vector<Instant> moments;
        for (const double m : minutes) moments.push_back(zone->instant({date, m * 60}));
        std::vector<double> shares;
        if (!windows.empty()) {
          const auto lit = glassShares(standing.project, moments, windows);
          if (!lit) return tl::unexpected(lit.error());
          for (std::size_t i = 0; i < moments.size(); ++i) {
            double sum = 0, area = 0;
            for (const GlassShares& w : *lit) {
              sum += w.area * double(w.share[i]);
              area += w.area;
            }
            shares.push_back(area > 0 ? sum / area : 0);
          }
        }
        Camera camera;
        camera.kind = ViewKind::Facade;
        camera.azimuth = wrapTwoPi(side.azimuth);
        camera.altitude = 0;
        camera.fromTarget = true; // what stands before the side hides nothing of it, and casts its shade all the same
        camera.height = sheet.cell.height() * sheet.metresPerPoint;
        const Vec3 middle = side.box.center();
        camera.target = across * middle.x + outward * (side.box.high.z + deepest + 1) + Vec3{0, 0, 1} * middle.y;
        for (std::size_t i = 0; i < moments.size(); ++i) {
          SheetCell cell;
          cell.moment = moments[i];
          cell.date = dayText(date);
          cell.clock = clockText(minutes[i]);
          const int minute = int(std::lround(minutes[i]));
          cell.stamp = fmt::format("{}-{:02}{:02}", isoText(date), minute / 60, minute % 60);
          const Vec3 sun = sunDirection(standing.project, moments[i]);
          cell.up = sun.z > 0;
          cell.front = cell.up && dot(sun, outward) > 0;
          if (cell.front && !shares.empty()) cell.shaded = 1 - shares[i];
          RayPictureInput in = standing.picture;
          in.camera = camera;
          if (cell.up) in.sun = sun;
          RunControl quiet;
          quiet.wish = control.wish.load();
          cell.image = rayPicture(in, theme, width, height, 2, quiet);
          if (cell.image.isNull() || !control.goesOn()) return fail("The sheet was stopped.");
          row.cells.push_back(std::move(cell));
          if (control.progress) control.progress(++done / all);
        }
        page.rows.push_back(std::move(row));
      }
    sheet.pages.push_back(std::move(page));
  }
  return sheet;
}

void paintSheetPage(QPainter& p, const FacadeSheet& sheet, std::size_t number, const Theme& t) {
  const SheetPage& page = sheet.pages.at(number);
  const QSizeF paper = sheetPaper();
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setRenderHint(QPainter::SmoothPixmapTransform, true);
  p.fillRect(QRectF(QPointF(0, 0), paper), t.paper);
  const double left = marginPoints, right = paper.width() - marginPoints;
  p.setPen(t.ink);
  p.setFont(titleFont(26));
  p.drawText(QRectF(left, 30, right - left, 34), Qt::AlignLeft | Qt::AlignVCenter,
             QString::fromStdString(sheet.project + " · " + page.title));
  p.setFont(textFont(13));
  p.setPen(t.muted);
  p.drawText(QRectF(left, 66, right - left, 20), Qt::AlignLeft | Qt::AlignVCenter,
             QString::fromStdString(sheet.line + (page.glass > 0 ? fmt::format(" · {:.1f} m² of glass", page.glass)
                                                                 : " · no glass on this side")));
  double y = marginPoints + headPoints;
  for (const SheetRow& row : page.rows) {
    p.setPen(t.ink);
    p.setFont(titleFont(15));
    p.drawText(QRectF(left, y - 2, right - left, rowHead), Qt::AlignLeft | Qt::AlignVCenter,
               QString::fromStdString(row.label));
    y += rowHead;
    for (std::size_t i = 0; i < row.cells.size(); ++i) {
      const SheetCell& cell = row.cells[i];
      const std::size_t column = i % sheet.columns;
      const double step = (right - left - sheet.cell.width()) / std::max(1.0, double(sheet.columns) - 1);
      const double x = left + double(column) * step;
      const QRectF frame(QPointF(x, y), sheet.cell);
      p.drawImage(frame, cell.image);
      p.setPen(QPen(t.rule, 0.8));
      p.setBrush(Qt::NoBrush);
      p.drawRect(frame);
      p.setFont(figureFont(10.5));
      p.setPen(t.ink);
      const QFontMetricsF metrics(p.font());
      QString text = QString::fromStdString(cell.text());
      if (metrics.horizontalAdvance(text) > frame.width()) text.replace(" % of the glass in shade", " % shaded");
      p.drawText(QRectF(x, frame.bottom() + 1, frame.width() + gapPoints, captionPoints),
                 Qt::AlignLeft | Qt::AlignVCenter, text);
      if (column + 1 == sheet.columns || i + 1 == row.cells.size())
        y += sheet.cell.height() + captionPoints + gapPoints;
    }
  }
  // Scale bar and what the page was made from.
  const double foot = paper.height() - marginPoints;
  double bar = 1;
  for (const double m : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0})
    if (m / sheet.metresPerPoint <= 160) bar = m;
  p.setPen(QPen(t.ink, 1.4));
  const double barWidth = bar / sheet.metresPerPoint;
  p.drawLine(QPointF(left, foot - 6), QPointF(left + barWidth, foot - 6));
  p.drawLine(QPointF(left, foot - 10), QPointF(left, foot - 2));
  p.drawLine(QPointF(left + barWidth, foot - 10), QPointF(left + barWidth, foot - 2));
  p.setFont(figureFont(10.5));
  p.drawText(QRectF(left + barWidth + 8, foot - 14, 400, 16), Qt::AlignLeft | Qt::AlignVCenter,
             QString("%1 m · 1 : %2 on A3").arg(bar).arg(std::round(sheet.metresPerPoint * 96 / 0.0254)));
  p.setPen(t.muted);
  p.drawText(QRectF(right - 700, foot - 14, 700, 16), Qt::AlignRight | Qt::AlignVCenter,
             QString("parallel projection, square on the wall; nothing before it is drawn, all of it casts shade · "
                     "fingerprint %1 · page %2 of %3")
                 .arg(QString::fromStdString(sheet.fingerprint))
                 .arg(number + 1)
                 .arg(sheet.pages.size()));
  p.restore();
}

Outcome writeFacadeSheet(const FacadeSheet& sheet, const std::filesystem::path& file) {
  const PaintingWithoutWindow application;
  const Theme theme = paperTheme();
  const QString title = QString::fromStdString(sheet.project) + " · facades";
  std::vector<std::function<void(QPainter&)>> pages;
  for (std::size_t k = 0; k < sheet.pages.size(); ++k)
    pages.push_back([&sheet, &theme, k](QPainter& p) { paintSheetPage(p, sheet, k, theme); });
  if (file.extension() == ".pdf" || pages.size() == 1) return writePaper(file, {sheetPaper(), title}, pages);
  for (std::size_t k = 0; k < pages.size(); ++k) {
    std::filesystem::path own = file;
    own.replace_filename(file.stem().string() + "-" + facingKey(sheet.pages[k].side) + file.extension().string());
    if (Outcome o = writePaper(own, {sheetPaper(), title}, {pages[k]}); !o) return o;
  }
  return {};
}

Expected<std::size_t> writeSheetPictures(const FacadeSheet& sheet, const std::filesystem::path& folder) {
  const PaintingWithoutWindow application;
  const Theme theme = paperTheme();
  std::error_code failed;
  std::filesystem::create_directories(folder, failed);
  std::size_t count = 0;
  for (const SheetPage& page : sheet.pages)
    for (const SheetRow& row : page.rows)
      for (const SheetCell& cell : row.cells) {
        const QSizeF size(sheet.cell.width(), sheet.cell.height() + 44);
        const std::string option = row.option.empty() ? "" : "-" + fileWord(row.option);
        const auto file = folder / fmt::format("{}{}-{}.png", facingKey(page.side), option, cell.stamp);
        const QString title = QString::fromStdString(sheet.project + " · " + page.title);
        const Outcome o = writePaper(
            file, {size, title, 2}, {[&](QPainter& p) {
              p.setRenderHint(QPainter::SmoothPixmapTransform, true);
              p.fillRect(QRectF(QPointF(0, 0), size), theme.paper);
              p.drawImage(QRectF(QPointF(0, 0), sheet.cell), cell.image);
              p.setPen(theme.ink);
              p.setFont(textFont(11, true));
              p.drawText(QRectF(4, sheet.cell.height() + 2, size.width() - 8, 15), Qt::AlignLeft | Qt::AlignVCenter,
                         title + QString::fromStdString(option.empty() ? "" : " · " + row.option));
              p.setFont(figureFont(10));
              p.drawText(QRectF(4, sheet.cell.height() + 16, size.width() - 8, 14), Qt::AlignLeft | Qt::AlignVCenter,
                         QString::fromStdString(cell.date + " " + cell.text()));
              p.setPen(theme.muted);
              p.drawText(QRectF(4, sheet.cell.height() + 29, size.width() - 8, 14), Qt::AlignLeft | Qt::AlignVCenter,
                         QString::fromStdString(sheet.line + " · " + sheet.fingerprint));
            }});
        if (!o) return tl::unexpected(o.error());
        ++count;
      }
  return count;
}

} // namespace noonward
