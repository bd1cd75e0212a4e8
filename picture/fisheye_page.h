#pragma once
// A fisheye as a picture: luminances by colour with their scale, glare sources outlined, the sun's tracks of the year
// on it, and beside it what the eye has of it in figures.

#include "core/model/project.h"
#include "core/studies/fisheye.h"
#include "picture/theme.h"
#include <QImage>
#include <QPainter>

namespace noonward {

/// cd/m²; logarithmic unless said otherwise. Brighter is hatched, darker dotted.
struct LuminanceScale {
  double low = 3, high = 30000;
  bool logarithmic = true;
  double share(double luminance) const; ///< 0…1 within the range
};

/// The pixels alone, clear outside the hemisphere.
QImage fisheyeImage(const Fisheye& fisheye, const LuminanceScale& scale);

struct FisheyePage {
  const Project& project;
  const Fisheye& fisheye;
  QString title;  ///< "Seat 3, looking south"
  QString moment; ///< by the site's clock
  LuminanceScale scale;
  bool tracks = true;
};
/// 1440 × 960 px at `size` 1. The part of a track that stands behind something is dashed.
QImage fisheyePage(const FisheyePage& page, const Theme& theme, double size = 1);

/// Its parts: the hemisphere (or straight-ahead picture) in a square; figures and sources in a column; the strip with
/// its words above and marks below.
void paintFisheye(QPainter& painter, QRectF disc, const FisheyePage& page, const Theme& theme, double size = 1);
void paintFisheyeFigures(QPainter& painter, QRectF box, const FisheyePage& page, const Theme& theme, double size = 1);
void paintLuminanceScale(QPainter& painter, QRectF strip, const LuminanceScale& scale, const Theme& theme,
                         double size = 1);

} // namespace noonward
