#pragma once
// Pictures to trace over, decoded: as they are drawn on the stage, and straightened into their plane.

#include "core/model/project.h"
#include "picture/camera.h"
#include <QImage>

namespace noonward {

/// Errors name what is wrong with the picture. A longer side than `most` px is scaled down; `factor`, if given, says by
/// how much.
Expected<QImage> decoded(const Picture& picture, int most = 1 << 15, double* factor = nullptr);
/// Width and height in px without decoding; nothing where it is no picture that can be read.
QSize sizeOf(const Picture& picture);

/// A quad of the plane a picture lies on, with what to read there: homogeneous coordinates in the picture, as parts of
/// its sides.
struct UnderlayQuad {
  std::array<Vec3, 4> corners;               ///< m, round it
  std::array<std::array<float, 3>, 4> reads; ///< x·w, y·w, w
};
/// A plan as a whole; of a photograph what lies within once its pinned rectangle's size around that.
Expected<UnderlayQuad> quadOf(const Underlay& underlay, QSize size);

struct UnderlayCorner {
  std::array<float, 3> at;   ///< m
  std::array<float, 3> read; ///< as in UnderlayQuad
};
/// What is drawn, three corners a triangle: the quad; for a map sheet also the faces of `ground`, on which it is draped
/// (the quad then lies at their lowest, so that it shows only beside them).
std::vector<UnderlayCorner> trianglesOf(const Underlay& underlay, QSize size, const std::vector<ElementPtr>& ground);

/// The plane seen square on: the pinned rectangle, or a plan's whole picture north up, in this many px a metre. Errors:
/// bad pins, no picture, more than 60 million px.
Expected<QImage> straightened(const Underlay& underlay, double pixelsPerMetre);

} // namespace noonward
