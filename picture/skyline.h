#pragma once
// The sky as seen from a spot, in plan: north up, zenith in the middle, altitude even from there to the horizon; what
// stands there filled, what is proposed tinted, the year's tracks of the sun over it.

#include "core/studies/probe.h"
#include "core/sun/sun_day.h"
#include "picture/theme.h"
#include <QImage>
#include <QPainter>

namespace noonward {

/// Place of a direction (rad) on a dial.
QPointF onDial(QPointF middle, double radius, double azimuth, double altitude);

/// What stands around the spot, as a disc of so many px.
QImage skylineDome(const Project& project, const ProbeResult& probe, int diameter, const Theme& theme);

struct SkylineTracks {
  const SunKnots* knots = nullptr; ///< of the site's year
  bool everyMonth = false;         ///< else the solstices and an equinox
  std::optional<Instant> moment;   ///< its day's track and the sun stand out
};
/// Dome, rings of altitude, tracks, and the letters of the sky's sides.
void paintSkyline(QPainter& painter, QPointF middle, double radius, const Project& project, const QImage& dome,
                  const SkylineTracks& tracks, const Theme& theme);

} // namespace noonward
