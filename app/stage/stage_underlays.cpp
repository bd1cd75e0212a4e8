// Pictures to trace over and what a mend would change, on the stage.

#include "app/stage/stage.h"
#include "app/theme/style.h"
#include "core/model/mending/mend_preview.h"
#include <QPainter>
#include <QPointer>

namespace noonward {

namespace {
constexpr int mostPixels = 4096; ///< a side, on the stage
} // namespace

// ---- pictures -----------------------------------------------------------------------------------------------------

/// Where one draws; the views of results stay free of them.
bool Stage::showsUnderlays() const {
  const Step step = sight_->looking().step;
  return camera_.kind != ViewKind::FromSun && camera_.kind != ViewKind::Section &&
         (step == Step::Site || step == Step::Model || step == Step::Finishes || step == Step::Rooms);
}

void Stage::layUnderlays() {
  std::vector<ElementPtr> ground; // what sheets are draped on
  for (const ElementPtr& e : sight_->project().elements)
    if (e->role == Role::Ground) ground.push_back(e);
  std::vector<const Underlay*> seen;
  QString all;
  for (const Underlay& u : sight_->project().underlays) {
    if (!u.shown || !u.picture || !showsUnderlays()) continue;
    const std::string content = u.picture->content.hex();
    const auto [at, fresh] = pictures_.try_emplace(content);
    if (fresh) { // a photograph takes a moment to decode
      document_.inBackground(
          [stage = QPointer<Stage>(this), picture = u.picture, content]() -> std::function<void(Document&)> {
            auto image = decoded(*picture, mostPixels);
            std::shared_ptr<const QImage> done = image ? std::make_shared<const QImage>(std::move(*image)) : nullptr;
            const QString fault = image ? QString() : QString::fromStdString(image.error().message);
            return [stage, done, content, fault](Document& d) {
              if (!fault.isEmpty()) emit d.notice(fault, true);
              if (!stage) return;
              stage->pictures_[content] = done;
              stage->requestFrame(false);
            };
          });
    }
    if (!at->second) continue;
    seen.push_back(&u);
    all += QString::fromStdString(content) + QString::number(u.strength);
    for (const UnderlayPin& p : u.pins)
      all += QString("|%1 %2 %3 %4 %5")
                 .arg(p.pixel.x, 0, 'g', 9)
                 .arg(p.pixel.y, 0, 'g', 9)
                 .arg(p.place.x, 0, 'g', 12)
                 .arg(p.place.y, 0, 'g', 12)
                 .arg(p.place.z, 0, 'g', 12);
    if (kindOf(u) == UnderlayKind::Sheet)
      for (const ElementPtr& e : ground) all += QString("|%1").arg(quintptr(e.get()), 0, 16);
  }
  if (all == uploadedUnderlays_) return;
  uploadedUnderlays_ = all;
  std::vector<UnderlayDraw> draw;
  for (const Underlay* u : seen)
    if (auto triangles = trianglesOf(*u, sizeOf(*u->picture), ground); !triangles.empty())
      draw.push_back({QString::fromStdString(u->picture->content.hex()), *pictures_[u->picture->content.hex()],
                      std::move(triangles), u->strength});
  gl_->setUnderlays(draw);
}

void Stage::paintUnderlays(QPainter& p) {
  layUnderlays();
  for (const Underlay& u : sight_->project().underlays) {
    if (!u.shown || !u.picture || !showsUnderlays()) continue;
    const auto at = pictures_.find(u.picture->content.hex());
    const auto map = planeMapOf(u.pins);
    if (at == pictures_.end() || !at->second || !map) continue;
    // Four spots of the picture to where they show: both are projective.
    const QSize size = sizeOf(*u.picture);
    std::array<Vec2, 4> spots{
        {{0, 0}, {double(size.width()), 0}, {double(size.width()), double(size.height())}, {0, double(size.height())}}};
    if (u.pins.size() == 4)
      for (std::size_t i = 0; i < 4; ++i) spots[i] = u.pins[i].pixel;
    QPolygonF from, to;
    for (Vec2 s : spots)
      if (const auto place = map->place(s))
        if (const auto q = pixelOf(*place)) from << QPointF(s.x, s.y), to << *q;
    QTransform t;
    if (from.size() != 4 || !QTransform::quadToQuad(from, to, t)) continue;
    p.save();
    p.setOpacity(u.strength);
    p.setRenderHint(QPainter::SmoothPixmapTransform, true);
    p.setTransform(QTransform::fromScale(double(size.width()) / at->second->width(),
                                         double(size.height()) / at->second->height()) *
                       t,
                   true);
    p.drawImage(0, 0, *at->second);
    p.restore();
  }
}

// ---- before a mend ------------------------------------------------------------------------------------------------

void Stage::setMendPreview(std::shared_ptr<const MendPreview> preview, int covered) {
  mend_ = std::move(preview);
  if (mend_)
    if (const Box3 box = mend_->box(); !box.empty()) {
      // Framed where one would not see it as the camera stands.
      bool inside = true;
      QPolygonF seen;
      for (int k = 0; k < 8; ++k) {
        const auto q =
            pixelOf({k & 1 ? box.high.x : box.low.x, k & 2 ? box.high.y : box.low.y, k & 4 ? box.high.z : box.low.z});
        inside = inside && q && rect().adjusted(0, 0, -covered, 0).contains(q->toPoint());
        if (q) seen << *q;
      }
      const QRectF b = seen.boundingRect();
      if (!inside || std::max(b.width(), b.height()) < 60) {
        Box3 wide = box;
        wide.add(box.low - Vec3{2, 2, 1});
        wide.add(box.high + Vec3{2, 2, 1});
        fitBeside({wide}, -covered);
      }
    }
  update();
}

void Stage::paintMendPreview(QPainter& p) {
  if (!mend_) return;
  const Theme& t = theme();
  p.save();
  const auto faces = [&](const std::vector<MendPreview::Corners>& list, const QColor& ink, Qt::BrushStyle hatch) {
    QColor fill = ink;
    fill.setAlpha(hatch == Qt::SolidPattern ? 70 : 190);
    p.setPen(QPen(ink, 1));
    p.setBrush(QBrush(fill, hatch));
    for (const MendPreview::Corners& c : list) {
      QPolygonF polygon;
      for (const Vec3& v : c)
        if (const auto q = pixelOf(v)) polygon << *q;
      if (polygon.size() == 3) p.drawPolygon(polygon);
    }
  };
  faces(mend_->going, t.short_, Qt::BDiagPattern); // told by hatch as well as by colour
  faces(mend_->turned, t.noon, Qt::Dense6Pattern);
  faces(mend_->coming, t.meets, Qt::SolidPattern);
  p.setPen(QPen(t.meets, 2));
  p.setBrush(Qt::NoBrush);
  for (std::size_t i = 0; i < mend_->rooms.size(); ++i) {
    QPolygonF polygon;
    for (Vec2 v : mend_->rooms[i])
      if (const auto q = pixelOf({v.x, v.y, mend_->floors[i]})) polygon << *q;
    p.drawPolygon(polygon);
  }
  p.restore();
  // Which is which, as far as it is there.
  double y = 70;
  p.setFont(textFont(11.5));
  const auto key = [&](const QColor& ink, Qt::BrushStyle hatch, const QString& text) {
    QColor fill = ink;
    fill.setAlpha(hatch == Qt::SolidPattern ? 70 : 190);
    QColor paper = t.paper;
    paper.setAlpha(225);
    p.fillRect(QRectF(14, y - 2, QFontMetricsF(p.font()).horizontalAdvance(text) + 36, 20), paper);
    p.setPen(QPen(ink, 1));
    p.setBrush(QBrush(fill, hatch));
    p.drawRect(QRectF(18, y + 1, 18, 12));
    p.setPen(t.ink);
    p.drawText(QPointF(43, y + 12), text);
    y += 20;
  };
  const auto n = [](std::size_t all, const char* one, const char* more) {
    return QString("%L1 %2").arg(all).arg(all == 1 ? one : more) +
           (all > mostShown ? QString(", %L1 of them drawn").arg(mostShown) : QString());
  };
  if (mend_->facesGoing) key(t.short_, Qt::BDiagPattern, n(mend_->facesGoing, "face goes", "faces go"));
  if (mend_->facesTurned) key(t.noon, Qt::Dense6Pattern, n(mend_->facesTurned, "face turns", "faces turn"));
  if (mend_->facesComing) key(t.meets, Qt::SolidPattern, n(mend_->facesComing, "face comes", "faces come"));
  if (!mend_->rooms.empty())
    key(t.meets, Qt::NoBrush, n(mend_->rooms.size(), "room outline comes", "room outlines come"));
}

} // namespace noonward
