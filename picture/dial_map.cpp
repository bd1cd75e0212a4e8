#include "picture/dial_map.h"
#include <cmath>

namespace noonward {

const char* projectionKey(DialProjection p) {
  switch (p) {
  case DialProjection::Equidistant:
    return "equidistant";
  case DialProjection::Stereographic:
    return "stereographic";
  case DialProjection::Orthographic:
    return "orthographic";
  case DialProjection::Flat:
    return "flat";
  }
  return "";
}
std::optional<DialProjection> projectionFromKey(std::string_view key) {
  for (const DialProjection p : allProjections)
    if (key == projectionKey(p)) return p;
  return {};
}

QPointF DialMap::at(double azimuth, double altitude) const {
  if (projection == DialProjection::Flat)
    return {frame.center().x() + frame.width() * wrapPi(azimuth - middle) / (2 * pi),
            frame.bottom() - frame.height() * altitude / (pi / 2)};
  const double zenith = pi / 2 - altitude;
  const double r = frame.width() / 2 *
                   (projection == DialProjection::Stereographic  ? std::tan(zenith / 2)
                    : projection == DialProjection::Orthographic ? std::sin(zenith)
                                                                 : zenith / (pi / 2));
  return frame.center() + QPointF(std::sin(azimuth) * r, -std::cos(azimuth) * r);
}

std::optional<std::pair<double, double>> DialMap::from(QPointF point) const {
  if (projection == DialProjection::Flat) {
    if (!frame.contains(point)) return {};
    return std::pair{wrapTwoPi(middle + 2 * pi * (point.x() - frame.center().x()) / frame.width()),
                     (pi / 2) * (frame.bottom() - point.y()) / frame.height()};
  }
  const QPointF d = point - frame.center();
  const double r = std::hypot(d.x(), d.y()) / (frame.width() / 2);
  if (r > 1) return {};
  const double zenith = projection == DialProjection::Stereographic  ? 2 * std::atan(r)
                        : projection == DialProjection::Orthographic ? std::asin(r)
                                                                     : r * pi / 2;
  return std::pair{wrapTwoPi(std::atan2(d.x(), -d.y())), pi / 2 - zenith};
}

} // namespace noonward
