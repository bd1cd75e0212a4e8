// Windows drawn on a facade: two corners on one wall, or one and a typed size.

#include "app/stage/stage.h"
#include "app/theme/style.h"
#include <QPainter>

namespace noonward {

std::optional<Opening> Stage::draftWindow(QPointF at) const {
  if (!wall_) return {};
  const Camera::Ray r = camera_.ray(at.x(), at.y(), width(), height());
  const double facing = dot(r.direction, wall_->normal);
  if (std::abs(facing) < 1e-6) return {};
  const Vec3 p = r.origin + r.direction * (dot(wall_->at - r.origin, wall_->normal) / facing);
  const Vec3 a = pointOnWall(document_.project(), wall_->wall, 0, 0), b = pointOnWall(document_.project(), wall_->wall, 1, 0);
  Vec2 to{dot(p - a, b - a), p.z - a.z};
  if (const auto size = sizeFromText(typed_.toStdString(), document_.project().units)) {
    const Vec2 d = to - wall_->from;
    to = wall_->from + Vec2{d.x < 0 ? -size->x : size->x, d.y < 0 ? -size->y : size->y};
  }
  return windowBetween(document_.project(), wall_->wall, wall_->from, to, 9 * camera_.metresPerPixel(height()));
}

void Stage::windowClick(QPointF at) {
  if (!wall_) {
    Vec3 where;
    const RayHit hit = pick(at, &where);
    const auto wall = hit.hit() ? wallBehind(document_.project(), where, hit.normal) : std::nullopt;
    if (!wall) {
      emit said("No room has a wall here that stands outdoors. Make rooms first; then click on their facade");
      return;
    }
    wall_ = WallDraft{*wall, where, normalized(Vec3{hit.normal.x, hit.normal.y, 0}), {wall->along, wall->height}};
    update();
    return;
  }
  auto drawn = draftWindow(at);
  if (!drawn) {
    emit said("This window would have no size. Click its other corner, or type a size such as 1.8x1.5");
    return;
  }
  Project p = document_.project();
  drawn->id = OpeningId::fresh();
  drawn->name = "Window " + std::to_string(p.openings.size() + 1);
  const OpeningId id = drawn->id;
  p.openings.push_back(std::move(*drawn));
  const std::size_t before = placedOpenings(document_.project()).openings.size();
  if (placedOpenings(p).openings.size() <= before) emit document_.notice("The window lies over another, or is cut by the end of its wall: the findings say which.", false);
  document_.change(std::move(p), "Draw window");
  document_.look([&](Looking& l) {
    l.opening = id;
    l.step = Step::Rooms;
  });
  wall_.reset();
  typed_.clear();
  update();
}

void Stage::paintWindowDraft(QPainter& p) {
  if (tool_ != Tool::Window || !wall_) return;
  const auto drawn = draftWindow(pointer_);
  const Theme& t = theme();
  const Vec3 shift = wall_->at - pointOnWall(document_.project(), wall_->wall, wall_->from.x, wall_->from.y);
  const auto px = [&](double u, double z) { return pixelOf(pointOnWall(document_.project(), wall_->wall, u, z) + shift).value_or(QPointF()); };
  p.setPen(QPen(t.noon, 1.6));
  QColor fill = t.noon;
  fill.setAlpha(50);
  p.setBrush(fill);
  if (!drawn) {
    p.drawEllipse(px(wall_->from.x, wall_->from.y), 4, 4);
    return;
  }
  const double u0 = drawn->along, u1 = u0 + drawn->width, z0 = drawn->sill, z1 = z0 + drawn->height;
  p.drawPolygon(QPolygonF({px(u0, z0), px(u1, z0), px(u1, z1), px(u0, z1)}));
  const LengthUnit unit = document_.project().units;
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, unit)); };
  p.setFont(figureFont(10.5));
  p.setPen(t.ink);
  p.drawText(px(0.5 * (u0 + u1), z1) + QPointF(-40, -8), QString("%1 × %2, sill %3").arg(text(drawn->width), text(drawn->height), text(drawn->sill)));
}

} // namespace noonward
