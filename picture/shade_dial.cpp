#include "picture/shade_dial.h"
#include "core/model/rooms/placing.h"
#include "core/sun/sun_day.h"
#include "picture/paper.h"
#include "picture/picture_export.h"
#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

struct DialColors {
  QColor sky, surroundings, parts, behind;
};
DialColors dialColors(const Theme& t) {
  return {t.dark ? QColor("#39506A") : QColor("#DCEAF0"), t.dark ? QColor("#5C6072") : QColor("#A9A29A"),
          t.dark ? QColor("#8B6A4A") : QColor("#6F5B49"), mixed(t.raised, t.muted, 0.12)};
}

QImage maskImage(const DialMap& map, const ShadeMask& mask, const Theme& t) {
  // Twice as fine as the picture's points, so that print and large screens show no steps.
  const QSize size = (map.frame.size() * 2).toSize();
  QImage image(size, QImage::Format_ARGB32_Premultiplied);
  image.fill(Qt::transparent);
  DialMap own = map;
  own.frame = QRectF(QPointF(0, 0), QSizeF(size));
  const DialColors c = dialColors(t);
  for (int y = 0; y < size.height(); ++y)
    for (int x = 0; x < size.width(); ++x) {
      const auto d = own.from(QPointF(x + 0.5, y + 0.5));
      if (!d) continue;
      const auto cell =
          std::size_t(std::clamp(int(degrees(d->second)), 0, ShadeMask::altitudes - 1)) * ShadeMask::azimuths +
          std::size_t(int(degrees(d->first)) % ShadeMask::azimuths);
      QColor color = c.behind;
      if (mask.bare[cell] >= 0) {
        const double bare = mask.at(mask.bare, d->first, d->second), lit = mask.at(mask.shaded, d->first, d->second);
        color = mixed(mixed(c.sky, c.surroundings, 1 - bare), c.parts, std::max(0.0, bare - lit));
      }
      image.setPixelColor(x, y, color);
    }
  return image;
}

void paintPath(QPainter& p, const DialMap& map, const std::vector<std::pair<double, double>>& points) {
  QPainterPath path;
  QPointF before;
  for (std::size_t i = 0; i < points.size(); ++i) {
    const QPointF q = map.at(points[i].first, std::max(0.0, points[i].second));
    // A flat chart is cut open: no line across it.
    if (i == 0 || (map.projection == DialProjection::Flat && std::abs(q.x() - before.x()) > map.frame.width() / 2))
      path.moveTo(q);
    else
      path.lineTo(q);
    before = q;
  }
  p.drawPath(path);
}

void paintGrid(QPainter& p, const DialMap& map, const Theme& t) {
  QColor grid = t.muted;
  grid.setAlpha(80);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(grid, 0.8));
  const bool flat = map.projection == DialProjection::Flat;
  for (int a = 15; a < 90; a += 15) {
    const QPointF q = map.at(0, radians(double(a))), w = map.at(pi / 2, radians(double(a)));
    if (flat)
      p.drawLine(QPointF(map.frame.left(), q.y()), QPointF(map.frame.right(), q.y()));
    else if (a % 30 == 0)
      p.drawEllipse(map.frame.center(), w.x() - map.frame.center().x(), w.x() - map.frame.center().x());
  }
  for (int a = 0; a < 360; a += 30) {
    if (flat)
      p.drawLine(map.at(radians(double(a)), 0), map.at(radians(double(a)), pi / 2));
    else
      p.drawLine(map.at(radians(double(a)), radians(30.0)), map.at(radians(double(a)), 0));
  }
}

void paintFrame(QPainter& p, const DialMap& map, const Theme& t) {
  p.setPen(QPen(t.ink, 1.2));
  p.setBrush(Qt::NoBrush);
  const bool flat = map.projection == DialProjection::Flat;
  if (flat)
    p.drawRect(map.frame);
  else
    p.drawEllipse(map.frame);
  p.setFont(textFont(11));
  p.setPen(t.muted);
  const char* names[] = {"N", "E", "S", "W"};
  for (int k = 0; k < 4; ++k) {
    const QPointF q = map.at(k * pi / 2, 0),
                  out = flat ? QPointF(0, 10) : (q - map.frame.center()) * (10 / (map.frame.width() / 2));
    p.drawText(QRectF(q.x() + out.x() - 9, q.y() + out.y() - 8, 18, 16), Qt::AlignCenter, names[k]);
  }
  if (flat)
    for (int a = 30; a <= 90; a += 30)
      p.drawText(QRectF(map.frame.left() - 30, map.at(0, radians(double(a))).y() - 8, 26, 16),
                 Qt::AlignRight | Qt::AlignVCenter, QString("%1°").arg(a));
}

/// The sun's tracks on the 21st of each month, with the hours of the clock on the longest and the shortest.
void paintTracks(QPainter& p, const DialMap& map, const DialPicture& d, const Theme& t) {
  const auto own = d.knots ? d.knots : std::make_shared<const SunKnots>(SunKnots::ofYear(d.year));
  const SunKnots& knots = *own;
  const Date today = d.zone.clock(d.moment).date;
  const auto track = [&](Date date, const QPen& pen) {
    if (!knots.covers(d.zone.instant({date, 0}))) return;
    for (const auto& piece : dayTrack(knots, d.place, d.zone, date)) {
      std::vector<std::pair<double, double>> points;
      for (const TrackPoint& x : piece) points.emplace_back(x.sun.azimuth, x.sun.altitude);
      p.setPen(pen);
      paintPath(p, map, points);
    }
  };
  QColor line = t.ink;
  line.setAlpha(120);
  for (int month = 6; month <= 12; ++month) track({d.year, month, 21}, QPen(line, month % 3 == 0 ? 1.1 : 0.6));
  QColor hour = t.ink;
  hour.setAlpha(90);
  for (int h = 3; h <= 21; ++h) { // one hour of the clock from the shortest day to the longest
    std::vector<std::pair<double, double>> points;
    for (int day = 172; day <= 356; day += 4) {
      const SolarPosition s = solarPosition(
          knots.at(d.zone.instant({plusDays({d.year, 1, 1}, day - 1), 12 * 3600}) + (h - 12) * 3600.0), d.place);
      if (s.altitude > 0)
        points.emplace_back(s.azimuth, s.altitude);
      else if (points.size() > 1)
        break;
      else
        points.clear();
    }
    p.setPen(QPen(hour, 0.5, Qt::DotLine));
    if (points.size() > 1) paintPath(p, map, points);
    if (points.empty() || h % 3 != 0) continue;
    p.setFont(figureFont(9));
    p.setPen(t.ink);
    const QPointF q = map.at(points.front().first, points.front().second);
    p.drawText(QRectF(q.x() - 10, q.y() - 13, 20, 11), Qt::AlignCenter, QString::number(h));
  }
  track(today, QPen(t.noon, 1.6));
  const SolarPosition now = solarPosition(sunOfDate(d.moment), d.place);
  if (now.altitude > 0) {
    p.setPen(QPen(t.noon, 2));
    p.setBrush(t.raised);
    p.drawEllipse(map.at(now.azimuth, now.altitude), 5, 5);
    p.setBrush(Qt::NoBrush);
  }
}

void paintWishes(QPainter& p, const DialMap& map, const DialPicture& d, const Theme& t) {
  if (d.moments.empty()) return;
  p.setPen(Qt::NoPen);
  for (const SunWish wish : {SunWish::LetIn, SunWish::KeepOut}) {
    QColor c = wish == SunWish::KeepOut ? t.short_ : t.meets;
    c.setAlpha(150);
    p.setBrush(c);
    std::uint32_t k = 0;
    for (const SunMoment& m : d.moments) {
      if (m.wish != wish || (++k * 2654435761u >> 8) % 6 != 0) continue; // a sixth shows the field
      const QPointF q = map.at(wrapTwoPi(std::atan2(m.direction.x, m.direction.y) + d.northAngle),
                               std::asin(std::clamp(m.direction.z, -1.0, 1.0)));
      p.drawEllipse(q, 0.9, 0.9);
    }
  }
  p.setBrush(Qt::NoBrush);
}

void paintCutOff(QPainter& p, const DialMap& map, const DialPicture& d, const Theme& t) {
  if (!d.outward) return;
  p.setFont(figureFont(10.5, true));
  const auto curve = [&](double angle, Qt::PenStyle style) {
    std::vector<std::pair<double, double>> points;
    for (int a = -89; a <= 89; ++a)
      points.emplace_back(wrapTwoPi(*d.outward + radians(double(a))),
                          std::atan(std::tan(angle) * std::cos(radians(double(a)))));
    p.setPen(QPen(t.noon, 1.8, style));
    paintPath(p, map, points);
    const QPointF q = map.at(*d.outward, angle);
    p.setPen(t.noonText);
    p.drawText(QRectF(q.x() - 40, q.y() + 3, 80, 14), Qt::AlignCenter, QString("%1°").arg(degrees(angle), 0, 'f', 1));
  };
  if (d.cutOff.profile) curve(std::min(*d.cutOff.profile, radians(89.0)), Qt::SolidLine);
  if (d.cutOff.profileEnds) curve(std::min(*d.cutOff.profileEnds, radians(89.0)), Qt::DashLine);
  const auto ray = [&](double azimuth, double angle) {
    std::vector<std::pair<double, double>> points;
    for (int a = 0; a <= 88; a += 4) points.emplace_back(wrapTwoPi(azimuth), radians(double(a)));
    p.setPen(QPen(t.noon, 1.8));
    paintPath(p, map, points);
    const QPointF q = map.at(azimuth, radians(12.0));
    p.setPen(t.noonText);
    p.drawText(QRectF(q.x() - 40, q.y() - 7, 80, 14), Qt::AlignCenter, QString("%1°").arg(degrees(angle), 0, 'f', 1));
  };
  if (d.cutOff.left && *d.cutOff.left < radians(89.5)) ray(*d.outward + *d.cutOff.left, *d.cutOff.left);
  if (d.cutOff.right && *d.cutOff.right < radians(89.5)) ray(*d.outward - *d.cutOff.right, *d.cutOff.right);
}

} // namespace

void paintShadeDial(QPainter& p, const DialMap& map, const DialPicture& d, const Theme& t, QImage* drawn) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setRenderHint(QPainter::SmoothPixmapTransform, true);
  p.setPen(Qt::NoPen);
  p.setBrush(t.raised);
  map.projection == DialProjection::Flat ? p.drawRect(map.frame) : p.drawEllipse(map.frame);
  if (d.mask) {
    QImage own;
    QImage& image = drawn ? *drawn : own;
    if (image.isNull() || image.size() != (map.frame.size() * 2).toSize()) image = maskImage(map, *d.mask, t);
    p.drawImage(map.frame, image);
  }
  paintGrid(p, map, t);
  paintWishes(p, map, d, t);
  paintTracks(p, map, d, t);
  paintCutOff(p, map, d, t);
  paintFrame(p, map, t);
  p.restore();
}

void paintDialKey(QPainter& p, const QRectF& frame, const Theme& t) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setFont(textFont(10.5));
  const QFontMetricsF m(p.font());
  const DialColors c = dialColors(t);
  double x = frame.left(), y = frame.top();
  const auto entry = [&](const QString& words, const QColor& color, bool dot) {
    const double w = 14 + m.horizontalAdvance(words) + 12;
    if (x + w - 12 > frame.right()) {
      x = frame.left();
      y += 15;
    }
    p.setPen(dot ? QPen(Qt::NoPen) : QPen(t.rule, 0.8));
    p.setBrush(color);
    dot ? p.drawEllipse(QPointF(x + 5, y + 7), 2.2, 2.2) : p.drawRect(QRectF(x, y + 2, 10, 10));
    p.setPen(t.muted);
    p.drawText(QPointF(x + 14, y + 11), words);
    x += w;
  };
  entry("sun kept out", t.short_, true);
  entry("let in", t.meets, true);
  entry("sun reaches the glass", c.sky, false);
  entry("taken by shading", c.parts, false);
  entry("by what stands around", c.surroundings, false);
  p.restore();
}

QString glassDayText(const GlassDay& day) {
  if (day.inFront.empty()) return "the sun does not come before this wall";
  const auto clock = [](double s) { return QString::fromStdString(clockText(s / 60)); };
  QStringList stretches;
  for (const Interval& x : day.sun) stretches << clock(x.begin) + "–" + clock(x.end);
  const int dark = int(std::lround(total(day.shaded) / 60));
  return (stretches.isEmpty() ? QString("all of the glass in shade all day")
                              : "some of the glass in sun " + stretches.join(", ")) +
         QString("; all in shade %1 h %2 min of %3 h with the sun in front")
             .arg(dark / 60)
             .arg(dark % 60)
             .arg(total(day.inFront) / 3600, 0, 'f', 1);
}

void paintGlassDay(QPainter& p, const QRectF& frame, const GlassDay& day, double step, const Theme& t,
                   std::optional<double> now) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing, true);
  const QRectF plot = frame.adjusted(38, 6, -4, -16);
  const double from = 4 * 3600, to = 22 * 3600;
  const auto x = [&](double s) { return plot.left() + plot.width() * (s - from) / (to - from); };
  const auto y = [&](double share) { return plot.bottom() - plot.height() * share; };
  for (const Interval& i : day.inFront) {
    p.setPen(Qt::NoPen);
    p.setBrush(mixed(t.paper, t.noon, 0.10));
    p.drawRect(QRectF(QPointF(std::max(plot.left(), x(i.begin)), plot.top()),
                      QPointF(std::min(plot.right(), x(i.end)), plot.bottom())));
  }
  p.setFont(figureFont(9.5));
  for (const double share : {0.0, 0.5, 1.0}) {
    p.setPen(QPen(t.rule, 1));
    p.drawLine(QPointF(plot.left(), y(share)), QPointF(plot.right(), y(share)));
    p.setPen(t.muted);
    p.drawText(QRectF(frame.left(), y(share) - 7, 34, 14), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(100 * share) + (share == 1 ? " %" : ""));
  }
  for (int h = 6; h <= 20; h += 2) {
    p.setPen(t.muted);
    p.drawText(QRectF(x(h * 3600) - 14, plot.bottom() + 2, 28, 13), Qt::AlignCenter, QString::number(h));
  }
  p.setClipRect(plot);
  QPainterPath area;
  area.moveTo(x(0), y(0));
  for (std::size_t k = 0; k < day.share.size(); ++k) area.lineTo(x(double(k) * step), y(double(day.share[k])));
  area.lineTo(x(double(day.share.size()) * step), y(0));
  QColor fill = t.noon;
  fill.setAlpha(110);
  p.setPen(QPen(t.noon, 1.4));
  p.setBrush(fill);
  p.drawPath(area);
  if (now) {
    p.setPen(QPen(t.ink, 1, Qt::DashLine));
    p.drawLine(QPointF(x(*now), plot.top()), QPointF(x(*now), plot.bottom()));
  }
  p.restore();
}

Outcome exportShadeDial(const Project& project, OpeningId window, DialProjection projection, Instant moment,
                        const std::filesystem::path& file) {
  auto mask = shadeMask(project, window, 8);
  if (!mask) return tl::unexpected(mask.error());
  auto moments = sunMoments(project);
  if (!moments) return tl::unexpected(moments.error());
  const Date date = project.zone().clock(moment).date;
  const auto day = glassInSun(project, date, 300, 8, {window});
  if (!day) return tl::unexpected(day.error());
  const auto report = shadeReport(project, {}, {window});
  if (!report) return tl::unexpected(report.error());
  DialPicture d;
  d.mask = std::make_shared<const ShadeMask>(std::move(*mask));
  d.moments = std::move(*moments);
  d.place = project.site.place;
  d.zone = project.zone();
  d.year = project.site.year;
  d.northAngle = project.site.northAngle;
  d.moment = moment;
  for (const PlacedOpening& o : placedOpenings(project).openings) {
    if (o.opening.id != window) continue;
    if (o.opening.edge >= 0) d.outward = wrapTwoPi(std::atan2(o.outward.x, o.outward.y) + project.site.northAngle);
    for (const ShadeRule& s : project.shadeRules)
      if (standsAt(s, o, project.rooms[o.room].id) && !d.cutOff.profile && !d.cutOff.left)
        d.cutOff = cutOffOf(s, frameOf(o, project.rooms[o.room]));
  }
  const PaintingWithoutWindow application;
  const Theme theme = paperTheme();
  const WindowShade& w = report->windows.front();
  const QSizeF page(640, 800);
  const auto paint = [&](QPainter& p) {
    p.fillRect(QRectF(QPointF(0, 0), page), theme.paper);
    p.setPen(theme.ink);
    p.setFont(titleFont(20));
    p.drawText(QRectF(32, 20, 576, 28), Qt::AlignLeft | Qt::AlignVCenter, QString::fromStdString(w.name));
    p.setFont(textFont(12));
    p.setPen(theme.muted);
    p.drawText(QRectF(32, 48, 576, 18), Qt::AlignLeft | Qt::AlignVCenter,
               QString::fromStdString(fmt::format("{} · {} · {} projection · {}", project.name, placeText(d.place),
                                                  projectionKey(projection), momentText(project, moment))));
    DialMap map{projection, {}, d.outward.value_or(pi)};
    map.frame = projection == DialProjection::Flat ? QRectF(64, 90, 540, 420) : QRectF(96, 90, 448, 448);
    paintShadeDial(p, map, d, theme);
    paintDialKey(p, QRectF(32, 562, 576, 30), theme);
    p.setFont(textFont(12));
    p.setPen(theme.ink);
    const auto percent = [](double v) { return QString("%1 %").arg(100 * v, 0, 'f', 1); };
    p.drawText(QRectF(32, 596, 576, 18), Qt::AlignLeft,
               QString("Unwanted sun kept out %1 · wanted sun lost %2 · sky left %3 · view left %4")
                   .arg(percent(w.keepOut.taken()), percent(w.letIn.taken()), percent(w.sky), percent(w.view)));
    paintGlassDay(p, QRectF(32, 650, 576, 100), day->windows.front(), day->step, theme, std::nullopt);
    p.setPen(theme.muted);
    p.setFont(textFont(11));
    p.drawText(QRectF(32, 616, 576, 30), Qt::AlignLeft | Qt::TextWordWrap,
               "Glass in sun, " + QString::fromStdString(dayText(date)) + ": " + glassDayText(day->windows.front()));
    p.drawText(QRectF(32, 752, 576, 32), Qt::AlignLeft | Qt::TextWordWrap,
               QString::fromStdString(project.sunWishes.empty()
                                          ? wishesText(proposedWishes(d.place.latitude)) + " (proposed)"
                                          : wishesText(project.sunWishes)));
  };
  return writePaper(file, {page, QString::fromStdString(w.name)}, {paint});
}

} // namespace noonward
