#include "app/stage/skyline_dial.h"
#include "app/theme/style.h"
#include "core/model/light_model.h"
#include "core/sun/sun_day.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <map>

namespace noonward {

namespace {
/// Plan of the dome: distance from the middle grows evenly from zenith to horizon.
QPointF onDial(QPointF middle, double radius, double azimuth, double altitude) {
  const double r = radius * (1 - altitude / (pi / 2));
  return middle + QPointF(std::sin(azimuth) * r, -std::cos(azimuth) * r);
}
} // namespace

SkylineDial::SkylineDial(Document& document, Studies& studies, QWidget* parent)
    : QWidget(parent), document_(document), studies_(studies) {
  setAccessibleName("Skyline dial");
  setFocusPolicy(Qt::TabFocus);
  setMouseTracking(true);
  setLarge(false);
  connect(&studies_, &Studies::probeChanged, this, &SkylineDial::refresh);
  connect(&document_, &Document::lookingChanged, this, &SkylineDial::refresh);
  hide();
}

void SkylineDial::setLarge(bool large) {
  large_ = large;
  const int d = large ? 420 : 168;
  resize(d + 36, d + 44);
  if (parentWidget()) move(parentWidget()->width() - width() - 8, parentWidget()->height() - height() - 6);
  update();
}

void SkylineDial::refresh() {
  setVisible(document_.looking().probe && studies_.probeResult());
  if (parentWidget()) move(parentWidget()->width() - width() - 8, parentWidget()->height() - height() - 6);
  update();
}

void SkylineDial::paintEvent(QPaintEvent*) {
  const auto r = studies_.probeResult();
  if (!r) return;
  const Theme& t = theme();
  const Project& project = document_.project();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  const double radius = (width() - 36) / 2.0;
  const QPointF m(width() / 2.0, 16 + radius);
  QColor back = t.paper;
  back.setAlpha(235);
  p.setPen(Qt::NoPen);
  p.setBrush(back);
  p.drawEllipse(m, radius + 15, radius + 15);
  p.setBrush(t.raised);
  p.drawEllipse(m, radius, radius);
  if (drawn_ != r || dome_.width() != int(2 * radius)) {
    drawn_ = r;
    const int n = int(2 * radius);
    dome_ = QImage(n, n, QImage::Format_ARGB32_Premultiplied);
    dome_.fill(Qt::transparent);
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
        const double dx = x + 0.5 - radius, dy = y + 0.5 - radius, d = std::hypot(dx, dy);
        if (d >= radius) continue;
        const double altitude = 90 * (1 - d / radius), azimuth = degrees(wrapTwoPi(std::atan2(dx, -dy)));
        const std::uint64_t e = r->dome.at(std::min(359, int(azimuth)), std::min(89, int(altitude)));
        // The skyline's sharp edge beats the cell where they disagree.
        if (r->room >= 0) { // seen from in a room: its surfaces by role, sky and what stands outdoors through the panes
          const int az = std::min(359, int(azimuth)), al = std::min(89, int(altitude));
          const bool own = e && !project.element({e}); // of a room, a window or a shade
          const Role role = r->dome.roleAt(az, al);
          QColor c = t.dark ? QColor("#565C70") : QColor("#A9A29A");
          if (!e)
            c = r->dome.glazed(az, al) ? mixed(QColor("#BFD9E4"), t.meets, 0.15) : QColor("#D9EAF2");
          else if (own)
            c = role == Role::Ceiling   ? mixed(t.raised, t.muted, 0.12)
                : role == Role::Floor   ? mixed(t.raised, t.ink, 0.45)
                : role == Role::Shading ? mixed(t.muted, t.noon, 0.3)
                                        : mixed(t.raised, t.muted, 0.4);
          dome_.setPixelColor(x, y, c);
          continue;
        }
        const SkylineStep& s = r->skyline[std::size_t(std::lround(azimuth * 2)) % 720];
        const bool solid = altitude <= degrees(s.altitude) || (e && altitude > degrees(s.altitude) + 1.5);
        if (!solid) continue;
        QColor c = proposed(e ? e : s.element) ? t.proposedShade : (t.dark ? QColor("#565C70") : QColor("#A9A29A"));
        dome_.setPixelColor(x, y, c);
      }
  }
  p.drawImage(QPointF(m.x() - radius, m.y() - radius), dome_);
  QColor grid = t.muted;
  grid.setAlpha(70);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(grid, 0.8));
  for (int a = 30; a < 90; a += 30) p.drawEllipse(m, radius * (1 - a / 90.0), radius * (1 - a / 90.0));

  const int year = project.site.year;
  if (!knots_ || knotYear_ != year) {
    knots_.emplace(SunKnots::ofYear(year));
    knotYear_ = year;
  }
  const Zone zone = project.zone();
  const Date today = zone.clock(document_.looking().moment).date;
  const auto track = [&](Date date, const QPen& pen) {
    if (!knots_->covers(zone.instant({date, 0}))) return;
    for (const auto& piece : dayTrack(*knots_, project.site.place, zone, date)) {
      QPainterPath line;
      for (std::size_t i = 0; i < piece.size(); ++i) {
        const QPointF q = onDial(m, radius, piece[i].sun.azimuth, std::max(0.0, piece[i].sun.altitude));
        i == 0 ? line.moveTo(q) : line.lineTo(q);
      }
      p.setPen(pen);
      p.drawPath(line);
    }
  };
  for (int month = 1; month <= 12; ++month)
    if (month == 6 || month == 12 || month == 3 || large_) track({year, month, 21}, QPen(grid.darker(120), 0.9));
  track(today, QPen(t.noon, 1.6));
  const SolarPosition s = solarPosition(sunOfDate(document_.looking().moment), project.site.place);
  if (s.altitude > 0) {
    p.setPen(QPen(t.noon, 2));
    p.setBrush(t.raised);
    p.drawEllipse(onDial(m, radius, s.azimuth, s.altitude), large_ ? 7 : 4.5, large_ ? 7 : 4.5);
  }
  p.setPen(QPen(t.ink, 1.2));
  p.setBrush(Qt::NoBrush);
  p.drawEllipse(m, radius, radius);
  p.setFont(textFont(10.5));
  const char* names[] = {"N", "E", "S", "W"};
  for (int k = 0; k < 4; ++k) {
    const QPointF q = onDial(m, radius + 9, k * pi / 2, 0);
    p.setPen(t.muted);
    p.drawText(QRectF(q.x() - 8, q.y() - 8, 16, 16), Qt::AlignCenter, names[k]);
  }
  const QString caption =
      under_.isEmpty() ? QString(r->room >= 0 ? (large_ ? "what the spot sees · click for small" : "what the spot sees")
                                 : large_     ? "skyline at the probe · click for small"
                                              : "skyline at the probe")
                       : under_;
  p.setPen(t.muted);
  p.drawText(QRectF(0, height() - 16, width(), 14), Qt::AlignCenter, caption);
}

void SkylineDial::mousePressEvent(QMouseEvent*) {
  setLarge(!large_);
}

void SkylineDial::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Space)
    setLarge(!large_);
  else
    QWidget::keyPressEvent(e);
}

void SkylineDial::mouseMoveEvent(QMouseEvent* e) {
  under_.clear();
  if (const auto r = studies_.probeResult()) {
    const double radius = (width() - 36) / 2.0;
    const QPointF d = e->position() - QPointF(width() / 2.0, 16 + radius);
    const double l = std::hypot(d.x(), d.y());
    if (l < radius) {
      const double azimuth = degrees(wrapTwoPi(std::atan2(d.x(), -d.y())));
      const SkylineStep& s = r->skyline[std::size_t(std::lround(azimuth * 2)) % 720];
      if (r->room >= 0) {
        const int az = std::min(359, int(azimuth)), al = std::clamp(int(90 * (1 - l / radius)), 0, 89);
        const std::uint64_t seen = r->dome.at(az, al);
        const bool own = seen && !document_.project().element({seen});
        under_ = QString("azimuth %1°, altitude %2° · ").arg(azimuth, 0, 'f', 0).arg(al) +
                 (!r->dome.at(az, al) ? r->dome.glazed(az, al) ? "sky through glass" : "open sky"
                  : own               ? QString(roleName(r->dome.roleAt(az, al))).toLower()
                                      : QString("outdoors, through glass"));
        update();
        return;
      }
      under_ = QString("azimuth %1° · free above %2°").arg(azimuth, 0, 'f', 0).arg(degrees(s.altitude), 0, 'f', 1);
      const std::uint64_t id = r->dome.at(std::min(359, int(azimuth)), std::clamp(int(90 * (1 - l / radius)), 0, 89));
      if (const std::string name = id ? surfaceName(document_.project(), id) : std::string(); !name.empty())
        under_ = QString::fromStdString(name) + QString(" · %1°").arg(azimuth, 0, 'f', 0);
    }
  }
  update();
}

} // namespace noonward
