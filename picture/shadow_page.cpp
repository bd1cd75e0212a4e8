#include "picture/shadow_page.h"
#include "core/base/units.h"
#include "core/model/light_model.h"
#include "picture/facade_sheet.h"
#include "picture/legend.h"
#include "picture/paper.h"
#include "picture/picture_export.h"
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

constexpr double planMargin = 48;

QPainterPath pathOf(const Region& region, const Camera& camera, QRectF frame) {
  QPainterPath out;
  out.setFillRule(Qt::OddEvenFill);
  const auto add = [&](const Ring& r) {
    QPolygonF shape;
    for (Vec2 c : r)
      if (const auto q = camera.seen({c.x, c.y, 0}, frame.width(), frame.height()))
        shape << frame.topLeft() + QPointF(q->x, q->y);
    if (shape.size() < 3) return;
    out.addPolygon(shape);
    out.closeSubpath();
  };
  for (const Outline& o : region) {
    add(o.outer);
    for (const Ring& h : o.holes) add(h);
  }
  return out;
}

Region footprintsOf(const Project& p, bool proposed) {
  std::vector<Ring> rings;
  Region drawn; // with their courts
  for (const ElementPtr& e : p.elements) {
    if (!standsInTheLight(*e, true) || e->proposed != proposed || e->role == Role::Ground || e->role == Role::Glazing)
      continue;
    if (const Mass* m = e->mass()) {
      drawn.push_back(tidied(m->outline));
      continue;
    }
    const auto mesh = elementMesh(*e);
    if (!mesh) continue;
    for (const Triangle& t : (*mesh)->triangles) {
      Ring r;
      for (std::uint32_t k : t) r.push_back({(*mesh)->points[k].x, (*mesh)->points[k].y});
      if (std::abs(signedArea(r)) > 1e-6) rings.push_back(std::move(r));
    }
  }
  return regionUnion(drawn, covered(rings));
}

Camera cameraFor(const ShadowPage& page, QRectF frame) {
  Camera c = fittedCamera(*page.project, ViewKind::Plan, frame.width(), frame.height());
  std::vector<Box3> boxes = framedBoxes(*page.project);
  Box3 all;
  for (const Box3& b : boxes) all.add(b.low), all.add(b.high);
  // What is new, as far as it lies within reach; shadows of a low sun would make everything else small.
  const double reach = 0.4 * length(all.high - all.low);
  Box3 fresh;
  for (const ShadowMoment& m : page.plan->moments)
    for (const Outline& o : m.ground.fresh)
      for (Vec2 q : o.outer)
        fresh.add({std::clamp(q.x, all.low.x - reach, all.high.x + reach),
                   std::clamp(q.y, all.low.y - reach, all.high.y + reach), 0});
  if (page.plan->hasProposal && fresh.low.x <= fresh.high.x) boxes.push_back(fresh);
  c.fit(boxes, frame.width(), frame.height(), 0.06);
  return c;
}

QString clockOf(const Project& p, Instant at) {
  return QString::fromStdString(clockText(p.zone().clock(at).seconds / 60));
}

/// The colour of lying in new shadow for so much of the longest time.
QColor freshColor(const Theme& t, double share) {
  QColor c = mixed(t.short_, t.paper, 0.65 * (1 - share));
  c.setAlpha(215);
  return c;
}

} // namespace

void paintShadowOutlines(QPainter& p, QRectF whole, const ShadowPage& page, const Theme& t) {
  const Project& project = *page.project;
  const ShadowPlan& plan = *page.plan;
  constexpr double footHeight = 58;
  const QRectF frame = whole.adjusted(0, 0, 0, -footHeight);
  const Camera camera = cameraFor(page, frame);
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setClipRect(frame);
  p.fillRect(frame, mixed(t.paper, t.ground, 0.35));
  const bool one = plan.moments.size() == 1;
  const bool news = plan.hasProposal;
  QColor grey = mixed(t.shadow, t.ink, 0.12);
  grey.setAlpha(one ? 255 : 90);
  for (const ShadowMoment& m : plan.moments)
    p.fillPath(pathOf(news ? m.ground.before : m.ground.all, camera, frame), grey);
  if (one && news) p.fillPath(pathOf(plan.moments[0].ground.fresh, camera, frame), freshColor(t, 1));
  if (!one && news)
    for (std::size_t k = 0; k < plan.lasting.size(); ++k)
      p.fillPath(pathOf(plan.lasting[k], camera, frame),
                 freshColor(t, double(k + 1) / double(std::max<std::size_t>(1, plan.lasting.size()))));
  // Buildings, above their shadows.
  for (const bool proposed : {false, true}) {
    const QPainterPath path = pathOf(footprintsOf(project, proposed), camera, frame);
    p.fillPath(path, proposed ? t.proposedLit : t.faceLit);
    if (proposed == news)
      for (const ShadowMoment& m : plan.moments) {
        QColor roof = grey;
        roof.setAlpha(one ? 170 : 60);
        p.fillPath(pathOf(m.roofs.all, camera, frame), roof);
      }
    p.setPen(QPen(t.edge, 1));
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
  }
  if (!one)
    for (const ShadowMoment& m : plan.moments) {
      const Region& shown = news ? m.ground.fresh : m.ground.all;
      p.setPen(QPen(news ? t.short_ : t.muted, 0.9));
      p.drawPath(pathOf(shown, camera, frame));
    }
  p.setPen(QPen(t.meets, 1.6, Qt::DashLine));
  p.setFont(textFont(11, true));
  for (const SensorGroup& g : project.groups) {
    const auto* area = std::get_if<GroundArea>(&g.layout);
    if (!area) continue;
    p.setBrush(Qt::NoBrush);
    p.drawPath(pathOf({area->outline}, camera, frame));
    const Vec2 middle = centroid(area->outline);
    if (const auto q = camera.seen({middle.x, middle.y, 0}, frame.width(), frame.height())) {
      const QString name = QString::fromStdString(g.name);
      QRectF box(0, 0, QFontMetricsF(p.font()).horizontalAdvance(name) + 10, 18);
      box.moveCenter(frame.topLeft() + QPointF(q->x, q->y));
      QColor under = t.paper;
      under.setAlpha(210);
      p.fillRect(box, under);
      p.setPen(t.ink);
      p.drawText(box, Qt::AlignCenter, name);
      p.setPen(QPen(t.meets, 1.6, Qt::DashLine));
    }
  }
  // Where each moment's shadow reaches farthest, its clock time.
  if (!one && plan.moments.size() <= 16) {
    p.setFont(figureFont(10.5, true));
    std::vector<QRectF> taken;
    for (const ShadowMoment& m : plan.moments) {
      const Region& shown = news ? m.ground.fresh : m.ground.all;
      if (!m.up || !news) continue;
      std::optional<Vec2> tip;
      double farthest = 0;
      const Vec3 away = skyDirection(0, m.azimuth + pi, project.site.northAngle);
      for (const Outline& o : shown)
        for (Vec2 q : o.outer)
          if (const double d = q.x * away.x + q.y * away.y; !tip || d > farthest) {
            tip = q;
            farthest = d;
          }
      if (!tip) continue;
      const auto q = camera.seen({tip->x, tip->y, 0}, frame.width(), frame.height());
      if (!q) continue;
      QRectF box(0, 0, 40, 15);
      box.moveCenter(frame.topLeft() + QPointF(q->x + 14 * away.x, q->y - 14 * away.y));
      box.moveLeft(std::clamp(box.left(), frame.left() + 4, frame.right() - 44));
      box.moveTop(std::clamp(box.top(), frame.top() + 4, frame.bottom() - 19));
      if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& r) { return r.intersects(box); })) continue;
      taken.push_back(box);
      p.setPen(t.short_);
      p.drawText(box, Qt::AlignCenter, clockOf(project, m.at));
    }
  }
  // Furniture, below the map; the needle in its corner.
  paintNorth(p, QPointF(frame.right() - 84, frame.top() + 30), camera, project.site.northAngle, t, 1);
  p.setClipping(false);
  p.fillRect(QRectF(whole.left(), frame.bottom(), whole.width(), footHeight), t.paper);
  p.setPen(QPen(t.rule, 1));
  p.drawLine(frame.bottomLeft(), frame.bottomRight());
  p.setFont(textFont(11));
  double x = whole.left() + 12, y = frame.bottom() + 6;
  const auto key = [&](const QColor& c, const QString& text) {
    const double w = QFontMetricsF(p.font()).horizontalAdvance(text);
    if (x + 22 + w > whole.right() - 8) {
      x = whole.left() + 12;
      y += 17;
    }
    const QRectF box(x, y + 3, 16, 11);
    if (c.isValid()) p.fillRect(box, c);
    p.setPen(c.isValid() ? QPen(t.edge, 0.6) : QPen(t.meets, 1.4, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(box);
    p.setPen(t.ink);
    p.drawText(QRectF(x + 22, y, w + 4, 17), Qt::AlignLeft | Qt::AlignVCenter, text);
    x += 22 + w + 16;
  };
  key(grey, news ? "in shadow before" : "in shadow");
  if (news && one) key(freshColor(t, 1), "net new");
  if (news && !one && !plan.lasting.empty()) {
    const std::size_t n = plan.lasting.size();
    key(freshColor(t, 1.0 / double(n)), QString("net new for %1 h").arg(plan.hoursEach, 0, 'g', 3));
    if (n > 1) key(freshColor(t, 1), QString("for %1 h").arg(plan.hoursEach * double(n), 0, 'g', 3));
  }
  key(t.proposedLit, "proposed");
  if (std::any_of(project.groups.begin(), project.groups.end(),
                  [](const SensorGroup& g) { return std::holds_alternative<GroundArea>(g.layout); }))
    key({}, "measured");
  paintScaleBar(p, QPointF(whole.left() + 12, whole.bottom() - 12), camera, frame.height(),
                unitSymbol(project.units.length), metresPer(project.units.length), t, 1);
  p.setPen(QPen(t.rule, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(whole);
  p.restore();
}

void paintShadowPage(QPainter& p, const ShadowPage& page, const Theme& t) {
  const Project& project = *page.project;
  const ShadowPlan& plan = *page.plan;
  const QSizeF paper = sheetPaper();
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  p.fillRect(QRectF(QPointF(0, 0), paper), t.paper);
  const double left = planMargin, right = paper.width() - planMargin, tableWidth = 470;
  p.setPen(t.ink);
  p.setFont(titleFont(26));
  p.drawText(QRectF(left, 30, right - left, 34), Qt::AlignLeft | Qt::AlignVCenter, QString::fromStdString(page.title));
  p.setFont(textFont(13));
  p.setPen(t.muted);
  p.drawText(QRectF(left, 66, right - left, 20), Qt::AlignLeft | Qt::AlignVCenter,
             QString::fromStdString(fmt::format("{}, {} · {}", project.site.name, placeText(project.site.place),
                                                northText(project.site.northAngle))));
  const double top = 98, bottom = paper.height() - planMargin - 24;
  paintShadowOutlines(p, QRectF(left, top, right - left - tableWidth - 28, bottom - top), page, t);
  // ---- the table
  const double x0 = right - tableWidth;
  const std::vector<double> ends{74, 138, 206, 300, 380, 470};
  double y = top;
  const auto row = [&](const QStringList& cells, bool head) {
    p.setFont(head ? textFont(11, true) : figureFont(11));
    p.setPen(head ? t.muted : t.ink);
    double from = 0;
    for (int k = 0; k < cells.size(); ++k) {
      const double end = ends[std::size_t(k)];
      p.drawText(QRectF(x0 + from, y, end - from, 18), (k == 0 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter,
                 cells[k]);
      from = end;
    }
    y += 18;
  };
  const auto square = [&](double v) { return QString::number(v, 'f', v >= 100 ? 0 : 1); };
  row({"Clock", "altitude", "azimuth", "shadow m²", "before", "net new"}, true);
  p.setPen(QPen(t.rule, 1));
  p.drawLine(QPointF(x0, y), QPointF(right, y));
  const std::size_t shown = std::min<std::size_t>(plan.moments.size(), 30);
  for (std::size_t k = 0; k < shown; ++k) {
    const ShadowMoment& m = plan.moments[k];
    const CivilTime clock = project.zone().clock(m.at);
    const bool newDay = k == 0 || !(project.zone().clock(plan.moments[k - 1].at).date == clock.date);
    if (newDay) {
      p.setFont(titleFont(13));
      p.setPen(t.ink);
      p.drawText(QRectF(x0, y + 2, tableWidth, 20), Qt::AlignLeft | Qt::AlignVCenter,
                 QString::fromStdString(dayText(clock.date)));
      y += 22;
    }
    if (!m.up)
      row({clockOf(project, m.at), QString("%1°").arg(degrees(m.altitude), 0, 'f', 1), "", "sun too low", "", ""},
          false);
    else
      row({clockOf(project, m.at), QString("%1°").arg(degrees(m.altitude), 0, 'f', 1),
           QString("%1°").arg(degrees(m.azimuth), 0, 'f', 1), square(m.ground.allArea), square(m.ground.beforeArea),
           plan.hasProposal ? square(m.ground.freshArea) : "–"},
          false);
  }
  if (shown < plan.moments.size()) row({QString("… %1 more").arg(plan.moments.size() - shown)}, false);
  y += 10;
  const auto line = [&](const QString& text, bool strong = false) {
    p.setFont(textFont(11.5, strong));
    p.setPen(strong ? t.ink : t.muted);
    const QRectF box(x0, y, tableWidth, 200);
    QRectF used;
    p.drawText(box, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, text, &used);
    y += used.height() + 4;
  };
  if (plan.hasProposal) {
    if (plan.moments.size() > 1)
      line(QString("Net new on the ground: %1 m²·h, each moment standing for %2 h.")
               .arg(plan.freshAreaHours(), 0, 'f', 0)
               .arg(plan.hoursEach, 0, 'g', 3),
           true);
    std::vector<GroupId> told;
    for (const ShadowMoment& m : plan.moments)
      for (const ShadowArea& a : m.areas) {
        if (std::find(told.begin(), told.end(), a.group) != told.end()) continue;
        told.push_back(a.group);
        Instant when{};
        const double most = plan.mostFresh(a.group, &when);
        line(QString("%1 (%2 m²): %3")
                 .arg(QString::fromStdString(a.name), square(a.area))
                 .arg(most > 0 ? QString("net new %1 m²·h; most at %2: %3 m², %4 % of it")
                                     .arg(plan.freshAreaHours(a.group), 0, 'f', 0)
                                     .arg(clockOf(project, when), square(most))
                                     .arg(100 * most / std::max(1e-9, a.area), 0, 'f', 1)
                               : QString("no new shadow")));
      }
  } else {
    line("Nothing is marked as proposed: all shadow is told, none of it as new.");
  }
  line(QString("Polygons in plan, cast along the sun from every opaque surface; sun as a point, unrefracted; %1; trees "
               "by their crown.")
           .arg(plan.hasTerrain ? "on the terrain as drawn" : "on level ground"));
  p.setFont(figureFont(10.5));
  p.setPen(t.muted);
  p.drawText(QRectF(left, paper.height() - planMargin - 14, right - left, 16), Qt::AlignRight | Qt::AlignVCenter,
             QString("fingerprint %1 · Noonward " NOONWARD_VERSION " · time zone data %2")
                 .arg(QString::fromStdString(plan.key.fingerprint()), QString::fromStdString(timeZoneDataVersion())));
  p.restore();
}

Outcome writeShadowPage(const ShadowPage& page, const std::filesystem::path& file) {
  const PaintingWithoutWindow application;
  const Theme theme = paperTheme();
  return writePaper(file, {sheetPaper(), QString::fromStdString(page.title)},
                    {[&](QPainter& p) { paintShadowPage(p, page, theme); }});
}

} // namespace noonward
