#pragma once
// Furniture of a picture: the legend strip with its units, the north needle, the scale bar, result scales.

#include "picture/camera.h"
#include "picture/theme.h"
#include <QPainter>
#include <QString>
#include <vector>

namespace noonward {

/// A range of values and how it is drawn.
struct ResultScale {
  Palette palette = Palette::SunHours;
  double low = 0, high = 8; ///< in `unit`
  double threshold = 2;     ///< marked on the strip; below it cells are dotted
  bool dotBelow = true;
  QString unit = "h"; ///< on the strip and under the pointer
  QString title = "hours of sun";
  QColor color(double value) const;
};
/// Round tick values within the range, three to seven of them.
std::vector<double> ticks(double low, double high);
/// A rounded upper end for a largest value.
double roundedUp(double value);

/// Draws within 'at' (about 300 × 46 px at scale 1).
void paintLegend(QPainter& painter, QRectF at, const ResultScale& scale, const Theme& theme, double size = 1);
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
