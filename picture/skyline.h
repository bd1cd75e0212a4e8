#pragma once
// The sky as seen from a spot, in plan: north up, zenith in the middle, in a projection of choice; what stands there
// filled, what is proposed tinted, the year's tracks of the sun over it.

#include "core/studies/probe.h"
#include "core/sun/sun_day.h"
#include "picture/dial_map.h"
#include "picture/theme.h"
#include <QImage>
#include <QPainter>

namespace noonward {

/// A dial of the sky round a middle.
DialMap dialRound(QPointF middle, double radius, DialProjection projection = DialProjection::Equidistant);

/// What stands around the spot, as a disc of so many px.
QImage skylineDome(const Project& project, const ProbeResult& probe, int diameter, const Theme& theme,
                   DialProjection projection = DialProjection::Equidistant);

struct SkylineTracks {
  const SunKnots* knots = nullptr; ///< of the site's year
  bool everyMonth = false;         ///< else the solstices and an equinox
  std::optional<Instant> moment;   ///< its day's track and the sun stand out
  DialProjection projection = DialProjection::Equidistant;
};
/// Dome, rings of altitude, tracks, and the letters of the sky's sides.
void paintSkyline(QPainter& painter, QPointF middle, double radius, const Project& project, const QImage& dome,
                  const SkylineTracks& tracks, const Theme& theme);

} // namespace noonward
