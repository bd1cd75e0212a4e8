#include "picture/skyline.h"
#include "core/model/light_model.h"
#include <QPainterPath>
#include <cmath>
#include <map>

namespace noonward {

DialMap dialRound(QPointF middle, double radius, DialProjection projection) {
  return {projection, QRectF(middle - QPointF(radius, radius), QSizeF(2 * radius, 2 * radius))};
}

QImage skylineDome(const Project& project, const ProbeResult& r, int n, const Theme& t, DialProjection projection) {
  const DialMap map = dialRound({n / 2.0, n / 2.0}, n / 2.0, projection);
  QImage out(n, n, QImage::Format_ARGB32_Premultiplied);
  out.fill(Qt::transparent);
  // Walls, reveals and shades of rooms are as much proposed as the building they are in.
  std::map<std::uint64_t, bool> ofRooms;
  bool all = !project.rooms.empty();
  for (const Room& room : project.rooms) all = (ofRooms[room.id.value] = isProposed(project, room)) && all;
  for (const PlacedOpening& o : placedOpenings(project).openings)
    ofRooms[o.opening.id.value] = ofRooms[project.rooms[o.room].id.value];
  for (const ShadeRule& s : project.shadeRules)
    ofRooms[s.id.value] = all; // at windows of several buildings: what stands before any proposal
  const auto proposed = [&](std::uint64_t id) {
    const ElementPtr element = project.element({id});
    const auto room = ofRooms.find(id);
    return element ? element->proposed : room != ofRooms.end() && room->second;
  };
  for (int y = 0; y < n; ++y)
    for (int x = 0; x < n; ++x) {
      const auto direction = map.from(QPointF(x + 0.5, y + 0.5));
      if (!direction) continue;
      const double azimuth = degrees(direction->first), altitude = degrees(direction->second);
      const std::uint64_t e = r.dome.at(std::min(359, int(azimuth)), std::min(89, int(altitude)));
      // The skyline's sharp edge beats the cell where they disagree.
      if (r.room >= 0) { // seen from in a room: its surfaces by role, sky and what stands outdoors through the panes
        const int az = std::min(359, int(azimuth)), al = std::min(89, int(altitude));
        const bool own = e && !project.element({e}); // of a room, a window or a shade
        const Role role = r.dome.roleAt(az, al);
        QColor c = t.dark ? QColor("#565C70") : QColor("#A9A29A");
        if (!e)
          c = r.dome.glazed(az, al) ? mixed(QColor("#BFD9E4"), t.meets, 0.15) : QColor("#D9EAF2");
        else if (own)
          c = role == Role::Ceiling   ? mixed(t.raised, t.muted, 0.12)
              : role == Role::Floor   ? mixed(t.raised, t.ink, 0.45)
              : role == Role::Shading ? mixed(t.muted, t.noon, 0.3)
                                      : mixed(t.raised, t.muted, 0.4);
        out.setPixelColor(x, y, c);
        continue;
      }
      const SkylineStep& s = r.skyline[std::size_t(std::lround(azimuth * 2)) % 720];
      const bool solid = altitude <= degrees(s.altitude) || (e && altitude > degrees(s.altitude) + 1.5);
      if (!solid) continue;
      QColor c = proposed(e ? e : s.element) ? t.proposedShade : (t.dark ? QColor("#565C70") : QColor("#A9A29A"));
      out.setPixelColor(x, y, c);
    }
  return out;
}

void paintSkyline(QPainter& p, QPointF m, double radius, const Project& project, const QImage& dome,
                  const SkylineTracks& tracks, const Theme& t) {
  p.setPen(Qt::NoPen);
  p.setBrush(t.raised);
  p.drawEllipse(m, radius, radius);
  p.drawImage(QRectF(m.x() - radius, m.y() - radius, 2 * radius, 2 * radius), dome);
  QColor grid = t.muted;
  grid.setAlpha(70);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(grid, 0.8));
  const DialMap map = dialRound(m, radius, tracks.projection);
  for (int a = 30; a < 90; a += 30) {
    const double ring = m.y() - map.at(0, radians(a)).y();
    p.drawEllipse(m, ring, ring);
  }

  const int year = project.site.year;
  const Zone zone = project.zone();
  const auto track = [&](Date date, const QPen& pen) {
    if (!tracks.knots->covers(zone.instant({date, 0}))) return;
    for (const auto& piece : dayTrack(*tracks.knots, project.site.place, zone, date)) {
      QPainterPath line;
      for (std::size_t i = 0; i < piece.size(); ++i) {
        const QPointF q = map.at(piece[i].sun.azimuth, std::max(0.0, piece[i].sun.altitude));
        i == 0 ? line.moveTo(q) : line.lineTo(q);
      }
      p.setPen(pen);
      p.drawPath(line);
    }
  };
  for (int month = 1; month <= 12; ++month)
    if (month == 6 || month == 12 || month == 3 || tracks.everyMonth)
      track({year, month, 21}, QPen(grid.darker(120), 0.9));
  if (tracks.moment) {
    track(zone.clock(*tracks.moment).date, QPen(t.noon, 1.6));
    const SolarPosition s = solarPosition(sunOfDate(*tracks.moment), project.site.place);
    if (s.altitude > 0) {
      p.setPen(QPen(t.noon, 2));
      p.setBrush(t.raised);
      const double ring = tracks.everyMonth ? 7 : 4.5;
      p.drawEllipse(map.at(s.azimuth, s.altitude), ring, ring);
    }
  }
  p.setPen(QPen(t.ink, 1.2));
  p.setBrush(Qt::NoBrush);
  p.drawEllipse(m, radius, radius);
  p.setFont(textFont(10.5));
  const char* names[] = {"N", "E", "S", "W"};
  for (int k = 0; k < 4; ++k) {
    const QPointF q = dialRound(m, radius + 9).at(k * pi / 2, 0);
    p.setPen(t.muted);
    p.drawText(QRectF(q.x() - 8, q.y() - 8, 16, 16), Qt::AlignCenter, names[k]);
  }
}

} // namespace noonward
