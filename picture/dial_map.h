#pragma once
// Directions of the sky on paper: plans of the dome, zenith in the middle and north up, or a flat chart of azimuth and
// altitude.

#include "core/base/units.h"
#include <QPointF>
#include <QRectF>
#include <array>
#include <optional>
#include <string_view>

namespace noonward {

/// Plans of the dome, zenith in the middle, or a flat chart of azimuth and altitude.
enum class DialProjection { Equidistant, Stereographic, Orthographic, Flat };
inline constexpr std::array<DialProjection, 4> allProjections{
    DialProjection::Equidistant, DialProjection::Stereographic, DialProjection::Orthographic, DialProjection::Flat};
const char* projectionKey(DialProjection projection); ///< "equidistant"
std::optional<DialProjection> projectionFromKey(std::string_view key);

/// Directions of the sky (rad, true azimuth) to points of a picture and back.
struct DialMap {
  DialProjection projection = DialProjection::Equidistant;
  QRectF frame;       ///< of the dome's circle, or of the chart
  double middle = pi; ///< rad, azimuth in the middle of a flat chart
  QPointF at(double azimuth, double altitude) const;
  std::optional<std::pair<double, double>> from(QPointF point) const; ///< azimuth, altitude; nothing outside
};

} // namespace noonward
