#pragma once
// A picture of the model by rays: hidden lines, true parallel shadows, results on surfaces. Needs no graphics card; the
// window uses it where OpenGL is missing, and every exported picture is made by it.

#include "core/base/run_control.h"
#include "picture/cells.h"
#include <QImage>

namespace noonward {

struct RayPictureInput {
  Scene scene;                  ///< what the eye sees (shownScene)
  std::optional<Scene> casters; ///< what casts shade, where that is more than what is seen: the derived model
  Camera camera;
  std::optional<Vec3> sun; ///< unit, drawing axes; no shadows where absent or below the horizon
  std::vector<ElementId> proposed, selected, leftOut;
  std::vector<std::pair<ElementId, std::string>> coloured; ///< "#6A8F5B", by the layer they are on
  const SensorField* painted = nullptr;
  double groundLevel = 0;
};

/// `samples`² rays a pixel. A stopped run gives a null image.
QImage rayPicture(const RayPictureInput& input, const Theme& theme, int width, int height, int samples,
                  RunControl& control);

} // namespace noonward
