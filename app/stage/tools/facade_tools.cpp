// Windows and balconies drawn on a facade: two corners on one wall, or one and a typed size.

#include "app/stage/tools/tools.h"
#include "app/theme/style.h"
#include "core/light/scene.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/walls.h"
#include <QMouseEvent>
#include <QPainter>

namespace noonward {

// ---- on an upright face ---------------------------------------------------------------------------------------------

bool FacadeTool::begin(QPointF at) {
  Vec3 where;
  const RayHit hit = pick(at, &where);
  const Vec3 n = hit.hit() && dot(hit.normal, ray(at).direction) > 0 ? -hit.normal : hit.normal;
  if (!hit.hit() || std::hypot(n.x, n.y) < 0.9) return false;
  const ElementPtr e = project().element({hit.element});
  facade_ = Draft{where,
                  normalized(Vec3{n.x, n.y, 0}),
                  !e || e->proposed,
                  {},
                  e ? e->name : std::string()}; // walls of rooms are of the proposal
  return true;
}

std::optional<WallRectangle> FacadeTool::rectangleTo(QPointF at) const {
  if (!facade_) return {};
  if (facade_->seen) return facade_->seen;
  const Camera::Ray r = ray(at);
  const double facing = dot(r.direction, facade_->normal);
  if (std::abs(facing) < 1e-6) return {};
  const Vec3 p = r.origin + r.direction * (dot(facade_->at - r.origin, facade_->normal) / facing);
  const Vec3 right{-facade_->normal.y, facade_->normal.x, 0};
  const auto tidy = [](double v) { return std::round(v * 20) / 20; };
  const double u = tidy(dot(p - facade_->at, right)), low = tidy(std::min(p.z, facade_->at.z)),
               high = tidy(std::max(p.z, facade_->at.z));
  if (std::abs(u) < 0.1) return {};
  const Vec3 left = facade_->at + right * std::min(0.0, u);
  return WallRectangle{{left.x, left.y, low}, right, std::abs(u), high - low};
}

void FacadeTool::paintFacade(QPainter& p, double depth,
                             const std::function<QString(const WallRectangle&)>& words) const {
  const Theme& t = theme();
  p.setPen(QPen(t.noon, 1.6));
  const auto seen = rectangleTo(pointer());
  if (!seen) {
    if (const auto q = pixelOf(facade_->at)) p.drawEllipse(*q, 4, 4);
    return;
  }
  QColor fill = t.noon;
  fill.setAlpha(50);
  p.setBrush(fill);
  const Vec3 out = facade_->normal * depth, right = seen->right * seen->width, up{0, 0, seen->height};
  const auto quad = [&](Vec3 a, Vec3 b, Vec3 c, Vec3 d) {
    QPolygonF polygon;
    for (const Vec3& v : {a, b, c, d})
      if (const auto q = pixelOf(v)) polygon << *q;
    p.drawPolygon(polygon);
  };
  const Vec3 o = seen->corner;
  if (depth > 0) quad(o, o + right, o + right + out, o + out);
  quad(o + out, o + right + out, o + right + out + up, o + out + up);
  p.setFont(figureFont(10.5));
  p.setPen(t.ink);
  if (const auto q = pixelOf(o + right * 0.5 + out + up)) p.drawText(*q + QPointF(-50, -8), words(*seen));
}

// ---- windows --------------------------------------------------------------------------------------------------------

QString WindowTool::hint() const {
  return "Click two corners of the window on a wall; or one, then type a size such as 1.8x1.5 and Enter";
}

void WindowTool::click(const QMouseEvent& e) {
  clickAt(e.position());
}

void WindowTool::enter() {
  if ((wall_ || facade_) && !typed().isEmpty()) clickAt(pointer());
}

void WindowTool::back() {
  wall_.reset();
  facade_.reset();
}

void WindowTool::cancel() {
  back();
}

std::optional<Opening> WindowTool::windowTo(QPointF at) const {
  if (!wall_) return {};
  const Camera::Ray r = ray(at);
  const double facing = dot(r.direction, wall_->normal);
  if (std::abs(facing) < 1e-6) return {};
  const Vec3 p = r.origin + r.direction * (dot(wall_->at - r.origin, wall_->normal) / facing);
  const Vec3 a = pointOnWall(project(), wall_->wall, 0, 0), b = pointOnWall(project(), wall_->wall, 1, 0);
  Vec2 to{dot(p - a, b - a), p.z - a.z};
  if (const auto size = sizeFromText(typed().toStdString(), project().units.length)) {
    const Vec2 d = to - wall_->from;
    to = wall_->from + Vec2{d.x < 0 ? -size->x : size->x, d.y < 0 ? -size->y : size->y};
  }
  return windowBetween(project(), wall_->wall, wall_->from, to, 9 * metresPerPixel());
}

void WindowTool::clickAt(QPointF at) {
  if (facade_) return mark(at);
  if (!wall_) {
    Vec3 where;
    const RayHit hit = pick(at, &where);
    const auto wall = hit.hit() ? wallBehind(project(), where, hit.normal) : std::nullopt;
    if (!wall) { // a building without rooms: the window is marked as a spot to be judged
      const ElementPtr e = hit.hit() ? project().element({hit.element}) : nullptr;
      const Box3 box = e ? boxOf(*e) : Box3{};
      const auto& rooms = project().rooms;
      const bool inhabited =
          hit.hit() && (!e || std::any_of(rooms.begin(), rooms.end(), [&](const Room& r) {
            const Vec2 c = centroid(r.outline);
            return c.x > box.low.x - 1 && c.x < box.high.x + 1 && c.y > box.low.y - 1 && c.y < box.high.y + 1;
          }));
      if (inhabited)
        say("No room has a wall here that stands outdoors. Make rooms first; then click on their facade");
      else if (!begin(at))
        say("A window lies in an upright face: click on one");
      else
        say("No room lies behind: the window becomes a sensor in its middle. Click its other corner, or type a "
            "size such as 1.8x1.5");
      return update();
    }
    wall_ = WallDraft{*wall, where, normalized(Vec3{hit.normal.x, hit.normal.y, 0}), {wall->along, wall->height}};
    update();
    return;
  }
  auto drawn = windowTo(at);
  if (!drawn) {
    say("This window would have no size. Click its other corner, or type a size such as 1.8x1.5");
    return;
  }
  Project p = project();
  drawn->id = OpeningId::fresh();
  drawn->name = "Window " + std::to_string(p.openings.size() + 1);
  const OpeningId id = drawn->id;
  p.openings.push_back(std::move(*drawn));
  const std::size_t before = placedOpenings(project()).openings.size();
  if (placedOpenings(p).openings.size() <= before)
    emit document().notice("The window lies over another, or is cut by the end of its wall: the findings say which.",
                           false);
  document().change(std::move(p), "Draw window");
  document().look([&](Looking& l) {
    l.opening = id;
    l.step = Step::Rooms;
  });
  wall_.reset();
  forgetTyped();
  update();
}

/// The window between the first click and here as a sensor in its middle, in a group of its building's.
void WindowTool::mark(QPointF at) {
  auto seen = rectangleTo(at);
  if (const auto size =
          sizeFromText(typed().toStdString(), project().units.length)) { // to the side and the height the pointer is on
    const Vec3 right{-facade_->normal.y, facade_->normal.x, 0};
    const bool left = seen && dot(seen->corner - facade_->at, right) < -1e-6,
               below = seen && seen->corner.z < facade_->at.z - 0.02;
    const Vec3 c = facade_->at - right * (left ? size->x : 0) - Vec3{0, 0, below ? size->y : 0};
    seen = WallRectangle{c, right, size->x, size->y};
  }
  if (!seen || seen->height < 0.1) {
    say("This window would have no size. Click its other corner, or type a size such as 1.8x1.5");
    return;
  }
  const std::string group = "Windows of " + (facade_->building.empty() ? std::string("the model") : facade_->building);
  const PointSensor sensor{seen->corner + seen->right * (seen->width / 2) + Vec3{0, 0, seen->height / 2} +
                               facade_->normal * 0.02,
                           facade_->normal,
                           {}};
  Project p = project();
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
  facade_.reset();
  forgetTyped();
  document().change(std::move(p), "Mark window");
  say(QString("%1 window%2 marked in \"%3\": choose that group in a study. Click the next one, or Escape")
          .arg(n)
          .arg(n == 1 ? "" : "s")
          .arg(QString::fromStdString(group)));
  update();
}

void WindowTool::paint(QPainter& p) {
  if (facade_)
    paintFacade(p, 0, [&](const WallRectangle& r) {
      const auto text = [&](double v) { return QString::fromStdString(lengthText(v, project().units.length)); };
      return QString("%1 wide, %2 high").arg(text(r.width), text(r.height));
    });
  if (!wall_) return;
  const auto drawn = windowTo(pointer());
  const Theme& t = theme();
  const Vec3 shift = wall_->at - pointOnWall(project(), wall_->wall, wall_->from.x, wall_->from.y);
  const auto px = [&](double u, double z) {
    return pixelOf(pointOnWall(project(), wall_->wall, u, z) + shift).value_or(QPointF());
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
  const LengthUnit unit = project().units.length;
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

QString BalconyTool::hint() const {
  return "On a facade, click two corners of the balcony as it is seen: slab and front. Then type how far it stands "
         "out, "
         "such as 1.4, and Enter";
}

void BalconyTool::enter() {
  if (facade_ && facade_->seen) finish();
}

double BalconyTool::depth() const {
  const auto length = typedLength();
  return length && *length > 0.05 && *length < 20 ? *length : usualDepth;
}

void BalconyTool::click(const QMouseEvent& e) {
  if (!facade_) {
    if (!begin(e.position())) say("A balcony hangs on an upright face: click on one");
    return update();
  }
  if (facade_->seen) return finish();
  facade_->seen = rectangleTo(e.position());
  if (!facade_->seen)
    say("This balcony would have no width. Click its other corner");
  else
    say(QString("Type how far it stands out and Enter, or click: %1")
            .arg(QString::fromStdString(lengthText(usualDepth, project().units.length))));
  update();
}

void BalconyTool::finish() {
  const Draft b = *facade_;
  std::vector<ElementId> made;
  Project p = withBalcony(project(), *b.seen, depth(), b.proposed, &made);
  facade_.reset();
  forgetTyped();
  document().change(std::move(p), "Draw balcony");
  document().look([&](Looking& l) { l.selected = made; });
  say("Click two corners of the next balcony, or Escape");
  update();
}

void BalconyTool::paint(QPainter& p) {
  if (!facade_) return;
  paintFacade(p, depth(), [&](const WallRectangle& r) {
    const auto text = [&](double v) { return QString::fromStdString(lengthText(v, project().units.length)); };
    return QString("%1 wide, %2 high, out %3").arg(text(r.width), text(r.height), text(depth()));
  });
}

} // namespace noonward
