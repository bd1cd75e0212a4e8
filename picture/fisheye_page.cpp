#include "picture/fisheye_page.h"
#include "core/sun/solar_position.h"
#include "core/sun/sun_path.h"
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

double LuminanceScale::share(double l) const {
  if (logarithmic) return std::log(std::max(l, 1e-9) / low) / std::log(high / low);
  return (l - low) / (high - low);
}

QImage fisheyeImage(const Fisheye& f, const LuminanceScale& scale) {
  const int n = f.map.size;
  QImage out(n, n, QImage::Format_ARGB32_Premultiplied);
  out.fill(Qt::transparent);
  for (int y = 0; y < n; ++y)
    for (int x = 0; x < n; ++x) {
      const float l = f.luminance[std::size_t(y) * std::size_t(n) + std::size_t(x)];
      if (std::isnan(l)) continue;
      const double t = scale.share(double(l));
      QColor c = paletteColor(Palette::Illuminance, std::clamp(t, 0.0, 1.0));
      if (t > 1 && (x + y) % 8 < 2) c = QColor("#8B5A1A");          // above: diagonals
      if (t < 0 && x % 6 == 0 && y % 6 == 0) c = QColor("#7D86A8"); // below: dots
      out.setPixelColor(x, y, c);
    }
  return out;
}

namespace {

QString q(const std::string& text) {
  return QString::fromStdString(text);
}

/// "3 210", "1.62 million".
QString threeFigures(double v) {
  if (v >= 999'500) return q(fmt::format("{:.3g} million", v / 1e6));
  const double unit = v >= 1 ? std::pow(10, std::max(0.0, std::floor(std::log10(v)) - 2)) : 1;
  QString text = QString::number(std::llround(std::round(v / unit) * unit));
  for (qsizetype at = text.size() - 3; at > 0; at -= 3) text.insert(at, QChar(0x2009));
  return text;
}

/// Tracks of the sun on the 21st of months, as far as the eye looks that way.
void paintTracks(QPainter& p, const FisheyePage& page, QRectF disc, const Theme& t, double k) {
  const Site& site = page.project.site;
  const Zone zone = page.project.zone();
  const FisheyeMap& map = page.fisheye.map;
  const double scale = disc.width() / map.size;
  const auto spot = [&](Vec2 px) { return disc.topLeft() + QPointF(px.x, px.y) * scale; };
  p.save();
  QPainterPath clip;
  if (map.projection == FisheyeProjection::Perspective)
    clip.addRect(disc);
  else
    clip.addEllipse(disc);
  p.setClipPath(clip);
  const SunKnots knots = SunKnots::ofYear(site.year);
  p.setFont(figureFont(9.5 * k));
  for (int month = 1; month <= 12; ++month) {
    const bool named = month == 3 || month == 6 || month == 12;
    QPolygonF open, hidden;
    const auto flush = [&](QPolygonF& line, bool dashed) {
      if (line.size() > 1) {
        p.setPen(QPen(t.noon, (named ? 1.6 : 0.8) * k, dashed ? Qt::DotLine : Qt::SolidLine));
        p.drawPolyline(line);
      }
      line.clear();
    };
    bool told = false;
    for (int minute = 0; minute <= 1440; minute += 10) {
      const Instant at = zone.instant({{site.year, month, 21}, 60.0 * minute});
      const SolarPosition sun = solarPosition(knots.at(at), site.place);
      const auto px = sun.altitude > 0 ? map.pixel(toModel(sun.direction, site.northAngle)) : std::nullopt;
      const bool inside = px && px->x >= 0 && px->y >= 0 && px->x < map.size && px->y < map.size;
      if (!inside) {
        flush(open, false);
        flush(hidden, true);
        continue;
      }
      const std::size_t i = std::size_t(px->y) * std::size_t(map.size) + std::size_t(px->x);
      const bool behind = page.fisheye.seen[i] != 0;
      (behind ? hidden : open) << spot(*px);
      if (behind)
        flush(open, false);
      else
        flush(hidden, true);
      if (named && minute % 60 == 0) {
        p.setPen(Qt::NoPen);
        p.setBrush(t.noon);
        p.drawEllipse(spot(*px), 2.2 * k, 2.2 * k);
        if (minute % 180 == 0) {
          const QString hour = QString::number(minute / 60);
          const double w = QFontMetricsF(p.font()).horizontalAdvance(hour) + 4 * k;
          const QRectF box(spot(*px) + QPointF(4 * k, -13 * k), QSizeF(w, 12 * k));
          QColor paper = t.paper;
          paper.setAlpha(190);
          p.fillRect(box, paper);
          p.setPen(t.ink);
          p.drawText(box, Qt::AlignCenter, hour);
        }
        if (!told && minute % 60 == 0) {
          static constexpr std::array<const char*, 13> names{"", "", "", "21 Mar", "", "",      "21 Jun",
                                                             "", "", "", "",       "", "21 Dec"};
          const QString name = names[std::size_t(month)];
          const QRectF box(spot(*px) + QPointF(5 * k, 2 * k),
                           QSizeF(QFontMetricsF(p.font()).horizontalAdvance(name) + 4 * k, 12 * k));
          QColor paper = t.paper;
          paper.setAlpha(190);
          p.fillRect(box, paper);
          p.setPen(t.ink);
          p.drawText(box, Qt::AlignCenter, name);
          told = true;
        }
      }
    }
    flush(open, false);
    flush(hidden, true);
  }
  p.restore();
}

/// A ring of the source's solid angle, with its number.
void paintSources(QPainter& p, const FisheyePage& page, QRectF disc, const Theme& t, double k) {
  const double scale = disc.width() / page.fisheye.map.size;
  p.setFont(figureFont(10 * k, true));
  std::size_t number = 0;
  for (const GlareSource& s : page.fisheye.glare.sources) {
    if (++number > 9) break;
    const auto px = page.fisheye.map.pixel(s.direction);
    if (!px) continue;
    const QPointF at = disc.topLeft() + QPointF(px->x, px->y) * scale;
    const double radius = std::max(5.0 * k, std::acos(1 - s.solidAngle / (2 * pi)) / (pi / 2) * disc.width() / 2);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(255, 255, 255, 200), 3 * k));
    p.drawEllipse(at, radius, radius);
    p.setPen(QPen(t.short_, 1.5 * k));
    p.drawEllipse(at, radius, radius);
    const QRectF box(at + QPointF(radius * 0.7, -radius * 0.7 - 14 * k), QSizeF(15 * k, 14 * k));
    p.setPen(Qt::NoPen);
    p.setBrush(t.short_);
    p.drawRoundedRect(box, 2 * k, 2 * k);
    p.setPen(Qt::white);
    p.drawText(box, Qt::AlignCenter, QString::number(number));
  }
}

} // namespace

void paintLuminanceScale(QPainter& p, QRectF at, const LuminanceScale& scale, const Theme& t, double k) {
  for (int x = 0; x < int(at.width()); ++x)
    p.fillRect(QRectF(at.left() + x, at.top(), 1.5, at.height()),
               paletteColor(Palette::Illuminance, (x + 0.5) / at.width()));
  p.setPen(QPen(t.rule, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(at);
  p.setFont(figureFont(10 * k));
  std::vector<double> marks;
  if (scale.logarithmic) {
    for (double v = std::pow(10, std::ceil(std::log10(scale.low) - 1e-9)); v <= scale.high * 1.0001; v *= 10)
      marks.push_back(v);
  } else {
    for (int i = 0; i <= 4; ++i) marks.push_back(scale.low + (scale.high - scale.low) * i / 4);
  }
  p.setPen(t.ink);
  for (double v : marks) {
    const double x = at.left() + at.width() * std::clamp(scale.share(v), 0.0, 1.0);
    p.drawLine(QPointF(x, at.bottom()), QPointF(x, at.bottom() + 4 * k));
    p.drawText(QRectF(x - 40 * k, at.bottom() + 4 * k, 80 * k, 14 * k), Qt::AlignHCenter | Qt::AlignTop,
               q(fmt::format("{:g}", v)));
  }
  p.setFont(textFont(11 * k));
  p.setPen(t.muted);
  p.drawText(QRectF(at.left(), at.top() - 18 * k, at.width(), 16 * k), Qt::AlignLeft,
             q(fmt::format("luminance, cd/m², {} · above {:g} hatched, below {:g} dotted",
                           scale.logarithmic ? "logarithmic" : "linear", scale.high, scale.low)));
}

QImage fisheyePage(const FisheyePage& page, const Theme& t, double k) {
  const Fisheye& f = page.fisheye;
  QImage out(int(1440 * k), int(960 * k), QImage::Format_ARGB32_Premultiplied);
  out.fill(t.paper);
  QPainter p(&out);
  p.setRenderHint(QPainter::Antialiasing);
  p.setRenderHint(QPainter::SmoothPixmapTransform);
  const double rim = 36 * k;
  p.setPen(t.ink);
  p.setFont(titleFont(24 * k));
  p.drawText(QPointF(rim, 50 * k), page.title);
  p.setFont(textFont(12.5 * k));
  p.setPen(t.muted);
  p.drawText(QPointF(rim, 72 * k), (page.moment.isEmpty() ? QString() : page.moment + " · ") + q(f.sky));
  paintFisheye(p, QRectF(rim, 92 * k, 780 * k, 780 * k), page, t, k);
  paintLuminanceScale(p, QRectF(rim, 912 * k, 420 * k, 12 * k), page.scale, t, k);
  const double left = 860 * k, width = out.width() - left - rim;
  paintFisheyeFigures(p, QRectF(left, 110 * k, width, 780 * k), page, t, k);
  p.setFont(textFont(11 * k));
  p.setPen(t.muted);
  p.drawText(QRectF(left, out.height() - 40 * k, width, 18 * k), Qt::AlignRight,
             q(fmt::format("{} · run {}", page.project.site.name, f.key.fingerprint())));
  return out;
}

void paintFisheye(QPainter& p, QRectF disc, const FisheyePage& page, const Theme& t, double k) {
  p.drawImage(disc, fisheyeImage(page.fisheye, page.scale));
  if (page.tracks) paintTracks(p, page, disc, t, k);
  if (page.fisheye.map.projection == FisheyeProjection::Perspective) return;
  paintSources(p, page, disc, t, k);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.muted, 1));
  p.drawEllipse(disc);
}

void paintFisheyeFigures(QPainter& p, QRectF box, const FisheyePage& page, const Theme& t, double k) {
  const Fisheye& f = page.fisheye;
  const double left = box.left(), width = box.width();
  double y = box.top();
  const auto line = [&](const QString& what, const QString& figure) {
    p.setFont(textFont(13 * k));
    p.setPen(t.muted);
    p.drawText(QRectF(left, y, width * 0.55, 22 * k), Qt::AlignLeft | Qt::AlignVCenter, what);
    p.setFont(figureFont(13 * k));
    p.setPen(t.ink);
    p.drawText(QRectF(left + width * 0.4, y, width * 0.6, 22 * k), Qt::AlignRight | Qt::AlignVCenter, figure);
    y += 24 * k;
  };
  const auto paragraph = [&](const QString& text, const QColor& ink) {
    p.setFont(textFont(12 * k));
    p.setPen(ink);
    const QRectF box(left, y, width, 400 * k);
    QRectF used;
    p.drawText(box, Qt::AlignLeft | Qt::TextWordWrap, text, &used);
    y += used.height() + 8 * k;
  };
  const Glare& g = f.glare;
  if (f.map.projection != FisheyeProjection::Perspective) {
    p.setFont(titleFont(17 * k));
    p.setPen(t.ink);
    p.drawText(QRectF(left, y, width, 26 * k), Qt::AlignLeft,
               q(fmt::format("DGP {}: {}", g.dgpText(), glareWord(g.dgp))));
    y += 34 * k;
    line("Illuminance at the eye, Ev", q(fmt::format("{:.0f} ± {:.0f} lx", g.ev, g.evError)));
    line("Mean luminance", q(fmt::format("{:.0f} cd/m²", g.mean)));
    line("By Ev alone", q(fmt::format("{:.3f}", g.dgp - g.contrast)));
    line("By contrast", q(fmt::format("{:.3f}", g.contrast)));
    line("Sources from", q(fmt::format("{:.0f} cd/m²", g.threshold)));
    y += 4 * k;
    if (const std::string doubt = g.rangeText(); !doubt.empty()) paragraph(q(doubt), t.short_);
    p.setFont(titleFont(17 * k));
    p.setPen(t.ink);
    p.drawText(QRectF(left, y, width, 26 * k), Qt::AlignLeft, g.sources.empty() ? "No glare source" : "Glare sources");
    y += 30 * k;
    double all = 0;
    for (const GlareSource& s : g.sources) all += s.weight();
    if (!g.sources.empty()) {
      const std::array<double, 5> columns{0.0, 0.09, 0.36, 0.6, 0.8};
      const auto row = [&](const std::array<QString, 5>& cells, bool head) {
        p.setFont(head ? textFont(11 * k) : figureFont(12 * k));
        p.setPen(head ? t.muted : t.ink);
        for (std::size_t c = 0; c < 5; ++c) {
          const double from = left + width * columns[c], to = left + width * (c < 4 ? columns[c + 1] : 1.0);
          p.drawText(QRectF(from, y, to - from - 6 * k, 20 * k),
                     (c == 0 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter, cells[c]);
        }
        y += 21 * k;
      };
      row({"", "cd/m²", "sr", "position", "of contrast"}, true);
      p.setPen(QPen(t.rule, 1));
      p.drawLine(QPointF(left, y), QPointF(left + width, y));
      std::size_t number = 0;
      for (const GlareSource& s : g.sources) {
        if (++number > 9) break;
        row({s.sun ? "sun" : QString::number(number), threeFigures(s.luminance), q(fmt::format("{:.4f}", s.solidAngle)),
             q(fmt::format("{:.2f}", s.position)), q(fmt::format("{:.0f} %", all > 0 ? 100 * s.weight() / all : 0))},
            false);
      }
      if (g.sources.size() > 9) paragraph(q(fmt::format("{} more", g.sources.size() - 9)), t.muted);
    }
  }
  y += 8 * k;
  const double azimuth = std::atan2(f.map.eye.forward.x, f.map.eye.forward.y) + page.project.site.northAngle;
  paragraph(q(fmt::format("Line of sight: azimuth {:.0f}° (true), altitude {:.0f}°; {}, {} px. The lines are the sun's "
                          "on the 21st of each month by the "
                          "site's clock; dotted where something stands before it. ± is numerical only.",
                          degrees(wrapTwoPi(azimuth)), degrees(std::asin(std::clamp(f.map.eye.forward.z, -1.0, 1.0))),
                          fisheyeProjectionKey(f.map.projection), f.map.size)),
            t.muted);
}

} // namespace noonward
