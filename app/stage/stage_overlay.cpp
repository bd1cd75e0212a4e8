// What lies over the model: tracks, the sun, outlines being drawn, areas, the pointer's text, legend, north and scale.

#include "app/stage/stage.h"
#include "app/stage/stage_geometry.h"
#include "app/theme/style.h"
#include "core/model/form/facades.h"
#include "picture/dimension_lines.h"
#include "picture/face_tint.h"
#include "picture/picture_export.h"
#include "picture/room_labels.h"
#include "picture/sun_ray.h"
#include <QPainter>
#include <QPainterPath>

namespace noonward {

Stage::Sky Stage::sky() const {
  const Box3 box = sceneBox(sight_->project());
  const Vec3 c = box.center(), s = box.size();
  // Round the whole model, its farthest corner too: a track that ran through it would seem to end in it.
  const double up = std::max(0.0, box.high.z);
  return {{c.x, c.y, 0}, std::max(15.0, std::sqrt((s.x * s.x + s.y * s.y) / 4 + up * up)) * 1.03};
}

void Stage::paintOverlay(QPainter& p) {
  p.setRenderHint(QPainter::Antialiasing, true);
  if (!hasOpenGl()) paintUnderlays(p);
  paintAreas(p);
  paintGuides(p);
  if ((camera_.kind == ViewKind::Solid || camera_.kind == ViewKind::Plan) && !openedOpen_) paintTracks(p);
  if (camera_.kind == ViewKind::Section && sight_->looking().section) {
    const auto shownAnswer = sight_->answer();
    const SensorField* painted = shownAnswer ? shownAnswer->painted.get() : nullptr;
    paintSection(p, rect(), camera_, sight_->project(), *sight_->looking().section, painted,
                 painted ? sight_->looking().scale(*painted) : FieldScale{}, theme());
  }
  paintTrace(p);
  paintMendPreview(p);
  if (!sight_->ofOtherOption()) inHand_->paint(p);
  const Theme& t = theme();
  const Looking& l = sight_->looking();
  if (l.probe && !sight_->ofOtherOption()) paintSunRay(p, l.probe->position);
  if (l.probe && !sight_->ofOtherOption())
    if (const auto q = pixelOf(l.probe->position)) {
      p.setPen(QPen(t.ink, 1.4));
      p.setBrush(t.noon);
      p.drawEllipse(*q, 4.5, 4.5);
      if (const auto r = studies_.probeResult()) {
        const ProbeState s = r->at(l.moment);
        const QString text = QString("%1 · %2 h a year")
                                 .arg(s == ProbeState::Sun      ? "sun"
                                      : s == ProbeState::Night  ? "night"
                                      : s == ProbeState::Behind ? "behind"
                                                                : "shade")
                                 .arg(r->sunHours, 0, 'f', 0);
        const QFont f = textFont(11.5);
        p.setFont(f);
        const double w = QFontMetricsF(f).horizontalAdvance(text) + 12;
        p.setPen(Qt::NoPen);
        p.setBrush(t.dark ? QColor("#ECE7DC") : t.ink);
        p.drawRoundedRect(QRectF(q->x() - 4, q->y() - 30, w, 19), 3, 3);
        p.setPen(t.dark ? QColor("#171A26") : t.paper);
        p.drawText(QRectF(q->x() - 4, q->y() - 30, w, 19), Qt::AlignCenter, text);
      }
    }
  if (l.dimensions)
    paintDimensions(
        p, dimensionsOf(sight_->project(), l.selected, l.step == Step::Rooms ? l.opening : OpeningId{}),
        [this](Vec3 at) { return pixelOf(at); },
        camera_.ray(width() / 2.0, height() / 2.0, width(), height()).direction, sight_->project().units.length, t);
  const auto answer = sight_->answer();
  if (tintsFacades()) {
    paintFacadeKey(p, 20, height() - 92);
  } else if (tintsRooms()) {
    paintLegend(p, QRectF(16, height() - 52, 250, 46), tints().scale, t);
    if (showsEnvelopes()) {
      paintEnvelopes(p);
      paintEnvelopeKey(p, 20, height() - 66);
    }
  } else if (answer && answer->painted) {
    const FieldScale scale = l.scale(*answer->painted);
    paintLegend(p, QRectF(16, height() - 52, 250, 46), scale, t);
    if (l.sensor && camera_.kind != ViewKind::Section && *l.sensor < answer->painted->sensors.sensors.size()) {
      QPolygonF cell;
      for (const Vec3& c : answer->painted->sensors.cell(*l.sensor))
        if (const auto q = pixelOf(c)) cell << *q;
      p.setPen(QPen(t.noon, 2));
      p.setBrush(Qt::NoBrush);
      p.drawPolygon(cell);
    }
  }
  if (l.step == Step::Finishes) paintFinishKey(p, answer && answer->painted ? height() - 100 : height() - 46);
  paintRooms(p);
  paintEyes(p);
  const bool narrow = width() < 620; // beside another stage: scale and north make room for the legend
  if (camera_.kind != ViewKind::Section)
    paintNorth(p, narrow ? QPointF(width() - 66, height() - 26) : QPointF(width() * 0.5 + 30, height() - 26), camera_,
               sight_->project().site.northAngle, t);
  const LengthUnit unit = sight_->project().units.length;
  paintScaleBar(p, narrow ? QPointF(16, height() - 72) : QPointF(width() * 0.5 - 150, height() - 24), camera_, height(),
                unitSymbol(unit), metresPer(unit), t);
  if (hasFocus()) {
    p.setPen(QPen(t.noon, 1, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(0, 0, -1, -1));
  }
  paintPointer(p);
}

/// From the probed spot to the sun, with its angles as arcs. The track it ends on is drawn round the model, not to
/// scale.
void Stage::paintSunRay(QPainter& p, Vec3 spot) {
  if (camera_.kind != ViewKind::Solid && camera_.kind != ViewKind::Plan) return;
  const Theme& t = theme();
  const Sky k = sky();
  const auto ray = sunRay(sight_->project(), sight_->looking().moment, spot, 0.24 * k.radius);
  if (!ray) return;
  const auto line = [&](const std::vector<Vec3>& points, const QPen& pen) {
    QPainterPath path;
    bool begun = false;
    for (Vec3 x : points)
      if (const auto q = pixelOf(x)) {
        begun ? path.lineTo(*q) : path.moveTo(*q);
        begun = true;
      }
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
  };
  const bool plan = camera_.kind == ViewKind::Plan;
  const Vec3 end = ray->altitude.back(), foot = ray->azimuth.back();
  line({spot, k.center + ray->toward * k.radius}, QPen(t.noon, 1.4));
  line({spot, ray->azimuth.front()}, QPen(t.muted, 1, Qt::DashLine));
  line({spot, foot}, QPen(t.muted, 1, Qt::DashLine));
  line(ray->azimuth, QPen(t.ink, 1.2));
  if (!plan) line(ray->altitude, QPen(t.ink, 1.2));
  p.setFont(figureFont(10.5));
  const auto label = [&](Vec3 at, const QString& text) {
    const auto q = pixelOf(at);
    if (!q) return;
    // Outward from the spot, so that it lies on neither arc nor ray.
    const QPointF away = *q - pixelOf(spot).value_or(*q);
    const double far = std::max(1.0, std::hypot(away.x(), away.y()));
    QRectF r = QFontMetricsF(p.font()).boundingRect(text).adjusted(-3, -1, 3, 1);
    r.moveCenter(*q + away / far * (7 + std::abs(away.x() / far) * r.width() / 2 + std::abs(away.y() / far) * 8));
    QColor ground = t.stage;
    ground.setAlpha(215);
    p.fillRect(r, ground);
    p.setPen(t.ink);
    p.drawText(r, Qt::AlignCenter, text);
  };
  label(ray->azimuth[ray->azimuth.size() * 3 / 4], QString("%1°").arg(degrees(ray->azimuthAngle), 0, 'f', 1));
  if (!plan)
    label(ray->altitude[ray->altitude.size() / 2], QString("altitude %1°").arg(degrees(ray->altitudeAngle), 0, 'f', 1));
  label(ray->azimuth.front(), "N");
  if (plan) label(end, QString("altitude %1°").arg(degrees(ray->altitudeAngle), 0, 'f', 1));
}

/// What the tints of the Finishes step mean.
void Stage::paintFinishKey(QPainter& p, double y) {
  const Theme& t = theme();
  QColor ground = t.raised;
  ground.setAlpha(225);
  p.setPen(Qt::NoPen);
  p.setBrush(ground);
  p.drawRoundedRect(QRectF(8, y - 17, 288, 51), 3, 3);
  double x = 16;
  for (const auto& [name, tint] :
       {std::pair{"reflectance", &reflectanceTint}, {"transmittance of glass", &transmittanceTint}}) {
    p.setPen(t.muted);
    p.setFont(textFont(11.5));
    p.drawText(QPointF(x, y), name);
    QLinearGradient ramp(x, 0, x + 120, 0);
    for (int k = 0; k <= 10; ++k) ramp.setColorAt(k / 10.0, tint(k / 10.0));
    p.setPen(QPen(t.rule, 1));
    p.setBrush(ramp);
    p.drawRect(QRectF(x, y + 5, 120, 10));
    p.setPen(t.muted);
    p.setFont(figureFont(10.5));
    p.drawText(QPointF(x, y + 28), "0");
    p.drawText(QRectF(x + 60, y + 16, 60, 14), Qt::AlignRight | Qt::AlignVCenter, "100 %");
    x += 150;
  }
}

void Stage::paintTracks(QPainter& p) {
  const Project& project = sight_->project();
  const Looking& l = sight_->looking();
  const Theme& t = theme();
  const Zone zone = project.zone();
  const Sky k = sky();
  const auto at = [&](Vec3 d) { return pixelOf(k.center + d * k.radius); };
  const Date today = zone.clock(l.moment).date;

  const auto track = [&](Date date, const QPen& pen, bool numerals) {
    if (!knots().covers(zone.instant({date, 0}))) return;
    const Instant midnight = zone.instant({date, 0});
    const SunPath path(knots(), project.site.place, project.site.northAngle, midnight,
                       zone.instant({plusDays(date, 1), 0}) - midnight);
    for (const Interval& up : path.above(0)) {
      QPainterPath line;
      const int n = std::max(8, int(up.length() / 600));
      for (int i = 0; i <= n; ++i)
        if (const auto q = at(path.direction(up.begin + up.length() * i / n)))
          i == 0 ? line.moveTo(*q) : line.lineTo(*q);
      p.setPen(pen);
      p.setBrush(Qt::NoBrush);
      p.drawPath(line);
    }
    if (!numerals) return;
    p.setFont(figureFont(10));
    for (int h = 1; h < 24; ++h) {
      const double s = zone.instant({date, h * 3600.0}) - midnight;
      if (s < 0 || s > path.length()) continue;
      const Vec3 d = path.direction(s);
      if (d.z <= 0) continue;
      const auto q = at(d);
      if (!q) continue;
      p.setPen(Qt::NoPen);
      p.setBrush(pen.color());
      p.drawEllipse(*q, 1.8, 1.8);
      if (h % 3 == 0) {
        p.setPen(pen.color());
        p.drawText(*q + QPointF(5, -5), QString::number(h));
      }
    }
  };
  // The season's first and last day, the solstices as a frame, today strongest.
  QColor quiet = t.muted;
  quiet.setAlpha(120);
  for (const Date& d : {Date{today.year, 6, 21}, Date{today.year, 12, 21}}) track(d, QPen(quiet, 1), true);
  const Season& s = l.season;
  if (s.fromMonth != s.toMonth || s.fromDay != s.toDay) {
    QColor season = t.noon;
    season.setAlpha(130);
    const auto real = [&](int m, int d) { return Date{today.year, m, std::min(d, daysInMonth(today.year, m))}; };
    track(real(s.fromMonth, s.fromDay), QPen(season, 1, Qt::DashLine), false);
    track(real(s.toMonth, s.toDay), QPen(season, 1, Qt::DashLine), false);
  }
  track(today, QPen(t.noon, 1.6), true);
  if (const auto q = sunPixel()) {
    const auto c = pixelOf(k.center);
    QPointF toward = c ? *c - *q : QPointF(0, 1);
    const double len = std::hypot(toward.x(), toward.y());
    if (len > 1) toward /= len;
    p.setPen(QPen(t.noon, 2));
    p.setBrush(t.stage);
    p.drawEllipse(*q, 8, 8);
    p.drawLine(*q + toward * 8, *q + toward * 15);
  }
}

void Stage::paintAreas(QPainter& p) {
  const Theme& t = theme();
  const auto answer = sight_->answer();
  for (const SensorGroup& g : sight_->project().groups) {
    const auto* a = std::get_if<GroundArea>(&g.layout);
    if (!a) continue;
    QPolygonF outline;
    bool whole = true;
    for (Vec2 v : a->outline.outer) {
      const auto q = pixelOf({v.x, v.y, a->level});
      if (q)
        outline << *q;
      else
        whole = false;
    }
    if (!whole) continue;
    // Its outline lies over the model, so it is kept thin and dotted.
    QColor c = t.ink;
    c.setAlpha(120);
    p.setPen(QPen(c, 1, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    p.drawPolygon(outline);
  }
}

/// Guides run on and on: drawn as far as the model is wide on every side of it.
void Stage::paintGuides(QPainter& p) {
  const Step step = sight_->looking().step;
  const Project& project = sight_->project();
  if (project.guides.empty() || (camera_.kind != ViewKind::Solid && camera_.kind != ViewKind::Plan) ||
      (step != Step::Site && step != Step::Model && step != Step::Rooms))
    return;
  const Sky k = sky();
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(theme().noon, 1, Qt::DashDotLine));
  for (const Guide& g : project.guides) {
    const Vec2 middle = onGuide(g, xy(k.center)), along = (g.b - g.a) * (1 / length(g.b - g.a));
    constexpr int pieces = 48; // what lies behind the eye has no place on the stage
    std::optional<QPointF> before;
    for (int i = 0; i <= pieces; ++i) {
      const Vec2 at = middle + along * (k.radius * (4.0 * i / pieces - 2));
      const auto q = pixelOf({at.x, at.y, 0});
      if (q && before) p.drawLine(*before, *q);
      before = q;
    }
  }
}

/// What the tints of facades mean, with how much there is of each and its glass.
void Stage::paintFacadeKey(QPainter& p, double x, double y) {
  const Theme& t = theme();
  const Project& project = sight_->project();
  if (facadesOf_ != sight_->revision()) {
    facades_ = facadeFacts(project);
    facadesOf_ = sight_->revision();
  }
  QColor ground = t.raised;
  ground.setAlpha(225);
  p.setPen(Qt::NoPen);
  p.setBrush(ground);
  p.drawRoundedRect(QRectF(x - 8, y - 12, 4 * 124 + 12, 46), 3, 3);
  for (const Facing f : allFacings) {
    const FacadeFacts& facts = facades_[std::size_t(f)];
    p.setPen(QPen(t.rule, 1));
    p.setBrush(facingTint(t, f).lit);
    p.drawRect(QRectF(x, y - 4, 12, 12));
    p.setFont(textFont(11.5));
    p.setPen(t.ink);
    p.drawText(QPointF(x + 18, y + 6), facingKey(f));
    p.setFont(figureFont(10.5));
    p.setPen(t.muted);
    p.drawText(QPointF(x + 18, y + 24), facts.area > 0 ? QString("%1, glass %2 %")
                                                             .arg(shownQuantity(facts.area, 0, "m²", project.units))
                                                             .arg(100 * facts.glass / facts.area, 0, 'f', 0)
                                                       : QString("none"));
    x += 124;
  }
}

void Stage::paintRooms(QPainter& p) {
  std::vector<QRectF> taken;
  const Looking& l = sight_->looking();
  const auto values = [&] {
    const auto shown = sight_->answer();
    if (l.values && shown && shown->painted && camera_.kind != ViewKind::Section)
      paintSensorValues(p, rect(), camera_,
                        openedOpen_ ? ofStorey(*shown->painted, sight_->project(), l.storey) : *shown->painted,
                        l.scale(*shown->painted), theme(), 1, taken);
  };
  if (!openedOpen_) return values();
  if (tintsRooms()) {
    return paintRoomLabels(p, rect(), camera_, sight_->project(), nullptr, {}, theme(), 1, &taken, l.storey,
                           &tints().words);
  }
  const auto answer = sight_->answer();
  const SensorField* painted = answer && answer->painted && answer->painted->light && answer->painted->inRooms()
                                   ? answer->painted.get()
                                   : nullptr;
  std::optional<SensorField> onIt;
  if (painted) onIt = ofStorey(*painted, sight_->project(), l.storey);
  paintRoomLabels(p, rect(), camera_, sight_->project(), onIt ? &*onIt : nullptr,
                  painted ? l.scale(*painted) : FieldScale{}, theme(), 1, &taken, l.storey);
  values();
}

QString Stage::valueAt(QPointF at) {
  const auto answer = sight_->answer();
  Vec3 where;
  const RayHit hit = pick(at, &where, true);
  if (answer && answer->painted)
    if (const auto sensor = sensorUnder(at)) {
      const QString value = QString::fromStdString(answer->painted->valueText(*sensor));
      const SensorGridFacts& g = answer->painted->sensors.groups[answer->painted->sensors.sensors[*sensor].group];
      return g.room >= 0 ? QString::fromStdString(g.name) + " · " + value : value;
    }
  if (hit.hit())
    if (const ElementPtr e = shown().element({hit.element}))
      return QString("%1 · %2%3%4")
          .arg(QString::fromStdString(e->name), QString(roleName(e->role)).toLower(),
               e->proposed     ? " · proposed"
               : e->demolished ? " · to be demolished"
                               : "",
               e->ghost     ? " · ghost"
               : e->counted ? ""
                            : " · left out");
  return {};
}

void Stage::paintPointer(QPainter& p) {
  QString text = hoverText_;
  if (!typed_.isEmpty()) text = (text.isEmpty() ? QString() : text + "   ") + "⌨ " + typed_;
  if (text.isEmpty() || !inside_) return;
  const Theme& t = theme();
  const QFont f = textFont(11.5);
  p.setFont(f);
  const double w = QFontMetricsF(f).horizontalAdvance(text) + 14;
  double x = pointer_.x() + 16;
  if (x + w > width()) x = pointer_.x() - w - 10;
  const double y = std::clamp(pointer_.y() + 12, 0.0, height() - 24.0);
  p.setPen(Qt::NoPen);
  p.setBrush(t.dark ? QColor("#ECE7DC") : t.ink);
  p.drawRoundedRect(QRectF(x, y, w, 21), 3, 3);
  p.setPen(t.dark ? QColor("#171A26") : t.paper);
  p.drawText(QRectF(x, y, w, 21), Qt::AlignCenter, text);
}

} // namespace noonward
