// Windows and balconies drawn on a facade: two corners on one wall, or one and a typed size.

#include "app/stage/stage.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include <QPainter>

namespace noonward {

std::optional<Opening> Stage::draftWindow(QPointF at) const {
  if (!wall_) return {};
  const Camera::Ray r = camera_.ray(at.x(), at.y(), width(), height());
  const double facing = dot(r.direction, wall_->normal);
  if (std::abs(facing) < 1e-6) return {};
  const Vec3 p = r.origin + r.direction * (dot(wall_->at - r.origin, wall_->normal) / facing);
  const Vec3 a = pointOnWall(document_.project(), wall_->wall, 0, 0),
             b = pointOnWall(document_.project(), wall_->wall, 1, 0);
  Vec2 to{dot(p - a, b - a), p.z - a.z};
  if (const auto size = sizeFromText(typed_.toStdString(), document_.project().units)) {
    const Vec2 d = to - wall_->from;
    to = wall_->from + Vec2{d.x < 0 ? -size->x : size->x, d.y < 0 ? -size->y : size->y};
  }
  return windowBetween(document_.project(), wall_->wall, wall_->from, to, 9 * camera_.metresPerPixel(height()));
}

void Stage::windowClick(QPointF at) {
  if (facadeDraft_) return markWindow(at);
  if (!wall_) {
    Vec3 where;
    const RayHit hit = pick(at, &where);
    const auto wall = hit.hit() ? wallBehind(document_.project(), where, hit.normal) : std::nullopt;
    if (!wall) { // a building without rooms: the window is marked as a spot to be judged
      const ElementPtr e = hit.hit() ? document_.project().element({hit.element}) : nullptr;
      const Box3 box = e ? boxOf(*e) : Box3{};
      const auto& rooms = document_.project().rooms;
      const bool inhabited =
          hit.hit() && (!e || std::any_of(rooms.begin(), rooms.end(), [&](const Room& r) {
            const Vec2 c = centroid(r.outline);
            return c.x > box.low.x - 1 && c.x < box.high.x + 1 && c.y > box.low.y - 1 && c.y < box.high.y + 1;
          }));
      if (inhabited)
        emit said("No room has a wall here that stands outdoors. Make rooms first; then click on their facade");
      else if (!beginOnFacade(at))
        emit said("A window lies in an upright face: click on one");
      else
        emit said("No room lies behind: the window becomes a sensor in its middle. Click its other corner, or type a "
                  "size such as 1.8x1.5");
      return update();
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
  if (placedOpenings(p).openings.size() <= before)
    emit document_.notice("The window lies over another, or is cut by the end of its wall: the findings say which.",
                          false);
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
  const auto px = [&](double u, double z) {
    return pixelOf(pointOnWall(document_.project(), wall_->wall, u, z) + shift).value_or(QPointF());
  };
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
  p.drawText(px(0.5 * (u0 + u1), z1) + QPointF(-40, -8),
             QString("%1 × %2, sill %3").arg(text(drawn->width), text(drawn->height), text(drawn->sill)));
}

// ---- balconies ----------------------------------------------------------------------------------------------------

namespace {
constexpr double usualDepth = 1.4; ///< m
} // namespace

double Stage::balconyDepth() const {
  const auto typed = lengthFromText(typed_.toStdString(), document_.project().units);
  return typed && *typed > 0.05 && *typed < 20 ? *typed : usualDepth;
}

std::optional<WallRectangle> Stage::draftBalcony(QPointF at) const {
  if (!facadeDraft_) return {};
  if (facadeDraft_->seen) return facadeDraft_->seen;
  const Camera::Ray r = camera_.ray(at.x(), at.y(), width(), height());
  const double facing = dot(r.direction, facadeDraft_->normal);
  if (std::abs(facing) < 1e-6) return {};
  const Vec3 p = r.origin + r.direction * (dot(facadeDraft_->at - r.origin, facadeDraft_->normal) / facing);
  const Vec3 right{-facadeDraft_->normal.y, facadeDraft_->normal.x, 0};
  const auto tidy = [](double v) { return std::round(v * 20) / 20; };
  const double u = tidy(dot(p - facadeDraft_->at, right)), low = tidy(std::min(p.z, facadeDraft_->at.z)),
               high = tidy(std::max(p.z, facadeDraft_->at.z));
  if (std::abs(u) < 0.1) return {};
  const Vec3 left = facadeDraft_->at + right * std::min(0.0, u);
  return WallRectangle{{left.x, left.y, low}, right, std::abs(u), high - low};
}

bool Stage::beginOnFacade(QPointF at) {
  Vec3 where;
  const RayHit hit = pick(at, &where);
  const Vec3 n = hit.hit() && dot(hit.normal, camera_.ray(at.x(), at.y(), width(), height()).direction) > 0
                     ? -hit.normal
                     : hit.normal;
  if (!hit.hit() || std::hypot(n.x, n.y) < 0.9) return false;
  const ElementPtr e = document_.project().element({hit.element});
  facadeDraft_ = FacadeDraft{where,
                             normalized(Vec3{n.x, n.y, 0}),
                             !e || e->proposed,
                             {},
                             e ? e->name : std::string()}; // walls of rooms are of the proposal
  return true;
}

/// The window between the first click and here as a sensor in its middle, in a group of its building's.
void Stage::markWindow(QPointF at) {
  auto seen = draftBalcony(at);
  if (const auto size = sizeFromText(typed_.toStdString(),
                                     document_.project().units)) { // to the side and the height the pointer is on
    const Vec3 right{-facadeDraft_->normal.y, facadeDraft_->normal.x, 0};
    const bool left = seen && dot(seen->corner - facadeDraft_->at, right) < -1e-6,
               below = seen && seen->corner.z < facadeDraft_->at.z - 0.02;
    const Vec3 c = facadeDraft_->at - right * (left ? size->x : 0) - Vec3{0, 0, below ? size->y : 0};
    seen = WallRectangle{c, right, size->x, size->y};
  }
  if (!seen || seen->height < 0.1) {
    emit said("This window would have no size. Click its other corner, or type a size such as 1.8x1.5");
    return;
  }
  const std::string group =
      "Windows of " + (facadeDraft_->building.empty() ? std::string("the model") : facadeDraft_->building);
  const PointSensor sensor{seen->corner + seen->right * (seen->width / 2) + Vec3{0, 0, seen->height / 2} +
                               facadeDraft_->normal * 0.02,
                           facadeDraft_->normal,
                           {}};
  Project p = document_.project();
  auto to = std::find_if(p.groups.begin(), p.groups.end(), [&](const SensorGroup& g) {
    return g.name == group && std::holds_alternative<std::vector<PointSensor>>(g.layout);
  });
  if (to == p.groups.end()) {
    SensorGroup fresh;
    fresh.id = GroupId::fresh();
    fresh.name = group;
    fresh.layout = std::vector<PointSensor>{};
    p.groups.push_back(std::move(fresh));
    to = p.groups.end() - 1;
  }
  auto& points = std::get<std::vector<PointSensor>>(to->layout);
  points.push_back(sensor);
  points.back().name = "Window " + std::to_string(points.size());
  const std::size_t n = points.size();
  facadeDraft_.reset();
  typed_.clear();
  document_.change(std::move(p), "Mark window");
  emit said(QString("%1 window%2 marked in \"%3\": choose that group in a study. Click the next one, or Escape")
                .arg(n)
                .arg(n == 1 ? "" : "s")
                .arg(QString::fromStdString(group)));
  update();
}

void Stage::balconyClick(QPointF at) {
  if (!facadeDraft_) {
    if (!beginOnFacade(at)) emit said("A balcony hangs on an upright face: click on one");
    return update();
  }
  if (facadeDraft_->seen) return finishBalcony();
  facadeDraft_->seen = draftBalcony(at);
  if (!facadeDraft_->seen)
    emit said("This balcony would have no width. Click its other corner");
  else
    emit said(QString("Type how far it stands out and Enter, or click: %1")
                  .arg(QString::fromStdString(lengthText(usualDepth, document_.project().units))));
  update();
}

void Stage::finishBalcony() {
  const FacadeDraft b = *facadeDraft_;
  std::vector<ElementId> made;
  Project p = withBalcony(document_.project(), *b.seen, balconyDepth(), b.proposed, &made);
  facadeDraft_.reset();
  typed_.clear();
  document_.change(std::move(p), "Draw balcony");
  document_.look([&](Looking& l) { l.selected = made; });
  emit said("Click two corners of the next balcony, or Escape");
  update();
}

void Stage::paintBalconyDraft(QPainter& p) {
  if ((tool_ != Tool::Balcony && tool_ != Tool::Window) || !facadeDraft_) return;
  const Theme& t = theme();
  p.setPen(QPen(t.noon, 1.6));
  const auto seen = draftBalcony(pointer_);
  if (!seen) {
    if (const auto q = pixelOf(facadeDraft_->at)) p.drawEllipse(*q, 4, 4);
    return;
  }
  QColor fill = t.noon;
  fill.setAlpha(50);
  p.setBrush(fill);
  const bool window = tool_ == Tool::Window;
  const Vec3 out = facadeDraft_->normal * (window ? 0.0 : balconyDepth()), right = seen->right * seen->width,
             up{0, 0, seen->height};
  const auto quad = [&](Vec3 a, Vec3 b, Vec3 c, Vec3 d) {
    QPolygonF polygon;
    for (const Vec3& v : {a, b, c, d})
      if (const auto q = pixelOf(v)) polygon << *q;
    p.drawPolygon(polygon);
  };
  const Vec3 o = seen->corner;
  if (!window) quad(o, o + right, o + right + out, o + out);
  quad(o + out, o + right + out, o + right + out + up, o + out + up);
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, document_.project().units)); };
  p.setFont(figureFont(10.5));
  p.setPen(t.ink);
  if (const auto q = pixelOf(o + right * 0.5 + out + up))
    p.drawText(*q + QPointF(-50, -8), QString("%1 wide, %2 high").arg(text(seen->width), text(seen->height)) +
                                          (window ? QString() : QString(", out %1").arg(text(balconyDepth()))));
}

} // namespace noonward
