#include "cli/demo_pictures.h"
#include "core/files/cities/reference_system.h"
#include "core/light/scene.h"
#include "core/model/form/edit.h"
#include "picture/picture_export.h"
#include "picture/ray_picture.h"
#include <QBuffer>
#include <QPainter>
#include <fmt/format.h>
#include <numbers>

namespace noonward::cli {

namespace {

Outcome keep(const QImage& image, const char* format, const std::filesystem::path& file) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  if (!image.save(&buffer, format, 82)) return fail("The picture could not be made.", file.filename().string());
  return saveFile(file, std::string_view(bytes.constData(), std::size_t(bytes.size())));
}

/// The flats with the windows and balconies that their massing lacks, from the square, a little from the side.
QImage photographOfTheFlats(Project p) {
  const double x = -40, south = -24, bay = 5.75, storey = 3.2;
  std::vector<ElementId> glass;
  for (int s = 0; s < 5; ++s)
    for (int b = 0; b < 8; ++b) {
      const double y = south + bay * (b + 0.5), foot = storey * s, width = b % 2 ? 2.4 : 1.6,
                   sill = b % 2 && s > 0 ? 0.1 : 0.9;
      Element e;
      e.id = {derivedId("photograph/" + std::to_string(s * 8 + b))};
      e.name = "window";
      e.role = Role::Wall; // rays pass glass
      e.shape = Plate{{{x + 0.03, y - width / 2, foot + sill},
                       {x + 0.03, y + width / 2, foot + sill},
                       {x + 0.03, y + width / 2, foot + 2.5},
                       {x + 0.03, y - width / 2, foot + 2.5}}};
      glass.push_back(e.id);
      p = withElement(std::move(p), std::move(e));
      if (b % 2 && s > 0)
        p = withBalcony(std::move(p), {{x, y - 1.6, foot - 0.1}, {0, 1, 0}, 3.2, 1.2}, 1.4,
                        false); // seen from the east, north is right
    }
  RayPictureInput in;
  in.scene = shownScene(p.elements);
  in.camera.perspective = true;
  in.camera.target = {x, -1, 7.2};
  in.camera.azimuth = radians(68);
  in.camera.altitude = radians(-5);
  in.camera.height = 36;
  in.sun = normalized(Vec3{0.55, -0.5, 0.62});
  in.leftOut = glass; // told apart by tint
  RunControl control;
  return rayPicture(in, Theme::light(), 1400, 860, 3, control);
}

/// The library's ground floor as a paper plan that lay crooked on the scanner: 40 px a metre, turned by 3.5°.
QImage scanOfThePlan(const Project& p) {
  constexpr double perMetre = 40;
  QImage image(1500, 1050, QImage::Format_RGB32);
  image.fill(QColor(244, 240, 230));
  QPainter q(&image);
  q.setRenderHint(QPainter::Antialiasing, true);
  q.translate(image.width() / 2.0, image.height() / 2.0);
  q.rotate(-3.5);
  const auto at = [&](Vec2 v) { return QPointF((v.x + 19) * perMetre, -(v.y - 36) * perMetre); };
  const QColor ink(70, 66, 60);
  for (const ElementPtr& e : p.elements)
    if (e->name == "Branch library") {
      QPolygonF walls;
      for (Vec2 v : e->mass()->outline.outer) walls << at(v);
      q.setPen(QPen(ink, 2));
      q.setBrush(QColor(176, 168, 154));
      q.drawPolygon(walls);
    }
  q.setFont(QFont("Inter", 12));
  for (const Room& r : p.rooms) {
    if (r.floor > 1) continue;
    QPolygonF room;
    for (Vec2 v : r.outline.outer) room << at(v);
    q.setPen(QPen(ink, 1.5));
    q.setBrush(QColor(250, 248, 242));
    q.drawPolygon(room);
    q.setPen(ink);
    q.drawText(room.boundingRect(), Qt::AlignCenter, QString::fromStdString(r.name));
  }
  // The one figure on it that can be trusted.
  const QPointF a = at({-34, 25.4}), b = at({-4, 25.4});
  q.setPen(QPen(ink, 1.5));
  q.drawLine(a, b);
  for (const QPointF& end : {a, b})
    q.drawLine(end + QPointF(-6, 6), end + QPointF(6, -6)), q.drawLine(end + QPointF(0, -14), end + QPointF(0, 10));
  q.drawText(QRectF(a + QPointF(0, 4), b + QPointF(0, 34)), Qt::AlignCenter, "30.00");
  q.end();
  return image;
}

/// The quarter from above at noon in May, north up: as if flown, laid by a world file.
struct Aerial {
  QImage image;
  std::string world, system;
};
Expected<Aerial> aerialOf(const Project& quarter) {
  constexpr int side = 1600;
  constexpr double metres = 1200;
  Box3 box;
  for (const ElementPtr& e : quarter.elements)
    if (e->role == Role::Ground) box.addBox(boxOf(*e));
  if (box.empty()) return fail("The quarter has no ground.");
  RayPictureInput in;
  std::vector<ElementPtr> there = quarter.elements; // flown before anything was built
  std::erase_if(there, [](const ElementPtr& e) { return e->proposed; });
  in.scene = shownScene(there);
  in.camera.kind = ViewKind::Plan;
  in.camera.azimuth = std::numbers::pi;
  in.camera.altitude = std::numbers::pi / 2;
  in.camera.target = box.center();
  in.camera.height = metres;
  in.sun = normalized(Vec3{0.12, -0.75, 1});
  const std::array<const char*, 6> roofs{"#A8674C", "#9C5B45", "#B27B5E", "#8F8A80", "#6F6A66", "#A39A88"};
  for (const ElementPtr& e : quarter.elements) {
    const bool green = e->role == Role::Planting, ground = e->role == Role::Ground;
    in.coloured.emplace_back(e->id, green    ? "#5E7A4A"
                                    : ground ? "#A9B08C"
                                             : roofs[std::size_t(e->id.value % roofs.size())]);
  }
  RunControl control;
  Aerial out{rayPicture(in, Theme::light(), side, side, 3, control), {}, "EPSG:25832"};
  if (out.image.isNull()) return fail("The quarter could not be drawn from above.");
  const double pixel = metres / side;
  out.world = fmt::format("{0:.6f}\n0.000000\n0.000000\n{1:.6f}\n{2:.4f}\n{3:.4f}\n", pixel, -pixel,
                          quarter.site.origin.x + in.camera.target.x - metres / 2 + pixel / 2,
                          quarter.site.origin.y + in.camera.target.y + metres / 2 - pixel / 2);
  return out;
}

} // namespace

Outcome writeDemoPictures(const Project& project, const Project& quarter, const std::filesystem::path& folder) {
  const PaintingWithoutWindow painting; // for the text on the plan
  if (const Outcome o = keep(photographOfTheFlats(project), "JPEG", folder / "ropewalk-flats.jpg"); !o) return o;
  if (const Outcome o = keep(scanOfThePlan(project), "PNG", folder / "library-plan.png"); !o) return o;
  const auto aerial = aerialOf(quarter);
  if (!aerial) return tl::unexpected(aerial.error());
  if (const Outcome o = keep(aerial->image, "JPEG", folder / "brevholm-aerial.jpg"); !o) return o;
  if (const Outcome o = saveFile(folder / "brevholm-aerial.jgw", aerial->world); !o) return o;
  return saveFile(folder / "brevholm-aerial.prj", prjOf(aerial->system));
}

} // namespace noonward::cli
