#pragma once
// Furniture of a picture: the legend strip with its units, the north needle, the scale bar, result scales.

#include "core/studies/sensor_field.h"
#include "picture/camera.h"
#include "picture/theme.h"
#include <QPainter>
#include <QString>
#include <vector>

namespace noonward {

/// The colour of a value on its scale.
QColor colorOf(const FieldScale& scale, double value);
/// Round tick values within the range, three to seven of them.
std::vector<double> ticks(double low, double high);

/// Draws within 'at' (about 300 × 46 px at scale 1).
void paintLegend(QPainter& painter, QRectF at, const FieldScale& scale, const Theme& theme, double size = 1);
/// Needle toward true north as the camera shows it, with the angle of the drawing written.
void paintNorth(QPainter& painter, QPointF at, const Camera& camera, double northAngle, const Theme& theme,
                double size = 1);
/// A bar of a round length; parallel views only.
void paintScaleBar(QPainter& painter, QPointF at, const Camera& camera, double heightPixels, const QString& unit,
                   double metresPerUnit, const Theme& theme, double size = 1);
/// Pattern laid over cells outside the range or below the threshold: dots below, diagonals above.
QBrush belowPattern(const QColor& color);
QBrush abovePattern(const QColor& color);

} // namespace noonward
